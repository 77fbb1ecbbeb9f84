package sections

import (
	"errors"
	"fmt"
	"maps"
	"math/big"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/lazy"
	"zetanum/core/pattern"
	"zetanum/core/rulebook"
)

// A Setting is an order in one line, for which no rulebook need be there: HEADING = VALUE. The value is written into every row of the column,
// which is added if it is not there. It is
//
//	Parcel             a fixed value
//	"cost + 15%"       the same, in quotation marks, whatever it would mean without
//	sku                another column, by its heading or field
//	{brand} {title}    a pattern, as [[build]] has it
//	cost + 15%         an amount, reckoned from another column: +, - or * and a number, or so many percent of it
type Setting struct{ Heading, Value string }

// ErrSet is wrapped by errors about settings that do not go with a file.
var ErrSet = errors.New("what is to be set does not go with it")

func refuse(format string, args ...any) error {
	return fmt.Errorf("%w: %w", ErrSet, fmt.Errorf(format, args...))
}

// ParseSetting reads a setting.
func ParseSetting(s string) (Setting, error) {
	heading, value, ok := strings.Cut(s, "=")
	set := Setting{strings.TrimSpace(heading), strings.TrimSpace(value)}
	switch {
	case !ok || set.Heading == "":
		return set, fmt.Errorf(`it must read "HEADING = VALUE", for example "Delivery = Parcel" or "Min price = cost + 15%%"`)
	case set.Value == "" || set.Value == `""`:
		return set, fmt.Errorf("%q has no value; cells that are to be empty need a rulebook: [[replace]], or [columns] drop for the whole column", set.Heading)
	}
	if strings.ContainsAny(set.Value, "{}") && !set.fixed() {
		if _, err := pattern.Parse(set.Value); err != nil {
			return set, err
		}
	}
	return set, nil
}

// fixed reports whether the value stands in quotation marks.
func (s *Setting) fixed() bool {
	return len(s.Value) > 1 && s.Value[0] == '"' && strings.HasSuffix(s.Value, `"`)
}

// reckoned is an amount that is reckoned from a column.
var reckoned = lazy.New(`^(.*\S)\s*([-+*×−])\s*(\d+(?:[.,]\d+)?)\s*(%?)$`)

// orders returns what a setting is in a rulebook, for a sheet with these columns.
func (s *Setting) orders(sheet *catalogue.Columns) ([]rulebook.Order, error) {
	find := func(name string) (col int) {
		if col = columns.Find(sheet, name); col < 0 {
			if f, ok := catalogue.ParseField(name); ok {
				col = sheet.First(f)
			}
		}
		return col
	}
	fill := func(key, value string) []rulebook.Order {
		return []rulebook.Order{newOf("columns.fill", "into", quoted(s.Heading), key, quoted(value), "over", "true")}
	}
	switch from := find(s.Value); {
	case s.fixed():
		return fill("with", strings.ReplaceAll(s.Value[1:len(s.Value)-1], `\"`, `"`)), nil
	case from >= 0 && from == find(s.Heading):
		return nil, refuse("%q would be set to itself", s.Heading)
	case from >= 0:
		return fill("from", s.Value), nil
	case strings.ContainsAny(s.Value, "{}"):
		return []rulebook.Order{newOf("build", "into", quoted(s.Heading), "from", quoted(s.Value), "over", "true")}, nil
	}
	if _, ok := catalogue.ParseField(s.Value); ok {
		return nil, refuse("no column is known to be the %s; if that word is meant as it stands, put it in quotation marks: %s = \"%s\"", s.Value, s.Heading, s.Value)
	}
	m := reckoned.FindStringSubmatch(s.Value)
	if m == nil {
		return fill("with", s.Value), nil
	}
	from := find(m[1])
	if from < 0 {
		if m[4] == "" && strings.ContainsAny(s.Value, " ") && strings.ContainsRune("-−×", []rune(m[2])[0]) { // Parcel 2-3
			return fill("with", s.Value), nil
		}
		return nil, refuse(`there is no column %q from which %q could be reckoned; if these words are meant as they stand, put them in quotation marks: %s = "%s"`, m[1], s.Heading, s.Heading, s.Value)
	}
	into := find(s.Heading)
	table, lines := "field."+quoted(s.Heading), []rulebook.Line{{Key: "type", Value: `"price"`}}
	if into >= 0 && sheet.Fields[into] != catalogue.Unknown {
		if sheet.Fields[into].Kind() != catalogue.PriceKind {
			return nil, refuse("%q is no amount, so that nothing can be reckoned there", s.Heading)
		}
		table, lines = sheet.Fields[into].String(), nil
	}
	if from != into {
		lines = append(lines, rulebook.Line{Key: "from", Value: quoted(m[1])})
	}
	number, less, times := strings.Replace(m[3], ",", ".", 1), m[2] == "-" || m[2] == "−", m[2] == "*" || m[2] == "×"
	switch {
	case m[4] == "%" && (times || less):
		lines = append(lines, rulebook.Line{Key: "times", Value: share(number, less)})
	case m[4] == "%":
		lines = append(lines, rulebook.Line{Key: "percent", Value: number})
	case times:
		lines = append(lines, rulebook.Line{Key: "times", Value: number})
	case less:
		lines = append(lines, rulebook.Line{Key: "plus", Value: "-" + number})
	default:
		lines = append(lines, rulebook.Line{Key: "plus", Value: number})
	}
	if from == into {
		lines = append(lines, rulebook.Line{Key: "once", Value: "true"})
	} else if into >= 0 {
		lines = append(lines, rulebook.Line{Key: "over", Value: "true"})
	}
	return []rulebook.Order{lineOf(table, lines...)}, nil
}

// share writes so many percent, or what is left of a hundred, as a factor, exactly.
func share(percent string, left bool) string {
	_, part, _ := strings.Cut(percent, ".")
	r, _ := new(big.Rat).SetString(percent) // digits alone, with a point at most
	if left {
		r.Sub(big.NewRat(100, 1), r)
	}
	return strings.TrimRight(strings.TrimRight(r.Quo(r, big.NewRat(100, 1)).FloatString(len(part)+2), "0"), ".")
}

// With returns the rulebook with what is set besides, for a sheet with these columns, and the orders that would keep it.
func (b *Book) With(settings []Setting, sheet *catalogue.Columns) (with Book, orders []rulebook.Order, err error) {
	var text []byte
	for i := range settings {
		of, err := settings[i].orders(sheet)
		if err != nil {
			return with, nil, err
		}
		orders = append(orders, of...)
	}
	for _, o := range orders {
		text = rulebook.Add(text, o, "", nil)
	}
	own, err := Parse("-set", text)
	if err != nil {
		return with, nil, err
	}
	with = *b
	with.Columns.Fill = slices.Concat(b.Columns.Fill, own.Columns.Fill)
	with.Build = slices.Concat(b.Build, own.Build)
	with.Field = maps.Clone(b.Field)
	for name, table := range own.Field {
		if with.Field == nil {
			with.Field = make(map[string]*FieldTable)
		}
		if was := with.Field[name]; was != nil {
			merged := *was
			merged.From, merged.Type = table.From, table.Type
			rules := table.PriceRule
			rules.Read, rules.Clear, rules.Zero = was.Read, was.Clear, was.Zero
			merged.PriceRule = rules
			table = &merged
		}
		with.Field[name] = table
	}
	return with, orders, nil
}

// Lines writes orders as a rulebook has them.
func Lines(orders []rulebook.Order) string {
	var text []byte
	for _, o := range orders {
		text = rulebook.Add(text, o, "", Places())
	}
	return string(text)
}

// Keep writes orders into a rulebook, which is made if there is none.
func Keep(path string, orders []rulebook.Order, says string) error {
	content, err := readAny(path)
	if err != nil {
		return err
	}
	for _, o := range orders {
		if !rulebook.Has(content, o) {
			content = rulebook.Add(content, o, says, Places())
		}
	}
	return Write(path, content)
}
