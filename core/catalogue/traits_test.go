package catalogue

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// FuzzHas: the quick answers are those of a look at each byte, in words of eight bytes and
// what is left of them.
func FuzzHas(f *testing.F) {
	for _, s := range []string{"", " ", "a", "a b", "a  b", "a b ", "0123", "1.5E+12", "x & y", "a<b", "tab\tbed", "Bürste",
		"a long text of several words, and nothing else in it", "del\x7f", "seven ch  a"} {
		f.Add(s, uint16(Untidy))
		f.Add(strings.Repeat(s, 9), uint16(HighBytes))
		f.Add("0123456789"+s, uint16(NoDigit|Exponent))
	}
	f.Fuzz(func(t *testing.T, s string, any uint16) {
		has := map[Traits]bool{}
		for i := range len(s) {
			c := s[i]
			has[HighBytes] = has[HighBytes] || c >= 0x80
			has[Controls] = has[Controls] || c < ' ' || c == 0x7f
			has[EdgeSpace] = has[EdgeSpace] || c == ' ' && (i == 0 || i == len(s)-1)
			has[DoubleSpace] = has[DoubleSpace] || strings.HasPrefix(s[i:], "  ")
			has[Ampersand] = has[Ampersand] || c == '&'
			has[LessThan] = has[LessThan] || c == '<'
			has[Exponent] = has[Exponent] || strings.HasPrefix(s[i:], "E+")
			has[NoDigit] = has[NoDigit] || c < '0' || c > '9'
		}
		row := &Row{Cells: []string{s}}
		for _, want := range []Traits{Traits(any), Untidy, HighBytes, Untidy | Ampersand, Markup, NoDigit, Exponent, EdgeSpace,
			DoubleSpace} {
			some := false
			for trait, is := range has {
				some = some || is && want&trait != 0
			}
			assert.Equal(t, some, row.Has(0, want), "%q %b", s, want)
			assert.False(t, row.Has(1, want) || row.Has(-1, want), "a cell that is not there")
		}
	})
}
