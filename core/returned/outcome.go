package returned

import (
	_ "embed"
	"slices"
	"strings"
	"sync"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/imagelink"
	"zetanum/core/sheet"
)

// An Outcome is what became of a row in the shop.
type Outcome uint8

// The outcomes.
const (
	NoOutcome Outcome = iota
	Taken             // it is in the shop now
	Skipped           // the shop passed it over, because it is there already
	Refused
)

var outcomeNames = [...]string{"", "taken", "skipped", "refused"}

// String returns the word for the outcome.
func (o Outcome) String() string { return outcomeNames[o] }

// ParseOutcome returns the outcome of that word.
func ParseOutcome(word string) Outcome { return Outcome(max(0, slices.Index(outcomeNames[:], word))) }

// A Said is what the shop has said of a row.
type Said struct {
	Outcome
	Remark string
	Known  []string // the cells by which a person knows the product
}

// AboutPicture reports whether the remark is about a picture.
func (s *Said) AboutPicture() bool {
	words := vocabulary()["picture"]
	for _, w := range strings.FieldsFunc(strings.ToLower(s.Remark), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if words[w] || imagelink.IsType(w) {
			return true
		}
	}
	return false
}

//go:embed outcomes.txt
var outcomesText string

// vocabulary are the words of outcomes.txt, by what they mean.
var vocabulary = sync.OnceValue(func() map[string]map[string]bool {
	words := make(map[string]map[string]bool)
	for line := range strings.Lines(outcomesText) {
		name, list, found := strings.Cut(strings.TrimSpace(line), ": ")
		if !found || strings.HasPrefix(line, "#") {
			continue
		}
		if words[name] == nil {
			words[name] = make(map[string]bool)
		}
		for word := range strings.SplitSeq(list, ", ") {
			words[name][plain(word)] = true
		}
	}
	return words
})

// plain returns a text in lower case with single spaces for all that is no letter.
func plain(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) }), " ")
}

// outcomeOf reads what a cell says of a row, and what it says behind that. The longest phrase
// counts: "not imported" is none that was imported.
func outcomeOf(cell string) (o Outcome, rest string) {
	words := vocabulary()
	text := plain(cell)
	for end := len(text); end > 0; end = strings.LastIndexByte(text[:end], ' ') {
		for outcome := Taken; outcome <= Refused; outcome++ {
			if words[outcome.String()][text[:end]] {
				return outcome, behind(cell, text[:end])
			}
		}
	}
	return NoOutcome, ""
}

// behind returns what stands in a cell behind the words with which it begins.
func behind(cell, words string) string {
	letters := 0
	for _, r := range words {
		if r != ' ' {
			letters++
		}
	}
	for i, r := range cell {
		if letters == 0 {
			return strings.TrimLeft(cell[i:], " \t:;,.–—-")
		}
		if unicode.IsLetter(r) || unicode.IsMark(r) {
			letters--
		}
	}
	return ""
}

// A Declared names the columns of a result of the shop; "" for what is to be found.
type Declared struct{ Outcome, Remark string }

// A result is where in a table the shop says what became of rows.
type result struct {
	outcome int   // -1 if a remark says that a row was refused
	remarks []int // columns
}

// outcomeShare is which part of the filled cells of a column, in percent, say an outcome where it
// is the one that does.
const outcomeShare = 90

// resultIn looks whether a table is a result of the shop.
func resultIn(table, source *sheet.Table, said Declared) (r result, ok bool, err error) {
	r.outcome = -1
	if r.outcome, err = named(table, said.Outcome); err != nil {
		return r, false, err
	}
	remark, err := named(table, said.Remark)
	if err != nil {
		return r, false, err
	}
	best := 0
	for col, h := range table.Columns.Headings[:table.Columns.Own()] {
		own := slices.ContainsFunc(source.Columns.Headings[:source.Columns.Own()], func(o string) bool { return columns.Same(o, h) })
		filled, telling := 0, 0
		for _, cells := range table.Sample {
			if col < len(cells) && strings.TrimSpace(cells[col]) != "" {
				filled++
				if o, _ := outcomeOf(cells[col]); o != NoOutcome {
					telling++
				}
			}
		}
		switch {
		case own || col == r.outcome:
		case said.Outcome == "" && telling > best && 100*telling >= outcomeShare*filled:
			r.outcome, best = col, telling
		case isRemark(h):
			r.remarks = append(r.remarks, col)
		}
	}
	r.remarks = slices.DeleteFunc(r.remarks, func(col int) bool { return col == r.outcome })
	if remark >= 0 {
		r.remarks = []int{remark}
	}
	return r, r.outcome >= 0 || remark >= 0, nil
}

func named(table *sheet.Table, heading string) (col int, err error) {
	if heading == "" {
		return -1, nil
	}
	if col = columns.Find(&table.Columns, heading); col < 0 {
		err = &sheet.Error{File: table.Name, Err: sheet.ErrNoColumn, More: heading,
			Do: "The headings are: " + strings.Join(table.Columns.Headings, ", ") + "."}
	}
	return col, err
}

// isRemark reports whether a heading names what the shop says.
func isRemark(heading string) bool {
	words := vocabulary()["remark"]
	text := plain(heading)
	if words[text] {
		return true
	}
	for w := range strings.SplitSeq(text, " ") {
		if words[w] || vocabulary()["refused"][w] {
			return true
		}
	}
	return false
}

// of returns what the shop says of a row of its result.
func (r *result) of(row *catalogue.Row) (s Said) {
	var remarks []string
	if r.outcome >= 0 {
		rest := ""
		if s.Outcome, rest = outcomeOf(row.Cell(r.outcome)); rest != "" {
			remarks = append(remarks, rest)
		}
	}
	for _, col := range r.remarks {
		if text := strings.TrimSpace(row.Cell(col)); text != "" {
			remarks = append(remarks, text)
		}
	}
	if r.outcome < 0 {
		if s.Outcome = Taken; remarks != nil {
			s.Outcome = Refused
		}
	}
	s.Remark = strings.Clone(strings.Join(remarks, "; "))
	return s
}
