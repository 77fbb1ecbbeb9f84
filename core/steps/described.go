package steps

import (
	"encoding/binary"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/markup"
	"zetanum/core/quantity"
)

// Described is what a look at descriptions goes by.
type Described struct {
	Columns []int                              // of HTML
	Hosts   []string                           // of the shop's pages; nil if nothing says which these are
	Mention map[int]*markup.Mention            // what they must not have, by column
	Phrases []string                           // sentences that may stand in many of them
	Named   func(phrase string, times, of int) // takes down those that do
	Share   float64                            // in how large a part of them one has to stand to be named
	Fills   map[int]bool                       // columns of which rules fill empty cells
	Filled  bool                               // short descriptions are made of long ones, and may be the same
	// Links takes down each link of rows that go out; called by several at once.
	Links func(link markup.Link, row *catalogue.Row)
}

// Descriptions is the step that looks at descriptions as they go out: what could run, what is not closed, what is missing or stands there
// twice, and where the links in them lead.
func Descriptions(s *Sheet, of *Described) line.Step {
	d := &described{Described: of, columns: &s.Columns, long: s.Columns.First(catalogue.Description), short: s.Columns.First(catalogue.ShortDescription),
		mostly: make(map[int]bool), sku: s.Columns.First(catalogue.SKU)}
	for _, col := range of.Columns {
		if of.Fills[col] {
			continue
		}
		full, all := 0, 0
		for _, cells := range s.Table.Sample {
			if d.sku < 0 || d.sku < len(cells) && cells[d.sku] != "" {
				if all++; col < len(cells) && cells[col] != "" {
					full++
				}
			}
		}
		d.mostly[col] = all >= leastFilled && 4*full >= 3*all
	}
	reads := catalogue.ColumnsOf(append([]int{d.sku}, of.Columns...)...)
	for col := range s.Columns.Own() {
		f := s.Columns.Fields[col]
		if f == catalogue.Weight || f == catalogue.Length || f == catalogue.Width || f == catalogue.Height || f == catalogue.Size ||
			s.Columns.Kind(col) == catalogue.MeasureKind {
			d.figures = append(d.figures, figure{col, f, heading.Key(s.Columns.Headings[col]), quantity.UnitIn(s.Columns.Headings[col])})
			reads.Add(col)
		}
	}
	step := line.Step{Name: NameDescriptions, Reads: reads, New: Always(d.repair)}
	if d.long >= 0 && d.long < s.Columns.Own() && slices.Contains(of.Columns, d.long) && Compares(s.Table) {
		step.Learns = catalogue.ColumnsOf(d.long)
		step.Learn = func() line.Aggregate {
			return &sameTexts{col: d.long, phrases: of.Phrases, times: make([]uint64, len(of.Phrases))}
		}
		step.New = func(learned line.Aggregate) (line.Repairer, error) {
			d.same = learned.(*sameTexts)
			d.common = d.same.common(of.Share)
			for _, n := range d.common {
				of.Named(of.Phrases[n], int(d.same.times[n]), int(d.same.all))
			}
			return repairFunc(d.repair), nil
		}
	}
	return step
}

// leastFilled is how many products a file has at least of which those without a description are named.
const leastFilled = 6

type described struct {
	*Described
	columns     *catalogue.Columns
	long, short int // columns of descriptions, -1 for none
	figures     []figure
	mostly      map[int]bool // columns that most products fill
	sku         int
	same        *sameTexts // nil if they are not compared
	common      []int      // of the phrases, those that stand in many
}

// A looker is what looks at one description after another; it is kept under lookers.
type (
	looker  struct{ markup.Looker }
	lookers struct{}
)

// Forget forgets nothing, because the next look does.
func (*looker) Forget() {}

// A figure is a column that says a measure of products.
type figure struct {
	col   int
	field catalogue.Field
	name  string
	unit  string
}

func (d *described) repair(p *catalogue.Product, log *line.Log) {
	looker := log.Scratch(lookers{}, func() line.Forgetter { return new(looker) }).(*looker)
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		for _, col := range d.Columns {
			if cell := row.Cell(col); cell != "" {
				d.look(row, col, cell, &looker.Looker, log)
			} else if d.mostly[col] && row.Made == 0 && p.Role(i)&catalogue.Lead != 0 && (d.sku < 0 || row.Cell(d.sku) != "") {
				log.Notice(catalogue.DescriptionMissing, row, col, "", catalogue.Facts{})
			}
		}
		d.compare(row, i == 0 && row.Made == 0, log)
	}
}

// look looks at one description.
func (d *described) look(row *catalogue.Row, col int, cell string, looker *markup.Looker, log *line.Log) {
	note := func(code catalogue.Code, other string) {
		log.Notice(code, row, col, cell, catalogue.Facts{Other: catalogue.Shorten(other, longestShown)})
	}
	seen := looker.Look(cell)
	if seen.Unsafe != "" {
		note(catalogue.DescriptionUnsafe, seen.Unsafe)
	}
	if seen.Broken != "" {
		note(catalogue.DescriptionBroken, seen.Broken)
	}
	if seen.Code != "" {
		note(catalogue.DescriptionCode, seen.Code)
	}
	if !seen.Text {
		switch {
		case seen.Pictures > 0:
			note(catalogue.DescriptionEmpty, "pictures")
		case seen.HTML:
			note(catalogue.DescriptionEmpty, "tags")
		}
	}
	if seen.Astray != "" {
		note(catalogue.DescriptionAstray, seen.Astray)
	}
	if seen.EmptyList {
		note(catalogue.DescriptionEmptyList, "")
	}
	if seen.Skips != "" {
		note(catalogue.DescriptionHeadings, seen.Skips)
	}
	if seen.BareTable {
		note(catalogue.DescriptionTable, "")
	}
	if seen.Placeholder != "" {
		note(catalogue.DescriptionPlaceholder, seen.Placeholder)
	}
	if m := d.Mention[col]; m != nil {
		if word := m.In(cell); word != "" {
			note(catalogue.DescriptionMention, word)
		}
	}
	d.links(row, seen.Links, note, log)
	if len(d.figures) > 0 && (seen.Colon || !seen.Written && strings.Contains(cell, "</t")) {
		d.compareFigures(row, cell, log)
	}
}

// longestShown is how many characters of what was found are shown.
const longestShown = 100

// links looks where links lead.
func (d *described) links(row *catalogue.Row, links []markup.Link, note func(catalogue.Code, string), log *line.Log) {
	leaves, insecure := false, false
	for _, l := range links {
		if !log.Judging() && d.Links != nil && markup.Leads(l) {
			d.Links(l, row)
		}
		if !l.Picture && d.Hosts != nil && !leaves && markup.Leaves(l.Address, d.Hosts) {
			leaves = true
			note(catalogue.DescriptionLeaves, l.Address)
		}
		if !insecure && markup.Insecure(l.Address) {
			insecure = true
			note(catalogue.DescriptionInsecure, l.Address)
		}
	}
}

// leastSwapped is how many characters a short description has at least that may be the long one.
const leastSwapped = 200

// compare looks whether a row has the same text twice, or products share one.
func (d *described) compare(row *catalogue.Row, first bool, log *line.Log) {
	if d.long < 0 {
		return
	}
	long := row.Cell(d.long)
	for _, n := range d.common {
		if stands(d.Phrases[n], long) {
			log.Notice(catalogue.DescriptionPhrase, row, d.long, long, catalogue.Facts{Other: d.Phrases[n], Digits: int(d.same.times[n]), Length: int(d.same.all)})
			break
		}
	}
	if first && d.same != nil && len(long) >= leastShared {
		if n := d.same.Several(func() uint64 { return xxhash.Sum64String(long) }); n > 0 {
			log.Notice(catalogue.DescriptionTwice, row, d.long, long, catalogue.Facts{Digits: n})
		}
	}
	short := row.Cell(d.short)
	if short == "" || long == "" {
		return
	}
	if len(short) < leastSwapped && len(short) != len(long) && !strings.Contains(long, short) {
		return
	}
	a, b := strings.Join(strings.Fields(markup.Words(short)), " "), strings.Join(strings.Fields(markup.Words(long)), " ")
	switch {
	case a == b && a != "" && !d.Filled:
		log.Notice(catalogue.DescriptionSame, row, d.short, short, catalogue.Facts{})
	case len(a) >= leastSwapped && len(a) > 2*len(b):
		log.Notice(catalogue.DescriptionSwapped, row, d.short, short, catalogue.Facts{Digits: len([]rune(a)), Length: len([]rune(b))})
	}
}

// compareFigures looks whether lines such as Weight: 640 g say the same as their columns.
func (d *described) compareFigures(row *catalogue.Row, cell string, log *line.Log) {
	markup.EachLine(cell, func(text string) {
		name, value, ok := markup.Named(text)
		if !ok {
			return
		}
		said, ok := quantity.ParseMeasure(value)
		if !ok {
			return
		}
		key, field := heading.Key(name), heading.Field(name)
		for _, f := range d.figures {
			if key != f.name && (field == catalogue.Unknown || field != f.field) {
				continue
			}
			if has, ok := quantity.ParseMeasure(row.Cell(f.col)); ok {
				if has.Unit == "" {
					has.Unit = f.unit
				}
				if said.Contradicts(has) {
					log.Notice(catalogue.DescriptionFigure, row, f.col, row.Cell(f.col), catalogue.Facts{Other: text})
				}
			}
			return
		}
	})
}

// sameTexts counts how many products have a description, and in how many a phrase stands.
type sameTexts struct {
	Same
	col     int
	phrases []string
	times   []uint64
	all     uint64
}

// leastShared is how many bytes a description has at least of which it is told that several products have it.
const leastShared = 40

// leastCommon is in how many descriptions a phrase stands at least that is named.
const leastCommon = 8

func (t *sameTexts) Learn(p *catalogue.Product) {
	cell := p.Rows[0].Cell(t.col)
	if cell == "" {
		return
	}
	t.all++
	for i, phrase := range t.phrases {
		if stands(phrase, cell) {
			t.times[i]++
		}
	}
	if len(cell) >= leastShared {
		t.Add(xxhash.Sum64String(cell), 1)
	}
}

// stands reports whether a sentence stands in a description, in HTML or not.
func stands(phrase, cell string) bool {
	return strings.Contains(cell, phrase) || strings.ContainsAny(phrase, "&<>") && strings.Contains(cell, markup.Escape(phrase))
}

// common returns the phrases that stand in more than a share of the descriptions.
func (t *sameTexts) common(share float64) (list []int) {
	for i, n := range t.times {
		if n >= leastCommon && float64(n) > share*float64(t.all) {
			list = append(list, i)
		}
	}
	return list
}

func (t *sameTexts) Merge(next line.Aggregate) {
	o := next.(*sameTexts)
	t.all += o.all
	for i, n := range o.times {
		t.times[i] += n
	}
	t.Join(&o.Same)
}

func (t *sameTexts) AppendBinary(b []byte) ([]byte, error) {
	b = binary.AppendUvarint(b, t.all)
	for _, n := range t.times {
		b = binary.AppendUvarint(b, n)
	}
	return t.Same.AppendBinary(b)
}
