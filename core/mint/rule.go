package mint

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/pattern"
)

// A Rule makes codes where there are none: [[mint]].
type Rule struct {
	// Into names the column, which is added if it is not there.
	Into string `toml:"into" json:"into,omitempty"`
	// From is the pattern; Same is the one where it makes a code that is there already.
	From string `toml:"from" json:"from,omitempty"`
	Same string `toml:"same" json:"same,omitempty"`
	// By names the columns that tell products apart; the title and the options if it is empty.
	By []string `toml:"by" json:"by,omitempty"`
	// Series gives rows that were copied with their codes the next ones: what is fixed and the width of the number are
	// read off the code. InStep are columns that are counted up by as much, where they still have what was copied.
	Series bool     `toml:"series" json:"series,omitempty"`
	InStep []string `toml:"in_step" json:"in_step,omitempty"`
	// InsteadOf names the column with the code of the supplier, in place of which the codes are made: products are
	// told apart by it, it does not go out, and which is which is remembered.
	InsteadOf string `toml:"instead_of" json:"instead_of,omitempty"`
	// Over replaces the codes that are there.
	Over bool `toml:"over" json:"over,omitempty"`
	// Avoid names sheets whose codes are not issued again.
	Avoid []string `toml:"avoid" json:"avoid,omitempty"`

	// CompanyPrefix is a GS1 company prefix that the shop owns, and ShopPrefix digits of a range for
	// use inside one company; barcodes are made of them in place of a pattern.
	CompanyPrefix string `toml:"company_prefix" json:"company_prefix,omitempty"`
	ShopPrefix    string `toml:"shop_prefix" json:"shop_prefix,omitempty"`
	// As is the kind of the barcodes: "ean-13", if nothing is said, "upc-a", "gtin-14", "ean-8".
	As string `toml:"as" json:"as,omitempty"`
	// Indicator is the first digit of a GTIN-14, 1 to 8: which pack of the item it is.
	Indicator int `toml:"indicator" json:"indicator,omitempty"`
	// FirstItem is the number of the first item of the prefix that is free.
	FirstItem uint64 `toml:"first_item" json:"first_item,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *Rule) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if r.Into == "" {
		wrong("into", `names the column for the codes, for example into = "sku"`)
	}
	ways := 0
	for _, way := range []string{r.From, r.CompanyPrefix, r.ShopPrefix} {
		if way != "" {
			ways++
		}
	}
	if len(r.InStep) > 0 && !r.Series {
		wrong("in_step", "goes with series = true")
	}
	switch {
	case r.Series && (ways > 0 || r.Same != "" || r.Over || r.InsteadOf != ""):
		wrong("series", "goes on from the codes that are there, so that nothing else says of what they are made; write another [[mint]] "+
			"for rows without a code")
	case r.Series:
	case ways == 0:
		wrong("from", "says of what the codes are made, for example from = \"{brand upper first 2}-{counter 4}\"; barcodes are made "+
			"of the company_prefix that you own")
	case ways > 1:
		wrong("from", "only one of from, company_prefix and shop_prefix says of what the codes are made")
	case r.From != "":
		r.checkPattern(wrong)
	default:
		r.checkPrefix(wrong)
	}
	return append(problems, r.Scope.Check()...)
}

func (r *Rule) checkPattern(wrong func(key, format string, args ...any)) {
	for key, text := range map[string]string{"from": r.From, "same": r.Same} {
		if text == "" {
			continue
		}
		if _, err := pattern.ParseCode(text); err != nil {
			wrong(key, "%v", err)
		}
	}
	for key, said := range map[string]bool{"as": r.As != "", "indicator": r.Indicator != 0, "first_item": r.FirstItem != 0} {
		if said {
			wrong(key, "goes with company_prefix or shop_prefix")
		}
	}
}

// The kinds of barcodes that are made, with the digits that stand before the check digit.
var kinds = map[string]int{"ean-13": 12, "upc-a": 11, "gtin-14": 13, "ean-8": 7}

func (r *Rule) checkPrefix(wrong func(key, format string, args ...any)) {
	key, prefix := "company_prefix", r.CompanyPrefix
	if prefix == "" {
		key, prefix = "shop_prefix", r.ShopPrefix
	}
	size, known := kinds[r.kind()]
	switch {
	case r.Same != "":
		wrong("same", "goes with a pattern; barcodes of a prefix are all different")
	case !known:
		wrong("as", `is "ean-13", "upc-a", "gtin-14" or "ean-8"`)
		return
	case r.kind() == "gtin-14" && (r.Indicator < 1 || r.Indicator > 8):
		wrong("indicator", "says from 1 to 8 which pack of the item a GTIN-14 is of")
		return
	case r.kind() != "gtin-14" && r.Indicator != 0:
		wrong("indicator", `goes with as = "gtin-14"`)
	}
	if strings.Trim(prefix, "0123456789") != "" {
		wrong(key, "has nothing but digits")
		return
	}
	least, most := 4, size-1
	if r.kind() == "gtin-14" {
		most--
	}
	if key == "shop_prefix" {
		least = 2
	} else if r.kind() == "ean-8" {
		least = 3
	}
	if len(prefix) < least || len(prefix) > most {
		wrong(key, "has from %d to %d digits for %s, not %d; it is the number that your GS1 organisation gave you, without the digits "+
			"of an item and without the check digit", least, most, r.kind(), len(prefix))
		return
	}
	class := r.class(prefix, size)
	switch {
	case key == "company_prefix" && class != barcode.Ordinary && class != barcode.Demo:
		wrong(key, "%s begins what is not given to companies as their own: %s", prefix, class)
	case key == "shop_prefix" && class != barcode.InStore:
		wrong(key, "%s is not for use inside one company's shops; such numbers begin with 20 to 29", prefix)
	}
	if items := barcode.Pow10(r.items()); r.FirstItem >= items {
		wrong("first_item", "is below %s, because %d digits are left for the items", catalogue.Thousands(items), r.items())
	}
}

// class returns what the barcodes of a prefix are for.
func (r *Rule) class(prefix string, size int) barcode.Class {
	digits := prefix + strings.Repeat("0", size-len(prefix)+1)
	if r.kind() == "gtin-14" {
		digits = digits[:len(digits)-1]
	}
	n, _ := barcode.Number(digits)
	return barcode.ClassOf(n)
}

func (r *Rule) kind() string {
	if r.As == "" {
		return "ean-13"
	}
	return r.As
}

// items returns how many digits are left for the items of a prefix.
func (r *Rule) items() int {
	n := kinds[r.kind()] - len(r.CompanyPrefix+r.ShopPrefix)
	if r.kind() == "gtin-14" {
		n--
	}
	return n
}

// Patterns returns the pattern of the codes, and the one where these are there already, or nil. A series has none.
func (r *Rule) Patterns() (from, same *pattern.Pattern, err error) {
	if r.Series {
		return nil, nil, nil
	}
	text := r.From
	if text == "" {
		text = fmt.Sprintf("%s{counter %d}{check gtin}", r.CompanyPrefix+r.ShopPrefix, r.items())
		if r.kind() == "gtin-14" {
			text = fmt.Sprint(r.Indicator) + text
		}
	}
	if from, err = pattern.ParseCode(text); err == nil && r.Same != "" {
		same, err = pattern.ParseCode(r.Same)
	}
	return from, same, err
}

// String says the rule in words.
func (r *Rule) String() string {
	into := catalogue.OneLine(r.Into)
	switch {
	case r.Series:
		return fmt.Sprintf("mint \"%s\", the next of the series for copied rows", into)
	case r.CompanyPrefix != "":
		return fmt.Sprintf("mint \"%s\" of the company prefix %s", into, r.CompanyPrefix)
	case r.ShopPrefix != "":
		return fmt.Sprintf("mint \"%s\" of %s…, for use inside the shop", into, r.ShopPrefix)
	}
	return fmt.Sprintf("mint \"%s\" from \"%s\"", into, catalogue.OneLine(r.From))
}

// FoldingOf returns how codes of a field are compared.
func FoldingOf(f catalogue.Field) Folding {
	if f == catalogue.Barcode {
		return AsItems
	}
	return AsRead
}

// Shared are the fields whose codes are not told apart by the field: a code of one is none of the
// others, too.
var Shared = []catalogue.Field{catalogue.SKU, catalogue.ParentSKU}

// SharedWith returns the fields whose codes a code of a field must not be.
func SharedWith(f catalogue.Field) []catalogue.Field {
	if slices.Contains(Shared, f) {
		return Shared
	}
	return []catalogue.Field{f}
}
