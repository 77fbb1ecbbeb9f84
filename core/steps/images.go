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
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/sheet"
)

// Images returns what brings the images of products that go out into rows of their own,
// or into the lead row, and numbers them; nil if the rules order nothing. together is the
// column that the rulebook declares products to be together by, or -1.
func Images(table *sheet.Table, plan *products.Plan, shape *columns.Rules, rules *products.ImageRules, together int) (line.Reshaper, error) {
	if rules.As == "" && !rules.Number {
		return nil, nil
	}
	c := &table.Columns
	m := &imageShaper{plan: plan, rules: rules, image: c.First(catalogue.Images), alt: c.First(catalogue.ImageAlt), order: c.First(catalogue.ImageOrder), width: len(c.Headings)}
	if m.image < 0 {
		return nil, fmt.Errorf("%w: [images] orders what becomes of images, and no column has any; the headings are: %s", columns.ErrWrong, strings.Join(c.Headings, ", "))
	}
	for _, name := range rules.Columns {
		cols, gone := shape.Find(c, name)
		if len(cols) == 0 && !gone {
			return nil, fmt.Errorf("%w: [images] columns names %q, which is not there%s; the headings are: %s", columns.ErrWrong, name,
				lists.DidYouMean(name, c.Headings), strings.Join(c.Headings, ", "))
		}
		if len(cols) > 0 && cols[0] != m.image {
			m.further = append(m.further, cols[0])
		}
	}
	// What an image row must have so that it stays with its product.
	for _, col := range []int{together, c.First(catalogue.Slug), c.First(catalogue.ParentSKU), c.First(catalogue.Language)} {
		if col >= 0 {
			m.same = append(m.same, col)
		}
	}
	if rules.As == "rows" && c.First(catalogue.Title) < 0 && together < 0 && c.First(catalogue.Slug) < 0 {
		return nil, fmt.Errorf("%w: [images] as = \"rows\": without a title and a slug nothing would say to which product an image row belongs; name a column with together_by under [products]", columns.ErrWrong)
	}
	return m, nil
}

type imageShaper struct {
	plan    *products.Plan
	rules   *products.ImageRules
	image   int
	alt     int
	order   int
	further []int // columns of further images
	same    []int // columns that a further row of a product has like the first
	width   int
}

// Reshape brings the images of a product where the rules want them.
func (m *imageShaper) Reshape(p *catalogue.Product, rows []*catalogue.Row, log *line.Log) []*catalogue.Row {
	switch m.rules.As {
	case "rows":
		rows = m.apart(rows, log)
	case "cell", "columns":
		rows = m.together(p, rows, log)
	}
	if m.rules.Number && m.order >= 0 {
		n := 0
		for _, row := range rows {
			if strings.TrimSpace(row.Cell(m.image)) == "" {
				continue
			}
			n++
			m.set(row, m.order, strconv.Itoa(n), catalogue.RuleImageNumber, log)
		}
	}
	return rows
}

// set writes a cell, if it is not so already.
func (m *imageShaper) set(row *catalogue.Row, col int, text string, rule catalogue.Rule, log *line.Log) {
	if row.Cell(col) == text {
		return
	}
	if col >= len(row.Cells) {
		row.Extend(len(row.Cells), m.width-len(row.Cells))
	}
	log.Set(row, col, text, rule, catalogue.Ordered, "")
}

// apart gives each image behind the first of a row a row of its own.
func (m *imageShaper) apart(rows []*catalogue.Row, log *line.Log) []*catalogue.Row {
	var out []*catalogue.Row
	for _, row := range rows {
		out = append(out, row)
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
		for i, link := range links[1:] {
			further := &catalogue.Row{Number: row.Number}
			further.Extend(0, m.width)
			for _, col := range m.same {
				further.Set(col, row.Cell(col))
			}
			further.Set(m.image, link)
			if alts != nil {
				further.Set(m.alt, alts[i+1])
			}
			out = append(out, further)
			log.Added(1)
		}
	}
	return out
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

// together brings the images of image rows into the lead row. An image row that says
// something else, too, stays.
func (m *imageShaper) together(p *catalogue.Product, rows []*catalogue.Row, log *line.Log) []*catalogue.Row {
	at := cmp.Or(m.rules.At, ",")
	lead := rows[0]
	links, alts := m.links(lead), []string{}
	if alt := strings.TrimSpace(lead.Cell(m.alt)); alt != "" {
		alts = append(alts, alt)
	}
	out := rows[:1:1]
	joined, index := 0, 0
	for _, row := range rows[1:] {
		for index < len(p.Rows) && p.Rows[index] != row {
			index++
		}
		own := m.links(row)
		if index == len(p.Rows) || p.Role(index)&catalogue.ImageRow == 0 || len(own) == 0 || m.more(row, lead) {
			if len(own) > 1 || len(m.further) > 0 && len(own) > 0 {
				m.put(row, own, log) // a variant's own
			}
			out = append(out, row)
			continue
		}
		links = append(links, own...)
		if alt := strings.TrimSpace(row.Cell(m.alt)); alt != "" {
			alts = append(alts, alt)
		}
		joined++
	}
	if len(links) > 1 || len(m.further) > 0 && len(links) > 0 {
		m.put(lead, links, log)
	}
	if joined == 0 {
		return rows
	}
	log.Joined(joined)
	if m.alt >= 0 && len(alts) > 0 {
		m.set(lead, m.alt, strings.Join(alts, at), catalogue.RuleImageCell, log)
	}
	return out
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
