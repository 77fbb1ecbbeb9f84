package tags

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/lists"
	"zetanum/core/text"
	"zetanum/core/title"
)

// An example is a row of the test data.
type example struct {
	id, cell, out, alternatives, group, kind, compare string
	other                                             map[string]any
	options                                           struct {
		Write, Case, Language, NotAllowed, Order, Mode, Contains, Join string
		ReplaceWith                                                    string `json:"replace_with"`
		CategoryLevels                                                 bool   `json:"category_levels"`
		Alias                                                          map[string]string
		OneOf                                                          []string `json:"one_of"`
		Forbidden, Always                                              []string
		Attributes                                                     any
		Most                                                           int
		From                                                           []struct {
			Where map[string]map[string]any
			Tag   string
		}
	}
}

func examples(t testing.TB) (list []example) {
	content, err := os.ReadFile("testdata/tags.tsv")
	require.NoError(t, err)
	undo := strings.NewReplacer(`\t`, "\t", `\n`, "\n", `\\`, `\`)
	for n, line := range strings.Split(strings.TrimSuffix(string(content), "\n"), "\n") {
		if n == 0 {
			continue
		}
		c := strings.Split(line, "\t")
		for i := range c {
			c[i] = undo.Replace(c[i])
		}
		e := example{id: c[0], cell: c[1], out: c[4], alternatives: c[5], group: c[6], kind: c[7], compare: c[8]}
		require.NoError(t, json.Unmarshal([]byte(c[2]), &e.other), c[2])
		require.NoError(t, json.Unmarshal([]byte(c[3]), &e.options), c[3])
		list = append(list, e)
	}
	return list
}

// rules returns the rules that an example states.
func (e *example) rules() *Rules {
	o := &e.options
	r := &Rules{Between: o.Write, Case: title.Style(o.Case), Language: o.Language, Aliases: o.Alias, Forbidden: o.Forbidden, Always: o.Always,
		Order: o.Order, Most: o.Most, Mode: o.Mode, Inside: o.Contains, InsideAs: o.ReplaceWith, Pair: o.Join}
	if o.OneOf != nil {
		r.Unlisted = Drop
	}
	return r
}

// added returns the tags that an example gets.
func (e *example) added() (add []string) {
	cell := func(field string) string {
		if v, ok := e.other[field]; ok {
			return fmt.Sprint(v)
		}
		return ""
	}
	for _, pattern := range e.options.Always {
		if name, ok := strings.CutPrefix(pattern, "{"); ok {
			pattern = cell(strings.TrimSuffix(name, "}"))
		}
		add = append(add, pattern)
	}
	if e.options.CategoryLevels {
		add = append(add, text.List(">").Quoted(cell("category"))...)
	}
	add = append(add, (&Rules{Attributes: e.attributes(), Pair: e.options.Join}).Pairs(func(field string) []string { return []string{cell(field)} })...)
	for _, from := range e.options.From {
		holds := true
		for field, is := range from.Where {
			if word, ok := is["contains"]; ok {
				holds = holds && slices.Contains(strings.FieldsFunc(strings.ToLower(cell(field)), func(r rune) bool { return r == ' ' || r == ',' }), fmt.Sprint(word))
			}
			if below, ok := is["below"]; ok {
				price, _ := e.other[field].(float64)
				holds = holds && price < below.(float64)
			}
		}
		if holds {
			add = append(add, from.Tag)
		}
	}
	return add
}

// attributes returns the attributes of which tags are made.
func (e *example) attributes() map[string]string {
	attributes := make(map[string]string)
	switch a := e.options.Attributes.(type) {
	case map[string]any:
		for field, name := range a {
			attributes[field] = fmt.Sprint(name)
		}
	case []any:
		for _, name := range a {
			attributes[strings.ToLower(fmt.Sprint(name))] = fmt.Sprint(name)
		}
	}
	return attributes
}

// sameTags reports whether two cells have the same tags in any order.
func sameTags(a, b, write string) bool {
	split := func(s string) []string {
		list := text.List(strings.TrimSpace(write)).Quoted(s)
		slices.Sort(list)
		return list
	}
	return slices.Equal(split(a), split(b))
}

// TestSet: cells of tags come out as they should, and a second time the same.
func TestSet(t *testing.T) {
	all := examples(t)
	groups := make(map[string][]example)
	var order []string
	for _, e := range all {
		if groups[e.group] == nil {
			order = append(order, e.group)
		}
		groups[e.group] = append(groups[e.group], e)
	}
	right, kinds := 0, make(map[string][2]int)
	for _, name := range order {
		group := groups[name]
		var marks lists.Marks
		for i := range group {
			marks.Add(&lists.OfTags, group[i].cell)
		}
		rules := group[0].rules()
		rules.Attributes = group[0].attributes()
		require.Empty(t, rules.Check(), name)
		form := marks.Judge(&lists.OfTags)
		var known *lists.Known
		if list := group[0].options.OneOf; list != nil {
			known = lists.NewKnown(list)
		}
		count := make(map[string]int)
		plain, err := new(Rules).NewTidier(form, nil, nil, nil)
		require.NoError(t, err)
		for i := range group {
			plain.Each(group[i].cell, func(tag string) { count[Key(tag)]++ })
		}
		tidier, err := rules.NewTidier(form, nil, known, count)
		require.NoError(t, err)
		again := tidier.Again()
		for i := range group {
			e := &group[i]
			present, _ := e.other["present"].(string)
			inShop := text.List(",").Quoted(present)
			got, with := tidier.Write(tidier.Tidy(e.cell, inShop, e.added()).Tags)
			if with != "" {
				got = "HELD"
			}
			k := kinds[e.kind]
			k[1]++
			if got == e.out || slices.Contains(strings.Split(e.alternatives, "␟"), got) && e.alternatives != "" ||
				e.compare == "set" && (sameTags(got, e.out, rules.Between) || sameTags(got, e.alternatives, rules.Between)) {
				right++
				k[0]++
			} else {
				t.Logf("%s %s %q → %q, and not %q", e.id, e.kind, e.cell, got, e.out)
			}
			kinds[e.kind] = k
			if rules.Mode != Remove && with == "" {
				twice, _ := again.Write(again.Tidy(got, inShop, e.added()).Tags)
				assert.Equal(t, got, twice, "%s again", e.id)
			}
		}
	}
	t.Logf("%d of %d cells of tags are right: %v", right, len(all), kinds)
	assert.GreaterOrEqual(t, 100*right, 97*len(all))
}

// FuzzStays: a cell of which a look says that it is as the rules have it is left as it is, and what comes of any stays.
func FuzzStays(f *testing.F) {
	for _, e := range examples(f) {
		f.Add(e.cell, uint8(len(e.cell)))
	}
	for _, cell := range []string{"a, b", "a,b", "b, a", "a, A", "a, ", ", a", "a|b", "R&D, B", "0,5 l, a", "a/b, c", "#a", "a  b", "gift"} {
		f.Add(cell, uint8(0))
	}
	f.Fuzz(func(t *testing.T, cell string, orders uint8) {
		r := Rules{Between: []string{", ", ",", "|", "; "}[orders&3], Inside: []string{Quote, Replace}[orders>>2&1]}
		if orders&8 > 0 {
			r.Order, r.Most = Alphabetical, 3
		}
		if orders&16 > 0 {
			r.Case = "lower"
		}
		if orders&32 > 0 {
			r.Forbidden, r.Aliases = []string{"gift"}, map[string]string{"a": "b"}
		}
		tidier, err := r.NewTidier(lists.Form{At: []text.List{",", "|", ";", ""}[orders>>6&3]}, nil, nil, nil)
		require.NoError(t, err)
		after, _ := tidier.Write(tidier.Tidy(cell, nil, nil).Tags)
		if tidier.Stays(cell, nil) {
			assert.Equal(t, cell, after)
		}
		again := tidier.Again()
		twice, _ := again.Write(again.Tidy(after, nil, nil).Tags)
		if again.Stays(after, nil) {
			assert.Equal(t, after, twice)
		}
	})
}
