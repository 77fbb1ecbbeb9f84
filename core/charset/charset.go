// Package charset says which encoding a text file is in, decodes it to UTF-8, and
// mends texts that somebody else has decoded wrongly: see [Mend].
//
// A file is UTF-8, with or without a byte order mark, if every byte of it fits.
// Otherwise it is in the encoding of a single byte a character in which its text
// makes best sense; see [Table]. UTF-16 is recognised by its mark or by its NULs.
package charset

import (
	"bytes"
	"encoding/binary"
	"math/bits"
	"strings"
	"unicode/utf8"
)

// A Charset is a character encoding.
type Charset uint8

// The encodings.
const (
	UTF8 Charset = iota
	UTF16
	UTF16BE
	Windows1252
	Windows1250
	Windows1251
	Windows1253
	Windows1254
	Windows1255
	Windows1257
	Windows1258
	ISO8859_2
	ISO8859_5
	ISO8859_7
	ISO8859_9
	ISO8859_15
	ISO8859_16
	MacRoman
	CodePage437
	CodePage850
	CodePage852
	CodePage866
	KOI8R
	KOI8U
	ShiftJIS
	EUCJP
	GB18030
	Big5
	EUCKR
	numCharsets
)

var charsetNames = [numCharsets]string{
	"UTF-8", "UTF-16LE", "UTF-16BE", "Windows-1252", "Windows-1250", "Windows-1251", "Windows-1253", "Windows-1254", "Windows-1255",
	"Windows-1257", "Windows-1258",
	"ISO-8859-2", "ISO-8859-5", "ISO-8859-7", "ISO-8859-9", "ISO-8859-15", "ISO-8859-16", "Mac Roman",
	"code page 437", "code page 850", "code page 852", "code page 866", "KOI8-R", "KOI8-U",
	"Shift_JIS", "EUC-JP", "GB18030", "Big5", "EUC-KR",
}

// String returns the usual name of the encoding.
func (c Charset) String() string { return charsetNames[c] }

// Parse returns the encoding of that name, as [Charset.String] writes it; case,
// spaces, hyphens and underscores do not count, and the numbers of code pages stand
// for themselves: "cp1252", "latin2", "utf-8".
func Parse(name string) (c Charset, ok bool) {
	key := nameKey(name)
	if alias, there := aliases[key]; there {
		key = nameKey(alias)
	}
	for c, n := range charsetNames {
		if nameKey(n) == key {
			return Charset(c), true
		}
	}
	return UTF8, false
}

var aliases = map[string]string{
	"latin1": "Windows-1252", "iso88591": "Windows-1252", "ansi": "Windows-1252", "latin2": "ISO-8859-2", "latin5": "ISO-8859-9",
	"latin9": "ISO-8859-15", "latin10": "ISO-8859-16",
	"mac": "Mac Roman", "macintosh": "Mac Roman", "macroman": "Mac Roman", "oem": "code page 850", "utf8": "UTF-8", "utf16": "UTF-16LE",
	"unicode": "UTF-16LE",
	"sjis":    "Shift_JIS", "gbk": "GB18030", "gb2312": "GB18030",
}

func nameKey(name string) string {
	name = strings.ToLower(strings.NewReplacer(" ", "", "-", "", "_", "").Replace(name))
	for _, prefix := range []string{"cp", "codepage", "ibm", "dos"} {
		if number, found := strings.CutPrefix(name, prefix); found && number != "" {
			if len(number) == 4 {
				return "windows" + number
			}
			return "codepage" + number
		}
	}
	return name
}

// Names returns the names of the encodings that can be read.
func Names() (names []string) {
	return append(names, charsetNames[:]...)
}

// BOM is the byte order mark of UTF-8.
const BOM = "\ufeff"

// Detect looks at the first bytes of a file. more says that the file goes on
// behind them, so that a character may be cut at the end. Whether a file is
// UTF-8 to its end only reading it can tell.
func Detect(head []byte, more bool) (c Charset, bom bool) {
	switch {
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}), bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		return utf16Of(head), true
	case looksUTF16(head):
		return utf16Of(head), false
	}
	bom = bytes.HasPrefix(head, []byte(BOM))
	if more {
		for i := 0; i < utf8.UTFMax && len(head) > 0 && !utf8.RuneStart(head[len(head)-1]); i++ {
			head = head[:len(head)-1]
		}
		if len(head) > 0 && head[len(head)-1] >= utf8.RuneSelf {
			head = head[:len(head)-1]
		}
	}
	if utf8.Valid(head) {
		return UTF8, bom
	}
	return Windows1252, bom
}

// looksUTF16 reports whether every other byte of the head is nearly always
// NUL, as in Latin text of two bytes a character.
func looksUTF16(head []byte) bool {
	head = head[:min(len(head), 4096)]
	var nul [2]int
	for i, b := range head {
		if b == 0 {
			nul[i&1]++
		}
	}
	half := len(head) / 2
	return half >= 8 && (nul[0]*10 >= half*8 && nul[1]*10 <= half || nul[1]*10 >= half*8 && nul[0]*10 <= half)
}

// DecodeRest returns a text of which only a part is UTF-8 with the other bytes decoded.
// The encoding has one byte a character.
func (c Charset) DecodeRest(s string) string {
	var b strings.Builder
	b.Grow(len(s) + 8)
	for i := 0; i < len(s); {
		r, size := utf8.DecodeRuneInString(s[i:])
		if r == utf8.RuneError && size == 1 {
			b.WriteString(singles[c].texts[s[i]-utf8.RuneSelf])
		} else {
			b.WriteString(s[i : i+size])
		}
		i += size
	}
	return b.String()
}

// Decode returns the text in UTF-8. UTF-8 is returned as it is; bytes without a
// character become the control characters of the same number.
func (c Charset) Decode(b []byte) []byte {
	s := singles[c]
	if s == nil {
		return b
	}
	out := make([]byte, 0, len(b)+len(b)/16+16)
	for len(b) > 0 {
		plain := 0
		for ; plain+8 <= len(b); plain += 8 {
			if high := binary.LittleEndian.Uint64(b[plain:]) & highs; high != 0 {
				plain += bits.TrailingZeros64(high) / 8
				break
			}
		}
		for plain < len(b) && b[plain] < utf8.RuneSelf {
			plain++
		}
		out = append(out, b[:plain]...)
		for b = b[plain:]; len(b) > 0 && b[0] >= utf8.RuneSelf; b = b[1:] {
			out = append(out, s.texts[b[0]-utf8.RuneSelf]...)
		}
	}
	return out
}
