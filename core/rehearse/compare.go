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

	"golang.org/x/sync/errgroup"

	"zetanum/core/catalogue"
	"zetanum/core/disk"
	"zetanum/core/distinct"
	"zetanum/core/present"
	"zetanum/core/template"
	"zetanum/core/text"
)

// A comparison is what becomes of some rows of the shop's.
type comparison struct {
	at      []int32 // the rows of the file, -1 for none
	codes   []int32 // the row that has its barcode, -1 for none
	slugs   []uint64
	differs []difference
	values  []map[string]bool // by pair
}

// A difference is a cell of the shop that says something else than that of the file.
type difference struct {
	row, pair       int
	blank           bool // in the file
	leaps, retitled bool
}

// compare reads what the shop has, and finds out what would become of it.
func (r *rehearsal) compare() error {
	if r.shop == nil {
		return nil
	}
	aside := func(row int) bool { return r.state[row]&(refused|keyless) != 0 }
	r.byKey, r.byCode = distinct.NewKeys(r.keys, aside), distinct.NewKeys(r.codes, aside)
	r.keys, r.codes = nil, nil
	if r.title[1] < 0 {
		r.title[1] = r.shop.Columns.First(catalogue.Title)
	}
	left := r.list(LeftName, r.report.ShopKey, "Title")
	r.cleared = r.list(ClearedName, r.report.ShopKey, "Column", "In the shop now")
	slugs, product := r.shop.Columns.First(catalogue.Slug), uint64(0)
	unseen := r.unseen // what is left of it is what the shop does not have
	err := inBatches(r.shop, func() {
		r.again()
		left, product = r.list(LeftName, r.report.ShopKey, "Title"), 0
		r.cleared = r.list(ClearedName, r.report.ShopKey, "Column", "In the shop now")
		r.unseen = make([]map[string]*Count, len(unseen))
		for n := range unseen {
			r.unseen[n] = maps.Clone(unseen[n])
		}
	}, func(rows []catalogue.Row) *comparison { return r.compareRows(rows, slugs, unseen) }, func(rows []catalogue.Row, made *comparison) {
		for n, found := range made.values {
			for value := range found {
				delete(r.unseen[n], value)
			}
		}
		next := 0
		for i := range rows {
			row := &rows[i]
			r.report.Shop++
			if made.slugs[i] != 0 {
				product = made.slugs[i]
			}
			from := next
			for next < len(made.differs) && made.differs[next].row == i {
				next++
			}
			key := r.keyOf(row, 1)
			if key == "" {
				continue
			}
			at := int(made.at[i])
			if other := made.codes[i]; other >= 0 && int(other) != at {
				r.foreign = append(r.foreign, foreignCode{other, [2]string{strings.Clone(key), strings.Clone(strings.TrimSpace(row.Cell(r.code[1])))}})
			}
			switch {
			case at < 0:
				r.report.Left++
				left.row(key, row.Cell(r.title[1]))
				if product != 0 && r.slugs.Find(product) >= 0 {
					r.report.Halves.add(func() Example {
						return Example{Key: strings.Clone(key), Before: strings.Clone(catalogue.Shorten(row.Cell(slugs)+" "+row.Cell(r.title[1]), 80))}
					})
				}
			case r.state[at]&matched != 0:
				if r.state[at]&refused == 0 { // which of the two would change nobody knows
					r.state[at] |= refused
					r.report.Refused++
				}
				r.refuse(0, "", key, template.Refusal{Column: r.key[0], Reason: inShopTwice, Says: "is in the shop twice"})
			default:
				r.state[at] |= matched
				r.takeDown(row, key, at, made.differs[from:next])
			}
		}
	})
	err = errors.Join(err, left.close(), r.cleared.close())
	r.report.Lists = written(left, r.cleared)
	return err
}

// again takes back what has been compared.
func (r *rehearsal) again() {
	for i := range r.state {
		if r.state[i]&matched != 0 && r.state[i]&refused != 0 {
			r.report.Refused-- // it was because the shop has it twice
			r.state[i] &^= refused
		}
		r.state[i] &^= matched | updated
	}
	for n := range r.pairs {
		p := &r.pairs[n]
		p.change, p.blank = Count{Column: p.change.Column}, Count{Column: p.blank.Column}
	}
	twice := template.Refusal{Column: r.key[0], Reason: inShopTwice}
	delete(r.refusals, twice)
	r.order = slices.DeleteFunc(r.order, func(of template.Refusal) bool { return of == twice })
	r.report.Shop, r.report.Left, r.report.Halves, r.report.Prices, r.report.Titles = 0, 0, Count{}, Count{}, Count{}
	r.shopRows, r.foreign = nil, nil
	clear(r.wanted)
}

// compareRows compares rows of the shop's with those of the file.
func (r *rehearsal) compareRows(rows []catalogue.Row, slugs int, unseen []map[string]*Count) *comparison {
	made := &comparison{values: make([]map[string]bool, len(r.pairs))}
	for i := range rows {
		row := &rows[i]
		slug := uint64(0)
		if cell := strings.TrimSpace(row.Cell(slugs)); cell != "" {
			slug = distinct.KeyOf(cell)
		}
		at, code := -1, -1
		if key := r.keyOf(row, 1); key != "" {
			at = r.byKey.Find(distinct.KeyOf(key))
			if cell := strings.TrimSpace(row.Cell(r.code[1])); cell != "" && r.code[0] >= 0 && r.code[1] >= 0 && r.code[1] != r.key[1] {
				code = r.byCode.Find(distinct.KeyOf(strings.TrimLeft(cell, "0")))
			}
			r.seenValues(row, unseen, made.values)
		}
		made.at, made.codes, made.slugs = append(made.at, int32(at)), append(made.codes, int32(code)), append(made.slugs, slug)
		if at < 0 {
			continue
		}
		sums := r.hashes.of(at)
		for n := range r.pairs {
			p := &r.pairs[n]
			if p.Cols[1] == r.key[1] {
				continue
			}
			cell := row.Cell(p.Cols[1])
			if has := p.Sum(cell, present.Shops); has == sums[n] || has == 0 && sums[n] == emptying {
				continue
			}
			d := difference{row: i, pair: n, blank: sums[n] == 0}
			if !d.blank || r.Blank == BlankClears {
				d.leaps = n == r.price && r.leaps(float(p.Norm(cell, present.Shops)), r.prices[at])
				d.retitled = r.named != nil && p.Cols[0] == r.title[0] && r.named[at] != present.SumOf(text.Slug(cell))
			}
			made.differs = append(made.differs, d)
		}
	}
	return made
}

// takeDown takes down what changes in a row of the shop's.
func (r *rehearsal) takeDown(row *catalogue.Row, key string, at int, differs []difference) {
	for _, d := range differs {
		p := &r.pairs[d.pair]
		cell := row.Cell(p.Cols[1])
		if d.blank {
			p.blank.add(func() Example {
				return Example{Key: strings.Clone(key), Before: strings.Clone(catalogue.Shorten(cell, 80))}
			})
			if r.Blank != BlankClears {
				continue
			}
			r.cleared.row(key, p.change.Column, cell)
		}
		r.state[at] |= updated
		r.example(&p.change, at, p.Cols[0], key, cell)
		if d.leaps {
			r.example(&r.report.Prices, at, p.Cols[0], key, cell)
		}
		if d.retitled {
			r.example(&r.report.Titles, at, p.Cols[0], key, cell)
		}
	}
	if r.state[at]&updated != 0 {
		for len(r.shopRows) <= r.report.Shop/64 {
			r.shopRows = append(r.shopRows, 0)
		}
		r.shopRows[r.report.Shop/64] |= 1 << (r.report.Shop % 64)
	}
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

// seenValues takes down what the shop has of the values that it may not have.
func (r *rehearsal) seenValues(row *catalogue.Row, unseen []map[string]*Count, seen []map[string]bool) {
	for n := range r.pairs {
		if unseen[n] == nil {
			continue
		}
		for _, value := range r.pairs[n].Values(row.Cell(r.pairs[n].Cols[1])) {
			if _, there := unseen[n][value]; there && !seen[n][value] {
				if seen[n] == nil {
					seen[n] = make(map[string]bool)
				}
				seen[n][value] = true
			}
		}
	}
}

// The lists that are written: what the shop would not get from the file, which cells of it would be emptied, what would be made, what would be
// refused, what puts it all back, and what that leaves to be done by hand.
const (
	LeftName    = "left-in-shop.csv"
	ClearedName = "emptied.csv"
	NewName     = "new.csv"
	RefusedName = "refused.csv"
	WayBackName = "way-back.csv"
	ByHandName  = "by-hand.csv"
)

// count counts what becomes of the rows of the file.
func (r *rehearsal) count() error {
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
	return nil
}

// finish reads the file again for what is only known now, and writes the way back.
func (r *rehearsal) finish() error {
	var group errgroup.Group // each reads one of the two files
	var lists [2][]string
	group.Go(func() (err error) {
		lists[0], err = r.after()
		return err
	})
	var back *formBack
	group.Go(func() (err error) {
		switch {
		case r.Dir == "" || r.report.Updated == 0:
		case r.Form != nil && r.ready.InForm:
			back, err = r.newFormBack()
		default:
			lists[1], err = r.wayBack()
		}
		return err
	})
	err := group.Wait()
	if back != nil && err == nil {
		lists[1], err = back.write()
	}
	r.report.Lists = slices.Concat(r.report.Lists, lists[0], lists[1])
	return err
}

// after reads the file again for what is only known now.
func (r *rehearsal) after() (lists []string, err error) {
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
	if r.report.Refused+r.report.Created+len(r.wanted) == 0 {
		r.sum()
		return nil, nil
	}
	n := -1
	news := r.list(NewName, "Row", r.report.Key, "Title")
	refusedRows := r.list(RefusedName, append([]string{"Row"}, r.ready.Columns.Headings...)...)
	err = r.ready.EachProduct(func() { n = -1 }, func(row *catalogue.Row) {
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
	r.sum()
	err = errors.Join(err, news.close(), refusedRows.close())
	return written(news, refusedRows), err
}

// sum puts together what was found.
func (r *rehearsal) sum() {
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

// written returns the names of those lists in which anything is.
func written(lists ...*list) (names []string) {
	for _, l := range lists {
		if l.file != nil {
			names = append(names, l.name)
		}
	}
	return names
}

// close ends the list.
func (l *list) close() error {
	if l.file == nil {
		return l.failed
	}
	l.out.Flush()
	return errors.Join(l.failed, l.out.Error(), disk.Flush(l.file), l.file.Close())
}
