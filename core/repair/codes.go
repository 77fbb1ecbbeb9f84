package repair

import (
	"fmt"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/rescue"
)

// Seen says in words what the cells of a barcode column hold, one line for
// each kind of cell, and whether any of them have lost digits.
func (m *ColumnModel) Seen() (lines []string, lost bool) {
	add := func(n uint64, format string, args ...any) {
		if n > 0 {
			lines = append(lines, catalogue.Thousands(n)+" "+fmt.Sprintf(format, args...))
		}
	}
	evidence := m.Model.Weigh(rescue.Rules{})
	var failing []string
	for length := 1; length <= barcode.MaxDigits; length++ {
		whole := m.Model.Whole[length]
		legal := ""
		if !barcode.LegalLength(length) {
			legal = ", which no barcode has"
		}
		full := m.Model.Sci[length][0]
		flat := evidence.Flattened(length)
		add(whole.Pass+whole.Fail-full.Pass-full.Fail-flat, "with %d digits%s", length, legal)
		add(full.Pass+full.Fail, "in scientific notation with all of their %d digits", length)
		if whole.Fail > 0 && legal == "" {
			failing = append(failing, fmt.Sprintf("%s of all numbers of %d digits, rounded ones included, fail their check digit",
				catalogue.Thousands(whole.Fail), length))
		}
		for missing := 1; missing <= length; missing++ {
			c := m.Model.Sci[length][missing]
			add(c.Pass+c.Fail, "in scientific notation with only %d of %d digits", length-missing, length)
			lost = lost || c.Pass+c.Fail > 0
		}
		add(flat, "rounded, and filled up with zeros to %d digits", length)
		lost = lost || flat > 0
	}
	forms := &m.Model.Forms
	add(forms[rescue.TwoCodes], "with more than one code")
	add(forms[rescue.OddTail], "with digits behind a decimal mark")
	add(forms[rescue.TooLong], "with more digits than a number can hold")
	add(forms[rescue.Replaced], "replaced by an error value, a date or a yes or no")
	add(forms[rescue.Among], "with a barcode among words")
	add(forms[rescue.Nothing], "that are no barcode at all")
	add(forms[rescue.Empty], "empty")
	for class, n := range m.Model.Classes {
		if c := barcode.Class(class); c != barcode.Ordinary {
			add(n, "whose first digits say: %s", c)
		}
	}
	return append(lines, failing...), lost
}
