// Package markup reads the HTML of descriptions, as it stands in cells: fragments, of any
// quality, without a document around them.
//
//	for s := markup.NewScanner("<p>Beech &amp; oak</p>"); s.Next(); {
//		s.Token().Raw // "<p>", "Beech ", "&amp;", " oak", "</p>"
//	}
//
// What is scanned can be put together again: the tokens are the source, byte for byte.
package markup

import (
	"html"
	"strings"
)

// A Kind says what a token is.
type Kind uint8

// The kinds of tokens.
const (
	Text     Kind = iota
	Entity        // a character by its name or number, with its semicolon: &amp;
	StartTag      // <p class="a">, also one that closes itself
	EndTag        // </p>
	Comment       // <!-- … -->
	Other         // a doctype, <?xml … ?>, and what else a browser takes for a comment
	Raw           // what stands in a script or style, where nothing is a tag
)

// A Token is a piece of HTML as it stands in the source.
type Token struct {
	Kind  Kind
	Raw   string
	Whole bool // it is closed: a tag that ends with >, a comment with -->
}

// Name returns the name of a tag, in small letters; "" of other tokens.
func (t Token) Name() string {
	name := strings.TrimPrefix(t.Raw, "<")
	switch t.Kind {
	case EndTag:
		name = strings.TrimPrefix(name, "/")
	case StartTag:
	default:
		return ""
	}
	end := 0
	for end < len(name) && !isTagSpace(name[end]) && name[end] != '/' && name[end] != '>' {
		end++
	}
	return lower(name[:end])
}

// lower returns a text with small letters in the place of the large ones of ASCII.
func lower(s string) string {
	for i := range len(s) {
		if s[i] >= 'A' && s[i] <= 'Z' {
			b := []byte(s)
			for ; i < len(b); i++ {
				if b[i] >= 'A' && b[i] <= 'Z' {
					b[i] += 'a' - 'A'
				}
			}
			return string(b)
		}
	}
	return s
}

// A Scanner goes through HTML token by token, as the HTML standard's tokenizer does (HTML
// Living Standard, 13.2.5), but for what it loses: spaces in tags, comments, what is not
// closed.
type Scanner struct {
	rest  string
	token Token
	raw   string // the element in which nothing is a tag until its end; "" if it is none
}

// NewScanner begins with the first token of a text.
func NewScanner(s string) *Scanner { return &Scanner{rest: s} }

// Token returns the token that Next has found.
func (s *Scanner) Token() Token { return s.token }

// Next goes to the next token; false at the end.
func (s *Scanner) Next() bool {
	if s.rest == "" {
		return false
	}
	if s.raw != "" {
		end := endOfRaw(s.rest, s.raw)
		s.raw = ""
		if end > 0 {
			s.take(Raw, end, true)
			return true
		}
	}
	switch s.rest[0] {
	case '<':
		if kind, n, whole := markupAt(s.rest); n > 0 {
			s.take(kind, n, whole)
			if kind == StartTag && whole && isRaw(s.token.Name()) {
				s.raw = s.token.Name()
			}
			return true
		}
	case '&':
		if n := entityAt(s.rest); n > 0 {
			s.take(Entity, n, true)
			return true
		}
	}
	s.take(Text, textAt(s.rest), true)
	return true
}

func (s *Scanner) take(kind Kind, n int, whole bool) {
	s.token, s.rest = Token{kind, s.rest[:n], whole}, s.rest[n:]
}

// textWindow is how many bytes are searched at once.
const textWindow = 128

// textAt returns how many bytes there are to the next token that is no text; the first is
// text in any case.
func textAt(s string) int {
	for at := 1; at < len(s); at++ {
		for at < len(s) && s[at] != '<' && s[at] != '&' {
			window := s[at:min(at+textWindow, len(s))] // and no farther: what is behind the next sign is not to be searched twice
			n := len(window)
			if i := strings.IndexByte(window, '<'); i >= 0 {
				n = i
			}
			if i := strings.IndexByte(window[:n], '&'); i >= 0 {
				n = i
			}
			at += n
		}
		if at == len(s) {
			break
		}
		if s[at] == '&' && entityAt(s[at:]) > 0 {
			return at
		}
		if s[at] == '<' {
			if _, n, _ := markupAt(s[at:]); n > 0 {
				return at
			}
		}
	}
	return len(s)
}

// markupAt returns what begins with the < at the beginning of a text, and how many bytes it
// has; 0 if it is text.
func markupAt(s string) (kind Kind, n int, whole bool) {
	if len(s) < 2 {
		return Text, 0, false
	}
	switch c := s[1]; {
	case isLetter(c):
		n, whole = endOfTag(s, 2)
		return StartTag, n, whole
	case c == '/' && len(s) > 2 && isLetter(s[2]):
		n, whole = endOfTag(s, 3)
		return EndTag, n, whole
	case strings.HasPrefix(s, "<!--"):
		n, whole = endOfComment(s)
		return Comment, n, whole
	case c == '/' && len(s) > 2, c == '!', c == '?':
		if end := strings.IndexByte(s, '>'); end >= 0 {
			return Other, end + 1, true
		}
		return Other, len(s), false
	}
	return Text, 0, false
}

// Where in a tag the scanner is, as in the states of the HTML standard of that name.
type place uint8

const (
	tagName place = iota
	beforeName
	attributeName
	afterName
	beforeValue
	unquotedValue
)

// endOfTag returns how many bytes a tag has, given where it goes on behind the first letter of
// its name: up to the > that does not stand in a quoted value.
func endOfTag(s string, at int) (n int, whole bool) {
	for in := tagName; at < len(s); at++ {
		c := s[at]
		space := c == ' ' || c == '\t' || c == '\n' || c == '\f' || c == '\r'
		switch {
		case c == '>':
			return at + 1, true
		case in == beforeValue && (c == '"' || c == '\''):
			end := strings.IndexByte(s[at+1:], c)
			if end < 0 {
				return len(s), false
			}
			at += end + 1
			in = beforeName
		case in == beforeValue && !space:
			in = unquotedValue
		case c == '=' && (in == attributeName || in == afterName):
			in = beforeValue
		case space && in == attributeName:
			in = afterName
		case space && (in == tagName || in == unquotedValue), c == '/' && in != unquotedValue && in != beforeValue:
			in = beforeName
		case !space && (in == beforeName || in == afterName):
			in = attributeName
		}
	}
	return len(s), false
}

func endOfComment(s string) (n int, whole bool) {
	for _, empty := range []string{"<!-->", "<!--->"} {
		if strings.HasPrefix(s, empty) {
			return len(empty), true
		}
	}
	n = len(s)
	for _, end := range []string{"-->", "--!>"} {
		if at := strings.Index(s[4:], end); at >= 0 && 4+at+len(end) < n || at >= 0 && !whole {
			n, whole = min(n, 4+at+len(end)), true
		}
	}
	return n, whole
}

// isRaw reports whether nothing is a tag in an element.
func isRaw(name string) bool {
	switch name {
	case "script", "style", "xmp", "iframe", "noembed", "noframes":
		return true
	}
	return false
}

// endOfRaw returns where the end tag of an element begins, or the length of what there is.
func endOfRaw(s, name string) int {
	for at := 0; ; at++ {
		next := strings.Index(s[at:], "</")
		if next < 0 {
			return len(s)
		}
		at += next
		end := at + 2 + len(name)
		if end <= len(s) && strings.EqualFold(s[at+2:end], name) && (end == len(s) || strings.IndexByte(" \t\n\f\r/>", s[end]) >= 0) {
			return at
		}
	}
}

// longestEntity is how many bytes the name of a character has at most, & and ; included.
const longestEntity = 34

// entityAt returns how many bytes an entity at the beginning of a text has, 0 if there is none
// that HTML knows (HTML Living Standard, 13.5), with its semicolon.
func entityAt(s string) int {
	end := strings.IndexByte(s[:min(len(s), longestEntity)], ';')
	if end < 2 {
		return 0
	}
	name := s[1:end]
	if digits, numeric := strings.CutPrefix(name, "#"); numeric {
		if hex, is := strings.CutPrefix(strings.ToLower(digits), "x"); is {
			return all(hex, 6, "0123456789abcdef", end)
		}
		return all(digits, 7, "0123456789", end)
	}
	for i := range len(name) {
		if c := name[i]; !isLetter(c) && (i == 0 || c < '0' || c > '9') {
			return 0
		}
	}
	if out := html.UnescapeString(s[:end+1]); out == s[:end+1] || strings.HasSuffix(out, ";") && name != "semi" {
		return 0 // or only its beginning is known: &ampx;
	}
	return end + 1
}

// all returns the length of an entity if its number has digits only, and not too many.
func all(number string, most int, digits string, end int) int {
	if number == "" || len(number) > most || strings.Trim(number, digits) != "" {
		return 0
	}
	return end + 1
}

func isLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }
