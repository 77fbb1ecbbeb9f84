package markup

// tidy puts a document in order, from the inside out: tables that only lay out become what is in them, lines that begin with marks lists.
func (b *builder) tidy() {
	b.tidyIn(0)
	if b.rules.BoldHeadings {
		b.makeHeadings()
	}
	if b.rules.NamedLines != "" {
		b.nameLines()
	}
	if b.rules.LinkAddresses {
		b.linkAddresses()
	}
	b.levelHeadings()
}

func (b *builder) tidyIn(at int) {
	for kid := b.blocks[at].first; kid != 0; {
		next := b.blocks[kid].next
		switch b.blocks[kid].class {
		case table:
			if b.tidyTable(kid); b.blocks[kid].first == 0 {
				kid = next
				continue
			}
		case list:
			b.tidyIn(kid)
			b.unmark(kid)
		default:
			b.tidyIn(kid)
		}
		if e := b.blocks[kid]; e.class != cell && e.class != rule && e.first == 0 && e.from == e.to {
			b.remove(kid)
		}
		kid = next
	}
	switch b.blocks[at].class {
	case division, quote, item, cell:
		b.makeLists(at)
	}
}

// levelHeadings brings headings to levels that are kept.
func (b *builder) levelHeadings() {
	highest := 7
	for i := range b.blocks {
		if b.blocks[i].class == heading {
			highest = min(highest, b.blocks[i].level)
		}
	}
	if highest == 7 {
		return
	}
	shift := max(0, b.rules.HeadingsFrom-highest)
	for i := range b.blocks {
		if h := &b.blocks[i]; h.class == heading {
			h.level = b.levels[min(h.level+shift, 6)]
		}
	}
}

// tidyTable takes a table apart that only lays out what is in it: one with a single cell or a single column, and one in whose cells
// there are headings, tables, or pictures beside texts (HTML Living Standard, 4.9.1: such tables are not to be).
func (b *builder) tidyTable(at int) {
	var cells []int
	rows, widest, captions, filled, blocks, data := 0, 0, 0, 0, 0, false
	pictures, texts := false, false
	for group := b.blocks[at].first; group != 0; group = b.blocks[group].next {
		if b.blocks[group].class == caption {
			data, captions = true, captions+1
			b.tidyIn(group)
			cells = append(cells, group)
			continue
		}
		data = data || b.blocks[group].known.name == "thead"
		for r := b.blocks[group].first; r != 0; r = b.blocks[r].next {
			rows++
			width := 0
			for c := b.blocks[r].first; c != 0; c = b.blocks[c].next {
				b.tidyIn(c)
				cells = append(cells, c)
				width++
				data = data || b.blocks[c].known == b.th
				if b.blocks[c].first != 0 {
					filled++
				}
				if b.laidOut(c) {
					blocks++
				}
				shows, says := b.holds(c)
				pictures, texts = pictures || shows, texts || says
			}
			widest = max(widest, width)
		}
	}
	switch {
	case filled == 0 && !data, len(cells) == captions:
	case widest == 1 && (!data || len(cells)-captions == 1):
	case (blocks > 0 || pictures && texts) && !data:
	case rows == 1 && !data && b.anyBlocks(cells):
	default:
		return
	}
	for _, c := range cells {
		for kid := b.blocks[c].first; kid != 0; {
			next := b.blocks[kid].next
			b.insert(at, kid)
			kid = next
		}
	}
	b.remove(at)
	b.blocks[at].first = 0
}

// laidOut reports whether there is something in a cell that stands in no table of data.
func (b *builder) laidOut(c int) bool {
	pictures, texts := false, 0
	for kid := b.blocks[c].first; kid != 0; kid = b.blocks[kid].next {
		switch k := b.blocks[kid]; k.class {
		case heading, table, rule, quote:
			return true
		case paragraph:
			texts++
			for _, r := range b.runs[k.from:k.to] {
				pictures = pictures || r.class == picture
			}
		default:
			texts++
		}
	}
	return pictures && texts > 1
}

// longCell is how many bytes a cell has at least that is a text, and no value.
const longCell = 80

// holds reports whether there is a picture in a cell, and whether there is a text of some length.
func (b *builder) holds(c int) (pictures, long bool) {
	n, blocks := 0, 0
	for kid := b.blocks[c].first; kid != 0; kid = b.blocks[kid].next {
		blocks++
		for _, r := range b.runs[b.blocks[kid].from:b.blocks[kid].to] {
			if r.class == picture {
				pictures = true
			} else {
				n += len(r.text)
			}
		}
	}
	return pictures, n >= longCell || blocks > 1
}

// anyBlocks reports whether there is more in cells than a line each.
func (b *builder) anyBlocks(cells []int) bool {
	for _, c := range cells {
		first := b.blocks[c].first
		if first != 0 && (b.blocks[first].next != 0 || b.blocks[first].class != paragraph) {
			return true
		}
	}
	return false
}

// insert moves a block to before another.
func (b *builder) insert(before, at int) {
	in := &b.blocks[before]
	m := &b.blocks[at]
	m.parent, m.prev, m.next = in.parent, in.prev, before
	if in.prev == 0 {
		b.blocks[in.parent].first = at
	} else {
		b.blocks[in.prev].next = at
	}
	in.prev = at
}

// A line is one of a paragraph, with the mark with which it begins.
type line struct {
	of       int // the paragraph
	from, to int // its runs
	mark     mark
	level    int // in its list, if that is known
	ordered  bool
}

// makeLists makes lists of lines that begin with marks, and of paragraphs of which it is known that they are items.
func (b *builder) makeLists(in int) {
	if !b.mayHaveMarks(in) {
		return
	}
	for at := b.blocks[in].first; at != 0; {
		if b.blocks[at].class != paragraph {
			at = b.blocks[at].next
			continue
		}
		lines, end := b.lines[:0], at
		for ; end != 0 && b.blocks[end].class == paragraph; end = b.blocks[end].next {
			lines = b.linesOf(lines, end)
		}
		b.lines = lines
		if !b.listed(in, end, lines) {
			at = end
			continue
		}
		for i := range lines { // which stand elsewhere now
			if i == 0 || lines[i].of != lines[i-1].of {
				b.remove(lines[i].of)
			}
		}
		at = end
	}
}

func (b *builder) mayHaveMarks(in int) bool {
	for at := b.blocks[in].first; at != 0; at = b.blocks[at].next {
		p := &b.blocks[at]
		if p.class != paragraph {
			continue
		}
		if p.item > 0 {
			return true
		}
		for i := p.from; i < p.to; i++ {
			if b.runs[i].class == inline && (i == p.from || b.runs[i-1].class == lineBreak) && markOf(b.runs[i].text).family != noMark {
				return true
			}
		}
	}
	return false
}

// linesOf appends the lines of a paragraph.
func (b *builder) linesOf(lines []line, at int) []line {
	p := b.blocks[at]
	if p.item > 0 {
		return append(lines, line{of: at, from: p.from, to: p.to, level: p.item, ordered: p.ordered})
	}
	from := p.from
	for i := p.from; i <= p.to; i++ {
		if i < p.to && b.runs[i].class != lineBreak {
			continue
		}
		l := line{of: at, from: from, to: i}
		if from < i && b.runs[from].class == inline {
			l.mark = markOf(b.runs[from].text)
			if m := l.mark; m.size == len(b.runs[from].text) && (from+1 == i || m.family != dots && (b.runs[from+1].class != inline || spaceAt(b.runs[from+1].text) == 0)) {
				l.mark = mark{} // there is nothing behind it, or no space
			}
		}
		lines = append(lines, l)
		from = i + 1
	}
	return lines
}

// listed puts lines before a block, or at the end, as lists where they are such. It reports false, and does nothing, where none is.
func (b *builder) listed(in, before int, lines []line) bool {
	some := false
	for i := 0; i < len(lines); {
		n, _ := group(lines[i:])
		if n > 0 {
			some = true
			i += n
		} else {
			i++
		}
	}
	if !some {
		return false
	}
	put := func(at int) {
		if before != 0 {
			b.remove(at)
			b.insert(before, at)
		}
	}
	for i := 0; i < len(lines); {
		if n, nested := group(lines[i:]); n > 0 {
			for k := i; nested && k < i+n; k++ {
				lines[k].level = 1
				if lines[k].mark.family == dashes {
					lines[k].level = 2
				}
			}
			at, _ := b.list(in, lines[i:i+n], 0)
			put(at)
			i += n
			continue
		}
		j := i + 1
		for j < len(lines) && lines[j].of == lines[i].of {
			if n, _ := group(lines[j:]); n > 0 {
				break
			}
			j++
		}
		p := b.blocks[lines[i].of]
		p.from, p.to, p.item = lines[i].from, lines[j-1].to, 0
		for p.from < p.to && b.runs[p.from].class == lineBreak {
			p.from++
		}
		for p.from < p.to && b.runs[p.to-1].class == lineBreak {
			p.to--
		}
		p.next, p.prev = 0, 0
		if p.from < p.to {
			put(b.add(in, p))
		}
		i = j
	}
	return true
}

// group returns how many lines at the beginning are the items of one list; 0 if they are none. nested says that those with another mark
// than the first lie in it.
func group(lines []line) (n int, nested bool) {
	first := lines[0]
	if first.level > 0 {
		n = 1
		for n < len(lines) && (lines[n].level > first.level || lines[n].ordered == first.ordered && lines[n].level == first.level) {
			n++
		}
		return n, false
	}
	markAt := func(i int) mark {
		if lines[i].level > 0 {
			return mark{} // an item of which it is known
		}
		return lines[i].mark
	}
	if n = nestedMarks(len(lines), markAt); n > 0 {
		return n, true
	}
	return sameMarks(len(lines), markAt), false
}

// list makes a list of lines, and of those on a deeper level lists within it. It returns the block, and how many lines it has taken.
func (b *builder) list(in int, lines []line, level int) (at, taken int) {
	level = max(level, lines[0].level)
	known := b.ul
	if lines[0].ordered || lines[0].mark.family == numbers {
		known = b.ol
	}
	at = b.add(in, block{class: list, known: known})
	under := 0 // the item that was made last
	for taken < len(lines) && lines[taken].level >= level {
		if l := lines[taken]; l.level > level && under != 0 {
			_, n := b.list(under, lines[taken:], l.level)
			taken += n
			continue
		}
		l := lines[taken]
		if l.level == level && (l.ordered || l.mark.family == numbers) != (known == b.ol) {
			break
		}
		under = b.add(at, block{class: item, known: b.li})
		b.strip(&l)
		if l.from < l.to {
			b.add(under, block{class: paragraph, known: b.p, from: l.from, to: l.to})
		}
		taken++
	}
	b.unmark(at)
	return at, taken
}

// strip takes the mark off a line, and the space behind it.
func (b *builder) strip(l *line) {
	if l.mark.family == noMark {
		return
	}
	r := &b.runs[l.from]
	_, r.text = trimLeft(r.text[l.mark.size:])
	if r.text != "" {
		return
	}
	l.from++
	if l.from < l.to {
		if r := &b.runs[l.from]; r.class == inline {
			_, r.text = trimLeft(r.text)
			if r.text == "" {
				l.from++
			}
		}
	}
}

// unmark takes marks off the items of a list that are those of a list already: all of them have the same.
func (b *builder) unmark(at int) {
	for b.areMarked(at) {
		for it := b.blocks[at].first; it != 0; it = b.blocks[it].next {
			p := b.blocks[it].first
			l := b.firstLine(p)
			b.strip(&l)
			b.blocks[p].from = l.from
		}
	}
}

// areMarked reports whether all items of a list begin with marks, numbers in their order.
func (b *builder) areMarked(at int) bool {
	n, family := 0, noMark
	for it := b.blocks[at].first; it != 0; it = b.blocks[it].next {
		p := b.blocks[it].first
		if p == 0 || b.blocks[p].class != paragraph || !b.beginsMarked(p) {
			return false
		}
		m := b.firstLine(p).mark
		if n++; n == 1 {
			family = m.family
		}
		if m.family == noMark || m.family != family || family == numbers && (m.number != n || b.blocks[at].known != b.ol) {
			return false
		}
	}
	return n > 1 || family == dots
}

func (b *builder) firstLine(p int) line {
	b.few = b.linesOf(b.few[:0], p)
	return b.few[0]
}

// beginsMarked reports whether a look at a paragraph shows that it may begin with a mark.
func (b *builder) beginsMarked(p int) bool {
	from := b.blocks[p].from
	return b.runs[from].class == inline && markOf(b.runs[from].text).family != noMark
}
