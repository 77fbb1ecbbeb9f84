package columns

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/text"
)

// expected compares the headings of the sheet with those that the rulebook was made
// for. What the rules themselves have dropped, renamed or added before does not
// count. It is an error if one is missing; what is new or has moved is noted.
func (b *builder) expected(targets []string) error {
	if len(b.rules.Expect) == 0 {
		return nil
	}
	own := b.all.Headings[:b.own]
	var missing, fresh, renamed []string
	for _, h := range b.rules.Expect {
		if !has(own, h) && !b.taken(h) {
			missing = append(missing, h)
		}
	}
	for _, h := range own {
		if h != "" && !has(b.rules.Expect, h) && !b.made(h, targets) {
			fresh = append(fresh, h)
		}
	}
	rest := slices.Clone(fresh)
	missing = slices.DeleteFunc(missing, func(h string) bool {
		to := likely(h, rest)
		if to == "" {
			return false
		}
		renamed = append(renamed, fmt.Sprintf("%q is now perhaps %q", h, to))
		rest = slices.DeleteFunc(rest, func(r string) bool { return r == to })
		return true
	})
	var differ []string
	say := func(what string, names []string) {
		if len(names) > 0 {
			differ = append(differ, what+": "+strings.Join(names, ", "))
		}
	}
	say("missing", missing)
	say("renamed", renamed)
	say("new", rest)
	say("moved", b.moved(own))
	switch {
	case differ == nil:
	case len(missing)+len(renamed) > 0:
		return fmt.Errorf("%w. %s. If that is right, mend the names in the rulebook, and the list expect in [columns]; the command "+
			"begin prints a new one", ErrWrong, strings.Join(differ, "; "))
	default:
		b.plan.Notes = append(b.plan.Notes, "the columns are not quite those that the rulebook expects; "+strings.Join(differ, "; "))
	}
	return nil
}

func has(list []string, name string) bool {
	return slices.ContainsFunc(list, func(h string) bool { return Same(h, name) })
}

// taken reports whether a column is missing because the rules have dropped or
// renamed it.
func (b *builder) taken(name string) bool {
	names := func(list []string) bool {
		return slices.ContainsFunc(list, func(n string) bool {
			f, ok := catalogue.ParseField(n)
			return Same(n, name) || ok && heading.Field(name) == f
		})
	}
	if names(b.rules.Drop) || len(b.rules.Keep) > 0 && !names(b.rules.Keep) {
		return true
	}
	for from, to := range b.rules.Rename {
		f, ok := catalogue.ParseField(from)
		if (Same(from, name) || ok && heading.Field(name) == f) && has(b.all.Headings[:b.own], to) {
			return true
		}
	}
	return false
}

// made reports whether a column is there because the rules have added it or given
// it its name.
func (b *builder) made(name string, targets []string) bool {
	for _, to := range b.rules.Rename {
		if Same(to, name) {
			return true
		}
	}
	var into []string
	for to := range b.rules.Add {
		into = append(into, to)
	}
	for to := range b.rules.Copy {
		into = append(into, to)
	}
	for i := range b.rules.Fill {
		into = append(into, b.rules.Fill[i].Into)
	}
	for i := range b.rules.Split {
		into = append(into, b.rules.Split[i].Into...)
	}
	for i := range b.rules.Join {
		into = append(into, b.rules.Join[i].Into)
	}
	return has(append(into, targets...), name)
}

// likely returns the new heading that a missing one has become: one that means the
// same field, or is spelt much like it.
func likely(missing string, fresh []string) string {
	if f := heading.Field(missing); f != catalogue.Unknown {
		for _, h := range fresh {
			if heading.Field(h) == f {
				return h
			}
		}
	}
	return text.Nearest(missing, fresh)
}

// moved returns the columns that stand in another order, as few as explain it.
func (b *builder) moved(own []string) (names []string) {
	if len(b.rules.Order) > 0 {
		return nil // our own output is in another order
	}
	var places []int
	var there []string
	for _, h := range own {
		at := slices.IndexFunc(b.rules.Expect, func(e string) bool { return Same(e, h) })
		if at >= 0 {
			places, there = append(places, at), append(there, h)
		}
	}
	stay := rising(places)
	for i, h := range there {
		if !stay[i] {
			names = append(names, fmt.Sprintf("%q", h))
		}
	}
	return names
}

// rising marks a longest rising subsequence.
func rising(list []int) []bool {
	length, before := make([]int, len(list)), make([]int, len(list))
	best := -1
	for i := range list {
		length[i], before[i] = 1, -1
		for j := range i {
			if list[j] < list[i] && length[j]+1 > length[i] {
				length[i], before[i] = length[j]+1, j
			}
		}
		if best < 0 || length[i] > length[best] {
			best = i
		}
	}
	marks := make([]bool, len(list))
	for i := best; i >= 0; i = before[i] {
		marks[i] = true
	}
	return marks
}
