package sections

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/lists"
	"zetanum/core/rescue"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// barcodeSection says what the shop wants of its barcodes.
type barcodeSection struct {
	plain
	rules *rescue.Rules
	field *lists.FieldRule // what the section says as that of a field; nil if it is not read
}

func (*barcodeSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "barcode", Line: "[barcode]", Also: fieldKeys(),
			Says: "What the shop wants of its barcodes.",
			Keys: []rulebook.Key{
				{
					Name: "accept",
					Says: "The kinds of code that the shop takes: ean-8, upc-e, upc-a, ean-13 (which includes isbn-13), isbn-13, " +
						"gtin-14, isbn-10, issn, sscc-18. Without it, all that a till reads.",
					Example: `accept = ["ean-13", "upc-a"]`,
				},
				{
					Name:    "trusted",
					Says:    "Sheets, or output folders of earlier runs, that have whole codes; like the setting ‹trust›.",
					Example: `trusted = ["stock-take.xlsx"]`,
				},
				{
					Name:    "write_as",
					Says:    "The form in which codes are written: as-is, ean-13, gtin-14 or shortest.",
					Example: `write_as = "ean-13"`,
				},
				{
					Name:    "add_check_digit",
					Says:    "Appends the check digit where a column has left it off.",
					Example: "add_check_digit = true",
				},
				{
					Name:    "second",
					Says:    "The heading of the column that takes the second of two codes in one cell.",
					Example: `second = "EAN 2"`,
				},
				{
					Name:    "fill",
					Says:    "Columns that take the code of another barcode column, where they are empty, with the form: ean-13 or gtin-14.",
					Example: `fill = { "GTIN" = "gtin-14" }`,
				},
				{
					Name: "if_open",
					Says: "What becomes of codes that cannot be settled: hold keeps their products back, as when nothing is said; blank writes " +
						"the cells empty, keep as they are in the file, and answered.csv lists them.",
					Example: `if_open = "blank"`,
				},
			},
		},
	}
}

func (s *barcodeSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "barcode", Into: &struct {
		*rescue.Rules
		*lists.FieldRule
	}{s.rules, s.field}}}
}

func (s *barcodeSection) Check() []rulebook.Problem {
	return rulebook.In("barcode", 0, s.rules.Check())
}

func (s *barcodeSection) Files() (names []*string) {
	for i := range s.rules.Trusted {
		names = append(names, &s.rules.Trusted[i])
	}
	return names
}

// Adds returns the columns that take codes of another one, and the second of two codes.
func (b *barcodeSection) Adds(s *Sheet) (names []string, err error) {
	if s.Columns.First(catalogue.Barcode) < 0 {
		return nil, nil
	}
	names = slices.Sorted(maps.Keys(b.rules.Fill))
	if b.rules.Second != "" {
		names = append(names, b.rules.Second)
	}
	return slices.DeleteFunc(names, func(name string) bool {
		return slices.ContainsFunc(s.Columns.Headings, func(h string) bool { return columns.Same(h, name) })
	}), nil
}

// Order says how the codes are judged.
func (b *barcodeSection) Order(s *Sheet) error {
	s.Codes.Rules, s.Codes.Decisions, s.Codes.Memory = *b.rules, s.Decisions, s.Memory
	if len(s.Trusted) > 0 {
		s.Codes.Source = s.Trusted
	}
	named := slices.Sorted(maps.Keys(b.rules.Fill))
	if b.rules.Second != "" {
		named = append(named, b.rules.Second)
	}
	for i := range s.Said {
		d := &s.Said[i]
		if _, err := barcode.Parse(d.Value); err != nil && d.Value != "" && strings.HasPrefix(d.Finding.String(), "barcode.") {
			return columns.Refuse("the decision on %s says that a code is %s, and that is none: %w", d.Finding, d.Value, err)
		}
	}
	for _, name := range named {
		if !slices.ContainsFunc(s.Columns.Headings, func(h string) bool { return columns.Same(h, name) }) {
			return fmt.Errorf("the column %q: %w; the headings are: %s", name, ErrOnly, strings.Join(s.Columns.Headings, ", "))
		}
	}
	return nil
}

// mostScanned is the size of the largest file without barcodes whose products are listed to be scanned: nobody
// scans more.
const mostScanned = 1 << 20

// Steps judges SKUs and barcodes: those of the sheet, and those that have been borrowed
// into a column of their own.
func (*barcodeSection) Steps(s *Sheet) error {
	s.Add(StageSKUs, steps.SKUs(&s.Sheet))
	for _, col := range s.Columns.All(catalogue.Barcode) {
		if col < s.Columns.Own() || s.borrowed(s.Columns.Headings[col]) {
			s.Add(StageBarcodes, steps.Barcodes(&s.Sheet, col))
		}
	}
	if len(s.placed[StageBarcodes]) == 0 && s.Extent <= mostScanned {
		s.Add(StageBarcodes, steps.Uncoded(&s.Sheet))
	}
	return nil
}

// codeOrders are what [barcode] can say about a finding.
var codeOrders = []struct {
	code  catalogue.Code
	order string
}{
	{catalogue.BarcodeNoCheckDigit, "add_check_digit = true"},
	{catalogue.BarcodeTwoCodes, `second = "EAN 2"             # a column for the second code`},
	{catalogue.BarcodeKind, `accept = ["ean-13", "upc-a"]   # or write_as = "ean-13", for an ISBN-10`},
}

// Begin proposes what could be settled about barcodes.
func (*barcodeSection) Begin(s *Seen, b *Draft) {
	b.line("\n[barcode]")
	b.line("# write_as = \"ean-13\"            # as-is, ean-13, gtin-14, shortest")
	lost := 0
	for _, f := range s.Found {
		switch f.Code {
		case catalogue.BarcodeRounded, catalogue.BarcodeFlattened, catalogue.BarcodeShared, catalogue.BarcodeReplaced:
			lost += f.Cells
		}
		for _, o := range codeOrders {
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

// Ask asks whether lost codes may come from a sheet that lies beside the file, and where a second one goes.
func (*barcodeSection) Ask(s *Seen) (list []Question) {
	for _, b := range s.Beside {
		if !b.Barcodes {
			continue
		}
		orders := []rulebook.Order{wordIn("barcode", "trusted", b.Sheet)}
		if s.cells(catalogue.BarcodeMissing) > 0 {
			orders = append(orders, newOf("borrow", "from", quoted(b.Sheet), "by", `"sku"`, "take", `["barcode"]`))
		}
		list = append(list, yesNo("barcode.trusted="+b.Sheet, b.Has, fmt.Sprintf("%s, beside the file, has whole codes for %d of %s whose code is lost or missing here.", b.Sheet, b.Has, plural(b.Of, "SKU")),
			"Take them from there, where the SKU is the same?", orders...))
	}
	for _, f := range s.Found {
		switch f.Code {
		case catalogue.BarcodeTwoCodes:
			name := f.Column + " 2"
			list = append(list, yesNo("barcode.second="+f.Column, f.Cells, fmt.Sprintf("Under %s, %s two codes.", shown(f.Column), hold(f.Cells, "cell")),
				fmt.Sprintf("Write the second into a column of its own, %s?", shown(name)), set("barcode", "second", quoted(name))).on(f.Code, f.Column))
		case catalogue.BarcodeKind:
			list = append(list, yesNo("barcode.write_as="+f.Column, f.Cells, fmt.Sprintf("Under %s, %s of a kind that the shop may not take.", shown(f.Column), are(f.Cells, "code")),
				"Write each code as an EAN-13, where it is one in other digits?", set("barcode", "write_as", `"ean-13"`)).on(f.Code, f.Column))
		}
	}
	return list
}
