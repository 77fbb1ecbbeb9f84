package rescue

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSpoilt(t *testing.T) {
	for _, test := range []struct {
		damaged, original string
		want              bool
	}{
		{"123", "00123", true},
		{"12.1", "12.10", true},
		{"12,1", "12.10", true},
		{"1001", "1001.00", true},
		{"120000", "12E4", true},
		{"1.20E+05", "12E4", true},
		{"1,2E+05", "12E4", true},
		{"1.23E+05", "123456", true},
		{"1.23E+05", "124456", false},
		{"123", "123", false},
		{"123", "1234", false},
		{"00123", "123", false},
		{"123", "A00123", false},
		{"", "00123", false},
		{"2-Mar", "MAR-2", true},
		{"2-Mar", "2-3", true},
		{"Mar-26", "3/26", true},
		{"02.03.2026", "2-3", true},
		{"2026-03-02", "MAR2", true},
		{"02.03.2026", "2-4", false},
		{"2-Mar", "MAR-22", false},
		{"2-Mar", "LRA-2", false},
		{"TRUE", "true", true},
		{"TRUE", "T-1", false},
		{"#N/A", "LRA-7", false},
	} {
		assert.Equal(t, test.want, Spoilt(test.damaged, test.original), "%s of %s", test.damaged, test.original)
	}
}

func TestReplacement(t *testing.T) {
	for cell, want := range map[string]string{
		"#N/A": ErrorValue, "#WERT!": ErrorValue, "#9521": "", "####": TooNarrow, "#": "",
		"wahr": YesOrNo, "Truth": "", "Mar-26": Date, "März 26": "", "Marble-26": "", "Mar-x": "", "12. Mrz 2026": Date, "2-Marble": "",
		"1/2/26": Date, "2026-03-02T10:00": Date, "10:30": Clock, "LRA-0007": "", "12.50": "", "9521234000013": "", "may": "",
	} {
		assert.Equal(t, want, Replacement(cell), cell)
	}
}
