package markup

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/lazy"
)

// markdown builds the document of a text in simple Markdown: headings, lists, quotations, lines, tables, bold and slanted texts, links and
// pictures. A line of the text is one of the description, too.
func (b *builder) markdown(s string) {
	p := plainReader{builder: b, lines: plainLines(Unescape(s)), markdown: true}
	p.inline = b.markdownLine
	p.read()
	b.endLine()
}

// markdownBlock puts what begins at a line and is neither paragraph nor list, and returns how many lines it is.
func (p *plainReader) markdownBlock(i int) int {
	l := p.lines[i]
	if level := strings.IndexFunc(l.text, func(r rune) bool { return r != '#' }); level >= 1 && level <= 6 && l.text[level] == ' ' {
		p.flush(true)
		text := strings.TrimSpace(strings.TrimRight(l.text[level:], "#"))
		p.put(block{class: heading, level: level}, text)
		return 1
	}
	if next := i + 1; next < len(p.lines) && len(p.para) == 0 && l.mark.family == noMark && l.text != "" {
		for level, sign := range []string{1: "=", 2: "-"} {
			if under := p.lines[next].text; sign != "" && len(under) > 1 && strings.Trim(under, sign) == "" {
				p.put(block{class: heading, level: level}, l.text)
				return 2
			}
		}
	}
	if isLineOf(l.text, "-*_") {
		p.flush(true)
		p.add(p.cur, block{class: rule, known: p.known["hr"]})
		return 1
	}
	if quoted, is := strings.CutPrefix(l.text, ">"); is && (quoted == "" || quoted[0] == ' ') {
		return p.markdownQuote(i)
	}
	if strings.HasPrefix(l.text, "|") && i+1 < len(p.lines) && tableLine.MatchString(p.lines[i+1].text) {
		return p.markdownTable(i)
	}
	return 0
}

// isLineOf reports whether a line is three or more of one of some signs.
func isLineOf(s, signs string) bool {
	s = strings.ReplaceAll(s, " ", "")
	return len(s) >= 3 && strings.IndexByte(signs, s[0]) >= 0 && strings.Trim(s, s[:1]) == ""
}

func (p *plainReader) markdownQuote(i int) (n int) {
	p.flush(true)
	at := p.add(p.cur, block{class: quote, known: p.known["blockquote"]})
	in := p.cur
	p.cur = at
	var lines []string
	for ; i+n < len(p.lines); n++ {
		quoted, is := strings.CutPrefix(p.lines[i+n].text, ">")
		if !is {
			break
		}
		if quoted = strings.TrimSpace(quoted); quoted != "" {
			lines = append(lines, quoted)
		} else if lines != nil {
			p.put(block{class: paragraph, known: p.p}, lines...)
			lines = nil
		}
	}
	p.put(block{class: paragraph, known: p.p}, lines...)
	p.cur = in
	return n
}

// tableLine is what stands between the headings of a table and its rows.
var tableLine = lazy.New(`^\|?\s*:?-{2,}:?\s*(\|\s*:?-{2,}:?\s*)*\|?$`)

func (p *plainReader) markdownTable(i int) (n int) {
	p.flush(true)
	in := p.cur
	at := p.add(in, block{class: table, known: p.table})
	group := func(name string) int { return p.add(at, block{class: rowGroup, known: p.known[name]}) }
	put := func(group int, text string, as *known) {
		r := p.add(group, block{class: row, known: p.tr})
		for _, part := range strings.Split(strings.Trim(text, "|"), "|") {
			p.cur = p.add(r, block{class: cell, known: as})
			p.put(block{class: paragraph, known: p.p}, strings.TrimSpace(part))
		}
	}
	put(group("thead"), p.lines[i].text, p.th)
	n = 2
	if body := 0; i+n < len(p.lines) && strings.HasPrefix(p.lines[i+n].text, "|") {
		for body = group("tbody"); i+n < len(p.lines) && strings.HasPrefix(p.lines[i+n].text, "|"); n++ {
			put(body, p.lines[i+n].text, p.td)
		}
	}
	p.cur = in
	return n
}

// strongMarkdown is what hardly anything but Markdown has.
var strongMarkdown = lazy.New(`(?m)^#{1,6} \S|\*\*[^\s*](?:[^*]*[^\s*])?\*\*|__[^\s_](?:[^_]*[^\s_])?__|\[[^\[\]]+\]\([^()\s]+\)`)

// markdownLink is a link or a picture: [text](address "title").
var markdownLink = lazy.New(`^(!?)\[([^\[\]]*)\]\(\s*<?([^()\s<>]*(?:\([^()\s]*\)[^()\s<>]*)*)>?(?:\s+"[^"]*"|\s+'[^']*')?\s*\)`)

// markdownLine puts the text of a line.
func (b *builder) markdownLine(s string) {
	from := 0
	flush := func(to int) {
		if from < to {
			b.text(s[from:to])
		}
	}
	for i := 0; i < len(s); {
		switch c := s[i]; {
		case c == '\\' && i+1 < len(s) && strings.IndexByte("\\`*_{}[]()#+-.!|>~", s[i+1]) >= 0:
			flush(i)
			from = i + 1
			i += 2
			continue
		case c == '`':
			if end := strings.IndexByte(s[i+1:], '`'); end > 0 {
				flush(i)
				b.text(s[i+1 : i+1+end])
				i += end + 2
				from = i
				continue
			}
		case c == '*' || c == '_':
			if n, inner := emphasis(s, i); n > 0 {
				flush(i)
				was := b.format
				if n != 2 {
					b.format = b.within(b.format, b.em, "")
				}
				if n > 1 {
					b.format = b.within(b.format, b.strong, "")
				}
				b.markdownLine(inner)
				b.format = was
				i += len(inner) + 2*n
				from = i
				continue
			}
		case c == '[' || c == '!':
			if m := markdownLink.FindStringSubmatch(s[i:]); m != nil {
				flush(i)
				if m[1] != "" {
					b.start(b.of("img"), []attr{{"src", m[3]}, {"alt", m[2]}})
					b.end()
				} else if b.start(b.a, []attr{{"href", m[3]}}) {
					b.markdownLine(m[2])
					b.end()
				}
				i += len(m[0])
				from = i
				continue
			}
		}
		i++
	}
	flush(len(s))
}

// emphasis returns how many signs, 1 to 3, stand around a text that begins at a place and is stressed, and the text.
func emphasis(s string, at int) (n int, inner string) {
	c := s[at]
	before, _ := utf8.DecodeLastRuneInString(s[:at])
	if at > 0 && (c == '_' || before == rune(c)) && (unicode.IsLetter(before) || unicode.IsDigit(before) || before == rune(c)) {
		return 0, ""
	}
	for n = 1; n < 3 && at+n < len(s) && s[at+n] == c; n++ {
	}
	begin := at + n
	if begin >= len(s) || spaceAt(s[begin:]) > 0 || s[begin] == c {
		return 0, ""
	}
	for end := begin + 1; end+n <= len(s); end++ {
		signs := 0 // how many stand here
		for end+signs < len(s) && s[end+signs] == c {
			signs++
		}
		if signs == 0 {
			continue
		}
		if signs != n && !(signs > n && n < 3 && signs == 3) {
			end += signs - 1
			continue
		}
		if signs > n { // those of a text within end here, too
			end += signs - n
		}
		last, _ := utf8.DecodeLastRuneInString(s[:end])
		after, _ := utf8.DecodeRuneInString(s[end+n:])
		inside := end+n < len(s) && (unicode.IsLetter(after) || unicode.IsDigit(after))
		if unicode.IsSpace(last) || inside && (c == '_' || !unicode.IsLetter(after)) {
			continue
		}
		return n, s[begin:end]
	}
	return 0, ""
}
