package sections

import (
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/steps"
	"zetanum/core/text"
	"zetanum/core/title"
)

// lookAtTitles looks which products have the same title, and what orders about titles would do that nobody has
// given.
func (s *Sheet) lookAtTitles(col int, rules *title.Rules) {
	same := &sameTitles{}
	s.Orders.Learn(steps.Learner{Cols: []int{col}, New: func() steps.Learned { return &sameTitles{col: col} }, Judge: func(l steps.Learned) error {
		same = l.(*sameTitles)
		return nil
	}})
	would := &title.Rules{Clean: !rules.Clean, Measures: !rules.Measures, Language: rules.Language, Keep: rules.Keep, Twice: rules.Twice, Units: rules.Units}
	if rules.Case == "" {
		would.Case = title.Shouting
	}
	c := s.words("", would, col, -1)
	unique := s.Fields[catalogue.Title.String()].Unique
	s.Orders.Look("title", []int{col}, func(r *steps.RowAt) {
		cell := r.Cell(col)
		if cell == "" || r.Row.Made > 0 {
			return
		}
		if r.Row == r.Lead && !unique {
			if n := same.Several(func() uint64 { return keyOfTitle(cell) }); n > 0 {
				r.Find(catalogue.TitleTwice, col, cell, catalogue.Facts{Digits: n})
			}
		}
		c.look(r, cell)
	})
}

// proposed are the findings about what an order would do.
var proposed = [...]catalogue.Code{title.Cleaning: catalogue.TitleClutter, title.Casing: catalogue.TitleShouts, title.Measuring: catalogue.TitleMeasures}

// look names what each order would do to a text.
func (c *wordsColumn) look(r *steps.RowAt, cell string) {
	words, of := c.words[c.languageIn(r)], title.Product{Brand: r.Cell(c.brand)}
	if c.rules.Apply(words, cell, of, nil) == cell || r.Damaged(c.col) {
		return
	}
	for part := range proposed {
		alone := *c.rules
		alone.Clean, alone.Measures = alone.Clean && title.Part(part) == title.Cleaning, alone.Measures && title.Part(part) == title.Measuring
		if title.Part(part) != title.Casing {
			alone.Case = ""
		}
		if after := alone.Apply(words, cell, of, nil); after != cell {
			r.Find(proposed[part], c.col, cell, catalogue.Facts{Other: after, Proposed: after})
		}
	}
}

// languageIn returns the language of a row.
func (c *wordsColumn) languageIn(r *steps.RowAt) string {
	if own := strings.ToLower(strings.TrimSpace(r.Cell(c.language))); len(own) >= 2 && c.words[own[:2]] != nil {
		return own[:2]
	}
	return c.usual
}

// sameTitles counts how many products have a title.
type sameTitles struct {
	steps.Same
	col int
}

func (t *sameTitles) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := strings.TrimSpace(row.Cell(t.col)); cell != "" {
			t.Add(keyOfTitle(cell), 1)
			return
		}
	}
}

func (t *sameTitles) Merge(next steps.Learned) { t.Join(&next.(*sameTitles).Same) }

// keyOfTitle returns the hash of a title in which case, spaces and signs do not count.
func keyOfTitle(cell string) uint64 {
	var scratch [256]byte
	return xxhash.Sum64(lists.AppendSpellingKey(scratch[:0], text.Entities(cell)))
}
