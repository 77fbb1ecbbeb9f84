package rescue

import (
	"encoding/binary"
	"slices"

	"zetanum/core/barcode"
)

// A count tells the numbers of a class that pass their check digit from those
// that fail.
type count struct{ Pass, Fail uint64 }

func (c count) all() uint64 { return c.Pass + c.Fail }

// A Model is the tallies of one column: all that decisions about its cells
// need to know of the others. It is an ordered monoid of whole numbers: models
// of parts of a column, added in any way, give the model of the column, byte
// for byte. The zero value is the model of an empty column.
type Model struct {
	Cells   uint64 // that are not empty
	Forms   [Nothing + 1]uint64
	Whole   [barcode.MaxDigits + 1]count // numbers without missing digits, by length
	Sci     [barcode.MaxDigits + 1][barcode.MaxDigits + 1]count
	Ends    [barcode.MaxDigits + 1][barcode.MaxDigits + 1]uint64 // whole numbers by length and significant digits
	Zeros   uint64                                               // valid codes that begin with a zero and never were numbers
	Numbers uint64                                               // cells that went through a number
	Stored  uint64                                               // numbers of legal length that a workbook stores with all their digits
	Mod11   uint64                                               // numbers of ten digits that pass as ISBN-10
	Rounded Values                                               // whole numbers of legal length with at least four zeros at the end
}

// Add tallies one reading.
func (m *Model) Add(r Reading) {
	m.Forms[r.Form]++
	if r.Form == Empty {
		return
	}
	m.Cells++
	if r.Numeric {
		m.Numbers++
	}
	switch r.Form {
	case TwoCodes, OddTail, TooLong, Nothing:
		return
	}
	valid := barcode.Valid(r.N)
	if r.Form == Plain && r.Numeric && barcode.LegalLength(r.Length) && r.N%barcode.Pow10(flatAlone) != 0 {
		m.Stored++
	}
	if r.Form == Scientific {
		m.Sci[r.Length][r.Missing].add(valid)
	}
	if r.Missing > 0 {
		return
	}
	m.Whole[r.Length].add(valid)
	legal := barcode.LegalLength(r.Length)
	if valid && legal && !r.Numeric && r.N < barcode.Pow10(r.Length-1) {
		m.Zeros++
	}
	if r.Length == 10 && passesMod11(r.N) {
		m.Mod11++
	}
	if r.N%10 != 0 {
		m.Ends[r.Length][r.Length]++
		return
	}
	s := r.significant()
	m.Ends[r.Length][s]++
	if legal && r.Length-s >= 4 {
		m.Rounded.add(r.N, 1)
	}
}

func (c *count) add(valid bool) {
	if valid {
		c.Pass++
	} else {
		c.Fail++
	}
}

// passesMod11 applies the check of ISBN-10 (ISO 2108:1992): from the right the
// digits count 1 to 10, and the sum is a multiple of 11.
func passesMod11(n uint64) bool {
	sum := uint64(0)
	for w := uint64(1); w <= 10; w++ {
		sum += w * (n % 10)
		n /= 10
	}
	return sum%11 == 0
}

// Merge adds the tallies of another part of the column.
func (m *Model) Merge(o *Model) {
	m.Cells += o.Cells
	m.Zeros += o.Zeros
	m.Numbers += o.Numbers
	m.Mod11 += o.Mod11
	m.Stored += o.Stored
	for i := range m.Forms {
		m.Forms[i] += o.Forms[i]
	}
	for l := range m.Whole {
		m.Whole[l].merge(o.Whole[l])
		for k := range m.Sci[l] {
			m.Sci[l][k].merge(o.Sci[l][k])
			m.Ends[l][k] += o.Ends[l][k]
		}
	}
	for _, v := range o.Rounded.list {
		m.Rounded.add(v.N, v.Count)
	}
}

func (c *count) merge(o count) {
	c.Pass += o.Pass
	c.Fail += o.Fail
}

// AppendBinary appends the tallies in a fixed order.
func (m *Model) AppendBinary(b []byte) ([]byte, error) {
	put := func(ns ...uint64) {
		for _, n := range ns {
			b = binary.AppendUvarint(b, n)
		}
	}
	put(m.Cells, m.Zeros, m.Numbers, m.Stored, m.Mod11)
	put(m.Forms[:]...)
	for l := range m.Whole {
		put(m.Whole[l].Pass, m.Whole[l].Fail)
		put(m.Ends[l][:]...)
		for _, c := range m.Sci[l] {
			put(c.Pass, c.Fail)
		}
	}
	put(uint64(len(m.Rounded.list)))
	for _, v := range m.Rounded.list {
		put(v.N, v.Count)
	}
	return b, nil
}

// Values counts how often numbers occur, of at most maxValues numbers: those
// that come first when a hash of them is ordered. A number that is left out of
// a part is left out of the whole, so the counts that are kept are exact.
type Values struct {
	list []value // in the order of their hashes
}

type value struct{ N, Count uint64 }

const maxValues = 4096

// Count returns how often n occurs, 0 if it is not among those kept.
func (v *Values) Count(n uint64) uint64 {
	if i, found := v.find(n); found {
		return v.list[i].Count
	}
	return 0
}

func (v *Values) find(n uint64) (int, bool) {
	return slices.BinarySearchFunc(v.list, n, func(e value, n uint64) int {
		a, b := mix(e.N), mix(n)
		switch {
		case a < b:
			return -1
		case a > b:
			return 1
		}
		return 0
	})
}

func (v *Values) add(n, count uint64) {
	i, found := v.find(n)
	switch {
	case found:
		v.list[i].Count += count
	case i < maxValues:
		v.list = slices.Insert(v.list, i, value{n, count})
		v.list = v.list[:min(len(v.list), maxValues)]
	}
}

// mix is a bijection that scatters numbers (the finaliser of SplitMix64).
func mix(n uint64) uint64 {
	n ^= n >> 30
	n *= 0xbf58476d1ce4e5b9
	n ^= n >> 27
	n *= 0x94d049bb133111eb
	return n ^ n>>31
}
