package text

import (
	"strings"

	"zetanum/core/quantity"
)

// Formula reports whether a spreadsheet program would run a cell of a CSV file as a
// formula: one that begins with =, +, - or @, perhaps behind a tab or a carriage return.
// Numbers, telephone numbers and dashes alone are none.
func Formula(s string) bool {
	if !MayRun(s) {
		return false
	}
	s = strings.TrimLeft(s, "\t\r")
	if s == "" || strings.IndexByte("=+-@", s[0]) < 0 {
		return false
	}
	if s[0] == '=' || s[0] == '@' {
		return len(s) > 1
	}
	rest := strings.TrimLeft(s, "+-")
	return strings.Trim(rest, "0123456789 .,'()/-+%€$£") != "" && !isNumber(rest)
}

// MayRun reports whether a cell begins as a [Formula] does.
func MayRun(s string) bool {
	if s == "" {
		return false
	}
	switch s[0] {
	case '=', '+', '-', '@', '\t', '\r':
		return true
	}
	return false
}

// Safe returns a cell for a list that people open in a spreadsheet program: with an
// apostrophe before what that would run as a formula. [Typed] takes it off again.
func Safe(cell string) string {
	if Formula(cell) {
		return "'" + cell
	}
	return cell
}

// Typed returns a cell without the apostrophe that [Safe] puts before it.
func Typed(cell string) string {
	if rest, found := strings.CutPrefix(cell, "'"); found && Formula(rest) {
		return rest
	}
	return cell
}

// isNumber reports whether a text is a number with an exponent.
func isNumber(s string) bool {
	n, err := quantity.Parse(s)
	return err == nil && n.Scientific()
}
