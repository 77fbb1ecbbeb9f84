package markup

import (
	"strings"
)

// A printer writes a document as HTML. What it writes a parser reads as the same document, so that writing it again gives the same bytes.
type printer struct {
	*document
	layout  Layout
	b       []byte
	path    []int // formats that are open
	next    []int
	deepest int // how deep blocks are in one another
}

// write appends the HTML of a document.
func (p *printer) write() {
	for at := p.blocks[0].first; at != 0; at = p.blocks[at].next {
		p.block(at, 0)
	}
}

// line begins a new line, if the layout has one there.
func (p *printer) line(depth int) {
	if len(p.b) > 0 && (p.layout == Lines || p.layout == Blocks && depth == 0) && p.b[len(p.b)-1] != '\n' {
		p.b = append(p.b, '\n')
	}
}

func (p *printer) tag(name, attributes string) {
	p.b = append(p.b, '<')
	p.b = append(p.b, name...)
	p.b = append(p.b, attributes...)
	p.b = append(p.b, '>')
}

func (p *printer) endTag(name string) {
	p.b = append(p.b, "</"...)
	p.b = append(p.b, name...)
	p.b = append(p.b, '>')
}

// headings are the names of headings by their level.
var headings = [...]string{1: "h1", "h2", "h3", "h4", "h5", "h6"}

func (p *printer) block(at, depth int) {
	p.deepest = max(p.deepest, depth)
	b := &p.blocks[at]
	switch b.class {
	case paragraph:
		p.line(depth)
		p.tag("p", b.attributes)
		p.inline(b)
		p.endTag("p")
	case heading:
		p.line(depth)
		p.tag(headings[b.level], b.attributes)
		p.inline(b)
		p.endTag(headings[b.level])
	case verbatim:
		p.line(depth)
		p.tag("pre", b.attributes)
		p.inline(b)
		p.endTag("pre")
	case rule:
		p.line(depth)
		p.tag("hr", b.attributes)
	default:
		p.container(at, depth)
	}
}

// container writes a block that has others in it.
func (p *printer) container(at, depth int) {
	b := &p.blocks[at]
	name := b.known.name
	if b.class != cell {
		p.line(depth)
	}
	p.tag(name, b.attributes)
	if p.isBare(at) {
		p.inline(&p.blocks[b.first])
		for kid := p.blocks[b.first].next; kid != 0; kid = p.blocks[kid].next {
			p.block(kid, depth+1)
		}
	} else {
		for kid := b.first; kid != 0; kid = p.blocks[kid].next {
			p.block(kid, depth+1)
		}
	}
	last := p.blocks[b.last].class
	if p.layout == Lines && b.class != row && b.class != cell && b.class != caption && (b.class != item || last == list) && b.first != 0 {
		p.line(depth)
	}
	p.endTag(name)
}

// isBare reports whether the only paragraph of an item, or the one before its lists, is written without its tags.
func (p *printer) isBare(at int) bool {
	b := &p.blocks[at]
	first := &p.blocks[b.first]
	if b.first == 0 || !b.known.whole && b.class != caption || first.class != paragraph || first.attributes != "" {
		return false
	}
	for kid := first.next; kid != 0; kid = p.blocks[kid].next {
		if p.blocks[kid].class != list {
			return false
		}
	}
	return true
}

// inline writes runs of text.
func (p *printer) inline(b *block) {
	p.path = p.path[:0]
	for i := b.from; i < b.to; i++ {
		r := &p.runs[i]
		p.next = p.document.path(p.next, r.format)
		same := 0
		for same < len(p.path) && same < len(p.next) && p.alike(p.path[same], p.next[same]) {
			same++
		}
		p.close(same)
		for _, f := range p.next[same:] {
			p.tag(p.formats[f].known.name, p.formats[f].attributes)
			p.path = append(p.path, f)
		}
		switch r.class {
		case lineBreak:
			p.b = append(p.b, "<br>"...)
		case picture:
			p.tag("img", r.text)
		default:
			p.b = appendEscaped(p.b, r.text, false)
		}
	}
	p.close(0)
}

// close closes formats until so many are open.
func (p *printer) close(open int) {
	for i := len(p.path) - 1; i >= open; i-- {
		p.endTag(p.formats[p.path[i]].known.name)
	}
	p.path = p.path[:open]
}

// alike reports whether two formats are one, as they are written.
func (d *document) alike(a, b int) bool {
	return d.formats[a].known == d.formats[b].known && d.formats[a].attributes == d.formats[b].attributes
}

// appendEscaped appends a text with entities for the characters that mean something in HTML.
func appendEscaped(b []byte, s string, quotes bool) []byte {
	for s != "" {
		at := 0
		for at < len(s) && s[at] != '&' && s[at] != '<' && s[at] != '>' && (!quotes || s[at] != '"') {
			at++
		}
		b = append(b, s[:at]...)
		if at == len(s) {
			break
		}
		switch s[at] {
		case '&':
			b = append(b, "&amp;"...)
		case '<':
			b = append(b, "&lt;"...)
		case '>':
			b = append(b, "&gt;"...)
		default:
			b = append(b, "&quot;"...)
		}
		s = s[at+1:]
	}
	return b
}

// escape writes a text with entities.
func escape(b *strings.Builder, s string, quotes bool) { b.Write(appendEscaped(nil, s, quotes)) }
