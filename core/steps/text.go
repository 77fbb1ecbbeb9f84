package steps

import (
	"encoding/binary"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
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

// Text is the step that mends what was decoded wrongly, and takes stray spaces and
// invisible characters out of cells with words. yes are the questions that a person
// has answered with yes.
func Text(table *sheet.Table, yes []catalogue.Answer) line.Step {
	var writes catalogue.Fields
	var columns []tidyColumn
	for col, f := range table.Columns.Fields {
		kind := table.Columns.Kind(col)
		scope, tidied := scopeOf(kind)
		columns = append(columns, tidyColumn{tidied, kind != catalogue.CodeKind, plainText(kind), scope, yesFor(yes, table.Columns.Headings[col])[catalogue.TextMisread]})
		if kind != catalogue.CodeKind && f != catalogue.Unknown {
			writes |= catalogue.FieldsOf(f)
		}
	}
	return line.Step{
		Name:   "text",
		Writes: writes,
		Rules:  []catalogue.Rule{catalogue.RuleMended, catalogue.RuleEntities, catalogue.RuleSpaces, catalogue.RuleInvisible},
		Learn:  func() line.Lore { return &misreadLore{columns: columns, counts: make(map[string]int)} },
		New: func(learned line.Lore) (line.Repairer, error) {
			return &tidy{columns, table.Form.BOM, learned.(*misreadLore).as()}, nil
		},
	}
}

// misreadLore counts the cells of a sheet that were certainly misread, by what they
// were read as, in the columns that the survey sees.
type misreadLore struct {
	columns []tidyColumn
	counts  map[string]int
}

func (l *misreadLore) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for col := range min(len(row.Cells), len(l.columns)) {
			if !l.columns[col].mended || !text.Suspect(row.Cells[col]) {
				continue
			}
			if m, ok := charset.Mend(row.Cells[col]); ok && m.Exact {
				l.counts[m.As]++
			}
		}
	}
}

func (l *misreadLore) Merge(next line.Lore) {
	for as, n := range next.(*misreadLore).counts {
		l.counts[as] += n
	}
}

func (l *misreadLore) AppendBinary(b []byte) ([]byte, error) {
	for _, as := range slices.Sorted(maps.Keys(l.counts)) {
		b = append(append(b, as...), 0)
		b = binary.AppendUvarint(b, uint64(l.counts[as]))
	}
	return b, nil
}

// as returns what the texts of the sheet were read as, "" if they do not agree.
func (l *misreadLore) as() string {
	total, best := 0, ""
	for _, as := range slices.Sorted(maps.Keys(l.counts)) {
		total += l.counts[as]
		if best == "" || l.counts[as] > l.counts[best] {
			best = as
		}
	}
	if l.counts[best] < 3 || l.counts[best]*20 < total*19 {
		return ""
	}
	return best
}

type tidy struct {
	columns []tidyColumn
	marked  bool   // the file says that it is UTF-8
	as      string // what its texts were read as
}

type tidyColumn struct {
	tidied, mended, plain bool
	scope                 text.Scope
	yes                   bool // what is likely is taken
}

func (t *tidy) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		for col := range min(len(row.Cells), len(t.columns)) {
			cell := row.Cells[col]
			if t.columns[col].plain && strings.IndexByte(cell, '&') >= 0 {
				cell = t.entities(row, col, cell, log)
			}
			if text.Suspect(cell) {
				t.cell(row, col, cell, log)
			}
		}
	}
}

// plainText reports whether cells of a kind are words without markup.
func plainText(kind catalogue.Kind) bool {
	return kind == catalogue.LineKind || kind == catalogue.ListKind
}

// entities writes what stands in a plain text as HTML entities as itself.
func (t *tidy) entities(row *catalogue.Row, col int, cell string, log *line.Log) string {
	if after := text.Entities(cell); after != cell && utf8.ValidString(cell) {
		log.Set(row, col, after, catalogue.RuleEntities, catalogue.Certain, "")
		return after
	}
	return cell
}

func (t *tidy) cell(row *catalogue.Row, col int, cell string, log *line.Log) {
	column := &t.columns[col]
	if t.marked && !utf8.ValidString(cell) {
		log.Find(catalogue.TextIllFormed, row, col, cell, catalogue.Facts{})
		return
	}
	if strings.ContainsRune(cell, utf8.RuneError) && utf8.ValidString(cell) {
		log.Find(catalogue.TextLost, row, col, cell, catalogue.Facts{})
	}
	if column.mended {
		var open bool
		if cell, open = t.mend(row, col, cell, log); open {
			return // its spaces may be part of what it was
		}
	}
	if !column.tidied {
		if strings.IndexByte(cell, 0) >= 0 {
			log.Find(catalogue.TextControl, row, col, cell, catalogue.Facts{})
		}
		return
	}
	after, spaces, invisible := text.Tidy(cell, column.scope)
	switch {
	case invisible:
		log.Set(row, col, after, catalogue.RuleInvisible, catalogue.Certain, "")
	case spaces:
		log.Set(row, col, after, catalogue.RuleSpaces, catalogue.Certain, "")
	}
}

// mend undoes a wrong decoding of a cell and returns its text. What is only likely
// is proposed, and stays open.
func (t *tidy) mend(row *catalogue.Row, col int, cell string, log *line.Log) (after string, open bool) {
	m, ok := charset.Mend(cell)
	if !ok {
		return cell, false
	}
	if !m.Exact && t.as != "" {
		if known, ok := charset.MendAs(cell, t.as); ok && known.Exact {
			m = known
		}
	}
	ground := catalogue.Certain
	if !m.Exact {
		if !t.columns[col].yes {
			log.Find(catalogue.TextMisread, row, col, cell, catalogue.Facts{Other: m.Text, Proposed: m.Text})
			return cell, true
		}
		ground = catalogue.Decided
	}
	log.Set(row, col, m.Text, catalogue.RuleMended, ground, "")
	return m.Text, false
}

// cleaned returns a cell of a kind as the step of the texts leaves it, as far as the
// cell itself says.
func cleaned(cell string, kind catalogue.Kind) string {
	if kind == catalogue.CodeKind {
		return cell
	}
	if plainText(kind) && strings.IndexByte(cell, '&') >= 0 && utf8.ValidString(cell) {
		cell = text.Entities(cell)
	}
	if !text.Suspect(cell) {
		return cell
	}
	if m, ok := charset.Mend(cell); ok {
		if !m.Exact {
			return cell
		}
		cell = m.Text
	}
	if scope, ok := scopeOf(kind); ok {
		cell, _, _ = text.Tidy(cell, scope)
	}
	return cell
}
