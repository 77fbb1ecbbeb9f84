package sections

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// Answers are what a person has said to findings, once and for all: [answers]. Each is
// written as [ParseAnswer] reads it.
type Answers struct {
	Yes   []string `toml:"yes" json:"yes,omitempty"`
	No    []string `toml:"no" json:"no,omitempty"`
	Keep  []string `toml:"keep" json:"keep,omitempty"`
	Blank []string `toml:"blank" json:"blank,omitempty"`
	Aside []string `toml:"aside" json:"aside,omitempty"`
	Hold  []string `toml:"hold" json:"hold,omitempty"`
	// Other are answers that name a value: FINDING=HEADING:VALUE.
	Other []string `toml:"other" json:"other,omitempty"`
}

// lists returns the lists with their keys and what they answer, in the order of the reference.
func (a *Answers) lists() []answerList {
	return []answerList{
		{"yes", catalogue.Yes, &a.Yes}, {"no", catalogue.No, &a.No}, {"keep", catalogue.Keep, &a.Keep},
		{"blank", catalogue.Blank, &a.Blank}, {"aside", catalogue.LeaveOut, &a.Aside}, {"hold", catalogue.Hold, &a.Hold},
		{"other", catalogue.Unanswered, &a.Other},
	}
}

type answerList struct {
	key    string
	answer catalogue.Answer
	words  *[]string
}

// Decisions returns what the lists say; what is wrong with them [Answers] has been checked for.
func (a *Answers) Decisions() (said catalogue.Decisions) {
	for _, list := range a.lists() {
		for _, word := range *list.words {
			if d, err := ParseAnswer(list.answer, word); err == nil {
				said = append(said, d)
			}
		}
	}
	return said
}

// ParseAnswer reads to what an answer is said: FINDING or FINDING=HEADING. With
// [catalogue.Unanswered] the answer stands behind: FINDING=HEADING:ANSWER, where that may be
// a value, too. The error says what the finding takes instead.
func ParseAnswer(answer catalogue.Answer, s string) (d catalogue.Decision, err error) {
	to, value := s, ""
	if answer == catalogue.Unanswered {
		i := strings.LastIndexByte(s, ':')
		if i < 0 || strings.TrimSpace(s[i+1:]) == "" {
			return d, fmt.Errorf(`%q: write it as FINDING:ANSWER or FINDING=HEADING:ANSWER, for example barcode.rounded=EAN:blank`, s)
		}
		to, value = s[:i], strings.TrimSpace(s[i+1:])
		if word, ok := catalogue.ParseAnswer(value); ok {
			answer, value = word, ""
		}
	}
	name, column, _ := strings.Cut(to, "=")
	code, ok := catalogue.FindCode(strings.TrimSpace(name))
	if !ok {
		return d, fmt.Errorf("there is no finding %q%s", name, text.DidYouMean(strings.ToLower(name), findingNames()))
	}
	if _, known := charset.Parse(value); value != "" && code == catalogue.TextUndecided && !known {
		return d, fmt.Errorf("the answer to %s names the encoding %q, and there is none of that name; there are: %s", code, value,
			strings.Join(charset.Names(), ", "))
	}
	d = catalogue.Decision{Finding: code, Column: strings.TrimSpace(column), Value: value, Answer: answer}
	switch {
	case value != "" && code.Entry().Value == "":
		return d, fmt.Errorf("%s does not take the answer %q; %s", code, value, Takes(code, d.Column))
	case value == "" && !code.Takes(answer) && (answer == catalogue.Yes || answer == catalogue.No):
		return d, fmt.Errorf("%s asks no question; %s", code, Takes(code, d.Column))
	case value == "" && !code.Takes(answer):
		return d, fmt.Errorf("%s does not take the answer %q; %s", code, answer, Takes(code, d.Column))
	}
	return d, nil
}

func findingNames() (names []string) {
	for _, c := range catalogue.Codes() {
		names = append(names, c.String())
	}
	return names
}

// Takes says in words what can be answered to a finding, and otherwise what to do.
func Takes(code catalogue.Code, column string) string {
	to := code.String()
	if column != "" {
		to += "=" + column
	}
	var ways []string
	say := func(answer catalogue.Answer, format, does string) {
		if code.Takes(answer) {
			ways = append(ways, fmt.Sprintf(format, to)+" "+does)
		}
	}
	say(catalogue.Yes, "the setting ‹yes› %s", "takes what is likely")
	say(catalogue.Keep, "the setting ‹answer› %s:keep", "lets it go out as it is")
	say(catalogue.Blank, "the setting ‹answer› %s:blank", "writes its cells empty")
	say(catalogue.LeaveOut, "the setting ‹answer› %s:aside", "sets its products aside")
	if value := code.Entry().Value; value != "" {
		ways = append(ways, fmt.Sprintf("the setting ‹answer› %s:%s takes that", to, value))
	}
	if ways == nil {
		return "it holds nothing. " + code.Entry().Do
	}
	return strings.Join(ways, ", ") + ". " + code.Entry().Do
}

// answersSection is what a person has said to findings.
type answersSection struct {
	plain
	rules *Answers
}

func (*answersSection) Parts() []rulebook.Part {
	key := func(name, says, example string) rulebook.Key {
		return rulebook.Key{Name: name, Says: says, Example: name + " = [\"" + example + "\"]"}
	}
	return []rulebook.Part{{
		Name: "answers", Line: "[answers]",
		Says: "What you have said to findings, once and for all: each is the name of a finding, or FINDING=HEADING for one column. " +
			"The setting ‹remember› writes here what was answered on the command line, which counts more.",
		Keys: []rulebook.Key{
			key("yes", "Questions answered with yes: what is likely is written.", "barcode.last-zero"),
			key("no", "Questions answered with no: the cells stay as they are, and it is not asked again.", "barcode.leading-zero"),
			key("keep", "What is found goes out as it is in the file, and holds nothing.", "barcode.check-digit"),
			key("blank", "Its cells go out empty; answered.csv lists them.", "barcode.rounded=EAN"),
			key("aside", "Its products are set aside.", "row.long"),
			key("hold", "Its products are held, where the finding holds nothing by itself.", "text.look-alike"),
			key("other", "Answers that name a value: FINDING:VALUE or FINDING=HEADING:VALUE.", "text.undecided=Title:windows-1252"),
		},
	}}
}

func (s *answersSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "answers", Into: s.rules}}
}

func (s *answersSection) Check() (problems []rulebook.Problem) {
	for _, list := range s.rules.lists() {
		for _, word := range *list.words {
			if _, err := ParseAnswer(list.answer, word); err != nil {
				problems = append(problems, rulebook.Problem{Part: "answers", Problem: catalogue.Problem{Key: list.key, Text: err.Error()}})
			}
		}
	}
	return problems
}

// Demanded returns the columns that the template demands, and those that fill them: no answer writes their cells empty, either.
func (s *Sheet) Demanded() (demanded catalogue.ColumnSet) {
	if s.shape == nil {
		return demanded
	}
	for n := range s.shape.cols {
		if c := &s.shape.cols[n]; c.need {
			demanded.Add(c.col, c.from)
		}
	}
	return demanded
}

// NotEmptied returns the columns whose cells no answer writes empty.
func (s *Sheet) NotEmptied() catalogue.ColumnSet {
	not := s.Keys()
	not.AddAll(s.Demanded())
	return not
}

// Keys returns the columns by which products are told apart: no answer writes their cells empty.
func (s *Sheet) Keys() catalogue.ColumnSet {
	keys := catalogue.ColumnsOf(s.Key.Names().List()...)
	for _, f := range []catalogue.Field{catalogue.SKU, catalogue.ParentSKU, catalogue.Slug} {
		keys.Add(s.Columns.All(f)...)
	}
	return keys
}

// answers returns what becomes of what is found; nil if nobody has said anything.
func (s *Sheet) answers() (*line.Answers, error) {
	for i := range s.Said { // here all columns are there, those of a template, too
		name := s.Said[i].Column
		if name != "" && !slices.ContainsFunc(s.Columns.Headings, func(h string) bool { return columns.Same(h, name) }) {
			return nil, fmt.Errorf("the column %q: %w; the headings are: %s", name, ErrOnly, strings.Join(s.Columns.Headings, ", "))
		}
	}
	ruling := s.Decisions.Ruling()
	open, err := s.openCells()
	if err != nil {
		return nil, err
	}
	if len(ruling) == 0 && len(open) == 0 {
		return nil, nil
	}
	a := new(line.Answers)
	keys, demanded := s.Keys(), s.Demanded()
	for _, d := range ruling {
		a.Codes[d.Finding] = true
		if d.Answer == catalogue.Blank && d.Column != "" && keys.Has(columns.Find(&s.Columns, d.Column)) {
			return nil, columns.Refuse("the answer to %s would write %q empty, by which products are told apart", d.Finding, d.Column)
		}
		if d.Answer == catalogue.Blank && d.Column != "" && demanded.Has(columns.Find(&s.Columns, d.Column)) {
			return nil, columns.Refuse("the answer to %s would write %q empty, which the template demands; let it stay held, keep it, or set its products aside", d.Finding, d.Column)
		}
	}
	for _, code := range catalogue.Codes() {
		a.Codes[code] = a.Codes[code] || len(open) > 0 && ofCells(code)
	}
	sku, tells := s.Columns.First(catalogue.SKU), s.Key.Columns()
	a.Of = func(f *catalogue.Finding, row *catalogue.Row) (catalogue.Answer, catalogue.Ground) {
		heading, cell := "", ""
		if f.Col >= 0 && f.Col < len(s.Columns.Headings) {
			heading, cell = s.Columns.Headings[f.Col], row.Cell(f.Col)
		}
		answer, ground := catalogue.Unanswered, catalogue.Decided
		if d, ok := ruling.Said(f.Code, heading, row.Cell(sku), cell); ok {
			answer = d.Answer
		} else if said, ok := open[f.Col]; ok && ofCells(f.Code) && f.Code.Takes(said) {
			answer, ground = said, catalogue.Ordered
		}
		if answer == catalogue.Blank && (f.Col < 0 || f.Col >= len(row.Cells) || keys.Has(f.Col) || demanded.Has(f.Col) || s.Key.Unnamed(row) && tells.Has(f.Col) || ofResult(f.Code) && s.Orders.FilledBy(f.Col) != "") {
			return catalogue.Unanswered, ground
		}
		return answer, ground
	}
	a.List = s.List(line.List{Name: AnsweredName, At: 5, Known: steps.KnownBy(&s.Columns),
		Headings: slices.Concat([]string{"Row", "Column", "Cell", "Answer", "What is open"}, s.knownBy())})
	return a, nil
}

// ofCells reports whether a finding is about what stands in a cell that need not go out.
func ofCells(code catalogue.Code) bool { return code.OfCell() || code.Takes(catalogue.Blank) }

// ofResult reports whether a finding is about what rules have made of a cell: if it were written
// empty, a rule that fills it would do so again the next time.
func ofResult(code catalogue.Code) bool { return !code.OfCell() }

// openCells returns what [field.NAME] if_open says of columns.
func (s *Sheet) openCells() (open map[int]catalogue.Answer, err error) {
	open = make(map[int]catalogue.Answer)
	for _, name := range slices.Sorted(maps.Keys(s.Fields)) {
		answer, ok := catalogue.ParseAnswer(s.Fields[name].IfOpen)
		if !ok || answer == catalogue.Hold {
			continue
		}
		for _, col := range s.Find(name) {
			if by := s.Orders.FilledBy(col); answer == catalogue.Blank && by != "" {
				return nil, &ruleError{part: "field." + name, key: "if_open", error: columns.Refuse("[field.%s] if_open: what is written "+
					"empty in %q would be filled again by [%s] the next time; let it stay held, or keep it", name, s.Columns.Headings[col], by)}
			}
			open[col] = answer
		}
	}
	return open, nil
}

// Ask asks what findings ask themselves, and what becomes of what stays held.
func (*answersSection) Ask(s *Seen) (list []Question) {
	for _, f := range s.Found {
		if !f.Open || f.Told {
			continue
		}
		e, answer := f.Code.Entry(), f.name()
		where := ""
		if f.Column != RowColumn {
			where = "under " + shown(f.Column) + ": "
		}
		if e.Ask != "" && f.Likely > 0 {
			q := yesNo("answers.yes="+f.name(), f.Likely, fmt.Sprintf("%s%s, in %s.", where, e.Title, plural(f.Likely, "cell")), e.Ask, wordIn("answers", "yes", answer)).on(f.Code, f.Column)
			q.Says = upperFirst(q.Says)
			q.No = []rulebook.Order{wordIn("answers", "no", answer)}
			list = append(list, q)
		}
		if f.Holds == 0 || e.Severity != catalogue.Error {
			continue
		}
		q := Question{Name: f.name(), Rows: f.Holds, Says: upperFirst(fmt.Sprintf("%s%s. That holds %s.", where, e.Title, plural(f.Holds, "row"))), Asks: "What is to become of them?", Stay: "nothing: they stay held", Last: true}
		for _, way := range []struct {
			answer catalogue.Answer
			key    string
			says   string
		}{
			{catalogue.Blank, "blank", "they go out with these cells empty"}, {catalogue.Keep, "keep", "they go out as they are"},
			{catalogue.LeaveOut, "aside", "they do not go out, and are set aside"},
		} {
			if f.Code.Takes(way.answer) && (way.answer != catalogue.Blank || !f.Needed) {
				q.Ways = append(q.Ways, Way{Says: way.says, Orders: []rulebook.Order{wordIn("answers", way.key, answer)}})
			}
		}
		if q.Ways != nil {
			list = append(list, q.on(f.Code, f.Column))
		}
	}
	return list
}

// RowColumn is what the column of a finding about whole rows is called.
const RowColumn = "(row)"

// name returns the finding as answers name it, and questions about it.
func (f *SeenFinding) name() string {
	if f.Column == RowColumn || f.Column == "" {
		return f.Code.String()
	}
	return f.Code.String() + "=" + f.Column
}
