package charset

import (
	"bytes"
	"io"
	"math"
	"strconv"
	"strings"
	"sync"
	stdunicode "unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"
	"golang.org/x/text/encoding/unicode"
)

// wides are the encodings in which a character has more than one byte, any of which
// may be one that separates cells. A file in them is brought to UTF-8 before its
// rows are looked for.
var wides = map[Charset]encoding.Encoding{
	UTF16:    unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
	UTF16BE:  unicode.UTF16(unicode.BigEndian, unicode.UseBOM),
	ShiftJIS: japanese.ShiftJIS, EUCJP: japanese.EUCJP, GB18030: simplifiedchinese.GB18030, Big5: traditionalchinese.Big5,
	EUCKR: korean.EUCKR,
}

// Wide reports whether a file in the encoding has to be brought to UTF-8 before its
// rows can be found; see [Charset.Reader].
func (c Charset) Wide() bool { return wides[c] != nil }

// Reader returns what r has in UTF-8, without a byte order mark. It is for
// encodings that are [Charset.Wide].
func (c Charset) Reader(r io.Reader) io.Reader { return wides[c].NewDecoder().Reader(r) }

// utf16Of says which bytes of a file in UTF-16 come first.
func utf16Of(head []byte) Charset {
	switch {
	case bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		return UTF16BE
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}):
		return UTF16
	}
	head = head[:min(len(head), 4096)]
	var nul [2]int
	for i, b := range head {
		if b == 0 {
			nul[i&1]++
		}
	}
	if nul[0] > nul[1] {
		return UTF16BE
	}
	return UTF16
}

// sampleSize is how much of a file is decoded to see whether it is in an encoding
// of East Asia.
const sampleSize = 64 << 10

// A Sample is a stretch of the lines of a file in which not all is ASCII.
type Sample struct {
	lines []byte
	rest  []byte // the beginning of a line whose end has not been seen
}

// Add takes the bytes that follow.
func (s *Sample) Add(data []byte) {
	if len(s.lines) >= sampleSize {
		return
	}
	s.rest = append(s.rest, data...)
	for len(s.lines) < sampleSize {
		end := bytes.IndexByte(s.rest, '\n')
		if end < 0 && len(s.rest) < sampleSize {
			return
		}
		if end < 0 {
			end = len(s.rest) - 1
		}
		s.line(s.rest[:end+1])
		s.rest = s.rest[end+1:]
	}
}

func (s *Sample) line(line []byte) {
	for _, b := range line {
		if b >= utf8.RuneSelf {
			s.lines = append(s.lines, line...)
			return
		}
	}
}

// eastern are the encodings of East Asia, with the language that each is mostly used
// for first.
var eastern = []Charset{ShiftJIS, EUCJP, GB18030, Big5, EUCKR}

// characters returns how frequent characters are in the languages of East Asia.
var characters = sync.OnceValue(func() (models []map[rune]float64) {
	for line := range strings.Lines(lettersFile) {
		words := strings.Fields(line)
		if len(words) < 3 || words[1] != "wide" {
			continue
		}
		m := make(map[rune]float64)
		for _, w := range words[3:] {
			r, size := utf8.DecodeRuneInString(w)
			n, _ := strconv.ParseFloat(w[size:], 64)
			m[r] = n / 100_000
		}
		models = append(models, m)
	}
	return models
})

// East returns the encoding of East Asia in which the lines of the sample make more
// sense than in any of one byte a character; ok is false if there is none.
func (s *Sample) East() (c Charset, ok bool) {
	s.line(s.rest)
	if len(s.lines) == 0 {
		return UTF8, false
	}
	var table Table
	table.Add(s.lines)
	if table.MostlyUTF8() {
		return UTF8, false
	}
	single := table.Guess().Charset
	best := score(table.list(), singles[single], load()) + singles[single].prior + 3
	for _, wide := range eastern {
		text, err := wides[wide].NewDecoder().Bytes(s.lines)
		if err != nil {
			continue
		}
		if this := easternScore(string(text)); this > best {
			best, c, ok = this, wide, true
		}
	}
	return c, ok
}

// easternScore returns how well a text fits the language of East Asia that it fits
// best, as the logarithm of a probability.
func easternScore(text string) float64 {
	models := characters()
	sums := make([]float64, len(models))
	fixed := 0.0
	for _, r := range text {
		switch {
		case r < utf8.RuneSelf:
		case r == utf8.RuneError, r < 0xa0, stdunicode.Is(stdunicode.Co, r):
			fixed -= 30
		case stdunicode.In(r, stdunicode.Han, stdunicode.Hiragana, stdunicode.Katakana, stdunicode.Hangul) || r >= 0x3000 && r < 0x3040 ||
			r == 'ー':
			for i, m := range models {
				sums[i] += math.Log(math.Max(m[r], 2e-6))
			}
		case r >= 0xff00 && r < 0xff60: // full width
			fixed -= 7
		default:
			fixed += math.Log((1 - shareLetter) * symbol(r))
		}
	}
	best := math.Inf(-1)
	for _, sum := range sums {
		best = math.Max(best, sum)
	}
	return best + fixed
}
