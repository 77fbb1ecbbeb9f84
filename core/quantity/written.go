package quantity

import (
	"fmt"
	"math/big"
	"slices"
	"strings"
	"time"
	_ "time/tzdata" // not every system has time zones

	"zetanum/core/catalogue"
)

// A MeasureRule says how the measures of a field are written.
type MeasureRule struct {
	// Unit is that in which they are written, as bare numbers; Bare that of numbers without one, where the heading says none.
	Unit string `toml:"unit" json:"unit,omitempty"`
	Bare string `toml:"bare" json:"bare,omitempty"`
	// UnitFrom is a field or heading that has the unit of each.
	UnitFrom string `toml:"unit_from" json:"unit_from,omitempty"`
	// Sides are the fields or headings that take the sides of 10 x 20 x 5 cm, where they are empty.
	Sides []string `toml:"sides" json:"sides,omitempty"`
}

// IsZero reports whether nothing is said.
func (r *MeasureRule) IsZero() bool {
	return r.Unit == "" && r.Bare == "" && r.UnitFrom == "" && r.Sides == nil
}

// Check returns what is wrong with the rule.
func (r *MeasureRule) Check(kind catalogue.Kind) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if r.IsZero() {
		return nil
	}
	_, dimension := Unit(r.Unit)
	_, bare := Unit(r.Bare)
	switch {
	case r.Unit == "":
		key := "bare"
		if r.UnitFrom != "" {
			key = "unit_from"
		} else if r.Sides != nil {
			key = "sides"
		}
		wrong(key, `needs unit: the one in which measures are written, such as unit = "kg"`)
	case kind != catalogue.MeasureKind && !(r.Sides != nil && (kind == catalogue.AnyKind || kind == catalogue.LineKind)):
		wrong("unit", "goes with fields of type measure")
	case dimension == "":
		wrong("unit", "is a unit of weight, length or volume, such as kg, cm or ml, and not %q", r.Unit)
	case r.Bare != "" && bare != dimension:
		wrong("bare", "is a unit of %s, as unit is, and not %q", dimension, r.Bare)
	case r.Sides != nil && dimension != "length":
		wrong("sides", "needs a unit of length")
	case r.Sides != nil && (len(r.Sides) < 2 || len(r.Sides) > 3):
		wrong("sides", `are two or three columns: sides = ["length", "width", "height"]`)
	}
	return problems
}

// Measuring writes measures by rules that have been checked.
type Measuring struct {
	unit, dimension string
	bare            string
	decimals        int // -1: as many as are needed, up to mostDecimals
	round           Rounding
	quick           map[string]*quickly // by the usual names of units, where decimals are said
}

// NewMeasuring prepares rules that have been checked. heading is that of the column, which may say the unit of numbers without one.
func NewMeasuring(numbers *NumberRule, rule *MeasureRule, heading string) *Measuring {
	m := &Measuring{unit: rule.Unit, bare: UnitIn(heading), decimals: -1, round: roundings[numbers.Round]}
	if _, m.dimension = Unit(rule.Unit); m.bare == "" || dimensionOf(m.bare) != m.dimension {
		m.bare = rule.Bare
	}
	if numbers.Decimals != nil {
		m.decimals = *numbers.Decimals
		m.quick = make(map[string]*quickly)
		to, scale := units()[foldUnit(m.unit)].size, new(big.Rat).SetInt(powerOfTen(m.decimals))
		for _, from := range units() {
			if from.dimension != m.dimension || m.quick[from.usual] != nil {
				continue
			}
			ratio := new(big.Rat).Quo(from.size, to)
			ratio.Mul(ratio, scale)
			if ratio.Num().IsUint64() && ratio.Denom().IsUint64() {
				m.quick[from.usual] = &quickly{num: ratio.Num().Uint64(), den: ratio.Denom().Uint64()}
			}
		}
	}
	return m
}

func dimensionOf(unit string) string {
	_, d := Unit(unit)
	return d
}

// Of returns what is written in place of a cell, one number for each side; what it is if it is not read, with a word why. of is the unit
// that another column says, "" if it says none.
func (m *Measuring) Of(cell, of string, form Form) (after []string, is What, why string) {
	a := ReadAmounts(cell, form)
	switch a.Is {
	case Blank, Dash:
		return []string{""}, Value, ""
	case Value, About:
	case Asked:
		return nil, Asked, "can be read in two ways"
	default:
		return nil, a.Is, "is no measure"
	}
	bare := m.bare
	if of != "" {
		if dimensionOf(of) == "" {
			return nil, Words, "has a unit beside it that nobody knows"
		}
		bare = of
	}
	if a.Count == 1 && a.Of[0].Den == 0 && m.quick != nil {
		name := a.Of[0].Unit
		if name == "" {
			name = foldUnit(bare)
		}
		if q := m.quick[units()[name].usual]; q != nil {
			if n, ok := q.reckon(a.Of[0].Number, m.round); ok {
				return []string{inUnits(n, m.decimals)}, Value, ""
			}
		}
	}
	sum := new(big.Rat)
	for i := range a.Count {
		value, known, same := a.Of[i].In(m.unit, bare)
		switch {
		case !known && a.Of[i].Unit == "" && bare == "":
			return nil, Asked, "has no unit, and neither the heading nor the rulebook says which it is in"
		case !known:
			return nil, Words, "has a unit that nobody knows"
		case !same:
			return nil, Words, "is not one of " + m.dimension
		case a.Sides:
			after = append(after, m.write(value))
		default:
			sum.Add(sum, value)
		}
	}
	if !a.Sides {
		after = []string{m.write(sum)}
	}
	return after, Value, ""
}

// write writes a number of units.
func (m *Measuring) write(value *big.Rat) string {
	if m.decimals >= 0 {
		return Round(value, m.decimals, m.round)
	}
	text := Round(value, mostDecimals, m.round)
	text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	if at := strings.IndexByte(text, '.'); at >= 0 && len(text)-at-1 == 3 {
		text += "0" // three alone might be read as thousands
	}
	return text
}

// A YesNoRule says how a field says yes and no, or which of several choices it is.
type YesNoRule struct {
	// Yes and No are what is written; Empty what an empty cell means: yes, no, or hold.
	Yes   string `toml:"yes" json:"yes,omitempty"`
	No    string `toml:"no" json:"no,omitempty"`
	Empty string `toml:"empty" json:"empty,omitempty"`
	// Choices are what is written for words: { "1" = "shop and search", "4" = "hidden" }.
	Choices map[string]string `toml:"choices" json:"choices,omitempty"`
}

// IsZero reports whether nothing is said.
func (r *YesNoRule) IsZero() bool {
	return r.Yes == "" && r.No == "" && r.Empty == "" && r.Choices == nil
}

// Check returns what is wrong with the rule.
func (r *YesNoRule) Check(kind catalogue.Kind) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if r.IsZero() {
		return nil
	}
	seen := make(map[string]string)
	for number, words := range r.Choices {
		key := foldAnswer(words)
		if seen[key] != "" {
			wrong("choices", "%q stands for both %s and %s", words, seen[key], number)
		}
		seen[key] = number
	}
	switch {
	case kind == catalogue.HTMLKind || kind == catalogue.LinkKind || kind == catalogue.ListKind:
		key := "yes"
		if r.Choices != nil {
			key = "choices"
		}
		wrong(key, "goes with fields of type yes/no, and with others that have one word a cell")
	case r.Choices != nil && (r.Yes != "" || r.No != ""):
		wrong("choices", "and yes and no are two ways to say what is written; leave one out")
	case r.Choices != nil && r.Empty != "" && r.Empty != "hold" && r.Choices[r.Empty] == "":
		wrong("empty", "is one of the choices, or hold")
	case r.Choices == nil && (r.Yes == "") != (r.No == ""):
		wrong("yes", "and no are said together")
	case r.Choices == nil && r.Yes == "":
		wrong("empty", "needs yes and no: what is written for them")
	case r.Choices == nil && r.Yes == r.No:
		wrong("no", "is the same as yes")
	case r.Choices == nil && r.Empty != "" && r.Empty != "yes" && r.Empty != "no" && r.Empty != "hold":
		wrong("empty", `is "yes", "no" or "hold", and not %q`, r.Empty)
	case r.Choices == nil && (isOther(r.Yes, No) || isOther(r.No, Yes)):
		wrong("yes", "would be read as its contrary the next time")
	}
	return problems
}

// isOther reports whether a word says an answer.
func isOther(word string, answer Answer) bool { return answers[foldAnswer(word)] == answer }

// Answering writes yes and no, or choices, by a rule that has been checked.
type Answering struct {
	rule    *YesNoRule
	yes, no string            // as they are looked up
	choices map[string]string // by their words, and by themselves
}

// NewAnswering prepares a rule.
func NewAnswering(rule *YesNoRule) *Answering {
	a := &Answering{rule: rule, yes: foldAnswer(rule.Yes), no: foldAnswer(rule.No)}
	if rule.Choices != nil {
		a.choices = make(map[string]string)
		for number, words := range rule.Choices {
			a.choices[foldAnswer(words)] = number
		}
		for number := range rule.Choices {
			a.choices[foldAnswer(number)] = number
		}
	}
	return a
}

// Of returns what is written in place of a cell of a column; ok is false if nobody knows.
func (a *Answering) Of(cell string, column *YesNo) (after string, ok bool) {
	if strings.TrimSpace(cell) == "" {
		switch {
		case a.rule.Empty == "hold":
			return cell, false
		case a.rule.Empty == "yes" && a.choices == nil:
			return a.rule.Yes, true
		case a.rule.Empty == "no" && a.choices == nil:
			return a.rule.No, true
		}
		return a.rule.Empty, true
	}
	if a.choices != nil {
		after, ok = a.choices[foldAnswer(cell)]
		return after, ok
	}
	switch foldAnswer(cell) {
	case a.yes:
		return a.rule.Yes, true
	case a.no:
		return a.rule.No, true
	}
	switch column.Read(cell) {
	case Yes:
		return a.rule.Yes, true
	case No:
		return a.rule.No, true
	}
	return cell, false
}

// A DateRule says how the dates of a field are read and written.
type DateRule struct {
	// Form is how they are written: YYYY-MM-DD, DD.MM.YYYY, YYYY-MM-DD hh:mm; iso for those of ISO 8601.
	Form string `toml:"form" json:"form,omitempty"`
	// First is which comes first where the column does not settle it: day, month or year.
	First string `toml:"first" json:"first,omitempty"`
	// Zone is the time zone of what is written; TimesIn that of times that name none.
	Zone    string `toml:"zone" json:"zone,omitempty"`
	TimesIn string `toml:"times_in" json:"times_in,omitempty"`
	// CountFrom is 1904 where days that are numbers are counted from that year on, and not from 1900.
	CountFrom int `toml:"count_from" json:"count_from,omitempty"`
}

// dateParts are what forms are made of, longest first, with what [time.Time.Format] calls them.
var dateParts = [...][2]string{{"YYYY", "2006"}, {"YY", "06"}, {"MM", "01"}, {"DD", "02"}, {"hh", "15"}, {"mm", "04"}, {"ss", "05"}, {"ZZ", "-07:00"}}

// layout returns a form as [time.Time.Format] takes it.
func layout(form string) (text string, err error) {
	if form == "iso" {
		return time.DateOnly, nil
	}
	var b strings.Builder
	seen := make(map[string]bool)
	for rest := form; rest != ""; {
		at := slices.IndexFunc(dateParts[:], func(p [2]string) bool { return strings.HasPrefix(rest, p[0]) })
		if at >= 0 {
			b.WriteString(dateParts[at][1])
			seen[dateParts[at][0]] = true
			rest = rest[len(dateParts[at][0]):]
			continue
		}
		if c := rest[0]; !strings.ContainsRune(" .-/:T", rune(c)) {
			return "", fmt.Errorf("%q is no part of a date; it is made of YYYY, MM, DD, hh, mm, ss, ZZ and marks between them", rest[:1])
		}
		b.WriteByte(rest[0])
		rest = rest[1:]
	}
	if !seen["YYYY"] && !seen["YY"] || !seen["MM"] || !seen["DD"] {
		return "", fmt.Errorf("%q lacks the year, the month or the day: YYYY, MM, DD", form)
	}
	return b.String(), nil
}

// Check returns what is wrong with the rule.
func (r *DateRule) Check(kind catalogue.Kind) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if *r == (DateRule{}) {
		return nil
	}
	if kind != catalogue.DateKind {
		wrong("form", "goes with fields of type date")
		return problems
	}
	if _, err := layout(r.Form); r.Form != "" && err != nil {
		wrong("form", "%v", err)
	}
	if r.First != "" && firsts[r.First] == 0 {
		wrong("first", `is "day", "month" or "year", and not %q`, r.First)
	}
	for key, zone := range map[string]string{"zone": r.Zone, "times_in": r.TimesIn} {
		if _, err := time.LoadLocation(zone); err != nil {
			wrong(key, "there is no time zone %q; it is written such as Europe/Berlin", zone)
		}
	}
	if r.CountFrom != 0 && r.CountFrom != 1900 && r.CountFrom != 1904 {
		wrong("count_from", "is 1900 or 1904")
	}
	if r.Form == "" && (r.Zone != "" || r.TimesIn != "") {
		wrong("zone", "needs form: how dates are written")
	}
	return problems
}

// Begins returns which comes first in what is written.
func (r *DateRule) Begins() string {
	first, name := len(r.Form), "year"
	for part, what := range map[string]string{"YY": "year", "MM": "month", "DD": "day"} {
		if at := strings.Index(r.Form, part); at >= 0 && at < first {
			first, name = at, what
		}
	}
	return name
}

// Order returns the order that is said, for columns that do not settle it.
func (r *DateRule) Order(form DateForm) DateForm {
	for i := range form.By {
		if form.By[i] == 0 {
			form.By[i] = firsts[r.First]
		}
	}
	return form
}

// firsts are the orders by what comes first; there is none for "".
var firsts = map[string]Order{"day": DayFirst, "month": MonthFirst, "year": YearFirst}

// Dating writes dates by a rule that has been checked.
type Dating struct {
	layout  string
	iso     bool
	zone    *time.Location // nil: none is asked for
	timesIn *time.Location
}

// NewDating prepares a rule.
func NewDating(r *DateRule) *Dating {
	d := &Dating{iso: r.Form == "iso"}
	d.layout, _ = layout(r.Form)
	load := func(name string) *time.Location {
		if name == "" {
			return nil
		}
		zone, _ := time.LoadLocation(name)
		return zone
	}
	d.zone, d.timesIn = load(r.Zone), load(r.TimesIn)
	return d
}

// Of returns what is written in place of a cell; what it is if it is not read.
func (d *Dating) Of(cell string, form DateForm) (after string, is What) {
	m := ReadDate(cell, form)
	if m.Is == Blank {
		return "", Value
	}
	if m.Is != Value {
		return cell, m.Is
	}
	if !m.HasTime { // a day is that day, wherever
		return time.Date(m.Year, time.Month(m.Month), m.Day, 0, 0, 0, 0, time.UTC).Format(d.layout), Value
	}
	in := d.timesIn
	if in == nil {
		in = d.zone
	}
	if in == nil {
		in = time.UTC
	}
	at := m.Time(in)
	if d.zone != nil && (m.HasZone || d.timesIn != nil) {
		at = at.In(d.zone)
	}
	if !d.iso {
		return at.Format(d.layout), Value
	}
	switch {
	case d.zone != nil && (m.HasZone || d.timesIn != nil), m.HasZone:
		return at.Format("2006-01-02T15:04:05Z07:00"), Value
	}
	return at.Format("2006-01-02T15:04:05"), Value
}
