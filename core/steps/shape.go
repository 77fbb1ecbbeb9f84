package steps

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/sheet"
	"zetanum/core/text"
	"zetanum/core/workbook"
)

// NeedsAll returns what says whether a row of which only the first cells have
// been read is needed with all of them: to see whether it is blank, to put it
// right, because it has no SKU to be known by, or because that may be a heading or the
// name of a table; or to see whether it goes with the row above, which nothing in them says.
func NeedsAll(columns *catalogue.Columns, key *products.Key) func(*catalogue.Row) bool {
	sku := columns.First(catalogue.SKU)
	return func(row *catalogue.Row) bool {
		if heading.MayName(row.Cell(sku)) || key.Title >= 0 && key.Unnamed(row) {
			return true
		}
		at, _ := sheet.Torn(row)
		return at >= 0
	}
}

// NoProduct returns what says which rows are seen to be no products before anything is
// known of the sheet; nil if none is. Where the survey looks only at the first cells of
// rows, whole is false.
func NoProduct(table *sheet.Table, whole bool) func(*catalogue.Row) bool {
	if !whole && len(table.Beneath) == 0 {
		return nil
	}
	s := newShape(&Sheet{Table: table})
	return func(row *catalogue.Row) bool {
		for i := range table.Beneath {
			if cells := table.Beneath[i].Cells; slices.Equal(row.Cells, cells[:min(len(cells), len(row.Cells))]) && len(row.Cells) > 0 {
				return true
			}
		}
		return whole && s.noProduct(row)
	}
}

// noProduct reports whether a row is seen to be no product wherever it stands.
func (s *shape) noProduct(row *catalogue.Row) bool {
	return row.Blank() || s.aside(row) || heading.Repeats(row.Cells, s.headings) || heading.IsTotal(row.Cells) || heading.IsNote(row.Cells, s.columns.Fields)
}

// Shape is the step that looks at rows as a whole: it sets aside what is no
// product and reports rows whose cells do not fit the headings, and cells that a
// workbook could not calculate, and finds out what each row is in its product. With
// shownOnly rows that a workbook does not show are set aside.
func Shape(s *Sheet, shownOnly bool) line.Step {
	return line.Step{
		Name:  NameShape,
		Reads: catalogue.FirstColumns(s.Columns.Own()), Writes: catalogue.FirstColumns(s.Columns.Own()), Before: looking,
		Learns: catalogue.ColumnsOf(s.Columns.First(catalogue.SKU)),
		Rules:  []catalogue.Rule{catalogue.RuleSplitNumber},
		Learn:  func() line.Aggregate { return &heads{columns: &s.Columns, sku: s.Columns.First(catalogue.SKU)} },
		New: func(learned line.Aggregate) (line.Repairer, error) {
			look := newShape(s)
			if found := learned.(*heads); len(found.rows) > 0 && !s.Form.Numbered {
				look.heads = found
				_, look.oneTable = s.Decisions.For(catalogue.RowOfAnother, "", "", "")
			}
			look.layout = s.Products
			look.shownOnly = shownOnly && s.HiddenRows > 0
			return look, nil
		},
	}
}

func newShape(of *Sheet) *shape {
	table, own := of.Table, of.Columns.Own()
	s := &shape{table: table, width: own, spooled: table.Form.Spooled, headings: table.Columns.Headings[:own], columns: &table.Columns,
		counts: make([]bool, own)}
	for _, b := range table.Beneath {
		s.lastBeneath = b.Row
	}
	for col := range s.counts {
		s.counts[col] = table.Columns.Name(col) != "" || slices.Contains(of.Out, col)
	}
	return s
}

type shape struct {
	table    *sheet.Table
	width    int
	spooled  bool
	headings []string
	columns  *catalogue.Columns
	counts   []bool // columns that go out or mean something
	layout   *products.Layout

	shownOnly   bool // rows that the workbook does not show are set aside
	lastBeneath int  // the last row under the headings that is no product, or 0

	heads    *heads // of other tables; nil: there are none
	oneTable bool   // their rows are of this one all the same
}

// beneath says what a row right under the headings is, if it is no product.
func (s *shape) beneath(number int) catalogue.Code {
	for _, b := range s.table.Beneath {
		if b.Row == number {
			return b.Code
		}
	}
	return catalogue.NoFinding
}

// outside returns the first filled cell of a row beside the table, where cells have
// places of their own and cannot have been pushed there; -1 if they have none.
func (s *shape) outside(row *catalogue.Row) int {
	if !s.table.Placed() {
		return -1
	}
	for col := s.width; col < len(row.Cells); col++ {
		if row.Cells[col] != "" {
			return col
		}
	}
	return -1
}

// aside reports whether all that a row has stands beside the table.
func (s *shape) aside(row *catalogue.Row) bool {
	return len(row.Cells) > s.width && empty(row.Cells[:s.width]) && s.outside(row) >= 0
}

func (s *shape) Repair(p *catalogue.Product, log *line.Log) {
	s.look(p, log)
	if s.layout != nil {
		p.Roles = s.layout.Roles(p.Roles[:0], p.Rows, log.IsAside)
	}
}

func (s *shape) look(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		var head *headRow // of another table
		if s.heads != nil {
			head = s.heads.of(row.Number)
		}
		switch {
		case row.Blank():
			log.Aside(i, catalogue.RowBlank, catalogue.Facts{})
			continue
		case heading.Repeats(row.Cells, s.headings) || s.oneTable && head != nil && head.row == row.Number:
			log.Aside(i, catalogue.RowHeading, catalogue.Facts{})
			continue
		case heading.IsTotal(row.Cells):
			log.Aside(i, catalogue.RowTotal, catalogue.Facts{})
			continue
		case s.shownOnly && !s.table.Shows(row.Number):
			log.Aside(i, catalogue.RowHidden, catalogue.Facts{})
			continue
		case row.Number <= s.lastBeneath:
			if code := s.beneath(row.Number); code != catalogue.NoFinding {
				log.Aside(i, code, catalogue.Facts{})
				continue
			}
		case s.aside(row) || head != nil && head.title == row.Number || heading.IsNote(row.Cells, s.columns.Fields):
			log.Aside(i, catalogue.RowNote, catalogue.Facts{})
			continue
		case head != nil && !s.oneTable:
			log.Notice(catalogue.RowOfAnother, row, -1, "", catalogue.Facts{Row: head.row, Other: head.names})
			log.Stop()
			continue
		}
		if row.Joined > 0 {
			col := row.Joined - 1
			log.Changes = append(log.Changes, catalogue.Change{
				Row: row.Number, Col: col, Before: strings.Replace(row.Cells[col], ",", " | ", 1), After: row.Cells[col],
				Rule: catalogue.RuleSplitNumber, Ground: catalogue.Certain,
			})
			log.Notice(catalogue.RowSplitNumber, row, col, row.Cells[col], catalogue.Facts{})
		}
		if col := s.table.Swallowed(row); col >= 0 {
			log.Notice(catalogue.RowSwallowed, row, col, row.Cells[col], catalogue.Facts{})
		}
		if row.Stray {
			log.Notice(catalogue.RowStrayQuote, row, -1, "", catalogue.Facts{})
		}
		if row.Mended {
			log.Notice(catalogue.RowOpenQuote, row, -1, "", catalogue.Facts{})
		}
		if s.spooled {
			s.calculated(row, log)
		}
		s.errorValues(row, log)
		facts := catalogue.Facts{Digits: len(row.Cells), Length: s.width}
		switch {
		case len(row.Cells) < s.width && !s.spooled:
			log.Notice(catalogue.RowShort, row, -1, "", facts)
			row.Extend(s.width, 0) // so that what is missing is noticed, and can be filled
		case len(row.Cells) > s.width && !empty(row.Cells[s.width:]):
			if at := s.outside(row); at >= 0 {
				log.Notice(catalogue.RowOutside, row, -1, row.Cells[at], catalogue.Facts{Other: workbook.ColumnName(at)})
			} else {
				log.Notice(catalogue.RowLong, row, -1, "", facts)
			}
		}
	}
}

// calculated looks at the cells that a workbook calculates. Error values in place of codes are seen by the steps of these.
func (s *shape) calculated(row *catalogue.Row, log *line.Log) {
	for col, mark := range row.Marks[:min(len(row.Marks), s.width)] {
		if mark&(catalogue.Formula|catalogue.Failed) == 0 || !s.counts[col] {
			continue
		}
		switch f := s.columns.Fields[col]; {
		case mark&catalogue.Unsettled != 0 && mark&catalogue.Failed != 0:
			log.Notice(catalogue.CellDamaged, row, col, row.Cells[col], catalogue.Facts{})
		case mark&catalogue.Unsettled != 0:
			log.Notice(catalogue.CellNoValue, row, col, "", catalogue.Facts{})
		case mark&catalogue.Failed == 0:
			log.Notice(catalogue.CellFormula, row, col, row.Cells[col], catalogue.Facts{})
		case f != catalogue.Barcode && f != catalogue.SKU && f != catalogue.MPN:
			log.Notice(catalogue.CellError, row, col, row.Cells[col], catalogue.Facts{})
		}
	}
}

// errorValues looks for error values that are texts, as in CSV files. Those in place of codes
// are seen by the steps of these.
func (s *shape) errorValues(row *catalogue.Row, log *line.Log) {
	for col, cell := range row.Cells[:min(len(row.Cells), s.width)] {
		if cell == "" || cell[0] != '#' && cell[0] != 'E' && cell[0] != ' ' || row.Mark(col)&catalogue.Failed != 0 || !text.IsErrorValue(cell) {
			continue
		}
		if f := s.columns.Fields[col]; f != catalogue.Barcode && f != catalogue.SKU && f != catalogue.MPN {
			log.Notice(catalogue.CellError, row, col, cell, catalogue.Facts{})
		}
	}
}

func empty(cells []string) bool {
	for _, c := range cells {
		if c != "" {
			return false
		}
	}
	return true
}
