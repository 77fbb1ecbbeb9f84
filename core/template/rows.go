package template

import (
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"zetanum/core/lazy"
	"zetanum/core/workbook"
)

// headRows is how many rows a form has at most above its first product.
const headRows = 40

// filled returns how many cells of a row have something in them.
func filled(row []string) (n int) {
	for _, cell := range row {
		if strings.TrimSpace(cell) != "" {
			n++
		}
	}
	return n
}

// share reports whether something is true of at least so many percent of the filled cells of a row.
func share(row []string, percent int, of func(cell string) bool) bool {
	all, some := 0, 0
	for _, cell := range row {
		if cell = strings.TrimSpace(cell); cell != "" {
			if all++; of(cell) {
				some++
			}
		}
	}
	return all > 0 && 100*some >= percent*all
}

// rows finds out what the rows of a form are.
func (t *Template) rows(g *grid) {
	t.First = g.firstProduct()
	wide := 0
	head := min(headRows, len(g.rows))
	if t.First > 0 {
		head = min(head, t.First-1)
	}
	for _, row := range g.rows[:head] {
		wide = max(wide, filled(row))
	}
	enough := func(row []string, percent int) bool { return 100*filled(row) >= percent*wide && filled(row) > 1 }
	kinds := make([]byte, head+1)
	for r := 1; r <= head; r++ {
		row := g.rows[r-1]
		switch {
		case filled(row) == 0:
		case enough(row, 50) && share(row, 80, saysNeed):
			kinds[r] = 'd'
		case enough(row, 40) && t.Headings > 0 && share(row, 60, isRule):
			kinds[r] = 'r'
		case enough(row, 60) && share(row, 80, technical.MatchString) && share(row, 30, func(c string) bool { return strings.ContainsAny(c, "_.:") }):
			kinds[r] = 'm'
		case enough(row, 60) && t.Headings == 0 && share(row, 80, mayHead):
			kinds[r], t.Headings = 'h', r
		case t.Headings > 0 && t.First == 0:
			head = r - 1 // products begin
		default:
			kinds[r] = 'p'
		}
		if head < r {
			break
		}
	}
	for r := 1; r <= head; r++ {
		switch kinds[r] {
		case 'd':
			t.Demands = r
		case 'r':
			t.Rules = append(t.Rules, r)
		case 'm':
			if t.Headings == 0 || t.Machine > 0 { // it has no others
				t.Headings = r
			} else {
				t.Machine = r
			}
		case 'p':
			if r < t.Headings && g.groups(r) {
				t.Groups = append(t.Groups, r)
			} else {
				t.Preamble = append(t.Preamble, r)
			}
		}
	}
	if t.First == 0 {
		for t.First = max(t.Headings, t.Machine, t.Demands, slices.Max(append(t.Rules, 0))) + 1; t.First <= len(g.rows) && filled(g.rows[t.First-1]) == 0; t.First++ {
		}
	}
	for r := t.First; r > 0 && r <= len(g.rows); r++ {
		if filled(g.rows[r-1]) > 0 {
			t.Samples = append(t.Samples, r)
		}
	}
	t.Export = len(t.Rules)+t.Demands+t.Machine+len(t.Preamble)+len(g.demands) == 0 && len(t.Samples) > 0 && t.Headings == 1
}

// firstProduct returns the row in which nearly all that is asked of cells begins; 0 if nothing is.
func (g *grid) firstProduct() int {
	begins := make(map[int]int)
	for _, d := range g.demands {
		for _, a := range d.Areas {
			if a.ToRow > a.Row {
				begins[a.Row]++
			}
		}
	}
	best := 0
	for row, n := range begins {
		if row > 1 && (n > begins[best] || n == begins[best] && row < best) {
			best = row
		}
	}
	return best
}

// saysNeed reports whether a cell says whether something must be filled.
func saysNeed(cell string) bool {
	_, ok := needOf(cell)
	return ok
}

// needOf returns the need that a cell names.
func needOf(cell string) (Need, bool) {
	for need, kind := range [...]string{"optional", "required", "recommended", "conditional"} {
		if is(cell, kind) {
			return Need(need), true
		}
	}
	return Optional, false
}

// isRule reports whether a cell says how a column is filled.
func isRule(cell string) bool {
	for _, kind := range []string{"most", "characters", "list", "always", "whole", "point", "comma", "parted"} {
		if says(cell, kind) {
			return true
		}
	}
	if kind, _ := typeOf(cell); kind != "" {
		return true
	}
	return len(strings.Fields(cell)) >= 3 || dateForm.MatchString(cell) || len(yesOrNo(cell)) == 2
}

// typeOf returns the type that a cell names, and a length behind it, 0 if none stands there: string(20), decimal.
func typeOf(cell string) (kind string, length int) {
	m := typed.FindStringSubmatch(strings.ToLower(strings.TrimSpace(cell)))
	if m == nil {
		return "", 0
	}
	for _, kind := range []string{"text", "whole", "amount", "date", "answer", "link"} {
		if slices.Contains(lexicon()["type "+kind], m[1]) {
			length, _ = strconv.Atoi(m[2])
			return kind, length
		}
	}
	return "", 0
}

// typed fits the name of a type, with a length.
var typed = lazy.New(`^([\pL/ ]*\pL)\s*(?:[(\[]?\s*([0-9]+)(?:[.,][0-9]+)?\s*[)\]]?)?$`)

// mayHead reports whether a cell may be a heading: short, and no number.
func mayHead(cell string) bool {
	return utf8.RuneCountInString(cell) <= 60 && strings.IndexFunc(cell, func(r rune) bool { return r >= '0' && r <= '9' }) != 0 && !strings.Contains(cell, "://")
}

// groups reports whether a row names groups of columns: some short words, over several columns each.
func (g *grid) groups(r int) bool {
	row := g.rows[r-1]
	wide := 0
	for _, a := range g.merged {
		if a.Row == r && a.ToCol > a.Col && g.cell(a.Col, r) != "" {
			wide++
		}
	}
	if wide == 1 && filled(row) == 1 {
		return false // a title
	}
	if wide >= 2 {
		return true
	}
	legend := false
	for col := range row {
		if g.fills[workbook.Place{Col: col + 1, Row: r}] != "" && (says(row[col], "required") || says(row[col], "optional")) {
			legend = true
		}
	}
	return filled(row) >= 3 && !legend && share(row, 100, mayHead)
}

// IsSample reports whether a cell is what forms write into their samples, such as SAMPLE-1 or “Example: Bowl”, and hardly a product.
func IsSample(cell string) bool {
	cell = strings.TrimSpace(cell)
	before, _, colon := strings.Cut(cell, ":")
	if colon && is(before, "example") {
		return true
	}
	word := strings.TrimRight(cell, "0123456789")
	if word = strings.TrimRight(word, "-_ "); word == "" || strings.ContainsAny(word, " ") {
		return false
	}
	return is(word, "example")
}
