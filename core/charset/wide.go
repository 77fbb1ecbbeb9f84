package charset

import (
	"bufio"
	"io"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"
	xunicode "golang.org/x/text/encoding/unicode"
	"golang.org/x/text/encoding/unicode/utf32"
)

// wides are the encodings in which a character has more than one byte, any of which
// may be one that separates cells. A file in them is brought to UTF-8 before its
// rows are looked for.
var wides = map[Charset]encoding.Encoding{
	UTF16:    xunicode.UTF16(xunicode.LittleEndian, xunicode.UseBOM),
	UTF16BE:  xunicode.UTF16(xunicode.BigEndian, xunicode.UseBOM),
	UTF32:    utf32.UTF32(utf32.LittleEndian, utf32.UseBOM),
	UTF32BE:  utf32.UTF32(utf32.BigEndian, utf32.UseBOM),
	ShiftJIS: japanese.ShiftJIS, EUCJP: japanese.EUCJP, ISO2022JP: japanese.ISO2022JP, GB18030: simplifiedchinese.GB18030,
	Big5: traditionalchinese.Big5, EUCKR: korean.EUCKR,
}

// Wide reports whether a file in the encoding has to be brought to UTF-8 before its
// rows can be found; see [Charset.Reader].
func (c Charset) Wide() bool { return wides[c] != nil }

// Reader returns what r has in UTF-8, without a byte order mark. It is for
// encodings that are [Charset.Wide].
func (c Charset) Reader(r io.Reader) io.Reader { return wides[c].NewDecoder().Reader(r) }

// ReaderOfLines is [Charset.Reader] for a file of which some lines are UTF-8; the
// encoding must be one of those in which a line feed is one byte.
func (c Charset) ReaderOfLines(r io.Reader) io.Reader {
	return &lineByLine{in: bufio.NewReaderSize(r, 1<<16), to: wides[c].NewDecoder()}
}

// lineByLine decodes the lines that are no UTF-8.
type lineByLine struct {
	in   *bufio.Reader
	to   *encoding.Decoder
	text []byte // that has not been handed out
}

func (l *lineByLine) Read(p []byte) (n int, err error) {
	for len(l.text) == 0 {
		line, err := l.in.ReadBytes('\n')
		if l.text = line; !utf8.Valid(line) {
			l.to.Reset()
			l.text, _ = l.to.Bytes(line) // what cannot be decoded becomes U+FFFD
		}
		if err != nil && len(l.text) == 0 {
			return 0, err
		}
	}
	n = copy(p, l.text)
	l.text = l.text[n:]
	return n, nil
}

// easterns are the encodings of East Asia that are looked for.
var easterns = []Charset{ShiftJIS, EUCJP, GB18030, Big5, EUCKR}

// eastern reports whether a character is one of a language of East Asia.
func eastern(r rune) bool {
	return r >= 0x1100 && (unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul) || r >= 0x3000 && r < 0x3040 || r == 'ー')
}

// The places of two of the languages of East Asia in the model.
const langJapanese, langKorean = 0, 3

// rareIn returns how probable a character is in a language of East Asia, by its place,
// that has not been seen in it: Hangul is Korean, and kana are Japanese.
func rareIn(language int, r rune) float64 {
	switch hangul := unicode.Is(unicode.Hangul, r); {
	case hangul && language == langKorean:
		return 1e-6
	case r < 0x3040: // signs of all of them
		return 1e-3
	case hangul, language != langJapanese && !unicode.Is(unicode.Han, r):
		return 1e-9
	case language == langKorean:
		return 3e-7
	}
	return 2e-6
}
