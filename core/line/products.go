package line

import (
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// products gathers the rows of parts into products. It uses its rows again.
type products struct {
	begins  func(*catalogue.Row) bool
	prepare func(*catalogue.Row)
	whole   func(*catalogue.Row) bool
	scanner *sheet.Scanner
	rows    []*catalogue.Row
	product catalogue.Product
	apart   []int // numbers of rows that begin a product, in order
	ahead   int   // where in rows the first row of the next product is, or -1
	base    int   // the number of the row above the part

	numbered bool
}

// A Grouping says whether a row begins a product, given the one above it, which
// the function it returns has seen before. After nil the row above is not known,
// and the next one does not count as a beginning; after [sheet.Start] there is none. Each
// caller needs a function of its own.
type Grouping func() func(*catalogue.Row) bool

func newProducts(form *sheet.Form, pipeline *Pipeline) *products {
	return &products{begins: pipeline.Grouping(), prepare: pipeline.Prepare, scanner: form.Scanner(""), numbered: form.Numbered}
}

func (p *products) open(part *sheet.Part, rowsBefore int) {
	p.scanner.Begin(part)
	if part.Continues {
		p.begins(nil) // the product above goes on
	} else {
		p.begins(sheet.Start)
	}
	if p.base = rowsBefore; p.numbered {
		p.base = 0 // its rows have their numbers
	}
	p.ahead = -1
}

// last reports whether the product that next has returned is the last of the part.
func (p *products) last() bool { return p.ahead < 0 }

// next returns the next product of the part, nil at its end.
func (p *products) next() *catalogue.Product {
	used := 0
	if p.ahead >= 0 {
		p.rows[0], p.rows[p.ahead] = p.rows[p.ahead], p.rows[0]
		used, p.ahead = 1, -1
	}
	for {
		if used == len(p.rows) {
			p.rows = append(p.rows, new(catalogue.Row))
		}
		row := p.rows[used]
		if !p.scanner.Next(row) {
			break
		}
		if p.scanner.Prefix > 0 && p.whole(row) {
			p.scanner.Again(row)
		}
		row.Number += p.base
		if p.prepare != nil {
			p.prepare(row)
		}
		begins := p.begins(row)
		if len(p.apart) > 0 && !begins {
			_, begins = slices.BinarySearch(p.apart, row.Number)
		}
		if begins && used > 0 {
			p.ahead = used
			break
		}
		used++
	}
	if used == 0 {
		return nil
	}
	p.product.Rows, p.product.Roles = p.rows[:used:used], p.product.Roles[:0]
	return &p.product
}
