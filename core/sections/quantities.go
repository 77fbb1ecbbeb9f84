package sections

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/lists"
	"zetanum/core/quantity"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// A quantityColumn is one whose amounts, dates, or yes and no are written as a rulebook has it.
type quantityColumn struct {
	sheet *Sheet
	name  string // of the field
	table *FieldTable
	col   int

	form   quantity.Form
	answer quantity.YesNo
	dates  quantity.DateForm
	again  *quantity.Form  // in which it has been written in an earlier run
	from   *quantityColumn // from which it is reckoned; nil if it is from none
	out    rune            // the mark before decimals of what is written, once the survey has settled it
}

// writesNumbers reports whether the rules of a field write its numbers.
func (t *FieldTable) writesNumbers() bool { return t.NumberRule.Writes() || t.PriceRule.Writes() }

// adds returns the columns that the rules fill.
func (t *FieldTable) adds(name string) (names []string) {
	if t.PriceRule.From != "" {
		names = append(names, name)
	}
	if t.PriceRule.CurrencyIn != "" {
		names = append(names, t.PriceRule.CurrencyIn)
	}
	return append(names, t.MeasureRule.Sides...)
}

// Adds returns the columns that fields are reckoned into.
func (f *fieldSection) Adds(*Sheet) (names []string, err error) {
	for _, name := range slices.Sorted(maps.Keys(*f.rules)) {
		names = append(names, (*f.rules)[name].adds(name)...)
	}
	return names, nil
}

// OneWay returns the rules that would reckon with their own results.
func (f *fieldSection) OneWay() (problems []rulebook.Problem) {
	for _, name := range slices.Sorted(maps.Keys(*f.rules)) {
		if t := (*f.rules)[name]; t.PriceRule.Once {
			problems = append(problems, rulebook.Problem{Part: f.part(name), Problem: catalogue.Problem{Key: "once", Text: name + ", " + t.PriceRule.Words()}})
		}
	}
	return problems
}

// orderQuantities orders what a rulebook says of the quantities of a field.
func (s *Sheet) orderQuantities(name string, t *FieldTable) error {
	for _, col := range s.Find(name) {
		q := &quantityColumn{sheet: s, name: name, table: t, col: col}
		var err error
		switch kind := s.Columns.Kind(col); {
		case !t.MeasureRule.IsZero():
			err = q.measures()
		case !t.YesNoRule.IsZero():
			err = q.answers()
		case t.DateRule.Form != "":
			err = q.moments()
		case kind == catalogue.PriceKind && t.writesNumbers():
			err = q.prices()
		case kind.Numeric() && t.writesNumbers():
			err = q.counts()
		}
		if err == nil && t.PriceRule.MarginAtLeast != nil {
			err = q.margin()
		}
		if err == nil && t.PriceRule.Dated {
			err = q.dated()
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// What the survey sees of a column.
const (
	seeMarks   = 1 << iota // how its numbers are written
	seeAnswers             // how it says yes and no
	seeOrders              // which order its dates have
)

// learn lets the survey see how the column is written, once for all that ask.
func (q *quantityColumn) learn(what int) {
	s := q.sheet
	if q.col >= s.Columns.Own() {
		return
	}
	if s.asked == nil {
		s.asked = make(map[int]*askedColumn)
	}
	if a := s.asked[q.col]; a != nil {
		a.what, a.by = a.what|what, append(a.by, q)
		return
	}
	a := &askedColumn{what: what, by: []*quantityColumn{q}}
	s.asked[q.col] = a
	s.Orders.Learn(steps.Learner{Cols: []int{q.col}, New: func() steps.Learned { return &quantitySeen{col: q.col, what: a.what} }, Judge: func(l steps.Learned) error {
		seen := l.(*quantitySeen)
		for _, by := range a.by {
			by.answer = seen.answer
			if by.form, by.dates = by.table.NumberRule.Form(seen.marks.Form()), seen.orders.Form(yearOf(s.Date)); by.again != nil {
				by.form = *by.again
			}
		}
		for _, other := range s.amounts {
			other.settle()
		}
		return nil
	}})
}

// An askedColumn is one of which the survey sees something, and for whom.
type askedColumn struct {
	what int
	by   []*quantityColumn
}

// quantitySeen is what the survey sees of a column.
type quantitySeen struct {
	col, what int
	marks     quantity.Marks
	answer    quantity.YesNo
	orders    quantity.Orders
}

func (l *quantitySeen) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		cell := row.Cell(l.col)
		if cell == "" {
			continue
		}
		if l.what&seeMarks != 0 {
			l.marks.Learn(cell)
		}
		if l.what&seeAnswers != 0 {
			l.answer.Learn(cell)
		}
		if l.what&seeOrders != 0 {
			l.orders.Learn(cell)
		}
	}
}

func (l *quantitySeen) Merge(next steps.Learned) {
	with := next.(*quantitySeen)
	l.marks.Merge(with.marks)
	l.answer.Merge(with.answer)
	l.orders.Merge(with.orders)
}

func (l *quantitySeen) AppendBinary(b []byte) ([]byte, error) {
	return l.orders.AppendTo(l.answer.AppendTo(l.marks.AppendTo(b))), nil
}

// left notes that a cell could not be written.
func (q *quantityColumn) left(r *steps.RowAt, col int, cell, why string) {
	q.sheet.Orders.Unknown(r, catalogue.ValueNotWritten, col, cell, catalogue.Facts{Other: why})
}

// whys say why something is not written.
var whys = map[quantity.What]string{
	quantity.Asked: "can be read in two ways, and neither the column nor the rulebook says which", quantity.About: "is only about so much", quantity.From: "is a price from which others begin",
	quantity.Range: "is a range", quantity.Request: "is no price but a price on request", quantity.Percent: "is a percentage", quantity.Error: "is an error of the spreadsheet program",
	quantity.Formula: "is a formula", quantity.Negative: "is below zero", quantity.Malformed: "has marks where a number has none", quantity.Dash: "is a dash",
	quantity.Impossible: "is no day of the calendar", quantity.Partial: "is no whole date",
}

func why(is quantity.What) string {
	if text, known := whys[is]; known {
		return text
	}
	return "is not what the column has"
}

// formNow returns how the numbers of the column stand there when all has been done to them.
func (q *quantityColumn) formNow() quantity.Form {
	if other := q.sheet.amounts[q.col]; other != nil {
		return quantity.Form{Decimal: other.mark(), Fine: true}
	}
	return q.form
}

// mark returns the mark before decimals of what is written: as is ordered, or as the column has it, or that from which it is reckoned.
func (q *quantityColumn) mark() rune {
	if q.out != 0 {
		return q.out
	}
	switch said := q.table.NumberRule.Mark(); {
	case said != 0:
		return said
	case q.again != nil:
		return q.again.Decimal
	case q.form.Decimal != 0:
		return q.form.Decimal
	case q.from != nil && q.from.formNow().Decimal != 0:
		return q.from.formNow().Decimal
	}
	return '.'
}

// writes adds an order that writes a column as a rule has it. What has been written is not done again: it is read in another way then.
func (q *quantityColumn) writes(order steps.Order, words string) error {
	order.Key, order.Rests, order.Rules = "field."+q.name, true, []catalogue.Rule{catalogue.RuleAmount}
	if order.Phase == 0 {
		order.Phase = steps.PhaseValues
	}
	do := order.Do
	order.Do = func(r *steps.RowAt) bool {
		return !r.Log.Wrote(catalogue.RuleAmount, r.Row, q.col) && do(r)
	}
	_, err := q.sheet.Orders.Add(order, condition.Scope{Meant: q.table.Meant}, words)
	return err
}

// isWritten takes down that rules write the numbers of the column in a form of its own, in which they stand in an output of ours.
func (q *quantityColumn) isWritten() {
	s := q.sheet
	if s.amounts == nil {
		s.amounts, s.Forms = make(map[int]*quantityColumn), make(map[int]quantity.Form)
	}
	s.amounts[q.col] = q
	if s.AsLeft != nil {
		unit, mark, _ := strings.Cut(s.AsLeft.Written[s.Columns.Name(q.col)], " ")
		if unit == q.table.MeasureRule.Unit && mark != "" {
			q.again = &quantity.Form{Decimal: rune(mark[0]), Fine: true}
		}
	}
	q.settle()
}

// settle says in which form the numbers of the column are written, as far as is known.
func (q *quantityColumn) settle() {
	q.out = 0
	if mark := q.mark(); q.sheet.amounts[q.col] == q {
		q.out = mark
		q.sheet.Forms[q.col] = quantity.Form{Decimal: mark, Fine: true}
		q.sheet.tell(q.col, q.table.MeasureRule.Unit+" "+string(mark))
	}
}

// tell takes down how a column is written.
func (s *Sheet) tell(col int, how string) {
	if s.Told.Written == nil {
		s.Told.Written = make(map[string]string)
	}
	s.Told.Written[s.Columns.Name(col)] = how
}

// outHeading returns how a column is called in what goes out.
func (s *Sheet) outHeading(col int) string {
	for _, o := range s.Plan.Out {
		if o.Col == col {
			return o.Heading
		}
	}
	return s.Columns.Headings[col]
}

// wordsOf reads the sheets of words that stand for numbers.
func (f *fieldSection) wordsOf(s *Sheet, name string, read func(path string) ([]lists.Pair, error)) error {
	t := (*f.rules)[name]
	if t.NumberRule.Words == "" {
		return nil
	}
	pairs, err := read(t.NumberRule.Words)
	if err != nil {
		return &ruleError{part: f.part(name), key: "words", error: fmt.Errorf("[%s] words: %w", name, err)}
	}
	if s.spoken == nil {
		s.spoken = make(map[string][]lists.Pair)
	}
	s.spoken[name] = pairs
	return nil
}
