package title

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// inert reports whether a look at the characters of a title shows that cleaning it, writing what shouts as other words are, and
// writing measures with their symbols would change nothing. Nearly all titles are so; of the others nothing is known.
func (w *Words) inert(s string) bool {
	if s == "" || len(s) > maxInert {
		return false
	}
	var before, word wordSeen
	upper, lower := 0, 0 // letters
	most := w.shouted()
	comma, capitals := false, false
	last := byte(' ') // the character before, by its kind: a letter, 0 a digit, or itself
	for i := 0; i <= len(s); {
		kind, size := byte(' '), 1
		if i < len(s) {
			if c := s[i]; c < utf8.RuneSelf {
				kind = kinds[c]
			} else {
				var r rune
				r, size = utf8.DecodeRuneInString(s[i:])
				kind = kindOf(r)
			}
			if kind == 'a' && last == 'a' { // as nearly always
				lower++
				i += size
				continue
			}
		}
		switch kind {
		case 'a', 'A':
			if last != 'a' && last != 'A' && last != '0' && last != '\'' {
				word = wordSeen{from: i}
			}
			if word.digits {
				return false // perhaps with its unit
			}
			if word.letters = true; kind == 'A' {
				if upper++; word.row+1 >= most {
					return false
				}
				word.row++
			} else {
				lower, word.row, word.small = lower+1, 0, true
			}
		case '0':
			if i > 0 && s[i-1] == 'X' {
				return false // perhaps between two numbers
			}
			if last != 'a' && last != 'A' && last != '0' {
				word = wordSeen{from: i}
			}
			word.digits, word.row = true, 0
		case '\'', '-':
			if last != 'a' && last != 'A' && last != '0' {
				return false
			}
			if word.row = 0; kind == '-' {
				if word.to = i; !w.mayFollow(s, &before, &word) {
					return false
				}
				before = wordSeen{}
			}
		case ' ', ',', '.':
			if last == ' ' || last == '\'' || last == '-' || last == ',' && kind != ' ' || last == '.' && kind != ' ' || i == len(s) && last == ',' {
				return false
			}
			if last != ' ' && last != ',' && last != '.' {
				if word.to = i; !w.mayFollow(s, &before, &word) {
					return false
				}
				capitals = capitals || word.letters && !word.small && word.row > 1
				before = word
			}
			if comma = comma || kind == ','; kind != ' ' {
				before = wordSeen{}
			}
		default:
			return false
		}
		last = kind
		i += size
	}
	return lower > upper && !(comma && capitals)
}

// maxInert is how many bytes a title has at most that is looked at so.
const maxInert = 250

// A wordSeen is a word of a title that is looked at.
type wordSeen struct {
	from, to int
	row      int // of capitals at its end
	small    bool
	digits   bool
	letters  bool
}

// mayFollow reports whether two words side by side need nothing.
func (w *Words) mayFollow(s string, before, word *wordSeen) bool {
	if before.to == 0 {
		return true
	}
	one, other := s[before.from:before.to], s[word.from:word.to]
	if before.digits && word.letters {
		if other[0] == 'X' {
			return false // perhaps between two numbers
		}
		if symbol := w.unit(other); symbol != "" && symbol != other {
			return false
		}
	}
	if len(one) == len(other) || one[0] >= utf8.RuneSelf {
		return one[0]|0x20 != other[0]|0x20 || !strings.EqualFold(one, other)
	}
	return true
}

// kinds says of what kind a character of ASCII is: a small letter a, a capital A, a digit 0, a space, a comma, a full stop, a hyphen or
// an apostrophe, which are themselves, and 1 for all else.
var kinds = func() (table [utf8.RuneSelf]byte) {
	for c := range table {
		switch r := rune(c); {
		case r >= 'a' && r <= 'z':
			table[c] = 'a'
		case r >= 'A' && r <= 'Z':
			table[c] = 'A'
		case r >= '0' && r <= '9':
			table[c] = '0'
		case r == ' ' || r == ',' || r == '.' || r == '-' || r == '\'':
			table[c] = byte(r)
		default:
			table[c] = 1
		}
	}
	return table
}()

// kindOf returns of what kind a character is that is no ASCII.
func kindOf(r rune) byte {
	switch {
	case r == '’':
		return '\''
	case r == 'ß', r == 'ı', r == 'İ', r == 'ſ':
		return 1
	case unicode.IsLower(r):
		return 'a'
	case unicode.IsUpper(r):
		return 'A'
	}
	return 1
}
