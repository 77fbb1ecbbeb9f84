package quantity

import (
	"fmt"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestMeasureSet: columns of measures are read as what they are, or asked about.
func TestMeasureSet(t *testing.T) {
	var s scores
	for _, c := range columnsOf(t, "measures.jsonl") {
		numbers := NumberRule{Decimal: c.Decimal}
		if n, ok := c.Target["decimals"].(float64); ok {
			decimals := int(n)
			numbers.Decimals = &decimals
		}
		form, split := numbers.Form(c.form()), c.Target["split"] != nil
		measuring := NewMeasuring(&numbers, &MeasureRule{Unit: c.target("unit"), Bare: c.Default}, c.Heading)
		for i, cell := range c.Cells {
			unit := ""
			if c.Units != nil {
				if unit = c.Units[i]; unit == "" {
					measuring.bare = ""
				}
			}
			after, is, why := measuring.Of(cell, unit, form)
			got := "held:" + why
			switch {
			case is == Asked:
				got = "ask"
			case is != Value:
			case after[0] == "" && unit != "":
				got = "held:number-missing"
			case split && len(after) > 1:
				got = fmt.Sprint(after)
			case split != (len(after) > 1):
				if got = "held:sides"; after[0] == "" {
					got = ""
				}
			default:
				got = after[0]
			}
			s.judge(t, &c, i, got)
		}
	}
	s.assert(t, "measures", 98)
}

// TestReadAmounts: what the set does not have, and what must not be taken for a measure.
func TestReadAmounts(t *testing.T) {
	for _, tt := range []struct {
		cell, unit, want string
	}{
		{"1,5 kg", "g", "1500"},
		{"6'2\"", "in", "74"},
		{"5 lb 3.5 oz", "oz", "83.5"},
		{"3 oz 2 lb", "g", "words"},
		{"2 lb 10 cm", "g", "words"},
		{"1.250 kg", "g", "asked"},
		{"2½ kg", "g", "words"},
		{"1/0 in", "mm", "words"},
		{"M6 x 20", "mm", "words"},
		{"10 x 20", "cm", "ask ask"},
		{"10cm x 20cm", "mm", "100 200"},
		{"10 x 20 x 5 x 3 cm", "cm", "words"},
		{"H: 10 x W: 20 cm", "mm", "100 200"},
		{"500 g/m²", "g", "words"},
		{"500 gsm", "g", "words"},
		{"100 m²", "m", "words"},
		{"6 x 330 ml", "ml", "words"},
		{"5 %", "g", "words"},
		{"approx. 300 g", "g", "300"},
		{"from 300 g", "g", "words"},
		{"300 g netto", "g", "words"},
		{"12 V", "g", "words"},
		{"5", "g", "ask"},
		{"1 pied", "in", "12"},
		{"3 L", "ml", "3000"},
	} {
		a := ReadAmounts(tt.cell, Form{})
		got := a.Is.String()
		if a.Is == Value || a.Is == About {
			var parts []string
			sum := new(big.Rat)
			for i := range a.Count {
				value, known, same := a.Of[i].In(tt.unit, "")
				switch {
				case !known:
					parts = append(parts, "ask")
					continue
				case !same:
					parts = append(parts, "other")
					continue
				}
				sum.Add(sum, value)
				parts = append(parts, short(value))
			}
			got = strings.Join(parts, " ")
			if !a.Sides && a.Count > 1 {
				got = short(sum)
			}
		}
		assert.Equal(t, tt.want, got, "%q", tt.cell)
	}
}

// short writes a value without zeros that say nothing.
func short(value *big.Rat) string {
	return strings.TrimSuffix(strings.TrimRight(Round(value, 3, HalfUp), "0"), ".")
}

// TestRound: halves go where it is said, exactly.
func TestRound(t *testing.T) {
	for _, tt := range []struct {
		value    string
		decimals int
		want     [4]string // half up, half even, up, down
	}{
		{"1.005", 2, [4]string{"1.01", "1.00", "1.01", "1.00"}},
		{"1.015", 2, [4]string{"1.02", "1.02", "1.02", "1.01"}},
		{"-1.005", 2, [4]string{"-1.01", "-1.00", "-1.01", "-1.00"}},
		{"2.5", 0, [4]string{"3", "2", "3", "2"}},
		{"0.004", 2, [4]string{"0.00", "0.00", "0.01", "0.00"}},
		{"-0.004", 2, [4]string{"0.00", "0.00", "-0.01", "0.00"}},
		{"1/3", 4, [4]string{"0.3333", "0.3333", "0.3334", "0.3333"}},
		{"12", 2, [4]string{"12.00", "12.00", "12.00", "12.00"}},
	} {
		value, ok := new(big.Rat).SetString(tt.value)
		require.True(t, ok)
		for how, want := range tt.want {
			assert.Equal(t, want, Round(value, tt.decimals, Rounding(how)), "%s, %d", tt.value, how)
		}
	}
}

// FuzzReadAmounts: whatever a cell says, reading it ends, and what is read is made of numbers that stand in it.
func FuzzReadAmounts(f *testing.F) {
	for _, s := range []string{"2 lb 4 oz", "10 x 20 x 5 cm", "1 1/2\"", "L 19 x B 78 x H 22 cm", "ca. 5 kg", "5' 10\""} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		a := ReadAmounts(s, Form{})
		for i := range a.Count {
			digits := strings.Trim(strings.ReplaceAll(a.Of[i].Number.Plain(), ".", ""), "0")
			in := strings.Map(func(r rune) rune {
				if isDigit(r) {
					return rune('0' + digitOf(r))
				}
				return -1
			}, s)
			if !strings.Contains(in, digits) {
				t.Fatalf("%q is read as %+v", s, a)
			}
			a.Of[i].In("g", "cm")
		}
	})
}

// FuzzMeasuring: in numbers of 64 bits it is the same as in fractions.
func FuzzMeasuring(f *testing.F) {
	f.Add("2,5 kg", uint8(3), uint8(0), uint8(1))
	f.Add("0.0001 oz", uint8(0), uint8(2), uint8(2))
	f.Fuzz(func(t *testing.T, cell string, decimals, round, to uint8) {
		n := int(decimals % 10)
		numbers := NumberRule{Decimals: &n, Round: []string{"half-up", "half-even", "up", "down"}[round%4]}
		m := NewMeasuring(&numbers, &MeasureRule{Unit: []string{"kg", "lb", "g", "mg", "t"}[to%5], Bare: "oz"}, "")
		quick, is, _ := m.Of(cell, "", Form{'.', true})
		m.quick = nil
		slow, also, _ := m.Of(cell, "", Form{'.', true})
		assert.Equal(t, also, is, "%q", cell)
		assert.Equal(t, slow, quick, "%q", cell)
	})
}

func BenchmarkMeasuring(b *testing.B) {
	three := 3
	m := NewMeasuring(&NumberRule{Decimals: &three}, &MeasureRule{Unit: "kg"}, "")
	b.ReportAllocs()
	for b.Loop() {
		m.Of("2.5 lb", "", Form{'.', true})
	}
}
