package language

import (
	"bytes"
	"compress/gzip"
	"io"
	"math"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// likeliest returns the language that a text fits best.
func likeliest(text string) string {
	m := Load()
	sums := make([]float64, len(m.Codes))
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.Is(unicode.Mn, r) }) {
		m.Word(w, sums)
	}
	return m.Codes[slices.Index(sums, slices.Max(sums))]
}

// TestWord: a few words say which language a text is in.
func TestWord(t *testing.T) {
	for want, text := range map[string]string{
		"de": "Räucherstoff für große Völker, natürlich", "fr": "Enfumoir en acier galvanisé, poignée vernie",
		"it": "Affumicatore in acciaio, più leggero, qualità garantita", "pl": "Podkurzacz ze stali nierdzewnej, średni, z osłoną",
		"cs": "Kuřák z nerezové oceli, střední, s držákem", "hu": "Füstölő rozsdamentes acélból, közepes méretű",
		"tr": "Paslanmaz çelikten körük, orta boy, ahşap saplı", "ru": "Дымарь из нержавеющей стали, средний",
		"uk": "Димар із нержавіючої сталі, середній, з ручкою", "el": "Καπνιστήρι από ανοξείδωτο χάλυβα", "he": "מעשנת מפלדה, גודל בינוני",
		"en": "A smoker made of stainless steel, with a wooden handle", "ar": "مدخن من الفولاذ المقاوم للصدأ", "th": "เครื่องรมควันสแตนเลส",
		"lt": "Dūminė iš nerūdijančio plieno, vidutinė, su rankena",
	} {
		assert.Equal(t, want, likeliest(text), text)
		assert.Equal(t, want, likeliest(strings.ToUpper(text)), "in capitals")
	}
	m := Load()
	assert.Len(t, m.scripts, 6)
	assert.Len(t, m.Wide, 4)
	better := func(one, other string) {
		sums, others := make([]float64, len(m.Codes)), make([]float64, len(m.Codes))
		m.Word(one, sums)
		m.Word(other, others)
		assert.Greater(t, slices.Max(sums), slices.Max(others), "%s, not %s", one, other)
	}
	better("perché", "perchę")
	better("więcej", "wiźcej")
	better("größe", "grцße")
	better("улица", "жнлйш")
}

// TestProbabilities: behind any letters the probabilities of all that may follow add up to
// no more than one.
func TestProbabilities(t *testing.T) {
	m := Load()
	for _, s := range m.scripts {
		for _, start := range []string{"", "a", "st", "и", "ст", "α", "ש", "ا", "ก"} {
			sums := make([]float64, s.to-s.from)
			before, last := rune(0), rune(edge)
			for _, r := range start {
				before, last = last, r
			}
			for r := range s.ones {
				p := make([]float64, len(sums))
				s.add(before, last, r, p)
				for i := range p {
					sums[i] += math.Exp(p[i])
				}
			}
			for i, sum := range sums {
				assert.Less(t, sum, 1.02, "%s behind %q", m.Codes[s.from+i], start)
			}
		}
	}
}

func BenchmarkLoad(b *testing.B) {
	for b.Loop() {
		in, err := gzip.NewReader(bytes.NewReader(packed))
		require.NoError(b, err)
		data, err := io.ReadAll(in)
		require.NoError(b, err)
		parse(string(data))
	}
}

func BenchmarkWord(b *testing.B) {
	m := Load()
	sums := make([]float64, len(m.Codes))
	for b.Loop() {
		m.Word("küchenschrank", sums)
	}
}
