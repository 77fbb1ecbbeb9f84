package cli

import (
	"cmp"
	"errors"
	"flag"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/reference"
	"zetanum/core/repair"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
	"zetanum/core/workbook"
	"zetanum/internal/terminal"
)

type inspectCommand struct {
	sourceFlags
	jsonFlag
	all  bool
	find string
	cell string

	template string

	first bool // without its name: the most important on one screen
}

func (*inspectCommand) about() about {
	return about{
		name: "inspect", args: "FILE…",
		short: "look at files, change nothing, and print the next command",
		long: "Reads each file once and says what it is, what its columns mean and how far they are filled, and what state its " +
			"barcodes are in. " +
			"Nothing is written. “zetanum FILE” without a command says the most important of a file on one screen, and with -all this.",
		examples: []string{"zetanum inspect saltmarsh-export.csv", "zetanum inspect wick-and-wax.xlsx -sheet all",
			"zetanum inspect saltmarsh-export.csv -cell 12,Barcode", "zetanum inspect wick-and-wax.xlsx -template shop-form.xlsx"},
	}
}

func (o *inspectCommand) flags(f *flag.FlagSet) {
	o.sourceFlags.flags(f)
	o.jsonFlag.flags(f)
	f.BoolVar(&o.all, "all", false, "show empty columns, too")
	f.StringVar(&o.find, "find", "", "show only the columns that have to do with a `WORD`: in their heading, their meaning or "+
		"their examples")
	f.StringVar(&o.cell, "cell", "", "show one cell in full, `ROW,HEADING`")
	f.StringVar(&o.template, "template", "", "explain an import template, a `FILE` as the shop's platform gives it out, and what of the file would fill it")
}

func (o *inspectCommand) run(s *session, files []string) (int, error) {
	if o.template != "" {
		return o.explain(s, files)
	}
	if len(files) == 0 {
		return exitUsage, usagef("name a file, or - for standard input")
	}
	if o.cell != "" {
		return o.showCell(s, files)
	}
	if o.first && !o.json && !o.all && o.find == "" && o.sheet != "all" {
		return o.overviews(s, files)
	}
	all := make([]*jsonResult, 0, len(files))
	each, failed := o.eachSheet(files)
	most := -1 // rows of the sheet whose next command is said: of several the largest that people see
	for i, one := range each {
		file := one.file
		opt, err := o.options(s, file, "")
		if err != nil {
			return exitFailed, err
		}
		if one.sheet != nil {
			opt.Sheet = one.sheet.Name
		}
		opt.AnyHeadings = one.sheet == nil // of several sheets some are no tables
		var r *repair.Result
		why, err := s.follow(&opt, false, func() (err error) {
			r, err = repair.Look(s.ctx, opt)
			return err
		})
		if r != nil {
			r.NotFollowed = why
		}
		if err != nil && wrongRules(err) {
			return exitUsage, usagef("%v", err)
		}
		if err != nil && one.sheet != nil && (errors.Is(err, sheet.ErrNoTable) || errors.Is(err, sheet.ErrHeadings) || errors.Is(err, sheet.ErrNoColumn)) {
			if p := s.printer(); !o.json {
				if i > 0 {
					p.Line()
				}
				p.WrapHanging("", "  ", p.Bold("sheet "+quoted(one.sheet.Name))+p.Faint(hiddenSheet(one.sheet))+": "+sheetTrouble(err))
			}
			continue
		}
		if err != nil {
			failed = errors.Join(failed, err)
			continue
		}
		next := o.next(file, opt.Sheet, r)
		if o.json {
			j := newJSONResult(r)
			j.Next = next
			for _, m := range r.Models {
				lines, _ := m.Seen()
				j.Codes = append(j.Codes, jsonCodes{r.Source.Columns.Headings[m.Col], lines})
			}
			all = append(all, j)
			continue
		}
		if s.offers {
			next = ""
		}
		p := s.printer()
		if i > 0 {
			p.Line()
		}
		o.print(p, r, next)
		rows := r.Survey.Rows
		if one.sheet != nil && one.sheet.Hidden {
			rows = 0
		}
		if rows > most {
			most = rows
			s.suggest(next)
		}
	}
	switch {
	case !o.json || len(files) == 1 && failed != nil:
	default:
		failed = errors.Join(failed, s.encodeEach(all, len(files)))
	}
	if failed != nil {
		return exitFailed, failed
	}
	return exitOK, nil
}

// overviews says the most important of each file; of one that has no headings that are known, all that can be said.
func (o *inspectCommand) overviews(s *session, files []string) (status int, failed error) {
	o.first = false
	for i, file := range files {
		if i > 0 {
			s.printer().Line()
		}
		err := o.overview(s, file)
		if errors.Is(err, sheet.ErrHeadings) && file != "-" {
			_, err = o.run(s, []string{file})
		}
		if err != nil && (wrongRules(err) || isUsage(err)) {
			status = exitUsage
		} else if err != nil {
			status = max(status, exitFailed)
		}
		failed = errors.Join(failed, err)
	}
	return status, failed
}

// isUsage reports whether an error says that the command line is wrong.
func isUsage(err error) bool {
	var usage *usageError
	return errors.As(err, &usage)
}

// A oneSheet is what is looked at: a file, or a sheet of it.
type oneSheet struct {
	file  string
	sheet *sheet.Named // nil: the one that is read if nothing is said
}

// eachSheet returns what is looked at: with -sheet all every sheet of each file.
func (o *inspectCommand) eachSheet(files []string) (each []oneSheet, failed error) {
	for _, file := range files {
		if !strings.EqualFold(o.sheet, "all") {
			each = append(each, oneSheet{file: file})
			continue
		}
		sheets, err := sheet.Sheets(file)
		failed = errors.Join(failed, err)
		for i := range sheets {
			each = append(each, oneSheet{file, &sheets[i]})
		}
	}
	return each, failed
}

func hiddenSheet(s *sheet.Named) string {
	if s.Hidden {
		return " (not shown in the workbook)"
	}
	return ""
}

// sheetTrouble says why a sheet has no table.
func sheetTrouble(err error) string {
	var e *sheet.Error
	if !errors.As(err, &e) {
		return err.Error()
	}
	if e.More == "" {
		return e.Err.Error()
	}
	return e.Err.Error() + " (" + e.More + ")"
}

func wereDecoded(n int) string {
	if n == 1 {
		return "1 cell was"
	}
	return thousands(n) + " cells were"
}

// showCell shows one cell in full, and what cannot be seen in it.
func (o *inspectCommand) showCell(s *session, files []string) (int, error) {
	number, name, ok := strings.Cut(o.cell, ",")
	row, err := strconv.Atoi(strings.TrimSpace(number))
	if !ok || err != nil || len(files) != 1 {
		return exitUsage, usagef("-cell %s: write the number of the row and a heading or field, so: -cell 12,Title; and name one file",
			o.cell)
	}
	opt, err := o.options(s, files[0], "")
	if err != nil {
		return exitFailed, err
	}
	var content, h string
	err = s.do(&opt, func() (err error) {
		content, h, err = repair.Cell(s.ctx, opt, row, strings.TrimSpace(name))
		return err
	})
	if err != nil {
		return exitFailed, err
	}
	if o.json {
		return exitOK, s.encode(map[string]any{"row": row, "column": h, "cell": content})
	}
	p := s.printer()
	p.Line(p.Bold(fmt.Sprintf("Row %d, %s", row, h)) + p.Faint(", "+plural(utf8.RuneCountInString(content), "character", "characters")))
	p.Line(content)
	if seen := text.Visible(content); seen != content {
		p.Head("With what cannot be seen")
		p.Line(seen)
	}
	return exitOK, nil
}

// attributesOf returns how full the attributes of a file are that was looked at.
func attributesOf(r *repair.Result) (list []repair.Attribute) {
	for col := range r.Source.Columns.Own() {
		if !r.Source.Columns.IsAttribute(col) {
			continue
		}
		list = append(list, repair.Attribute{Column: r.Heading(col), Filled: r.Fill[col].Filled, Of: max(r.Fill[col].Filled, r.Survey.Rows-r.ImageRows)})
	}
	return list
}

// distinct says how many different values a column has.
func distinct(f *steps.ColumnFill) string {
	if f.About {
		return "≈ " + thousands(roughly(f.Distinct))
	}
	return thousands(f.Distinct)
}

// roughly leaves two digits of a number that is only near.
func roughly(n int) int {
	unit := 1
	for n/unit >= 100 {
		unit *= 10
	}
	return (n + unit/2) / unit * unit
}

// examples shows the first values of a column on one line.
func examples(cells []string) string {
	var shown []string
	for _, c := range cells {
		shown = append(shown, visible(c, 44/len(cells)))
	}
	return strings.Join(shown, " · ")
}

// productsHave says how many rows the products have that are not their first.
func productsHave(r *repair.Result) string {
	if r.Survey.Products == 1 {
		return "the product has"
	}
	return "some of the " + thousands(r.Survey.Products) + " products have"
}

// next returns the next command: the repair or, where no heading is known, the look with what
// the columns seem to mean.
func (o *inspectCommand) next(file, sheet string, r *repair.Result) string {
	if !r.Unknown {
		return o.repairs(file, sheet)
	}
	words := o.source(file, sheet)
	if r.Source.Heading == 0 && !o.reading.NoHeadings {
		words = append(words, "-no-headings")
	}
	for _, col := range slices.Sorted(maps.Keys(r.Meant)) {
		words = append(words, "-field", quoted(r.Source.Columns.Headings[col]+"="+r.Meant[col].String()))
	}
	if len(r.Meant) == 0 {
		words = append(words, "-field", `"HEADING=sku"`)
	}
	return "zetanum inspect " + strings.Join(words, " ")
}

// printKeys says which columns could tell the rows apart where none is known as the SKU, and
// that no heading is known.
func (o *inspectCommand) printKeys(p *terminal.Printer, r *repair.Result) {
	if r.Unknown {
		p.WrapHanging("", "  ", p.Open("None of the headings is known.")+" What stands under “field” is what the columns hold. Say with -field "+
			"“HEADING=FIELD” what they mean; the fields are: "+strings.Join(catalogue.FieldNames(), " ")+".")
	}
	if len(r.Keys) == 0 {
		return
	}
	var names []string
	for _, k := range r.Keys {
		names = append(names, fmt.Sprintf("%s (%s different of %s)", p.Bold(r.Source.Columns.Headings[k.Col]), thousands(k.Distinct), thousands(r.Survey.Rows)))
	}
	h := r.Source.Columns.Headings[r.Keys[0].Col]
	p.WrapHanging("", "  ", fmt.Sprintf("No column is known as the SKU. %s could be: -field %s says so", strings.Join(names, " or "), quoted(h+"=sku")))
}

func (o *inspectCommand) print(p *terminal.Printer, r *repair.Result, next string) {
	printSource(p, r)
	if e := r.Source.Evidence; e != "" && r.Source.Doubt == "" {
		p.WrapHanging("", "  ", "The encoding: "+e+".")
	}
	if r.NotFollowed != "" {
		p.WrapHanging("", "  ", p.Open(r.NotFollowed))
	}
	p.Line()
	p.Linef("%s below the headings, %s, %s%s",
		p.Bold(plural(r.Survey.Rows, "row", "rows")), plural(r.Survey.Products, "product", "products"),
		plural(len(r.Fill), "column", "columns"), rowsOf(r, r.Survey.Products))
	t := &terminal.Table{Headings: []string{"column", "field", "filled", "distinct", "examples"}, Right: []int{2, 3}}
	if r.Further > 0 {
		t.Headings, t.Right = []string{"column", "field", "lead rows", "others", "distinct", "examples"}, []int{2, 3, 4}
		p.WrapHanging("", "  ", p.Faint(fmt.Sprintf("%s more than one row; the first of a product is its lead row", productsHave(r))))
	}
	if r.KeyLike != "" {
		p.WrapHanging("", "  ", fmt.Sprintf("%s seems to say which rows are one product; together_by = %q under [products] in a "+
			"rulebook makes it so", p.Bold(r.KeyLike), r.KeyLike))
	}
	o.printKeys(p, r)
	var blank []string
	if o.find != "" {
		t.Headings = append(t.Headings, "where")
	}
	for i, h := range r.Source.Columns.Headings[:r.Source.Columns.Own()] {
		f := &r.Fill[i]
		if o.find != "" && !r.About(i, o.find) {
			continue
		}
		if f.Filled == 0 && !o.all && o.find == "" {
			blank = append(blank, h)
			continue
		}
		field := cmp.Or(r.Source.Columns.Fields[i].String(), "–")
		if r.Unknown && field == "–" {
			field = cmp.Or(r.Holds[i], "–")
		}
		counts := []string{thousands(f.Filled)}
		if r.Further > 0 {
			counts = []string{thousands(f.Lead), thousands(f.Filled - f.Lead)}
		}
		t.Rows = append(t.Rows, slices.Concat([]string{catalogue.Shorten(r.Heading(i), 28), field}, counts,
			[]string{distinct(f), examples(f.Examples)}))
		if o.find != "" {
			last := &t.Rows[len(t.Rows)-1]
			*last = append(*last, "column "+strconv.Itoa(i+1)+" ("+workbook.ColumnName(i)+")")
		}
	}
	if o.find != "" {
		p.Head("Columns that have to do with " + o.find)
		if len(t.Rows) == 0 {
			p.Line("  none")
		}
		p.Table(t)
		return
	}
	p.Head("Columns")
	p.Table(t)
	printAttributes(p, attributesOf(r), false)
	if r.Survey.Rows == len(r.Sample) {
		showRows(p, "All rows, under what their columns mean", &r.Source.Columns, r.Sample, func(i int) int { return r.Source.Heading + i + 1 })
	}
	if len(blank) > 0 {
		p.WrapHanging("", "  ", p.Faint("Empty, and left out here (-all shows them): "+strings.Join(blank, ", ")+"."))
	}
	for _, alike := range reference.AlikeGroups(r.Source.Columns.Headings[:r.Source.Columns.Own()]) {
		if r.Source.Heading == 0 {
			break // they are made up
		}
		p.WrapHanging("", "  ", "Look alike: "+strings.Join(alike, ", ")+
			". Whoever takes values from here by name should look which one is meant.")
	}
	if len(r.Unlike) > 0 {
		p.Head("To look at")
		for _, u := range r.Unlike {
			p.WrapHanging("  ", "    ", p.Open(r.Heading(u.Col))+": "+u.Sentence())
		}
	}
	if r.Garbled() > 0 {
		p.Head("Texts")
		for i, f := range r.Fill {
			if f.Misread > 0 {
				p.WrapHanging("  ", "    ", fmt.Sprintf("%s: %s decoded wrongly on the way, such as %s, which was %s",
					r.Source.Columns.Headings[i], wereDecoded(f.Misread), visible(f.Garbled, 40), f.Meant))
			}
		}
	}
	lost := false
	for _, m := range r.Models {
		p.Head("Barcodes in " + r.Source.Columns.Headings[m.Col])
		lines, some := m.Seen()
		lost = lost || some
		for _, l := range lines {
			p.WrapHanging("  ", "    ", l)
		}
	}
	if !lost || next == "" {
		return
	}
	p.Line()
	if found := lookBeside(r, r.Lost); len(found) > 0 {
		beside(p, r, found)
	} else {
		p.WrapHanging("  ", "  ", fmt.Sprintf("Some barcodes have lost digits. If another sheet still has them (an older export, a "+
			"stock-take), add: -trust %s", "SHEET"))
	}
}
