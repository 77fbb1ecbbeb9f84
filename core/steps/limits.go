package steps

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/folder"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/returned"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A Field is what the rulebook says of a field, with its list.
type Field struct {
	lists.FieldRule
	Known *lists.Known // nil if there is no list
}

// Limits is the step that looks whether the fields have what the rulebook asks of
// them: required, unique, not too long, not too short. It comes when all orders
// are carried out.
func Limits(s *Sheet, fields map[string]Field) (line.Step, error) {
	l := &limits{sheet: s, toFill: -1}
	var reads, learns catalogue.ColumnSet
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		rule := fields[name]
		if !rule.Required && !rule.Unique && rule.Longest+rule.Shortest == 0 && rule.Languages == nil {
			continue
		}
		found, gone := s.Rules.Find(&s.Columns, name)
		if len(found) == 0 && rule.Required && !gone {
			return line.Step{}, missingField(s.Table, name)
		}
		if err := s.inLanguages(name, rule.Languages, found, gone); err != nil {
			return line.Step{}, err
		}
		tongue, inRows := s.InRows(rule.Languages, found)
		if inRows {
			reads.Add(tongue)
		}
		where, looked, err := s.Where(rule.Where)
		if err != nil {
			return line.Step{}, err
		}
		reads.Add(looked...)
		reads.Add(found...)
		for n, col := range found {
			l.add(rule.FieldRule, where, col, n, inRows)
			if rule.Unique {
				learns.Add(col)
			}
		}
	}
	step := line.Step{Name: NameLimits, Reads: reads, Learns: learns, New: idle, Keys: l.keys, Glances: l.listMissing()}
	if len(l.list) > 0 {
		step.New = func(line.Aggregate) (line.Repairer, error) { return l, nil }
	}
	return step, nil
}

// add takes down what is asked of a column, the nth of its field; inRows says that its languages stand in rows.
func (l *limits) add(rule lists.FieldRule, where *condition.Condition, col, n int, inRows bool) {
	one := limit{FieldRule: rule, where: where, col: col, rows: rule.Rows}
	if one.rows == 0 {
		one.rows = catalogue.Rows(catalogue.Lead)
		if level := l.sheet.Products.Level(col); level == products.OfVariant || level == products.AnyRow && l.sheet.onVariants(col) {
			one.rows = catalogue.Rows(catalogue.Variant)
		}
	}
	if n > 0 {
		one.Required = false // a second column of a field may be empty
	}
	if code, _ := heading.InTongue(l.sheet.Columns.Headings[col]); code != "" && slices.Contains(rule.Languages, code) {
		one.Required = true
	}
	if one.inRows = inRows && n == 0 && !rule.Required; one.inRows {
		one.Required = true
	}
	if rule.Unique {
		one.kind, one.open = l.sheet.Claim(line.Claim{Clash: catalogue.ValueTwice}), l.sheet.Written.Has(col)
	}
	l.list = append(l.list, one)
}

// onVariants reports whether the first rows of the file have values of a column in rows of variants,
// below the lead rows: then each variant has its own.
func (s *Sheet) onVariants(col int) bool {
	begins := s.Key.Grouping()()
	begins(sheet.Start)
	sku := s.Columns.First(catalogue.SKU)
	for i, cells := range s.Sample {
		row := &catalogue.Row{Cells: cells, Marks: make([]catalogue.Mark, len(cells))}
		if first := begins(row) || i == 0; !first && row.Cell(sku) != "" && strings.TrimSpace(row.Cell(col)) != "" {
			return true
		}
	}
	return false
}

// keys gives the keys of values that are claimed.
func (l *limits) keys(p *catalogue.Product, add func(int, uint64)) {
	for i, row := range p.Rows {
		for n := range l.list {
			if one := &l.list[n]; one.Unique {
				l.sheet.Texts.claimKey(row, one.col, one.kind, one.open, func(key uint64) { add(i, key) })
			}
		}
	}
}

// claimKey gives the key under which a cell may claim its value: if rules may yet
// change it, one that all rows share.
func (t *Texts) claimKey(row *catalogue.Row, col int, kind line.ClaimKind, open bool, add func(uint64)) {
	if open {
		add(scatter(uint64(kind) + 1))
		return
	}
	t.mayBecome(row.Cell(col), catalogue.LineKind, func(cell string) {
		if cell != "" {
			add(xxhash.Sum64String(cell) ^ scatter(uint64(kind)+1))
		}
	})
}

// claimOf returns what stands for a value that is claimed.
func (t *Texts) claimOf(cell string) uint64 {
	return xxhash.Sum64String(t.Clean(cell, catalogue.LineKind))
}

type limit struct {
	lists.FieldRule
	where  *condition.Condition
	col    int
	rows   catalogue.Rows // of which it is required
	kind   line.ClaimKind
	open   bool // rules may change the column
	inRows bool // it is required of rows in its languages
}

type limits struct {
	sheet *Sheet
	list  []limit

	toFill   int   // the list of what somebody has to fill in, -1 if nothing is required
	required []int // the columns of the file that are
	supplier int   // the column, -1 if there is none

	free sync.Pool // of *RowAt
}

// What a line of the list of missing values begins with, before the columns by which a person
// knows the product, and those that are required: who has to fill it in, the row, and which of these
// columns are missing, counted from 0, with spaces between them.
const (
	ToFillBy = iota
	ToFillMissing
	ToFillRow
)

// ToFillName is that list; what makes files for people turns it into the workbook ToFillBook.
const (
	ToFillName = folder.Temporary + "to-fill.csv"
	ToFillBook = "to-fill.xlsx"
)

// listMissing makes the list of what somebody has to fill in, and returns the columns at which
// it looks.
func (l *limits) listMissing() (glances catalogue.ColumnSet) {
	in := &l.sheet.Columns
	for i := range l.list {
		if one := &l.list[i]; one.Required && one.col < in.Own() && !slices.Contains(l.required, one.col) {
			l.required = append(l.required, one.col)
		}
	}
	if l.required == nil {
		return glances
	}
	slices.Sort(l.required)
	l.sheet.Required = len(l.required)
	l.supplier = in.First(catalogue.Supplier)
	headings := []string{"Supplier", "Missing", returned.RowHeading}
	for _, col := range slices.Concat(l.sheet.known(), l.required) {
		headings = append(headings, in.Headings[col])
	}
	l.toFill = l.sheet.List(line.List{Name: ToFillName, Headings: headings})
	glances.Add(l.sheet.known()...)
	if l.supplier >= 0 {
		glances.Add(l.supplier)
	}
	return glances
}

// enter lists a row in which something is missing.
func (l *limits) enter(row *catalogue.Row, i int, missing []int, log *line.Log) {
	var at []string
	for n, col := range l.required {
		if slices.Contains(missing, col) {
			at = append(at, strconv.Itoa(n))
		}
	}
	if at == nil || row.Made > 0 {
		return
	}
	cells := []string{row.Cell(l.supplier), strings.Join(at, " "), strconv.Itoa(row.Number)}
	for _, col := range slices.Concat(l.sheet.known(), l.required) {
		cells = append(cells, row.Cell(col))
	}
	log.Enter(l.toFill, i, cells...)
}

func (l *limits) Repair(p *catalogue.Product, log *line.Log) {
	at, _ := l.free.Get().(*RowAt)
	if at == nil {
		at = new(RowAt)
	}
	defer l.free.Put(at)
	at.sheet, at.Product, at.Lead = l.sheet, p, nil
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if at.Lead == nil {
			at.Lead = row
		}
		at.Row, at.Index = row, i
		var missing []int
		for n := range l.list {
			if one := &l.list[n]; at.Holds(one.where) && one.look(l.sheet, row, i, at.Means(one.rows), log) {
				missing = append(missing, one.col)
			}
		}
		if missing != nil && l.toFill >= 0 {
			l.enter(row, i, missing, log)
		}
	}
}

// look looks at a cell, and reports whether it is missing.
func (l *limit) look(s *Sheet, row *catalogue.Row, i int, meant bool, log *line.Log) (missing bool) {
	cell := row.Cell(l.col)
	if strings.TrimSpace(cell) == "" {
		if l.inRows {
			meant = meant && slices.Contains(l.Languages, heading.TongueOf(log.Said(i, s.Codes.Tongue)))
		}
		if l.Required && meant {
			log.Notice(catalogue.ValueMissing, row, l.col, cell, catalogue.Facts{})
		}
		return l.Required && meant
	}
	if l.Unique {
		log.Claim(l.kind, s.Codes.Mine(s.Texts.claimOf(cell), i, log), i, l.col)
	}
	most, least := text.Limit{Most: l.Longest, In: l.CountIn}, text.Limit{Most: l.Shortest - 1, In: l.CountIn}
	if l.Longest > 0 && !most.Fits(cell) && !log.Has(catalogue.TitleUnfit, row, l.col) {
		log.Notice(catalogue.ValueLong, row, l.col, cell, catalogue.Facts{Digits: most.Len(cell), Length: l.Longest})
	}
	if l.Shortest > 0 && least.Fits(cell) {
		log.Notice(catalogue.ValueShort, row, l.col, cell, catalogue.Facts{Digits: least.Len(cell), Length: l.Shortest})
	}
	return false
}

func missingField(table *sheet.Table, name string) error {
	return fmt.Errorf("%w: [field.%s] is required, and no column has it%s; the headings are: %s",
		columns.ErrWrong, name, text.DidYouMean(name, table.Columns.Headings), strings.Join(table.Columns.Headings, ", "))
}
