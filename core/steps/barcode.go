package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
)

// Barcodes is the step that judges one barcode column: codes that the cell or
// the column proves are written, lost ones are looked up in the trusted sheets
// by SKU, and everything else is held with what is known of it.
func Barcodes(table *sheet.Table, col int, trusted reference.Sheets) line.Step {
	return line.Step{
		Name:   "barcodes",
		Reads:  catalogue.FieldsOf(catalogue.Barcode, catalogue.SKU),
		Writes: catalogue.FieldsOf(catalogue.Barcode),
		Rules: []catalogue.Rule{
			catalogue.RuleUndress, catalogue.RuleTail, catalogue.RuleGrouping, catalogue.RuleScientific,
			catalogue.RuleZeroFilled, catalogue.RuleLeadingZero, catalogue.RuleTrusted,
		},
		Learn: func() line.Lore { return &codeLore{col: col} },
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			sku := table.Columns.First(catalogue.SKU)
			for i, row := range p.Rows {
				if col < len(row.Cells) {
					codeKeys(i, readCode(row, col), trusted.Look(row.Cell(sku)), add)
				}
			}
		},
		New: func(learned line.Lore) (line.Repairer, error) {
			return &barcodes{
				evidence: learned.(*codeLore).Model.Weigh(),
				col:      col,
				sku:      table.Columns.First(catalogue.SKU),
				first:    col == table.Columns.First(catalogue.Barcode),
				trusted:  trusted,
			}, nil
		},
	}
}

// codeLore is the model of one column.
type codeLore struct {
	rescue.Model
	col int
}

func (l *codeLore) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if l.col < len(row.Cells) {
			l.Add(readCode(row, l.col))
		}
	}
}

func (l *codeLore) Merge(next line.Lore) { l.Model.Merge(&next.(*codeLore).Model) }

// Model returns what a survey learned of a barcode column, for a look at it.
func Model(lore line.Lore) (col int, model *rescue.Model, ok bool) {
	l, ok := lore.(*codeLore)
	if !ok {
		return 0, nil, false
	}
	return l.col, &l.Model, true
}

type barcodes struct {
	evidence *rescue.Evidence
	col, sku int
	first    bool // the first barcode column: only here a missing code is a finding
	trusted  reference.Sheets
}

func (b *barcodes) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) || b.col >= len(row.Cells) {
			continue
		}
		reading := readCode(row, b.col)
		if reading.Form == rescue.Empty && !(b.first && (i == 0 || row.Cell(b.sku) != "")) {
			continue // a second code, or an image row
		}
		verdict := b.evidence.Decide(reading)
		if verdict.Whole() {
			b.known(row, i, &verdict, log)
		} else {
			b.open(p, i, reading, &verdict, log)
		}
	}
}

// known deals with a code that the cell or its column proves.
func (b *barcodes) known(row *catalogue.Row, i int, v *rescue.Verdict, log *line.Log) {
	log.Claim(line.ClaimBarcode, v.Code.Key(), i, b.col)
	if len(b.trusted) > 0 {
		a := b.trusted.Look(row.Cell(b.sku))
		if a.State == reference.Found && a.Code.Key() != v.Code.Key() {
			log.Find(catalogue.TrustDiffers, row, b.col, row.Cells[b.col], catalogue.Facts{Other: a.Where()})
			return
		}
	}
	if v.Rule != catalogue.NoRule {
		log.Set(row, b.col, v.Code.String(), v.Rule, v.Ground, "")
	}
}

// open deals with a code that is not proved: a trusted sheet may have it.
func (b *barcodes) open(p *catalogue.Product, i int, r rescue.Reading, v *rescue.Verdict, log *line.Log) {
	row := p.Rows[i]
	cell := row.Cells[b.col]
	a := b.trusted.Look(row.Cell(b.sku))
	if a.State == reference.Found && !b.only(p, i, log) {
		log.Find(v.Finding, row, b.col, cell, v.Facts)
		return
	}
	switch {
	case a.State == reference.Found && rescue.Fits(r, v, a.Code):
		log.Set(row, b.col, a.Code.String(), catalogue.RuleTrusted, catalogue.Backed, a.Where())
		log.Claim(line.ClaimBarcode, a.Code.Key(), i, b.col)
	case a.State == reference.Found && v.Facts.High == 0:
		log.Find(catalogue.TrustProposes, row, b.col, cell, catalogue.Facts{Other: a.Where()})
	case a.State == reference.Found:
		log.Find(catalogue.TrustOutside, row, b.col, cell, catalogue.Facts{Other: a.Where()})
	case a.State == reference.Damaged && r.Form != rescue.Empty:
		log.Find(catalogue.TrustDamaged, row, b.col, cell, catalogue.Facts{Other: a.Where()})
	case a.State == reference.Ambiguous && r.Form != rescue.Empty:
		log.Find(catalogue.TrustAmbiguous, row, b.col, cell, catalogue.Facts{Other: a.Where()})
	default:
		log.Find(v.Finding, row, b.col, cell, v.Facts)
	}
}

// only reports whether the row is the only one of its product that the code for
// its SKU can belong to: no other has the SKU, or the others, image rows, have
// no code while it has one.
func (b *barcodes) only(p *catalogue.Product, i int, log *line.Log) bool {
	sku := p.Rows[i].Cell(b.sku)
	for j, other := range p.Rows {
		if j == i || log.IsAside(j) || other.Cell(b.sku) != sku {
			continue
		}
		if other.Cell(b.col) != "" || p.Rows[i].Cell(b.col) == "" {
			return false
		}
	}
	return true
}

// codeKeys gives the numbers that the cell of row i may come out with: its own, if it can
// stand at all, and that of the trusted sheets.
func codeKeys(i int, r rescue.Reading, a reference.Answer, add func(int, uint64)) {
	if r.MayStand() {
		add(i, scatter(r.N))
	}
	if a.State == reference.Found && a.Code.Number() != r.N {
		add(i, scatter(a.Code.Number()))
	}
}

// scatter makes keys of numbers that lie close together.
func scatter(n uint64) uint64 {
	n *= 0x9e3779b97f4a7c15
	return n ^ n>>29
}

func readCode(row *catalogue.Row, col int) rescue.Reading {
	return rescue.Read(row.Cells[col], row.Marks[col]&catalogue.Numeric != 0)
}
