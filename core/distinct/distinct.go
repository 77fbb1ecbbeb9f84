// Package distinct knows different values by their hashes alone: it counts them, and finds what belongs to each.
package distinct

import (
	"encoding/binary"
	"math"
	"math/bits"
	"slices"
)

// A Counter counts how many different values there are: exactly, while they are few,
// and otherwise from the most zeros with which hashes begin, in each of many registers
// (Flajolet and others, HyperLogLog, 2007). Merged in any way it says the same.
type Counter struct {
	few  []uint64 // a table of the hashes, 0 for none; its length is a power of two
	n    int      // how many are in it
	many []uint8  // the registers, once there are more than fit
}

const (
	fewValues = 2000
	registers = 1 << 12
)

// Many returns a counter of values of which there are more than are counted exactly, once it is merged with those of the
// others.
func Many() *Counter { return &Counter{many: make([]uint8, registers)} }

// HasMany reports whether there are more values than are counted exactly.
func (d *Counter) HasMany() bool { return d.many != nil }

// Add counts a value by its hash.
func (d *Counter) Add(h uint64) {
	if d.many != nil {
		d.register(h)
		return
	}
	if 2*d.n >= len(d.few) {
		d.grow()
	}
	h = max(h, 1)
	at := d.place(h)
	switch {
	case d.few[at] == h:
	case d.n == fewValues:
		d.overflow()
		d.register(h)
	default:
		d.few[at] = h
		d.n++
	}
}

// place returns where a hash stands in the table, or may be put.
func (d *Counter) place(h uint64) int {
	i := int(h) & (len(d.few) - 1)
	for d.few[i] != 0 && d.few[i] != h {
		i = (i + 1) & (len(d.few) - 1)
	}
	return i
}

func (d *Counter) grow() {
	old := d.few
	d.few = make([]uint64, max(32, 2*len(old)))
	for _, h := range old {
		if h != 0 {
			d.few[d.place(h)] = h
		}
	}
}

func (d *Counter) overflow() {
	d.many = make([]uint8, registers)
	for _, h := range d.few {
		if h != 0 {
			d.register(h)
		}
	}
	d.few = nil
}

func (d *Counter) register(h uint64) {
	at := h % registers
	d.many[at] = max(d.many[at], uint8(bits.LeadingZeros64(h|registers-1))+1)
}

// Merge adds what another has counted.
func (d *Counter) Merge(o *Counter) {
	if o.many == nil {
		for _, h := range o.few {
			if h != 0 {
				d.Add(h)
			}
		}
		return
	}
	if d.many == nil {
		d.overflow()
	}
	for i, r := range o.many {
		d.many[i] = max(d.many[i], r)
	}
}

// Count returns how many values there are, and whether that is exact; otherwise it is
// within a few hundredths.
func (d *Counter) Count() (n int, exact bool) {
	if d.many == nil {
		return d.n, true
	}
	sum, empty := 0.0, 0
	for _, r := range d.many {
		sum += math.Ldexp(1, -int(r))
		if r == 0 {
			empty++
		}
	}
	const m = registers
	estimate := 0.7213 / (1 + 1.079/m) * m * m / sum
	if estimate < 2.5*m && empty > 0 {
		estimate = m * math.Log(m/float64(empty))
	}
	return max(int(math.Round(estimate)), fewValues+1), false
}

// AppendBinary appends what has been counted: the same bytes however it was merged.
func (d *Counter) AppendBinary(b []byte) []byte {
	if d.many != nil {
		return append(b, d.many...)
	}
	few := slices.Clone(d.few)
	slices.Sort(few)
	for _, h := range few {
		if h != 0 {
			b = binary.AppendUvarint(b, h)
		}
	}
	return b
}
