package distinct

import (
	"math/rand/v2"
	"strconv"
	"testing"

	"github.com/cespare/xxhash/v2"
	"github.com/stretchr/testify/assert"
)

// TestDistinct: few values are counted exactly, many nearly so, and it does not matter
// how they are cut and merged.
func TestDistinct(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 14))
	for _, n := range []int{0, 1, 64, 2_000, 2_001, 5_000, 50_000, 400_000} {
		values := make([]uint64, 0, n+n/3)
		for i := range n {
			values = append(values, xxhash.Sum64String(strconv.Itoa(i)))
		}
		for range n / 3 {
			values = append(values, values[r.IntN(n)])
		}
		r.Shuffle(len(values), func(i, j int) { values[i], values[j] = values[j], values[i] })
		var whole, left, right Counter
		known := Many() // that there are many, from the beginning
		cut := len(values) / 3
		for i, v := range values {
			whole.Add(v)
			known.Add(v)
			if i < cut {
				left.Add(v)
			} else {
				right.Add(v)
			}
		}
		left.Merge(&right)
		assert.Equal(t, whole.AppendBinary(nil), left.AppendBinary(nil))
		if n > fewValues {
			assert.Equal(t, whole.AppendBinary(nil), known.AppendBinary(nil))
		}
		got, exact := whole.Count()
		assert.Equal(t, n <= fewValues, exact)
		if exact {
			assert.Equal(t, n, got)
		} else {
			assert.InEpsilon(t, n, got, 0.05)
		}
	}
}

// BenchmarkAdd: values of a column in which each is another, counted by a table and, once it is known that there are
// many, without.
func BenchmarkAdd(b *testing.B) {
	hashes := make([]uint64, fewValues-1)
	for i := range hashes {
		hashes[i] = xxhash.Sum64String(strconv.Itoa(i))
	}
	for _, way := range []struct {
		name string
		make func() *Counter
	}{{"few", func() *Counter { return new(Counter) }}, {"many", Many}} {
		b.Run(way.name, func(b *testing.B) {
			for b.Loop() {
				c := way.make()
				for _, h := range hashes {
					c.Add(h)
				}
			}
		})
	}
}
