package repair

import (
	"context"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/mint"
	"zetanum/core/products"
	"zetanum/core/rescue"
	"zetanum/core/steps"
)

// A ColumnModel is what the survey saw of one barcode column.
type ColumnModel struct {
	Col   int
	Model *rescue.Model
}

// InOrder returns the example of a column with its text put in order, after a look.
func (r *Result) InOrder(col int) string {
	texts := steps.Texts{Encoding: r.Source.Form.Encoding}
	if len(r.Fill[col].Examples) == 0 {
		return ""
	}
	return texts.Clean(r.Fill[col].Examples[0], r.Source.Columns.Kind(col))
}

// Tongues returns some of the languages in which rows are, as a column says, by their codes, after a look.
func (r *Result) Tongues() (codes []string) {
	col := r.Source.Columns.First(catalogue.Language)
	if col < 0 || col >= len(r.Fill) { // a column that is added
		return nil
	}
	for _, cell := range r.Fill[col].Examples {
		if code := heading.Tongue(cell); code != "" && !slices.Contains(codes, code) {
			codes = append(codes, code)
		}
	}
	return codes
}

// About reports, after a look, whether a column has to do with a word: in its heading,
// its meaning or its examples.
func (r *Result) About(col int, word string) bool {
	h, f, key := r.Source.Columns.Headings[col], r.Source.Columns.Fields[col], heading.Key(word)
	if meant, ok := catalogue.ParseField(word); f != catalogue.Unknown && (ok && meant == f || heading.Field(word) == f) {
		return true
	}
	return key != "" && (strings.Contains(heading.Key(h), key) || strings.Contains(heading.Key(f.String()), key) ||
		slices.ContainsFunc(r.Fill[col].Examples, func(c string) bool {
			return strings.Contains(strings.ToLower(c),
				strings.ToLower(word))
		}))
}

// Garbled returns how many cells were decoded wrongly, after a look.
func (r *Result) Garbled() (n int) {
	for i := range r.Fill {
		n += r.Fill[i].Misread
	}
	return n
}

// Look reads a file once and says what is in it, without repairing anything.
func Look(ctx context.Context, opt Options) (*Result, error) {
	var err error
	if opt.Book, err = opt.Book.WithForm(opt.Input); err != nil {
		return nil, err
	}
	r := &runner{opt: opt, result: new(Result)}
	table, err := r.openAny(ctx)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	if err := r.fit(opt.Temp); err != nil {
		return nil, r.named(err)
	}
	defer r.sheet.Close()
	if err := r.survey(ctx, true); err != nil {
		return nil, err
	}
	seen, _ := steps.FillOf(r.result.Survey.Learned[len(r.pipeline.Steps)-1])
	if col := products.KeyLike(&r.table.Columns, r.table.Sample); col >= 0 && r.opt.Book.Products.TogetherBy == "" {
		r.result.KeyLike = r.table.Columns.Headings[col]
	}
	r.result.Keys = r.keys(&seen)
	if r.anyHeadings {
		r.result.Unknown, r.result.Meant = true, r.meant(&seen)
		for col := range r.table.Columns.Own() {
			r.result.Holds = append(r.result.Holds, heading.ContentsIn(r.table.Sample, col).String())
		}
	}
	r.result.Sample = r.table.Sample
	r.result.Patterns = r.patterns()
	r.result.Lost, r.result.TellApart = r.lost(), r.sheet.Keys()
	r.result.Fill, r.result.Further, r.result.Variants, r.result.ImageRows, r.result.Notes = seen.Columns, seen.Further, seen.Variants,
		seen.ImageRows, r.sheet.Notes
	return r.result, nil
}

// Needs reports, after a look, whether a column tells products or variants apart, or its heading says that it
// must be there.
func (r *Result) Needs(col int) bool {
	columns := &r.Source.Columns
	return columns.Fields[col] == catalogue.Slug || columns.Fields[col] == catalogue.ParentSKU || columns.Headings[col] == r.KeyLike ||
		strings.Contains(columns.Headings[col], "*") || slices.Contains(products.OptionColumns(columns), col) || r.TellApart.Has(col)
}

// How many cells must say the same, and which share of all, before it is proposed for those that say nothing:
// from a handful of rows nothing follows.
const (
	leastSame = 5
	shareSame = 4 // one in so many
)

// SaysTheSame reports, after a look, whether all cells of a column of words that say
// anything say the same, and others, in rows or products where it could be said, say
// nothing.
func (r *Result) SaysTheSame(col int) bool {
	f, of := &r.Fill[col], r.Survey.Rows
	if f.Filled == f.Lead {
		of = r.Survey.Products
	}
	kind, field := r.Source.Columns.Kind(col), r.Source.Columns.Fields[col]
	words := kind == catalogue.AnyKind || kind == catalogue.LineKind && field != catalogue.Title || kind == catalogue.YesNoKind
	return words && f.Distinct == 1 && f.Filled >= leastSame && shareSame*f.Filled >= of && f.Filled < of
}

// patterns returns patterns for SKUs that fit the file.
func (r *runner) patterns() []mint.Proposal {
	columns := &r.table.Columns
	var options []int
	for _, o := range r.sheet.Products.Options {
		options = append(options, o.Value)
	}
	for _, f := range []catalogue.Field{catalogue.Colour, catalogue.Size} {
		if col := columns.First(f); col >= 0 && !slices.Contains(options, col) && options == nil {
			options = append(options, col)
		}
	}
	return mint.Propose(columns, options, r.table.Sample)
}
