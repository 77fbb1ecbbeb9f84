package spread

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestRuns: the longest run is that which all of them tried out show, and however the rows are cut and bracketed, it is the same.
func TestRuns(t *testing.T) {
	t.Parallel()
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 8))
		kinds := make([]int, 1+r.IntN(60))
		for i := range kinds {
			if odd := i > len(kinds)/3 && seed%2 == 0; odd && r.IntN(9) > 0 || r.IntN(5) == 0 {
				kinds[i] = 1 + r.IntN(MostKinds-1)
			}
		}
		var want Run
		for first := range kinds {
			var one Run
			for i, kind := range kinds[first:] {
				if one.Score++; kind == 0 {
					one.Score -= 1 + properCells
				}
				one.Counts[kind]++
				if one.First, one.Last = first+1, first+i+1; one.better(&want) {
					want = one
				}
			}
		}
		var whole Runs
		for i, kind := range kinds {
			whole.Add(i+1, kind)
		}
		assert.Equal(t, want, whole.Best, "seed %d: %v", seed, kinds)
		proper, strays := whole.Rest()
		assert.Equal(t, len(kinds), proper+strays+want.Counts[0]+want.Strays())

		var parts []Runs
		for from := 0; from < len(kinds); {
			var part Runs
			till := min(len(kinds), from+r.IntN(9)) // also none
			for i, kind := range kinds[from:till] {
				part.Add(i+1, kind)
			}
			part.Place(from)
			parts, from = append(parts, part), till
		}
		for len(parts) > 1 {
			n := r.IntN(len(parts) - 1)
			parts[n].Merge(&parts[n+1])
			parts = append(parts[:n+1], parts[n+2:]...)
		}
		assert.Equal(t, whole.AppendBinary(nil), parts[0].AppendBinary(nil), "seed %d", seed)
	}
}

func BenchmarkRuns(b *testing.B) {
	var s Runs
	for i := 1; b.Loop(); i++ {
		s.Add(i, 0)
	}
}
