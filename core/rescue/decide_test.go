package rescue

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

func weigh(cells []string) *Evidence {
	m := new(Model)
	for _, c := range cells {
		m.Add(Read(c, false))
	}
	return m.Weigh(Rules{})
}

func repeat(n int, cell func(i int) string) []string {
	cells := make([]string, n)
	for i := range cells {
		cells[i] = cell(i)
	}
	return cells
}

// ean returns the i-th code of a supplier.
func ean(i int) string { return withCheck(952123400000+uint64(i*37+11), 13) }

// upc returns the i-th UPC-A code of the restricted range 04.
func upc(i int) string { return withCheck(4012340000+uint64(i*53+7), 12) }

// shortest prints a code as a program does that shows numbers with up to so
// many digits in scientific notation.
func shortest(code string, digits int) string {
	n, _ := barcode.Number(code)
	s := fmt.Sprintf("%.*E", digits-1, float64(n))
	mantissa, exp, _ := strings.Cut(s, "E")
	return strings.TrimRight(strings.TrimRight(mantissa, "0"), ".") + "E" + exp
}

func TestDecide(t *testing.T) {
	intact := repeat(50, ean)
	twelve := ""
	for i := 0; twelve == ""; i++ {
		if c := ean(i); c[12] == '0' && c[11] != '0' {
			twelve = shortest(c, 15)
		}
	}
	stripped := func(n int) []string {
		return repeat(n, func(i int) string { return strings.TrimLeft(upc(i), "0") })
	}
	for _, test := range []struct {
		name, cell string
		column     []string
		want       string // the code written, or the finding
		ground     catalogue.Ground
	}{
		{"intact", ean(1), intact, ean(1), catalogue.Certain},
		{"intact, alone", ean(1), nil, ean(1), catalogue.Certain},
		{"dressed", "EAN " + ean(1), intact, ean(1), catalogue.Certain},
		{"all digits behind the notation", shortest(ean(1), 15), intact, ean(1), catalogue.Certain},
		{"check digit fails", "9521234000012", intact, "barcode.check-digit", 0},
		{"check digit fails behind the notation", "9.521234000012E+12", intact, "barcode.check-digit", 0},
		{"six digits of thirteen", "9.52123E+12", intact, "barcode.rounded", 0},
		{"last zero, neighbours in full", twelve, []string{shortest(ean(1), 15)}, "", catalogue.Certain},
		{"last zero, alone", twelve, nil, "barcode.last-zero", catalogue.Likely},
		{"one digit missing, not a zero", shortest("9521234000013", 12), repeat(9, func(i int) string { return shortest(ean(i), 15) }),
			"barcode.rounded", 0},
		{"flattened, alone", "9521230000000", nil, "barcode.flattened", 0},
		{"five zeros, alone and valid", "9521231300000", nil, "9521231300000", catalogue.Certain},
		{"five zeros beside damage", "9521231300000", []string{"9.52123E+12"}, "barcode.flattened", 0},
		{"five zeros, at two products", "9521231300000", []string{"9521231300000", "9521231300000"}, "barcode.shared-rounded", 0},
		{"a zero by nature", "9521234000570", intact, "9521234000570", catalogue.Certain},
		{"leading zero, a column of them", stripped(1)[0], stripped(6), upc(0), catalogue.Certain},
		{"leading zero, four of them", stripped(1)[0], stripped(3), "barcode.leading-zero", catalogue.Likely},
		{"leading zero, alone among EANs", stripped(1)[0], intact, "barcode.leading-zero", catalogue.Likely},
		{"leading zero, column kept others", stripped(1)[0], append(stripped(9), upc(3)), "barcode.length", 0},
		{"leading zero, one in ten fails", stripped(1)[0], append(stripped(9), "40123400078"), "barcode.leading-zero", catalogue.Likely},
		{"check digits left off", ean(1)[:12], repeat(40, func(i int) string { return ean(i)[:12] }), "barcode.no-check-digit",
			catalogue.Likely},
		{"seven digits", "1234567", intact, "barcode.other-kind", 0},
		{"two codes", ean(1) + " / " + ean(2), intact, "barcode.two-codes", 0},
		{"error value", "#N/A", intact, "barcode.replaced", 0},
		{"sixteen digits", "9521234000013000", intact, "barcode.too-long", 0},
		{"empty", "", intact, "barcode.missing", 0},
	} {
		v := weigh(append(test.column, test.cell)).Decide(Read(test.cell, false))
		got := v.Code.String()
		if !v.Whole() {
			got = v.Finding.String()
		}
		if test.want != "" {
			assert.Equal(t, test.want, got, test.name)
		}
		assert.Equal(t, test.ground, v.Ground, test.name)
	}
}

func TestWhatIsKnownOfALostCode(t *testing.T) {
	v := weigh(nil).Decide(Read("9.52123E+12", false))
	assert.Equal(t, catalogue.Facts{Low: 9521225000000, High: 9521235000000, Candidates: 1_000_000, Digits: 6, Length: 13}, v.Facts)
	near, _ := barcode.Parse("9521234000013")
	far, _ := barcode.Parse("9529994000018")
	r := Read("9.52123E+12", false)
	assert.True(t, Fits("9.52123E+12", r, &v, near))
	assert.False(t, Fits("9.52123E+12", r, &v, far))
}

func flatten(code string, digits int) string {
	r := Read(shortest(code, digits), false)
	return barcode.Pad(r.N, r.Length)
}

// TestMergedInAnyWay: however a column is cut and its models are bracketed, the
// bytes are the same.
func TestMergedInAnyWay(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	cells := repeat(12000, func(i int) string {
		switch r.IntN(5) {
		case 0:
			return shortest(ean(i), 6)
		case 1:
			return barcode.Pad(uint64(9521230000000+r.IntN(9000)*10000), 13)
		}
		return ean(i)
	})
	tally := func(cells []string) *Model { return weigh(cells).Model }
	var build func(cells []string) *Model
	build = func(cells []string) *Model {
		if len(cells) < 2 || r.IntN(4) == 0 {
			return tally(cells)
		}
		cut := r.IntN(len(cells) + 1)
		m := build(cells[:cut])
		m.Merge(build(cells[cut:]))
		return m
	}
	want, _ := tally(cells).AppendBinary(nil)
	for range 5 {
		got, _ := build(cells).AppendBinary(nil)
		require.Equal(t, want, got)
	}
}

func BenchmarkDecideIntact(b *testing.B) {
	cells := repeat(1000, ean)
	e := weigh(cells)
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		v := e.Decide(Read(cells[i%1000], false))
		if !v.Intact() {
			b.Fatal("not intact")
		}
	}
}

// TestCasesInDocs: the page for merchants has the table by which the program
// decides.
func TestCasesInDocs(t *testing.T) {
	var b strings.Builder
	b.WriteString("| the cell holds | and the column | then | how often that is wrong |\n|---|---|---|---|\n")
	for _, c := range Cases() {
		fmt.Fprintf(&b, "| %s | %s | %s | %s |\n", c.Cell, c.When, c.Says, c.Bound)
	}
	inDocs(t, "../../docs/barcodes.md", "cases", b.String())
}
