package sections

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/target"
)

// targetSection says what the file for the importer has to be.
type targetSection struct {
	rules  *target.Rules
	ofSelf bool // the shop's export is the file itself
}

// actionLine is what stands above the examples of [target.action].
const actionLine = "[shop]\nexport = \"shop-export.csv\"\n[target.action]"

func (*targetSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "target", Line: "[target]",
			Says: "What the file for the importer has to be.",
			Keys: []rulebook.Key{
				{
					Name: "template",
					Says: "The form that the platform gives out: what is ready has its columns in its order, below its own lines, and is written as it " +
						"writes yes and no, dates, decimals and lists. Rows that it would not take are held. What it says is learnt from it; the " +
						"command ‹inspect -template› shows that. self is the file itself, where it is a form that is filled in already. Of a folder or " +
						"archive with a form for each category, each product goes to the one that lists its category.",
					Example: `template = "shop-form.xlsx"`,
				},
				{
					Name: "like",
					Says: "Files that the importer has taken before, or that the shop has exported, in place of a template: the columns of the first in their " +
						"order, and behind them those that only the others have, are filled and written as they are there. Such files do not say what " +
						"is refused.",
					Example: `like = ["shop-export.csv"]`,
				},
				{
					Name:    "required",
					Says:    "Columns of the template that must be filled although it does not say so.",
					Example: "template = \"shop-form.xlsx\"\nrequired = [\"Weight\"]",
				},
				{
					Name: "besides",
					Says: "Columns of the file that go out behind those of the template, under their own headings; without it, the template's go out, and no " +
						"others. A workbook has no place for them.",
					Example: "template = \"upload-form.csv\"\nbesides  = [\"Supplier\"]",
				},
				{
					Name: "together",
					Says: "Columns of the template that belong together: a row fills all of them, or none. What it has of half a group is left out, and " +
						"named; a fixed value goes with the others. Columns of which no row fills any do not go out, if the template is nothing but " +
						"columns.",
					Example: "template = \"shop-form.xlsx\"\ntogether = [[\"Length\", \"Width\", \"Height\"]]",
				},
				{
					Name: "blank",
					Says: "What the importer makes of an empty cell where the shop has something: keeps leaves that as it is, clears takes it out, " +
						"unknown, as if nothing is said, that nobody knows. The command ‹rehearse› goes by it.",
					Example: `blank = "keeps"`,
				},
				{
					Name: "empty",
					Says: "What stands in a cell that the importer is to empty, if it has a word for that. “zetanum rehearse” writes it into the way back, " +
						"where the shop had nothing.",
					Example: "blank = \"keeps\"\nempty = \"-\"",
				},
				{
					Name: "empties",
					Says: "With job = \"update\" and empty: fields or headings in which an empty cell is to empty what the shop has, such as a sale price that is " +
						"over. The word stands there, in the column of the template or of the file that like names.",
					Example: "like    = [\"shop-export.csv\"]\njob     = \"update\"\nempty   = \"-\"\nempties = [\"sale_price\"]",
				},
				{
					Name: "job",
					Says: "What the file is for: new, products that the shop does not have, or update, those that it has; both, if nothing is said. The " +
						"others are set aside, by [shop] export. New products have no number of the shop's, as [shop] id calls it; without an " +
						"export, rows to update that have neither that number nor an SKU are held.",
					Example: "job = \"update\"",
					Line:    "[shop]\nexport = \"shop-export.csv\"\n[target]",
				},
				{
					Name: "split",
					Says: "new-existing makes ready-new.csv of products that the shop does not have, and ready-existing.csv of those that it has, beside " +
						"ready.csv. A product of which the shop has one row is one that it has.",
					Example: "split = \"new-existing\"",
					Line:    "[shop]\nexport = \"shop-export.csv\"\n[target]",
				},
				{
					Name: "only_changed",
					Says: "Only products go out that are not as the shop has them, by [shop] export; what is the same is set aside. If job is update, " +
						"only those columns go out in which something changes, and those by which products are known. Values count, not ways of " +
						"writing: 12,5 is 12.50. What is empty in the file changes nothing, unless blank is clears.",
					Example: "only_changed = true",
					Line:    "[shop]\nexport = \"shop-export.csv\"\n[target]",
				},
				{
					Name: "compare",
					Says: "With only_changed: the fields or headings by which it is seen whether something changes; all, if nothing is said. Columns that " +
						"the export does not have count as changed wherever they are filled, other than with the same in every row.",
					Example: "only_changed = true\ncompare      = [\"price\", \"stock\"]",
					Line:    "[shop]\nexport = \"shop-export.csv\"\n[target]",
				},
				{
					Name: "by",
					Says: "A field or heading: for each of its values there is a file with the products that have it, ready-VALUE.csv, beside " +
						"ready.csv. No product is in two of them; what its first row says counts.",
					Example: "by = \"category\"",
				},
				{
					Name: "encoding",
					Says: "The encoding of ready.csv; UTF-8, if nothing is said. Where it does not have a character, what stands for it " +
						"is named in a finding: usually the letter without its accent, in HTML a reference. In codes and links nothing " +
						"may; such rows are held.",
					Example: `encoding = "windows-1252"`,
				},
				{
					Name: "bom",
					Says: "Whether ready.csv begins with a byte order mark. If nothing is said, it does in UTF-16, and in UTF-8 if the " +
						"source does.",
					Example: "bom = true",
				},
				{
					Name: "separator",
					Says: "What separates the cells of ready.csv: comma, semicolon, tab, pipe or another character of ASCII; if nothing " +
						"is said, what separates them in the source.",
					Example: `separator = "comma"`,
				},
				{
					Name: "quote",
					Says: "What stands around cells in place of the quotation mark.",
					Example: `separator = "^"
quote     = "~"`,
				},
				{
					Name: "quotes",
					Says: "Which cells have quotation marks around them: needed, those in which the separator, a quotation mark or a " +
						"line break stands; or all. If nothing is said, those that need it and those that have them in the source.",
					Example: `quotes = "all"`,
				},
				{
					Name: "line_ends",
					Says: "How its rows end: lf or crlf; if nothing is said, as in the source, but never with a carriage return alone, " +
						"which hardly any importer takes.",
					Example: `line_ends = "crlf"`,
				},
				{
					Name: "first_rows",
					Says: "What becomes of the rows above the headings, and of those right under them that are the headings in other " +
						"words, units, demands or a guide: keep writes them back as they are, because some platforms know their own " +
						"files by them; drop leaves them out, which is the usual. Examples are always left out.",
					Example: `first_rows = "keep"`,
				},
				{
					Name: "as",
					Says: "Forms in which what is ready is written, besides ready.csv: tsv, xlsx and ods, with all cells as text, xls, the old binary " +
						"form, for importers that take nothing else and cut where its sheets end, and jsonl, an object for each row. The setting ‹as› overrules it.",
					Example: `as = ["xlsx"]`,
				},
				{
					Name:    "sheet",
					Says:    "How the sheet of a workbook is called in which what is ready is written; Products, if nothing is said.",
					Example: "as    = [\"xlsx\"]\nsheet = \"Import\"",
				},
				{
					Name: "instead",
					Says: "What stands for characters that the encoding does not have, where another text is wanted than the usual one.",
					Example: `encoding = "windows-1252"
instead  = { "ł" = "w", "→" = "to" }`,
				},
			},
		},
		{
			Name: "target.limits", Line: "[target.limits]",
			Says: "How much a file may have that the importer takes. If there is more, ready-1.csv, ready-2.csv and so on take the place of ready.csv, each " +
				"complete with what stands above the products, and no product in two of them; the other forms are cut likewise. By the name ready.csv " +
				"Zetanum reads them as one. What a template says of rows counts if nothing is said here.",
			Keys: []rulebook.Key{
				{
					Name:    "rows",
					Says:    "The most rows of products.",
					Example: `rows = 500`,
				},
				{
					Name:    "megabytes",
					Says:    "The most megabytes, of a million bytes.",
					Example: `megabytes = 10`,
				},
			},
		},
		{
			Name: "target.action", Line: "[target.action]",
			Says: "A column that says what the importer is to do with each row, by [shop] export, or by job. A row without a key, such as that of a " +
				"further image, has what its product has.",
			Keys: []rulebook.Key{
				{
					Name:    "column",
					Says:    "Its heading. The column is added if it is not there.",
					Example: "column   = \"Action\"\nnew      = \"create\"\nexisting = \"change\"",
					Line:    actionLine,
				},
				{
					Name:    "new",
					Says:    "The target's word for rows that the shop does not have.",
					Example: "column   = \"Action\"\nnew      = \"create\"\nexisting = \"change\"",
					Line:    actionLine,
				},
				{
					Name:    "existing",
					Says:    "The target's word for rows that the shop has.",
					Example: "column   = \"Action\"\nnew      = \"create\"\nexisting = \"change\"",
					Line:    actionLine,
				},
			},
		},
		{
			Name: "target.columns", Line: "[target.columns]",
			Says: "What fills the columns of the template, by their headings. Columns of which nothing is said are filled by what they are sure to " +
				"mean. A field or heading fills them, or a pattern as under [[build]]; { always = \"…\" } is the same in every row, " +
				"{ from = \"…\", part = 2 } the second of several values in a cell, { from = \"…\", words = { Wax = \"Candles\" } } what the target calls " +
				"our values, which may be a file of two columns, ours and theirs; { from = \"…\", refers = \"sku\" } are other products, which must be there, and with " +
				"refers = \"id\" the shop's own numbers of them are written; false leaves a column empty. Where several columns have one " +
				"heading, a list says what fills each; a part goes into the first of them, and the next parts into those behind it.",
			Keys: []rulebook.Key{
				{
					Name:    "*",
					Says:    "A heading of the template, with or without what marks it as one that must be filled.",
					Example: `"Name" = "{brand} {title}"`,
					Line:    "[target]\ntemplate = \"shop-form.xlsx\"\n[target.columns]",
				},
			},
		},
	}
}

func (s *targetSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "target", Into: s.rules}}
}

func (s *targetSection) Files() []*string {
	return filesOf(s.rules)
}

// filesOf returns the names of the files of a target.
func filesOf(rules *target.Rules) (names []*string) {
	if rules.Template != target.Self {
		names = append(names, &rules.Template)
	}
	for i := range rules.Like {
		names = append(names, &rules.Like[i])
	}
	return names
}

func (s *targetSection) Check() []rulebook.Problem {
	return append(rulebook.In("target", 0, s.rules.Check()), rulebook.In("target.columns", 0, s.rules.Columns.Check())...)
}

// ErrTarget says that something which goes out cannot be written in the encoding of the
// target.
var ErrTarget = errors.New("the encoding of the target does not have all that goes out")

// Order orders that what goes out is fitted to the encoding of the target, when all
// else is done to it.
func (t *targetSection) Order(s *Sheet) error {
	if err := t.rules.Against(s.Table.Style()); err != nil {
		return err
	}
	if err := s.orderPresent(); err != nil {
		return err
	}
	if err := s.shape.readForms(); err != nil {
		return err
	}
	fitter := s.Texts.Fitter
	if fitter == nil {
		return nil
	}
	for _, col := range s.Out {
		kind := s.Columns.Kind(col)
		one := steps.Order{Key: "target", Phase: steps.PhaseTarget, Writes: []int{col}, Rules: []catalogue.Rule{catalogue.RuleStandIn},
			Do: func(r *steps.RowAt) bool {
				if cell := r.Cell(col); !fitter.Has(cell) {
					fit(r, col, cell, kind, fitter)
				}
				return false
			}}
		if one.Looks = kind == catalogue.CodeKind || kind == catalogue.LinkKind; one.Looks {
			one.Writes, one.Reads, one.Rules = nil, []int{col}, nil
		}
		if err := s.Orders.AddCounted(one, condition.Meant{}, -1); err != nil {
			return err
		}
	}
	return nil
}

// Steps says what becomes of products by what the shop has.
func (t *targetSection) Steps(s *Sheet) error {
	s.stepsPresent()
	return nil
}

// Output says in which encoding and in which form what is ready is written.
func (t *targetSection) Output(s *Sheet, o *line.Output) error { return s.shape.output(o) }

// output says in which encoding and in which form it is written.
func (s *shape) output(o *line.Output) error {
	rules := s.rules
	o.Cuts = rules.Limits != target.Limits{} || rules.Split != "" || rules.By != ""
	o.FirstRows = rules.FirstRows == "keep"
	source := s.Table.Style()
	count := s.Columns.Own()
	if o.Columns != nil {
		count = len(o.Columns)
	}
	if count < 2 || o.Plain {
		source.Quote, source.Quotes = '"', sheet.QuotesAsWere // no reader would know other marks
	}
	o.Style, o.LineEnd = rules.Style(source, s.Form.LineEnd)
	if s.cols != nil && len(s.Only) == 0 {
		if err := s.unfillable(); err != nil {
			return err
		}
		o.Form.Head, o.Form.Above, o.Form.Below = s.form.Head(o.Style, o.LineEnd)
		s.leaveGroups(o)
	}
	c := rules.Charset()
	o.Charset = c
	switch {
	case rules.BOM != nil:
		o.BOM = *rules.BOM
	case c != charset.UTF8:
		o.BOM = c.Marked()
	}
	if c == charset.UTF8 {
		return nil
	}
	var err error
	if o.Columns, err = s.fitHeadings(o.Columns); err != nil {
		return err
	}
	name := s.Table.Name
	o.Encode = func(dst, rows []byte) ([]byte, error) {
		encoded, bad, ok := c.Append(dst, rows)
		if !ok {
			return dst, fmt.Errorf("%s: %w: %s has no %q, and it stands in a row outside of the columns, where nothing is put in its "+
				"place. Take it out, or choose UTF-8", name, ErrTarget, c, bad)
		}
		return encoded, nil
	}
	return nil
}

// fitHeadings puts something else in place of what the encoding of the target does not
// have in the headings.
func (s *shape) fitHeadings(out []line.OutColumn) ([]line.OutColumn, error) {
	fitter := s.fitter
	if fitter == nil {
		return out, nil
	}
	fitted := slices.Clone(out)
	if out == nil {
		for col, h := range s.Columns.Headings[:s.Columns.Own()] {
			fitted = append(fitted, line.OutColumn{Col: col, Heading: h})
		}
	}
	changed := false
	for i := range fitted {
		h := &fitted[i].Heading
		if fitter.Has(*h) {
			continue
		}
		text, _, bad, ok := fitter.Fit(*h, false)
		if !ok {
			return nil, fmt.Errorf("%s: %w: the heading %q has a %q. Give it another with rename under [columns], or choose UTF-8",
				s.Table.Name, ErrTarget, *h, bad)
		}
		s.Note("the encoding of the target does not have all characters of the heading %q; it is written as %q", *h, text)
		*h, changed = text, true
	}
	if !changed {
		return out, nil
	}
	return fitted, nil
}

// fit writes what stands for characters that the encoding does not have. In codes and
// links nothing may.
func fit(r *steps.RowAt, col int, cell string, kind catalogue.Kind, fitter *target.Fitter) {
	fitted, stood, bad, ok := fitter.Fit(cell, kind == catalogue.HTMLKind)
	if ok && (kind == catalogue.CodeKind || kind == catalogue.LinkKind) {
		ok, bad = false, stood[0].Of
	}
	if !ok {
		r.Find(catalogue.TargetLacks, col, cell, catalogue.Facts{Other: fmt.Sprintf("%c (%U)", bad, bad)})
		return
	}
	var said []string
	for _, s := range stood {
		said = append(said, s.String())
	}
	r.Find(catalogue.TargetStandIn, col, cell, catalogue.Facts{Other: strings.Join(said, ", ")})
	r.Set(col, fitted, catalogue.RuleStandIn, catalogue.Ordered, "")
}

// Begin names what can be said, and what fills the columns of a template.
func (*targetSection) Begin(s *Seen, b *Draft) {
	b.line("\n[target]")
	if s.Template != "" {
		b.line("template = %s", quoted(s.Template))
	}
	b.line("# ready.csv is in UTF-8; encoding = \"windows-1252\" makes it another\n# bom = true                     # with " +
		"a byte order mark\n" +
		"# as = [\"xlsx\"]                  # a workbook, too; or tsv, ods, jsonl")
	if s.Template == "" {
		b.line("# first_rows = \"keep\"            # the rows around the headings, where a platform wants its form back")
		b.line("# Where a platform gives out a form, begin with -template says what of the file fills it.")
		b.line("# job = \"update\"                # only what the shop has, by [shop] export; new is the rest, and split makes a file of each\n" +
			"# only_changed = true            # only what is not as the shop has it; where this file is itself what the shop has exported,\n" +
			"#                                # export = \"self\" under [shop] makes the file of what the rules change")
		return
	}
	b.line("# required = [\"Weight\"]          # columns that must be filled although the template does not say so")
	if groups := s.together(); groups != "" {
		b.line("# together = [%s]   # a row fills all columns of a group, or none", groups)
	}
	b.fills(s)
}

// Ask asks what the file is for, where it is known what the shop has, and what fills the columns of a template.
func (*targetSection) Ask(s *Seen) (list []Question) {
	if s.Export != "" && s.has(catalogue.SKU) {
		job := func(says string, orders ...rulebook.Order) Way { return Way{Says: says, Orders: orders} }
		list = append(list, Question{Name: "target.job", Rows: s.Rows, Blind: true, Says: fmt.Sprintf("%s says what the shop has.", s.Export), Asks: "What is the file for the importer to have?", Stay: "all products, in one file",
			Ways: []Way{job("only products that are new", set("target", "job", `"new"`)), job("only products that the shop has, to change them", set("target", "job", `"update"`)),
				job("both, in a file for each", set("target", "split", `"new-existing"`))}})
	}
	if s.Template != "" {
		list = append(list, s.askFills()...)
	}
	return slices.Concat(list, s.askUnexplained(), s.askWords(), s.askRequired())
}

// askRequired asks what stands in cells that are empty, where the template demands something.
func (s *Seen) askRequired() (list []Question) {
	for _, f := range s.Found {
		if f.Code != catalogue.TargetRequired || !f.Open || s.InForm == nil {
			continue
		}
		for n := range s.InForm.Columns {
			c := &s.InForm.Columns[n]
			fills := s.Filling[c.Name()]
			if !columns.Same(c.Heading, f.Column) || len(fills) != 1 || fills[0].From == "" || fills[0].IsPattern() {
				continue
			}
			empty := func(value string) []rulebook.Order {
				return []rulebook.Order{newOf("columns.fill", "into", quoted(fills[0].From), "with", quoted(value))}
			}
			q := Question{Name: "target.required=" + c.Name(), Rows: f.Cells, Finding: f.Code, Column: f.Column, Stay: "nothing: they stay held",
				Says: fmt.Sprintf("%s nothing under %s, which the template demands.", verb(f.Cells, "row", "has", "have"), shown(f.Column)), Asks: "What stands there in all of them?"}
			switch {
			case len(c.List) > mostListed:
				q.Ways = append(q.Ways, oneOfMany(c.List, empty))
			case len(c.List) > 0:
				for _, value := range c.List {
					q.Ways = append(q.Ways, Way{Says: value, Orders: empty(value)})
				}
			default:
				q.Ways = append(q.Ways, sameForAll("the same in all of these", nil, empty))
			}
			list = append(list, q)
			break
		}
	}
	return list
}
