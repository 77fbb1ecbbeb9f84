package imagelink

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// isEnding reports whether a text ends like the name of a picture.
func isEnding(s string) bool {
	for i := len(s) - 2; i >= 0 && i >= len(s)-5; i-- {
		if s[i] == '.' {
			return isPictureEnding(s[i+1:])
		}
	}
	return false
}

// isPictureEnding reports whether pictures have an ending, in whatever case.
func isPictureEnding(s string) bool {
	var b [4]byte
	if len(s) > len(b) {
		return false
	}
	for i := range len(s) {
		b[i] = s[i]
		if s[i] >= 'A' && s[i] <= 'Z' {
			b[i] |= 0x20
		}
	}
	switch string(b[:len(s)]) {
	case "jpg", "jpeg", "jpe", "jfif", "png", "gif", "webp", "svg", "bmp", "tif", "tiff", "avif", "heic", "heif", "jp2", "jxl", "ico", "psd":
		return true
	}
	return false
}

// endsPicture reports whether a text ends like the name of a picture, or with parameters behind such an ending.
func endsPicture(s string) bool {
	if isEnding(s) {
		return true
	}
	at := strings.IndexAny(s, "?#")
	for at >= 0 {
		if isEnding(s[:at]) && !strings.ContainsFunc(s[at:], isBlank) {
			return true
		}
		next := strings.IndexAny(s[at+1:], "?#")
		if next < 0 {
			break
		}
		at += 1 + next
	}
	return false
}

// longest is how many bytes around a mark are looked at, to see what stands there.
const longest = 200

// Split takes the links in a cell apart: addresses, or names of files, between commas, semicolons, bars, spaces or line breaks, which
// it leaves out, as it does quotation marks around all of them. A comma or a space that belongs to an address stays: only those are
// taken for marks between two links behind which another begins. A text that has no links is one.
func Split(cell string) []string {
	cell = unwrap(marksOfEntities(strings.TrimFunc(cell, isBlank)))
	var parts []string
	begin := 0
	add := func(end int) {
		if part := trimMarks(cell[begin:end]); part != "" {
			parts = append(parts, part)
		}
	}
	for i := 0; i < len(cell); {
		if i == begin {
			i += startOf(strings.TrimLeft(cell[i:], marksBefore)) // which may have a space in it
		}
		n := gap(cell, i)
		if n == 0 {
			i++
			continue
		}
		if at := i + n; at < len(cell) && begins(cell[begin:i], cell[at:]) {
			add(i)
			begin = at
		}
		i += n
	}
	add(len(cell))
	return parts
}

// isBlank reports whether nobody sees a character.
func isBlank(r rune) bool {
	if r < 0x7F {
		return r <= ' '
	}
	return unicode.IsSpace(r) || r == 0x7F || r == 0x200B || r == 0x200C || r == 0x200D || r == 0x2060 || r == 0xFEFF || r == 0xAD
}

// gap returns how many bytes from i on may stand between two links: marks, and spaces around them.
func gap(s string, i int) int {
	if marked[s[i]] == ordinary {
		return 0
	}
	end := i
	for end < len(s) {
		r, n := utf8.DecodeRuneInString(s[end:])
		switch {
		case isBlank(r), r == ',', r == '|', r == ';' && !endsEntity(s[:end]):
			end += n
		default:
			return end - i
		}
	}
	return end - i
}

// endsEntity reports whether a semicolon behind a text ends the name of a character in HTML.
func endsEntity(s string) bool {
	s = s[max(0, len(s)-8):]
	at := strings.LastIndexByte(s, '&')
	return at >= 0 && at+1 < len(s) && strings.IndexFunc(s[at+1:], func(r rune) bool {
		return r >= utf8.RuneSelf || !isAlnum(byte(r)) && r != '#'
	}) < 0
}

// marksBefore and marksBehind may stand around single links.
const marksBefore, marksBehind = `"'<` + "`", `"'>` + "`"

// begins reports whether another link begins behind a gap: an address, or the name of a file behind what ends like one.
func begins(before, after string) bool {
	bare := strings.TrimLeft(after, marksBefore)
	if startOf(bare) > 0 {
		return true
	}
	switch elsewhere(bare[:min(len(bare), longest)]) {
	case Disk, Share, Data, Scheme:
		return true
	}
	if !endsPicture(strings.TrimRight(before[max(0, len(before)-longest):], marksBehind)) {
		return false
	}
	bare = bare[:min(len(bare), longest)]
	for i, r := range bare {
		switch {
		case startOf(bare[i:]) > 0, r == ',', r == ';', r == '|', r == '\n', r == '\r': // an address has an ending of its own
			return isName(bare[:i])
		case isBlank(r) && isName(bare[:i]):
			return true
		}
	}
	return isName(bare)
}

// isName reports whether a text ends like the name of a picture, with marks behind it or not.
func isName(s string) bool {
	return endsPicture(strings.TrimRight(strings.TrimRightFunc(s, isBlank), marksBehind))
}

// trimMarks takes off what stands between links.
func trimMarks(s string) string {
	for {
		t := strings.TrimLeft(strings.TrimFunc(s, isBlank), ",;|")
		if t = strings.TrimRight(t, ",|"); strings.HasSuffix(t, ";") && !endsEntity(t[:len(t)-1]) {
			t = t[:len(t)-1]
		}
		if t == s {
			return s
		}
		s = t
	}
}

// pairs are marks that stand around links, by the first.
var pairs = map[rune]rune{'"': '"', '\'': '\'', '`': '`', '<': '>', '„': '“', '“': '”', '”': '”', '‘': '’', '‚': '‘', '’': '’', '«': '»', '»': '«', '‹': '›'}

// unwrap takes marks off that stand around a whole cell, and nowhere else in it; and what stands around lists in programs.
func unwrap(s string) string {
	if len(s) > 4 && s[0] == '[' && s[len(s)-1] == ']' && (s[1] == '"' || s[1] == '\'') && s[len(s)-2] == s[1] {
		s = s[1 : len(s)-1]
	}
	for {
		first, n := utf8.DecodeRuneInString(s)
		last, m := utf8.DecodeLastRuneInString(s)
		shut, is := pairs[first]
		if !is || len(s) <= n+m || last != shut && (first != '„' || last != '”') || strings.ContainsRune(s[n:len(s)-m], first) {
			return s
		}
		s = strings.TrimFunc(s[n:len(s)-m], isBlank)
	}
}

var markEntities = strings.NewReplacer("&quot;", `"`, "&#34;", `"`, "&#39;", "'", "&apos;", "'", "&lt;", "<", "&gt;", ">", "&nbsp;", " ", "&#160;", " ",
	"&#47;", "/", "&#x2f;", "/", "&#x2F;", "/", "&#58;", ":", "&#x3a;", ":", "&#x3A;", ":")

// marksOfEntities returns a cell with the characters that stand around and between links, where these are written as in HTML.
func marksOfEntities(s string) string {
	if strings.IndexByte(s, '&') < 0 {
		return s
	}
	return strings.TrimFunc(markEntities.Replace(s), isBlank)
}
