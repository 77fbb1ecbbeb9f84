package quantity

import (
	_ "embed"
	"math/big"
	"strings"
	"sync"
)

// A Measure is a number with a unit, such as 640 g.
type Measure struct {
	Number Number
	Unit   string // as it is written, in small letters; "" if there is none
}

// A unit is one of a dimension, so many of its smallest.
type unit struct {
	dimension string
	size      *big.Rat
	number    Number // the same
	usual     string // its usual name
}

//go:embed units.txt
var unitsFile string

// units are those that products are weighed and measured in, by how they are written.
var units = sync.OnceValue(func() map[string]unit {
	m := make(map[string]unit)
	for line := range strings.Lines(unitsFile) {
		of, names, ok := strings.Cut(strings.TrimSpace(line), ": ")
		f := strings.Fields(of)
		if !ok || len(f) != 2 || f[0] == "#" {
			continue
		}
		size, _ := new(big.Rat).SetString(f[1])
		number, _ := Parse(f[1])
		usual, _, _ := strings.Cut(names, ", ")
		for name := range strings.SplitSeq(names, ", ") {
			if _, there := m[name]; !there {
				m[name] = unit{f[0], size, number, usual}
			}
		}
	}
	return m
})

// ParseMeasure reads a number and the unit behind it; ok is false if there is more, or less.
func ParseMeasure(s string) (m Measure, ok bool) {
	s = strings.TrimSpace(strings.ReplaceAll(s, "\u00a0", " "))
	end := strings.LastIndexAny(s, "0123456789") + 1
	number, err := Parse(s[:end])
	if err != nil {
		return m, false
	}
	m = Measure{number, strings.ToLower(strings.TrimSuffix(strings.TrimSpace(s[end:]), "."))}
	_, known := units()[m.Unit]
	return m, known || m.Unit == ""
}

// UnitIn returns the unit that a heading says: Weight (g), length in cm; "" if it says none.
func UnitIn(heading string) string {
	words := strings.FieldsFunc(strings.ToLower(heading), func(r rune) bool { return strings.ContainsRune(" ()[]/_-.,:", r) })
	if len(words) > 1 {
		if _, known := units()[words[len(words)-1]]; known {
			return words[len(words)-1]
		}
	}
	return ""
}

// Contradicts reports whether two measures are surely not the same. Where one has no unit, it may be in any that people use for such a
// thing; and a number that can be read in two ways may be either.
func (m Measure) Contradicts(o Measure) bool {
	a, b := units()[m.Unit], units()[o.Unit]
	switch {
	case m.Unit == "" && o.Unit == "":
		return !m.equals(o, nil)
	case m.Unit == "" || o.Unit == "":
		if b.size == nil {
			b, m, o = a, o, m
		}
		for _, u := range units() {
			if u.dimension == b.dimension && m.equals(o, new(big.Rat).Quo(u.size, b.size)) {
				return false
			}
		}
		return true
	case a.dimension != b.dimension:
		return false // they are about something else
	}
	return !m.equals(o, new(big.Rat).Quo(a.size, b.size))
}

// equals reports whether a measure is that many of another.
func (m Measure) equals(o Measure, times *big.Rat) bool {
	for _, a := range m.readings() {
		for _, b := range o.readings() {
			if times != nil {
				a = new(big.Rat).Mul(a, times)
			}
			if a.Cmp(b) == 0 {
				return true
			}
		}
	}
	return false
}

// readings returns what a number may be.
func (m Measure) readings() (list []*big.Rat) {
	numbers := []Number{m.Number}
	if m.Number.Ambiguous() {
		numbers = append(numbers, m.Number.InThousands())
	}
	for _, n := range numbers {
		if r, ok := new(big.Rat).SetString(n.Plain()); ok {
			list = append(list, r)
		}
	}
	return list
}
