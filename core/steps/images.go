package steps

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/products"
)

// ImageSteps are what becomes of the images of products.
type ImageSteps struct {
	// Places brings them into rows of their own, or into the lead row, and Again does so
	// behind the rules that may have left nothing else in a row. Numbers numbers them when
	// all else is done to them.
	Places, Again, Numbers []line.Step
}

// Images fits the rules about images to a sheet.
func Images(s *Sheet, rules *products.ImageRules) (steps ImageSteps, err error) {
	if rules.As == "" && !rules.Number && rules.OfVariants == "" {
		return steps, nil
	}
	c := &s.Columns
	m := &imageShaper{columns: c, plan: s.Products, rules: rules, image: c.First(catalogue.Images), alt: c.First(catalogue.ImageAlt),
		order: c.First(catalogue.ImageOrder)}
	if m.image < 0 {
		if _, gone := s.Shape.Find(c, catalogue.Images.String()); gone {
			return steps, nil // all has been done with them
		}
		return steps, fmt.Errorf("%w: [images] orders what becomes of images, and no column has any; the headings are: %s",
			columns.ErrWrong, strings.Join(c.Headings, ", "))
	}
	for _, name := range rules.Columns {
		col, err := m.column(s, "columns", name)
		if err != nil {
			return steps, err
		}
		if col >= 0 && col != m.image {
			m.further = append(m.further, col)
		}
	}
	// What an image row must have so that it stays with its product.
	for _, col := range []int{s.Together, c.First(catalogue.Slug), c.First(catalogue.ParentSKU), c.First(catalogue.Language)} {
		if col >= 0 {
			m.same = append(m.same, col)
		}
	}
	if rules.As == "rows" && c.First(catalogue.Title) < 0 && s.Together < 0 && c.First(catalogue.Slug) < 0 {
		return steps, columns.Refuse("[images] as = \"rows\": without a title and a slug nothing would say to which product an image " +
			"row belongs; name a column with together_by under [products]")
	}
	images := catalogue.ColumnsOf(append([]int{m.image, m.alt}, m.further...)...)
	step := func(name string, reads, writes catalogue.ColumnSet, rule catalogue.Rule, do func(*catalogue.Product, *line.Log)) []line.Step {
		reads.AddAll(writes)
		return []line.Step{{Name: name, Reads: reads, Writes: writes, Before: writing, Rules: []catalogue.Rule{rule}, New: always(do)}}
	}
	switch rules.As {
	case "rows":
		steps.Places = step(NameImageRows, catalogue.ColumnsOf(m.same...), images, catalogue.RuleImageRows, m.apart)
	case "cell", "columns":
		steps.Places = step(NameImageCells, s.all(), images, catalogue.RuleImageCell, m.together) // whether a row says anything else
		steps.Again = steps.Places
	}
	if rules.OfVariants != "" {
		if m.variant, err = m.column(s, "of_variants", rules.OfVariants); err != nil {
			return steps, err
		}
		if m.variant >= 0 {
			steps.Places = append(steps.Places, step(NameVariantImages, images, catalogue.ColumnsOf(m.variant), catalogue.RuleVariantImage,
				m.variants)...)
		}
	}
	if rules.Number && m.order >= 0 {
		steps.Numbers = step(NameImageNumbers, catalogue.ColumnsOf(m.image), catalogue.ColumnsOf(m.order), catalogue.RuleImageNumber,
			m.number)
	}
	return steps, nil
}

// column returns a column into which images may go, -1 if it does not go out.
func (m *imageShaper) column(s *Sheet, key, name string) (int, error) {
	col, err := s.NeedOne("[images] "+key, name)
	if err == nil {
		err = Unreserved(&s.Columns, col, Reserved, "[images] "+key, name)
	}
	return col, err
}

type imageShaper struct {
	columns *catalogue.Columns
	plan    *products.Plan
	rules   *products.ImageRules
	image   int
	alt     int
	order   int
	further []int // columns of further images
	variant int   // column of the images of variants
	same    []int // columns that a further row of a product has like the first
}

// number numbers the images of a product.
func (m *imageShaper) number(p *catalogue.Product, log *line.Log) {
	if log.Judging() {
		return // rows that are the same are so whatever their numbers would be
	}
	n := 0
	for i, row := range p.Rows {
		if !log.IsAside(i) && strings.TrimSpace(row.Cell(m.image)) != "" {
			n++
			m.set(row, m.order, strconv.Itoa(n), catalogue.RuleImageNumber, log)
		}
	}
}

// variants gives each variant of several an image: its own, or the first of the product.
func (m *imageShaper) variants(p *catalogue.Product, log *line.Log) {
	count, first := 0, ""
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if p.Role(i)&catalogue.Variant != 0 {
			count++
		}
		if links := m.links(row); first == "" && len(links) > 0 {
			first = links[0]
		}
	}
	if count < 2 || first == "" {
		return
	}
	for i, row := range p.Rows {
		if log.IsAside(i) || p.Role(i)&catalogue.Variant == 0 || strings.TrimSpace(row.Cell(m.variant)) != "" {
			continue
		}
		image := first
		if own := m.links(row); len(own) > 0 {
			image = own[0]
		}
		m.set(row, m.variant, image, catalogue.RuleVariantImage, log)
	}
}

// set writes a cell, if it is not so already.
func (m *imageShaper) set(row *catalogue.Row, col int, text string, rule catalogue.Rule, log *line.Log) {
	if row.Cell(col) == text {
		return
	}
	widen(row, m.columns)
	log.Set(row, col, text, rule, catalogue.Ordered, "")
}

// widen gives a row the columns that the sheet itself does not have.
func widen(row *catalogue.Row, c *catalogue.Columns) {
	if c.Added > 0 && !row.Wide {
		row.Extend(c.Own(), c.Added)
	} else if len(row.Cells) < c.Own() {
		row.Extend(c.Own(), 0)
	}
}

// apart gives each image behind the first of a row a row of its own.
func (m *imageShaper) apart(p *catalogue.Product, log *line.Log) {
	for i := len(p.Rows) - 1; i >= 0; i-- {
		row := p.Rows[i]
		if log.IsAside(i) {
			continue
		}
		links := m.links(row)
		if len(links) < 2 {
			continue
		}
		for _, col := range m.further {
			m.set(row, col, "", catalogue.RuleImageRows, log)
		}
		alts := products.Items(row.Cell(m.alt), len(links))
		m.set(row, m.image, links[0], catalogue.RuleImageRows, log)
		if alts != nil {
			m.set(row, m.alt, alts[0], catalogue.RuleImageRows, log)
		}
		for n := len(links) - 1; n > 0; n-- {
			further := made(row, m.columns)
			for _, col := range m.same {
				further.Set(col, row.Cell(col))
			}
			further.Set(m.image, links[n])
			if alts != nil {
				further.Set(m.alt, alts[n])
			}
			log.Insert(i, further, catalogue.ImageRow, catalogue.RuleImageRows)
		}
	}
}

// made returns an empty row that comes of another.
func made(of *catalogue.Row, c *catalogue.Columns) *catalogue.Row {
	row := &catalogue.Row{Number: of.Number}
	row.Extend(c.Own(), c.Added)
	row.Wide = true
	return row
}

// links returns the images of a row: those of its cell, and of further columns.
func (m *imageShaper) links(row *catalogue.Row) []string {
	links := products.Links(row.Cell(m.image))
	for _, col := range m.further {
		links = append(links, products.Links(row.Cell(col))...)
	}
	return links
}

// put writes images into a row: into one cell, or each into a column. Those for which
// there is no column stand with the last.
func (m *imageShaper) put(row *catalogue.Row, links []string, log *line.Log) {
	at := cmp.Or(m.rules.At, ",")
	cols := []int{m.image}
	if m.rules.As == "columns" {
		cols = append(cols, m.further...)
	} else {
		for _, col := range m.further {
			m.set(row, col, "", catalogue.RuleImageCell, log)
		}
	}
	for i, col := range cols {
		cell := ""
		switch {
		case i == len(cols)-1 && i < len(links):
			cell = strings.Join(links[i:], at)
		case i < len(links):
			cell = links[i]
		}
		m.set(row, col, cell, catalogue.RuleImageCell, log)
	}
}

// together brings the images of image rows into the lead row, and their texts in the same
// order: what has none is an empty place between separators. An image row that says
// something else, too, stays, and so does one whose text cannot be told from its neighbours
// in a cell.
func (m *imageShaper) together(p *catalogue.Product, log *line.Log) {
	at := cmp.Or(m.rules.At, ",")
	var lead *catalogue.Row
	var links, alts []string
	joined := 0
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		own, alt := m.links(row), strings.TrimSpace(row.Cell(m.alt))
		switch {
		case lead == nil:
			lead = row
		case p.Role(i)&catalogue.ImageRow == 0 || len(own) == 0 || m.more(row, lead) ||
			alt != "" && strings.Contains(alt+lead.Cell(m.alt), at):
			if len(own) > 1 || len(m.further) > 0 && len(own) > 0 {
				m.put(row, own, log) // a variant's own
			}
			continue
		default:
			log.Join(i, catalogue.RuleImageCell)
			joined++
		}
		if alt != "" {
			for len(alts) < len(links) {
				alts = append(alts, "")
			}
			alts = append(alts, alt)
		}
		links = append(links, own...)
	}
	if len(links) > 1 || len(links) > 0 && (joined > 0 || len(m.further) > 0) {
		m.put(lead, links, log)
	}
	if joined > 0 && m.alt >= 0 && len(alts) > 0 {
		m.set(lead, m.alt, strings.Join(alts, at), catalogue.RuleImageCell, log)
	}
}

// more reports whether an image row has anything that would be lost without it.
func (m *imageShaper) more(row, lead *catalogue.Row) bool {
	for col, cell := range row.Cells {
		if cell != "" && m.plan.Level(col) != products.OfImage && cell != lead.Cell(col) && !slices.Contains(m.further, col) {
			return true
		}
	}
	return false
}
