package steps

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/line"
)

// Mine returns what stands for a value that only one product may have, in the language of a row by its index: where each product has a row in
// each language these are not two.
func (c *Codes) Mine(key uint64, index int, log *line.Log) uint64 {
	if !c.InTongues {
		return key
	}
	return key + 31*xxhash.Sum64String(heading.TongueOf(log.Said(index, c.Tongue)))
}

// tongue is the column that says in which language a row is, if that counts.
func (c *Codes) tongue() (set catalogue.ColumnSet) {
	if c.InTongues {
		set.Add(c.Tongue)
	}
	return set
}

// InRows says which languages a field must be filled in has a row for each, where no column has it in these languages and another one names
// the language of the row; ok is false if it is not so.
func (s *Sheet) InRows(codes []string, found []int) (tongue int, ok bool) {
	tongue = s.Columns.First(catalogue.Language)
	return tongue, codes != nil && tongue >= 0 && len(s.otherTongues(codes, found)) == len(codes)
}

// otherTongues returns the languages in which no column has a field.
func (s *Sheet) otherTongues(codes []string, found []int) (lacking []string) {
	for _, code := range codes {
		if !slices.ContainsFunc(found, func(col int) bool {
			is, _ := heading.InTongue(s.Columns.Headings[col])
			return is == code
		}) {
			lacking = append(lacking, code)
		}
	}
	return lacking
}

// inLanguages looks whether a field has a column for each language in which it must be filled, or rows.
func (s *Sheet) inLanguages(name string, codes []string, found []int, gone bool) error {
	lacking := s.otherTongues(codes, found)
	if _, rows := s.InRows(codes, found); gone || rows || len(lacking) == 0 {
		return nil
	}
	return fmt.Errorf("%w: [field.%s] must be filled in %q, and no column has it in that language, with a heading such as %q, and none says "+
		"in which language a row is, as “Language” would; the headings are: %s", columns.ErrWrong, name, lacking[0],
		strings.ToUpper(name[:1])+name[1:]+" ("+strings.ToUpper(lacking[0])+")", strings.Join(s.Table.Columns.Headings, ", "))
}

// Tongues is the step that looks whether every product has a row in each of the languages in which fields must be filled, where these stand in
// rows. ok is false if it is not so with any.
func Tongues(s *Sheet, fields map[string]Field) (step line.Step, ok bool, err error) {
	c := &s.Columns
	t := &tongues{tongue: c.First(catalogue.Language), slug: s.Key.Slug, sku: c.First(catalogue.SKU)}
	reads := []int{t.tongue, t.slug, t.sku}
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		codes := fields[name].Languages
		if _, inRows := s.InRows(codes, s.Find(name)); !inRows {
			continue
		}
		where, looked, err := s.Where(fields[name].Where)
		if err != nil {
			return step, false, err
		}
		reads = append(reads, looked...)
		var set uint64
		for _, code := range codes {
			if !slices.Contains(t.codes, code) {
				t.codes = append(t.codes, code)
			}
			set |= 1 << slices.Index(t.codes, code)
		}
		t.needs = append(t.needs, tongueNeed{set, where})
	}
	step = line.Step{Name: NameTongues, Reads: catalogue.ColumnsOf(reads...), Learns: catalogue.ColumnsOf(t.tongue, t.slug, t.sku)}
	step.Learn = func() line.Aggregate { return &tonguesSeen{t, make(map[uint64]uint64)} }
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		t.seen = learned.(*tonguesSeen).of
		return repairFunc(t.repair), nil
	}
	return step, t.needs != nil, nil
}

type tongues struct {
	codes             []string // sets have a bit for each, by its place
	needs             []tongueNeed
	tongue, slug, sku int
	seen              map[uint64]uint64 // the languages of a product, by what it is known by
}

// A tongueNeed is the languages in which products must have rows, of those for which a condition holds.
type tongueNeed struct {
	set   uint64
	where *condition.Condition // nil: of all
}

// known returns what stands for what a product is known by in all languages, 0 for nothing.
func (t *tongues) known(row *catalogue.Row) uint64 {
	for _, col := range []int{t.sku, t.slug} {
		if cell := strings.TrimSpace(row.Cell(col)); cell != "" {
			return xxhash.Sum64String(cell)
		}
	}
	return 0
}

func (t *tongues) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		key := t.known(row)
		if log.IsAside(i) || key == 0 || row.Made != 0 || p.Role(i)&catalogue.Lead == 0 {
			continue
		}
		var needed uint64
		for _, n := range t.needs {
			if n.where == nil || n.where.Holds(row) {
				needed |= n.set
			}
		}
		var lacking []string
		for n, code := range t.codes {
			if (needed&^t.seen[key])>>n&1 != 0 {
				lacking = append(lacking, code)
			}
		}
		if lacking != nil {
			log.Notice(catalogue.ValueTongue, row, t.tongue, row.Cell(t.tongue), catalogue.Facts{Other: strings.Join(lacking, ", ")})
		}
	}
}

// tonguesSeen are the languages in which products have rows.
type tonguesSeen struct {
	by *tongues
	of map[uint64]uint64
}

func (s *tonguesSeen) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if key := s.by.known(row); key != 0 {
			if n := slices.Index(s.by.codes, heading.TongueOf(row.Cell(s.by.tongue))); n >= 0 {
				s.of[key] |= 1 << n
			}
		}
	}
}

func (s *tonguesSeen) Merge(next line.Aggregate) {
	for key, bits := range next.(*tonguesSeen).of {
		s.of[key] |= bits
	}
}

func (s *tonguesSeen) AppendBinary(b []byte) ([]byte, error) {
	for _, key := range slices.Sorted(maps.Keys(s.of)) {
		b = binary.AppendUvarint(binary.BigEndian.AppendUint64(b, key), s.of[key])
	}
	return b, nil
}
