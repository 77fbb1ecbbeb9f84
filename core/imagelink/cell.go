package imagelink

import (
	"slices"
	"strings"
)

// A Cell is what the links in a cell are, and what becomes of it. It is used for one cell after another.
type Cell struct {
	Links []Link   // in their order
	Keys  []string // of the links so far: those of the row, until Keys is emptied
	Twice []int    // the indices of links that stand before, in this cell or the row

	as      string
	changed bool
	host    host
}

// mostListed is how many links are compared one by one.
const mostListed = 32

// Read reads a cell, with its links as the rules have them.
func (c *Cell) Read(r *Rules, cell string) {
	if c.Links = c.Links[:0]; c.host.picture(cell) {
		c.Links = append(c.Links, Link{As: cell, Out: cell, key: cell[c.host.begin:]})
		r.order(&c.Links[0])
	} else if c.Links = r.Read(c.Links, cell); len(c.Links) > 0 {
		c.host.learn(&c.Links[0])
	}
	c.settle(cell)
}

// Again reads a cell as Read does which has been read before, and of which Unchanged has returned the links.
func (c *Cell) Again(cell string, links []Link) {
	c.Links = append(c.Links[:0], links...)
	c.settle(cell)
}

// Unchanged appends the links of the cell to a list, if rules change nothing in it.
func (c *Cell) Unchanged(links []Link) []Link {
	if c.changed {
		return links
	}
	return append(links, c.Links...)
}

// settle finds links that stand before, and whether the cell is as it should be.
func (c *Cell) settle(cell string) {
	c.as, c.changed, c.Twice = cell, false, c.Twice[:0]
	var many map[string]bool // where looking through the list would take long
	if len(c.Keys)+len(c.Links) > mostListed {
		many = make(map[string]bool, len(c.Keys)+len(c.Links))
		for _, key := range c.Keys {
			many[key] = true
		}
	}
	for n := range c.Links {
		link := &c.Links[n]
		c.changed = c.changed || link.Out != link.As
		key := link.Key()
		before := many[key]
		if many == nil {
			before = slices.Contains(c.Keys, key)
		} else {
			many[key] = true
		}
		if before && (link.Is.IsAddress() || link.Is == FileName) {
			c.Twice = append(c.Twice, n)
			continue
		}
		c.Keys = append(c.Keys, key)
	}
	if n := len(c.Links); n == 1 {
		c.changed = c.Links[0].Out != cell
	} else if n > 1 && !c.changed {
		length := n - 1 // with one mark between each
		for i := range c.Links {
			length += len(c.Links[i].As)
		}
		c.changed = !strings.HasPrefix(cell, c.Links[0].As) || !strings.HasSuffix(cell, c.Links[n-1].As) ||
			length != len(cell) && (strings.Contains(cell, ",,") || strings.Contains(cell, ";;") || strings.Contains(cell, "||")) // places at which none stands
	}
}

// Changed reports whether links should be written otherwise, whether one of them stands there twice or not.
func (c *Cell) Changed() bool { return c.changed }

// Kept returns the links without those that stand before.
func (c *Cell) Kept() (links []Link) {
	twice := c.Twice // which are in order
	for n, link := range c.Links {
		if len(twice) > 0 && twice[0] == n {
			twice = twice[1:]
			continue
		}
		links = append(links, link)
	}
	return links
}

// Written returns the cell as it should be: the same if nothing is to be changed.
func (c *Cell) Written() string {
	if !c.changed && len(c.Twice) == 0 {
		return c.as
	}
	var links []string
	for _, link := range c.Kept() {
		links = append(links, link.Out)
	}
	return strings.Join(links, c.Mark())
}

// Mark returns what stands between the links of the cell, without quotation marks; a comma if nothing does.
func (c *Cell) Mark() string {
	if len(c.Links) < 2 {
		return ","
	}
	_, behind, _ := strings.Cut(c.as, c.Links[0].As)
	between, _, found := strings.Cut(behind, c.Links[1].As)
	mark := strings.Map(func(r rune) rune {
		if strings.ContainsRune(",;| \n\r\t", r) {
			return r
		}
		return -1
	}, between)
	if mark == "" || !found {
		return ","
	}
	return mark
}
