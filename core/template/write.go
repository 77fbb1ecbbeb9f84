package template

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/quantity"
	"zetanum/core/text"
)

// A Reading says how a column of a file is written, from which a column of a form is filled.
type Reading struct {
	Numbers quantity.Form
	Answers quantity.YesNo
	Dates   quantity.DateForm
	Several text.List // what stands between several values in a cell; "" if it is seen in each
}

// A Misfit says why a cell does not go into a column of a form. The zero value says that it does.
type Misfit struct {
	Kind     MisfitKind
	Says     string // what is wrong, as the end of a sentence that begins with the cell
	Proposed string // of [Unlisted]: the only value of the list of which it is a slip
}

// A MisfitKind is a kind of misfit.
type MisfitKind uint8

// The kinds.
const (
	Fits     MisfitKind = iota
	Unlisted            // it is not in the list
	Unfit               // it is not of the kind that the column has, or beyond its limits
	TooLong             // it has more characters than the column takes
)

// A Writer writes cells of a column of a file, or texts made of several, into one column of a form: in its way of writing, and only what it
// takes. It is used by many goroutines at once.
type Writer struct {
	judged
	part int  // which of several values, from 1; 0 for all
	rest bool // and those behind it

	known     *lists.Known
	by        map[string]*lists.Known // by the value on which the list depends
	decimal   rune                    // the mark before decimals
	answering *quantity.Answering
	dating    *quantity.Dating
	measuring *quantity.Measuring
}

// Writer returns what writes into a column. from is the heading of what fills it, "" if that is no single column; part says which of several
// values in a cell goes there, counted from 1, 0 that all of them do; rest that those behind it do, too.
func (t *Template) Writer(n int, from string, part int, rest bool) *Writer {
	c, w := &t.Columns[n], &t.wanted[n]
	f := &Writer{judged: t.judged(n), part: part, rest: rest}
	switch {
	case f.answer != nil:
		f.answering = quantity.NewAnswering(&quantity.YesNoRule{Yes: f.answer[0], No: f.answer[1]})
	case len(c.ListBy) > 0:
		f.by = make(map[string]*lists.Known)
		for value, list := range c.ListBy {
			f.by[lists.Fold(value)] = lists.NewKnown(list)
		}
		f.known = lists.NewKnown(c.List)
	case len(c.List) > 0:
		f.known = lists.NewKnown(c.List)
	case w.shape == date:
		if form := t.dateForm(c); form != "" {
			f.dating = quantity.NewDating(&quantity.DateRule{Form: form})
		}
	case w.shape == amount:
		f.decimal = t.markOf(c)
		if unit := quantity.UnitIn(c.Name()); unit != "" {
			usual, _ := quantity.Unit(unit)
			f.measuring = quantity.NewMeasuring(&quantity.NumberRule{}, &quantity.MeasureRule{Unit: usual}, from)
			if quantity.UnitIn(from) == "" {
				f.measuring = quantity.NewMeasuring(&quantity.NumberRule{}, &quantity.MeasureRule{Unit: usual, Bare: usual}, "")
			}
		}
	}
	return f
}

// severalOf returns what stands between several values in a column, "" if it does not have several.
func (t *Template) severalOf(n int) string {
	c, w := &t.Columns[n], &t.wanted[n]
	sign := parted(c, t.samplesOf(n))
	switch {
	case sign != "":
		return sign
	case says(c.Rule, "parted"):
		return t.waysOf(c).Separator
	case w.shape == picture: // one sample with several of them is enough
		for _, cell := range t.samplesOf(n) {
			for _, mark := range []text.List{"|", ";", ","} {
				if parts := mark.Values(cell); len(parts) > 1 && !slices.ContainsFunc(parts, func(part string) bool { return shapeOf(part) != picture }) {
					return withSpace(string(mark), []string{cell})
				}
			}
		}
	}
	return ""
}

// samplesOf returns the cells of a column in the samples.
func (t *Template) samplesOf(n int) (cells []string) {
	for _, sample := range t.samples {
		if n < len(sample) && strings.TrimSpace(sample[n]) != "" {
			cells = append(cells, strings.TrimSpace(sample[n]))
		}
	}
	return cells
}

// Several returns what stands between the values of cells that have several, "" if they do not.
func Several(cells []string) text.List {
	return text.List(strings.TrimRight(profileOf(cells).several, " "))
}

// asksThirteen reports whether a rule asks for a barcode of 13 digits.
func asksThirteen(rule string) bool {
	rule = strings.ToLower(rule)
	return strings.Contains(rule, "13") && slices.ContainsFunc([]string{"digit", "ziffern", "chiffres", "cijfers", "cifre", "cifras", "cyfr", "dígitos", "siffr"},
		func(word string) bool { return strings.Contains(rule, word) })
}

// markOf returns the mark before decimals that a column has.
func (t *Template) markOf(c *Column) rune {
	mark := t.waysOf(c).Decimal
	switch {
	case says(c.Rule, "point"):
		mark = "."
	case says(c.Rule, "comma") && !says(c.Rule, "parted"):
		mark = ","
	}
	if mark == "," {
		return ','
	}
	return '.'
}

// KindOf returns the nature of the cells of a column, as far as it says how texts are treated.
func (t *Template) KindOf(n int) catalogue.Kind {
	switch w := &t.wanted[n]; {
	case w.shape == code:
		return catalogue.CodeKind
	case w.shape == markup:
		return catalogue.HTMLKind
	}
	return catalogue.AnyKind
}

// Verbatim reports whether whatever is written stands in the form as it stands in the file.
func (f *Writer) Verbatim() bool {
	return f.part == 0 && f.known == nil && f.answering == nil && f.dating == nil && f.shape != amount && f.several == "" && f.shape != picture && !f.check
}

// Write returns what goes into the column for a cell, "" for a blank one. parent is what goes into the column on which the list depends. What
// does not fit goes in as it is, and the misfit says why; left is how many values of the cell have no place.
func (f *Writer) Write(cell, parent string, r *Reading) (after string, left int, wrong Misfit) {
	cell = strings.TrimSpace(cell)
	if f.part > 0 || f.shape == picture && f.several == "" {
		values := f.valuesOf(cell, r)
		switch at := max(f.part, 1) - 1; {
		case at >= len(values):
			return "", 0, Misfit{}
		case f.rest:
			cell = strings.Join(values[at:], cmp.Or(f.several, ";"))
		default:
			cell = values[at]
			if f.part == 0 {
				left = len(values) - 1
			}
		}
	}
	if cell == "" {
		return "", left, Misfit{}
	}
	unfit := func(format string, args ...any) (string, int, Misfit) {
		if f.lax {
			return cell, left, Misfit{}
		}
		return cell, left, Misfit{Kind: Unfit, Says: fmt.Sprintf(format, args...)}
	}
	after = cell
	switch {
	case f.answering != nil:
		var ok bool
		if after, ok = f.answering.Of(cell, &r.Answers); !ok {
			return unfit("says neither yes nor no")
		}
	case f.known != nil:
		after, wrong = f.listed(cell, parent)
		return after, left, wrong
	case f.dating != nil:
		var is quantity.What
		if after, is = f.dating.Of(cell, r.Dates); is != quantity.Value {
			if is == quantity.Asked {
				return unfit("is a date that can be read in two ways")
			}
			return unfit("is no date")
		}
	case f.shape == amount:
		if after, wrong = f.amount(cell, r); wrong.Kind != Fits && f.lax {
			return cell, left, Misfit{}
		} else if wrong.Kind != Fits {
			return after, left, wrong
		}
	case f.check:
		after = fullWidth(cell)
	case f.several != "" && f.part == 0:
		after = strings.Join(f.valuesOf(cell, r), f.several)
	}
	switch reason, says := f.judge(after, parent); reason {
	case "":
		return after, left, Misfit{}
	case ReasonLength:
		return after, left, Misfit{Kind: TooLong, Says: says}
	default:
		return unfit("%s", says)
	}
}

// fullWidth returns a barcode with 13 digits: one of 12 is one of 13 with a zero before it (GS1 General Specifications, GTIN-12 in a field of 13).
func fullWidth(cell string) string {
	if len(cell) == 12 && strings.Trim(cell, "0123456789") == "" {
		return "0" + cell
	}
	return cell
}

// valuesOf returns the values of a cell.
func (f *Writer) valuesOf(cell string, r *Reading) []string {
	at := r.Several
	if at == "" {
		marks := text.TagMarks
		if f.shape == picture || f.part > 0 {
			marks = severalMarks
		}
		at, _ = text.FindList(marks, cell)
	}
	if f.shape == picture && at == "," && strings.Contains(cell, "://") && !strings.Contains(cell, ", ") && strings.Count(cell, "://") == 1 {
		return []string{cell} // a link with a comma in it
	}
	if at == " http" || strings.Contains(cell, " http") && at == "" {
		return strings.Fields(cell)
	}
	return at.Values(cell)
}

// severalMarks are what stands between several values, the likeliest first.
var severalMarks = func() (list []text.List) {
	for _, sign := range severalSigns {
		if sign != "/" {
			list = append(list, text.List(strings.TrimRight(sign, " ")))
		}
	}
	return list
}()

// listed writes a value as the list has it.
func (f *Writer) listed(cell, parent string) (string, Misfit) {
	known := f.known
	if f.by != nil {
		by, there := f.by[lists.Fold(parent)]
		if !there {
			if parent == "" {
				return cell, Misfit{Kind: Unfit, Says: "goes by a column that is empty here"}
			}
			return cell, Misfit{Kind: Unlisted, Says: fmt.Sprintf("is not in the list of the template for %s, which has none", parent)}
		}
		known = by
	}
	right, match := known.Match(cell)
	switch match {
	case lists.Exact, lists.Folded:
		return right, Misfit{}
	case lists.Near:
		return cell, Misfit{Kind: Unlisted, Says: "is not in the list of the template", Proposed: right}
	}
	return cell, Misfit{Kind: Unlisted, Says: "is not in the list of the template: " + someOf(known.Values())}
}

// someOf names the first values of a list.
func someOf(values []string) string {
	if len(values) > mostNamed {
		return fmt.Sprintf("%s and %d more", strings.Join(values[:mostNamed], ", "), len(values)-mostNamed)
	}
	return strings.Join(values, ", ")
}

// mostNamed is how many values of a list are named where one is not in it.
const mostNamed = 6

// withZeros writes a number with a decimal point, and with the zeros at its end that it has.
func withZeros(n quantity.Number) string {
	s, all := n.Plain(), n.Decimals()
	if all == 0 || n.Scientific() {
		return s
	}
	at := strings.IndexByte(s, '.')
	if at < 0 {
		at = len(s)
		s += "."
	}
	return s + strings.Repeat("0", max(0, all-(len(s)-at-1)))
}

// amount writes a number.
func (f *Writer) amount(cell string, r *Reading) (after string, wrong Misfit) {
	unfit := func(format string, args ...any) (string, Misfit) {
		return cell, Misfit{Kind: Unfit, Says: fmt.Sprintf(format, args...)}
	}
	if f.measuring != nil {
		list, is, why := f.measuring.Of(cell, "", r.Numbers)
		switch {
		case is != quantity.Value:
			return unfit("%s", why)
		case len(list) != 1:
			return unfit("has several sides")
		}
		after = list[0]
	} else {
		read := quantity.ReadPrice(cell, r.Numbers)
		if read.Is == quantity.Percent && strings.Contains(f.Heading+f.Rule, "%") {
			read = quantity.ReadPrice(strings.TrimSpace(strings.TrimSuffix(cell, "%")), r.Numbers)
		}
		want := quantity.CurrencyIn(f.Name())
		switch {
		case read.Is == quantity.Value && want != "" && len(read.Currency) == len(want) && read.Currency != want:
			return unfit("is in %s, and the column in %s", read.Currency, want)
		case read.Is == quantity.Value:
		case read.Is == quantity.Asked:
			return unfit("can be read as two numbers, and the column does not say which")
		default:
			return unfit("is no number")
		}
		after = withZeros(read.Number)
	}
	if n, err := quantity.Parse(after); err == nil && f.Whole && !strings.Contains(n.Plain(), ".") {
		after = n.Plain()
	}
	return quantity.WithMark(after, f.decimal), Misfit{}
}

// Find returns the columns of the form that a name means, by their headings with or without what marks them as required, or by their names for
// programs.
func (t *Template) Find(name string) (columns []int) {
	by := func(of func(*Column) string, same func(a, b string) bool) []int {
		var list []int
		for n := range t.Columns {
			if of := of(&t.Columns[n]); of != "" && same(of, name) {
				list = append(list, n)
			}
		}
		return list
	}
	exact := func(a, b string) bool { return strings.TrimSpace(a) == strings.TrimSpace(b) }
	alike := func(a, b string) bool { return plain(a) == plain(b) }
	heading := func(c *Column) string { return c.Heading }
	for _, list := range [][]int{by(heading, exact), by((*Column).Name, exact), by(func(c *Column) string { return c.Machine }, exact), by(heading, alike), by((*Column).Name, alike)} {
		if list != nil {
			return list
		}
	}
	return nil
}

// Names returns the headings of the columns, each once.
func (t *Template) Names() (names []string) {
	for n := range t.Columns {
		if name := t.Columns[n].Name(); !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

// Valuer returns what tells of a text of a column what it is as a number, 12.5, or a date, 2025-03-31, in a workbook; "" if it is a text there.
func (t *Template) Valuer(n int) func(cell string) (value string, isDate bool) {
	c, w := &t.Columns[n], &t.wanted[n]
	switch {
	case len(c.List) > 0:
	case w.shape == amount:
		mark := string(t.markOf(c))
		return func(cell string) (string, bool) {
			text := strings.Replace(cell, mark, ".", 1)
			if number, err := quantity.Parse(text); err == nil && withZeros(number) == text {
				return number.Plain(), false
			}
			return "", false
		}
	case w.shape == date && t.dateForm(c) != "":
		layout := t.judged(n).layout
		return func(cell string) (string, bool) {
			if day, err := time.Parse(layout, cell); err == nil {
				return day.Format(time.DateOnly), true
			}
			return "", false
		}
	}
	return func(string) (string, bool) { return "", false }
}
