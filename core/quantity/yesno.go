package quantity

import (
	"encoding/binary"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// An Answer is what a cell of a column of yes and no says. The zero value says neither.
type Answer uint8

// What can be said.
const (
	Neither Answer = iota
	Yes
	No
	Nothing // the cell is empty
)

// answers are the words for yes and no, and those of spreadsheet programs, in the languages of headings; what is said by one letter is
// known by its pair.
var answers = func() map[string]Answer {
	m := make(map[string]Answer)
	for says, list := range map[Answer]string{
		Yes: "yes true on enabled active 1 1.0 1,0 01 ja wahr oui vrai sí si sì si' verdadero vero waar sim verdadeiro tak prawda evet doğru ✓ ✔ ☑ ✅",
		No:  "no false off disabled inactive 0 0.0 0,0 00 nein falsch non faux falso nee onwaar não nao nie fałsz hayır hayir yanlış ✗ ✘ ☐ ❌",
	} {
		for word := range strings.FieldsSeq(list) {
			m[foldAnswer(word)] = says
		}
	}
	return m
}()

// pairs are what stands for yes and no with one letter or sign; either may be missing, and stands for nothing without the other but the x.
var pairs = [][2]string{{"y", "n"}, {"j", "n"}, {"o", "n"}, {"s", "n"}, {"t", "n"}, {"e", "h"}, {"t", "f"}, {"v", "f"}}

// YesNo is how the cells of a column say yes and no: an ordered monoid.
type YesNo struct {
	letters uint64    // of the alphabet that stand alone in cells, one bit for each
	begin   [2]uint64 // those with which words for yes and for no begin
	others  bool      // other letters stand alone, too
}

// Learn takes in a cell.
func (y *YesNo) Learn(cell string) {
	s := foldAnswer(cell)
	switch letter := oneLetter(s); {
	case letter > 0:
		y.letters |= 1 << (letter - 'a')
	case letter < 0:
		y.others = true
	case s != "" && s[0] >= 'a' && s[0] <= 'z':
		if says := answers[s]; says != Neither {
			y.begin[says-Yes] |= letterBit(s)
		}
	}
}

// Merge takes in what others say.
func (y *YesNo) Merge(o YesNo) {
	y.letters, y.others = y.letters|o.letters, y.others || o.others
	y.begin[0], y.begin[1] = y.begin[0]|o.begin[0], y.begin[1]|o.begin[1]
}

// AppendTo appends what it knows.
func (y *YesNo) AppendTo(b []byte) []byte {
	others := uint64(0)
	if y.others {
		others = 1
	}
	for _, bits := range []uint64{y.letters, y.begin[0], y.begin[1], others} {
		b = binary.LittleEndian.AppendUint64(b, bits)
	}
	return b
}

// oneLetter returns the letter of ASCII that a text is, -1 if it is another one, 0 if it is none or more.
func oneLetter(s string) rune {
	r, size := utf8.DecodeRuneInString(s)
	switch {
	case size != len(s) || !unicode.IsLetter(r):
		return 0
	case r >= 'a' && r <= 'z':
		return r
	}
	return -1
}

// Read reads a cell of the column.
func (y *YesNo) Read(cell string) Answer {
	s := foldAnswer(cell)
	switch {
	case s == "":
		return Nothing
	case oneLetter(s) == 0:
		return answers[s]
	case s == "x" && y.letters&^letterBit("x") == 0 && !y.others:
		return Yes
	case y.others:
		return Neither
	}
	for _, p := range pairs {
		if y.letters&^(letterBit(p[0])|letterBit(p[1])) != 0 || (y.letters|y.begin[1])&letterBit(p[1])|y.begin[0]&letterBit(p[0]) == 0 {
			continue // there are others, or nothing shows that they are meant
		}
		switch s {
		case p[0]:
			return Yes
		case p[1]:
			return No
		}
	}
	return Neither
}

func letterBit(letter string) uint64 { return 1 << (letter[0] - 'a') }

// isLower reports whether a text is of small ASCII letters and digits only.
func isLower(s string) bool {
	for i := range len(s) {
		if c := s[i]; (c < 'a' || c > 'z') && (c < '0' || c > '9') {
			return false
		}
	}
	return true
}

// foldAnswer returns a cell as it is looked up. A dotted and a dotless i are one.
func foldAnswer(s string) string {
	if isLower(s) {
		return s
	}
	s = strings.ToLower(norm.NFC.String(trim(s)))
	return strings.ReplaceAll(strings.ReplaceAll(s, "i̇", "i"), "ı", "i")
}
