package steps

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/sheet"
)

// Images returns what brings the images of products that go out into rows of their own,
// or into the lead row, and numbers them; nil if the rules order nothing. together is the
// column that the rulebook declares products to be together by, or -1.
func Images(table *sheet.Table, plan *products.Plan, rules *products.ImageRules, together int) (line.Reshaper, error) {
	if rules.As == "" && !rules.Number {
		return nil, nil
	}
	c := &table.Columns
	m := &imageShaper{plan: plan, rules: rules, image: c.First(catalogue.Images), alt: c.First(catalogue.ImageAlt), order: c.First(catalogue.ImageOrder), width: len(c.Headings)}
	if m.image < 0 {
		return nil, fmt.Errorf("%w: [images] orders what becomes of images, and no column has any; the headings are: %s", columns.ErrWrong, strings.Join(c.Headings, ", "))
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
	plan  *products.Plan
	rules *products.ImageRules
	image int
	alt   int
	order int
	same  []int // columns that a further row of a product has like the first
	width int
}

// Reshape brings the images of a product where the rules want them.
func (m *imageShaper) Reshape(p *catalogue.Product, rows []*catalogue.Row, log *line.Log) []*catalogue.Row {
	switch m.rules.As {
	case "rows":
		rows = m.apart(rows, log)
	case "cell":
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
		links := products.Links(row.Cell(m.image))
		if len(links) < 2 {
			continue
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

// together brings the images of image rows into the lead row. An image row that says
// something else, too, stays.
func (m *imageShaper) together(p *catalogue.Product, rows []*catalogue.Row, log *line.Log) []*catalogue.Row {
	if len(rows) < 2 {
		return rows
	}
	at := cmp.Or(m.rules.At, ",")
	lead := rows[0]
	links, alts := products.Links(lead.Cell(m.image)), []string{}
	if alt := strings.TrimSpace(lead.Cell(m.alt)); alt != "" {
		alts = append(alts, alt)
	}
	out := rows[:1:1]
	joined, index := 0, 0
	for _, row := range rows[1:] {
		for index < len(p.Rows) && p.Rows[index] != row {
			index++
		}
		own := products.Links(row.Cell(m.image))
		if index == len(p.Rows) || p.Role(index)&catalogue.ImageRow == 0 || len(own) == 0 || m.more(row, lead) {
			out = append(out, row)
			continue
		}
		links = append(links, own...)
		if alt := strings.TrimSpace(row.Cell(m.alt)); alt != "" {
			alts = append(alts, alt)
		}
		joined++
	}
	if joined == 0 {
		return rows
	}
	log.Joined(joined)
	m.set(lead, m.image, strings.Join(links, at), catalogue.RuleImageCell, log)
	if m.alt >= 0 && len(alts) > 0 {
		m.set(lead, m.alt, strings.Join(alts, at), catalogue.RuleImageCell, log)
	}
	return out
}

// more reports whether an image row has anything that would be lost without it.
func (m *imageShaper) more(row, lead *catalogue.Row) bool {
	for col, cell := range row.Cells {
		if cell != "" && m.plan.Level(col) != products.OfImage && cell != lead.Cell(col) {
			return true
		}
	}
	return false
}
