package rulebook

import (
	"fmt"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/reference"
)

// Seen is what a look at a file found that a rulebook could say something about.
type Seen struct {
	File    string
	Columns []SeenColumn
	Found   []SeenFinding
	Trusted []string // sheets that lie beside the file and may have whole codes

	KeyLike string // a column that seems to say which rows are one product

	// Export is a good export of the shop, or "", and Shop what it shows.
	Export string
	Shop   []reference.Studied
}

// A SeenColumn is a column of the file.
type SeenColumn struct {
	Heading string
	Field   catalogue.Field
	Filled  int
	Example string
	Same    bool // all cells that are not empty say the same, and some are empty
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
	if s.File == "" {
		b.line("# How this shop wants its catalogue.")
	} else {
		b.line("# How this shop wants its catalogue: a rulebook for %s.", clean(s.File))
	}
	b.line("# Take the # off a line to give the order. “zetanum help rulebook” explains every key.")
	if s.File != "" {
		b.headings(s.Columns)
		b.columns(s.Columns)
		b.constants(s.Columns)
		b.products(s)
		b.rows(s)
		b.borrow(s)
		b.replace(s.Columns)
	}
	b.fields(s)
	b.barcode(s)
	b.line("\n[text]\n# quotes = \"plain\"               # “curly” ones are kept, if nothing is said")
	b.line("\n[target]\n# ready.csv is in UTF-8; encoding = \"windows-1252\" makes it another\n# bom = true                     # with a byte order mark\n# as = [\"xlsx\"]                  # a workbook, too; or tsv, ods, jsonl\n# first_rows = \"keep\"            # the rows around the headings, where a platform wants its form back")
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
	b.line("# The headings of the file; one with others is met with what differs, before anything runs.")
	var expect []string
	for _, c := range columns {
		if c.Heading != "" {
			expect = append(expect, quoted(c.Heading)+",")
		}
	}
	if expect != nil {
		b.line("expect = [")
		for _, line := range wrapped(expect, 76) {
			b.line("  %s", line)
		}
		b.line("]")
	}
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

// constants proposes to fill columns in which all rows that say anything say the same.
func (b *beginning) constants(columns []SeenColumn) {
	for _, c := range columns {
		if c.Same && c.Heading != "" {
			b.line("\n# %s of %s say the same, and the others nothing:", plural(c.Filled, "row"), clean(c.Heading))
			b.line("# [[columns.fill]]\n# into = %s\n# with = %s", quoted(c.Heading), quoted(c.Example))
		}
	}
}

// settled are what [products] can say about a finding.
var settled = []struct {
	code  catalogue.Code
	order string
}{
	{catalogue.ProductScattered, "regroup = true                # brings them together"},
	{catalogue.ProductDiffers, `differ = "lead"               # what the lead row says counts`},
	{catalogue.ProductMisplaced, `misplaced = "move"            # to the lead row`},
	{catalogue.OptionPerhapsAlike, `told_apart_by = ["colour", "size"]   # what variants differ in`},
	{catalogue.ProductPerhapsNoVariants, `parents = { "Row kind" = "parent" }   # which rows are parents`},
}

// products says what could be settled about products of several rows.
func (b *beginning) products(s *Seen) {
	head := s.KeyLike != ""
	if head {
		b.line("\n[products]\n# It seems to say which rows are one product:\n# together_by = %s", quoted(s.KeyLike))
	}
	for _, o := range settled {
		cells := 0
		for _, f := range s.Found {
			if f.Code == o.code {
				cells += f.Cells
			}
		}
		if cells == 0 {
			continue
		}
		if !head {
			head = true
			b.line("\n[products]")
		}
		b.line("# %s: %s", plural(cells, "row"), o.code.Entry().Title)
		b.line("# %s", o.order)
	}
}

func (b *beginning) rows(s *Seen) {
	for _, f := range s.Found {
		if f.Code == catalogue.SKUDuplicate {
			b.line("\n# %s with an SKU that another has, too. Only one of each goes out, if you say which:", plural(f.Cells, "row"))
			b.line("# [[rows]]\n# one_per = \"sku\"\n# choose  = \"last\"   # first, last, fullest")
		}
	}
	for _, c := range s.Columns {
		if (c.Field == catalogue.Category || c.Field == catalogue.Brand) && c.Example != "" {
			b.line("\n# Only some of the products, whole ones:")
			b.line("# [[rows]]\n# keep = { %s = %s }", c.Field, quoted(c.Example))
			return
		}
	}
}

// borrow proposes to take what is missing from a sheet that lies beside the file.
func (b *beginning) borrow(s *Seen) {
	if len(s.Trusted) == 0 {
		return
	}
	for _, c := range s.Columns {
		if c.Field == catalogue.SKU {
			b.line("\n# Values that another sheet has, by SKU, into cells that are empty:")
			b.line("# [[borrow]]\n# from = %s\n# by   = \"sku\"\n# take = [\"barcode\"]", quoted(s.Trusted[0]))
			return
		}
	}
}

// fields says what the fields must be, to judge by what was found and by a good
// export.
func (b *beginning) fields(s *Seen) {
	for _, f := range s.Found {
		if f.Code == catalogue.ValueSpelling {
			b.line("\n# %s in %s spelt otherwise than most:", plural(f.Cells, "cell"), clean(f.Column))
			for _, c := range s.Columns {
				if c.Heading == f.Column && c.Field != catalogue.Unknown {
					b.line("# [field.%s]\n# unify = true", c.Field)
				}
			}
		}
	}
	if s.Export == "" {
		return
	}
	b.line("\n# What %s shows of the shop:", clean(s.Export))
	for _, c := range s.Shop {
		if c.Style != "" {
			b.line("#   %s: %s", clean(c.Heading), clean(c.Style))
		}
	}
	for _, c := range s.Shop {
		if c.Field == catalogue.Unknown || c.Field == catalogue.Title || c.Field == catalogue.ImageAlt || c.Field.Kind() != catalogue.LineKind || c.Values == nil {
			continue
		}
		var some []string
		for _, v := range c.Values[:min(3, len(c.Values))] {
			some = append(some, clean(v))
		}
		b.line("\n# %s: %s", plural(len(c.Values), "value"), strings.Join(some, ", "))
		b.line("# [field.%s]\n# one_of_from   = %s\n# one_of_column = %s", c.Field, quoted(s.Export), quoted(c.Heading))
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
