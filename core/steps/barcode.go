package steps

import (
	"fmt"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/text"
)

// Codes say how the codes of a sheet are to be judged.
type Codes struct {
	Rules  rescue.Rules
	Source reference.Source // of whole codes; nil if there is none
	Memory Memory           // of the codes that earlier files had; nil if there is none
	// Decisions are what a person has said.
	Decisions catalogue.Decisions

	// Lost and Missing are the lists of the pipeline that take the codes to ask
	// for and the products without one.
	Lost, Missing int

	// InTongues says that each product has a row in each language, which the column Tongue names: these may have one SKU and barcode.
	InTongues bool
	Tongue    int
}

// Barcodes is the step that judges one barcode column: codes that the cell or
// the column proves are written, lost ones are looked up in the trusted sheets,
// and everything else is held with what is known of it.
func Barcodes(s *Sheet, col int) line.Step {
	codes, look := s.Codes, newLookup(s.Table, col, s.Codes)
	reads, writes, learns := s.of(catalogue.Barcode), catalogue.ColumnsOf(col, look.second), catalogue.ColumnsOf(col)
	reads.Add(look.sku, look.price, look.salePrice, look.supplier, look.second)
	reads.AddAll(codes.tongue())
	reads.Add(look.list...) // different variants differ in these
	for _, f := range look.fill {
		reads.Add(f.col)
		writes.Add(f.col)
	}
	if codes.Source != nil || codes.Memory != nil {
		learns.Add(look.sku, look.supplier)
		reads.Add(look.title)
		if look.words != nil {
			learns.Add(look.words.Columns()...)
			reads.Add(look.words.Columns()...)
		}
	}
	return line.Step{
		Name:  NameBarcodes,
		Reads: reads, Writes: writes, Learns: learns, Sources: catalogue.ColumnsOf(col), Before: changing,
		Rules: []catalogue.Rule{
			catalogue.RuleUndress, catalogue.RuleTail, catalogue.RuleGrouping, catalogue.RuleScientific, catalogue.RuleRepeated,
			catalogue.RuleZeroFilled, catalogue.RuleOnlyOne, catalogue.RuleLeadingZero, catalogue.RuleAddCheckDigit,
			catalogue.RuleTrusted, catalogue.RuleTrustedTitle, catalogue.RuleEarlier, catalogue.RuleRemembered, catalogue.RuleDecided, catalogue.RuleSecond,
			catalogue.RuleWriteAs, catalogue.RuleFill,
		},
		Learn: func() line.Aggregate { return &codeAggregate{lookup: look} },
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				if col < len(row.Cells) {
					look.keys(row, func(n uint64) { add(i, scatter(n)) })
				}
			}
		},
		New: func(learned line.Aggregate) (line.Repairer, error) {
			aggregate := learned.(*codeAggregate)
			return &barcodes{lookup: look, evidence: aggregate.Model.Weigh(codes.Rules), titles: aggregate.titles, memory: aggregate.memory}, nil
		},
	}
}

// Uncoded is the step that lists the products of a sheet without barcodes, so that somebody can scan them.
func Uncoded(s *Sheet) line.Step {
	list, known := s.Codes.Missing, s.known()
	return line.Step{Name: NameBarcodes, Before: changing, Reads: s.Products.RoleColumns(), Glances: catalogue.ColumnsOf(known...),
		New: Always(func(p *catalogue.Product, log *line.Log) {
			for i, row := range p.Rows {
				if p.Role(i)&catalogue.Variant == 0 || log.IsAside(i) {
					continue
				}
				cells := make([]string, 0, len(known)+1)
				for _, col := range known {
					cells = append(cells, row.Cell(col))
				}
				log.Enter(list, i, append(cells, "")...)
			}
		})}
}

type barcodes struct {
	*lookup
	evidence *rescue.Evidence
	titles   map[uint64]uint64
	memory   reference.Memory
}

func (b *barcodes) Repair(p *catalogue.Product, log *line.Log) {
	var codes []barcode.Code
	if len(p.Rows) > 1 {
		codes = make([]barcode.Code, len(p.Rows))
	}
	for i, row := range p.Rows {
		if log.IsAside(i) || b.col >= len(row.Cells) {
			continue
		}
		reading := b.read(row)
		if reading.Form == rescue.Empty && !(b.first && p.Role(i)&catalogue.Variant != 0 && b.noCode(row)) {
			continue // a second code, one that stands in another column, or an image row
		}
		verdict := b.evidence.Decide(reading)
		var own, code barcode.Code // own is the one that somebody has said it is
		if len(b.decisions) > 0 {
			decision, decided := b.decided(verdict.Finding, row)
			if verdict.Ground == catalogue.Likely && decided && decision.Value == "" {
				verdict.Finding, verdict.Ground = catalogue.NoFinding, catalogue.Decided
			}
			own, _ = barcode.Parse(decision.Value)
		}
		if own.IsValid() {
			if !b.object(row, b.evidence.Write(own), log) {
				code = b.write(row, i, own, catalogue.RuleDecided, catalogue.Decided, "", log)
			}
		} else if verdict.Whole() {
			asItStands := b.remembers.Memory != nil && verdict.Intact() && row.Marks[b.col]&catalogue.Altered == 0
			if code = b.known(row, i, &verdict, log); asItStands {
				log.Remember(i, b.memo(row, b.col, code))
			}
		} else {
			code = b.open(p, i, reading, &verdict, log)
		}
		if codes != nil {
			codes[i] = code
		}
	}
	b.variants(p, codes, log)
}

// known deals with a code that the cell or its column proves, and returns it.
func (b *barcodes) known(row *catalogue.Row, i int, v *rescue.Verdict, log *line.Log) barcode.Code {
	cell := row.Cells[b.col]
	if b.Source != nil {
		if a := b.ask(row); a.State == reference.Found && !a.ByTitle && a.Code.Key() != v.Code.Key() {
			log.Notice(catalogue.TrustDiffers, row, b.col, cell, catalogue.Facts{Other: a.Where()})
			return barcode.Code{}
		}
	}
	out := b.evidence.Write(v.Code)
	if (v.Rule != catalogue.NoRule || !b.evidence.Unremarkable(out)) && b.object(row, out, log) {
		return barcode.Code{}
	}
	if b.sku >= 0 && cell == row.Cell(b.sku) {
		log.Notice(catalogue.BarcodeEqualsSKU, row, b.col, cell, catalogue.Facts{})
	}
	log.Claim(ClaimBarcode, b.Mine(v.Code.Key(), i, log), i, b.col)
	b.fillOthers(row, v.Code, log)
	switch {
	case v.Rule != catalogue.NoRule:
		log.Set(row, b.col, out.String(), v.Rule, v.Ground, "")
	case out != v.Code:
		log.Set(row, b.col, out.String(), catalogue.RuleWriteAs, catalogue.Ordered, "")
	}
	return v.Code
}

// fillOthers writes a whole code into the columns that are to be filled with it,
// in their form.
func (b *barcodes) fillOthers(row *catalogue.Row, code barcode.Code, log *line.Log) {
	if own := b.table.Columns.Own(); len(b.fill) > 0 && !row.Wide && b.table.Columns.Added > 0 {
		row.Extend(own, b.table.Columns.Added)
	}
	for _, f := range b.fill {
		if f.col >= len(row.Cells) || row.Cells[f.col] != "" {
			continue
		}
		if out, ok := code.As(f.kind); ok {
			log.Set(row, f.col, out.String(), catalogue.RuleFill, catalogue.Ordered, "")
		}
	}
}

// object notes what is to be said of a whole code, and reports whether that
// holds it.
func (b *barcodes) object(row *catalogue.Row, out barcode.Code, log *line.Log) (holds bool) {
	code, facts := b.evidence.Object(out)
	if code == catalogue.NoFinding {
		return false
	}
	cell := row.Cells[b.col]
	if cell == "" {
		cell = out.String() // that another source has
	}
	return log.Notice(code, row, b.col, cell, facts)
}

// open deals with a code that is not proved: a second source may have it. It
// returns the code if that has it.
func (b *barcodes) open(p *catalogue.Product, i int, r rescue.Reading, v *rescue.Verdict, log *line.Log) barcode.Code {
	row := p.Rows[i]
	cell := row.Cells[b.col]
	if r.Form == rescue.TwoCodes && b.second >= b.table.Columns.Own() && !row.Wide {
		row.Extend(b.table.Columns.Own(), b.table.Columns.Added)
	}
	if r.Form == rescue.TwoCodes && b.second >= 0 && row.Cell(b.second) == "" && b.second < len(row.Cells) {
		if codes := rescue.Codes(cell); len(codes) == 2 {
			log.Set(row, b.col, b.evidence.Write(codes[0]).String(), catalogue.RuleSecond, catalogue.Ordered, "")
			log.Set(row, b.second, b.evidence.Write(codes[1]).String(), catalogue.RuleSecond, catalogue.Ordered, "")
			log.Claim(ClaimBarcode, b.Mine(codes[0].Key(), i, log), i, b.col)
			log.Claim(ClaimBarcode, b.Mine(codes[1].Key(), i, log), i, b.second)
			b.fillOthers(row, codes[0], log)
			return codes[0]
		}
	}
	a := b.ask(row)
	finding, facts, written := b.answer(p, i, r, v, &a, log)
	remembered := false
	if !written && len(b.memory) > 0 && (a.State == reference.NotFound || a.State == reference.Damaged) {
		if m := b.memory.Look(b.key(row, b.col)); m.State != reference.NotFound {
			a, remembered = m, true
			finding, facts, written = b.recalled(p, i, r, v, &m, log)
		}
	}
	if written && b.object(row, b.evidence.Write(a.Code), log) {
		return barcode.Code{}
	}
	if written {
		rule := catalogue.RuleTrusted
		switch {
		case remembered:
			rule = catalogue.RuleRemembered
		case a.Earlier:
			rule = catalogue.RuleEarlier
		case a.ByTitle:
			rule = catalogue.RuleTrustedTitle
		}
		ground := catalogue.Backed
		if finding != catalogue.NoFinding {
			ground = catalogue.Decided
		}
		return b.write(row, i, a.Code, rule, ground, a.Where(), log)
	}
	if finding == v.Finding {
		finding, facts = b.named(row, r, v)
	}
	if (finding == catalogue.BarcodeNotACode || finding == catalogue.BarcodePlaceholder && r.N == 0) && heading.SaysNone(cell) {
		finding, facts = catalogue.BarcodeSaysNone, catalogue.Facts{Proposed: emptied}
		if _, yes := b.decided(catalogue.BarcodeSaysNone, row); yes {
			log.Set(row, b.col, "", catalogue.RuleDecided, catalogue.Decided, "")
			finding, facts, cell = catalogue.BarcodeMissing, catalogue.Facts{}, ""
		}
	}
	if log.Judging() {
		log.Notice(finding, row, b.col, cell, facts)
		return barcode.Code{}
	}
	if finding == catalogue.BarcodeMissing {
		log.Enter(b.Missing, i, b.line(row, "")...)
	} else {
		f := catalogue.Finding{Code: finding, Cell: cell, Facts: facts}
		log.Enter(b.Lost, i, b.line(row, "", f.Sentence())...)
		if a.State == reference.NotFound && finding != catalogue.TrustFits && finding != catalogue.TrustMayFit {
			facts.Decides = b.decides(row)
		}
	}
	log.Notice(finding, row, b.col, cell, facts)
	return barcode.Code{}
}

// emptied stands for a cell that would be emptied.
const emptied = "(empty)"

// write writes a code that does not come of the cell, claims it and returns it.
func (b *barcodes) write(row *catalogue.Row, i int, code barcode.Code, rule catalogue.Rule, ground catalogue.Ground, source string,
	log *line.Log) barcode.Code {
	log.Set(row, b.col, b.evidence.Write(code).String(), rule, ground, source)
	b.fillOthers(row, code, log)
	log.Claim(ClaimBarcode, b.Mine(code.Key(), i, log), i, b.col)
	return code
}

// decides says which source would settle what a code was.
func (b *barcodes) decides(row *catalogue.Row) string {
	by := "this title"
	if sku := row.Cell(b.sku); sku != "" {
		by = "SKU " + catalogue.Shorten(sku, 40)
	}
	if b.Source == nil {
		return "A sheet with the code of " + by + " would settle it."
	}
	if name, at, ok := b.Source.Without(text.Typed(row.Cell(b.sku))); ok {
		return fmt.Sprintf("%s has no code in %s, row %d, either; a sheet with its code would settle it.", by, name, at)
	}
	return strings.ToUpper(by[:1]) + by[1:] + " is not in " + b.Source.String() + "; a sheet with its code would settle it."
}

// answer weighs what a second source says: whether its code is written, and
// otherwise the finding. A finding although it is written is a question that was
// answered with yes.
func (b *barcodes) answer(p *catalogue.Product, i int, r rescue.Reading, v *rescue.Verdict, a *reference.Answer,
	log *line.Log) (finding catalogue.Code, facts catalogue.Facts, written bool) {
	if a.State == reference.NotFound && b.Source != nil && v.Facts.High > 0 && v.Ground != catalogue.Likely {
		if only, ok := b.Source.Only(v.Facts.Low, v.Facts.High); ok {
			return b.fitting(p.Rows[i], a, &only)
		}
	}
	facts = catalogue.Facts{Other: a.Where()}
	if a.State == reference.NotFound || a.State != reference.Found && r.Form == rescue.Empty {
		return v.Finding, v.Facts, false
	}
	switch a.State {
	case reference.Damaged:
		if v.Ground == catalogue.Likely {
			return v.Finding, v.Facts, false // a question can still be asked
		}
		return catalogue.TrustDamaged, facts, false
	case reference.KeyTwice:
		return catalogue.TrustKeyTwice, facts, false
	case reference.CodeTwice:
		return catalogue.TrustCodeTwice, facts, false
	case reference.Disagree:
		return catalogue.TrustDisagrees, facts, false
	}
	only := b.only(p, i, log)
	if a.ByTitle {
		only = b.titles[b.wordsOf(p.Rows[i])] == 1
	}
	fits := rescue.Fits(p.Rows[i].Cells[b.col], r, v, a.Code)
	facts.Proposed = a.Code.String()
	switch {
	case !only && r.Form == rescue.Empty:
		return v.Finding, v.Facts, false
	case !only:
		return catalogue.TrustSeveralRows, catalogue.Facts{Other: facts.Other}, false
	case fits && a.ByTitle && v.Facts.High == 0:
		// Nothing is left in the cell that could confirm it.
		if _, yes := b.decided(catalogue.TrustByTitle, p.Rows[i]); yes {
			return catalogue.TrustByTitle, facts, true
		}
		if r.Form == rescue.Empty {
			return v.Finding, v.Facts, false
		}
		return catalogue.TrustByTitle, facts, false
	case fits:
		return catalogue.NoFinding, facts, true
	case slipped(r, v, a.Code):
		_, yes := b.decided(catalogue.TrustProposes, p.Rows[i])
		return catalogue.TrustProposes, facts, yes
	}
	return catalogue.TrustOutside, catalogue.Facts{Other: facts.Other}, false
}

// recalled weighs what is remembered of an SKU: it is written where what is left in the cell agrees, and the title
// by half of its words.
func (b *barcodes) recalled(p *catalogue.Product, i int, r rescue.Reading, v *rescue.Verdict, a *reference.Answer,
	log *line.Log) (finding catalogue.Code, facts catalogue.Facts, written bool) {
	row := p.Rows[i]
	facts.Other = a.Where()
	silent := r.Form == rescue.Empty || v.Ground == catalogue.Likely // there is something better to say
	switch {
	case a.State != reference.Found && silent, !b.only(p, i, log) && silent:
		return v.Finding, v.Facts, false
	case a.State != reference.Found:
		return catalogue.MemoryOpen, facts, false
	case !b.only(p, i, log):
		facts.Other += ", but several rows here have the SKU, and the code can belong to one of them only"
		return catalogue.MemoryOpen, facts, false
	}
	// What is left of a code shows the company at best, and SKUs come to mean other products.
	title := row.Cell(b.title)
	common, of := reference.Agree(title, a.Title())
	alike := 2*common >= of
	fits := rescue.Fits(row.Cells[b.col], r, v, a.Code)
	switch facts.Proposed = a.Code.String(); {
	case fits && alike:
		return catalogue.NoFinding, facts, true
	case fits:
		facts.Other += fmt.Sprintf(" for “%s”", catalogue.Shorten(a.Title(), 60))
		_, yes := b.decided(catalogue.MemoryTitle, row)
		return catalogue.MemoryTitle, facts, yes
	case slipped(r, v, a.Code):
		_, yes := b.decided(catalogue.MemoryNear, row)
		return catalogue.MemoryNear, facts, yes
	}
	facts.Proposed = ""
	facts.Other += ", which does not fit what is left of the code here"
	return catalogue.MemoryOpen, facts, false
}

// slipped reports whether a code is one slip of the hand from what stands in a cell.
func slipped(r rescue.Reading, v *rescue.Verdict, code barcode.Code) bool {
	return v.Facts.High == 0 && r.Missing == 0 && !r.X && r.Form < rescue.TwoCodes &&
		rescue.Near(r.N, code.Number(), max(r.Length, code.Len()))
}

// fitting weighs the only code of a second source that fits what is left in a cell; a is
// made it if it is written.
func (b *barcodes) fitting(row *catalogue.Row, a, only *reference.Answer) (finding catalogue.Code, facts catalogue.Facts, written bool) {
	common, of := reference.Agree(row.Cell(b.title), only.Title())
	facts.Other = only.Where()
	if only.Title() != "" {
		facts.Other += fmt.Sprintf(" for “%s”; %d of %d words of the titles are the same", only.Title(), common, of)
	}
	if finding = catalogue.TrustMayFit; common*3 >= of*2 && common > 0 {
		finding, facts.Proposed = catalogue.TrustFits, only.Code.String()
	}
	if _, written = b.decided(finding, row); written {
		*a = *only
	}
	return finding, facts, written
}

// named says more closely what stands in a cell that is no code.
func (b *barcodes) named(row *catalogue.Row, r rescue.Reading, v *rescue.Verdict) (catalogue.Code, catalogue.Facts) {
	cell := strings.TrimSpace(row.Cells[b.col])
	switch {
	case v.Finding == catalogue.BarcodeReplaced:
		facts := v.Facts
		facts.Other = rescue.Replacement(cell)
		if facts.Other == "" {
			facts.Other = rescue.Date
		}
		return v.Finding, facts
	case r.Form == rescue.Empty || r.Missing > 0 || v.Ground == catalogue.Likely:
	case b.sku >= 0 && cell == strings.TrimSpace(row.Cell(b.sku)):
		return catalogue.BarcodeIsSKU, catalogue.Facts{}
	case cell == strings.TrimSpace(row.Cell(b.price)), cell == strings.TrimSpace(row.Cell(b.salePrice)):
		return catalogue.BarcodeIsPrice, catalogue.Facts{}
	}
	return v.Finding, v.Facts
}

// line puts together a line of a list: what the product is known by, and then
// the rest.
func (b *barcodes) line(row *catalogue.Row, rest ...string) []string {
	cells := make([]string, 0, len(b.list)+len(rest))
	for _, c := range b.list {
		cells = append(cells, row.Cell(c))
	}
	return append(cells, rest...)
}

// noCode reports whether all barcode columns of a row are empty.
func (b *barcodes) noCode(row *catalogue.Row) bool {
	for _, c := range b.others {
		if row.Cell(c) != "" {
			return false
		}
	}
	return true
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

// variants finds rows of one product that share a code and are not the same
// thing: their SKUs or their options differ.
func (b *barcodes) variants(p *catalogue.Product, codes []barcode.Code, log *line.Log) {
	if codes == nil {
		return
	}
	first := make(map[uint64]int, len(codes))
	for i, c := range codes {
		if !c.IsValid() {
			continue
		}
		j, again := first[c.Key()]
		if !again {
			first[c.Key()] = i
			continue
		}
		if b.differ(p.Rows[i], p.Rows[j]) {
			log.Notice(catalogue.BarcodeVariant, p.Rows[i], b.col, p.Rows[i].Cells[b.col], catalogue.Facts{Row: p.Rows[j].Number})
		}
	}
}

// differ reports whether two rows are different variants.
func (b *barcodes) differ(one, other *catalogue.Row) bool {
	for _, c := range b.list {
		if c == b.table.Columns.First(catalogue.Title) {
			continue
		}
		if x, y := one.Cell(c), other.Cell(c); x != "" && y != "" && x != y {
			return true
		}
	}
	return false
}
