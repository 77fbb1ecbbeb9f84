package steps

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/text"
)

// Retitled is the step that looks whether titles are others than before, where nothing but the title says
// which product of the shop a row is: an importer that makes the link name of the title, and finds products
// by it, would make a new product. inShop returns the title that the shop has for an SKU, and name that of
// the sheet; with inShop nil it is only looked at what rules have done to titles. ok is false if rows have link
// names, or SKUs and nobody knows what the shop has.
func Retitled(s *Sheet, inShop func(sku string) (string, bool), name string) (step line.Step, ok bool) {
	r := &retitled{inShop: inShop, name: name, title: s.Columns.First(catalogue.Title), sku: s.Columns.First(catalogue.SKU)}
	slug := s.Columns.First(catalogue.Slug)
	if slug >= 0 && slices.Contains(s.Out, slug) || !slices.Contains(s.Out, r.title) {
		return step, false
	}
	if r.sku < 0 {
		r.inShop = nil
	} else if r.inShop == nil {
		return step, false
	}
	return line.Step{Name: NameRetitled, Reads: catalogue.ColumnsOf(r.title, r.sku), New: Always(r.repair)}, true
}

type retitled struct {
	inShop     func(string) (string, bool)
	name       string
	title, sku int
}

func (r *retitled) repair(p *catalogue.Product, log *line.Log) {
	var before map[int]string // titles that have been changed, by the number of the row
	if r.inShop == nil {
		for i := range log.Changes {
			c := &log.Changes[i]
			if c.Col != r.title || c.Made > 0 || c.Before == "" {
				continue
			}
			if before == nil {
				before = make(map[int]string)
			}
			if _, seen := before[c.Row]; !seen {
				before[c.Row] = c.Before
			}
		}
		if before == nil {
			return
		}
	}
	for i, row := range p.Rows {
		title := row.Cell(r.title)
		if log.IsAside(i) || title == "" || row.Made > 0 {
			continue
		}
		old, known, who := "", false, "this file"
		if r.inShop != nil {
			old, known = r.inShop(text.Typed(strings.TrimSpace(row.Cell(r.sku))))
			who = r.name
		} else {
			old, known = before[row.Number]
		}
		if known && old != title && text.Slug(old) != text.Slug(title) {
			log.Notice(catalogue.TitleOther, row, r.title, title, catalogue.Facts{Other: who + " has it as “" + catalogue.Shorten(old, 60) + "”"})
		}
	}
}
