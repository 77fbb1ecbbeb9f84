package redo

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/pattern"
	"zetanum/core/present"
	"zetanum/core/quantity"
	"zetanum/core/text"
)

// pairOf learns how a column of the one file and one of the other are written.
func (l *learner) pairOf(from, col int) *present.Pair {
	side := func(t *Table, n int) present.Side {
		s := present.Side{Columns: &catalogue.Columns{Headings: t.Headings, Fields: t.Fields}}
		for i, r := range l.rows {
			if i == 300 {
				break
			}
			s.Sample = append(s.Sample, t.Rows[r[n]])
		}
		return s
	}
	p := present.NewPair([2]present.Side{side(l.after, 1), side(l.before, 0)}, [2]int{col, from}, 0)
	return &p
}

// sameAs returns what says whether cells of the two files say the same, in whatever way.
func sameAs(p *present.Pair) func(stands, would string) bool {
	return func(stands, would string) bool {
		if a, b := p.Norm(stands, present.Ours), p.Norm(would, present.Shops); a == b {
			return true
		}
		return tidy(stands) == tidy(would)
	}
}

// form returns how the numbers of a column are written.
func (l *learner) form(t *Table, side, col int) quantity.Form {
	var marks quantity.Marks
	for _, r := range l.rows {
		marks.Learn(t.cell(r[side], col))
	}
	return marks.Form()
}

// factors explains amounts as those of another column times something.
func (l *learner) factors(col int) (list []explanation) {
	number := func(cell string, form quantity.Form) float64 {
		if read := quantity.ReadPrice(cell, form); read.Is == quantity.Value {
			f, _ := strconv.ParseFloat(read.Number.Plain(), 64)
			return f
		}
		return 0
	}
	theirs := l.form(l.after, 1, col)
	ends := make(map[string]int)
	amounts, amount := 0, make([]float64, len(l.rows))
	for i, r := range l.rows {
		cell := l.after.cell(r[1], col)
		if amount[i] = number(cell, theirs); amount[i] > 0 {
			amounts++
			read := quantity.ReadPrice(cell, theirs).Number.Plain()
			if _, decimals, _ := strings.Cut(read, "."); len(decimals) <= 2 {
				ends[(decimals + "00")[:2]]++
			}
		}
	}
	if amounts < leastPaired || 100*amounts < made*l.filled(col) {
		return nil
	}
	end := ""
	for e, n := range ends {
		if 100*n >= made*amounts && e != "00" {
			end = "0." + e
		}
	}
	for from, heading := range l.before.Headings {
		ours := l.form(l.before, 0, from)
		var ratios []float64
		for i, r := range l.rows {
			if a := number(l.before.cell(r[0], from), ours); a > 0 && amount[i] > 0 {
				ratios = append(ratios, amount[i]/a)
			}
		}
		if len(ratios) < leastPaired {
			continue
		}
		slices.Sort(ratios)
		middle := ratios[len(ratios)/2]
		if middle <= 0 || math.Abs(middle-1) < 0.0005 && end == "" {
			continue
		}
		for _, decimals := range []int{1, 2, 3} {
			times := strings.TrimRight(strings.TrimRight(strconv.FormatFloat(middle, 'f', decimals, 64), "0"), ".")
			if times == "" || times == "0" {
				continue
			}
			rule := &quantity.PriceRule{From: heading, Times: times}
			if end != "" {
				rule.EndIn = end
			}
			pricing := quantity.NewPricing(&quantity.NumberRule{}, rule)
			list = append(list, explanation{Column: Column{Kind: Factor, From: heading, Times: times, EndIn: end}, cost: 3 + decimals, says: func(row int) string {
				after, is := pricing.Of(l.before.cell(row, from), ours)
				if is != quantity.Value {
					return ""
				}
				return after
			}, same: func(stands, would string) bool {
				return math.Abs(number(stands, theirs)-number(would, quantity.Form{Decimal: '.'})) < 0.0001
			}})
		}
	}
	return list
}

func (l *learner) filled(col int) (n int) {
	for _, r := range l.rows {
		if l.after.cell(r[1], col) != "" {
			n++
		}
	}
	return n
}

const (
	mostTried    = 40 // rows of which patterns are made
	mostPatterns = 12 // of which it is tried how often they are true
)

// A view is one way in which a cell stands in a text.
type view struct {
	name string
	text string
}

// patterns explains texts as several cells put together.
func (l *learner) patterns(col int) (list []explanation) {
	times := make(map[string]int)
	var order []string
	for i, r := range l.rows {
		if i == mostTried {
			break
		}
		text := l.after.cell(r[1], col)
		if text == "" || strings.ContainsAny(text, "{}[]") || utf8.RuneCountInString(text) > 2000 {
			continue
		}
		if p := l.patternOf(text, r[0]); p != "" {
			if times[p]++; times[p] == 1 {
				order = append(order, p)
			}
		}
	}
	slices.SortStableFunc(order, func(a, b string) int { return times[b] - times[a] })
	for _, p := range order[:min(len(order), mostPatterns)] {
		parsed, err := pattern.Parse(p)
		if err != nil {
			continue
		}
		if _, missing := parsed.Bind(func(name string) int { return slices.Index(l.before.Headings, name) }, func(int) bool { return false }); len(missing) > 0 {
			continue
		}
		row := new(catalogue.Row)
		list = append(list, explanation{Column: Column{Kind: Pattern, Value: p}, cost: 8 + strings.Count(p, "{"), says: func(n int) string {
			row.Cells = l.before.Rows[n]
			text, missing := parsed.Text(row)
			if missing != "" {
				return ""
			}
			return strings.TrimSpace(text)
		}})
	}
	return list
}

// patternOf writes a text with the cells of a row in it as a pattern, "" if none is in it, or nothing else.
func (l *learner) patternOf(text string, row int) string {
	views := l.views(row)
	var b strings.Builder
	cells, literal := 0, false
	for at := 0; at < len(text); {
		longest := view{}
		for _, v := range views {
			if len(v.text) > len(longest.text) && strings.HasPrefix(text[at:], v.text) && edges(text, at, at+len(v.text)) {
				longest = v
			}
		}
		if longest.text != "" {
			b.WriteString("{" + longest.name + "}")
			cells++
			at += len(longest.text)
			continue
		}
		_, size := utf8.DecodeRuneInString(text[at:])
		b.WriteString(text[at : at+size])
		literal = true
		at += size
	}
	if cells == 0 || cells == 1 && !literal && !strings.Contains(b.String(), " slug}") && !strings.Contains(b.String(), " upper}") && !strings.Contains(b.String(), " lower}") {
		return ""
	}
	return b.String()
}

// views returns the cells of a row as they may stand in a text, with what a pattern calls them.
func (l *learner) views(row int) (list []view) {
	for col, heading := range l.before.Headings {
		cell := l.before.cell(row, col)
		if utf8.RuneCountInString(cell) < 2 || strings.TrimSpace(heading) == "" || slices.Index(l.before.Headings, heading) != col {
			continue
		}
		name := heading
		if strings.ContainsFunc(heading, func(r rune) bool { return !unicode.IsLetter(r) }) || heading != strings.ToLower(heading) {
			if strings.Contains(heading, `"`) {
				continue
			}
			name = fmt.Sprintf("%q", heading)
		}
		list = append(list, view{name, cell})
		for word, as := range map[string]string{"slug": text.Slug(cell), "upper": strings.ToUpper(cell), "lower": strings.ToLower(cell)} {
			if as != cell && len(as) > 1 {
				list = append(list, view{name + " " + word, as})
			}
		}
	}
	slices.SortFunc(list, func(a, b view) int { return strings.Compare(a.name, b.name) })
	return list
}

// edges reports whether a stretch of a text is whole words, or stands beside other signs.
func edges(text string, from, to int) bool {
	isWord := func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
	before, _ := utf8.DecodeLastRuneInString(text[:from])
	first, _ := utf8.DecodeRuneInString(text[from:])
	last, _ := utf8.DecodeLastRuneInString(text[:to])
	after, _ := utf8.DecodeRuneInString(text[to:])
	return (from == 0 || !isWord(before) || !isWord(first)) && (to == len(text) || !isWord(after) || !isWord(last))
}
