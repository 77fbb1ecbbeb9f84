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
	UTF32
	UTF32BE
	Windows1252
	Windows1250
	Windows1251
	Windows1253
	Windows1254
	Windows1255
	Windows1256
	Windows1257
	Windows1258
	Windows874
	ISO8859_2
	ISO8859_3
	ISO8859_4
	ISO8859_5
	ISO8859_6
	ISO8859_7
	ISO8859_8
	ISO8859_9
	ISO8859_10
	ISO8859_13
	ISO8859_14
	ISO8859_15
	ISO8859_16
	MacRoman
	MacCentralEurope
	MacCyrillic
	CodePage437
	CodePage737
	CodePage775
	CodePage850
	CodePage852
	CodePage855
	CodePage857
	CodePage858
	CodePage860
	CodePage861
	CodePage862
	CodePage863
	CodePage865
	CodePage866
	CodePage869
	KOI8R
	KOI8U
	ShiftJIS
	EUCJP
	ISO2022JP
	GB18030
	Big5
	EUCKR
	numCharsets
)

var charsetNames = [numCharsets]string{
	"UTF-8", "UTF-16LE", "UTF-16BE", "UTF-32LE", "UTF-32BE",
	"Windows-1252", "Windows-1250", "Windows-1251", "Windows-1253", "Windows-1254", "Windows-1255", "Windows-1256", "Windows-1257",
	"Windows-1258", "Windows-874",
	"ISO-8859-2", "ISO-8859-3", "ISO-8859-4", "ISO-8859-5", "ISO-8859-6", "ISO-8859-7", "ISO-8859-8", "ISO-8859-9", "ISO-8859-10",
	"ISO-8859-13", "ISO-8859-14", "ISO-8859-15", "ISO-8859-16",
	"Mac Roman", "Mac Central European", "Mac Cyrillic",
	"code page 437", "code page 737", "code page 775", "code page 850", "code page 852", "code page 855", "code page 857",
	"code page 858", "code page 860", "code page 861", "code page 862", "code page 863", "code page 865", "code page 866",
	"code page 869", "KOI8-R", "KOI8-U",
	"Shift_JIS", "EUC-JP", "ISO-2022-JP", "GB18030", "Big5", "EUC-KR",
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
	"unicode": "UTF-16LE", "utf32": "UTF-32LE", "tis620": "Windows-874", "iso885911": "Windows-874", "latin4": "ISO-8859-4",
	"latin6": "ISO-8859-10", "latin7": "ISO-8859-13", "macce": "Mac Central European", "maclatin2": "Mac Central European",
	"sjis": "Shift_JIS", "gbk": "GB18030", "gb2312": "GB18030",
}

// joints stand between the parts of a name.
var joints = strings.NewReplacer(" ", "", "-", "", "_", "")

func nameKey(name string) string {
	name = strings.ToLower(joints.Replace(name))
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
	if c, bom, ok := unicodeOf(head); ok {
		return c, bom
	}
	bom = bytes.HasPrefix(head, []byte(BOM))
	if more {
		head = head[:len(head)-cutAt(head)]
	}
	switch {
	case !utf8.Valid(head):
		return Windows1252, bom
	case !bom && escaped(head):
		return ISO2022JP, false
	}
	return UTF8, bom
}

// cutAt returns how many bytes at the end begin a character of UTF-8 that is not whole.
func cutAt(data []byte) int {
	for n := 1; n < utf8.UTFMax && n <= len(data); n++ {
		b := data[len(data)-n:]
		if utf8.RuneStart(b[0]) {
			if b[0] >= 0xc2 && b[0] < 0xf5 && !utf8.FullRune(b) {
				return n
			}
			return 0
		}
	}
	return 0
}

// DecodeRest returns a text of which only a part is UTF-8 with the rest of it decoded; for
// UTF-8, what cannot be read becomes U+FFFD. What stands side by side is of one encoding,
// and a text of which most is no UTF-8 is none; but single bytes that break what is UTF-8
// around them are of none. What is UTF-8 throughout stays, unless it is odd as that and
// makes sense in the encoding; mixed says that many texts of the file are in it, so that
// all those are looked at that may be UTF-8 by chance.
func (c Charset) DecodeRest(s string, mixed bool) string {
	good, bad := runs(s)
	if good+bad == 0 {
		return s
	}
	if bad == 0 {
		if c != UTF8 && good <= byChance && (mixed || odder(s)) {
			if text := c.Read(s); likelihood(text) > likelihood(s)+Thin {
				return text
			}
		}
		return s
	}
	var b strings.Builder
	b.Grow(len(s) + 8)
	for len(s) > 0 {
		plain, high := nextRun(s)
		b.WriteString(s[:plain])
		run := s[plain : plain+high]
		s = s[plain+high:]
		switch {
		case high == 0:
		case c == UTF8 || broken(run):
			b.WriteString(strings.ToValidUTF8(run, lost))
		case (good > bad || good == bad && !mixed) && utf8.ValidString(run):
			b.WriteString(run)
		default:
			b.WriteString(c.Read(run))
		}
	}
	return b.String()
}

// byChance is how many stretches of bytes beyond ASCII of one text are UTF-8 by chance.
const byChance = 2

// odder reports whether a text in UTF-8 is odd enough for another encoding to have written
// the same bytes.
func odder(s string) bool {
	rare, ok := sense(s, 1)
	return !ok || rare > 0
}

// lost is what stands for a character that cannot be read.
const lost = string(utf8.RuneError)

// broken reports whether a stretch of bytes beyond ASCII is UTF-8 but for a few of them.
func broken(run string) bool {
	good, bad := 0, 0
	for len(run) > 0 {
		r, size := utf8.DecodeRuneInString(run)
		if r == utf8.RuneError && size == 1 {
			bad++
		} else {
			good += size
		}
		run = run[size:]
	}
	return bad > 0 && good >= 4 && good >= 3*bad
}

// nextRun returns how many bytes of ASCII a text begins with, and how many beyond ASCII
// follow.
func nextRun[T string | []byte](s T) (plain, high int) {
	for plain < len(s) && s[plain] < utf8.RuneSelf {
		plain++
	}
	for plain+high < len(s) && s[plain+high] >= utf8.RuneSelf {
		high++
	}
	return plain, high
}

// runs counts the stretches of bytes beyond ASCII that are UTF-8, and those that are not.
func runs[T string | []byte](s T) (good, bad int) {
	for len(s) > 0 {
		plain, high := nextRun(s)
		switch {
		case high == 0:
		case utf8.ValidString(string(s[plain : plain+high])):
			good++
		default:
			bad++
		}
		s = s[plain+high:]
	}
	return good, bad
}

// Decode returns the text in UTF-8. UTF-8 is returned as it is; bytes without a
// character become the control characters of the same number.
func (c Charset) Decode(b []byte) []byte {
	s := singles()[c]
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
