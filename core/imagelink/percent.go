package imagelink

import (
	"net/url"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Where characters stand of which some have to be encoded.
const (
	inPath  = 1
	inQuery = 2
)

// allowed says where a byte may stand as it is (RFC 3986, 3.3 and 3.4).
var allowed = func() (in [256]uint8) {
	for c := range in {
		switch {
		case isAlnum(byte(c)) || strings.IndexByte("-._~!$&'()*+,;=:@/", byte(c)) >= 0:
			in[c] = inPath | inQuery
		case c == '?':
			in[c] = inQuery
		}
	}
	return in
}()

const hexDigits = "0123456789ABCDEF"

// encode encodes what may not stand in a path or a query. What is encoded already stays so; a percent sign that encodes nothing stands
// for itself.
func encode(s string, where uint8) string {
	wrong := false
	for i := 0; i < len(s) && !wrong; i++ {
		if s[i] == '%' {
			wrong = !escapes(s[i:])
		} else {
			wrong = allowed[s[i]]&where == 0
		}
	}
	if !wrong {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if c := s[i]; c == '%' && escapes(s[i:]) || c != '%' && allowed[c]&where != 0 {
			b.WriteByte(c)
		} else {
			b.WriteByte('%')
			b.WriteByte(hexDigits[c>>4])
			b.WriteByte(hexDigits[c&15])
		}
	}
	return b.String()
}

// escapes reports whether a percent sign is followed by two hexadecimal digits.
func escapes(s string) bool { return len(s) > 2 && isHex(s[1]) && isHex(s[2]) }

// decodeTwice returns a path that has been encoded twice as it was before the second time. That is certain if all that is encoded in it
// are percent signs, and what follows them are characters that have to be encoded; those of an address within the path are not looked at.
func decodeTwice(path string) string {
	for strings.Contains(path, "%25") {
		once := strings.ReplaceAll(path, "%25", "%")
		if strings.Count(path, "%") != strings.Count(path, "%25") || strings.Count(once, "%") != countEscapes(once) {
			return path
		}
		text, err := url.PathUnescape(once)
		if err != nil || !utf8.ValidString(text) || strings.ContainsFunc(text, func(r rune) bool { return unicode.IsControl(r) || r == '/' || r == ':' }) && addressed(once) {
			return path
		}
		path = once
	}
	return path
}

// addressed reports whether slashes or colons are encoded in a path, as they are where it has an address in it.
func addressed(path string) bool {
	lower := strings.ToLower(path)
	return strings.Contains(lower, "%2f") || strings.Contains(lower, "%3a")
}

// countEscapes counts the percent signs that encode a character which may not stand there as it is.
func countEscapes(s string) (n int) {
	for i := 0; i < len(s); i++ {
		if s[i] == '%' && escapes(s[i:]) {
			if c := unhex(s[i+1])<<4 | unhex(s[i+2]); !isAlnum(c) && strings.IndexByte("-._~", c) < 0 && c >= ' ' {
				n++
			}
		}
	}
	return n
}

func unhex(c byte) byte {
	switch {
	case isDigit(c):
		return c - '0'
	default:
		return c | 0x20 - 'a' + 10
	}
}

// dots takes dot segments out of a path (RFC 3986, 5.2.4).
func dots(path string) string {
	if !strings.Contains(path, "/.") {
		return path
	}
	segments := strings.Split(path, "/")
	out := segments[:0:0]
	for i, s := range segments {
		last := i == len(segments)-1
		switch s {
		case ".":
			if last {
				out = append(out, "")
			}
		case "..":
			if len(out) > 1 {
				out = out[:len(out)-1]
			}
			if last {
				out = append(out, "")
			}
		default:
			out = append(out, s)
		}
	}
	return strings.Join(out, "/")
}
