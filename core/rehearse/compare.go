package rehearse

import (
	"cmp"
	"encoding/csv"
	"errors"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/present"
	"zetanum/core/template"
	"zetanum/core/text"
)

// compare reads what the shop has, and finds out what would become of it.
func (r *rehearsal) compare() error {
	if r.shop == nil {
		return nil
	}
	aside := func(row int) bool { return r.state[row]&(refused|keyless) != 0 }
	r.byKey, r.byCode = present.NewKeys(r.keys, aside), present.NewKeys(r.codes, aside)
	if r.title[1] < 0 {
		r.title[1] = r.shop.Columns.First(catalogue.Title)
	}
	width := len(r.pairs)
	left := r.list(LeftName, r.report.ShopKey, "Title")
	slugs, product := r.shop.Columns.First(catalogue.Slug), uint64(0)
	err := r.shop.EachProduct(func() {}, func(row *catalogue.Row) {
		if row.Blank() {
			return
		}
		r.report.Shop++
		if slug := strings.TrimSpace(row.Cell(slugs)); slug != "" {
			product = present.KeyOf(slug)
		}
		key := r.keyOf(row, 1)
		if key == "" {
			return
		}
		r.seenValues(row)
		at := r.byKey.Find(present.KeyOf(key))
		r.foreignCode(row, key, at)
		if at < 0 {
			r.report.Left++
			left.row(key, row.Cell(r.title[1]))
			if product != 0 && r.slugs[product] {
				r.report.Halves.add(func() Example {
					return Example{Key: strings.Clone(key), Before: strings.Clone(catalogue.Shorten(row.Cell(slugs)+" "+row.Cell(r.title[1]), 80))}
				})
			}
			return
		}
		if r.state[at]&matched != 0 {
			if r.state[at]&refused == 0 { // which of the two would change nobody knows
				r.state[at] |= refused
				r.report.Refused++
			}
			r.refuse(0, "", key, template.Refusal{Column: r.key[0], Reason: inShopTwice, Says: "is in the shop twice"})
			return
		}
		r.state[at] |= matched
		for n := range r.pairs {
			p := &r.pairs[n]
			if p.Cols[1] == r.key[1] {
				continue
			}
			cell := row.Cell(p.Cols[1])
			old := p.Norm(cell, 1)
			now := r.hashes[at*width+n]
			switch {
			case present.SumOf(old) == now:
				continue
			case now == 0:
				p.blank.add(func() Example {
					return Example{Key: strings.Clone(key), Before: strings.Clone(catalogue.Shorten(cell, 80))}
				})
				if r.Blank != BlankClears {
					continue
				}
			}
			r.state[at] |= updated
			r.example(&p.change, at, p.Cols[0], key, cell)
			if n == r.price && r.leaps(float(old), r.prices[at]) {
				r.example(&r.report.Prices, at, p.Cols[0], key, cell)
			}
			if r.named != nil && p.Cols[0] == r.title[0] && r.named[at] != present.SumOf(text.Slug(cell)) {
				r.example(&r.report.Titles, at, p.Cols[0], key, cell)
			}
		}
		if r.state[at]&updated != 0 {
			for len(r.shopRows) <= r.report.Shop/64 {
				r.shopRows = append(r.shopRows, 0)
			}
			r.shopRows[r.report.Shop/64] |= 1 << (r.report.Shop % 64)
		}
	})
	return errors.Join(err, left.close(r))
}

// float returns a number as a pair writes it, 0 if it is none.
func float(value string) float64 {
	f, _ := strconv.ParseFloat(value, 64)
	return f
}

func byCells(a, b Count) int {
	return cmp.Or(b.Cells-a.Cells, strings.Compare(a.Column+a.What, b.Column+b.What))
}

// leaps reports whether a price changes by more than was said, or than anybody expects.
func (r *rehearsal) leaps(was, now float64) bool {
	switch {
	case was <= 0 || now <= 0:
		return false
	case r.Moves > 0:
		return math.Abs(now-was) > r.Moves*was
	}
	return now < was/2 || now > 2*was
}

// inShopTwice is why a row is refused whose key the shop has twice.
const inShopTwice template.Reason = "twice in the shop"

// example counts a cell, whose new value is read later.
func (r *rehearsal) example(c *Count, at, col int, key, before string) {
	if len(c.Examples) < mostExamples {
		r.wanted[at] = append(r.wanted[at], wantedCell{c, len(c.Examples), col})
	}
	c.add(func() Example {
		return Example{Key: strings.Clone(key), Before: strings.Clone(catalogue.Shorten(before, 80))}
	})
}

// seenValues takes off what the shop has of the values that it may not have.
func (r *rehearsal) seenValues(row *catalogue.Row) {
	for n := range r.pairs {
		if r.unseen[n] == nil {
			continue
		}
		for _, value := range r.pairs[n].Values(row.Cell(r.pairs[n].Cols[1])) {
			delete(r.unseen[n], value)
		}
	}
}

// foreignCode notes that a product of the shop has the barcode of another row of the file.
func (r *rehearsal) foreignCode(row *catalogue.Row, key string, at int) {
	if r.code[0] < 0 || r.code[1] < 0 || r.code[1] == r.key[1] {
		return
	}
	code := strings.TrimSpace(row.Cell(r.code[1]))
	if code == "" {
		return
	}
	if other := r.byCode.Find(present.KeyOf(strings.TrimLeft(code, "0"))); other >= 0 && other != at {
		r.foreign = append(r.foreign, foreignCode{int32(other), [2]string{strings.Clone(key), strings.Clone(code)}})
	}
}

// The lists that are written: what the shop would not get from the file, what would be made, what would be refused, and what puts it all back.
const (
	LeftName    = "left-in-shop.csv"
	NewName     = "new.csv"
	RefusedName = "refused.csv"
	WayBackName = "way-back.csv"
)

// after reads the file again for what is only known now.
func (r *rehearsal) after() error {
	if r.shop != nil {
		for i := range r.state {
			switch {
			case r.state[i]&(refused|keyless) != 0:
			case r.state[i]&matched == 0:
				r.report.Created++
			case r.state[i]&updated != 0:
				r.report.Updated++
			default:
				r.report.Unchanged++
			}
		}
	}
	for _, f := range r.foreign {
		count := &r.report.Moved
		if r.state[f.row]&matched == 0 {
			count = &r.report.Twins
		}
		if len(count.Examples) < mostExamples {
			r.wanted[int(f.row)] = append(r.wanted[int(f.row)], wantedCell{count, len(count.Examples), r.key[0]})
		}
		count.add(func() Example { return Example{Key: f.keys[1], Before: f.keys[0]} })
	}
	n := -1
	news := r.list(NewName, "Row", r.report.Key, "Title")
	refusedRows := r.list(RefusedName, append([]string{"Row"}, r.ready.Columns.Headings...)...)
	err := r.ready.EachProduct(func() {}, func(row *catalogue.Row) {
		if row.Blank() {
			return
		}
		n++
		key, state := r.keyOf(row, 0), r.state[n]
		for _, w := range r.wanted[n] {
			e := &w.count.Examples[w.at]
			e.Row, e.After = row.Number, strings.Clone(catalogue.Shorten(strings.TrimSpace(row.Cell(w.col)), 80))
		}
		switch {
		case state&refused != 0:
			refusedRows.row(append([]string{strconv.Itoa(row.Number)}, row.Cells...)...)
		case r.shop != nil && state&(matched|keyless) == 0:
			title := row.Cell(r.title[0])
			news.row(strconv.Itoa(row.Number), key, title)
			r.report.News.add(func() Example {
				return Example{Row: row.Number, Key: strings.Clone(key), After: strings.Clone(catalogue.Shorten(title, 80))}
			})
		}
	})
	if err := errors.Join(err, news.close(r), refusedRows.close(r)); err != nil {
		return err
	}
	for n := range r.pairs {
		p := &r.pairs[n]
		if p.change.Cells > 0 {
			r.report.Changes = append(r.report.Changes, p.change)
		}
		if p.blank.Cells > 0 {
			r.report.Blanks = append(r.report.Blanks, p.blank)
		}
		if r.shop != nil {
			for _, value := range slices.Sorted(maps.Keys(r.unseen[n])) {
				r.report.Unseen = append(r.report.Unseen, *r.unseen[n][value])
			}
		}
	}
	for _, of := range r.order {
		r.report.Refusals = append(r.report.Refusals, *r.refusals[of])
	}
	for _, list := range [][]Count{r.report.Changes, r.report.Blanks, r.report.Unseen, r.report.Refusals} {
		slices.SortStableFunc(list, byCells)
	}
	return nil
}

// write writes the way back: for each product that would change its key, and what the shop has now in all columns that change anywhere.
func (r *rehearsal) write() error {
	if r.Dir == "" || r.report.Updated == 0 {
		return nil
	}
	var changed []int // pairs
	headings := []string{r.report.ShopKey}
	for n := range r.pairs {
		if p := &r.pairs[n]; p.change.Cells > 0 {
			changed = append(changed, n)
			headings = append(headings, r.shop.Columns.Headings[p.Cols[1]])
		}
	}
	back := r.list(WayBackName, headings...)
	n := 0
	cells := make([]string, len(headings))
	err := r.shop.EachProduct(func() {}, func(row *catalogue.Row) {
		if row.Blank() {
			return
		}
		if n++; n/64 >= len(r.shopRows) || r.shopRows[n/64]&(1<<(n%64)) == 0 {
			return
		}
		at := r.byKey.Find(present.KeyOf(r.keyOf(row, 1)))
		if at < 0 || r.state[at]&refused != 0 {
			return
		}
		cells[0] = row.Cell(r.key[1])
		for i, pair := range changed {
			cells[i+1] = row.Cell(r.pairs[pair].Cols[1])
			if strings.TrimSpace(cells[i+1]) == "" && r.hashes[at*len(r.pairs)+pair] != 0 {
				if cells[i+1] = r.Empty; r.Empty == "" && r.Blank != BlankClears {
					r.report.NoWay++
				}
			}
		}
		back.row(cells...)
	})
	return errors.Join(err, back.close(r))
}

// A list is a file that is written if anything is in it.
type list struct {
	dir, name string
	headings  []string
	file      *os.File
	out       *csv.Writer
	failed    error
}

func (r *rehearsal) list(name string, headings ...string) *list {
	return &list{dir: r.Dir, name: name, headings: headings}
}

// row writes a row.
func (l *list) row(cells ...string) {
	if l.dir == "" || l.failed != nil {
		return
	}
	if l.file == nil {
		if l.file, l.failed = os.Create(filepath.Join(l.dir, l.name)); l.failed != nil {
			return
		}
		l.out = csv.NewWriter(l.file)
		l.failed = l.out.Write(l.headings)
	}
	l.failed = errors.Join(l.failed, l.out.Write(cells))
}

// close ends the list.
func (l *list) close(r *rehearsal) error {
	if l.file == nil {
		return l.failed
	}
	l.out.Flush()
	r.report.Lists = append(r.report.Lists, l.name)
	return errors.Join(l.failed, l.out.Error(), l.file.Sync(), l.file.Close())
}
