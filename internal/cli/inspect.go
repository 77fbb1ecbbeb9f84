package cli

import (
	"flag"
	"fmt"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/reference"
	"zetanum/core/repair"
	"zetanum/internal/terminal"
)

func inspectCommand() *command {
	return &command{
		name: "inspect", args: "FILE…",
		short: "look at files, change nothing, and print the next command",
		long: "Reads each file once and says what it is, what its columns mean and how far they are filled, and what state its barcodes are in. " +
			"Nothing is written. “zetanum FILE” does the same.",
		flags: func(o *options, f *flag.FlagSet) {
			sourceFlags(o, f)
			f.BoolVar(&o.all, "all", false, "show empty columns, too")
		},
		run: (*session).inspectFiles,
	}
}

func (s *session) inspectFiles(o *options, files []string) (int, error) {
	if len(files) == 0 {
		return exitUsage, usagef("name a file, or - for standard input")
	}
	var all []*jsonResult
	for i, file := range files {
		opt, err := s.repair(o, file)
		if err != nil {
			return exitFailed, err
		}
		var r *repair.Result
		err = s.do(&opt, func() (err error) {
			r, err = repair.Look(s.ctx, opt)
			return err
		})
		if err != nil && wrongRules(err) {
			return exitUsage, usagef("%v", err)
		}
		if err != nil {
			return exitFailed, err
		}
		next := nextCommand(o, file)
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
		p := s.printer()
		if i > 0 {
			p.Line()
		}
		printLook(p, r, next, o.all)
	}
	if len(all) == 1 {
		return exitOK, s.encode(all[0])
	}
	if o.json {
		return exitOK, s.encode(all)
	}
	return exitOK, nil
}

// nextCommand is the command that repairs what was looked at.
func nextCommand(o *options, file string) string {
	words := []string{"zetanum", "repair", quoted(file)}
	if o.sheet != "" {
		words = append(words, "-sheet", quoted(o.sheet))
	}
	for _, said := range [][2]string{{"member", o.member}, {"encoding", o.reading.Encoding}, {"separator", o.reading.Separator}, {"quote", o.reading.Quote}} {
		if said[1] != "" {
			words = append(words, "-"+said[0], quoted(said[1]))
		}
	}
	if n := o.reading.HeadingRow; n > 0 {
		words = append(words, "-heading-row", strconv.Itoa(n))
	}
	if o.reading.NoHeadings {
		words = append(words, "-no-headings")
	}
	for h, f := range o.fields {
		words = append(words, "-field", quoted(h+"="+f.String()))
	}
	return strings.Join(words, " ")
}

func wereDecoded(n int) string {
	if n == 1 {
		return "1 cell was"
	}
	return thousands(n) + " cells were"
}

// distinct says how many different values a column has.
func distinct(f *repair.ColumnFill) string {
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

func printLook(p *terminal.Printer, r *repair.Result, next string, all bool) {
	printSource(p, r)
	if e := r.Source.Evidence; e != "" && r.Source.Doubt == "" {
		p.WrapHanging("", "  ", "The encoding: "+e+".")
	}
	p.Line()
	p.Linef("%s below the headings, %s, %s",
		p.Bold(plural(r.Survey.Rows, "row", "rows")), plural(r.Survey.Products, "product", "products"), plural(len(r.Fill), "column", "columns"))
	t := &terminal.Table{Headings: []string{"column", "field", "filled", "distinct", "examples"}, Right: []int{2, 3}}
	var blank []string
	for i, h := range r.Source.Columns.Headings[:r.Source.Columns.Own()] {
		f := &r.Fill[i]
		if f.Filled == 0 && !all {
			blank = append(blank, h)
			continue
		}
		field := r.Source.Columns.Fields[i].String()
		if field == "" {
			field = "–"
		}
		t.Rows = append(t.Rows, []string{
			catalogue.Shorten(h, 28), field, thousands(f.Filled), distinct(f), examples(f.Examples),
		})
	}
	p.Head("Columns")
	p.Table(t)
	if len(blank) > 0 {
		p.WrapHanging("", "  ", p.Faint("Empty, and left out here (-all shows them): "+strings.Join(blank, ", ")+"."))
	}
	for _, alike := range reference.AlikeGroups(r.Source.Columns.Headings[:r.Source.Columns.Own()]) {
		p.WrapHanging("", "  ", "Look alike: "+strings.Join(alike, ", ")+". Whoever takes values from here by name should look which one is meant.")
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
	p.Head("Next")
	p.Line("  ", next)
	if lost {
		p.WrapHanging("  ", "  ", fmt.Sprintf("Some barcodes have lost digits. If another sheet still has them (an older export, a stock-take), add: -trust %s", "SHEET"))
	}
}
