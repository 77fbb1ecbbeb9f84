package steps

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestSame: what is counted in parts and joined is counted as a whole, whatever the hashes.
func TestSame(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 9))
	hashes := []uint64{0, 64, 128, 1 << 63, ^uint64(0)} // which begin at the same place in a small table
	for range 3000 {
		hashes = append(hashes, r.Uint64())
	}
	var all, joined, part Same
	want := make(map[uint64]int)
	for i := range 9000 {
		hash := hashes[r.IntN(len(hashes))]
		all.Add(hash, 1)
		part.Add(hash, 1)
		if want[hash]++; i%700 == 0 {
			joined.Join(&part)
			part = Same{}
		}
	}
	joined.Join(&part)
	for _, hash := range hashes {
		n := want[hash]
		if n == 1 {
			n = 0
		}
		require.Equal(t, n, all.Several(func() uint64 { return hash }))
		require.Equal(t, n, joined.Several(func() uint64 { return hash }))
	}
	a, _ := all.AppendBinary(nil)
	b, _ := joined.AppendBinary(nil)
	assert.Equal(t, a, b)

	var none Same
	none.Add(7, 1)
	none.Add(8, 1)
	assert.Zero(t, none.Several(func() uint64 { t.Error("looked up"); return 7 }))
}
