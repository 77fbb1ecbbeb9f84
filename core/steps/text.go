package steps

import (
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// scopeOf says how much of a cell of a kind may be tidied. Cells of codes and
// markup are left alone. In a column of unknown meaning only the edges are
// touched: two spaces in it may be part of a code.
func scopeOf(kind catalogue.Kind) (scope text.Scope, ok bool) {
	switch kind {
	case catalogue.AnyKind, catalogue.NumberKind, catalogue.DateKind, catalogue.LinkKind, catalogue.YesNoKind:
		return text.Edges, true
	case catalogue.LineKind, catalogue.ListKind:
		return text.OneLine, true
	}
	return 0, false
}

// Text is the step that takes stray spaces and invisible characters out of
// cells with words.
func Text(table *sheet.Table) line.Step {
	var writes catalogue.Fields
	for col, f := range table.Columns.Fields {
		if _, ok := scopeOf(table.Columns.Kind(col)); ok && f != catalogue.Unknown {
			writes |= catalogue.FieldsOf(f)
		}
	}
	return line.Step{
		Name:   "text",
		Writes: writes,
		Rules:  []catalogue.Rule{catalogue.RuleSpaces, catalogue.RuleInvisible},
		New: func(line.Lore) (line.Repairer, error) {
			t := &tidy{marked: table.Form.BOM}
			for col := range table.Columns.Fields {
				scope, ok := scopeOf(table.Columns.Kind(col))
				t.columns = append(t.columns, tidyColumn{ok, scope})
			}
			return t, nil
		},
	}
}

type tidy struct {
	columns []tidyColumn
	marked  bool // the file says that it is UTF-8
}

type tidyColumn struct {
	on    bool
	scope text.Scope
}

func (t *tidy) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		for col := range min(len(row.Cells), len(t.columns)) {
			cell := row.Cells[col]
			if t.marked && !utf8.ValidString(cell) {
				log.Find(catalogue.TextIllFormed, row, col, cell, catalogue.Facts{})
				continue
			}
			if !t.columns[col].on {
				if strings.IndexByte(cell, 0) >= 0 {
					log.Find(catalogue.TextControl, row, col, cell, catalogue.Facts{})
				}
				continue
			}
			after, spaces, invisible := text.Tidy(cell, t.columns[col].scope)
			switch {
			case invisible:
				log.Set(row, col, after, catalogue.RuleInvisible, catalogue.Certain, "")
			case spaces:
				log.Set(row, col, after, catalogue.RuleSpaces, catalogue.Certain, "")
			}
		}
	}
}
