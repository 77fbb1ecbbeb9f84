package markup

import (
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"zetanum/core/glance"
)

// Seen is what a look at a description has found, without anything being done to it.
type Seen struct {
	Unsafe string // what could run or load something, in words; "" if nothing could
	Broken string // which tag is not closed, or closes nothing
	Code   string // an escaped tag, which buyers see
	Text   bool   // there is a text
	Astray string // a link that leads nowhere
	Skips  string // a heading behind one that is more than one level above

	Pictures  int
	EmptyList bool // a list, or an item of one, in which nothing is
	BareTable bool // a table without headings
	Links     []Link
	Written   bool // it is nothing but paragraphs, headings and lists, as they are written
	HTML      bool // there are tags at all
	Colon     bool // there is one in its text

	// Placeholder is what stands there until a text comes, "" if it is none: a word for that, the usual Latin, or what a program has not
	// filled in, such as {{name}}.
	Placeholder string
}

// A Link is an address in a description.
type Link struct {
	Address string
	Picture bool
}

// A Looker looks at descriptions. It is used by one goroutine at a time.
type Looker struct {
	Seen
	known recogniser
	open  []opened
	attrs []attr
	level int // of the last heading
	full  int // texts and pictures so far
}

// An opened is an element that is open, with what was there when it began.
type opened struct {
	known    *element
	full     int
	headings bool // of a table: it has some
	cells    int
}

// Look returns what a description has. It is good until the next look.
func (l *Looker) Look(cell string) *Seen {
	l.Seen = Seen{Links: l.Links[:0]}
	l.open, l.level, l.full = l.open[:0], 0, 0
	l.known.any = true
	const colon, tag, entity, brace = 1, 2, 4, 8
	there := glance.Some(cell, [4]byte{':', '<', '&', '{'})
	if l.known.written(cell) && !l.known.skipped {
		l.Written, l.HTML, l.Text, l.Colon = true, true, true, there&colon != 0
	} else if there&tag == 0 {
		l.Text, l.Colon = !isBlank(cell), there&colon != 0
	} else {
		l.scan(cell)
	}
	if there&entity != 0 && glance.Index(cell, "&lt;", 0) >= 0 {
		l.Code = escapedTag(cell, l.HTML)
	}
	l.Placeholder = placeholder(cell, there&brace != 0)
	return &l.Seen
}

func (l *Looker) scan(cell string) {
	for s := (Scanner{rest: cell}); s.Next(); {
		switch t := s.token; t.Kind {
		case Text:
			if !isBlank(t.Raw) {
				l.full++
				l.Text = true
				l.Colon = l.Colon || strings.IndexByte(t.Raw, ':') >= 0
			}
		case Entity:
			if t.Raw != "&nbsp;" && t.Raw != "&#160;" {
				l.full++
				l.Text = true
			}
		case StartTag:
			l.start(t)
		case EndTag:
			if e := elements[t.Name()]; e != nil {
				l.end(e)
			}
		case Comment, Other, Raw:
			l.HTML = true
		}
	}
	for i := len(l.open) - 1; i >= 0; i-- {
		l.unclosed(l.open[i])
	}
}

func (l *Looker) broken(format, name string) {
	if l.Broken == "" {
		l.Broken = strings.Replace(format, "%", name, 1)
	}
}

func (l *Looker) unclosed(o opened) {
	l.broken("<%> is not closed", o.known.name)
	l.closed(o)
}

// closed looks at an element that has come to its end.
func (l *Looker) closed(o opened) {
	switch o.known.class {
	case item, list:
		l.EmptyList = l.EmptyList || o.full == l.full
	case table:
		l.BareTable = l.BareTable || !o.headings && o.cells > 1
	}
}

// isVoid reports whether an element has nothing in it, and no end.
func (e *element) isVoid() bool {
	return e.class == lineBreak || e.class == rule || e.class == picture || e.class == vanished || e.name == "embed"
}

func (l *Looker) start(t Token) {
	e := elements[t.Name()]
	if !t.Whole {
		l.broken("<% has no end", t.Name())
	}
	if e == nil {
		return
	}
	l.HTML = true
	if strings.IndexByte(t.Raw, '=') >= 0 {
		l.attributes(e, t.Raw)
	}
	if canRun(e.name) && l.Unsafe == "" {
		l.Unsafe = "<" + e.name + ">"
	}
	switch e.class {
	case picture:
		l.Pictures++
		l.full++
	case heading:
		if l.level > 0 && e.level > l.level+1 && l.Skips == "" {
			l.Skips = "<" + e.name + "> comes behind <h" + strconv.Itoa(l.level) + ">"
		}
		l.level = e.level
	case cell:
		for i := len(l.open) - 1; i >= 0; i-- {
			if o := &l.open[i]; o.known.class == table {
				o.cells++
				o.headings = o.headings || e.name == "th"
				break
			}
		}
	}
	if e.isVoid() {
		return
	}
	if n := len(l.open); n > 0 { // those whose end may be left out end where the next begins
		last := l.open[n-1]
		again := last.known == e && (e.class == item || e.class == row) || last.known.class == cell && e.class == cell || last.known.class == paragraph && isBlock(e)
		if again {
			l.unclosed(last)
			l.open = l.open[:n-1]
		}
	}
	l.open = append(l.open, opened{known: e, full: l.full})
}

// isBlock reports whether a paragraph ends where an element begins.
func isBlock(e *element) bool {
	switch e.class {
	case paragraph, heading, list, item, table, division, quote, verbatim:
		return true
	}
	return false
}

// mostSearched is how many open elements are searched for the one that a tag closes.
const mostSearched = 64

func (l *Looker) end(e *element) {
	if e.isVoid() {
		if e.class != lineBreak {
			return
		}
		l.broken("</%> closes nothing", e.name)
		return
	}
	l.HTML = true
	for i := len(l.open) - 1; i >= max(0, len(l.open)-mostSearched); i-- {
		if l.open[i].known != e {
			continue
		}
		for len(l.open)-1 > i {
			l.unclosed(l.open[len(l.open)-1])
			l.open = l.open[:len(l.open)-1]
		}
		l.closed(l.open[i])
		l.open = l.open[:i]
		return
	}
	l.broken("</%> closes nothing", e.name)
}

// canRun reports whether an element can run or load something, or asks something of the buyer.
func canRun(name string) bool {
	switch name {
	case "script", "iframe", "object", "embed", "applet", "frameset", "frame", "form", "input", "button", "textarea", "select", "base", "meta", "link", "svg", "portal":
		return true
	}
	return false
}

// attributes looks at the attributes of a tag.
func (l *Looker) attributes(e *element, raw string) {
	l.attrs = attributesOf(l.attrs[:0], raw)
	for _, a := range l.attrs {
		switch {
		case len(a.name) > 2 && a.name[:2] == "on":
			l.unsafe(a.name, "=")
		case a.name == "style":
			if strings.IndexByte(a.value, '(') < 0 && len(a.value) > 0 && !strings.Contains(a.value, "script") {
				break // as nearly all are
			}
			if v := lower(a.value); strings.Contains(v, "expression(") || strings.Contains(v, "javascript:") || strings.Contains(v, "-moz-binding") || strings.Contains(v, "behavior:") {
				l.unsafe("style that runs something", "")
			}
		case a.name == "srcdoc":
			l.unsafe("srcdoc", "=")
		default:
			if !strings.Contains(a.value, ":") {
				break
			}
			switch _, scheme := cleanAddress(a.value); scheme {
			case "javascript", "vbscript":
				l.unsafe(scheme, ":")
			case "data":
				if e.class != picture {
					l.unsafe(scheme, ":")
				}
			}
		}
		if e.name == "a" && a.name == "href" && l.Astray == "" && astray(a.value) {
			if l.Astray = collapse(a.value); l.Astray == "" {
				l.Astray = "nothing"
			}
		}
		if e.name == "a" && a.name == "href" && a.value != "" || e.class == picture && a.name == "src" && a.value != "" {
			l.Links = append(l.Links, Link{a.value, e.class == picture})
		}
	}
}

func (l *Looker) unsafe(what, sign string) {
	if l.Unsafe == "" {
		l.Unsafe = what + sign
	}
}

// attributesOf appends the attributes of a start tag, as the tokenizer of the HTML standard reads them (13.2.5.32 and on), without their
// entities.
func attributesOf(to []attr, raw string) []attr {
	s := strings.TrimSuffix(raw, ">")
	at := 1
	for at < len(s) && !isTagSpace(s[at]) && s[at] != '/' {
		at++
	}
	for {
		for at < len(s) && (isTagSpace(s[at]) || s[at] == '/') {
			at++
		}
		if at >= len(s) {
			return to
		}
		begin := at
		for at++; at < len(s) && !isTagSpace(s[at]) && s[at] != '/' && s[at] != '='; at++ {
		}
		a := attr{name: lower(s[begin:at])}
		next := at
		for next < len(s) && isTagSpace(s[next]) {
			next++
		}
		if next < len(s) && s[next] == '=' {
			for at = next + 1; at < len(s) && isTagSpace(s[at]); at++ {
			}
			end := at
			switch {
			case at < len(s) && (s[at] == '"' || s[at] == '\''):
				end = strings.IndexByte(s[at+1:], s[at])
				if end < 0 {
					return to
				}
				a.value, end = s[at+1:at+1+end], at+end+2
			default:
				for end < len(s) && !isTagSpace(s[end]) {
					end++
				}
				a.value = s[at:end]
			}
			at = end
			if strings.IndexByte(a.value, '&') >= 0 {
				a.value = html.UnescapeString(a.value)
			}
		}
		to = append(to, a)
	}
}

func isTagSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\f' || c == '\r' }

// longestEscaped is how many bytes a tag has at most that is shown as text.
const longestEscaped = 300

// escapedTag returns a tag that is shown as text, "" if there is none. Beside real tags only those of blocks count: a pair of others may be
// what the text is about.
func escapedTag(cell string, html bool) string {
	for at := strings.Index(cell, "&lt;"); at >= 0; at = strings.Index(cell, "&lt;") {
		cell = cell[at:]
		end := strings.Index(cell[:min(len(cell), longestEscaped)], "&gt;")
		if end < 0 {
			cell = cell[len("&lt;"):]
			continue
		}
		name := strings.TrimSuffix(strings.TrimPrefix(cell[len("&lt;"):end], "/"), "/")
		word, rest, has := strings.Cut(strings.TrimSpace(name), " ")
		e := elements[lower(word)]
		if e != nil && e.class != inline && e.class != unknown && (!has || strings.IndexByte(rest, '=') >= 0) {
			return cell[:end+len("&gt;")]
		}
		cell = cell[len("&lt;"):]
	}
	return ""
}
