package rulebook

import (
	"fmt"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
)

// Seen is what a look at a file found that a rulebook could say something about.
type Seen struct {
	File    string
	Columns []SeenColumn
	Found   []SeenFinding
	Trusted []string // sheets that lie beside the file and may have whole codes
}

// A SeenColumn is a column of the file.
type SeenColumn struct {
	Heading string
	Field   catalogue.Field
	Filled  int
	Example string
}

// A SeenFinding is how often something was found in a column.
type SeenFinding struct {
	Code   catalogue.Code
	Column string
	Cells  int
}

// Begin writes a rulebook to start from. Every order in it is a comment, because
// it is a judgement: as it stands the rulebook changes nothing.
func Begin(s *Seen) string {
	b := new(beginning)
	b.line("# How this shop wants its catalogue: a rulebook for %s.", clean(s.File))
	b.line("# Take the # off a line to give the order. “zetanum help rulebook” explains every key.")
	b.headings(s.Columns)
	b.columns(s.Columns)
	b.rows(s.Columns)
	b.replace(s.Columns)
	b.barcode(s)
	return b.String()
}

type beginning struct{ strings.Builder }

func (b *beginning) line(format string, args ...any) { fmt.Fprintf(b, format+"\n", args...) }

// clean makes a text fit for a comment.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == '\ufffd' {
			return ' '
		}
		return r
	}, catalogue.Shorten(s, 60))
}

// quoted writes a text as a TOML string.
func quoted(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r < ' ' || r == 0x7f:
			fmt.Fprintf(&b, `\u%04X`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('"')
	return b.String()
}

func (b *beginning) headings(columns []SeenColumn) {
	b.line("\n[headings]")
	b.line("# What headings mean that are not recognised: a heading, and one of the fields")
	for _, names := range wrapped(catalogue.FieldNames(), 70) {
		b.line("#   %s", names)
	}
	for _, c := range columns {
		if c.Field == catalogue.Unknown && c.Heading != "" {
			b.line("# %s = \"\"   # %s filled, for example %s", quoted(c.Heading), plural(c.Filled, "row"), clean(c.Example))
		}
	}
}

// wrapped puts words together in lines.
func wrapped(words []string, width int) (lines []string) {
	line := ""
	for _, w := range words {
		if line != "" && len(line)+1+len(w) > width {
			lines, line = append(lines, line), ""
		}
		if line != "" {
			line += " "
		}
		line += w
	}
	return append(lines, line)
}

func (b *beginning) columns(columns []SeenColumn) {
	var drop, sku []string
	language := false
	for _, c := range columns {
		switch {
		case c.Heading != "" && (c.Filled == 0 || c.Field == catalogue.Unknown):
			drop = append(drop, quoted(c.Heading))
		case c.Field == catalogue.SKU && len(sku) == 0:
			sku = append(sku, c.Heading)
		}
		language = language || c.Field == catalogue.Language
	}
	b.line("\n[columns]")
	if len(drop) > 0 {
		b.line("# Columns that are empty, or whose meaning nobody has said:")
		b.line("# drop   = [%s]", strings.Join(drop, ", "))
	}
	if len(sku) > 0 && !strings.EqualFold(sku[0], "SKU") {
		b.line("# rename = { %s = \"SKU\" }", quoted(sku[0]))
	}
	if !language {
		b.line("# add    = { \"Language\" = \"en\" }   # the same in every row")
	}
	b.line("# order  = [\"sku\", \"title\"]")
}

func (b *beginning) rows(columns []SeenColumn) {
	for _, c := range columns {
		if (c.Field == catalogue.Category || c.Field == catalogue.Brand) && c.Example != "" {
			b.line("\n# Only some of the products, whole ones:")
			b.line("# [[rows]]\n# keep = { %s = %s }", c.Field, quoted(c.Example))
			return
		}
	}
}

func (b *beginning) replace(columns []SeenColumn) {
	for _, c := range columns {
		if c.Field == catalogue.Title {
			b.line("\n# [[replace]]\n# in   = [\"title\"]\n# find = \"st. steel\"        # whole words, whatever their case\n# with = \"stainless steel\"")
			return
		}
	}
}

// orders are what [barcode] can say about a finding.
var orders = []struct {
	code  catalogue.Code
	order string
}{
	{catalogue.BarcodeNoCheckDigit, "add_check_digit = true"},
	{catalogue.BarcodeTwoCodes, `second = "EAN 2"             # a column for the second code`},
	{catalogue.BarcodeKind, `accept = ["ean-13", "upc-a"]   # or write_as = "ean-13", for an ISBN-10`},
}

func (b *beginning) barcode(s *Seen) {
	b.line("\n[barcode]")
	b.line("# write_as = \"ean-13\"            # as-is, ean-13, gtin-14, shortest")
	lost := 0
	for _, f := range s.Found {
		switch f.Code {
		case catalogue.BarcodeRounded, catalogue.BarcodeFlattened, catalogue.BarcodeShared, catalogue.BarcodeReplaced:
			lost += f.Cells
		}
		for _, o := range orders {
			if o.code == f.Code {
				b.line("# %s in %s: %s", plural(f.Cells, "cell"), clean(f.Column), o.code.Entry().Title)
				b.line("# %s", o.order)
			}
		}
	}
	if lost > 0 {
		trusted := []string{quoted("stock-take.xlsx")}
		if len(s.Trusted) > 0 {
			trusted = nil
			for _, name := range s.Trusted {
				trusted = append(trusted, quoted(name))
			}
		}
		b.line("# %s lost digits; sheets that may have them:", plural(lost, "code"))
		b.line("# trusted = [%s]", strings.Join(trusted, ", "))
	}
}

func plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return strconv.Itoa(n) + " " + word + "s"
}
