// Package columns says which columns go out: dropped, kept, ordered, renamed,
// added with a fixed value, or filled from another one.
package columns

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/text"
)

// ErrWrong is wrapped by every error about rules that name columns which a sheet does not
// have.
var ErrWrong = errors.New("the columns of this file are not those of the rulebook")

// ErrRefused is wrapped by errors about rules that cannot be carried out although the
// columns are there. Its text is not part of theirs.
var ErrRefused = errors.New("the rule cannot be carried out")

type refused struct{ error }

func (r refused) Is(target error) bool { return target == ErrRefused }
func (r refused) Unwrap() error        { return r.error }

// Refuse returns an error that wraps [ErrRefused].
func Refuse(format string, args ...any) error { return refused{fmt.Errorf(format, args...)} }

// Rules are the [columns] part of a rulebook. Columns are named by heading or
// by field; a field stands for all columns that have it.
type Rules struct {
	// Drop names columns that do not go out; "A .. F" is all from A to F.
	Drop []string `toml:"drop" json:"drop,omitempty"`
	// Keep names the only columns that go out.
	Keep []string `toml:"keep" json:"keep,omitempty"`
	// KeepInOrder says that the columns go out in the order in which Keep names them.
	KeepInOrder bool `toml:"keep_in_order" json:"keep_in_order,omitempty"`
	// Key are the columns of the sheet by which the shop knows a product.
	Key []int `toml:"-" json:"-"`
	// Meant says what headings mean of which the rulebook says it.
	Meant map[string]catalogue.Field `toml:"-" json:"-"`
	// DropKey says that these may be left out.
	DropKey bool `toml:"drop_key" json:"drop_key,omitempty"`
	// DropNameless drops the columns without a heading.
	DropNameless bool `toml:"drop_nameless" json:"drop_nameless,omitempty"`
	// Order names columns that go out first, in this order.
	Order []string `toml:"order" json:"order,omitempty"`
	// Rename gives columns other headings.
	Rename map[string]string `toml:"rename" json:"rename,omitempty"`
	// Add fills columns with a fixed value where they are empty; one that is not
	// there is added.
	Add map[string]string `toml:"add" json:"add,omitempty"`
	// Origin keeps where products came from, in columns that are added: the file, its sheet, the row, or a cell as the file had it.
	Origin map[string]string `toml:"origin" json:"origin,omitempty"`
	// Copy fills columns from another where they are empty; one that is not there
	// is added.
	Copy map[string]string `toml:"copy" json:"copy,omitempty"`
	// Fill are orders like Add and Copy, with a condition.
	Fill []FillRule `toml:"fill" json:"fill,omitempty"`
	// Split and Join are what becomes of cells with several parts.
	Split []SplitRule `toml:"split" json:"split,omitempty"`
	Join  []JoinRule  `toml:"join" json:"join,omitempty"`
	// Expect are the headings of the file that the rulebook was made for.
	Expect []string `toml:"expect" json:"expect,omitempty"`
}

// Check returns what is wrong with the rules whatever the sheet.
func (r *Rules) Check() (problems []catalogue.Problem) {
	if len(r.Drop) > 0 && len(r.Keep) > 0 {
		problems = append(problems, catalogue.Problem{Key: "keep",
			Text: "keep names all that goes out, so there is nothing to drop; use one of the two"})
	}
	for _, to := range slices.Sorted(maps.Keys(r.Copy)) {
		if _, both := r.Add[to]; both {
			problems = append(problems, catalogue.Problem{Key: "copy",
				Text: fmt.Sprintf("%q is filled by add and by copy; use one of the two", to)})
		}
	}
	return problems
}

// gone reports whether the rules drop a column of that name, so that it need not
// be there.
func (r *Rules) gone(name string) bool {
	f, ok := catalogue.ParseField(name)
	return slices.ContainsFunc(r.Drop, func(d string) bool { return Same(d, name) || ok && r.meaning(d) == f })
}

// meaning returns what a heading means.
func (r *Rules) meaning(h string) catalogue.Field {
	for said, f := range r.Meant {
		if Same(said, h) {
			return f
		}
	}
	return heading.Field(h)
}

// Idle reports whether the rules order nothing.
func (r *Rules) Idle() bool {
	return !r.DropNameless && len(r.Drop)+len(r.Keep)+len(r.Order)+len(r.Rename)+len(r.Add)+len(r.Copy)+len(r.Fill)+len(r.Split)+
		len(r.Join) == 0
}

// A Plan is what the rules come to for one sheet.
type Plan struct {
	Added   catalogue.Columns // columns to be set behind those of the sheet
	Fillers []Filler
	Splits  []Split
	Joins   []Join
	Out     []Out    // what goes out; nil: all as it is
	Gone    []int    // the columns that do not
	Notes   []string // what the rules name and the sheet does not have, where that does no harm
}

// A Filler fills a column where it is empty.
type Filler struct {
	Col   int
	From  int // the column to copy, -1 for a fixed value
	Value string
	Over  bool // cells that are not empty are filled, too
	condition.Scope
	Words string // the rule, if it counts
}

// Out is a column that goes out.
type Out struct {
	Col     int
	Heading string
}

// For fits the rules to the columns of a sheet. Targets are columns that other
// rules fill, and that are added if they are not there; own says which headings
// are fields of the shop's own.
func (r *Rules) For(sheet *catalogue.Columns, targets []string, own func(heading string) (catalogue.Declared, bool)) (*Plan, error) {
	p := new(Plan)
	b := &builder{rules: r, plan: p, all: catalogue.Columns{
		Headings: slices.Clone(sheet.Headings), Fields: slices.Clone(sheet.Fields), Declared: slices.Clone(sheet.Declared),
	}, own: len(sheet.Headings), declared: own, filled: make(map[int]bool)}
	if err := b.expected(targets); err != nil || r.Idle() && len(targets) == 0 {
		return p, err
	}
	steps := []func() error{b.parts, b.fill, func() error { b.targets(targets); return nil }, b.choose, b.order, b.rename}
	if r.Idle() {
		steps = steps[2:4]
	}
	for _, step := range steps {
		if err := step(); err != nil {
			return nil, err
		}
	}
	p.Added = catalogue.Columns{Headings: b.all.Headings[b.own:], Fields: b.all.Fields[b.own:]}
	if r.Idle() && len(p.Added.Headings) == 0 {
		p.Out = nil
	}
	if len(b.all.Declared) > b.own {
		p.Added.Declared = b.all.Declared[b.own:]
	}
	return p, nil
}

// targets adds the columns that other rules fill.
func (b *builder) targets(names []string) {
	for _, name := range names {
		if !b.rules.gone(name) || len(b.find(name)) > 0 {
			b.target(name)
		}
	}
}

type builder struct {
	rules  *Rules
	plan   *Plan
	all    catalogue.Columns // of the sheet, and those added
	own    int               // of the sheet
	filled map[int]bool      // columns that rules fill: they go out without being named

	declared func(heading string) (catalogue.Declared, bool)
}

// find returns the columns that a name stands for; one that the rules rename is
// found under its new name, too, in a file that has been through them.
func (b *builder) find(name string) []int {
	cols := FindAll(&b.all, name)
	for from, to := range b.rules.Rename {
		if len(cols) == 0 && Same(from, name) {
			cols = FindAll(&b.all, to)
		}
	}
	return cols
}

// OfField returns the columns of a field, and behind them those of further names, each once.
func OfField(in *catalogue.Columns, f catalogue.Field, names ...string) []int {
	cols := slices.Clone(in.All(f))
	for _, name := range names {
		for _, col := range FindAll(in, name) {
			if name != "" && !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols
}

// FindAll returns the columns that a name, a heading or a field, stands for. One whose heading
// is the name is all, unless the name is that of its field, too, which others have in other
// languages.
func FindAll(in *catalogue.Columns, name string) (cols []int) {
	f, isField := catalogue.ParseField(name)
	for col, h := range in.Headings {
		if !Same(h, name) {
			continue
		}
		cols = []int{col}
		if isField && in.Fields[col] == f {
			for _, other := range in.All(f) {
				if code, _ := heading.InTongue(in.Headings[other]); other != col && code != "" {
					cols = append(cols, other)
				}
			}
		}
		return cols
	}
	if isField {
		return in.All(f)
	}
	for col := range in.Declared {
		if in.Declared[col].Name == name && name != "" {
			cols = append(cols, col)
		}
	}
	if cols != nil {
		return cols
	}
	for col, h := range in.Headings {
		if heading.Key(h) == heading.Key(name) {
			cols = append(cols, col)
		}
	}
	return cols
}

// Find returns the columns that a name stands for; one that the rules rename is
// found under its new name, too, in a file that has been through them. gone says
// that there is none, and that this is as it should be: the rules drop it.
func (r *Rules) Find(in *catalogue.Columns, name string) (cols []int, gone bool) {
	b := builder{rules: r, all: *in}
	cols = b.find(name)
	if len(cols) > 0 {
		return cols, false
	}
	// What keep does not name is left out, too, if it is not only misspelt.
	kept := len(r.Keep) == 0 || slices.ContainsFunc(r.Keep, func(k string) bool { return Same(k, name) })
	return nil, r.gone(name) || !kept && text.Nearest(name, in.Headings) == ""
}

// Find returns the column that a name, a heading or a field, stands for, -1 if
// there is none. Of several it is the first.
func Find(in *catalogue.Columns, name string) int {
	if cols := FindAll(in, name); len(cols) > 0 {
		return cols[0]
	}
	return -1
}

// Same reports whether two headings are the same but for case and spaces at the
// ends.
func Same(a, b string) bool {
	return catalogue.SameHeading(a, b)
}

// Need returns the columns that a name stands for; none without an error if the rules drop
// it. Otherwise the error says that key, a part of the rulebook, names what is not there.
func (r *Rules) Need(in *catalogue.Columns, key, name string) (cols []int, err error) {
	cols, gone := r.Find(in, name)
	if len(cols) == 0 && !gone {
		err = NotThere(in, key, name)
	}
	return cols, err
}

// NeedOne returns the first of those columns, -1 if the rules drop it.
func (r *Rules) NeedOne(in *catalogue.Columns, key, name string) (col int, err error) {
	cols, err := r.Need(in, key, name)
	if len(cols) == 0 {
		return -1, err
	}
	return cols[0], nil
}

// NotThere is the error, which wraps [ErrWrong], that a part of the rulebook names a column
// which the sheet does not have.
func NotThere(in *catalogue.Columns, key, name string) error {
	return fmt.Errorf("%w: %s names %q, which is not there%s; the headings are: %s",
		ErrWrong, key, name, text.DidYouMean(name, in.Headings[:in.Own()]), strings.Join(in.Headings[:in.Own()], ", "))
}

func (b *builder) missing(key, name string) error { return NotThere(&b.all, "[columns] "+key, name) }

func (b *builder) fill() error {
	for _, name := range slices.Sorted(maps.Keys(b.rules.Copy)) {
		from := b.find(b.rules.Copy[name])
		if len(from) == 0 && b.rules.gone(b.rules.Copy[name]) {
			b.plan.Notes = append(b.plan.Notes, fmt.Sprintf("[columns] copy reads %q, which the rulebook drops and which is not there: "+
				"nothing is copied", b.rules.Copy[name]))
			continue
		}
		if len(from) == 0 {
			return b.missing("copy", b.rules.Copy[name])
		}
		b.plan.Fillers = append(b.plan.Fillers, Filler{Col: b.target(name), From: from[0]})
	}
	for _, name := range slices.Sorted(maps.Keys(b.rules.Add)) {
		b.plan.Fillers = append(b.plan.Fillers, Filler{Col: b.target(name), From: -1, Value: b.rules.Add[name]})
	}
	for i := range b.rules.Fill {
		rule := &b.rules.Fill[i]
		f := Filler{From: -1, Value: rule.With, Over: rule.Over, Scope: rule.Scope, Words: rule.String()}
		if rule.From != "" {
			from := b.find(rule.From)
			if len(from) == 0 {
				if b.rules.gone(rule.From) {
					continue
				}
				return b.missing("fill", rule.From)
			}
			f.From = from[0]
		}
		f.Col = b.target(rule.Into)
		b.plan.Fillers = append(b.plan.Fillers, f)
	}
	return nil
}

// target returns the column to fill, which is added if it is not there.
func (b *builder) target(name string) int {
	if cols := b.find(name); len(cols) > 0 {
		b.filled[cols[0]] = true
		return cols[0]
	}
	if f, ok := catalogue.ParseField(name); ok {
		name = headingOf(f)
	}
	b.all.Headings = append(b.all.Headings, name)
	f := heading.Field(name)
	if f != catalogue.Barcode && b.all.First(f) >= 0 {
		f = catalogue.Unknown
	}
	b.all.Fields = append(b.all.Fields, f)
	col := len(b.all.Headings) - 1
	if b.declared != nil {
		if d, ok := b.declared(name); ok {
			b.all.Declare(col, d)
		}
	}
	return col
}

// headingOf is the heading of a column that is added for a field: "Sale price".
func headingOf(f catalogue.Field) string {
	switch name := strings.ReplaceAll(f.String(), "_", " "); f {
	case catalogue.SKU, catalogue.MPN:
		return strings.ToUpper(name)
	default:
		return strings.ReplaceAll(strings.ToUpper(name[:1])+name[1:], " sku", " SKU")
	}
}

func (b *builder) choose() error {
	out := make([]bool, len(b.all.Headings))
	for col := range out {
		out[col] = len(b.rules.Keep) == 0 || col >= b.own || b.filled[col]
	}
	for _, name := range b.rules.Keep {
		cols := b.find(name)
		if len(cols) == 0 {
			return b.missing("keep", name)
		}
		for _, col := range cols {
			out[col] = true
		}
	}
	for _, name := range b.rules.Drop {
		cols := b.find(name)
		if from, to, ok := b.stretch(name); ok && len(cols) == 0 {
			for col := from; col <= to; col++ {
				cols = append(cols, col)
			}
		}
		if len(cols) == 0 {
			// It may have been dropped before; but perhaps it is only misspelt.
			if text.Nearest(name, b.sameNumber(name)) != "" {
				return b.missing("drop", name)
			}
			b.plan.Notes = append(b.plan.Notes, fmt.Sprintf("column %q, which the rulebook drops, is not there", name))
		}
		for _, col := range cols {
			out[col] = false
		}
	}
	for col, h := range b.all.Headings {
		if b.rules.DropNameless && strings.TrimSpace(h) == "" {
			out[col] = false
		}
	}
	for _, key := range b.rules.Key {
		if !out[key] && !b.rules.DropKey {
			return Refuse("without the column %q the shop can match nothing; keep it, or say drop_key = true", b.all.Headings[key])
		}
	}
	if b.rules.KeepInOrder && len(b.rules.Order) == 0 {
		b.rules.Order = b.rules.Keep
	}
	var gone []string
	for col, goes := range out {
		if goes {
			b.plan.Out = append(b.plan.Out, Out{col, b.all.Headings[col]})
			continue
		}
		b.plan.Gone = append(b.plan.Gone, col)
		gone = append(gone, cmp.Or(b.all.Headings[col], "(no heading)"))
	}
	if gone != nil {
		b.plan.Notes = append(b.plan.Notes, "columns that do not go out: "+strings.Join(gone, ", "))
	}
	if len(b.plan.Out) == 0 {
		return Refuse("no column is left")
	}
	return nil
}

// stretch reads "A .. F" as the columns from A to F.
func (b *builder) stretch(name string) (from, to int, ok bool) {
	first, last, found := strings.Cut(name, "..")
	if !found {
		return 0, 0, false
	}
	x, y := b.find(strings.TrimSpace(first)), b.find(strings.TrimSpace(last))
	if len(x) == 0 || len(y) == 0 || x[0] > y[0] || y[0] >= b.own {
		return 0, 0, false
	}
	return x[0], y[0], true
}

// sameNumber returns the headings with the same digits as a name: of EAN 2 and
// EAN, or of Image 1 and Image 2, neither is the other misspelt.
func (b *builder) sameNumber(name string) (headings []string) {
	digits := func(s string) string {
		return strings.Map(func(r rune) rune {
			if unicode.IsDigit(r) {
				return r
			}
			return -1
		}, s)
	}
	for _, h := range b.all.Headings {
		if digits(h) == digits(name) {
			headings = append(headings, h)
		}
	}
	return headings
}

func (b *builder) order() error {
	place := make(map[int]int)
	for _, name := range b.rules.Order {
		cols := b.find(name)
		if len(cols) == 0 {
			return b.missing("order", name)
		}
		for _, col := range cols {
			if _, twice := place[col]; !twice {
				place[col] = len(place) - len(b.all.Headings)
			}
		}
	}
	slices.SortStableFunc(b.plan.Out, func(x, y Out) int { return place[x.Col] - place[y.Col] })
	return nil
}

func (b *builder) rename() error {
	for _, name := range slices.Sorted(maps.Keys(b.rules.Rename)) {
		to := b.rules.Rename[name]
		cols := b.find(name)
		if len(cols) == 0 {
			return b.missing("rename", name)
		}
		for i := range b.plan.Out {
			if b.plan.Out[i].Col == cols[0] {
				b.plan.Out[i].Heading = to
			}
		}
	}
	seen := make(map[string]bool)
	for _, o := range b.plan.Out {
		key := strings.ToLower(strings.TrimSpace(o.Heading))
		if key != "" && seen[key] && len(b.rules.Rename) > 0 {
			return Refuse("two columns would have the heading %q", o.Heading)
		}
		seen[key] = true
	}
	return nil
}
