// Package condition says of rows whether they are meant: conditions are written
// in words, as TOML tables.
//
//	{ sku = { starts = "LRA-" }, price = { above = 10 } }   # both
//	{ any = [ { brand = "Nørrebi" }, { title = { contains = "veil" } } ] }
//	{ not = { barcode = { empty = true } } }
//
// A text instead of a table means "is". The name before it is a field or a
// heading. Case and spaces at the ends do not count, unless the table says
// exact = true.
package condition

import (
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
	"zetanum/core/text"
)

// ErrWrong is wrapped by every error about how a condition is written.
var ErrWrong = errors.New("the condition is wrong")

// ErrNoColumn says that a condition asks for a column which the sheet does not have.
var ErrNoColumn = errors.New("the condition asks for a column that is not there")

type noColumn struct{ error }

func (n noColumn) Is(target error) bool { return target == ErrNoColumn }
func (n noColumn) Unwrap() error        { return n.error }

// A Condition is true or false of a row. The zero Condition is true of every
// row.
type Condition struct {
	words string
	holds func(*catalogue.Row) bool
}

// Holds reports whether the condition is true of a row.
func (c *Condition) Holds(row *catalogue.Row) bool { return c.holds == nil || c.holds(row) }

// String says the condition in words.
func (c *Condition) String() string { return c.words }

// A Resolver finds a column by a field or a heading, -1 if there is none, and [Gone] if it is left out on
// purpose.
type Resolver func(name string) (col int)

// Gone stands for a column that the rulebook leaves out and that is not there any more.
const Gone = -2

// ErrGone says that a condition asks for such a column, so that it cannot be asked any more.
var ErrGone = errors.New("the column that the condition asks for is left out")

// Never is a condition that is true of no row.
func Never() *Condition {
	return &Condition{"never", func(*catalogue.Row) bool { return false }}
}

// maxDepth is how deep conditions may be nested.
const maxDepth = 20

// Parse reads a condition as a TOML decoder gives it.
func Parse(table map[string]any, column Resolver) (*Condition, error) { return parse(table, column, 0) }

func parse(table map[string]any, column Resolver, depth int) (*Condition, error) {
	if depth > maxDepth {
		return nil, fmt.Errorf("%w: it is nested more than %d deep", ErrWrong, maxDepth)
	}
	if len(table) == 0 {
		return nil, fmt.Errorf("%w: it is empty; write { sku = { starts = \"LRA-\" } }, for example", ErrWrong)
	}
	var parts []*Condition
	for _, key := range slices.Sorted(maps.Keys(table)) {
		c, err := parseKey(key, table[key], column, depth)
		if err != nil {
			return nil, err
		}
		parts = append(parts, c)
	}
	return all(parts), nil
}

func parseKey(key string, value any, column Resolver, depth int) (*Condition, error) {
	switch key {
	case "all", "any":
		list, ok := value.([]any)
		if !ok || len(list) == 0 {
			return nil, fmt.Errorf("%w: %s takes a list of conditions, { %s = [ {…}, {…} ] }", ErrWrong, key, key)
		}
		var parts []*Condition
		for _, v := range list {
			t, ok := v.(map[string]any)
			if !ok {
				return nil, fmt.Errorf("%w: %s takes a list of conditions, { %s = [ {…}, {…} ] }", ErrWrong, key, key)
			}
			c, err := parse(t, column, depth+1)
			if err != nil {
				return nil, err
			}
			parts = append(parts, c)
		}
		if key == "all" {
			return all(parts), nil
		}
		return anyOf(parts), nil
	case "not":
		t, ok := value.(map[string]any)
		if !ok {
			return nil, fmt.Errorf("%w: not takes a condition, { not = {…} }", ErrWrong)
		}
		c, err := parse(t, column, depth+1)
		if err != nil {
			return nil, err
		}
		return &Condition{"not (" + c.words + ")", func(r *catalogue.Row) bool { return !c.Holds(r) }}, nil
	}
	col := column(key)
	if col == Gone {
		return nil, fmt.Errorf("%w: %q", ErrGone, key)
	}
	if col < 0 {
		return nil, noColumn{fmt.Errorf("%w: there is no column and no field %q in this sheet", ErrWrong, key)}
	}
	if t, ok := value.(map[string]any); ok {
		return parseTests(key, col, t)
	}
	return parseTests(key, col, map[string]any{"is": value})
}

func all(parts []*Condition) *Condition {
	if len(parts) == 1 {
		return parts[0]
	}
	return &Condition{join(parts, " and "), func(r *catalogue.Row) bool {
		for _, p := range parts {
			if !p.Holds(r) {
				return false
			}
		}
		return true
	}}
}

func anyOf(parts []*Condition) *Condition {
	return &Condition{"(" + join(parts, " or ") + ")", func(r *catalogue.Row) bool {
		for _, p := range parts {
			if p.Holds(r) {
				return true
			}
		}
		return false
	}}
}

func join(parts []*Condition, word string) string {
	var words []string
	for _, p := range parts {
		words = append(words, p.words)
	}
	return strings.Join(words, word)
}

// Listed is the test whether a cell is in a list that lies in a file. Whoever reads
// the rulebook puts the values in place of the name of the file.
const Listed = "listed"

func listed(value any, plain func(string) string) (func(string) bool, error) {
	if _, ok := value.([]any); !ok {
		return nil, errors.New(`takes the name of a sheet with one column, for example "codes.csv"`)
	}
	return oneOf(value, plain)
}

// said writes a value for people; of a long list only the beginning.
func said(value any) string {
	list, ok := value.([]any)
	if !ok || len(list) <= 4 {
		return fmt.Sprint(value)
	}
	return strings.TrimSuffix(fmt.Sprint(list[:3]), "]") + fmt.Sprintf(" … %d values]", len(list))
}

// A test is what can be asked of a cell.
type test struct {
	words string // behind the name of the column; %v stands for the value
	make  func(value any, plain func(string) string) (func(cell string) bool, error)
}

var tests = map[string]test{
	"is":       {"is %v", is},
	"is_not":   {"is not %v", texts(func(cell, want string) bool { return cell != want })},
	"contains": {"contains %v", texts(strings.Contains)},
	"starts":   {"starts with %v", texts(strings.HasPrefix)},
	"ends":     {"ends with %v", texts(strings.HasSuffix)},
	"one_of":   {"is one of %v", oneOf},
	Listed:     {"is in the list %v", listed},
	"matches":  {"matches %v", matches},
	"empty":    {"is empty: %v", empty},
	"above":    {"is above %v", numbers(func(cmp int) bool { return cmp > 0 })},
	"below":    {"is below %v", numbers(func(cmp int) bool { return cmp < 0 })},
	"longer":   {"is longer than %v characters", longer},
}

func parseTests(name string, col int, table map[string]any) (*Condition, error) {
	plain := func(s string) string { return strings.ToLower(strings.TrimSpace(s)) }
	if exact, there := table["exact"]; there {
		on, ok := exact.(bool)
		if !ok {
			return nil, fmt.Errorf("%w: %s: exact is true or false", ErrWrong, name)
		}
		if on {
			plain = func(s string) string { return s }
		}
	}
	var parts []*Condition
	for _, key := range slices.Sorted(maps.Keys(table)) {
		if key == "exact" {
			continue
		}
		t, ok := tests[key]
		if !ok {
			names := slices.Sorted(maps.Keys(tests))
			return nil, fmt.Errorf("%w: %s: there is no test %q%s; the tests are: %s exact", ErrWrong, name, key,
				text.DidYouMean(key, names), strings.Join(names, " "))
		}
		holds, err := t.make(table[key], plain)
		if err != nil {
			return nil, fmt.Errorf("%w: %s: %s %v", ErrWrong, name, key, err)
		}
		parts = append(parts, &Condition{name + " " + fmt.Sprintf(t.words, said(table[key])),
			func(r *catalogue.Row) bool { return holds(r.Cell(col)) }})
	}
	if len(parts) == 0 {
		return nil, fmt.Errorf("%w: %s: no test is named", ErrWrong, name)
	}
	return all(parts), nil
}

// texts makes a test that compares with one text.
func texts(holds func(cell, want string) bool) func(any, func(string) string) (func(string) bool, error) {
	return func(value any, plain func(string) string) (func(string) bool, error) {
		want, ok := word(value)
		if !ok {
			return nil, errors.New(`takes a text, for example "LRA-"`)
		}
		if want = plain(want); want == "" || !catalogue.IsASCII(want) {
			return func(cell string) bool { return holds(plain(cell), want) }, nil
		}
		rare, without := text.RareOf(want, true), holds("", want) // which is the same for each text without a character of it
		return func(cell string) bool {
			if rare.Index(cell) < 0 && catalogue.IsASCII(cell) { // what is not may be of ASCII in small letters
				return without
			}
			return holds(plain(cell), want)
		}, nil
	}
}

// is makes the test that is used most; it has no need to make another text of each
// cell.
func is(value any, plain func(string) string) (func(string) bool, error) {
	slow, err := texts(func(cell, want string) bool { return cell == want })(value, plain)
	if err != nil {
		return nil, err
	}
	want, _ := word(value)
	if plain("A ") == "A " || !catalogue.IsASCII(want) {
		return slow, nil
	}
	want = strings.TrimSpace(want)
	return func(cell string) bool {
		switch {
		case len(cell) < len(want):
			return false
		case len(cell) == len(want):
			return strings.EqualFold(cell, want) && catalogue.IsASCII(cell)
		}
		return slow(cell)
	}, nil
}

// word returns a value as it would stand in a cell.
func word(value any) (string, bool) {
	switch v := value.(type) {
	case string:
		return v, true
	case int64:
		return strconv.FormatInt(v, 10), true
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64), true
	}
	return "", false
}

func oneOf(value any, plain func(string) string) (func(string) bool, error) {
	list, ok := value.([]any)
	if !ok || len(list) == 0 {
		return nil, errors.New(`takes a list of texts, for example ["A", "B"]`)
	}
	known := make(map[string]bool, len(list))
	for _, v := range list {
		w, ok := word(v)
		if !ok {
			return nil, errors.New(`takes a list of texts, for example ["A", "B"]`)
		}
		known[plain(w)] = true
	}
	return func(cell string) bool { return known[plain(cell)] }, nil
}

func matches(value any, _ func(string) string) (func(string) bool, error) {
	pattern, ok := value.(string)
	if !ok {
		return nil, errors.New(`takes a pattern (RE2), for example "^LRA-[0-9]+$"`)
	}
	re, err := regexp.Compile(pattern)
	if err != nil {
		return nil, fmt.Errorf("takes a pattern (RE2): %v", err)
	}
	return re.MatchString, nil
}

func empty(value any, _ func(string) string) (func(string) bool, error) {
	want, ok := value.(bool)
	if !ok {
		return nil, errors.New("is true or false")
	}
	return func(cell string) bool { return (strings.TrimSpace(cell) == "") == want }, nil
}

func longer(value any, _ func(string) string) (func(string) bool, error) {
	n, ok := value.(int64)
	if !ok {
		return nil, errors.New("takes a whole number of characters, for example 70")
	}
	return func(cell string) bool { return int64(utf8.RuneCountInString(cell)) > n }, nil
}

// numbers makes a test of the number in a cell, given how it compares with the one that is
// wanted. A cell without one passes none.
func numbers(holds func(cmp int) bool) func(any, func(string) string) (func(string) bool, error) {
	return func(value any, _ func(string) string) (func(string) bool, error) {
		w, ok := word(value)
		if _, text := value.(string); text {
			ok = false
		}
		want, err := quantity.Parse(w)
		if !ok || err != nil {
			return nil, errors.New("takes a number, for example 9.50")
		}
		return func(cell string) bool {
			if n, plain := quantity.Plain(cell); plain {
				return holds(n.Cmp(want))
			}
			n, err := quantity.Parse(strings.TrimSpace(cell))
			return err == nil && holds(n.Cmp(want))
		}, nil
	}
}
