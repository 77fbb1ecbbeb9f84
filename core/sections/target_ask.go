package sections

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/redo"
	"zetanum/core/rulebook"
)

// mostListed is how many values of a list are ways to answer; of a longer one, one has to be typed.
const mostListed = 8

// fillOrder says what fills a column of the template.
func fillOrder(heading, value string) []rulebook.Order {
	return []rulebook.Order{set("target.columns", quoted(heading), value)}
}

// anotherColumn is the way to fill one by a column of the file whose heading is typed.
func (s *Seen) anotherColumn(heading string) Way {
	return Way{Says: "another column of the file", Type: "the heading of the column", With: func(typed string) ([]rulebook.Order, error) {
		for _, col := range s.Columns {
			if columns.Same(col.Heading, typed) {
				return fillOrder(heading, quoted(col.Heading)), nil
			}
		}
		return nil, fmt.Errorf("the file has no column %q", typed)
	}}
}

// sameForAll is the way to answer with what stands in all rows that are asked about, which is typed; taken, where only that is, are the values of a
// list.
func sameForAll(says string, taken []string, orders func(value string) []rulebook.Order) Way {
	return Way{Says: says, Type: "what stands there", With: func(typed string) ([]rulebook.Order, error) {
		switch {
		case typed == "":
			return nil, errors.New("nothing was typed")
		case len(taken) > 0 && !slices.Contains(taken, typed):
			return nil, fmt.Errorf("the template does not take it; it takes %s", catalogue.Shorten(strings.Join(taken, ", "), 300))
		}
		return orders(typed), nil
	}}
}

// always is the order that fills a column of the template with the same in every row.
func always(heading string) func(value string) []rulebook.Order {
	return func(value string) []rulebook.Order {
		return fillOrder(heading, fmt.Sprintf("{ always = %s }", quoted(value)))
	}
}

// askFills asks what fills the columns of the template for which nothing is sure.
func (s *Seen) askFills() (list []Question) {
	for _, p := range s.placements() {
		if p.fit != placeOpen && p.fit != placeLikely && !s.hollow(&p) {
			continue
		}
		c, m := &s.Platform.Columns[p.at], s.Matches[p.at]
		q := Question{Name: "target.columns=" + p.heading, Rows: s.Rows, Says: fmt.Sprintf("%s of the template may stay empty: %s.", shown(p.heading), s.Platform.Says(p.at)), Asks: "Does one of these fill it?", Stay: "it stays empty", Keys: fillOrder(p.heading, ""), Blind: true}
		if p.fit != placeLikely {
			q.Rows++ // before those that may stay empty
			q.Says, q.Asks = fmt.Sprintf("%s of the template must be filled: %s.", shown(p.heading), s.Platform.Says(p.at)), "What fills it?"
		}
		if m.From >= 0 && !s.hollow(&p) {
			offer := &s.Offers[m.From]
			q.Ways = append(q.Ways, Way{Says: fmt.Sprintf("%s, for example %s", offer.Heading, clean(offer.Part(m.Nth))), Orders: fillOrder(p.heading, fillOf(offer.Heading, m))})
		}
		if m.Next >= 0 {
			offer := &s.Offers[m.Next]
			q.Ways = append(q.Ways, Way{Says: fmt.Sprintf("%s, for example %s", offer.Heading, clean(offer.Example())), Orders: fillOrder(p.heading, quoted(offer.Heading))})
		}
		if len(c.List) <= mostListed {
			for _, value := range c.List {
				q.Ways = append(q.Ways, Way{Says: value + " in every row", Orders: always(p.heading)(value)})
			}
		}
		q.Ways = append(q.Ways, s.anotherColumn(p.heading))
		if len(c.List) == 0 || len(c.List) > mostListed {
			q.Ways = append(q.Ways, sameForAll("the same in every row", c.List, always(p.heading)))
		}
		list = append(list, q)
	}
	return list
}

// askUnexplained asks what fills columns of a file that was made by hand, where nothing of this one explains them.
func (s *Seen) askUnexplained() (list []Question) {
	if s.Learned == nil {
		return nil
	}
	for i := range s.Learned.Columns {
		c := &s.Learned.Columns[i]
		if c.Kind != redo.Unknown {
			continue
		}
		q := Question{Name: "target.columns=" + c.Heading, Rows: s.Rows, Blind: true, Says: fmt.Sprintf("Nothing of the file explains what stands under %s in the one that was made by hand, for example %s.", shown(c.Heading), clean(c.Example)),
			Asks: "What fills it?", Stay: "it stays empty", Keys: fillOrder(c.Heading, "")}
		q.Ways = []Way{s.anotherColumn(c.Heading), sameForAll("the same in every row", nil, always(c.Heading))}
		list = append(list, q)
	}
	return list
}

// askWords asks what values are called that the lists of the template do not have.
func (s *Seen) askWords() (list []Question) {
	for _, f := range s.Found {
		if f.Code != catalogue.TargetUnlisted && f.Code != catalogue.TargetLeftEmpty || !f.Open || s.InForm == nil {
			continue
		}
		for n := range s.InForm.Columns {
			c := &s.InForm.Columns[n]
			fills := s.Filling[c.Name()]
			if !columns.Same(c.Heading, f.Column) || len(c.List) == 0 || len(fills) != 1 || fills[0].From == "" || fills[0].Words != nil && fills[0].Words.File != "" {
				continue
			}
			for _, value := range f.Values[:min(len(f.Values), mostWords)] {
				word := func(theirs string) []rulebook.Order {
					return []rulebook.Order{lineOf("target.columns", rulebook.Line{Key: quoted(c.Name()), Value: fillWith(fills[0], value, theirs), Over: true})}
				}
				q := Question{Name: "target.words=" + c.Name() + "=" + value, Rows: f.Cells, Finding: f.Code, Column: f.Column,
					Says: fmt.Sprintf("%s is not in the list that the template has for %s.", shown(value), shown(f.Column)), Asks: "What is it called there?", Stay: "nothing: its products stay held"}
				if f.Code == catalogue.TargetLeftEmpty {
					q.Stay = "it has no such thing: the column stays empty"
				}
				if len(c.List) <= mostListed {
					for _, theirs := range c.List {
						q.Ways = append(q.Ways, Way{Says: theirs, Orders: word(theirs)})
					}
				} else {
					q.Ways = append(q.Ways, oneOfMany(c.List, word))
				}
				list = append(list, q)
			}
			break
		}
	}
	return list
}

// mostWords is how many values are asked about of one column at a time.
const mostWords = 5

// oneOfMany is the way to answer with a value of a long list, which is typed, or a part of it.
func oneOfMany(list []string, orders func(value string) []rulebook.Order) Way {
	return Way{Says: "one of its " + plural(len(list), "value"), Type: "the value of the template, or a part of it", With: func(typed string) ([]rulebook.Order, error) {
		value, err := oneOf(list, typed)
		return orders(value), err
	}}
}

// oneOf returns the value of a list that is meant by what was typed: the same but for case, or the only one in which it stands.
func oneOf(list []string, typed string) (string, error) {
	typed = strings.ToLower(strings.TrimSpace(typed))
	var fit []string
	for _, value := range list {
		switch low := strings.ToLower(value); {
		case low == typed:
			return value, nil
		case typed != "" && strings.Contains(low, typed):
			fit = append(fit, value)
		}
	}
	switch {
	case len(fit) == 1:
		return fit[0], nil
	case len(fit) > 1:
		return "", fmt.Errorf("several values have that: %s", catalogue.Shorten(strings.Join(fit, ", "), 400))
	}
	return "", fmt.Errorf("no value has that; there are %s", catalogue.Shorten(strings.Join(list, ", "), 400))
}
