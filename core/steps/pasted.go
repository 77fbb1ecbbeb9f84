package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// Pasted is the step that names pictures which lie over the cells of a workbook; ok is false if there are none.
func Pasted(s *Sheet) (step line.Step, ok bool) {
	if len(s.Table.Pictures) == 0 {
		return step, false
	}
	image := max(0, s.Columns.First(catalogue.Images))
	return line.Step{Name: NamePasted, Glances: catalogue.ColumnsOf(s.everyColumn().List()...), New: Always(func(p *catalogue.Product, log *line.Log) {
		for i, row := range p.Rows {
			if log.IsAside(i) || row.Made > 0 {
				continue
			}
			for _, picture := range s.Table.PicturesOver(row.Number) {
				col := picture.Col - 1
				if col >= s.Columns.Own() {
					col = image
				}
				name := picture.Name
				if name == "" {
					name = "A picture"
				}
				if !log.Has(catalogue.ImagePasted, row, col) {
					log.Notice(catalogue.ImagePasted, row, col, row.Cell(col), catalogue.Facts{Other: catalogue.Shorten(name, longestShown)})
				}
			}
		}
	})}, true
}
