package steps

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/sheet"
)

// spelt are the fields whose spellings are compared without being asked.
var spelt = []catalogue.Field{
	catalogue.Brand, catalogue.Category, catalogue.Supplier, catalogue.Type, catalogue.Colour, catalogue.Size, catalogue.Material,
}

// mostCompared is the size of the largest sheet in which spellings are compared
// without being asked: the survey has to read columns for it that it does not need
// otherwise.
const mostCompared = 64 << 20

// Compares reports whether spellings are compared in a sheet without being asked.
func Compares(table *sheet.Table) bool { return table.Extent <= mostCompared }

// Spelt reports whether the spellings of a field are compared.
func Spelt(f catalogue.Field) bool { return slices.Contains(spelt, f) }

// A Field is what the rulebook says of a field, with its list.
type Field struct {
	lists.FieldRule
	Known *lists.Known // nil if there is no list
}

// Values orders that the values of fields are written as their lists have them, or
// in one spelling. Yes are the questions that a person has answered with yes.
func (o *Orders) Values(fields map[string]Field, yes []catalogue.Answer) error {
	compare := spelt
	if !Compares(o.table) {
		compare = nil
	}
	named := make(map[int]bool)
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		field := fields[name]
		found, _ := o.shape.Find(&o.table.Columns, name)
		for _, col := range found {
			switch {
			case field.Known != nil:
				taken := yesFor(yes, o.table.Columns.Headings[col])[catalogue.ValueUnlisted]
				named[col] = true
				one := order{key: "field." + name, phase: phaseValues, writes: []int{col}, do: func(r *rowAt) bool {
					return o.listed(r, col, field.Known, taken)
				}}
				if err := o.add(one, field.Where, field.Rows, "", 0); err != nil {
					return err
				}
			case field.Unify && col < o.table.Columns.Own():
				named[col] = true
				for i := range o.list {
					if slices.Contains(o.list[i].writes, col) {
						return fmt.Errorf("%w: [field.%s] unify goes by how the file spells the values of %q, and [[%s]] writes other ones there; one_of says how each is written, whatever else is done",
							columns.ErrWrong, name, o.table.Columns.Headings[col], o.list[i].key)
					}
				}
				u := &spelling{col: col, write: true}
				o.spellings = append(o.spellings, u)
				if err := o.add(order{key: "field." + name, phase: phaseValues, writes: []int{col}, idle: u.idle, do: func(r *rowAt) bool {
					return u.do(o, r)
				}}, field.Where, field.Rows, "", 0); err != nil {
					return err
				}
			}
		}
	}
	look := func(key string, col int) {
		if named[col] || col >= o.table.Columns.Own() {
			return
		}
		named[col] = true
		u := &spelling{col: col}
		o.spellings = append(o.spellings, u)
		o.list = append(o.list, order{key: key, phase: phaseValues, writes: []int{col}, number: -1, looks: true, idle: u.idle, do: func(r *rowAt) bool {
			return u.do(o, r)
		}})
	}
	for _, f := range compare {
		for _, col := range o.table.Columns.All(f) {
			look("field."+f.String(), col)
		}
	}
	if o.products != nil && compare != nil {
		for _, option := range o.products.Options {
			look("products", option.Value)
		}
	}
	return nil
}

// listed writes a value as its list has it. In a field of several values each of
// them is looked at.
func (o *Orders) listed(r *rowAt, col int, known *lists.Known, taken bool) bool {
	cell := r.Cell(col)
	if cell == "" {
		return false
	}
	kind := o.table.Columns.Kind(col)
	parts, at := []string{cell}, ""
	if kind == catalogue.ListKind {
		at = separatorOf(cell)
		parts = strings.Split(cell, at)
	}
	ground := catalogue.Certain
	var unlisted, likely []string
	for i, part := range parts {
		value := strings.TrimSpace(part)
		if value == "" {
			continue
		}
		right, match := known.Match(value)
		switch {
		case match == lists.Exact:
			continue
		case match == lists.Folded && kind != catalogue.CodeKind:
		case match == lists.Near && taken && kind != catalogue.CodeKind:
			ground = catalogue.Decided
		default:
			unlisted = append(unlisted, value)
			if right != "" {
				likely = append(likely, right)
			}
			continue
		}
		parts[i] = strings.Replace(part, value, right, 1)
	}
	after := strings.Join(parts, at)
	if unlisted != nil {
		facts := catalogue.Facts{}
		if len(likely) == len(unlisted) {
			facts.Proposed = strings.Join(likely, ", ")
			facts.Decides = "It is likely to be " + facts.Proposed + "."
		}
		o.unknown(r, catalogue.ValueUnlisted, col, strings.Join(unlisted, ", "), facts)
	}
	if after == cell {
		return false
	}
	r.set(col, after, catalogue.RuleListed, ground, "")
	return true
}

// separatorOf returns what stands between the values of a list in one cell.
func separatorOf(cell string) string {
	for _, sep := range []string{"|", ";", ","} {
		if strings.Contains(cell, sep) {
			return sep
		}
	}
	return ","
}

// A spelling is a column whose spellings are compared.
type spelling struct {
	col    int
	write  bool // brought to one
	judged map[string]lists.Spelling
}

// idle reports that every value is spelt in one way.
func (u *spelling) idle() bool { return len(u.judged) == 0 }

func (u *spelling) do(o *Orders, r *rowAt) bool {
	cell := r.Cell(u.col)
	s, ok := u.judged[r.texts.spelt(cell)]
	if cell == "" || !ok {
		return false
	}
	switch {
	case s.Slip:
		r.find(catalogue.ValueMisspelt, u.col, cell, catalogue.Facts{Other: s.Better, Proposed: s.Better})
	case u.write && s.Better != "":
		r.set(u.col, s.Better, catalogue.RuleUnify, catalogue.Ordered, "")
		return true
	case u.write:
		r.find(catalogue.ValueTie, u.col, cell, catalogue.Facts{Other: s.Other})
	case s.Better != "":
		r.find(catalogue.ValueSpelling, u.col, cell, catalogue.Facts{Other: s.Better, Digits: s.Rows, Proposed: s.Better})
	default:
		r.find(catalogue.ValueSpelling, u.col, cell, catalogue.Facts{Other: s.Other, Digits: s.Rows})
	}
	return false
}

// spellingLore counts the spellings of columns.
type spellingLore struct {
	texts   *Texts
	columns []*spelling
	seen    []lists.Spellings
}

func (l *spellingLore) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for i, u := range l.columns {
			if u.col >= len(row.Cells) || row.Cells[u.col] == "" {
				continue
			}
			if cell := l.texts.spelt(row.Cells[u.col]); cell != "" {
				l.seen[i].Add(cell)
			}
		}
	}
}

func (l *spellingLore) Merge(next line.Lore) {
	for i := range l.seen {
		l.seen[i].Merge(&next.(*spellingLore).seen[i])
	}
}

func (l *spellingLore) AppendBinary(b []byte) ([]byte, error) {
	for i := range l.seen {
		b = binary.AppendUvarint(b, uint64(l.columns[i].col))
		var err error
		if b, err = l.seen[i].AppendBinary(b); err != nil {
			return nil, err
		}
	}
	return b, nil
}

// Limits is the step that looks whether the fields have what the rulebook asks of
// them: required, unique, not too long, not too short. It comes when all orders
// are carried out. written are the columns that they may change; claims are those
// of the course, to which its own are added.
func Limits(table *sheet.Table, texts *Texts, shape *columns.Rules, plan *products.Plan, fields map[string]Field, written map[int]bool, claims *[]line.Claim) (line.Step, error) {
	var list []limit
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		rule := fields[name]
		if !rule.Required && !rule.Unique && rule.Longest+rule.Shortest == 0 {
			continue
		}
		found, gone := shape.Find(&table.Columns, name)
		if len(found) == 0 && rule.Required && !gone {
			return line.Step{}, missingField(table, name)
		}
		where := new(condition.Condition)
		if rule.Where != nil {
			var err error
			if where, err = condition.Parse(rule.Where, func(name string) int { return columns.Find(&table.Columns, name) }); err != nil {
				return line.Step{}, err
			}
		}
		for n, col := range found {
			l := limit{FieldRule: rule.FieldRule, where: where, col: col, roles: rule.Rows.Roles()}
			if l.roles == 0 {
				l.roles = catalogue.Lead
				if plan.Level(col) == products.OfVariant {
					l.roles = catalogue.Variant
				}
			}
			if n > 0 {
				l.Required = false // a second column of a field may be empty
			}
			if rule.Unique {
				l.kind, l.open = line.ClaimKind(len(*claims)), written[col]
				*claims = append(*claims, line.Claim{Clash: catalogue.ValueTwice})
			}
			list = append(list, l)
		}
	}
	return line.Step{
		Name: "limits",
		New: func(line.Lore) (line.Repairer, error) {
			if len(list) == 0 {
				return nil, nil
			}
			return &limits{texts, plan, list}, nil
		},
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				for n := range list {
					if l := &list[n]; l.Unique {
						texts.claimKey(row, l.col, l.kind, l.open, func(key uint64) { add(i, key) })
					}
				}
			}
		},
	}, nil
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
	where *condition.Condition
	col   int
	roles catalogue.Role // of the rows of which it is required
	kind  line.ClaimKind
	open  bool // rules may change the column
}

type limits struct {
	*Texts
	plan *products.Plan
	list []limit
}

func (l *limits) Repair(p *catalogue.Product, log *line.Log) {
	at := rowAt{plan: l.plan, product: p}
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if at.lead == nil {
			at.lead = row
		}
		at.Row, at.index = row, i
		for n := range l.list {
			if one := &l.list[n]; at.holds(one.where) {
				one.look(l.Texts, row, i, at.means(one.roles), log)
			}
		}
	}
}

func (l *limit) look(texts *Texts, row *catalogue.Row, i int, meant bool, log *line.Log) {
	cell := row.Cell(l.col)
	if strings.TrimSpace(cell) == "" {
		if l.Required && meant {
			log.Find(catalogue.ValueMissing, row, l.col, cell, catalogue.Facts{})
		}
		return
	}
	if l.Unique {
		log.Claim(l.kind, texts.claimOf(cell), i, l.col)
	}
	if l.Longest > 0 && len(cell) > l.Longest {
		if n := utf8.RuneCountInString(cell); n > l.Longest {
			log.Find(catalogue.ValueLong, row, l.col, cell, catalogue.Facts{Digits: n, Length: l.Longest})
		}
	}
	if l.Shortest > 0 && len(cell) < l.Shortest*utf8.UTFMax {
		if n := utf8.RuneCountInString(cell); n < l.Shortest {
			log.Find(catalogue.ValueShort, row, l.col, cell, catalogue.Facts{Digits: n, Length: l.Shortest})
		}
	}
}
