package steps

import (
	"encoding/binary"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/sheet"
	"zetanum/core/target"
	"zetanum/core/text"
)

// scopeOf says how much of a cell of a kind may be tidied. Cells of codes and
// markup are left alone. In a column of unknown meaning only the edges are
// touched: two spaces in it may be part of a code.
func scopeOf(kind catalogue.Kind) (scope text.Scope, ok bool) {
	switch kind {
	case catalogue.AnyKind, catalogue.NumberKind, catalogue.PriceKind, catalogue.MeasureKind, catalogue.DateKind, catalogue.LinkKind,
		catalogue.YesNoKind:
		return text.Edges, true
	case catalogue.LineKind:
		return text.OneLine, true
	case catalogue.ListKind:
		return text.Lines, true // a line break may stand between two values
	}
	return 0, false
}

// Texts says how the texts of a sheet are put in order.
type Texts struct {
	Rules    text.Rules
	Encoding sheet.Encoding // of the sheet
	Fitter   *target.Fitter // to the encoding of the target; nil if that has every character

	// Backed are the texts that trusted sheets have for cells of which characters
	// are lost.
	Backed map[reference.TextPlace]BackedText
}

// A BackedText is what a trusted sheet has for a cell.
type BackedText struct {
	Lost, Text string // the text with characters lost, and whole; "" if the sheets do not agree
	Source     string
}

// A change is what was done to a text.
type change struct {
	after string
	rule  catalogue.Rule
}

// order puts a text of a kind in order, as far as it says by itself what it should
// be, and as far as as says it, what the texts beside it were misread as. likely is
// what it may have been, if that is not certain; nothing more is done to it then, but
// with yes what is likely is taken. did are the single changes.
func (t *Texts) order(cell string, kind catalogue.Kind, as string, yes bool) (after, likely string, did []change) {
	set := func(after string, rule catalogue.Rule) {
		if after != cell {
			cell = after
			did = append(did, change{after, rule})
		}
	}
	if !t.Encoding.Pure() {
		set(t.Encoding.Decode(cell), catalogue.RuleDecoded)
	}
	if kind == catalogue.CodeKind {
		return cell, "", did
	}
	scope, tidied := scopeOf(kind)
	plain := plainText(kind)
	// What one change brings to light may be something for another.
	for before := ""; before != cell; {
		before = cell
		if plain {
			if t.Rules.Width == "plain" {
				set(text.PlainWidth(cell), catalogue.RulePlainWidth)
			}
			if strings.IndexByte(cell, '&') >= 0 {
				set(text.Entities(cell), catalogue.RuleEntities)
			}
			set(text.Compose(cell), catalogue.RuleComposed)
		}
		if m, ok := mend(cell, as, t.Encoding.Own()); ok {
			if !m.Exact && !yes {
				return cell, m.Text, did
			}
			set(m.Text, catalogue.RuleMended)
		}
		if tidied {
			switch out, spaces, invisible := text.Tidy(cell, scope); {
			case invisible:
				set(out, catalogue.RuleInvisible)
			case spaces:
				set(out, catalogue.RuleSpaces)
			}
		}
		if plain && t.Rules.Quotes == "plain" && !charset.Garbled(cell) { // it may yet be told what that was
			set(text.PlainQuotes(cell), catalogue.RulePlainQuotes)
		}
		if t.quotes(cell, kind) {
			set("'"+cell, catalogue.RuleQuoteFormula)
		}
	}
	return cell, "", did
}

// quotes reports whether a cell of a kind gets an apostrophe before it, so that no
// program runs it as a formula.
func (t *Texts) quotes(cell string, kind catalogue.Kind) bool {
	return t.Rules.Formulas == "quote" && mayRun(kind) && text.Formula(cell)
}

// mayRun reports whether cells of a kind are looked at for formulas; numbers, codes and
// markup have steps of their own.
func mayRun(kind catalogue.Kind) bool { return plainText(kind) || kind == catalogue.AnyKind }

// mend undoes a wrong decoding of a text. as is what the texts beside it were misread as,
// "" if that is not known, and own the encoding of the file, "" if that is UTF-8: most
// texts that were misread in it were misread as that.
func mend(cell, as, own string) (m charset.Mended, ok bool) {
	m, ok = charset.Mend(cell)
	sure := ok && m.Exact
	if sure && own != "" && as == "" {
		if other, yes := charset.MendAs(cell, own); yes && other.Exact && other.Text != m.Text {
			if m.Exact = false; m.Part && !other.Part {
				return other, true
			}
			return m, true
		}
	}
	if as == "" || sure && !m.Part {
		return m, ok
	}
	if known, yes := charset.MendAs(cell, as); yes && known.Exact && (!known.Part || !sure) {
		return known, true
	}
	return m, ok
}

// Clean returns a cell of a kind as the step of the texts leaves it, as far as the
// cell itself says.
func (t *Texts) Clean(cell string, kind catalogue.Kind) string {
	if inOrder(cell) && !t.quotes(cell, kind) {
		return cell
	}
	after, _, _ := t.order(cell, kind, "", false)
	return after
}

// spelt returns how a value is spelt that goes out.
func (t *Texts) spelt(cell string) string {
	cell = t.Clean(cell, catalogue.LineKind)
	if t.Fitter != nil && !t.Fitter.Has(cell) {
		cell, _, _, _ = t.Fitter.Fit(cell, false)
	}
	return cell
}

// mayBecome calls add with what may become of a cell of a kind, with what is known of
// the sheet and with the answers of a person; perhaps more than once.
func (t *Texts) mayBecome(cell string, kind catalogue.Kind, add func(string)) {
	if inOrder(cell) && !t.quotes(cell, kind) {
		add(cell)
		return
	}
	clean := t.Clean(cell, kind)
	add(clean)
	if strings.Contains(clean, text.Lost) {
		for _, b := range t.Backed {
			if b.Lost == clean {
				add(b.Text)
			}
		}
	}
	for _, as := range charset.Misreadings() {
		after, _, _ := t.order(cell, kind, as, true)
		add(after)
		if _, single, _ := text.MixedWord(after); single != "" {
			add(single)
		}
	}
}

// inOrder reports whether a look at the bytes shows that nothing needs doing.
func inOrder(cell string) bool { return !catalogue.Has(cell, catalogue.Untidy|catalogue.Ampersand) }

// inOrderAs is inOrder for a cell of a row, of whose kinds some need less.
func inOrderAs(row *catalogue.Row, col int, kind catalogue.Kind) bool {
	switch kind {
	case catalogue.LineKind, catalogue.ListKind:
		return !row.Has(col, catalogue.Untidy|catalogue.Ampersand)
	case catalogue.HTMLKind:
		return !row.Has(col, catalogue.HighBytes) && strings.IndexByte(row.Cells[col], 0) < 0
	}
	return !row.Has(col, catalogue.Untidy)
}

// Text is the step that puts texts in order: it mends what was decoded wrongly, and
// takes stray spaces and invisible characters out of cells with words.
func Text(s *Sheet) line.Step {
	var columns []textColumnOf
	own := s.Columns.Own()
	reads, writes, learns := catalogue.FirstColumns(own), catalogue.FirstColumns(own), s.of(catalogue.Title)
	for col, f := range s.Columns.Fields[:own] {
		kind := s.Columns.Kind(col)
		if f != catalogue.Barcode && slices.Contains(s.ByCells, col) {
			kind = catalogue.AnyKind // other rows might not have shown it
		}
		columns = append(columns, textColumnOf{kind: kind, heading: s.Columns.Headings[col],
			decisions: s.Decisions.In(s.Columns.Headings[col]), barcode: f == catalogue.Barcode})
		if kind != catalogue.CodeKind && Compares(s.Table) {
			learns.Add(col)
		}
	}
	return line.Step{
		Name:  NameText,
		Reads: reads, Writes: writes, Learns: learns,
		Rules: []catalogue.Rule{
			catalogue.RuleDecoded, catalogue.RuleMended, catalogue.RuleComposed, catalogue.RuleOneScript, catalogue.RulePlainWidth,
			catalogue.RulePlainQuotes, catalogue.RuleQuoteFormula, catalogue.RuleTextBacked, catalogue.RuleEntities, catalogue.RuleSpaces,
			catalogue.RuleInvisible, catalogue.RuleDecided,
		},
		Learn: func() line.Aggregate {
			return &misreadAggregate{learns: learns.List(), own: s.Texts.Encoding.Own(), counts: make(map[string]int)}
		},
		New: func(learned line.Aggregate) (line.Repairer, error) {
			return &textRepairer{s.Texts, columns, learned.(*misreadAggregate).as(), s.Columns.First(catalogue.SKU)}, nil
		},
	}
}

type textColumnOf struct {
	kind      catalogue.Kind
	heading   string
	decisions catalogue.Decisions // on the column
	barcode   bool
}

// misreadAggregate counts the cells of a sheet that were certainly misread, by what they
// were read as.
type misreadAggregate struct {
	learns []int  // the columns that are looked at
	own    string // the encoding of the sheet
	counts map[string]int
}

func (l *misreadAggregate) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for _, col := range l.learns {
			if !row.Has(col, catalogue.HighBytes) {
				continue
			}
			m, ok := charset.Mend(row.Cells[col])
			if !ok || !m.Exact || m.Part {
				if own, yes := charset.MendAs(row.Cells[col], l.own); yes && own.Exact && !own.Part {
					m, ok = own, true
				}
			}
			if ok && m.Exact {
				l.counts[m.As]++
			}
		}
	}
}

func (l *misreadAggregate) Merge(next line.Aggregate) {
	for as, n := range next.(*misreadAggregate).counts {
		l.counts[as] += n
	}
}

func (l *misreadAggregate) AppendBinary(b []byte) ([]byte, error) {
	for _, as := range slices.Sorted(maps.Keys(l.counts)) {
		b = append(append(b, as...), 0)
		b = binary.AppendUvarint(b, uint64(l.counts[as]))
	}
	return b, nil
}

// as returns what the texts of the sheet were read as, "" if they do not agree.
func (l *misreadAggregate) as() string {
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

type textRepairer struct {
	*Texts
	columns []textColumnOf
	as      string // what the texts of the sheet were read as
	sku     int    // the column
}

func (t *textRepairer) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		calm := row.Calm(catalogue.Untidy&^catalogue.EdgeSpace | catalogue.Ampersand)
		for col := range min(len(row.Cells), len(t.columns)) {
			cell := row.Cells[col]
			if cell == "" || calm && !catalogue.AtEdge(cell) && !text.MayRun(cell) {
				continue
			}
			kind := t.columns[col].kind
			if !inOrderAs(row, col, kind) || t.quotes(cell, kind) {
				t.cell(row, col, log)
			}
			if kind == catalogue.CodeKind && !t.columns[col].barcode && row.Has(col, catalogue.Untidy) {
				if after, _, _ := text.Tidy(cell, text.Edges); after != cell {
					log.Notice(catalogue.TextCodeSpaces, row, col, cell, catalogue.Facts{Other: text.Visible(cell)})
				}
			}
			if cell := row.Cells[col]; cell != "" && (mayRun(kind) || cell[0] == '=' && !t.columns[col].barcode) && text.Formula(cell) {
				log.Notice(catalogue.TextFormula, row, col, cell, catalogue.Facts{})
			}
		}
	}
}

// plainText reports whether cells of a kind are words without markup.
func plainText(kind catalogue.Kind) bool {
	return kind == catalogue.LineKind || kind == catalogue.ListKind
}

func (t *textRepairer) cell(row *catalogue.Row, col int, log *line.Log) {
	if _, yes := t.decided(catalogue.TextUnreadable, row, col); yes && t.Encoding.Broken {
		log.Set(row, col, t.Encoding.First.DecodeRest(row.Cells[col], false), catalogue.RuleDecoded, catalogue.Decided, "")
	}
	cell, column := row.Cells[col], &t.columns[col]
	misread, yes := t.decided(catalogue.TextMisread, row, col)
	after, likely, did := t.order(cell, column.kind, t.as, yes && misread.Value == "")
	raw, decoded := cell, cell
	for _, change := range did {
		ground := catalogue.Certain
		switch change.rule {
		case catalogue.RuleDecoded:
			decoded = change.after
		case catalogue.RulePlainWidth, catalogue.RulePlainQuotes, catalogue.RuleQuoteFormula:
			ground = catalogue.Ordered
		case catalogue.RuleMended:
			if m, _ := mend(cell, t.as, t.Encoding.Own()); !m.Exact {
				ground = catalogue.Decided
			}
		}
		cell = change.after
		log.Set(row, col, cell, change.rule, ground, "")
	}
	switch other, open := t.Encoding.Other(raw, decoded); {
	case open && t.chosen(row, col, raw, other, log):
	case open:
		log.Notice(catalogue.TextUndecided, row, col, decoded, catalogue.Facts{Other: other})
	case t.Encoding.Cut && strings.HasSuffix(decoded, text.Lost):
		log.Notice(catalogue.TextCut, row, col, decoded, catalogue.Facts{})
	case raw != decoded && t.Encoding.Broken:
		may := t.Encoding.First.DecodeRest(raw, false)
		log.Notice(catalogue.TextUnreadable, row, col, decoded, catalogue.Facts{Other: t.Encoding.First.String() + ", as which it says " + may, Proposed: may})
	case raw != decoded && strings.Contains(decoded, text.Lost):
		log.Notice(catalogue.TextUnreadable, row, col, decoded, catalogue.Facts{Other: t.Encoding.Foreign.String() + ", as other rows are"})
	case raw != decoded:
		log.Notice(catalogue.TextIllFormed, row, col, decoded, catalogue.Facts{Other: t.Encoding.Foreign.String()})
	}
	if likely != "" && misread.Value != "" {
		log.Set(row, col, t.Clean(misread.Value, column.kind), catalogue.RuleDecided, catalogue.Decided, "")
		likely, after = "", row.Cells[col]
	}
	if likely != "" {
		log.Notice(catalogue.TextMisread, row, col, after, catalogue.Facts{Other: likely, Proposed: likely})
	}
	if likely == "" && column.kind != catalogue.CodeKind && charset.Garbled(after) {
		log.Notice(catalogue.TextGarbled, row, col, after, catalogue.Facts{})
	}
	if strings.Contains(after, text.Lost) {
		t.lost(row, col, log)
	}
	if _, tidied := scopeOf(column.kind); !tidied && strings.IndexByte(after, 0) >= 0 {
		log.Notice(catalogue.TextControl, row, col, after, catalogue.Facts{})
	}
	if plain := plainText(column.kind); plain || column.kind == catalogue.CodeKind && !column.barcode {
		t.mixed(row, col, plain, log)
	}
}

// decided returns what a person has said to a finding about a cell.
func (t *textRepairer) decided(finding catalogue.Code, row *catalogue.Row, col int) (catalogue.Decision, bool) {
	column := &t.columns[col]
	if len(column.decisions) == 0 {
		return catalogue.Decision{}, false
	}
	return column.decisions.For(finding, column.heading, row.Cell(t.sku), row.Cells[col])
}

// chosen reports whether a person has said in which of two encodings a cell is, and writes it so.
func (t *textRepairer) chosen(row *catalogue.Row, col int, raw, other string, log *line.Log) bool {
	said, _ := t.columns[col].decisions.For(catalogue.TextUndecided, t.columns[col].heading, row.Cell(t.sku), raw)
	c, ok := charset.Parse(said.Value)
	if ok && c == t.Encoding.Second {
		log.Set(row, col, t.Clean(other, t.columns[col].kind), catalogue.RuleDecoded, catalogue.Decided, "")
	}
	return ok && (c == t.Encoding.First || c == t.Encoding.Second)
}

// lost puts in what a trusted sheet has for a cell of which characters are lost.
func (t *textRepairer) lost(row *catalogue.Row, col int, log *line.Log) {
	cell := row.Cells[col]
	b, ok := t.Backed[reference.TextPlace{SKU: row.Cell(t.sku), Col: col}]
	if ok && b.Text != "" && text.Recovers(cell, b.Text) {
		log.Set(row, col, b.Text, catalogue.RuleTextBacked, catalogue.Backed, b.Source)
		return
	}
	log.Notice(catalogue.TextLost, row, col, cell, catalogue.Facts{})
}

// mixed looks for words with letters of another script that look like their own. In
// codes nothing is written: every character of them counts.
func (t *textRepairer) mixed(row *catalogue.Row, col int, plain bool, log *line.Log) {
	cell := row.Cells[col]
	word, single, ok := text.MixedWord(cell)
	if !ok {
		return
	}
	if marked := text.Visible(word); marked != word {
		word += " (" + marked + ")"
	}
	mixed, yes := t.decided(catalogue.TextMixed, row, col)
	switch {
	case plain && mixed.Value != "":
		log.Set(row, col, t.Clean(mixed.Value, t.columns[col].kind), catalogue.RuleDecided, catalogue.Decided, "")
	case plain && single != "" && yes:
		log.Set(row, col, single, catalogue.RuleOneScript, catalogue.Decided, "")
	case plain:
		log.Notice(catalogue.TextMixed, row, col, cell, catalogue.Facts{Other: word, Proposed: single})
	default:
		log.Notice(catalogue.TextMixed, row, col, cell, catalogue.Facts{Other: word})
	}
}
