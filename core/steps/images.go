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
	"zetanum/core/sheet"
)

// Images are the steps that bring the images of products into rows of their own, or into
// the lead row, again behind the rules that may have left nothing else in a row, and number
// them when all else is done. together is the column that the rulebook declares products to
// be together by, or -1.
func Images(table *sheet.Table, plan *products.Plan, shape *columns.Rules, rules *products.ImageRules, together int) (places, again, numbers []line.Step, err error) {
	if rules.As == "" && !rules.Number && rules.OfVariants == "" {
		return nil, nil, nil, nil
	}
	c := &table.Columns
	m := &imageShaper{columns: c, plan: plan, rules: rules, image: c.First(catalogue.Images), alt: c.First(catalogue.ImageAlt), order: c.First(catalogue.ImageOrder)}
	if m.image < 0 {
		if _, gone := shape.Find(c, catalogue.Images.String()); gone {
			return nil, nil, nil, nil // all has been done with them
		}
		return nil, nil, nil, fmt.Errorf("%w: [images] orders what becomes of images, and no column has any; the headings are: %s", columns.ErrWrong, strings.Join(c.Headings, ", "))
	}
	for _, name := range rules.Columns {
		col, err := shape.NeedOne(c, "[images] columns", name)
		if err == nil {
			err = unreserved(c, col, reserved, "[images] columns", name)
		}
		if err != nil {
			return nil, nil, nil, err
		}
		if col >= 0 && col != m.image {
			m.further = append(m.further, col)
		}
	}
	// What an image row must have so that it stays with its product.
	for _, col := range []int{together, c.First(catalogue.Slug), c.First(catalogue.ParentSKU), c.First(catalogue.Language)} {
		if col >= 0 {
			m.same = append(m.same, col)
		}
	}
	if rules.As == "rows" && c.First(catalogue.Title) < 0 && together < 0 && c.First(catalogue.Slug) < 0 {
		return nil, nil, nil, fmt.Errorf("%w: [images] as = \"rows\": without a title and a slug nothing would say to which product an image row belongs; name a column with together_by under [products]", columns.ErrWrong)
	}
	step := func(name string, do func(p *catalogue.Product, log *line.Log), rules ...catalogue.Rule) []line.Step {
		return []line.Step{{Name: name, Rules: rules, New: func(line.Lore) (line.Repairer, error) { return repairFunc(do), nil }}}
	}
	switch rules.As {
	case "rows":
		places = step("image rows", m.apart, catalogue.RuleImageRows)
	case "cell", "columns":
		places = step("image cells", m.together, catalogue.RuleImageCell)
		again = places
	}
	if rules.OfVariants != "" {
		col, err := shape.NeedOne(c, "[images] of_variants", rules.OfVariants)
		if err == nil {
			err = unreserved(c, col, reserved, "[images] of_variants", rules.OfVariants)
		}
		if err != nil {
			return nil, nil, nil, err
		}
		if m.variant = col; col >= 0 {
			places = append(places, step("variant images", m.variants, catalogue.RuleVariantImage)...)
		}
	}
	if rules.Number && m.order >= 0 {
		numbers = step("image numbers", m.number, catalogue.RuleImageNumber)
	}
	return places, again, numbers, nil
}

// A repairFunc is a repairer that is a function.
type repairFunc func(p *catalogue.Product, log *line.Log)

func (f repairFunc) Repair(p *catalogue.Product, log *line.Log) { f(p, log) }

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
			log.Insert(i, further, catalogue.ImageRow)
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
		case p.Role(i)&catalogue.ImageRow == 0 || len(own) == 0 || m.more(row, lead) || alt != "" && strings.Contains(alt+lead.Cell(m.alt), at):
			if len(own) > 1 || len(m.further) > 0 && len(own) > 0 {
				m.put(row, own, log) // a variant's own
			}
			continue
		default:
			log.Join(i)
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
