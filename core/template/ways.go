package template

import (
	"regexp"
	"slices"
	"strings"
	"sync"

	"zetanum/core/lazy"
	"zetanum/core/quantity"
)

// dateForm fits a form of dates as people write it down, in several languages: YYYY-MM-DD, TT.MM.JJJJ, JJ/MM/AAAA.
var dateForm = lazy.New(`\b([YJA]{2,4}|[DTJG]{2}|MM)([-./ ])(MM|[DTJG]{2})([-./ ])([YJA]{2,4}|[DTJG]{2})\b`)

// formOf writes such a form with the letters Y, M and D.
func formOf(text string) string {
	m := dateForm.FindStringSubmatch(text)
	if m == nil {
		m = dateForm.FindStringSubmatch(inLetters(text))
	}
	if m == nil || m[2] != m[4] {
		return ""
	}
	part := func(s string) string {
		switch {
		case s == "MM":
			return s
		case len(s) == 4:
			return "YYYY"
		case s == "YY" || s == "AA":
			return "YY"
		}
		return "DD"
	}
	first, last := part(m[1]), part(m[5])
	if m[1] == "JJ" && len(m[5]) == 2 { // 31.12.24 and 24-12-31 are written alike
		return ""
	}
	return first + m[2] + part(m[3]) + m[2] + last
}

// inLetters writes a form of dates that is said in words: year-month-day.
func inLetters(text string) string {
	return dateWords().ReplaceAllStringFunc(strings.ToLower(text), func(form string) string {
		for _, part := range dateParts() {
			form = part.words.ReplaceAllString(form, part.letters)
		}
		return form
	})
}

// A datePart is a part of dates in words, and the letters that stand for it.
type datePart struct {
	words   *regexp.Regexp
	letters string
}

// dateParts are the parts of dates.
var dateParts = sync.OnceValue(func() []datePart {
	return []datePart{{regexp.MustCompile(anyOf("day")), "DD"}, {regexp.MustCompile(anyOf("month")), "MM"}, {regexp.MustCompile(anyOf("year")), "YYYY"}}
})

// dateWords fits a form of dates in words.
var dateWords = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`\b` + anyOf("year") + `([-./ ])` + anyOf("month") + `[-./ ]` + anyOf("day") + `\b|\b` + anyOf("day") + `[-./ ]` + anyOf("month") + `[-./ ]` + anyOf("year") + `\b|\b` +
		anyOf("month") + `[-./ ]` + anyOf("day") + `[-./ ]` + anyOf("year") + `\b`)
})

// yesOrNo returns the two words of a text that say yes and no: "Y or N", "true,false".
func yesOrNo(text string) (pair []string) {
	parts := strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == '/' || r == '|' || r == ';' })
	if len(parts) == 1 {
		if before, after, ok := around(text, "or"); ok {
			parts = []string{before, after}
		}
	}
	if len(parts) != 2 {
		return nil
	}
	yes, no := strings.TrimSpace(parts[0]), strings.TrimSpace(parts[1])
	return answersOf(yes, no)
}

// answersOf returns two words, the yes first, if they say yes and no.
func answersOf(a, b string) []string {
	var seen quantity.YesNo
	seen.Learn(a)
	seen.Learn(b)
	switch says := [2]quantity.Answer{seen.Read(a), seen.Read(b)}; says {
	case [2]quantity.Answer{quantity.Yes, quantity.No}:
		return []string{a, b}
	case [2]quantity.Answer{quantity.No, quantity.Yes}:
		return []string{b, a}
	}
	return nil
}

// ways finds out how the form, or its samples, write yes and no, dates, decimals and several values.
func (t *Template) ways(g *grid) {
	samples := func(n int) (cells []string) {
		for _, r := range t.Samples {
			if cell := g.cell(n+1, r); cell != "" {
				cells = append(cells, cell)
			}
		}
		return cells
	}
	answers := func(pair []string) {
		if len(pair) == 2 && t.Ways.Yes == "" {
			t.Ways.Yes, t.Ways.No = pair[0], pair[1]
		}
	}
	for n := range t.Columns { // what is asked counts before what is shown
		c := &t.Columns[n]
		if len(c.List) == 2 {
			answers(answersOf(c.List[0], c.List[1]))
		}
		answers(yesOrNo(c.Rule))
		if form := formOf(c.Rule); form != "" && t.Ways.Date == "" {
			t.Ways.Date = form
		}
		switch {
		case t.Ways.Decimal != "":
		case says(c.Rule, "point"):
			t.Ways.Decimal = "."
		case says(c.Rule, "comma") && !says(c.Rule, "parted"):
			t.Ways.Decimal = ","
		}
	}
	t.said(g)
	var shown []string // of columns of which no rule says how they are written
	var marks quantity.Marks
	for n := range t.Columns {
		c := &t.Columns[n]
		cells := samples(n)
		distinct := slices.Compact(slices.Sorted(slices.Values(cells)))
		if len(distinct) == 2 {
			answers(answersOf(distinct[0], distinct[1]))
		}
		if shown = append(shown, cells...); t.Ways.Separator == "" {
			t.Ways.Separator = parted(c, cells)
		}
		for _, cell := range cells {
			if shapeMoney.MatchString(cell) {
				marks.Learn(cell)
			}
		}
	}
	if mark := marks.Form().Decimal; t.Ways.Decimal == "" && mark != 0 {
		t.Ways.Decimal = string(mark)
	}
	if t.Ways.Date == "" {
		t.Ways.Date = dateWay(shown)
	}
}

// dateWay returns how the dates among cells are written, "" if they are written in several ways, or nobody can say which is the day.
func dateWay(cells []string) string {
	var orders quantity.Orders
	year, sign := "", ""
	for _, cell := range cells {
		at, of := "first", shapeISO.FindStringSubmatch(cell)
		if of == nil {
			at, of = "last", shapeYear.FindStringSubmatch(cell)
		}
		if of == nil {
			continue
		}
		if year != "" && (year != at || sign != of[1]) {
			return ""
		}
		year, sign = at, of[1]
		orders.Learn(cell)
	}
	if year == "first" {
		return "YYYY" + sign + "MM" + sign + "DD"
	}
	switch m := quantity.ReadDate("05"+sign+"06"+sign+"2026", orders.Form(2026)); {
	case year == "" || m.Is != quantity.Value:
		return ""
	case m.Day == 5:
		return "DD" + sign + "MM" + sign + "YYYY"
	}
	return "MM" + sign + "DD" + sign + "YYYY"
}

// said reads what the lines above the headings say of the ways of writing.
func (t *Template) said(g *grid) {
	for _, r := range t.Preamble {
		for _, cell := range g.rows[r-1] {
			if t.Ways.Decimal == "" && says(cell, "point") {
				t.Ways.Decimal = "."
			}
			if form := formOf(cell); form != "" && t.Ways.Date == "" {
				t.Ways.Date = form
			}
		}
	}
}

var (
	shapeISO   = lazy.New(`^[0-9]{4}([-./])[0-9]{2}[-./][0-9]{2}$`)
	shapeYear  = lazy.New(`^[0-9]{2}([-./])[0-9]{2}[-./][0-9]{4}$`)
	shapeMoney = lazy.New(`^[0-9]{1,6}[.,][0-9]{1,2}$`)
)

// parted returns what stands between several values: by the rule, or as the samples show it.
func parted(c *Column, cells []string) string {
	if says(c.Rule, "parted") {
		_, behind, _ := around(strings.ToLower(c.Rule), "parted")
		if sign := signOf(behind); sign != "" {
			return withSpace(sign, cells)
		}
	}
	counts := make(map[string]int)
	for _, cell := range cells {
		for _, sign := range []string{"|", ";", "/"} {
			if parts := strings.Split(cell, sign); len(parts) > 1 && !strings.Contains(cell, "://") && !strings.ContainsAny(cell, "<>.!?") &&
				!slices.ContainsFunc(parts, func(p string) bool { return len(strings.Fields(p)) > 3 || strings.TrimSpace(p) == "" }) {
				counts[sign]++
				break
			}
		}
	}
	for _, sign := range []string{"|", ";"} {
		if 2*counts[sign] >= len(cells) && counts[sign] > 0 {
			return withSpace(sign, cells)
		}
	}
	return ""
}

// signs are the names of signs.
var signs = map[string][]string{";": {"semicolon", "semikolon", "strichpunkt", "point-virgule", "punto y coma", "punto e virgola", "puntkomma", "średnik"},
	",": {"comma", "komma", "virgule", "coma", "virgola", "przecinek", "przecinkiem", "vírgula", "virgül"}, "|": {"pipe", "bar", "vertical bar"}}

func signOf(text string) string {
	text = strings.TrimSpace(text)
	for _, sign := range []string{";", ",", "|"} { // the semicolon before the comma: point-virgule
		for _, name := range signs[sign] {
			if strings.Contains(text, name) {
				if strings.Contains(text, "space") || strings.Contains(text, "leerzeichen") || strings.Contains(text, "espace") {
					return sign + " "
				}
				return sign
			}
		}
	}
	if len(text) > 0 && strings.ContainsAny(text[:1], "|;,/") {
		return text[:1]
	}
	return ""
}

// withSpace returns a sign with the space that stands behind it in samples.
func withSpace(sign string, cells []string) string {
	for _, cell := range cells {
		if strings.Contains(cell, sign+" ") {
			return strings.TrimSpace(sign) + " "
		}
	}
	return sign
}
