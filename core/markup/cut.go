package markup

import "sort"

// Cut returns as much of a description as fits, as it is written: blocks are left out from the end, of a list or a table the last items or
// rows; and headings and lines with a colon at the end behind which nothing is left. ok is false if not even the first block fits.
func (c *Cleaner) Cut(cell string, column *Shown, fits func(string) bool) (after string, ok bool, err error) {
	if after, err = c.Clean(cell, column); err != nil || fits(after) {
		return after, err == nil, err
	}
	if _, err = c.write(cell, column, c.known.layout); err != nil { // it may have been recognised, and not read
		return cell, false, err
	}
	var units []int // what can be left out, in order: blocks, items, rows
	var collect func(in int)
	d := &c.b.document
	collect = func(in int) {
		for at := d.blocks[in].first; at != 0; at = d.blocks[at].next {
			switch d.blocks[at].class {
			case list, table, rowGroup:
				collect(at)
			default:
				units = append(units, at)
			}
		}
	}
	collect(0)
	cut := func(n int) string { // what is left with so many of them
		for n > 0 && c.leadsOn(units[n-1]) {
			n--
		}
		if n == 0 {
			return ""
		}
		type end struct{ in, last, next int }
		var ends []end
		for at := units[n-1]; at != 0; at = d.blocks[at].parent {
			in := d.blocks[at].parent
			ends = append(ends, end{in, d.blocks[in].last, d.blocks[at].next})
			d.blocks[in].last, d.blocks[at].next = at, 0
		}
		c.p.b = c.p.b[:0]
		c.p.write()
		for _, e := range ends {
			d.blocks[d.blocks[e.in].last].next = e.next
			d.blocks[e.in].last = e.last
		}
		return string(c.p.b)
	}
	n := sort.Search(len(units), func(n int) bool { return !fits(cut(n + 1)) })
	if n == len(units) { // what is left out at the end makes it fit
		n--
	}
	after = cut(n)
	return after, after != "", nil
}

// leadsOn reports whether a block promises what comes behind it: a heading, a rule, a line with a colon at its end.
func (c *Cleaner) leadsOn(at int) bool {
	switch b := &c.b.blocks[at]; b.class {
	case heading, rule:
		return true
	case paragraph:
		last := c.b.runs[b.to-1]
		return last.class == inline && last.text != "" && last.text[len(last.text)-1] == ':'
	}
	return false
}
