package line

import (
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// products gathers the rows of parts into products. It uses rows again that are given back.
type products struct {
	begins  func(*catalogue.Row) bool
	prepare func(*catalogue.Row)
	whole   func(*catalogue.Row) bool
	scanner *sheet.Scanner
	rows    []*catalogue.Row
	used    int   // how many of rows are those of products that have not been given back
	ahead   bool  // the row behind these is the first of the next product
	apart   []int // numbers of rows that begin a product, in order
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
	p.used, p.ahead = 0, false
}

// last reports whether the product that next has given is the last of the part.
func (p *products) last() bool { return !p.ahead }

// giveBack gives back the rows of the last products that next has given, in all so many: what stands in them is no longer needed.
func (p *products) giveBack(rows int) {
	if to := p.used - rows; rows > 0 {
		if p.ahead {
			p.rows[to], p.rows[p.used] = p.rows[p.used], p.rows[to]
		}
		p.used = to
	}
}

// next gives the next product of the part, and false at its end.
func (p *products) next(product *catalogue.Product) bool {
	from := p.used
	if p.ahead {
		p.used++
	}
	for p.ahead = false; ; p.used++ {
		if p.used == len(p.rows) {
			p.rows = append(p.rows, new(catalogue.Row))
		}
		row := p.rows[p.used]
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
		if begins && p.used > from {
			p.ahead = true
			break
		}
	}
	product.Rows, product.Roles = p.rows[from:p.used:p.used], product.Roles[:0]
	return p.used > from
}
