package markup

import (
	"slices"
	"strings"
)

// A builder makes a document of the beginnings and ends of elements, in whatever order these are: blocks within parts of lines, texts
// beside blocks, items without lists. What it makes a parser of HTML reads as it is.
type builder struct {
	document
	*settings

	cur    int     // the block in which things are put
	format int     // in which texts stand
	holder block   // what texts become that stand in no block of their own: a paragraph, or a heading
	open   bool    // there is one
	home   int     // where it was opened
	raw    []run   // of it, as they come
	opened []frame // elements that are open
	lines  []line  // for [builder.makeLists]
	few    []line
	marker strings.Builder // the mark of an item
	attrs  []attr          // of the element that is being opened
	stack  []*element      // that are open, for [builder.quickly]
}

// A frame is an element that is open, with what was true outside of it.
type frame struct {
	cur, format int
	holder      block
	breaks      bool // it ends the line
	verbatim    bool // line breaks in it are line breaks
}

func (b *builder) reset() {
	b.document.reset()
	b.cur, b.format, b.holder, b.open, b.raw, b.opened = 0, 0, block{class: paragraph}, false, b.raw[:0], b.opened[:0]
	b.marker.Reset()
}

// An attr is an attribute of an element as it was written, without its entities.
type attr struct{ name, value string }

func get(attrs []attr, name string) string {
	for i := range attrs {
		if attrs[i].name == name {
			return attrs[i].value
		}
	}
	return ""
}

// start opens an element; false if it goes with all that is in it.
func (b *builder) start(k *known, attrs []attr) bool {
	if k.class == dropped || hidden(attrs) {
		return false
	}
	if k.class != inline && k.class != unknown && k.class != vanished && k.class != lineBreak && k.class != picture {
		b.endLine()
	}
	f := frame{cur: b.cur, format: b.format, holder: b.holder, breaks: k.class != inline && k.class != unknown && k.class != vanished,
		verbatim: len(b.opened) > 0 && b.opened[len(b.opened)-1].verbatim}
	style := get(attrs, "style")
	switch k.class {
	case inline, unknown, vanished:
		if !b.begin(k, attrs, style) {
			return false
		}
	default:
		b.startBlock(k, attrs, style, &f)
	}
	b.opened = append(b.opened, f)
	return true
}

// begin opens a format; false if what is in it goes with it.
func (b *builder) begin(k *known, attrs []attr, style string) bool {
	if k.name == "a" {
		href := get(attrs, "href")
		switch keep, whole := b.keepsLink(valueOf(address, href), href != ""); {
		case !whole:
			return false
		case keep:
			b.format = b.within(b.format, k, b.written(k, attrs, style))
		}
	} else if as := k.writtenAs; as != nil && !(as.name == "strong" && light(style)) {
		b.format = b.within(b.format, as, b.written(as, attrs, style))
	}
	if style != "" && k.class == inline {
		b.meaning(style)
	}
	return true
}

// light reports whether a style says that a text is not bold.
func light(style string) bool {
	weight := property(style, "font-weight")
	return weight == "normal" || weight == "400"
}

// meaning opens the formats that a style means, where the style itself is not kept.
func (b *builder) meaning(style string) {
	value := func(name string) string {
		if slices.Contains(b.rules.Styles, name) {
			return ""
		}
		return property(style, name)
	}
	weight, align := value("font-weight"), value("vertical-align")
	within := func(as *known, is bool) {
		if is && as.kept {
			b.format = b.within(b.format, as, "")
		}
	}
	within(b.strong, weight == "bold" || weight == "bolder" || len(weight) == 3 && weight >= "600" && weight <= "900")
	within(b.em, value("font-style") == "italic")
	within(b.sup, align == "super")
	within(b.sub, align == "sub")
}

// startBlock opens an element that stands on lines of its own.
func (b *builder) startBlock(k *known, attrs []attr, style string, f *frame) {
	put := func(k *known) int {
		return b.add(b.cur, block{class: k.class, known: k, level: k.level, attributes: b.written(k, attrs, style)})
	}
	inside := func(at int) {
		b.cur, b.holder = at, block{class: paragraph}
	}
	switch k.class {
	case lineBreak:
		if b.open {
			b.raw = append(b.raw, run{class: lineBreak, format: b.format})
		}
		f.breaks = false
	case picture:
		b.picture(k, attrs, style)
		f.breaks = false
	case rule:
		b.flow()
		put(k)
	case paragraph:
		b.flow()
		if b.holder.class == paragraph {
			b.holder = block{class: paragraph, known: k, attributes: b.written(k, attrs, style)}
			if depth := itemDepth(style); depth > 0 {
				b.holder.item = depth
				b.marker.Reset()
			}
		}
		b.meaningOfBlock(style)
	case heading:
		b.flow()
		b.holder = block{class: heading, known: k, level: k.level, attributes: b.written(k, attrs, style)}
	case verbatim:
		b.flow()
		if f.verbatim = true; k.kept {
			b.holder = block{class: verbatim, known: k, attributes: b.written(k, attrs, style)}
		}
	case list:
		if in := b.blocks[b.cur]; in.class == list { // a list right in a list belongs to the item before
			b.item(in.last)
		}
		inside(put(k))
	case item:
		if b.blocks[b.cur].class != list {
			b.flow()
			b.cur = b.impliedIn(b.cur, b.ul)
		}
		inside(put(k))
	case table:
		b.flow()
		inside(put(k))
	case caption:
		at := put(k)
		inside(at)
	case rowGroup:
		inside(put(k.writtenAs))
	case row:
		if b.blocks[b.cur].class == table {
			b.cur = b.impliedIn(b.cur, b.tbody)
		}
		inside(put(k))
	case cell, quote:
		if k.class == quote {
			b.flow()
		}
		inside(put(k))
	case division:
		b.flow()
		if k.kept && (k.name != "dt" && k.name != "dd" || b.blocks[b.cur].known != nil && b.blocks[b.cur].known.name == "dl") {
			inside(put(k))
		} else if f.verbatim = false; b.holder.class == paragraph {
			b.meaningOfBlock(style)
		}
	}
	if f.verbatim && k.class != verbatim && k.class != lineBreak && k.class != picture {
		f.verbatim = false
	}
}

// meaningOfBlock opens the formats that the style of a whole paragraph means.
func (b *builder) meaningOfBlock(style string) {
	if strings.Contains(style, "font-") {
		b.meaning(style)
	}
}

// impliedIn returns a block that no tag has opened, and that goes on where nothing else has come after it.
func (b *builder) impliedIn(in int, k *known) int {
	if last := b.blocks[in].last; last != 0 && b.blocks[last].implied && b.blocks[last].known == k {
		return last
	}
	return b.add(in, block{class: k.class, known: k, implied: true})
}

// flow goes on in a block that may have blocks in it: in a list, that is an item.
func (b *builder) flow() {
	if in := b.blocks[b.cur]; in.class == list {
		b.item(0)
	}
}

// item goes on in an item of the list: that at a place, or one that no tag has opened.
func (b *builder) item(at int) {
	if at == 0 {
		at = b.impliedIn(b.cur, b.li)
	}
	b.cur, b.holder = at, block{class: paragraph}
}

// end closes the element that was opened last.
func (b *builder) end() {
	f := b.opened[len(b.opened)-1]
	b.opened = b.opened[:len(b.opened)-1]
	if f.breaks {
		b.endLine()
		for at := b.cur; at != f.cur && at != 0; {
			up := b.blocks[at].parent
			if b.blocks[at].first == 0 && b.blocks[at].class != cell && b.blocks[at].class != rule && b.blocks[at].from == b.blocks[at].to {
				b.remove(at)
			}
			at = up
		}
		b.cur, b.holder = f.cur, f.holder
	}
	b.format = f.format
}

// text puts a text where the builder stands.
func (b *builder) text(s string) {
	s = visible(s)
	if !b.open {
		if isBlank(s) {
			return
		}
		b.openLine()
	}
	if len(b.opened) > 0 && b.opened[len(b.opened)-1].verbatim && b.holder.class != verbatim {
		for i, line := range strings.Split(strings.ReplaceAll(s, "\r\n", "\n"), "\n") {
			if i > 0 {
				b.raw = append(b.raw, run{class: lineBreak, format: b.format})
			}
			b.raw = append(b.raw, run{class: inline, text: line, format: b.format})
		}
		return
	}
	b.raw = append(b.raw, run{class: inline, text: s, format: b.format})
}

func (b *builder) openLine() {
	b.home, b.open = b.cur, true
	b.flow()
}

// picture puts a picture where the builder stands.
func (b *builder) picture(k *known, attrs []attr, style string) {
	src := valueOf(source, get(attrs, "src"))
	if lazy := lazySource(attrs); src == "" && lazy != "" {
		src = lazy
		attrs = append(slices.DeleteFunc(slices.Clone(attrs), func(a attr) bool { return a.name == "src" }), attr{"src", lazy})
	}
	if src == "" || isTracker(attrs, style) {
		return
	}
	switch b.rules.Images {
	case Drop:
		return
	case ToImages:
		if !slices.Contains(b.images, src) {
			b.images = append(b.images, src)
		}
		return
	}
	if !b.open {
		b.openLine()
	}
	b.raw = append(b.raw, run{class: picture, text: b.written(k, attrs, style), format: b.format})
}

// lazySource returns the address of a picture that a script was to load when it is scrolled to; "" if there is none.
func lazySource(attrs []attr) string {
	for _, name := range []string{"data-src", "data-original", "data-lazy-src", "data-lazy"} {
		if src := valueOf(source, get(attrs, name)); isFetched(src) {
			return src
		}
	}
	return ""
}

// isFetched reports whether an address is one of the web, or of the shop, and no text that happens to stand there.
func isFetched(src string) bool {
	_, scheme := cleanAddress(src)
	return scheme != "" || strings.HasPrefix(src, "/")
}

// endLine closes the paragraph that is open: it takes out spaces that do not count, and makes several of it where empty lines are in it.
func (b *builder) endLine() {
	if !b.open {
		return
	}
	b.open = false
	line := b.holder
	defer func() { b.cur = b.home }() // what comes next need not be in the same item
	if line.item > 0 {
		line.ordered = line.ordered || numbered(b.marker.String())
	}
	if line.class == verbatim {
		b.endVerbatim(line)
		return
	}
	from := len(b.runs)
	done := func() {
		if line.from, line.to = from, len(b.runs); from < line.to {
			b.add(b.cur, line)
		}
		from = len(b.runs)
	}
	var space spaces     // that are due before the next word
	breaks, last := 0, 0 // line breaks that are due, and the format of what comes before
	put := func(r run) {
		fresh := len(b.runs) == from
		apart := !fresh && (breaks > 0 || space.n > 0)
		switch common := b.common(last, r.format); {
		case breaks > 1 && line.class == paragraph && !fresh:
			done()
		case breaks > 0 && !fresh:
			b.runs = append(b.runs, run{class: lineBreak, format: common})
		case space.n > 0 && !fresh:
			b.runs = append(b.runs, run{class: inline, text: space.text(), format: common})
		}
		if before := len(b.runs) - 1; !fresh && !apart && r.class == inline && b.runs[before].class == inline && b.runs[before].format == r.format {
			b.runs[before].text += r.text
		} else {
			b.runs = append(b.runs, r)
		}
		space, breaks, last = spaces{}, 0, r.format
	}
	for _, r := range b.raw {
		switch r.class {
		case lineBreak:
			breaks++
			space = spaces{}
		case picture:
			put(r)
		default:
			lead, words, trail := trim(r.text)
			space.add(lead)
			if words != "" {
				r.text = oneSpace(words)
				put(r)
			}
			space.add(trail)
		}
	}
	done()
	b.raw = b.raw[:0]
}

// endVerbatim closes a text whose spaces count. Line breaks at its beginning do not: browsers lose one each time.
func (b *builder) endVerbatim(line block) {
	line.from = len(b.runs)
	for _, r := range b.raw {
		if r.class == inline {
			r.text = strings.ReplaceAll(strings.ReplaceAll(r.text, "\r\n", "\n"), "\r", "\n")
			if len(b.runs) == line.from {
				r.text = strings.TrimLeft(r.text, "\n")
			}
		}
		if r.class != inline || r.text != "" {
			b.runs = append(b.runs, r)
		}
	}
	b.raw = b.raw[:0]
	if line.to = len(b.runs); line.from < line.to {
		b.add(b.cur, line)
	}
}

// hidden reports whether a browser does not show an element.
func hidden(attrs []attr) bool {
	for i := range attrs {
		switch a := &attrs[i]; a.name {
		case "hidden":
			return true
		case "style":
			if strings.Contains(a.value, "none") || strings.Contains(a.value, "hidden") {
				if property(a.value, "display") == "none" || property(a.value, "visibility") == "hidden" {
					return true
				}
			}
		}
	}
	return false
}

// isTracker reports whether a picture is there to be fetched, and not to be seen.
func isTracker(attrs []attr, style string) bool {
	small := func(name string) bool {
		s := strings.TrimSuffix(strings.TrimSpace(get(attrs, name)), "px")
		if s == "" {
			s = strings.TrimSuffix(property(style, name), "px")
		}
		return s == "0" || s == "1"
	}
	return small("width") && small("height")
}

// itemDepth returns how deep a paragraph of a word processor lies in its list, 0 if it is in none: mso-list:l0 level1 lfo1.
func itemDepth(style string) int {
	if !strings.Contains(style, "mso-list") {
		return 0
	}
	_, level, found := strings.Cut(property(style, "mso-list"), "level")
	if found && level != "" && level[0] >= '1' && level[0] <= '9' {
		return int(level[0] - '0')
	}
	return 0
}

// numbered reports whether the mark of an item is a number or a letter: 1. or (a).
func numbered(mark string) bool {
	mark = strings.TrimLeft(strings.TrimSpace(mark), "(")
	rest := strings.TrimLeft(mark, "0123456789abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ")
	word := len(mark) - len(rest)
	return word > 0 && word <= 4 && rest != "" && (rest[0] == '.' || rest[0] == ')')
}
