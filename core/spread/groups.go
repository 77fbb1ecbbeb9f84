package spread

import (
	"cmp"
	"slices"
)

// A Group is the numbers of a column in one category.
type Group struct {
	Category uint64 // its hash; 0 for those without one
	Spread
	Bins []Bin // in the order of their levels
}

// A Bin is how many numbers have a level.
type Bin struct {
	Level Level
	Count int
}

// Groups returns the numbers of a column by category, of so many categories that have most of them, the dearest first.
func (t *Table) Groups(decimals []rune, column, most int) (groups []Group) {
	r := t.all(decimals)
	by := make(map[int32][]Level)
	for i, level := range r.levels[column] {
		if level.Is() {
			by[r.category[i]] = append(by[r.category[i]], level)
		}
	}
	for c, levels := range by {
		g := Group{Spread: spreadOf(slices.Clone(levels), &r.counts)}
		if c >= 0 {
			g.Category = r.hashes[c]
		}
		slices.Sort(levels)
		for _, level := range levels {
			if last := len(g.Bins) - 1; last >= 0 && g.Bins[last].Level == level {
				g.Bins[last].Count++
			} else {
				g.Bins = append(g.Bins, Bin{level, 1})
			}
		}
		groups = append(groups, g)
	}
	slices.SortFunc(groups, func(a, b Group) int { return cmp.Or(b.Count-a.Count, cmp.Compare(a.Category, b.Category)) })
	groups = groups[:min(len(groups), most)]
	slices.SortFunc(groups, func(a, b Group) int {
		return cmp.Or(cmp.Compare(b.Middle, a.Middle), cmp.Compare(a.Category, b.Category))
	})
	return groups
}
