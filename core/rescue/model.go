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
	Through [barcode.MaxDigits + 1]count // those of them of which the cell itself shows that they were numbers
	Sci     [barcode.MaxDigits + 1][barcode.MaxDigits + 1]count
	Ends    [barcode.MaxDigits + 1][barcode.MaxDigits + 1]uint64 // whole numbers by length and significant digits
	UPCE    [9]count                                             // numbers of seven and of eight digits that may be UPC-Es, by length
	Mod11   [11]count                                            // numbers of nine and of ten digits as ISBN-10s, by length
	Both    [11]uint64                                           // numbers of nine and of ten digits that pass as a UPC-A, too, by length
	Neither [11]uint64                                           // and those that pass as neither
	Classes [barcode.Classes]uint64                              // whole codes by what their first digits say
	Fixed   uint64                                               // printed with a fixed number of decimals
	Zeros   uint64                                               // valid codes that begin with a zero and never were numbers
	Numbers uint64                                               // cells that went through a number
	Stored  uint64                                               // numbers of legal length that a workbook stores with all their digits
	Xs      uint64                                               // ISBN-10s that end in X
	Rounded Values                                               // whole numbers of legal length with at least four zeros at the end, of a length that a code may have
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
	if r.Fixed {
		m.Fixed++
	}
	switch {
	case r.Form >= TwoCodes:
		return
	case r.X:
		if r.Length == 10 && barcode.CheckCharacter(r.N) == 'X' {
			m.Xs++
		}
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
	switch r.Length {
	case 7, 8:
		if r.N < barcode.Pow10(7) {
			_, err := barcode.FromNumberUPCE(r.N)
			m.UPCE[r.Length].add(err == nil)
			if r.Length == 8 { // no EAN-8 begins with 0
				valid = err == nil
			}
		}
	case 9, 10:
		book := passesMod11(r.N)
		m.Mod11[r.Length].add(book)
		switch {
		case book && valid:
			m.Both[r.Length]++
		case !book && !valid:
			m.Neither[r.Length]++
		}
	}
	m.Whole[r.Length].add(valid)
	if r.Numeric {
		m.Through[r.Length].add(valid)
	}
	legal := barcode.LegalLength(r.Length)
	if valid && legal {
		if !r.Numeric && r.N < barcode.Pow10(r.Length-1) {
			m.Zeros++
		}
		m.Classes[barcode.ClassOf(r.N)]++
	}
	if r.N%10 != 0 {
		m.Ends[r.Length][r.Length]++
		return
	}
	s := r.significant()
	m.Ends[r.Length][s]++
	if mayBeCode(r.Length) && r.Length-s >= flatWithCause {
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

// passesMod11 reports whether the last digit of n is the check character of an
// ISBN-10 with the digits before it.
func passesMod11(n uint64) bool { return barcode.CheckCharacter(n/10) == byte('0'+n%10) }

// each calls do with every tally of m and its fellow of o, in a fixed order.
func (m *Model) each(o *Model, do func(mine *uint64, other uint64)) {
	counts := func(a, b []count) {
		for i := range a {
			do(&a[i].Pass, b[i].Pass)
			do(&a[i].Fail, b[i].Fail)
		}
	}
	numbers := func(a, b []uint64) {
		for i := range a {
			do(&a[i], b[i])
		}
	}
	do(&m.Cells, o.Cells)
	do(&m.Fixed, o.Fixed)
	do(&m.Zeros, o.Zeros)
	do(&m.Numbers, o.Numbers)
	do(&m.Stored, o.Stored)
	do(&m.Xs, o.Xs)
	numbers(m.Forms[:], o.Forms[:])
	numbers(m.Classes[:], o.Classes[:])
	counts(m.Whole[:], o.Whole[:])
	counts(m.Through[:], o.Through[:])
	counts(m.UPCE[:], o.UPCE[:])
	counts(m.Mod11[:], o.Mod11[:])
	numbers(m.Both[:], o.Both[:])
	numbers(m.Neither[:], o.Neither[:])
	for l := range m.Sci {
		counts(m.Sci[l][:], o.Sci[l][:])
		numbers(m.Ends[l][:], o.Ends[l][:])
	}
}

// Merge adds the tallies of another part of the column.
func (m *Model) Merge(o *Model) {
	m.each(o, func(mine *uint64, other uint64) { *mine += other })
	for _, v := range o.Rounded.list {
		m.Rounded.add(v.N, v.Count)
	}
}

// AppendBinary appends the tallies in a fixed order.
func (m *Model) AppendBinary(b []byte) ([]byte, error) {
	m.each(m, func(mine *uint64, _ uint64) { b = binary.AppendUvarint(b, *mine) })
	b = binary.AppendUvarint(b, uint64(len(m.Rounded.list)))
	for _, v := range m.Rounded.list {
		b = binary.AppendUvarint(b, v.N)
		b = binary.AppendUvarint(b, v.Count)
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
