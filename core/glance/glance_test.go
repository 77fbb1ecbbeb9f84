package glance

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// bytewise is what is seen one byte after the other.
func bytewise(cells string) (seen Seen) {
	for i := range len(cells) {
		switch c := cells[i]; {
		case c >= 0x80:
			seen |= High | Odd
		case c < ' ' || c == 0x7f:
			seen |= Odd
		case c == '&':
			seen |= Amp
		case c == ' ' && i > 0 && cells[i-1] == ' ':
			seen |= Double
		}
	}
	return seen
}

// TestCells: whatever there is in cells of any length at any place is seen, and nothing else but
// where it cannot be said; what stands around them does not count.
func TestCells(t *testing.T) {
	r := rand.New(rand.NewPCG(952, 7))
	looked := 0
	check := func(cells string) {
		for _, around := range []string{"", "\n", " & \x80 ,\"", strings.Repeat("\n \xff&", 12)} {
			data := around + cells + around
			got := Cells(data, len(around), len(around)+len(cells))
			if got == Anything {
				continue
			}
			looked++
			require.Equal(t, bytewise(cells), got, "%q in %q", cells, data)
		}
	}
	const clean = "LRA-0001,9521234000013,\"Beech smoker, \"\"large\"\"\",12.90,yes,x,Linden Row of bees,,,\"a b\",4711,zz,"
	for n := 1; n < len(clean); n++ {
		check(clean[:n])
		for c := range 256 {
			at := r.IntN(n)
			check(clean[:at] + string([]byte{byte(c)}) + clean[at:n])
			check(clean[:at] + string([]byte{' ', byte(c)}) + clean[at:n])
			check(clean[:at] + string([]byte{byte(c), ' '}) + clean[at:n])
		}
	}
	t.Log(looked, "looks that say something")
}

// TestWords: words end before the first byte that is none, wherever that is and whatever stands behind
// it, and at most a few bytes before the end of the text.
func TestWords(t *testing.T) {
	const clean = "The edges are rounded, so that \"gloves\" last longer; made in {small} batches and checked by hand, one by one."
	for n := range len(clean) {
		for c := range 256 {
			for _, odd := range []string{string([]byte{byte(c)}), "  " + string([]byte{byte(c)})} {
				s := clean[:n] + odd + clean[n:]
				end := n + len(odd) - 1
				switch is := bytewise(odd); {
				case odd[0] == ' ' && n > 0 && clean[n-1] == ' ':
					end = n
				case is&Double != 0:
					end = n + 1
				case is == 0 && c != '<' && c != '>' && c != ' ':
					end = len(s)
				case c == ' ' && n > 0 && clean[n-1] == ' ':
				case c == ' ' && clean[n] == ' ':
					end = n + 1
				case c == ' ':
					end = len(s)
				}
				for _, at := range []int{1, 2, 40} {
					if at > end {
						continue
					}
					got := Words(s, at)
					require.LessOrEqual(t, got, end, "%q from %d", s, at)
					require.True(t, got == end || got == at || got > len(s)-32, "%q from %d: %d, not %d", s, at, got, end)
				}
			}
		}
	}
}

// TestIndex: a text is found where it stands first, and only there.
func TestIndex(t *testing.T) {
	r := rand.New(rand.NewPCG(952, 8))
	const of = "psum"
	for range 50_000 {
		s := make([]byte, r.IntN(150))
		for i := range s {
			s[i] = "psumps  "[r.IntN(8)]
		}
		at := r.IntN(3)
		require.Equal(t, strings.Index(string(s), of), Index(string(s), of, at), "%q by %d", s, at)
	}
}

// TestSome: each of the bytes is seen wherever it stands, and nothing that stands around the text.
func TestSome(t *testing.T) {
	of := [4]byte{':', '&', '{', '<'}
	for n := range 140 {
		text := strings.Repeat("a", n)
		around := func(s string) string { return (":&{<" + s + ":&{<")[4:][:len(s)] }
		require.Zero(t, Some(around(text), of), n)
		for at := range n {
			for mask := range uint32(16) {
				b := []byte(text)
				for i, c := range of {
					if mask>>i&1 != 0 {
						b[(at+i*17)%n] = c
					}
				}
				var want uint32
				for i, c := range of { // one may have taken the place of another
					if strings.IndexByte(string(b), c) >= 0 {
						want |= 1 << i
					}
				}
				require.Equal(t, want, Some(around(string(b)), of), "%q", b)
			}
		}
	}
}

// TestUndouble: of a pair of marks one is left, of marks that stand alone, too, wherever they stand, and nothing is written behind the room.
func TestUndouble(t *testing.T) {
	pieces := []string{`"`, `""`, "a", "bc", strings.Repeat("d", 31), strings.Repeat("e", 40)}
	r := rand.New(rand.NewPCG(1, 2))
	for range 20_000 {
		text := ""
		for range r.IntN(20) {
			text += pieces[r.IntN(len(pieces))]
		}
		var want []byte
		for i := 0; i < len(text); i++ {
			if want = append(want, text[i]); text[i] == '"' && i+1 < len(text) && text[i+1] == '"' {
				i++
			}
		}
		room := []byte(strings.Repeat("x", len(text)+40))
		n := Undouble(room, ("before" + text + `"behind`)[6:][:len(text)])
		if string(want) != string(room[:n]) || string(room[len(text):]) != strings.Repeat("x", 40) {
			t.Fatalf("%s gives %s", text, room[:n])
		}
	}
}

func BenchmarkUndouble(b *testing.B) {
	s := strings.Repeat(`<p>Fits every hive of the ""Linden"" size without a spacer, and more.</p>`, 5)
	to := make([]byte, len(s))
	b.SetBytes(int64(len(s)))
	for b.Loop() {
		Undouble(to, s)
	}
}

func BenchmarkIndex(b *testing.B) {
	text := strings.Repeat("The edges are rounded, so that gloves last longer. Clean it with warm water. ", 4)
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		if Index(text, "psum", 0) >= 0 {
			b.Fatal()
		}
	}
}

func BenchmarkSome(b *testing.B) {
	s := strings.Repeat("<p>Fits every hive of the size without a spacer.</p>", 6)
	b.SetBytes(int64(len(s)))
	for b.Loop() {
		Some(s, [4]byte{':', '&', '{', '}'})
	}
}

func BenchmarkCells(b *testing.B) {
	row := "\n" + strings.Repeat(`LRA-0000001,9521234000013,"<p>Made in small batches, checked by hand.</p>",12.50,`, 7)
	b.SetBytes(int64(len(row)))
	for b.Loop() {
		if Cells(row, 1, len(row)) == Amp {
			b.Fatal()
		}
	}
}

func BenchmarkWords(b *testing.B) {
	text := strings.Repeat("The edges are rounded, so that gloves last longer. ", 6)
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		if Words(text, 1) > len(text) {
			b.Fatal()
		}
	}
}

func BenchmarkEnds(b *testing.B) {
	text := strings.Repeat("LRA-0000001,9521234000013,\"<p>Made in small \"\"batches\"\", checked by hand.</p>\",12.50,,,beech\n", 300)
	b.SetBytes(int64(len(text)))
	var ends Ends
	for b.Loop() {
		ends.Find(text, 0, ',', '\n')
	}
}

// TestKnown: whatever is a word of the list is taken for one, in any case; what differs from all in its length or first letters is not.
func TestKnown(t *testing.T) {
	words := []string{"do", "don't", "discontinued", "à", "été", "jún", strings.Repeat("ab", 20), strings.Repeat("cd", 16), "x"}
	known := NewKnown(slices.Values(words))
	for _, w := range append(words, "DO", "Don't", "DISCONTINUED", strings.Repeat("cd", 19)) {
		if len(w) > 1 {
			require.True(t, known.May(w[0], w[1], len(w)), w)
			require.True(t, known.Begins(w[0], w[1]), w)
		}
	}
	for _, w := range []string{"dog", "DI", "double", "abc", "ee", "ju"} {
		require.False(t, known.May(w[0], w[1], len(w)), w)
	}
	require.False(t, known.Begins('e', 'e'))
	require.True(t, known.Begins('e', '-'), "of what are no two letters nothing is known")
}
