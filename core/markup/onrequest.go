package markup

import (
	"strings"
	"unicode/utf8"

	"zetanum/core/lazy"
)

// makeHeadings makes headings of paragraphs that are bold and nothing else, where something comes behind them.
func (b *builder) makeHeadings() {
	for at := b.blocks[0].first; at != 0; at = b.blocks[at].next {
		p := &b.blocks[at]
		if next := p.next; p.class != paragraph || next == 0 || b.blocks[next].class == heading || b.blocks[next].class == rule || !b.isBold(p) {
			continue
		}
		p.class, p.level, p.known, p.attributes = heading, b.top, b.known["h3"], ""
		for i := p.from; i < p.to; i++ {
			b.runs[i].format = b.without(b.runs[i].format, b.strong)
		}
	}
}

// isBold reports whether a paragraph is one short line in bold, and no sentence.
func (b *builder) isBold(p *block) bool {
	n := 0
	for _, r := range b.runs[p.from:p.to] {
		if r.class != inline || !b.isIn(r.format, b.strong) && !isBlank(r.text) {
			return false
		}
		n += utf8.RuneCountInString(r.text)
	}
	last := b.runs[p.to-1].text
	return n > 0 && n <= longestHeading && !strings.HasSuffix(last, ".") && !strings.HasSuffix(last, "!")
}

// isIn reports whether a text stands in a format.
func (d *document) isIn(f int, k *known) bool {
	for ; f != 0; f = d.formats[f].in {
		if d.formats[f].known == k {
			return true
		}
	}
	return false
}

// without returns the formats of a text but one.
func (d *document) without(f int, k *known) int {
	if !d.isIn(f, k) {
		return f
	}
	of := d.formats[f]
	in := d.without(of.in, k)
	if of.known == k {
		return in
	}
	return d.within(in, of.known, of.attributes)
}

// nameLines makes tables or lists of lines that are names and values, two or more below one another.
func (b *builder) nameLines() {
	var lines []line
	for at := b.blocks[0].first; at != 0; {
		next := b.blocks[at].next
		if b.blocks[at].class != paragraph {
			at = next
			continue
		}
		lines = b.linesOf(lines[:0], at)
		var runs [][2]int // of lines
		for i := 0; i < len(lines); {
			n := 0
			for i+n < len(lines) && b.isNamed(lines[i+n]) {
				n++
			}
			if n > 1 {
				runs = append(runs, [2]int{i, i + n})
			}
			i += max(n, 1)
		}
		if runs != nil {
			b.takeApart(at, lines, runs)
		}
		at = next
	}
}

// takeApart puts what runs of lines become before and behind the other lines of a paragraph.
func (b *builder) takeApart(at int, lines []line, runs [][2]int) {
	rest := func(from, to int) {
		if from < to {
			p := b.blocks[at]
			p.from, p.to, p.next, p.prev = lines[from].from, lines[to-1].to, 0, 0
			b.put(b.add(0, p), at)
		}
	}
	done := 0
	for _, r := range runs {
		rest(done, r[0])
		b.named(lines[r[0]:r[1]], at)
		done = r[1]
	}
	rest(done, len(lines))
	b.remove(at)
}

// put moves a block from the end to before another.
func (b *builder) put(at, before int) {
	b.remove(at)
	b.insert(before, at)
}

// isNamed reports whether a line is a name and a value.
func (b *builder) isNamed(l line) bool {
	var text strings.Builder
	for _, r := range b.runs[l.from:l.to] {
		if r.class != inline {
			return false
		}
		text.WriteString(r.text)
	}
	_, is := namedLine(text.String())
	return is
}

// named puts lines of names and values before a block.
func (b *builder) named(lines []line, before int) {
	known := b.table
	if b.rules.NamedLines == AsList {
		known = b.ul
	}
	at := b.add(0, block{class: known.class, known: known})
	b.put(at, before)
	if known == b.ul {
		for _, l := range lines {
			b.add(b.add(at, block{class: item, known: b.li}), block{class: paragraph, known: b.p, from: l.from, to: l.to})
		}
		return
	}
	group := b.add(at, block{class: rowGroup, known: b.tbody})
	for _, l := range lines {
		name, value := b.cutAtColon(l)
		r := b.add(group, block{class: row, known: b.tr})
		b.add(b.add(r, block{class: cell, known: b.th}), block{class: paragraph, known: b.p, from: name.from, to: name.to})
		b.add(b.add(r, block{class: cell, known: b.td}), block{class: paragraph, known: b.p, from: value.from, to: value.to})
	}
}

// cutAtColon takes a line apart at its first colon, which goes. A name is not bold any more.
func (b *builder) cutAtColon(l line) (name, value line) {
	name.from = len(b.runs)
	for i := l.from; i < l.to; i++ {
		r := b.runs[i]
		before, after, found := strings.Cut(r.text, ":")
		_, before, _ = trim(" " + before)
		if !found {
			before = r.text
		}
		if before != "" {
			b.runs = append(b.runs, run{class: inline, text: before, format: b.without(r.format, b.strong)})
		}
		if !found {
			continue
		}
		name.to = len(b.runs)
		for name.to > name.from && isBlank(b.runs[name.to-1].text) {
			name.to--
		}
		value.from = len(b.runs)
		if _, after = trimLeft(after); after != "" {
			b.runs = append(b.runs, run{class: inline, text: after, format: r.format})
		}
		for i++; i < l.to; i++ {
			r := b.runs[i]
			if len(b.runs) == value.from {
				_, r.text = trimLeft(r.text)
			}
			if r.text != "" {
				b.runs = append(b.runs, r)
			}
		}
		value.to = len(b.runs)
	}
	return name, value
}

// addresses are those of the web and of mail in texts. What ends a sentence behind one does not belong to it.
var addresses = lazy.New(`(?i)\b(?:https?://|www\.)[^\s\pZ<>"„“”»«]*[^\s\pZ<>"„“”»«.,;:!?'’)\]}]|\b[a-z0-9][a-z0-9._%+-]*@[a-z0-9-]+(?:\.[a-z0-9-]+)*\.[a-z]{2,}\b`)

// linkAddresses makes links of addresses in texts.
func (b *builder) linkAddresses() {
	for at := 1; at < len(b.blocks); at++ {
		p := &b.blocks[at]
		if p.class != paragraph || p.from == p.to || !b.hasAddress(p) {
			continue
		}
		from := len(b.runs)
		for i := p.from; i < p.to; i++ {
			r := b.runs[i]
			if r.class != inline || b.isIn(r.format, b.a) {
				b.runs = append(b.runs, r)
				continue
			}
			b.linked(r)
		}
		p.from, p.to = from, len(b.runs)
	}
}

func (b *builder) hasAddress(p *block) bool {
	for i := p.from; i < p.to; i++ {
		if r := &b.runs[i]; r.class == inline && (strings.IndexByte(r.text, '@') >= 0 || strings.IndexByte(r.text, '.') >= 0) && addresses.MatchString(r.text) {
			return true
		}
	}
	return false
}

// linked appends a run with links in the place of its addresses.
func (b *builder) linked(r run) {
	text, done := r.text, 0
	put := func(text string, format int) {
		if text != "" {
			b.runs = append(b.runs, run{class: inline, text: text, format: format})
		}
	}
	for _, m := range addresses.FindAllStringIndex(text, -1) {
		found := text[m[0]:m[1]]
		href := found
		switch {
		case strings.Contains(found, "://"):
		case len(found) > 4 && strings.EqualFold(found[:4], "www."):
			href = "https://" + found
		default:
			href = "mailto:" + found
		}
		put(text[done:m[0]], r.format)
		attrs := []attr{{"href", href}}
		if keep, _ := b.keepsLink(href, true); keep {
			put(found, b.within(r.format, b.a, b.written(b.a, attrs, "")))
		} else {
			put(found, r.format)
		}
		done = m[1]
	}
	put(text[done:], r.format)
}
