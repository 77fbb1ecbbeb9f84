package reference

import (
	"maps"
	"regexp"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A Studied column is what an export of the shop shows of how one of its fields is
// written.
type Studied struct {
	Heading string
	Field   catalogue.Field
	Filled  int
	Values  []string // the different ones, the most frequent first; nil if there are too many for a list
	Style   string   // in words: "with a decimal point, as in 12.95"; "" if nothing is to be said
}

// mostValues is how many different values a column may have to be taken for one
// with a list of them.
const mostValues = 2000

// Study reads a sheet that is known to be good.
func Study(path string, opt sheet.Options) (list []Studied, rows int, err error) {
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, 0, err
	}
	defer table.Close()
	type counts struct {
		filled int
		values map[string]int
	}
	var columns []counts
	err = table.EachProduct(func() {
		rows = 0
		columns = make([]counts, len(table.Columns.Headings))
		for i := range columns {
			columns[i].values = make(map[string]int)
		}
	}, func(r *catalogue.Row) {
		if r.Blank() || slices.Equal(r.Cells, table.Columns.Headings) {
			return
		}
		rows++
		for i := range columns {
			cell := strings.TrimSpace(r.Cell(i))
			if cell == "" {
				continue
			}
			c := &columns[i]
			c.filled++
			if _, known := c.values[cell]; known || len(c.values) <= mostValues {
				c.values[strings.Clone(cell)]++
			}
		}
	})
	if err != nil {
		return nil, 0, err
	}
	for i, c := range columns {
		s := Studied{Heading: table.Columns.Headings[i], Field: table.Columns.Fields[i], Filled: c.filled}
		values := slices.SortedFunc(maps.Keys(c.values), func(a, b string) int {
			if n := c.values[b] - c.values[a]; n != 0 {
				return n
			}
			return strings.Compare(a, b)
		})
		s.Style = style(s.Field, c.values, values)
		// A list is what comes again and again.
		if len(values) <= mostValues && s.Style == "" && len(values)*2 <= c.filled {
			s.Values = values
		}
		list = append(list, s)
	}
	return list, rows, nil
}

// yesNo is how people and programs write yes and no.
var yesNo = [][2]string{{"true", "false"}, {"yes", "no"}, {"y", "n"}, {"1", "0"}, {"on", "off"}, {"ja", "nein"}, {"oui", "non"},
	{"active", "inactive"}, {"published", "unpublished"}}

var (
	dates = []struct {
		form string
		re   *regexp.Regexp
	}{
		{"YYYY-MM-DD", regexp.MustCompile(`^[0-9]{4}-[01][0-9]-[0-3][0-9]`)},
		{"DD.MM.YYYY", regexp.MustCompile(`^[0-3]?[0-9]\.[01]?[0-9]\.[0-9]{4}`)},
		{"DD/MM/YYYY", regexp.MustCompile(`^(1[3-9]|2[0-9]|3[01])/[01]?[0-9]/[0-9]{4}`)},
		{"MM/DD/YYYY", regexp.MustCompile(`^[01]?[0-9]/(1[3-9]|2[0-9]|3[01])/[0-9]{4}`)},
	}
)

// withMark says of values whether they are numbers with a decimal mark, and one or two digits
// behind it.
func withMark(mark rune) func(string) bool {
	return func(v string) bool {
		n, err := quantity.Parse(v)
		return err == nil && n.DecimalMark() == mark && n.GroupMark() == 0 && !n.Scientific() && (n.Decimals() == 1 || n.Decimals() == 2)
	}
}

// style says how the values of a column are written.
func style(f catalogue.Field, counts map[string]int, values []string) string {
	if len(values) == 0 {
		return ""
	}
	if len(values) <= 2 && !f.Kind().Numeric() && f.Kind() != catalogue.LineKind {
		for _, pair := range yesNo {
			fits := func(v string) bool { return strings.EqualFold(v, pair[0]) || strings.EqualFold(v, pair[1]) }
			if !slices.ContainsFunc(values, func(v string) bool { return !fits(v) }) {
				return "yes and no are written " + strings.Join(values, " and ")
			}
		}
	}
	count := func(is func(string) bool) (n int, example string) {
		for _, v := range values {
			if is(v) {
				if n == 0 {
					example = v
				}
				n += counts[v]
			}
		}
		return n, example
	}
	switch f.Kind() {
	case catalogue.NumberKind, catalogue.PriceKind, catalogue.MeasureKind:
		point, one := count(withMark('.'))
		comma, other := count(withMark(','))
		switch {
		case point > 0 && comma == 0:
			return "with a decimal point, as in " + one
		case comma > 0 && point == 0:
			return "with a decimal comma, as in " + other
		case point+comma > 0:
			return "some with a decimal point, as in " + one + ", some with a comma, as in " + other
		}
	case catalogue.ListKind:
		at, _ := text.FindList(text.TagMarks, values...)
		for _, v := range values {
			if _, after, found := strings.Cut(v, string(at)); found && at != "" {
				if strings.HasPrefix(after, " ") {
					at += " "
				}
				return "separated by “" + string(at) + "”, as in " + catalogue.Shorten(v, 40)
			}
		}
	case catalogue.DateKind, catalogue.AnyKind:
		total := 0
		for _, n := range counts {
			total += n
		}
		any := 0
		best, example, most := "", "", 0
		for _, d := range dates {
			n, one := count(d.re.MatchString)
			any += n
			if n > most {
				best, example, most = d.form, one, n
			}
		}
		if most > 0 && any*2 > total {
			return "dates are written " + best + ", as in " + example
		}
	}
	return ""
}
