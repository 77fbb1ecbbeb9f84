package markup

import (
	"strings"

	"zetanum/core/glance"
)

// A recogniser tells by one look at the bytes of a cell whether it is in the written form already, as most are that were written once. It
// is sure where it says yes; where it says no the cell may be in order all the same, and is read.
//
// What it knows is what most descriptions are made of: paragraphs, headings, lists in lists, bold and slanted text, line breaks. The rest
// is left to the reader, and so is a text that begins with what may be the mark of an item, or has spaces that might not be written so.
type recogniser struct {
	layout  Layout
	any     bool // blocks may stand on lines in any way
	off     bool // the rules may change what is in order
	strong  bool // what begins bold may be a heading
	breaks  bool // lines may be names and values
	level   int  // the highest heading that stays
	s       string
	at      int
	texts   bool // there is a text
	skipped bool // a heading is more than one level below the one before
	last    int  // the level of that
}

// newRecogniser returns the recogniser of what rules write.
func newRecogniser(s *settings) recogniser {
	r := s.rules
	return recogniser{off: r.LinkAddresses, strong: r.BoldHeadings, breaks: r.NamedLines != "", level: max(2, r.HeadingsFrom)}
}

// Kinds of bytes in a text.
const (
	plainByte = iota
	spaceByte
	tagByte    // <
	entityByte // &
	oddByte    // it may not be written so
	c2Byte     // the first of characters of which one is a space
	e2Byte     // and of those of which two end lines
)

var byteKinds = func() (kinds [256]uint8) {
	for c := range 256 {
		switch {
		case c == ' ':
			kinds[c] = spaceByte
		case c == '<':
			kinds[c] = tagByte
		case c == '&':
			kinds[c] = entityByte
		case c < ' ', c == 0x7f, c == '>':
			kinds[c] = oddByte
		case c == 0xc2:
			kinds[c] = c2Byte
		case c == 0xe2:
			kinds[c] = e2Byte
		case c >= 0xf5, c == 0xc0, c == 0xc1:
			kinds[c] = oddByte
		}
	}
	return kinds
}()

// written reports whether a cell is in the written form.
func (r *recogniser) written(s string) bool {
	if r.off || s == "" || s[0] != '<' {
		return false
	}
	r.s, r.at, r.texts, r.skipped, r.last = s, 0, false, false, 0
	for r.at < len(s) {
		if r.at > 0 && !r.newLine(r.layout != OneLine) {
			return false
		}
		if !r.block(0) {
			return false
		}
	}
	return true
}

// newLine goes past the line break between two blocks, if the layout has one there.
func (r *recogniser) newLine(there bool) bool {
	if r.any {
		for r.at < len(r.s) && (r.s[r.at] == '\n' || r.s[r.at] == '\r' || r.s[r.at] == ' ' || r.s[r.at] == '\t') {
			r.at++
		}
		return true
	}
	if there {
		if r.s[r.at] != '\n' {
			return false
		}
		r.at++
	}
	return r.at < len(r.s)
}

// has goes past a text, if it stands there.
func (r *recogniser) has(text string) bool {
	if strings.HasPrefix(r.s[r.at:], text) {
		r.at += len(text)
		return true
	}
	return false
}

// block goes past a block.
func (r *recogniser) block(depth int) bool {
	rest := r.s[r.at:]
	if len(rest) < 4 || rest[0] != '<' {
		return false
	}
	switch {
	case rest[1] == 'p' && rest[2] == '>':
		r.at += 3
		return !(r.strong && strings.HasPrefix(rest[3:], "<strong>")) && r.inline(depth, "</p>")
	case rest[1] == 'h' && rest[2] >= '2' && rest[2] <= '4' && rest[3] == '>':
		level := int(rest[2] - '0')
		if level < r.level && !r.any {
			return false
		}
		r.skipped = r.skipped || r.last > 0 && level > r.last+1
		r.last = level
		r.at += 4
		return r.inline(depth, headingEnds[level])
	case rest[1] == 'u' && rest[2] == 'l' && rest[3] == '>':
		r.at += 4
		return r.list(depth, "</ul>")
	case rest[1] == 'o' && rest[2] == 'l' && rest[3] == '>':
		r.at += 4
		return r.list(depth, "</ol>")
	}
	return false
}

var headingEnds = [...]string{2: "</h2>", "</h3>", "</h4>"}

// mostNested is how deep lists are in one another at most.
const mostNested = 8

// list goes past the items of a list.
func (r *recogniser) list(depth int, end string) bool {
	for n := 0; ; n++ {
		if r.at >= len(r.s) || !r.newLine(r.layout == Lines) {
			return false
		}
		if r.has(end) {
			return n > 0
		}
		if depth == mostNested || !r.has("<li>") || !r.inline(depth+1, "</li>") {
			return false
		}
	}
}

// inline goes past a line of text and the tag that ends it. Behind the text of an item there may be lists.
func (r *recogniser) inline(depth int, end string) bool {
	s, at := r.s, r.at
	var open [4]string // the ends of formats that are open
	opened := 0
	begins := true // of the line: no space may stand here, and no mark
	space := false // one has just been gone past
	edge := false  // a format has just begun
	closed := ""   // the one that has just ended
	for at < len(s) {
		c := s[at]
		switch byteKinds[c] {
		case plainByte:
			if begins {
				if !beginsText(s, at) {
					return false
				}
				begins = false
				r.texts = true
			}
			space, edge, closed = false, false, ""
			at = pastWords(s, at+1)
		case spaceByte:
			if begins || space || edge {
				return false
			}
			space, closed = true, ""
			at++
		case c2Byte:
			if begins || at+1 >= len(s) || s[at+1] == 0xa0 || s[at+1] < 0xa0 {
				return false
			}
			space, edge, closed = false, false, ""
			at += 2
		case e2Byte:
			if begins || at+2 >= len(s) || s[at+1] == 0x80 && (s[at+2] == 0xa8 || s[at+2] == 0xa9) {
				return false
			}
			space, edge, closed = false, false, ""
			at += 3
		case entityByte:
			rest := s[at:]
			switch {
			case begins:
				return false
			case strings.HasPrefix(rest, "&amp;"):
				at += 5
			case strings.HasPrefix(rest, "&lt;"), strings.HasPrefix(rest, "&gt;"):
				at += 4
			default:
				return false
			}
			space, edge, closed = false, false, ""
		case tagByte:
			rest := s[at:]
			switch {
			case opened == 0 && strings.HasPrefix(rest, end):
				if begins || space {
					return false
				}
				r.at = at + len(end)
				return true
			case opened > 0 && strings.HasPrefix(rest, open[opened-1]):
				if space || edge || begins {
					return false
				}
				opened--
				closed = open[opened]
				at += len(open[opened])
			case strings.HasPrefix(rest, "<br>"):
				if begins || space || edge || r.breaks || end != "</p>" {
					return false
				}
				begins, closed = true, ""
				at += 4
			case strings.HasPrefix(rest, "<strong>"), strings.HasPrefix(rest, "<em>"):
				name := "</em>"
				if rest[1] == 's' {
					name = "</strong>"
				}
				if opened == len(open) || closed == name {
					return false
				}
				for _, o := range open[:opened] {
					if o == name {
						return false
					}
				}
				open[opened] = name
				opened++
				space, edge, closed = false, true, ""
				at += len(name) - 1
			case end == "</li>" && opened == 0 && !begins && !space && (strings.HasPrefix(rest, "<ul>") || strings.HasPrefix(rest, "<ol>")):
				r.at = at
				return r.listsInItem(depth)
			default:
				return false
			}
		default:
			if s[at] == '\n' && end == "</li>" && opened == 0 && !begins && !space && (r.layout == Lines || r.any) {
				r.at = at
				return r.listsInItem(depth)
			}
			return false
		}
	}
	return false
}

// pastWords returns where plain bytes end, with single spaces between them; at is behind one of them.
func pastWords(s string, at int) int {
	if end := glance.Words(s, at); end > at {
		if at = end; s[at-1] == ' ' {
			at-- // it may not be a single one
		}
	}
	for at+1 < len(s) {
		c := s[at]
		if c > ' ' && byteKinds[c] == plainByte {
			at++
			continue
		}
		if c != ' ' || byteKinds[s[at+1]] != plainByte {
			return at
		}
		at += 2
	}
	return at
}

// listsInItem goes past the lists behind the text of an item, and its end.
func (r *recogniser) listsInItem(depth int) bool {
	for n := 0; r.at < len(r.s); n++ {
		if !r.newLine(r.layout == Lines) {
			return false
		}
		if r.has("</li>") {
			return n > 0
		}
		if rest := r.s[r.at:]; !strings.HasPrefix(rest, "<ul>") && !strings.HasPrefix(rest, "<ol>") || !r.block(depth) {
			return false
		}
	}
	return false
}

// beginsText reports whether a line surely begins with text, and not with the mark of an item.
func beginsText(s string, at int) bool {
	c := s[at]
	switch {
	case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == '"', c == '[', c == '{', c == '#', c == '/':
		return true
	case c == '(':
		return at+1 < len(s) && (s[at+1] < '0' || s[at+1] > '9')
	case c >= '0' && c <= '9':
		for at < len(s) && s[at] >= '0' && s[at] <= '9' {
			at++
		}
		return at < len(s) && s[at] != '.' && s[at] != ')'
	case c >= 0xc3 && c <= 0xdf: // letters of Latin, Greek, Cyrillic and others
		return true
	}
	return false
}
