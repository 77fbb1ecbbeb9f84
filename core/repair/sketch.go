package repair

import (
	"bytes"
	"math/bits"
	"strings"
	"unsafe"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/glance"
	"zetanum/core/line"
)

// A sketch of a text says of a word whether it may stand in it: of each there are three bits for its hash (Bloom, 1970). Of a folder of price lists each
// has its own products, and reading all of them for each would take much longer than the lists themselves. It is empty if nothing can be said.
type sketch []uint64

// asTheyAre are characters that stand in a text file as they are, in whatever form it is; words are made of them, but for the space.
const asTheyAre = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_. "

var inWords = func() (is [256]bool) {
	for _, c := range []byte(asTheyAre) {
		is[c] = c != ' '
	}
	return is
}()

const (
	leastBits = 1 << 12 // of a sketch
	leastWord = 4       // letters; of shorter ones nothing is said
)

// sketchOf returns the sketch of a text, which has about as many bits as that has bytes.
func sketchOf(text []byte) sketch {
	if bytes.IndexByte(text, 0) >= 0 {
		return nil // in an encoding in which words do not stand as they are
	}
	s := make(sketch, max(leastBits, 1<<bits.Len(uint(len(text))))/64)
	for at := 0; at < len(text); at++ {
		from := at
		for at < len(text) && inWords[text[at]] {
			at++
		}
		if at >= from+leastWord {
			s.add(xxhash.Sum64(text[from:at]))
		}
	}
	return s
}

// add enters a hash.
func (s sketch) add(h uint64) {
	for range 3 {
		s[h>>6&uint64(len(s)-1)] |= 1 << (h & 63)
		h = bits.RotateLeft64(h, 21)
	}
}

// may reports whether a hash may have been entered.
func (s sketch) may(h uint64) bool {
	for range 3 {
		if s[h>>6&uint64(len(s)-1)]>>(h&63)&1 == 0 {
			return false
		}
		h = bits.RotateLeft64(h, 21)
	}
	return true
}

// has reports whether all the words of a text may stand in that of the sketch.
func (s sketch) has(words string) bool {
	for word := range strings.SplitSeq(words, " ") {
		if len(word) >= leastWord && !s.may(xxhash.Sum64String(word)) {
			return false
		}
	}
	return true
}

// mayHave reports whether so many of the SKUs can stand in the text that it is worth a closer look.
func (s sketch) mayHave(keys []line.LackOf) bool {
	if len(s) == 0 {
		return true
	}
	may := 0
	for _, key := range keys {
		if key.SKU != "" && (strings.Trim(key.SKU, asTheyAre) != "" || s.has(key.SKU)) {
			may++
		}
	}
	return may > 0 && may >= (len(keys)+besideShare-1)/besideShare
}

// leastPrefix is how many letters all wanted words have in common at their beginning, at least, to be looked for by these.
const leastPrefix = 2

// alike returns how many bytes two texts have in common at their beginning.
func alike(a, b string) (n int) {
	for n < min(len(a), len(b)) && a[n] == b[n] {
		n++
	}
	return n
}

// A glimpse is what is known of a file beside a list: that it was looked at once, or its sketch, which is made when it is looked at again.
type glimpse struct {
	made bool
	sketch
}

// glimpses are those of files beside the lists of a call: eight megabytes of sketches.
var glimpses = newMemo[glimpse](1 << 20)

// mayHave reports whether so many of the SKUs can stand in the text that it is worth a closer look, as the first look at a text tells without a sketch: by
// one word of each.
func mayHave(text []byte, keys []line.LackOf) bool {
	if bytes.IndexByte(text, 0) >= 0 {
		return true // in an encoding in which words do not stand as they are
	}
	may, enough := 0, (len(keys)+besideShare-1)/besideShare
	wanted := make(map[string]int) // how many SKUs have it as their longest word
	var begins [256]uint64         // the lengths of those, a bit for each, by their first byte
	prefix, first := "", true      // with which all of them begin
	for _, key := range keys {
		word := ""
		for w := range strings.SplitSeq(key.SKU, " ") {
			if len(w) > len(word) {
				word = w
			}
		}
		switch {
		case key.SKU == "":
		case len(word) < leastWord || strings.Trim(key.SKU, asTheyAre) != "":
			may++
		default:
			wanted[word]++
			begins[word[0]] |= 1 << min(len(word), 63)
			if first {
				prefix, first = word, false
			}
			prefix = prefix[:alike(prefix, word)]
		}
	}
	for at := 0; at < len(text) && may < enough; at++ {
		if len(prefix) >= leastPrefix {
			next := glance.Index(unsafe.String(&text[at], len(text)-at), prefix, 0)
			if next < 0 {
				break
			}
			if at += next; at > 0 && inWords[text[at-1]] {
				continue
			}
		}
		from := at
		for at < len(text) && inWords[text[at]] {
			at++
		}
		if from == at || begins[text[from]]>>min(at-from, 63)&1 == 0 {
			continue
		}
		if of, there := wanted[string(text[from:at])]; there {
			may += of
			delete(wanted, string(text[from:at]))
		}
	}
	return may > 0 && may >= enough
}
