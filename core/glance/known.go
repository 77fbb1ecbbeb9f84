package glance

import "iter"

// Known says of a list of words, at a glance, which texts are surely none of them: by the two letters of ASCII with which they begin, a bit for
// each number of bytes that a word has.
type Known [26][26]uint32

// longest is how many bytes are told apart.
const longest = 31

// NewKnown returns what is seen of words in small letters. One that does not begin with two letters of ASCII is not seen.
func NewKnown(words iter.Seq[string]) *Known {
	k := new(Known)
	for w := range words {
		if len(w) > 1 && isLetter(w[0]) && isLetter(w[1]) {
			k[w[0]-'a'][w[1]-'a'] |= 1 << min(len(w), longest)
		}
	}
	return k
}

// May reports whether a text of n bytes that begins with two letters of ASCII, in any case, may be one of the words; of other texts it
// reports true.
func (k *Known) May(first, second byte, n int) bool {
	first, second = first|0x20, second|0x20
	return !isLetter(first) || !isLetter(second) || k[first-'a'][second-'a']>>min(n, longest)&1 != 0
}

// Begins reports whether a word may begin with two letters, whatever its length.
func (k *Known) Begins(first, second byte) bool {
	first, second = first|0x20, second|0x20
	return !isLetter(first) || !isLetter(second) || k[first-'a'][second-'a'] != 0
}

func isLetter(c byte) bool { return c-'a' < 26 }
