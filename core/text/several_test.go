package text

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestSeveral: of many texts those are marked that stand in a text, whatever the case, and no others but where signs are alike.
func TestSeveral(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 7))
	letters := []rune("aAbBcC dé-Ü@`")
	made := func(least, most int) string {
		var b strings.Builder
		for range least + r.IntN(most-least+1) {
			b.WriteRune(letters[r.IntN(len(letters))])
		}
		return b.String()
	}
	hits, together := 0, 0
	for range 3000 {
		wanted := make([]Sought, 1+r.IntN(90))
		for i := range wanted {
			wanted[i] = Sought{made(1, 4+r.IntN(9)), i}
		}
		s, alone := NewSeveral(wanted)
		together += len(wanted) - len(alone)
		text := made(0, 300)
		found := NewMarks(len(wanted))
		s.Find(text, found)
		for i, w := range wanted {
			want := strings.Contains(Small(text), Small(w.Text))
			if slices.Contains(alone, w) {
				want = false
			} else if want {
				hits++
			}
			if got := found.Next(i) == i; got != want {
				t.Fatalf("%q in %q: %t", w.Text, text, got)
			}
		}
	}
	assert.Greater(t, hits, 1000)
	assert.Greater(t, together, 10000)
}

// BenchmarkSeveral looks for texts that do not stand in a description.
func BenchmarkSeveral(b *testing.B) {
	text := strings.Repeat("A tool for the hive that lies well in the hand. ", 6)
	for _, n := range []int{2, 7, 100, 1000} {
		for _, length := range []int{4, 10} {
			wanted := make([]Sought, n)
			for i := range wanted {
				wanted[i] = Sought{fmt.Sprintf("%x%x", i*7919%65536+65536, i*i+1048576)[:length], i}
			}
			s, _ := NewSeveral(wanted)
			b.Run(fmt.Sprintf("%d of %d", n, length), func(b *testing.B) {
				found := NewMarks(n)
				b.SetBytes(int64(len(text)))
				for b.Loop() {
					s.Find(text, found)
				}
			})
		}
	}
}
