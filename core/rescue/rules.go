package rescue

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

// Rules are what a shop wants of its barcodes, the [barcode] part of a
// rulebook.
type Rules struct {
	// Accept names the kinds of code that the shop takes: ean-8, upc-e, upc-a,
	// ean-13, isbn-13, gtin-14, isbn-10, issn, sscc-18. ean-13 includes isbn-13.
	// None: all that a till reads, so the first six.
	Accept []string `toml:"accept" json:"accept,omitempty"`
	// Trusted are sheets, or output folders of earlier runs, that have whole
	// codes.
	Trusted []string `toml:"trusted" json:"trusted,omitempty"`
	// WriteAs is the form in which codes are written: as-is, ean-13, gtin-14 or
	// shortest. A code that has no such form stays as it is.
	WriteAs string `toml:"write_as" json:"write_as,omitempty"`
	// AddCheckDigit orders the check digit appended where a column has left it
	// off.
	AddCheckDigit bool `toml:"add_check_digit" json:"add_check_digit,omitempty"`
	// Second is the heading of the column that takes the second of two codes in
	// one cell, if it is empty there.
	Second string `toml:"second" json:"second,omitempty"`
	// Fill names columns that, where they are empty, take the code that stands
	// whole in another column of the row, with the form: ean-13 or gtin-14.
	Fill map[string]string `toml:"fill" json:"fill,omitempty"`
}

// Default returns the rules of a shop that has said nothing.
func (Rules) Default() Rules { return Rules{WriteAs: "as-is"} }

// The forms in which codes can be written.
var forms = []string{"as-is", "ean-13", "gtin-14", "shortest"}

// Check returns what is wrong with the rules.
func (r *Rules) Check() (problems []catalogue.Problem) {
	for _, name := range r.Accept {
		if _, ok := barcode.ParseKind(name); !ok {
			problems = append(problems, catalogue.Problem{Key: "accept",
				Text: fmt.Sprintf("there is no kind of code %q; the kinds are: %s", name, kindNames())})
		}
	}
	if r.WriteAs != "" && !slices.Contains(forms, r.WriteAs) {
		problems = append(problems, catalogue.Problem{Key: "write_as",
			Text: fmt.Sprintf("there is no form %q; the forms are: %s", r.WriteAs, strings.Join(forms, " "))})
	}
	for heading, form := range r.Fill {
		if form != "ean-13" && form != "gtin-14" {
			problems = append(problems, catalogue.Problem{Key: "fill",
				Text: fmt.Sprintf("%s = %q: a column is filled with ean-13 or gtin-14", heading, form)})
		}
	}
	return problems
}

func kindNames() string {
	var names []string
	for _, k := range barcode.Kinds() {
		names = append(names, strings.ToLower(k.String()))
	}
	return strings.Join(names, " ")
}

// Accepts reports whether the shop takes codes of that kind.
func (r *Rules) Accepts(kind barcode.Kind) bool {
	if len(r.Accept) == 0 {
		return kind != barcode.ISBN10 && kind != barcode.ISSN && kind != barcode.SSCC
	}
	return r.names(kind) || kind == barcode.ISBN13 && r.names(barcode.EAN13)
}

// names reports whether the kind is named in Accept.
func (r *Rules) names(kind barcode.Kind) bool {
	return slices.ContainsFunc(r.Accept, func(s string) bool { return strings.EqualFold(s, kind.String()) })
}

// Write returns the code in the form in which it is to be written. Leading
// zeros come and go, a UPC-E becomes the UPC-A it stands for and an ISBN-10 the
// ISBN-13; an EAN-8 gets zeros only as a GTIN-14.
func (r *Rules) Write(c barcode.Code) barcode.Code {
	gtin, ok := c.GTIN()
	if !ok || c.Kind() == barcode.ISSN {
		return c // which issue of a periodical it is an ISSN does not say
	}
	switch r.WriteAs {
	case "ean-13":
		if out, ok := c.As(barcode.EAN13); ok && gtin.Number() >= barcode.Pow10(8) {
			return out
		}
	case "gtin-14":
		if out, ok := c.As(barcode.GTIN14); ok {
			return out
		}
	case "shortest":
		return gtin.Shortest()
	}
	return c
}

// Unremarkable reports whether nothing is to be said of a code that stands whole
// in the column, so that [Evidence.Object] need not be asked.
func (e *Evidence) Unremarkable(c barcode.Code) bool {
	return e.plain && c.Len() >= 12 && c.Len() <= 14
}

// Object says what is to be said of a whole code, in the form in which it goes
// out: that the shop does not take its kind, or what its first digits mean.
// NoFinding if nothing is.
func (e *Evidence) Object(c barcode.Code) (catalogue.Code, catalogue.Facts) {
	if !e.accepts[c.Kind()] {
		other := c.Kind().String()
		if gtin, ok := c.GTIN(); ok && gtin != c && c.Kind() != barcode.ISSN {
			other += " (as " + gtin.Kind().String() + " " + gtin.String() + ")"
		}
		return catalogue.BarcodeKind, catalogue.Facts{Other: article(other)}
	}
	switch class := c.Class(); class {
	case barcode.InStore, barcode.Coupon, barcode.Refund:
		return catalogue.BarcodePrefix, catalogue.Facts{Other: class.String()}
	case barcode.Carton, barcode.Measure:
		if !e.rules.names(barcode.GTIN14) {
			return catalogue.BarcodePrefix, catalogue.Facts{Other: class.String()}
		}
	case barcode.Unassigned:
		return catalogue.BarcodeUnassigned, catalogue.Facts{}
	}
	return catalogue.NoFinding, catalogue.Facts{}
}

// article puts "a" or "an" before the name of a kind, as it is spoken.
func article(kind string) string {
	if strings.HasPrefix(kind, "U") || strings.HasPrefix(kind, "G") {
		return "a " + kind
	}
	return "an " + kind
}
