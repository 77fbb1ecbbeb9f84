package text

import "strings"

// common are the characters that are most frequent in texts, the most frequent
// last; others are rare.
const common = "zqxjk0987654321vwbpygfm.,-uchldrnsioate "

// A Rare is the rarest character of a text, by which it is looked for.
type Rare struct {
	At    int // where it stands in the text
	cases [2]byte
}

// RareOf returns that of a text, which is not empty; with anyCase it is looked for in both cases, if it is a letter of ASCII.
func RareOf(s string, anyCase bool) (r Rare) {
	least := len(common)
	for i := range len(s) {
		if rank := strings.IndexByte(common, lower(s[i])); rank < least {
			r.At, least = i, rank
		}
	}
	c := s[r.At]
	if r.cases = [2]byte{c, c}; anyCase {
		r.cases = [2]byte{lower(c), upper(c)}
	}
	return r
}

// Index returns where it stands first in s, -1 if it does not.
func (r Rare) Index(s string) int {
	at := strings.IndexByte(s, r.cases[0])
	if r.cases[0] == r.cases[1] {
		return at
	}
	if at >= 0 {
		s = s[:at]
	}
	if other := strings.IndexByte(s, r.cases[1]); other >= 0 {
		return other
	}
	return at
}

// Find returns where in s the text begins of which it is, -1 if it is not there: of so many bytes, and such that is says so.
func (r Rare) Find(s string, length int, is func(there string) bool) int {
	for from := 0; from+length <= len(s); from++ {
		at := r.Index(s[from+r.At : len(s)-length+1+r.At])
		if at < 0 {
			return -1
		}
		if from += at; is(s[from : from+length]) {
			return from
		}
	}
	return -1
}

func lower(c byte) byte {
	if c >= 'A' && c <= 'Z' {
		return c + 'a' - 'A'
	}
	return c
}

func upper(c byte) byte {
	if c >= 'a' && c <= 'z' {
		return c - ('a' - 'A')
	}
	return c
}
