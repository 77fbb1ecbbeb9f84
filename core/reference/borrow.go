package reference

import (
	"cmp"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A BorrowRule takes values from another sheet by a key: [[borrow]].
type BorrowRule struct {
	// From is the file, Sheet the sheet of a workbook.
	From  string `toml:"from" json:"from,omitempty"`
	Sheet string `toml:"sheet" json:"sheet,omitempty"`
	// Called and Reading are how the sheet is called in messages, and how it is read, where that does not
	// follow from the file: of what is ready in an output folder.
	Called  string        `toml:"-" json:"-"`
	Reading sheet.Reading `toml:"-" json:"-"`
	// Headings say what headings of that sheet mean that are not recognised, or
	// which column of several is the right one.
	Headings map[string]string `toml:"headings" json:"headings,omitempty"`
	// By is a field or heading, or a list of several, that both sheets have.
	By any `toml:"by" json:"by,omitempty"`
	// Take names the fields or headings to take.
	Take []string `toml:"take" json:"take,omitempty"`
	// Alike says what does not count when keys are compared: case, spaces, dashes,
	// zeros (at the beginning). Without it keys are compared exactly.
	Alike []string `toml:"alike" json:"alike,omitempty"`
	// Over takes the value although the cell is not empty.
	Over bool `toml:"over" json:"over,omitempty"`
	condition.Scope
}

// alikes are what alike can say.
var alikes = []string{"case", "spaces", "dashes", "zeros"}

// Keys returns the names in By; ok is false if it holds something else.
func (r *BorrowRule) Keys() (names []string, ok bool) {
	switch by := r.By.(type) {
	case string:
		return []string{by}, by != ""
	case []string:
		return by, len(by) > 0
	case []any:
		for _, v := range by {
			name, is := v.(string)
			if !is || name == "" {
				return nil, false
			}
			names = append(names, name)
		}
		return names, len(names) > 0
	}
	return nil, false
}

// Check returns what is wrong with the rule whatever the sheets.
func (r *BorrowRule) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	keys, ok := r.Keys()
	switch {
	case r.From == "":
		wrong("from", `names the sheet, for example from = "stock-take.xlsx"`)
	case !ok:
		wrong("by", `is a field or a list of fields that both sheets have, for example by = "sku"`)
	case len(r.Take) == 0:
		wrong("take", `names what to take, for example take = ["barcode", "weight"]`)
	}
	for _, name := range r.Take {
		if slices.Contains(keys, name) {
			wrong("take", "%q is the key; it is the same on both sides", name)
		}
		if r.Over && (name == "barcode" || name == "sku") {
			wrong("over", "a %s that is there is not overwritten; trusted sheets put back what is lost, and name what differs", name)
		}
	}
	for _, a := range r.Alike {
		if !slices.Contains(alikes, a) {
			wrong("alike", "there is no %q%s; it takes: %s", a, text.DidYouMean(a, alikes), strings.Join(alikes, ", "))
		}
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *BorrowRule) String() string {
	keys, _ := r.Keys()
	return fmt.Sprintf("borrow %s from %s by %s", strings.Join(r.Take, ", "), cmp.Or(r.Called, filepath.Base(r.From)), strings.Join(keys, ", "))
}

// Backs reports whether the rule makes the sheet one that is trusted for barcodes:
// it takes them by the exact SKU, and by nothing else.
func (r *BorrowRule) Backs() bool {
	keys, _ := r.Keys()
	return slices.Contains(r.Take, "barcode") && len(r.Alike) == 0 && r.Where == nil && len(keys) == 1 && keys[0] == "sku"
}
