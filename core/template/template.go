// Package template learns an import template: the empty form that a platform gives out, with its own lines above the headings, its marks for
// what must be filled, its lists to choose from, its samples and its limits. It knows of no platform: all is read from the file.
//
//	t, err := template.Learn("their-form.xlsx")
//	for _, c := range t.Columns {
//		fmt.Println(c.Heading, c.Required, c.List)
//	}
package template

import (
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/lazy"
)

// A Template is what was learnt of a form. Rows and columns are counted from 1; of a text file each record is a row.
type Template struct {
	Path, Sheet string // Sheet is that into which the products go; "" of a text file

	Headings int   // the row of the headings that people read
	Machine  int   // the row of second headings, as programs have them; 0 if there is none
	Groups   []int // rows above them that name groups of columns
	Demands  int   // the row that says in words what must be filled; 0 if there is none
	Rules    []int // rows that say in words how columns are filled
	Preamble []int // other rows above the first product
	First    int   // the row into which the first product goes
	Samples  []int // rows of samples: they are never written
	Export   bool  // it is no form but a file of products, from which the ways of writing are learnt

	Columns []Column
	Ways    Ways
	Legend  map[string]Need // what colours of headings say, if a legend says it

	MostRows      int // that a file may have with products; 0 if nothing is said
	MostMegabytes int // that it may have, of a million bytes; likewise

	Own  bool   // it is itself the file with the products
	Text *Text  // how it is written; nil of a workbook
	Kind string // of a workbook: xlsx, xlsm, ods or xls; "" of a text file

	above   [][]string // the rows above the first product and the samples
	samples [][]string // the cells of the rows of samples
	wanted  []want     // what each column should have
}

// A Need says whether a column must be filled.
type Need uint8

// The needs.
const (
	Optional Need = iota
	Required
	Recommended
	Conditional // only where something else is so
)

var needNames = [...]string{"no", "yes", "recommended", "conditional"}

// String returns yes, no, recommended or conditional.
func (n Need) String() string { return needNames[n] }

// A Column is one of the columns of a form.
type Column struct {
	Heading string // as the cell has it
	Machine string // the second heading
	Group   string // the group to which it belongs
	Rule    string // what the form says of it in words

	Need    Need
	NeedOf  string // where that is said: a cell, such as D4
	Hidden  bool
	List    []string // what may stand there, nothing if that is not said
	ListOf  string   // where the list stands
	Depends int      // the column on which the list depends; 0 if it is the same in all rows
	ListBy  map[string][]string
	ways    *Ways    // of the file that it comes from; nil: those of the template
	Always  string   // what stands there in every row, if the form says so
	Seen    []string // in an export: the values that it has, where they are few

	Type       string // the type that a rule names: text, whole, amount, date, answer, link; "" if it names none
	MostLength int    // characters; 0 if nothing is said
	Least      string // of numbers and dates; "" if nothing is said
	Most       string
	Whole      bool // whole numbers
	Date       bool // dates
}

// Ways are how a form, or its samples, write things; "" where it does not show.
type Ways struct {
	Yes, No   string
	Date      string // YYYY-MM-DD
	Decimal   string // the mark before decimals
	Separator string // between several values in a cell
}

// Learn reads a template. The error says what is wrong with the file.
func Learn(path string) (*Template, error) {
	s, err := open(path)
	if err != nil {
		return nil, err
	}
	return s.learn(path)
}

// LearnOwn reads a file that is a form with products in it already.
func LearnOwn(path string) (*Template, error) {
	t, err := Learn(path)
	if err != nil {
		return nil, err
	}
	if t.Export {
		return nil, fmt.Errorf("%s: %w: it says nothing of what its columns take, neither by stars nor lists, rules or lines above the headings", path, ErrNoForm)
	}
	t.Own, t.Samples, t.samples = true, nil, nil // which are rows of products
	return t, nil
}

// LearnLike learns from files that were taken, or that the shop has exported: the columns of the first, and those of the others that it does not
// have behind them, each written as in the file that has it.
func LearnLike(paths ...string) (*Template, error) {
	t, err := Learn(paths[0])
	if err != nil {
		return nil, err
	}
	t.Kind = "" // it is no form to be filled
	for _, path := range paths[1:] {
		more, err := Learn(path)
		if err != nil {
			return nil, err
		}
		t.join(more)
	}
	return t, nil
}

// waysOf returns how a column writes things.
func (t *Template) waysOf(c *Column) *Ways {
	if c.ways != nil {
		return c.ways
	}
	return &t.Ways
}

// join puts columns of another file behind those of the first.
func (t *Template) join(more *Template) {
	heads := t.above[t.Headings-1]
	for len(heads) < len(t.Columns) {
		heads = append(slices.Clip(heads), "")
	}
	for n := range more.Columns {
		c := more.Columns[n]
		if len(t.Find(c.Name())) > 0 || strings.TrimSpace(c.Heading) == "" {
			continue
		}
		c.Depends, c.ways = 0, &more.Ways
		at := len(t.Columns)
		t.Columns, t.wanted, heads = append(t.Columns, c), append(t.wanted, more.wanted[n]), append(slices.Clip(heads), c.Heading)
		for i, sample := range more.samples {
			if n >= len(sample) {
				continue
			}
			if i == len(t.samples) {
				t.samples = append(t.samples, nil)
			}
			for len(t.samples[i]) < at {
				t.samples[i] = append(t.samples[i], "")
			}
			t.samples[i] = append(t.samples[i][:at:at], sample[n])
		}
	}
	t.above = slices.Clone(t.above)
	t.above[t.Headings-1] = heads
	if t.Text != nil {
		text := *t.Text
		text.ends = nil // its lines are others now
		t.Text = &text
	}
}

func (s *source) learn(path string) (*Template, error) {
	g := s.ofProducts()
	if g == nil {
		return nil, fmt.Errorf("%s: %w: it has no row of headings", path, ErrNoForm)
	}
	t := &Template{Path: path, Text: s.text, Kind: s.kind}
	if s.text == nil {
		t.Sheet = g.name
	}
	t.rows(g)
	if t.Headings == 0 {
		return nil, fmt.Errorf("%s: %w: it has no row of headings", filepath.Base(path), ErrNoForm)
	}
	for _, r := range t.Samples {
		t.samples = append(t.samples, g.rows[r-1])
	}
	t.above = g.rows[:min(t.head(), len(g.rows))]
	t.columns(s, g)
	t.ways(g)
	t.limits(g)
	for n := range t.Columns {
		t.wanted = append(t.wanted, t.want(n))
	}
	if t.Export {
		t.seen()
	}
	return t, nil
}

// limits reads how much a file may have: "not more than 500 articles a file", "at most 10 MB".
func (t *Template) limits(g *grid) {
	for _, r := range t.Preamble {
		for _, cell := range g.rows[r-1] {
			text := plain(strings.NewReplacer(",", "", "'", "").Replace(thousandsDot.ReplaceAllString(cell, "$1$2")))
			for rest := text; ; {
				_, behind, ok := around(rest, "most")
				if !ok {
					break
				}
				rest = behind
				m := amountBehind.FindStringSubmatch(strings.TrimSpace(behind))
				n, err := strconv.Atoi(at(m, 1))
				most := &t.MostRows
				switch unit := at(m, 2); {
				case is(unit, "megabytes") && says(text, "file") && !says(text, "pictures"):
					most = &t.MostMegabytes
				case !is(unit, "rows"):
					continue
				}
				if err == nil && n > 0 && (*most == 0 || n < *most) {
					*most = n
				}
			}
		}
	}
}

var (
	thousandsDot = lazy.New(`\b([0-9]{1,3})\.([0-9]{3})\b`)
	amountBehind = lazy.New(`^([0-9]+) ?(\pL+)`)
)

// at returns a part of a match, "" if there is none.
func at(match []string, n int) string {
	if n < len(match) {
		return match[n]
	}
	return ""
}

// seen gathers the values of columns of an export that have few, each several times.
func (t *Template) seen() {
	for n := range t.Columns {
		count := make(map[string]int)
		all := 0
		for _, sample := range t.samples {
			if n < len(sample) {
				if cell := strings.TrimSpace(sample[n]); cell != "" {
					count[cell]++
					all++
				}
			}
		}
		if p := profileOf(slices.Collect(maps.Keys(count))); len(count) <= mostSeen && all >= 4*len(count) && (p.shape == words || len(count) == 1) {
			t.Columns[n].Seen = slices.Sorted(maps.Keys(count))
		}
	}
}

// mostSeen is how many different values a column has at most of which it is said which these are.
const mostSeen = 20

// ofProducts returns the sheet into which products go: one that asks something of its cells, or the widest that is shown.
func (s *source) ofProducts() (best *grid) {
	most := -1
	for _, g := range s.grids {
		widest := 0
		for _, row := range g.rows {
			widest = max(widest, filled(row))
		}
		score := widest
		if len(g.demands) > 0 {
			score += 1000 + len(g.demands)
		}
		if g.hidden {
			score -= 2000
		}
		if widest > 1 && score > most {
			best, most = g, score
		}
	}
	return best
}
