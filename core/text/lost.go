package text

import (
	"strings"
	"unicode/utf8"
)

// Lost is the sign that programs put where a character could not be read.
const Lost = "\ufffd"

// Recovers reports whether a text is what another was before characters of it were
// lost: where that has [Lost] signs it has some characters beyond ASCII, no more than
// signs, and all else is the same.
func Recovers(lost, whole string) bool {
	if !strings.Contains(lost, Lost) && utf8.ValidString(lost) {
		return lost == whole
	}
	runes := []rune(whole)
	at := map[int]bool{0: true} // where in the whole one may be behind what has been compared
	for lost != "" && len(at) > 0 {
		next := make(map[int]bool)
		most := 0
		for strings.HasPrefix(lost, Lost) {
			lost = lost[len(Lost):]
			most++
		}
		if most == 0 {
			r, size := utf8.DecodeRuneInString(lost)
			lost = lost[size:]
			for i := range at {
				if i < len(runes) && runes[i] == r {
					next[i+1] = true
				}
			}
		}
		for i := range at {
			for n := i; n < min(i+most, len(runes)) && runes[n] >= utf8.RuneSelf && runes[n] != utf8.RuneError; n++ {
				next[n+1] = true
			}
		}
		at = next
	}
	return at[len(runes)]
}
