package markup

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// plain builds the document of a text that is no HTML: an empty line ends a paragraph, any other a line, and lines that begin with
// marks are lists, by how far they are moved in within one another. What looks like a tag is text.
func (b *builder) plain(s string) {
	p := plainReader{builder: b, lines: plainLines(Unescape(s))}
	p.read()
	b.endLine()
}

// A plainLine is a line of a text, how far it is moved in, and the mark with which it begins.
type plainLine struct {
	text   string
	indent int
	mark   mark
}

// tab is how far a tab moves a line in.
const tab = 4

func plainLines(s string) (lines []plainLine) {
	s = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u2028", "\n", "\u2029", "\n", "\v", "\n").Replace(s)
	for text := range strings.SplitSeq(s, "\n") {
		l := plainLine{}
	moved:
		for text != "" {
			switch n := spaceAt(text); {
			case text[0] == '\t':
				l.indent += tab
				text = text[1:]
			case n > 0:
				l.indent++
				text = text[n:]
			default:
				break moved
			}
		}
		_, l.text, _ = trim(text)
		l.mark = markOf(l.text)
		if l.mark.size == len(l.text) {
			l.mark = mark{} // there is nothing behind it
		}
		lines = append(lines, l)
	}
	return lines
}

// A plainReader goes through the lines of a text.
type plainReader struct {
	*builder
	lines    []plainLine
	para     []string          // lines of the paragraph that is open
	inline   func(text string) // puts the text of a line; nil to take it as it is
	markdown bool
}

func (p *plainReader) read() {
	for i := 0; i < len(p.lines); {
		l := p.lines[i]
		if l.text == "" {
			p.flush(p.more(i))
			i++
			continue
		}
		if p.markdown {
			if n := p.markdownBlock(i); n > 0 {
				i += n
				continue
			}
		}
		if items, n := p.items(i); n > 0 {
			p.flush(true)
			p.putItems(items)
			i += n
			continue
		}
		p.para = append(p.para, l.text)
		i++
	}
	p.flush(false)
}

// more reports whether there is a text behind a line.
func (p *plainReader) more(i int) bool {
	for _, l := range p.lines[i:] {
		if l.text != "" {
			return true
		}
	}
	return false
}

// flush puts the paragraph that is open; more is whether something comes behind it.
func (p *plainReader) flush(more bool) {
	lines := p.para
	p.para = p.para[:0]
	if len(lines) == 0 {
		return
	}
	if p.rules.TextHeadings && (len(lines) > 1 || more) {
		if text, is := headingOf(lines[0]); is {
			p.put(block{class: heading, level: p.top}, text)
			if lines = lines[1:]; len(lines) == 0 {
				return
			}
		}
	}
	p.put(block{class: paragraph, known: p.p}, lines...)
}

// put puts lines as one block.
func (p *plainReader) put(as block, lines ...string) {
	p.endLine()
	holder := p.holder
	p.holder = as
	for i, text := range lines {
		if i > 0 {
			p.raw = append(p.raw, run{class: lineBreak})
		}
		if p.inline != nil {
			p.inline(text)
		} else {
			p.text(text)
		}
	}
	p.endLine()
	p.holder = holder
}

// longestHeading is how many characters a line has at most that is taken for a heading.
const longestHeading = 60

// headingOf returns the text of a line that is a heading: in capitals, or with a colon at its end.
func headingOf(line string) (text string, is bool) {
	if utf8.RuneCountInString(line) > longestHeading || strings.HasSuffix(line, ".") {
		return "", false
	}
	if name, colon := strings.CutSuffix(line, ":"); colon && !strings.ContainsAny(name, ":.!?") {
		_, name, _ = trim(name)
		return name, name != ""
	}
	letters, capitals := hasLetters(line)
	return line, letters >= 4 && capitals && !strings.Contains(line, ": ")
}

// An item of a list in a text.
type plainItem struct {
	text    string
	level   int
	ordered bool
}

// items returns the items of the list that begins at a line, and how many lines they are; 0 if none begins there.
func (p *plainReader) items(at int) (items []plainItem, taken int) {
	first := p.lines[at]
	if first.mark.family == noMark {
		return nil, 0
	}
	var found []plainLine
	ends := []int{} // where the lines of each item end
	for i := at; i < len(p.lines); i++ {
		l := p.lines[i]
		switch {
		case l.text == "":
			continue
		case l.mark.family != noMark && l.indent >= first.indent:
			found, ends = append(found, l), append(ends, i+1)
			continue
		case i > 0 && p.lines[i-1].text != "" && l.indent > found[len(found)-1].indent:
			last := &found[len(found)-1]
			last.text += " " + l.text
			ends[len(ends)-1] = i + 1
			continue
		}
		break
	}
	n := sameList(found)
	if n == 0 {
		return nil, 0
	}
	levels := levelsOf(found[:n])
	for i, l := range found[:n] {
		_, text, _ := trim(l.text[l.mark.size:])
		items = append(items, plainItem{text, levels[i], l.mark.family == numbers})
	}
	return items, ends[n-1] - at
}

// sameList returns how many of the lines are one list: those that stand as far out as the first have marks of one family, and numbers
// follow one another. There are two at least, or one with others in it. Where all stand as far out, marks may tell what lies in what.
func sameList(lines []plainLine) (n int) {
	first, top := lines[0], 0
	same := 0 // how many stand as far out as the first
	for same < len(lines) && lines[same].indent == first.indent {
		same++
	}
	if n := nestedMarks(same, func(i int) mark { return lines[i].mark }); n > 0 {
		for i := range lines[:n] {
			if lines[i].mark.family == dashes {
				lines[i].indent++
			}
		}
		return n
	}
	if first.mark.family == crosses {
		return 0
	}
	for ; n < len(lines); n++ {
		l := lines[n]
		if l.mark.family == crosses && first.mark.family == ticks {
			return 0 // of which some say no
		}
		if l.indent > first.indent {
			continue
		}
		if l.mark.family != first.mark.family || l.mark.family == numbers && l.mark.number != top+1 {
			break
		}
		top++
	}
	if top == 0 || n < 2 {
		return 0
	}
	return n
}

// levelsOf returns how deep lines lie in one another, by how far they are moved in.
func levelsOf(lines []plainLine) (levels []int) {
	var indents []int
	for _, l := range lines {
		for len(indents) > 0 && indents[len(indents)-1] > l.indent {
			indents = indents[:len(indents)-1]
		}
		if len(indents) == 0 || indents[len(indents)-1] < l.indent {
			indents = append(indents, l.indent)
		}
		levels = append(levels, len(indents))
	}
	return levels
}

// putItems puts items as paragraphs of which it is known that they are such.
func (p *plainReader) putItems(items []plainItem) {
	for _, it := range items {
		p.put(block{class: paragraph, known: p.p, item: it.level, ordered: it.ordered}, it.text)
	}
}

// namedLine returns where the colon of a line stands that is a name and a value, such as Height: 12 cm.
func namedLine(s string) (colon int, is bool) {
	colon = strings.IndexByte(s, ':')
	if colon < 1 || colon+1 == len(s) || spaceAt(s[colon+1:]) == 0 {
		return 0, false
	}
	_, name, _ := trim(s[:colon])
	first, _ := utf8.DecodeRuneInString(name)
	if n := utf8.RuneCountInString(name); n == 0 || n > 40 || !unicode.IsLetter(first) && !unicode.IsDigit(first) || strings.ContainsAny(name, ".!?") {
		return 0, false
	}
	return colon, !isBlank(s[colon+1:])
}

// hasLetters reports whether a text has letters, and whether all of them are capitals.
func hasLetters(s string) (letters int, capitals bool) {
	capitals = true
	for _, r := range s {
		if unicode.IsLetter(r) {
			letters++
			capitals = capitals && !unicode.IsLower(r)
		}
	}
	return letters, capitals
}
