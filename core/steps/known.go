package steps

import (
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/present"
	"zetanum/core/target"
)

// A Known knows which product of the shop each row is.
type Known struct {
	Catalogue *present.Catalogue // nil if nobody knows what the shop has
	Keys      []int              // the columns of the sheet for its keys, -1 where it has none; without a catalogue that by which rows to update are known
	Job       string             // what the file is for
	Split     bool               // new products and others go into files of their own
	By        int                // the column for each of whose values there is a file, -1 for none
	New, Has  int                // the numbers in the tally of products that are new, and that the shop has; -1 if they are not counted
}

// Find finds a row in the shop. own says whether anything in it tells it from the other rows of its product.
func (k *Known) Find(row *catalogue.Row) (f present.Found, own bool) {
	for i, col := range k.Keys {
		own = own || (k.Catalogue == nil || !k.Catalogue.Keys[i].OfProduct()) && strings.TrimSpace(row.Cell(col)) != ""
	}
	if k.Catalogue == nil {
		return present.Found{Row: -1, Product: -1, Key: -1, Other: -1, Twice: -1, Asked: own}, own
	}
	return k.Catalogue.Find(func(i int) string { return row.Cell(k.Keys[i]) }), own
}

// Step is the step that sets products aside for which the file is not, holds those of which it is not clear which they are in the shop, and says
// into which file each goes.
func (k *Known) Step(s *Sheet) line.Step {
	w := &known{Known: k, heading: func(col int) string { return s.Columns.Headings[col] }}
	var reads, learns catalogue.ColumnSet
	for _, col := range k.Keys {
		if col >= 0 {
			reads.Add(col)
		}
	}
	open := false
	if k.Catalogue != nil {
		w.kind = s.Claim(line.Claim{Clash: catalogue.ShopTaken})
		for _, col := range reads.List() {
			open = open || s.Ordered.Has(col) || col >= s.Columns.Own()
		}
		learns = reads
	}
	if k.By >= 0 {
		reads.Add(k.By)
	}
	step := line.Step{Name: NameKnown, Reads: reads, Learns: learns, New: Always(w.repair)}
	if k.Catalogue == nil {
		return step
	}
	texts := s.Texts
	step.Keys = func(p *catalogue.Product, add func(int, uint64)) {
		for at, row := range p.Rows {
			if open {
				add(at, scatter(uint64(w.kind)+1))
				continue
			}
			for i, col := range k.Keys {
				if k.Catalogue.Keys[i].OfProduct() {
					continue
				}
				texts.mayBecome(row.Cell(col), catalogue.LineKind, func(cell string) {
					found := k.Catalogue.FindBy(i, cell)
					if found < 0 {
						return
					}
					add(at, scatter(uint64(w.kind)+1)^scatter(uint64(found)+1))
					// Another row may come to have the barcode of that product.
					if code, err := barcode.Parse(k.Catalogue.Code(found)); err == nil {
						add(at, KeyOf(code))
					}
				})
			}
		}
	}
	return step
}

type known struct {
	*Known
	kind    line.ClaimKind
	heading func(col int) string
}

func (k *known) repair(p *catalogue.Product, log *line.Log) {
	there, rows := -1, 0 // where in the shop its first row is that is there
	lead := -1
	asked := false // something in it says what it is in the shop, or which holds it
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if rows++; lead < 0 {
			lead = i
		}
		f, own := k.Find(row)
		asked = asked || own || f.Asked
		if there < 0 {
			there = max(f.Row, f.Product)
		}
		key := func(n int) (col int, cell string) { return k.Keys[n], row.Cell(k.Keys[n]) }
		switch {
		case f.Other >= 0:
			col, cell := key(f.Key)
			log.Notice(catalogue.ShopSeveral, row, col, cell, catalogue.Facts{Other: k.Catalogue.Says(f)})
		case f.Twice >= 0:
			col, cell := key(f.Twice)
			log.Notice(catalogue.ShopTwice, row, col, cell, catalogue.Facts{Other: k.Catalogue.Name})
		case f.Row >= 0:
			log.Claim(k.kind, scatter(uint64(f.Row)+1), i, k.Keys[f.Key])
		case k.Job == target.JobUpdate && !own && !f.Asked && len(k.Keys) > 0 && p.Role(i)&catalogue.ImageRow == 0:
			col := k.Keys[0]
			log.Notice(catalogue.ShopNoKey, row, col, "", catalogue.Facts{Other: k.heading(col)})
		}
	}
	if rows == 0 {
		return
	}
	if k.Catalogue != nil {
		code, facts := catalogue.NoFinding, catalogue.Facts{Other: k.Catalogue.Name}
		switch {
		case k.Job == target.JobNew && there >= 0:
			code, facts.Row = catalogue.RowInShop, k.Catalogue.RowNumber(there)
		case k.Job == target.JobUpdate && there < 0 && asked:
			code = catalogue.RowNotInShop
		}
		count := k.New
		if there >= 0 {
			count = k.Has
		}
		if count >= 0 && !log.Judging() {
			log.Touch(count, lead)
		}
		if code != catalogue.NoFinding {
			for i := range p.Rows {
				log.Aside(i, code, facts)
			}
			return
		}
	}
	log.Into(k.into(p, log, there >= 0))
}

// The files into which products go that the shop does not have, and that it has.
const (
	IntoNew      = "new"
	IntoExisting = "existing"
	// IntoOther is that of products that have nothing in the column for each of whose values there is one.
	IntoOther = "other"
)

// into returns the file into which a product goes.
func (k *known) into(p *catalogue.Product, log *line.Log, there bool) string {
	name := ""
	if k.Split {
		if name = IntoNew; there {
			name = IntoExisting
		}
	}
	if k.By < 0 {
		return name
	}
	value := ""
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if value = strings.TrimSpace(row.Cell(k.By)); value != "" {
			break
		}
	}
	if value == "" {
		value = IntoOther
	}
	if name != "" {
		name += " "
	}
	return name + value
}

// An Unchanged leaves out products that are as the shop has them.
type Unchanged struct {
	*Known
	Out    []int // the columns that go out
	Apart  []int // those of them that say nothing of the product: what the importer is to do, the shop's own number
	Clears bool  // what is empty empties what the shop has

	Word    string              // what stands in cells that empty what the shop has
	Empties catalogue.ColumnSet // the columns in which it may

	pair map[int]int // by column
}

// Step is the step that does so.
func (c *Unchanged) Step(s *Sheet) line.Step {
	c.pair = make(map[int]int)
	for n := range c.Catalogue.Pairs() {
		c.pair[c.Catalogue.Pairs()[n].Cols[present.Ours]] = n
	}
	reads := catalogue.ColumnsOf(c.Out...)
	for _, col := range c.Keys {
		if col >= 0 {
			reads.Add(col)
		}
	}
	return line.Step{Name: NameChanged, Reads: reads, New: Always(c.repair)}
}

func (c *Unchanged) repair(p *catalogue.Product, log *line.Log) {
	for i := range log.Findings {
		if log.Findings[i].Severity() == catalogue.Error {
			return // somebody has to look at it
		}
	}
	pairs := c.Catalogue.Pairs()
	sums := make([]uint32, len(pairs))
	changed, any := false, false
	product := -1 // of the shop, of the rows above
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		any = true
		for n := range pairs {
			sums[n] = pairs[n].Sum(row.Cell(pairs[n].Cols[present.Ours]), present.Ours)
		}
		f, own := c.Find(row)
		if f.Product >= 0 {
			product = f.Product
		}
		var has []uint32 // of the shop
		same := false
		switch {
		case f.Row >= 0:
			has = c.Catalogue.Sums(f.Row)
		case !own && product >= 0:
			same = c.Catalogue.HasLoose(product, sums)
		}
		for _, col := range c.Out {
			if same || slices.Contains(c.Apart, col) {
				continue
			}
			n, paired := c.pair[col]
			now := uint32(0)
			if paired {
				now = sums[n]
			} else {
				now = present.SumOf(strings.TrimSpace(row.Cell(col)))
			}
			before := uint32(0)
			if paired && has != nil {
				before = has[n]
			}
			if now == before || now == 0 && !c.Clears || before == 0 && c.Empties.Has(col) && strings.TrimSpace(row.Cell(col)) == c.Word {
				continue
			}
			changed = true
			log.Differ(col)
		}
	}
	if changed || !any {
		return
	}
	for i := range p.Rows {
		log.Aside(i, catalogue.RowUnchanged, catalogue.Facts{Other: c.Catalogue.Name})
	}
}
