package charset

import (
	"math"
	"strings"
	"unicode"
	"unicode/utf8"
)

// How probable things are that no table of letters says.
const (
	nothing   = 1e-10 // a byte without a character, or a control character
	shareSign = 0.2   // of what is no ASCII, the rest are letters
)

// highs are the bits by which bytes are beyond ASCII.
const highs = 0x8080808080808080

var (
	logLetter   = math.Log(1 - shareSign)
	logAlphabet = math.Log(1. / 25) // a letter of ASCII in a language of East Asia
	logWord     = math.Log(1e-2)    // a word of them
	logForeign  = math.Log(1e-9)    // one of East Asia in another
)

// symbols are the signs of texts about goods, with how frequent they are among the
// signs; others are rare.
var symbols = func() map[rune]float64 {
	m := make(map[rune]float64)
	for share, list := range map[float64]string{0.08: "’–", 0.05: "“”\u00a0°€£", 0.03: "®™©½×—„‘…«»", 0.012: "¼¾•·²³§±µ¿¡",
		0.004: "¢¥†‡ªº‚¹÷‰¶´¦"} {
		for _, r := range list {
			m[r] = share
		}
	}
	return m
}()

// rareSymbol is the share of a sign that is in none of the lists, and of one that
// draws tables.
const (
	rareSymbol = 0.0005
	boxSymbol  = 0.00001
	fullWidth  = 0.005
	unreadable = 1e-4 // a byte that is of no encoding, where most are

	// noCharacter stands for a byte that is of no encoding, in a file in UTF-8.
	noCharacter = "\U0010fffd"
)

func letter(r rune) bool {
	return r != 0 && (unicode.IsLetter(r) || unicode.Is(unicode.Mn, r)) && r != 'ª' && r != 'º'
}

// symbol returns the share of a sign among the signs.
func symbol(r rune) float64 {
	p := symbols[r]
	switch {
	case string(r) == noCharacter:
		return unreadable
	case r < 0xa0, r == utf8.RuneError, unicode.Is(unicode.Co, r):
		return nothing
	case p > 0:
		return p
	case r >= 0xff00 && r < 0xff60: // full width
		return fullWidth
	case r >= 0x2500 && r < 0x25a0:
		return boxSymbol
	}
	return rareSymbol
}

// beside returns what speaks against two characters side by side, as the logarithm
// of a ratio.
func beside(a, b rune) float64 {
	switch {
	case string(a) == noCharacter || string(b) == noCharacter:
		return 0
	case eastern(a) && letter(b) && b < utf8.RuneSelf, eastern(b) && letter(a) && a < utf8.RuneSelf:
		return -3
	case letter(a) && letter(b):
		switch {
		case unicode.IsLower(a) && unicode.IsUpper(b):
			return -7
		case unicode.IsUpper(a) && a >= utf8.RuneSelf && unicode.IsUpper(b) && b < utf8.RuneSelf:
			return 1.5
		case unicode.IsUpper(b) && b >= utf8.RuneSelf && unicode.IsUpper(a) && a < utf8.RuneSelf:
			return -0.5
		}
	case letter(a) && unicode.IsDigit(b) && a >= utf8.RuneSelf, letter(b) && unicode.IsDigit(a) && b >= utf8.RuneSelf:
		return -2
	case letter(a) && b >= utf8.RuneSelf && !strings.ContainsRune("’®™°©”»\u00a0²³‘ªº…", b):
		return -2.5
	case letter(b) && strings.ContainsRune("®™°©²³ªº", a), letter(a) && strings.ContainsRune("€£", b):
		return -5
	case letter(b) && a >= utf8.RuneSelf && !strings.ContainsRune("’“„«‘‚¿¡£€\u00a0•”µ", a):
		return -2.5
	case unicode.IsDigit(a) && strings.ContainsRune("°€£½¼¾×²³–\u00a0ªº", b), unicode.IsDigit(b) && strings.ContainsRune("€£×–±\u00a0", a):
		return 1
	case letter(b) && b >= utf8.RuneSelf && unicode.IsUpper(b):
		return -1.5
	}
	return 0
}
