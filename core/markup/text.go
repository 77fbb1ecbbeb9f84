package markup

import (
	"html"
	"strings"
)

// OutsideTags lets do change the text between the tags of HTML: entities are part of it, and
// what stands in scripts and comments is none. What do puts in may have tags; but a change
// that would make one of a < that stood there, as in 1<2 where 2 becomes b, is left out.
func OutsideTags(source string, do func(text string) (after string, changed bool)) (after string, changed bool) {
	var b strings.Builder
	done, at := 0, 0 // how much of the source is in b; where the scanner stands
	from := 0        // where the text begins that has been gone through
	flush := func() {
		if from == at {
			return
		}
		if text, c := do(source[from:at]); c && (strings.IndexByte(source[from:at], '<') < 0 || isText(text)) {
			b.WriteString(source[done:from])
			b.WriteString(text)
			done, changed = at, true
		}
	}
	for s := NewScanner(source); s.Next(); {
		t := s.Token()
		if t.Kind != Text && t.Kind != Entity {
			flush()
			from = at + len(t.Raw)
		}
		at += len(t.Raw)
	}
	flush()
	if !changed {
		return source, false
	}
	b.WriteString(source[done:])
	return b.String(), true
}

// isText reports whether there is nothing but text and entities in a text.
func isText(s string) bool {
	if strings.IndexByte(s, '<') < 0 {
		return true
	}
	for sc := NewScanner(s); sc.Next(); {
		if k := sc.Token().Kind; k != Text && k != Entity {
			return false
		}
	}
	return true
}

// HasTags reports whether there is any tag in a text that is closed.
func HasTags(s string) bool { return hasTag(s, func(string) bool { return true }) }

// usualInTexts are elements that descriptions are made of.
var usualInTexts = func() map[string]bool {
	m := make(map[string]bool)
	for _, name := range strings.Fields("p br ul ol li b i em strong div span h1 h2 h3 h4 h5 h6 table tr td a") {
		m[name] = true
	}
	return m
}()

// IsHTML reports whether a text has a tag of an element of which descriptions are made.
func IsHTML(s string) bool { return hasTag(s, func(name string) bool { return usualInTexts[name] }) }

func hasTag(s string, is func(name string) bool) bool {
	if strings.IndexByte(s, '<') < 0 {
		return false
	}
	for sc := NewScanner(s); sc.Next(); {
		if t := sc.Token(); (t.Kind == StartTag || t.Kind == EndTag) && t.Whole && is(t.Name()) {
			return true
		}
	}
	return false
}

// Words returns what HTML says, with a space in the place of each tag, and characters in the
// place of entities.
func Words(s string) string {
	var b strings.Builder
	for sc := NewScanner(s); sc.Next(); {
		switch t := sc.Token(); t.Kind {
		case Text:
			b.WriteString(t.Raw)
		case Entity:
			b.WriteString(html.UnescapeString(t.Raw))
		default:
			b.WriteByte(' ')
		}
	}
	return b.String()
}

// Unescape returns a plain text with characters in the place of entities.
func Unescape(s string) string {
	at := strings.IndexByte(s, '&')
	if at < 0 {
		return s
	}
	var b strings.Builder
	for {
		b.WriteString(s[:at])
		s = s[at:]
		n := entityAt(s)
		if n > 0 {
			b.WriteString(html.UnescapeString(s[:n]))
		} else {
			n = 1
			b.WriteByte('&')
		}
		s = s[n:]
		if at = strings.IndexByte(s, '&'); at < 0 {
			b.WriteString(s)
			return b.String()
		}
	}
}
