package markup

import (
	"strings"

	"golang.org/x/net/html"
)

// quickly builds the document of HTML in which every element is closed where it should be, as most of it is, without a parser: there the
// tree that the HTML standard builds (13.2.6) is what the tags say. ok is false where it may be another; then the builder has to begin anew.
func (b *builder) quickly(s string) (ok bool) {
	if strings.IndexByte(s, 0) >= 0 {
		return false
	}
	b.stack = b.stack[:0]
	from, at := 0, 0 // where the text begins that has not been told, and where the scanner stands
	tell := func() bool {
		text := s[from:at]
		if text == "" {
			return true
		}
		if b.inTable() {
			return strings.Trim(text, " \t\n\f\r") == "" // the rest would stand before the table
		}
		if strings.IndexByte(text, '&') >= 0 {
			text = html.UnescapeString(text)
		}
		b.text(text)
		return true
	}
	for sc := (Scanner{rest: s}); sc.Next(); {
		t := sc.token
		if t.Kind == Text || t.Kind == Entity {
			at += len(t.Raw)
			continue
		}
		if !tell() {
			return false
		}
		at += len(t.Raw)
		from = at
		switch t.Kind {
		case StartTag:
			if !t.Whole || !b.startQuickly(t) {
				return false
			}
		case EndTag:
			if n := len(b.stack); !t.Whole || n == 0 || !isEndOf(t.Raw, b.stack[n-1].name) {
				return false
			}
			b.stack = b.stack[:len(b.stack)-1]
			b.end()
		case Comment:
			if !t.Whole || strings.Count(t.Raw, "--") != 2 || strings.HasPrefix(t.Raw, "<!-->") || strings.HasPrefix(t.Raw, "<!--->") {
				return false
			}
		default:
			return false
		}
	}
	if !tell() || len(b.stack) > 0 {
		return false
	}
	b.endLine()
	return true
}

// isEndOf reports whether an end tag is that of an element, and has nothing else in it.
func isEndOf(raw, name string) bool {
	return len(raw) == len(name)+3 && strings.EqualFold(raw[2:len(raw)-1], name)
}

// inTable reports whether what is open last is a table, and no cell of it.
func (b *builder) inTable() bool {
	if len(b.stack) == 0 {
		return false
	}
	switch b.stack[len(b.stack)-1].class {
	case table, rowGroup, row:
		return true
	}
	return false
}

// mostQuick is how many elements are open at once at most.
const mostQuick = 64

// startQuickly opens an element, if it goes where its tag stands.
func (b *builder) startQuickly(t Token) bool {
	name := t.Name()
	k := b.known[name]
	if k == nil {
		if strings.IndexByte(name, ':') < 0 {
			return false
		}
		k = &known{element: &element{name: name}}
	}
	top := unknown
	if n := len(b.stack); n > 0 {
		top = b.stack[n-1].class
	}
	void := false
	switch k.class {
	case inline, unknown:
		if name == "a" && b.isOpen("a") || b.inTable() {
			return false
		}
		switch name {
		case "nobr", "ruby", "rb", "rt", "rp":
			return false
		}
	case division:
		switch name {
		case "dl", "dt", "dd", "form", "html", "body", "marquee", "menu", "dir", "dialog", "fieldset":
			return false
		}
		if b.inTable() || b.paragraphOpen() {
			return false
		}
	case paragraph, list, quote, table:
		if b.inTable() || b.paragraphOpen() {
			return false
		}
	case heading:
		if b.inTable() || b.paragraphOpen() || top == heading {
			return false
		}
	case rule:
		if void = true; b.inTable() || b.paragraphOpen() {
			return false
		}
	case lineBreak, picture:
		if void = true; b.inTable() {
			return false
		}
	case item:
		if len(b.stack) > 0 && top != list || b.paragraphOpen() {
			return false
		}
	case caption, rowGroup:
		if top != table {
			return false
		}
	case row:
		if top != table && top != rowGroup {
			return false
		}
	case cell:
		if top != row {
			return false
		}
	default:
		return false
	}
	b.attrs = b.attrs[:0]
	if raw := t.Raw; len(raw) > len(name)+2 {
		if !void && raw[len(raw)-2] == '/' {
			return false
		}
		if !b.attributesQuickly(raw) {
			return false
		}
	}
	if isMark(b.attrs) || len(b.stack) == mostQuick || hidden(b.attrs) || !b.start(k, b.attrs) {
		return false
	}
	if void {
		b.end()
	} else {
		b.stack = append(b.stack, k.element)
	}
	return true
}

// attributesQuickly reads the attributes of a tag; false if a parser might read them otherwise.
func (b *builder) attributesQuickly(raw string) bool {
	b.attrs = attributesOf(b.attrs, raw)
	for _, a := range b.attrs {
		if strings.IndexByte(a.value, '&') >= 0 || strings.IndexByte(a.value, '\r') >= 0 || strings.ContainsAny(a.name, "\"'<=`") {
			return false
		}
	}
	return strings.IndexByte(raw, '&') < 0
}

// isOpen reports whether an element of that name is open.
func (b *builder) isOpen(name string) bool {
	for _, e := range b.stack {
		if e.name == name {
			return true
		}
	}
	return false
}

// paragraphOpen reports whether a paragraph is open that a block would end.
func (b *builder) paragraphOpen() bool {
	for i := len(b.stack) - 1; i >= 0; i-- {
		switch b.stack[i].class {
		case paragraph:
			return true
		case table, cell, caption:
			return false
		}
	}
	return false
}
