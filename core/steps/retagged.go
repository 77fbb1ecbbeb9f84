package steps

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// Tagged is what is known of tags where those of the shop are compared.
type Tagged struct {
	Col     int                           // of the tags that go out
	InShop  func(sku, slug string) string // the cell of the shop, "" if it does not have the product
	Read    func(cell string) []string    // the tags of such a cell
	ReadOut func(cell string) []string    // of one that goes out
	Key     func(tag string) string       // in which case and accents do not count
	Said    bool                          // it is said that tags go, which is counted only
	Number  int                           // in the tally
}

// Retagged is the step that looks which tags of the shop would go if an importer writes those of the file in their place.
func Retagged(s *Sheet, t *Tagged) line.Step {
	sku, slug := s.Columns.First(catalogue.SKU), s.Columns.First(catalogue.Slug)
	return line.Step{Name: NameRetagged, Reads: catalogue.ColumnsOf(t.Col, sku, slug), New: Always(func(p *catalogue.Product, log *line.Log) {
		for i, row := range p.Rows {
			if log.IsAside(i) || row.Made > 0 || s.Products != nil && !s.Products.Belongs(t.Col, row, p.Role(i)) {
				continue
			}
			cell := t.InShop(row.Cell(sku), row.Cell(slug))
			if cell == "" || cell == row.Cell(t.Col) {
				continue
			}
			var has []string
			for _, tag := range t.ReadOut(row.Cell(t.Col)) {
				has = append(has, t.Key(tag))
			}
			gone := slices.DeleteFunc(t.Read(cell), func(tag string) bool { return slices.Contains(has, t.Key(tag)) })
			if len(gone) == 0 {
				continue
			}
			if !log.Judging() {
				log.Touch(t.Number, i)
			}
			if !t.Said {
				log.Notice(catalogue.TagsLost, row, t.Col, row.Cell(t.Col), catalogue.Facts{Other: strings.Join(gone, ", ")})
			}
		}
	})}
}
