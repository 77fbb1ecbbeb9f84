package steps

import (
	"encoding/binary"
	"maps"
	"slices"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/lazy"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/text"
	"zetanum/core/title"
)

// Sanity is the step that looks whether cells say what cannot be: markup in a title, a text in place of a code. It looks at what the rules have
// made of them, and writes nothing.
func Sanity(s *Sheet) line.Step {
	in := &s.Columns
	c := &sanity{
		titles: in.All(catalogue.Title),
		title:  in.First(catalogue.Title), description: in.First(catalogue.Description),
		brand: in.First(catalogue.Brand), kind: in.First(catalogue.Type), sku: in.First(catalogue.SKU),
	}
	c.long = longTitles(s.Table.Sample, c.title)
	c.named = slices.Contains(s.Out, c.title) && slices.ContainsFunc(s.Table.Sample, func(cells []string) bool { return c.title >= 0 && c.title < len(cells) && cells[c.title] != "" })
	reads := catalogue.ColumnsOf(c.description, c.brand, c.kind, c.sku)
	reads.Add(c.titles...)
	step := line.Step{Name: NameSanity, Reads: reads, New: Always(c.repair)}
	if c.brand >= 0 && c.kind >= 0 && c.brand < in.Own() && c.kind < in.Own() {
		step.Learns = catalogue.ColumnsOf(c.brand, c.kind)
		step.Learn = func() line.Aggregate { return &homes{brand: c.brand, kind: c.kind} }
		step.New = func(learned line.Aggregate) (line.Repairer, error) {
			c.homes = learned.(*homes)
			return repairFunc(c.repair), nil
		}
	}
	return step
}

type sanity struct {
	titles             []int // columns
	title, description int
	brand, kind, sku   int
	homes              *homes // nil if there is nothing to compare
	long               bool   // the titles of the file are long, most of them
	named              bool   // titles go out, and some products have one
}

func (c *sanity) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		note := func(code catalogue.Code, col int, facts catalogue.Facts) {
			log.Notice(code, row, col, row.Cell(col), facts)
		}
		for _, col := range c.titles {
			if cell := row.Cell(col); strings.IndexByte(cell, '<') >= 0 && tag.MatchString(cell) {
				note(catalogue.TitleMarkup, col, catalogue.Facts{Other: tag.FindString(cell)})
			}
			if cell := row.Cell(col); cell != "" {
				if said := title.Staff(cell); said != "" {
					note(catalogue.TitleStaff, col, catalogue.Facts{Other: said})
				}
			}
		}
		if c.named && row.Made == 0 && p.Role(i)&catalogue.Lead != 0 && c.untitled(row) && (c.sku < 0 || row.Cell(c.sku) != "") &&
			!log.Has(catalogue.ProductNoLead, row, c.title) {
			note(catalogue.TitleMissing, c.title, catalogue.Facts{})
		}
		c.says(row, note)
		if sku := row.Cell(c.sku); strings.IndexByte(sku, ' ') > 0 && isTitle(sku, row.Cell(c.title)) {
			note(catalogue.SKUIsTitle, c.sku, catalogue.Facts{})
		}
		c.swapped(row, note)
	}
}

// untitled reports whether a row has no title in any language.
func (c *sanity) untitled(row *catalogue.Row) bool {
	return !slices.ContainsFunc(c.titles, func(col int) bool { return row.Cell(col) != "" })
}

// says looks whether the title says what the product is.
func (c *sanity) says(row *catalogue.Row, note func(catalogue.Code, int, catalogue.Facts)) {
	words := row.Cell(c.title)
	switch {
	case words == "":
	case title.IsDigits(words) && words != row.Cell(c.sku):
		note(catalogue.TitleDigits, c.title, catalogue.Facts{})
	case strings.IndexByte(words, ' ') < 0 && words == row.Cell(c.sku):
		note(catalogue.TitleIsCode, c.title, catalogue.Facts{})
	case c.long && len(words) < usualTitle && title.IsShort(words):
		note(catalogue.TitleShort, c.title, catalogue.Facts{})
	}
	if description := row.Cell(c.description); description != "" && len(description) < len(words)+maxTags && plainly(description) == words {
		note(catalogue.TitleIsDescription, c.description, catalogue.Facts{})
	}
}

// maxTags is how many bytes the tags around a description may have that is nothing but a title.
const maxTags = 60

// plainly returns the text of a description.
func plainly(description string) string {
	if strings.IndexByte(description, '<') < 0 {
		return strings.TrimSpace(description)
	}
	return strings.TrimSpace(text.Entities(tag.ReplaceAllString(description, "")))
}

// usualTitle is how many bytes the titles of a file have at least, most of them, where a short one is worth a word.
const usualTitle = 12

// longTitles reports whether most titles of a sample are long.
func longTitles(sample [][]string, col int) bool {
	long, all := 0, 0
	for _, cells := range sample {
		if col >= 0 && col < len(cells) && cells[col] != "" {
			if all++; len(cells[col]) >= usualTitle {
				long++
			}
		}
	}
	return 2*long > all
}

// titleWords is how many words a title has at least that stands in place of an SKU, where it is not that of
// the product.
const titleWords = 5

// isTitle reports whether a title stands in place of an SKU.
func isTitle(sku, title string) bool {
	sku, title = strings.TrimSpace(sku), strings.TrimSpace(title)
	if strings.EqualFold(sku, title) {
		return strings.IndexByte(sku, ' ') > 0
	}
	words := strings.Fields(sku)
	for _, w := range words {
		if strings.IndexFunc(w, unicode.IsLetter) < 0 {
			return false
		}
	}
	return len(words) >= titleWords
}

// tag fits what is markup, and not that something is less than something else.
var tag = lazy.New(`</?[A-Za-z][A-Za-z0-9]*(?:\s[^<>]*)?/?>`)

// How a title and a description look that stand in one another's place.
const (
	longTitle = 150 // bytes
	shortText = 80
)

// swapped looks whether two cells of a row stand in one another's place.
func (c *sanity) swapped(row *catalogue.Row, note func(catalogue.Code, int, catalogue.Facts)) {
	if c.title >= 0 && c.description >= 0 {
		title, text := row.Cell(c.title), row.Cell(c.description)
		if text != "" && len(text) <= shortText && len(title) > 3*len(text) && !strings.ContainsAny(text, "<\n") &&
			(len(title) > longTitle || tag.MatchString(title)) {
			note(catalogue.RowSwapped, c.title, catalogue.Facts{Other: catalogue.Shorten(text, 60)})
		}
	}
	if c.homes == nil || c.homes.many {
		return
	}
	brand, kind := row.Cell(c.brand), row.Cell(c.kind)
	if brand != "" && kind != "" && c.homes.at(brand, true) && c.homes.at(kind, false) {
		note(catalogue.RowSwapped, c.brand, catalogue.Facts{Other: kind})
	}
}

// homes count the values of two columns, to see which is at home in which.
type homes struct {
	brand, kind   int
	brands, kinds lists.Times
	many          bool // too many to count
}

// mostHomes is how many values of a column are counted.
const mostHomes = 2000

// at reports whether a value that stands once in one of the columns is at home in the other.
func (h *homes) at(value string, inKinds bool) bool {
	own, other := h.brands.Of(value), h.kinds.Of(value)
	if !inKinds {
		own, other = other, own
	}
	return own == 1 && other >= 2
}

func (h *homes) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if b := row.Cell(h.brand); b != "" && !h.many {
			h.count(&h.brands, b, 1)
		}
		if k := row.Cell(h.kind); k != "" && !h.many {
			h.count(&h.kinds, k, 1)
		}
	}
}

func (h *homes) count(values *lists.Times, value string, times int) {
	if values.Add(value, times); len(*values) > mostHomes {
		h.many, h.brands, h.kinds = true, nil, nil
	}
}

func (h *homes) Merge(next line.Aggregate) {
	n := next.(*homes)
	if h.many = h.many || n.many; h.many {
		h.brands, h.kinds = nil, nil
		return
	}
	for v, count := range n.brands {
		if !h.many {
			h.count(&h.brands, v, *count)
		}
	}
	for v, count := range n.kinds {
		if !h.many {
			h.count(&h.kinds, v, *count)
		}
	}
}

func (h *homes) AppendBinary(b []byte) ([]byte, error) {
	if h.many {
		return append(b, 1), nil
	}
	for _, values := range []lists.Times{h.brands, h.kinds} {
		for _, v := range slices.Sorted(maps.Keys(values)) {
			b = binary.AppendUvarint(append(append(b, v...), 0), uint64(values.Of(v)))
		}
		b = append(b, 0)
	}
	return b, nil
}
