package template

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"zetanum/core/lazy"
	"zetanum/core/quantity"
	"zetanum/core/workbook"
)

// columns finds out what the form says of its columns.
func (t *Template) columns(s *source, g *grid) {
	wide := 0
	for _, r := range []int{t.Headings, t.Machine} {
		if r > 0 {
			for col := range g.rows[r-1] {
				if g.cell(col+1, r) != "" {
					wide = max(wide, col+1)
				}
			}
		}
	}
	t.Columns = make([]Column, wide)
	group := make([]string, len(t.Groups))
	for n := range t.Columns {
		c, col := &t.Columns[n], n+1
		c.Heading = rawCell(g, col, t.Headings)
		c.Machine = g.cell(col, t.Machine)
		for i, r := range t.Groups {
			if name := g.cell(col, r); name != "" {
				group[i] = name
			}
			c.Group = strings.TrimSpace(c.Group + " " + group[i])
		}
		var rules []string
		for _, r := range t.Rules {
			if rule := g.cell(col, r); rule != "" {
				rules = append(rules, rule)
			}
		}
		c.Rule = strings.Join(rules, "; ")
		c.Hidden = slices.ContainsFunc(g.unseen, func(r workbook.Range) bool { return col >= r.From && col <= r.To })
	}
	t.needs(s, g)
	t.guides(s, g)
	for n := range t.Columns {
		t.Columns[n].byRule()
	}
	marked := slices.ContainsFunc(t.Columns, func(c Column) bool { return c.NeedOf != "" })
	blank := slices.ContainsFunc(g.demands, func(d workbook.Demand) bool { return d.Blank })
	for _, d := range g.demands {
		for _, a := range d.Areas {
			if a.Row > t.First || a.ToRow < t.First {
				continue
			}
			for col := a.Col; col <= min(a.ToCol, wide); col++ {
				if t.ask(s, g, col, &d); !marked && blank && !d.Blank { // the form says it in no other way
					t.Columns[col-1].Need, t.Columns[col-1].NeedOf = Required, place(col, a.Row)
				}
			}
		}
	}
}

// guides reads sheets that explain the columns: a heading in the first cell, and what is said of it behind. It counts where no row of rules
// says anything.
func (t *Template) guides(s *source, own *grid) {
	for _, g := range s.grids {
		if g == own {
			continue
		}
		for _, row := range g.rows {
			if filled(row) < 2 || filled(row) > 6 {
				continue
			}
			for n := range t.Columns {
				c := &t.Columns[n]
				if first := plain(row[0]); c.Rule == "" && first != "" && (first == plain(c.Name()) || first == plain(c.Machine)) {
					c.Rule = strings.TrimSpace(strings.Join(row[1:], "; "))
				}
			}
		}
	}
}

// rawCell returns a cell as it is.
func rawCell(g *grid, col, row int) string {
	if row < 1 || row > len(g.rows) || col > len(g.rows[row-1]) {
		return ""
	}
	return g.rows[row-1][col-1]
}

// place names a cell: D4.
func place(col, row int) string { return workbook.ColumnName(col-1) + strconv.Itoa(row) }

// needs finds out which columns must be filled: a row says it in words, or a star or a word in the headings does, or their colour.
func (t *Template) needs(s *source, g *grid) {
	t.legend(s, g)
	for n := range t.Columns {
		c, col := &t.Columns[n], n+1
		if t.Demands > 0 {
			if need, ok := needOf(g.cell(col, t.Demands)); ok {
				c.Need, c.NeedOf = need, place(col, t.Demands)
				continue
			}
		}
		heading := strings.TrimSpace(c.Heading)
		switch {
		case strings.HasPrefix(heading, "*"), strings.HasSuffix(heading, "*"):
			c.Need, c.NeedOf = Required, place(col, t.Headings)
			continue
		}
		if need, ok := inBrackets(heading); ok {
			c.Need, c.NeedOf = need, place(col, t.Headings)
			continue
		}
		if len(t.Legend) == 0 {
			continue
		}
		if need, ok := t.Legend[t.colourOf(g, col)]; ok {
			c.Need, c.NeedOf = need, place(col, t.Headings)
		} else if !slices.Contains(needsIn(t.Legend), Required) { // the legend says only which may stay empty
			c.Need, c.NeedOf = Required, place(col, t.Headings)
		}
	}
}

func needsIn(legend map[string]Need) (list []Need) {
	for _, need := range legend {
		list = append(list, need)
	}
	return list
}

// inBrackets returns the need that a heading names behind its words: "Title (required)".
func inBrackets(heading string) (Need, bool) {
	for _, pair := range [...]string{"()", "[]"} {
		if open := strings.LastIndexByte(heading, pair[0]); open > 0 && strings.HasSuffix(heading, pair[1:]) {
			if need, ok := needOf(heading[open+1 : len(heading)-1]); ok {
				return need, true
			}
		}
	}
	for _, sign := range []string{" - ", " – ", ": ", "\n"} {
		if at := strings.LastIndex(heading, sign); at > 0 {
			if need, ok := needOf(heading[at+len(sign):]); ok {
				return need, true
			}
		}
	}
	return Optional, false
}

// legend reads what colours say: a coloured cell above the headings or on a sheet that explains the form, with the words in it or beside it.
func (t *Template) legend(s *source, own *grid) {
	t.Legend = make(map[string]Need)
	for _, g := range slices.Concat([]*grid{own}, s.grids) { // what stands above the headings counts first
		places := slices.SortedFunc(maps.Keys(g.fills), func(a, b workbook.Place) int { return cmp.Or(a.Row-b.Row, a.Col-b.Col) })
		for _, at := range places {
			colour := g.fills[at]
			if _, said := t.Legend[colour]; said {
				continue
			}
			if g == own && (at.Row >= t.Headings || slices.Contains(t.Groups, at.Row)) {
				continue
			}
			for _, text := range []string{g.cell(at.Col, at.Row), g.cell(at.Col+1, at.Row), g.cell(at.Col-1, at.Row)} {
				if text == "" {
					continue
				}
				if need, ok := needIn(text); ok {
					t.Legend[colour] = need
				}
				break
			}
		}
		if len(t.Legend) > 0 {
			break
		}
	}
	maps.DeleteFunc(t.Legend, func(colour string, _ Need) bool { return !t.coloured(own, colour) })
}

// coloured reports whether a heading has a colour.
func (t *Template) coloured(g *grid, colour string) bool {
	for n := range t.Columns {
		if t.colourOf(g, n+1) == colour {
			return true
		}
	}
	return false
}

// colourOf returns the colour of the heading of a column.
func (t *Template) colourOf(g *grid, col int) string {
	colour := g.fills[workbook.Place{Col: col, Row: t.Headings}]
	if colour == "" && t.Machine > 0 {
		colour = g.fills[workbook.Place{Col: col, Row: t.Machine}]
	}
	return colour
}

// needIn returns the need of which a text speaks.
func needIn(text string) (Need, bool) {
	switch {
	case says(text, "optional"):
		return Optional, true
	case says(text, "recommended"):
		return Recommended, true
	case says(text, "conditional"):
		return Conditional, true
	case says(text, "required"):
		return Required, true
	}
	return Optional, false
}

var (
	numberIn = lazy.New(`[0-9][0-9.,' ]*[0-9]|[0-9]`)
	spanIn   = lazy.Of(func() string { return `(-?[0-9][0-9.,]*)\s*(?:` + anyOf("to") + `|-|–|…|\.\.)\s*([0-9][0-9.,]*)` })
)

// byRule reads what is said of a column in words.
func (c *Column) byRule() {
	rule := strings.ToLower(c.Rule)
	if rule == "" {
		return
	}
	kind, length := typeOf(c.Rule)
	if c.Type = kind; kind == "text" {
		c.MostLength = length
	}
	if says(c.Rule, "characters") {
		if _, behind, ok := around(rule, "most"); ok {
			if n, err := strconv.Atoi(numberIn.FindString(behind)); err == nil {
				c.MostLength = n
			}
		}
	}
	c.Whole, c.Date = says(c.Rule, "whole") || kind == "whole", dateForm.MatchString(c.Rule) || kind == "date"
	if m := spanIn.FindStringSubmatch(rule); m != nil && c.MostLength == 0 && !c.Date {
		c.Least, c.Most = number(m[1], c.Rule), number(m[2], c.Rule)
	}
	c.listed()
}

// number returns a number of a rule with a decimal point.
func number(text, rule string) string {
	text = strings.TrimRight(text, ".,")
	if says(rule, "comma") || strings.Count(text, ",") == 1 && strings.Count(text, ".") == 0 && !strings.HasSuffix(text, "000") {
		return strings.ReplaceAll(text, ",", ".")
	}
	return strings.ReplaceAll(text, ",", "")
}

// listed reads a list that a rule names: "One of: Plates | Bowls", "Always: new".
func (c *Column) listed() {
	if head, rest, ok := strings.Cut(c.Rule, ":"); ok {
		switch {
		case is(head, "always"):
			c.Always = strings.TrimSpace(rest)
		case says(head, "list"):
			for _, sign := range []string{"|", ";", "\n", " / ", ","} {
				if parts := strings.Split(rest, sign); len(parts) > 1 {
					for _, p := range parts {
						if p = strings.TrimSpace(p); p != "" {
							c.List = append(c.List, p)
						}
					}
					return
				}
			}
		}
	}
}

// ask takes in what a workbook asks of a column.
func (t *Template) ask(s *source, g *grid, col int, d *workbook.Demand) {
	c := &t.Columns[col-1]
	switch d.Kind {
	case "list":
		t.choose(s, g, col, d.First)
	case "textLength":
		if n, err := strconv.Atoi(d.First); err == nil {
			switch d.Op {
			case "lessThanOrEqual", "equal":
				c.MostLength = n
			case "lessThan":
				c.MostLength = n - 1
			case "between":
				if most, err := strconv.Atoi(d.Second); err == nil {
					c.MostLength = most
				}
			}
		}
	case "whole", "decimal", "date", "time":
		c.Whole, c.Date = d.Kind == "whole", d.Kind == "date"
		least, most := "", ""
		switch d.Op {
		case "between":
			least, most = d.First, d.Second
		case "greaterThanOrEqual", "greaterThan":
			least = d.First
		case "lessThanOrEqual", "lessThan":
			most = d.First
		case "equal":
			least, most = d.First, d.First
		}
		for _, of := range []struct {
			text string
			into *string
		}{{least, &c.Least}, {most, &c.Most}} {
			if n, err := quantity.Parse(of.text); err == nil {
				if *of.into = strings.TrimPrefix(of.text, "+"); n.Scientific() {
					*of.into = n.Plain()
				}
				if f, err := strconv.ParseFloat(*of.into, 64); err == nil && len(*of.into) > 15 { // as programs store it: 0.050000000000000003
					*of.into = strconv.FormatFloat(f, 'f', -1, 64)
				}
			}
		}
	}
}

// choose reads a list by its formula.
func (t *Template) choose(s *source, g *grid, col int, formula string) {
	c := &t.Columns[col-1]
	formula = strings.TrimPrefix(strings.TrimSpace(formula), "=")
	if list, ok := s.values(g, formula); ok {
		c.List, c.ListOf = list, formula
		return
	}
	m := indirect.FindStringSubmatch(formula)
	if m == nil {
		return
	}
	on, ok := workbook.ParseArea(m[1])
	if !ok || on.Col > len(t.Columns) || on.Col == col {
		return
	}
	c.Depends, c.ListOf, c.ListBy, c.List = on.Col, formula, make(map[string][]string), nil
	old, with := unquote(m[2]), unquote(m[3])
	for _, parent := range t.Columns[on.Col-1].List {
		name := parent
		if m[2] != "" {
			name = strings.ReplaceAll(name, old, with)
		}
		list, _ := s.values(g, name)
		c.ListBy[parent] = list
		for _, v := range list {
			if !slices.Contains(c.List, v) {
				c.List = append(c.List, v)
			}
		}
	}
}

// indirect fits a list that depends on another cell: INDIRECT(SUBSTITUTE(C4," ","_")).
var indirect = lazy.New(`(?i)^INDIRECT\((?:SUBSTITUTE\()?\$?([A-Z]{1,3}\$?[0-9]+)(?:,("[^"]*"),("[^"]*")\))?\)$`)

func unquote(s string) string {
	return strings.ReplaceAll(strings.TrimSuffix(strings.TrimPrefix(s, `"`), `"`), `""`, `"`)
}

// values returns the values for which a formula stands: a text with commas, an area, or a name; ok is false if it is something else.
func (s *source) values(g *grid, formula string) (list []string, ok bool) {
	add := func(v string) {
		if v = strings.TrimSpace(v); v != "" && !slices.Contains(list, v) {
			list = append(list, v)
		}
	}
	if strings.HasPrefix(formula, `"`) && strings.HasSuffix(formula, `"`) && len(formula) > 1 {
		sign := ","
		if !strings.Contains(formula, ",") {
			sign = ";"
		}
		for v := range strings.SplitSeq(unquote(formula), sign) {
			add(v)
		}
		return list, true
	}
	for range 4 {
		of, known := s.names[strings.ToLower(formula)]
		if !known {
			break
		}
		formula = strings.TrimPrefix(of, "=")
	}
	if name, ref, other := cutSheet(formula); other {
		formula = ref
		at := slices.IndexFunc(s.grids, func(one *grid) bool { return strings.EqualFold(one.name, name) })
		if at < 0 {
			return nil, false
		}
		g = s.grids[at]
	}
	a, ok := workbook.ParseArea(formula)
	if !ok {
		return nil, false
	}
	for row := a.Row; row <= min(a.ToRow, len(g.rows)); row++ {
		for col := a.Col; col <= min(a.ToCol, a.Col+mostAcross); col++ {
			add(g.cell(col, row))
		}
	}
	return list, true
}

// mostAcross is how many columns of an area are read.
const mostAcross = 256

// cutSheet cuts a reference to another sheet: 'Valid values'!$A$2.
func cutSheet(formula string) (sheet, ref string, ok bool) {
	at := strings.LastIndexByte(formula, '!')
	if at < 0 {
		return "", formula, false
	}
	return strings.ReplaceAll(strings.Trim(formula[:at], "'"), "''", "'"), formula[at+1:], true
}

// Name returns the heading without its star, and without brackets that say whether it must be filled.
func (c *Column) Name() string {
	name := strings.TrimFunc(c.Heading, func(r rune) bool { return r == '*' || unicode.IsSpace(r) })
	if _, ok := inBrackets(name); ok {
		name = strings.TrimSpace(name[:strings.LastIndexAny(name, "([-–:\n")])
	}
	return name
}
