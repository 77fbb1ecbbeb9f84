package repair

import "zetanum/core/line"

// A Question is what is likely for many cells of a column and can be settled with
// one answer.
type Question struct {
	*line.FindingCount
	Ask string
}

// Likely returns examples of what a yes would write.
func (q *Question) Likely() (examples []line.Example) {
	for _, e := range q.Examples {
		if e.After != "" {
			examples = append(examples, e)
		}
	}
	return examples
}

// Questions returns what can be asked, in the order of the columns.
func (r *Result) Questions() (list []Question) {
	for i := range r.Report.Found {
		f := &r.Report.Found[i]
		if ask := f.Code.Entry().Ask; ask != "" && f.Proposed > 0 {
			list = append(list, Question{f, ask})
		}
	}
	return list
}

// Listed returns how many lines the list of that name has.
func (r *Result) Listed(name string) int {
	for i, l := range r.Lists {
		if l.Name == name && i < len(r.Report.Listed) {
			return r.Report.Listed[i]
		}
	}
	return 0
}
