package rescue

import (
	"iter"
	"maps"
	"strings"

	"zetanum/core/glance"
	"zetanum/core/lazy"
	"zetanum/core/text"
)

// What spreadsheet programs put where something else stood. The words for true
// and false, and the months, are those of the languages in which such programs
// are sold most.
var (
	errorValue = lazy.New(`^#[\p{Lu}][\p{Lu}/0_]+[!?]?$`)
	dayFirst   = lazy.New(`^\d{1,2}[-. /]\.? ?(\p{L}{3,5})\.?(?:[-. /]\d{2,4})?$`)
	monthFirst = lazy.New(`^(\p{L}{3,5})\.?[-. /]\d{1,4}$`)
	inNumbers  = lazy.New(`^(?:\d{1,2}[./]\d{1,2}[./]\d{2,4}|\d{4}-\d{2}-\d{2}|\d{1,2}-\d{1,2}-\d{4})(?:[ T]\d{1,2}:\d{2}(?::\d{2})?)?$`)
	clock      = lazy.New(`^\d{1,2}:\d{2}(?::\d{2})?$`)

	yesOrNo = set("true false wahr falsch vrai faux vero falso verdadero verdadeiro waar onwaar sant falskt sand falsk prawda fałsz")

	// monthNames are the short names of the months.
	monthNames = [12]string{
		"jan janv", "feb febr fev fév févr", "mar mär mrz mars", "apr avr april", "may mai maj mei mag", "jun juin giu june",
		"jul juil lug july",
		"aug août ago", "sep sept set", "oct okt out", "nov", "dec dez déc dic des",
	}
	months = func() map[string]int {
		byName := make(map[string]int)
		for i, names := range monthNames {
			for _, name := range strings.Fields(names) {
				byName[name] = i + 1
			}
		}
		return byName
	}()
)

// printedWords are all of them.
var printedWords = glance.NewKnown(func(yield func(string) bool) {
	for _, m := range []iter.Seq[string]{maps.Keys(yesOrNo), maps.Keys(months)} {
		for word := range m {
			if !yield(word) {
				return
			}
		}
	}
})

func set(words string) map[string]bool {
	m := make(map[string]bool)
	for _, w := range strings.Fields(words) {
		m[w] = true
	}
	return m
}

// What [Replacement] answers.
const (
	ErrorValue = "an error value"
	TooNarrow  = "a row of signs that a column too narrow shows"
	YesOrNo    = "a yes or no"
	Date       = "a date"
	Clock      = "a time of day"
)

// Replacement says in words what a spreadsheet program put in place of what
// was typed, "" if the cell does not look so.
func Replacement(cell string) string {
	cell = strings.TrimSpace(cell)
	if len(cell) < 3 || len(cell) > 24 {
		return ""
	}
	switch c := cell[0]; {
	case c == '#':
		switch {
		case strings.Trim(cell, "#") == "":
			return TooNarrow
		case errorValue.MatchString(cell), text.IsErrorValue(cell):
			return ErrorValue
		}
	case c-'0' <= 9:
		return dateOrTime(cell)
	case len(cell) < 14 && printedWords.Begins(c, cell[1]):
		// Most codes end here, so this makes no garbage.
		var buf [16]byte
		word := lower(buf[:0], cell)
		switch {
		case len(word) == len(cell):
			if yesOrNo[string(word)] {
				return YesOrNo
			}
		case strings.IndexByte("-. /", cell[len(word)]) < 0:
		case months[string(word)] > 0 && monthFirst.MatchString(cell):
			return Date
		}
	}
	return ""
}

func dateOrTime(cell string) string {
	mark := strings.IndexAny(cell[:min(len(cell), 5)], "-./: ")
	switch {
	case mark < 1:
		return ""
	case inNumbers.MatchString(cell):
		return Date
	case clock.MatchString(cell):
		return Clock
	}
	if m := dayFirst.FindStringSubmatch(cell); m != nil && months[strings.ToLower(m[1])] > 0 {
		return Date
	}
	return ""
}

// lower appends the letters with which a cell begins, ASCII ones in lower case.
func lower(b []byte, cell string) []byte {
	for i := range len(cell) {
		c := cell[i]
		switch {
		case c >= 'A' && c <= 'Z':
			c += 'a' - 'A'
		case c >= 'a' && c <= 'z', c >= 0x80:
		default:
			return b
		}
		b = append(b, c)
	}
	return b
}
