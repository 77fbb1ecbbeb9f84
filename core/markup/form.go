package markup

import (
	"encoding/binary"
	"strings"
)

// A Form is what a cell is that holds a description.
type Form uint8

// The forms.
const (
	FormPlain    Form = iota // text; what looks like a tag in it is none
	FormHTML                 // HTML
	FormEscaped              // HTML that was made text: &lt;p&gt;
	FormMarkdown             // Markdown
)

// A Column is what the cells of a column have shown of how descriptions are written in it. It is an ordered monoid, of numbers only.
type Column struct {
	Cells, HTML, Escaped, Markdown uint64
	Twice, Once                    uint64             // cells with entities that were escaped twice, and with such as they are to be
	Layouts                        [numLayouts]uint64 // how blocks are put on lines
}

// Where it is counted how blocks are put on lines.
const (
	oneLine  = iota
	inBlocks // each block on a line, and lists whole on one
	onLines
	broken // each block on a line, where no list says which
	numLayouts
)

// Add takes a cell in.
func (c *Column) Add(cell string) {
	if isBlank(cell) {
		return
	}
	c.Cells++
	amp := strings.IndexByte(cell, '&') >= 0
	switch seen := look(cell); {
	case seen.tags:
		c.HTML++
		if at := layoutOf(cell); at >= 0 {
			c.Layouts[at]++
		}
	case amp && seen.escaped:
		c.Escaped++
	case strongMarkdown.MatchString(cell):
		c.Markdown++
	}
	if amp {
		switch twice, once := entitiesTwice(cell); {
		case once:
			c.Once++
		case twice:
			c.Twice++
		}
	}
}

// Merge takes in what the cells behind have shown.
func (c *Column) Merge(next *Column) {
	c.Cells, c.HTML, c.Escaped, c.Markdown = c.Cells+next.Cells, c.HTML+next.HTML, c.Escaped+next.Escaped, c.Markdown+next.Markdown
	c.Twice, c.Once = c.Twice+next.Twice, c.Once+next.Once
	for i := range c.Layouts {
		c.Layouts[i] += next.Layouts[i]
	}
}

// Shown is what a column as a whole is.
type Shown struct {
	Escaped  bool   `json:"escaped,omitempty"`  // its HTML was made text
	Twice    bool   `json:"twice,omitempty"`    // its entities were escaped once too often
	Markdown bool   `json:"markdown,omitempty"` // its texts are Markdown
	HTML     bool   `json:"html,omitempty"`     // its cells are HTML, most of them
	Layout   Layout `json:"layout,omitempty"`   // how most cells put blocks on lines
}

// Shown returns what the column is.
func (c *Column) Shown() Shown {
	s := Shown{Escaped: c.Escaped > 0 && c.Escaped >= c.HTML, Twice: c.Twice >= 2 && c.Twice >= 10*c.Once,
		Markdown: c.Markdown > 0 && 5*c.Markdown >= c.Cells-c.HTML, HTML: 2*(c.HTML+c.Escaped) > c.Cells, Layout: Lines}
	switch l := c.Layouts; {
	case l[oneLine] > l[inBlocks]+l[onLines]+l[broken]:
		s.Layout = OneLine
	case l[inBlocks] > l[onLines]:
		s.Layout = Blocks
	}
	return s
}

// FormOf returns what a cell of the column is; markdown says whether it may be Markdown.
func (s *Shown) FormOf(cell string, markdown bool) Form {
	seen := look(cell)
	switch {
	case seen.sure, seen.tags && s.HTML:
		return FormHTML
	case seen.escaped && s.Escaped:
		return FormEscaped
	case markdown && s.Markdown:
		return FormMarkdown
	}
	return FormPlain
}

// What is seen in a cell.
type cellSeen struct {
	tags    bool // of elements that are known
	sure    bool // of which one stands on lines of its own, or is closed
	escaped bool // such tags, escaped
}

// look looks for tags in a cell.
func look(cell string) (s cellSeen) {
	if strings.IndexByte(cell, '<') >= 0 {
		opened := ""
		for sc := NewScanner(cell); sc.Next() && !s.sure; {
			t := sc.Token()
			if t.Kind == Comment && t.Whole && strings.HasPrefix(t.Raw, "<!--") {
				s.tags, s.sure = true, true
			}
			if t.Kind != StartTag && t.Kind != EndTag || !t.Whole {
				continue
			}
			e := elements[t.Name()]
			if e == nil || t.Kind == StartTag && !looksLikeTag(t.Raw) {
				continue
			}
			s.tags = true
			if e.class != inline || t.Kind == EndTag && opened == e.name {
				s.sure = true
			}
			opened = e.name
		}
	}
	if !s.tags {
		s.escaped = hasEscapedTags(cell)
	}
	return s
}

// looksLikeTag reports whether what stands between < and > is attributes, and not words: <b und c> is none.
func looksLikeTag(raw string) bool {
	_, rest, has := strings.Cut(strings.TrimRight(raw, "/>"), " ")
	return !has || isBlank(rest) || strings.IndexByte(rest, '=') >= 0
}

// hasEscapedTags reports whether there is an escaped tag of an element that stands on lines of its own, or a pair of other ones.
func hasEscapedTags(cell string) bool {
	opened := ""
	for at := strings.Index(cell, "&lt;"); at >= 0; at = strings.Index(cell, "&lt;") {
		cell = cell[at+len("&lt;"):]
		end := strings.Index(cell[:min(len(cell), longestEscaped)], "&gt;")
		if end < 0 {
			continue
		}
		name, closes := strings.CutPrefix(cell[:end], "/")
		name = strings.TrimRight(name, "/ ")
		word, rest, has := strings.Cut(name, " ")
		e := elements[lower(word)]
		if e == nil || has && strings.IndexByte(rest, '=') < 0 {
			continue
		}
		if e.class != inline && e.class != unknown || closes && opened == e.name {
			return true
		}
		opened = e.name
	}
	return false
}

// entitiesTwice reports whether there are entities in a cell that were escaped once more, such as &amp;uuml;, and whether there are
// ampersands that were not.
func entitiesTwice(cell string) (twice, once bool) {
	for at := strings.IndexByte(cell, '&'); at >= 0; at = strings.IndexByte(cell, '&') {
		cell = cell[at:]
		rest, is := strings.CutPrefix(cell, "&amp;")
		switch {
		case is && endsEntity(rest):
			twice = true
		case is:
			once = true
		}
		cell = cell[1:]
	}
	return twice, once
}

// endsEntity reports whether a text goes on as an entity does behind its ampersand.
func endsEntity(s string) bool { return entityAt("&"+s[:min(len(s), longestEntity)]) > 0 }

// escapedOnce takes back that entities were escaped once too often.
func escapedOnce(s string) string {
	if !strings.Contains(s, "&amp;") {
		return s
	}
	var b strings.Builder
	for {
		at := strings.Index(s, "&amp;")
		if at < 0 {
			b.WriteString(s)
			return b.String()
		}
		b.WriteString(s[:at])
		s = s[at+len("&amp;"):]
		for strings.HasPrefix(s, "amp;") && endsEntity(s) && endsEntity(s[len("amp;"):]) {
			s = s[len("amp;"):]
		}
		if endsEntity(s) {
			b.WriteByte('&')
		} else {
			b.WriteString("&amp;")
		}
	}
}

// layoutOf returns how the blocks of HTML are put on lines, as an index of the counts; -1 if there is only one.
func layoutOf(cell string) int {
	between, items := 0, 0 // tags that end a block with another right behind, and those with a line break between
	lines, itemLines := 0, 0
	for s := cell; ; {
		at := strings.Index(s, "</")
		if at < 0 {
			break
		}
		s = s[at+2:]
		end := strings.IndexByte(s, '>')
		if end < 0 {
			break
		}
		name := s[:end]
		s = s[end+1:]
		if s == "" || name != "p" && name != "li" && name != "ul" && name != "ol" && (len(name) != 2 || name[0] != 'h') {
			continue
		}
		broken := s[0] == '\n' || s[0] == '\r'
		if !broken && s[0] != '<' {
			continue
		}
		if name == "li" {
			items++
			if broken {
				itemLines++
			}
		} else {
			between++
			if broken {
				lines++
			}
		}
	}
	switch {
	case between+items == 0:
		return -1
	case between > 0 && 2*lines <= between, between == 0 && 2*itemLines <= items:
		return oneLine
	case items == 0:
		return broken
	case 2*itemLines > items:
		return onLines
	}
	return inBlocks
}

// AppendBinary appends the counts.
func (c *Column) AppendBinary(b []byte) ([]byte, error) {
	for _, n := range append([]uint64{c.Cells, c.HTML, c.Escaped, c.Markdown, c.Twice, c.Once}, c.Layouts[:]...) {
		b = binary.AppendUvarint(b, n)
	}
	return b, nil
}
