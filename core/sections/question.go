package sections

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
)

// A Question asks a person for an order, in words for which nobody need know what a rulebook is.
type Question struct {
	Name    string         // by which it is remembered what was left as it is: "title.shouts", "columns.fill=Brand"
	Says    string         // what was seen: "41 titles shout."
	Asks    string         // "Mend them?"
	Rows    int            // that it touches
	Finding catalogue.Code // that explains it; none if nothing does
	Column  string         // of the finding, by its heading
	// Stay is what is said of leaving it as it is, where several ways are to be chosen from; "" for that in general words.
	Stay string
	// Ways are the answers besides leaving it as it is: one for a question of yes or no.
	Ways []Way
	// Keys are where the answers stand that have to be typed.
	Keys []rulebook.Order
	// No is how it is written down that it is left as it is: in [asked], if nothing is said.
	No []rulebook.Order
	// Last says that it is what remains when nothing better is left to ask, and Blind that what it does does not show in rows.
	Last, Blind bool
}

// A Way is one answer to a question.
type Way struct {
	Says   string // what is done then; "" for the yes of a question of yes or no
	Orders []rulebook.Order
	// Type says what has to be typed in, "" if nothing; With makes the orders of it then.
	Type string
	With func(typed string) ([]rulebook.Order, error)
}

// Answer returns what is done in words of its own, "" for a yes.
func (w *Way) Answer() string {
	if w.Says == "" {
		return ""
	}
	return upperFirst(w.Says) + "."
}

// Leave returns the orders by which it is remembered that things are left as they are.
func (q *Question) Leave() []rulebook.Order {
	if q.No != nil {
		return q.No
	}
	return []rulebook.Order{lineOf("asked", rulebook.Line{Key: "no", Value: q.Name, Word: true})}
}

// Questions returns what could be ordered for a file, those that touch most rows first. What a rulebook says already, it may ask again.
func Questions(s *Seen) (list []Question) {
	for _, section := range new(Book).reading() {
		list = append(list, section.Ask(s)...)
	}
	slices.SortStableFunc(list, func(a, b Question) int {
		if a.Last != b.Last {
			return map[bool]int{true: 1, false: -1}[a.Last]
		}
		return b.Rows - a.Rows
	})
	return list
}

// Places returns the names of all tables of a rulebook, in the order in which a person reads about them.
func Places() (names []string) {
	for _, section := range new(Book).reading() {
		for _, part := range section.Parts() {
			names = append(names, part.Name)
		}
	}
	return names
}

// yesNo is a question that is answered with yes or no.
func yesNo(name string, rows int, says, asks string, orders ...rulebook.Order) Question {
	return Question{Name: name, Rows: rows, Says: says, Asks: asks, Ways: []Way{{Orders: orders}}}
}

// on says of which finding a question is.
func (q Question) on(code catalogue.Code, column string) Question {
	q.Finding, q.Column = code, column
	return q
}

// set is an order of one key in a table; the value is written as TOML writes it.
func set(table, key, value string) rulebook.Order {
	return lineOf(table, rulebook.Line{Key: key, Value: value})
}

func lineOf(table string, lines ...rulebook.Line) rulebook.Order {
	return rulebook.Order{Table: table, Lines: lines}
}

// newOf is a new table of a list, of keys and their values as TOML writes them.
func newOf(list string, keys ...string) rulebook.Order {
	o := rulebook.Order{Table: list, Each: true}
	for i := 0; i+1 < len(keys); i += 2 {
		o.Lines = append(o.Lines, rulebook.Line{Key: keys[i], Value: keys[i+1]})
	}
	return o
}

// wordIn is a word at the end of a list.
func wordIn(table, key, word string) rulebook.Order {
	return lineOf(table, rulebook.Line{Key: key, Value: word, Word: true})
}

// listOf writes texts as a list of TOML.
func listOf(words []string) string {
	var quotedWords []string
	for _, w := range words {
		quotedWords = append(quotedWords, quoted(w))
	}
	return "[" + strings.Join(quotedWords, ", ") + "]"
}

// tableOf returns the name of the table of a field or heading.
func (c *SeenColumn) table() string {
	if c.Field != catalogue.Unknown {
		return c.Field.String()
	}
	return "field." + quoted(c.Heading)
}

// first returns the heading of the first column of a field, "" if there is none.
func (s *Seen) first(f catalogue.Field) string {
	for _, c := range s.Columns {
		if c.Field == f {
			return c.Heading
		}
	}
	return ""
}

// verb puts a number of things before what they do: "1 title shouts", "41 titles shout".
func verb(n int, what, one, many string) string {
	if n == 1 {
		return plural(n, what) + " " + one
	}
	return plural(n, what) + " " + many
}

func are(n int, what string) string { return verb(n, what, "is", "are") }

func hold(n int, what string) string { return verb(n, what, "has", "have") }

// mend asks whether to mend so many.
func mend(n int) string {
	if n == 1 {
		return "Mend it?"
	}
	return "Mend them?"
}

func upperFirst(s string) string {
	r, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[size:]
}

// A Sayable is an order with what is said of it.
type Sayable struct {
	Order rulebook.Order
	Says  string
}

// Present returns the orders by which the shop's present catalogue is known.
func Present(export string) []Sayable {
	return []Sayable{{set("shop", "export", quoted(export)), "What the shop has now."}}
}

// Says returns what the reference says of a key of a table, "" if it does not have it.
func Says(table, key string) string {
	for _, section := range new(Book).reading() {
		for _, part := range section.Parts() {
			if part.Name != table {
				continue
			}
			for _, k := range part.Keys {
				if k.Name == key {
					return k.Says
				}
			}
		}
	}
	return ""
}
