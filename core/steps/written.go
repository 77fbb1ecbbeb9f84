package steps

import (
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// Written is the step that looks at what rules have written into SKUs, slugs and barcodes: it is held to
// the same as what the file has itself. No two products come to have one, and whether one is missing is
// said when the rules have been carried out. ok is false if no rule writes there.
func Written(s *Sheet) (step line.Step, ok bool) {
	w := &written{sheet: s, barcode: -1, first: s.Columns.First(catalogue.SKU)}
	add := func(f catalogue.Field, kind func() line.ClaimKind) {
		for _, col := range s.Columns.All(f) {
			if s.Ordered.Has(col) {
				w.claims = append(w.claims, keyClaim{col, kind(), s.Made.Has(col)})
			}
		}
	}
	add(catalogue.SKU, func() line.ClaimKind { return ClaimSKU })
	add(catalogue.Slug, func() line.ClaimKind { return s.Claim(line.Claim{Clash: catalogue.SlugDuplicate}) })
	if col := s.Columns.First(catalogue.Barcode); s.Ordered.Has(col) {
		w.barcode = col
	}
	if w.claims == nil && w.barcode < 0 {
		return step, false
	}
	step = line.Step{Name: NameWritten, New: Always(w.repair), Keys: w.keys}
	for _, c := range w.claims {
		step.Reads.Add(c.col)
		if c.made {
			step.Learns.Add(c.col)
		}
	}
	step.Reads.Add(w.barcode)
	step.Reads.AddAll(s.Codes.tongue())
	return step, true
}

type written struct {
	sheet   *Sheet
	claims  []keyClaim
	first   int // the column of the products' own SKUs
	barcode int // -1 if no rule writes there
}

type keyClaim struct {
	col  int
	kind line.ClaimKind
	made bool // only codes that are made are written there
}

// keys gives one that all rows share: what rules will write is not known before. Codes that are made are none
// that there are, so that what the file has is enough.
func (w *written) keys(p *catalogue.Product, add func(int, uint64)) {
	for i, row := range p.Rows {
		for _, c := range w.claims {
			if !c.made {
				add(i, scatter(uint64(c.kind)+1))
			} else if cell := strings.TrimSpace(row.Cell(c.col)); cell != "" && c.kind != ClaimSKU { // of an SKU there is one
				add(i, xxhash.Sum64String(cell)^scatter(uint64(c.kind)+1))
			}
		}
	}
}

func (w *written) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		for _, c := range w.claims {
			cell := strings.TrimSpace(row.Cell(c.col))
			switch {
			case cell != "":
				log.Claim(c.kind, w.sheet.Codes.Mine(xxhash.Sum64String(cell), i, log), i, c.col)
			case c.col == w.first && p.Role(i)&catalogue.Variant != 0:
				log.Notice(catalogue.SKUMissing, row, c.col, "", catalogue.Facts{})
			}
		}
		if w.barcode >= 0 && row.Cell(w.barcode) != "" && log.Has(catalogue.BarcodeMissing, row, w.barcode) {
			log.Settled(catalogue.BarcodeMissing, row, w.barcode)
			log.Withdraw(w.sheet.Codes.Missing, i)
		}
	}
}
