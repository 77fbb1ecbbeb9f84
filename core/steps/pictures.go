package steps

import (
	"encoding/binary"
	"math/bits"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/line"
	"zetanum/core/linkcheck"
	"zetanum/core/products"
)

// Pictures is what a look at the images of products goes by.
type Pictures struct {
	Rules   *products.ImageRules
	Further []int // columns of further images, besides those of the field
	Folder  bool  // images come from a folder, so that a product without one is worth a word
	Fills   bool  // rules fill empty cells, so that one that is empty is no mistake of the file
	// Need is told of every address that has to be there before the import, and Links are columns of other links; nil if nobody asks. It is
	// called by several at once.
	Need    func(link, what string, row *catalogue.Row)
	Links   []int
	Opened  *Opened // what links have led to; nil if they have not been opened
	Missing int     // the list of names of files that have no address; -1 for none
	Written bool    // links are written as they should be, so that nothing is proposed
}

// LookAtPictures is the step that looks at the images of products as they go out: what is no address of a picture, what stands there
// twice, which products have none, and which share one that only stands for their own. ok is false if there are no columns of images.
func LookAtPictures(s *Sheet, of *Pictures) (step line.Step, ok bool) {
	c := &s.Columns
	l := &pictures{Pictures: of, cols: slices.Clone(c.All(catalogue.Images)), alt: c.All(catalogue.ImageAlt), order: c.All(catalogue.ImageOrder),
		title: c.First(catalogue.Title), sku: c.First(catalogue.SKU), headings: c.Headings}
	for _, col := range of.Further {
		if !slices.Contains(l.cols, col) {
			l.cols = append(l.cols, col)
		}
	}
	if len(l.cols) == 0 {
		return step, false
	}
	l.mostly = of.Folder || !of.Fills && l.mostHave(s.Table.Sample)
	step = line.Step{Name: NamePictures, Reads: catalogue.ColumnsOf(slices.Concat(l.cols, l.alt, l.order, of.Links, []int{l.title, l.sku})...), New: Always(l.repair)}
	l.known = s.known()
	if of.Need != nil || of.Missing >= 0 {
		step.Glances.Add(l.known...)
	}
	if l.title >= 0 && l.title < c.Own() && l.cols[0] < c.Own() && Compares(s.Table) {
		step.Learns = catalogue.ColumnsOf(l.cols[0], l.title)
		step.Learn = func() line.Aggregate { return &sharedPictures{col: l.cols[0], title: l.title, opened: of.Opened} }
		step.New = func(learned line.Aggregate) (line.Repairer, error) {
			l.shared = learned.(*sharedPictures)
			return repairFunc(l.repair), nil
		}
	}
	return step, true
}

type pictures struct {
	*Pictures
	cols       []int // of images
	alt, order []int
	title, sku int
	headings   []string
	known      []int           // columns by which somebody knows a product
	mostly     bool            // most products have an image
	shared     *sharedPictures // nil if they are not counted
}

// mostHave reports whether most products of a sample have an image.
func (l *pictures) mostHave(sample [][]string) bool {
	full, all := 0, 0
	for _, cells := range sample {
		cell := func(col int) string {
			if col < 0 || col >= len(cells) {
				return ""
			}
			return cells[col]
		}
		if l.sku >= 0 && cell(l.sku) == "" || l.title >= 0 && cell(l.title) == "" {
			continue
		}
		all++
		if slices.ContainsFunc(l.cols, func(col int) bool { return cell(col) != "" }) {
			full++
		}
	}
	return all >= leastFilled && 4*full >= 3*all
}

func (l *pictures) repair(p *catalogue.Product, log *line.Log) {
	b := buffer(log)
	lead, any := -1, false
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if lead < 0 {
			lead = i
		}
		b.Keys = b.Keys[:0]
		has := false
		for n, col := range l.cols {
			if cell := row.Cell(col); cell != "" {
				has = true
				b.look(i*len(l.cols)+n, cell)
				l.cell(row, col, cell, b, log)
				if l.Missing >= 0 {
					l.missing(row, i, b, log)
				}
			}
		}
		if any = any || has; !has {
			l.details(row, log)
		}
		if l.Need != nil && !log.Judging() {
			l.needs(row)
		}
		for _, key := range b.Keys {
			if !slices.Contains(b.all, key) {
				b.all = append(b.all, key)
			}
		}
	}
	if lead >= 0 && !log.Torn() {
		l.whole(p.Rows[lead], p.Role(lead), any, len(b.all), log)
	}
}

// certain are the rules of what is certain.
var certain = imagelink.Rules{Repair: true}

// cell looks at the links in a cell that has been read.
func (l *pictures) cell(row *catalogue.Row, col int, cell string, b *linkBuffer, log *line.Log) {
	note := func(code catalogue.Code, facts catalogue.Facts) {
		if !log.Has(code, row, col) {
			facts.Other = catalogue.Shorten(facts.Other, longestShown)
			log.Notice(code, row, col, cell, facts)
		}
	}
	for _, link := range b.Links {
		if link.Is != imagelink.Picture && (l.Rules.BaseURL == "" || link.Is != imagelink.FileName) {
			note(codeOf[link.Is], catalogue.Facts{Other: link.As})
		}
		if !l.Written && link.Is == imagelink.Picture && link.Out != link.As {
			note(catalogue.ImageUntidy, catalogue.Facts{Other: link.Out, Proposed: b.Written()})
		}
		l.link(link, note)
	}
	if len(b.Twice) > 0 {
		note(catalogue.ImageTwice, catalogue.Facts{Other: b.Links[b.Twice[0]].As, Proposed: b.Written()})
	}
	if len(b.Links) > 1 {
		if mark := strings.TrimSpace(b.Mark()); len(mark) == 1 {
			for _, link := range b.Links {
				if strings.Contains(link.As, mark) {
					note(catalogue.ImageMark, catalogue.Facts{Other: link.As})
				}
			}
		}
	}
	if l.shared != nil && len(b.Links) > 0 && col == l.cols[0] && row.Made == 0 {
		if n := l.shared.stands(&b.Links[0]); n > 0 {
			note(catalogue.ImageStandIn, catalogue.Facts{Other: strconv.Itoa(n) + " products of different kinds have it"})
		}
	}
}

// missing lists names of files for which there is no address.
func (l *pictures) missing(row *catalogue.Row, i int, b *linkBuffer, log *line.Log) {
	for _, link := range b.Links {
		if link.Is == imagelink.FileName {
			var cells []string
			for _, col := range l.known {
				cells = append(cells, row.Cell(col))
			}
			log.Enter(l.Missing, i, append(cells, link.As)...)
		}
	}
}

// link looks at one link by itself.
func (l *pictures) link(link imagelink.Link, note func(catalogue.Code, catalogue.Facts)) {
	if link.Is == imagelink.NoLink || link.Is == imagelink.Formula {
		return
	}
	if l.Rules.Types != nil {
		kind := imagelink.TypeOf(link.Out)
		if kind != "" && !slices.ContainsFunc(l.Rules.Types, func(t string) bool { return imagelink.SameType(t, kind) }) {
			note(catalogue.ImageType, catalogue.Facts{Other: kind})
		}
	}
	if imagelink.StandsIn(link.Out) {
		note(catalogue.ImageStandIn, catalogue.Facts{Other: "its name says so"})
	}
}

// needs tells which addresses a row needs.
func (l *pictures) needs(row *catalogue.Row) {
	for _, cols := range [][]int{l.cols, l.Links} {
		for _, col := range cols {
			what := "picture"
			if !slices.Contains(l.cols, col) {
				what = l.headings[col]
			}
			if cell := row.Cell(col); cell != "" {
				for _, link := range imagelink.Read(nil, cell) {
					if link.Is.IsAddress() || link.Is == imagelink.FileName {
						l.Need(link.Out, what, row)
					}
				}
			}
		}
	}
}

// codeOf are the findings about what stands in place of the address of a picture.
var codeOf = map[imagelink.What]catalogue.Code{
	imagelink.NoLink: catalogue.ImageNoLink, imagelink.FileName: catalogue.ImageFileName, imagelink.Disk: catalogue.ImageDisk,
	imagelink.Share: catalogue.ImageDisk, imagelink.Data: catalogue.ImageData, imagelink.Formula: catalogue.ImageFormula,
	imagelink.Scheme: catalogue.ImageScheme, imagelink.Unclear: catalogue.ImageUnclear, imagelink.Login: catalogue.ImageLogin,
	imagelink.Private: catalogue.ImagePrivate, imagelink.Page: catalogue.ImagePage, imagelink.Viewer: catalogue.ImageViewer,
	imagelink.Expires: catalogue.ImageExpires,
}

// details names what is said of an image in a row that has none.
func (l *pictures) details(row *catalogue.Row, log *line.Log) {
	for _, cols := range [][]int{l.alt, l.order} {
		for _, col := range cols {
			if cell := row.Cell(col); strings.TrimSpace(cell) != "" && cell != "0" {
				log.Notice(catalogue.ImageDetails, row, col, cell, catalogue.Facts{Other: l.headings[col]})
				return
			}
		}
	}
}

// whole looks at the images of a whole product.
func (l *pictures) whole(row *catalogue.Row, role catalogue.Role, any bool, count int, log *line.Log) {
	note := func(code catalogue.Code, limit int) {
		log.Notice(code, row, l.cols[0], row.Cell(l.cols[0]), catalogue.Facts{Digits: count, Length: limit})
	}
	isProduct := role&catalogue.Lead != 0 && (l.sku < 0 || row.Cell(l.sku) != "" || l.title >= 0 && row.Cell(l.title) != "")
	switch {
	case l.Rules.Most > 0 && count > l.Rules.Most:
		note(catalogue.ImageMany, l.Rules.Most)
	case l.Rules.Fewest > 0 && count < l.Rules.Fewest && isProduct:
		note(catalogue.ImageFew, l.Rules.Fewest)
	case !any && l.mostly && l.Rules.Fewest == 0 && row.Made == 0 && isProduct:
		note(catalogue.ImageMissing, 0)
	}
}

// sharedPictures counts how many products have an image as their first one, and how many titles of them begin differently.
type sharedPictures struct {
	col, title int
	opened     *Opened
	seen       byHash[sharing]
	links      []imagelink.Link
}

// hash returns what is the same for links that lead to the same bytes, or have the same address as far as they have not been opened.
func (c *sharedPictures) hash(link *imagelink.Link) uint64 {
	if c.opened != nil {
		if r := c.opened.Results[link.Out]; r != nil && r.State == linkcheck.Good && r.Sum != "" {
			return xxhash.Sum64String(r.Sum)
		}
	}
	return xxhash.Sum64String(link.Key())
}

// sharing is how many products share an image, and a set of the first words of their titles: one bit of 64 for each.
type sharing struct {
	products uint32
	words    uint64
}

// How many products share an image that is not theirs, and how many different words their titles begin with, at least: variants and
// series that share one begin alike.
const (
	leastSharing = 8
	leastWords   = 5
)

func (c *sharedPictures) Learn(p *catalogue.Product) {
	row := p.Rows[0]
	cell := row.Cell(c.col)
	if cell == "" {
		return
	}
	c.links = imagelink.Read(c.links[:0], cell)
	if len(c.links) == 0 || !c.links[0].Is.IsAddress() && c.links[0].Is != imagelink.FileName {
		return
	}
	word, _, _ := strings.Cut(strings.TrimSpace(row.Cell(c.title)), " ")
	c.add(c.hash(&c.links[0]), &sharing{1, 1 << (xxhash.Sum64String(strings.ToLower(word)) & 63)})
}

func (c *sharedPictures) add(hash uint64, more *sharing) {
	if s := c.seen.enter(hash, mostSame); s != nil {
		s.products += more.products
		s.words |= more.words
	}
}

// stands returns how many products share an image that cannot be that of all of them, 0 if it may be, or if there are too many to count.
func (c *sharedPictures) stands(link *imagelink.Link) int {
	if len(c.seen.list) >= mostSame {
		return 0
	}
	if s := c.seen.find(c.hash(link)); s != nil && s.products >= leastSharing && bits.OnesCount64(s.words) >= leastWords {
		return int(s.products)
	}
	return 0
}

func (c *sharedPictures) Merge(next line.Aggregate) {
	next.(*sharedPictures).seen.each(c.add)
}

func (c *sharedPictures) AppendBinary(b []byte) ([]byte, error) {
	c.seen.sorted(func(hash uint64, s *sharing) {
		b = binary.AppendUvarint(binary.AppendUvarint(binary.AppendUvarint(b, hash), uint64(s.products)), s.words)
	})
	return b, nil
}
