package steps

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/line"
	"zetanum/core/products"
)

// imageLinks writes the links of images as they should be.
type imageLinks struct {
	*imageShaper
	all    []int // columns of images
	number int   // in the tally
}

// linkBuffer is what one product after another needs.
type linkBuffer struct {
	imagelink.Cell
	all   []string             // keys of the links of the product
	known [mostKnown]knownCell // what was read last
	last  int                  // how many of them have been
}

// knownCell is a cell of which the links are known: none of them is written otherwise.
type knownCell struct {
	cell  string
	links []imagelink.Link
}

// mostKnown is how many cells are known. They are looked at again at the end of the line, mostly as they were.
const mostKnown = 16

// ofLinks is the key under which buffers of links are kept.
type ofLinks struct{}

// Forget forgets the cells of the product.
func (b *linkBuffer) Forget() {
	for i := range b.known[:b.last] {
		b.known[i].cell = ""
	}
	b.last = 0
}

// buffer returns that of a worker.
func buffer(log *line.Log) *linkBuffer {
	b := log.Scratch(ofLinks{}, func() line.Forgetter { return new(linkBuffer) }).(*linkBuffer)
	b.all, b.Keys = b.all[:0], b.Keys[:0]
	return b
}

// learn keeps what has been read as the one at a place of the product.
func (b *linkBuffer) learn(place int, cell string) {
	place %= mostKnown
	b.last = max(b.last, place+1)
	k := &b.known[place]
	k.cell, k.links = cell, b.Unchanged(k.links[:0])
}

// look reads a cell as [certain] has it.
func (b *linkBuffer) look(place int, cell string) {
	if k := &b.known[place%mostKnown]; k.cell != "" && len(k.links) > 0 && k.cell == cell {
		b.Again(cell, k.links)
		return
	}
	b.Read(&certain, cell)
}

// linksOf returns the links of a sheet.
func (m *imageShaper) linksOf() *imageLinks {
	l := &imageLinks{imageShaper: m, all: m.columns.All(catalogue.Images), number: -1}
	for _, col := range append([]int{m.of.Image}, m.of.Further...) {
		if !slices.Contains(l.all, col) {
			l.all = append(l.all, col)
		}
	}
	return l
}

// links returns the step that writes links as the rules have them, and takes those out that a row has twice, and rows that have nothing
// but an image that the product has already.
func (m *imageShaper) links(s *Sheet) line.Step {
	l := m.linksOf()
	l.number = s.Tally.Add("images: "+m.rules.Rules.String(), Changed, 0)
	writes := catalogue.ColumnsOf(append([]int{m.of.Alt}, l.all...)...)
	return line.Step{Name: NameImageLinks, Reads: s.everyColumn(), Writes: writes, Before: writing,
		Rules: []catalogue.Rule{catalogue.RuleImageLink, catalogue.RuleImageTwice}, New: Always(l.repair)}
}

func (l *imageLinks) repair(p *catalogue.Product, log *line.Log) {
	b := buffer(log)
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		b.Keys = b.Keys[:0]
		emptied := false
		if further := p.Role(i) == catalogue.ImageRow; further && l.known(row, b) {
			if !l.more(row, p.Rows[0]) {
				log.Join(i, catalogue.RuleImageTwice)
				continue
			}
		} else if further {
			b.Keys = append(b.Keys, b.all...)
		}
		for n, col := range l.all {
			if cell := row.Cell(col); cell != "" && !damaged(row, col, log) {
				emptied = l.cell(row, i, col, cell, b, log) || emptied
				b.learn(i*len(l.all)+n, cell)
			}
		}
		if emptied {
			l.closeUp(row, catalogue.RuleImageTwice, log)
		}
		if len(p.Rows) > 1 {
			b.all = append(b.all, b.Keys...)
		}
	}
}

// known reports whether the product has all images of a row already.
func (l *imageLinks) known(row *catalogue.Row, b *linkBuffer) bool {
	defer func() { b.Keys = b.Keys[:0] }()
	for _, col := range l.all {
		if cell := row.Cell(col); cell != "" {
			b.Read(&l.rules.Rules, cell)
		}
	}
	return len(b.Keys) > 0 && !slices.ContainsFunc(b.Keys, func(key string) bool { return !slices.Contains(b.all, key) })
}

// closeUp moves images of a row up when one of its columns has been emptied, unless their texts or numbers have columns of their own, which
// would have to go with them.
func (l *imageLinks) closeUp(row *catalogue.Row, rule catalogue.Rule, log *line.Log) {
	if len(l.columns.All(catalogue.ImageAlt)) > 1 || len(l.columns.All(catalogue.ImageOrder)) > 1 {
		return
	}
	var cells []string
	for _, col := range l.all {
		cell := row.Cell(col)
		if cell != "" && damaged(row, col, log) {
			return
		}
		if cell != "" {
			cells = append(cells, cell)
		}
	}
	for n, col := range l.all {
		l.set(row, col, append(cells, make([]string, len(l.all))...)[n], rule, log)
	}
}

// cell writes the links of one cell, and reports whether none is left.
func (l *imageLinks) cell(row *catalogue.Row, i, col int, cell string, b *linkBuffer, log *line.Log) (emptied bool) {
	b.Read(&l.rules.Rules, cell)
	written := b.Written()
	if written == cell {
		return false
	}
	if len(b.Twice) > 0 && col == l.of.Image {
		l.dropTexts(row, len(b.Links), b.Twice, log)
	}
	rule := catalogue.RuleImageLink
	if !b.Changed() {
		rule = catalogue.RuleImageTwice
	}
	l.set(row, col, written, rule, log)
	log.Touch(l.number, i)
	return written == ""
}

// dropTexts takes the texts of links out that are not there any more, if there is one for each.
func (l *imageLinks) dropTexts(row *catalogue.Row, n int, twice []int, log *line.Log) {
	texts, at := products.Items(row.Cell(l.of.Alt), n)
	if texts == nil {
		return
	}
	var kept []string
	for i, text := range texts {
		if !slices.Contains(twice, i) {
			kept = append(kept, text)
		}
	}
	l.set(row, l.of.Alt, strings.Join(kept, at), catalogue.RuleImageTwice, log)
}

// damaged reports whether the text of a cell is broken.
func damaged(row *catalogue.Row, col int, log *line.Log) bool {
	return len(log.Findings) > 0 && (log.Has(catalogue.TextMisread, row, col) || log.Has(catalogue.TextGarbled, row, col) || log.Has(catalogue.TextLost, row, col))
}
