package sheet

import (
	"strings"

	"zetanum/core/catalogue"
)

// Rejoin returns what puts the cells of a row back in their places when a
// number with a decimal comma was written without quotation marks into a comma
// file: the row then has one cell too many, and two neighbours read as digits
// and digits-E+digits. It does so only if there is one such pair. It is nil if no row of the
// table can have that.
func (t *Table) Rejoin() func(*catalogue.Row) {
	if t.Form.Spooled && !t.Form.Numbered || t.Form.Separator != ',' {
		return nil
	}
	width := t.Columns.Own()
	return func(row *catalogue.Row) {
		if len(row.Cells) != width+1 {
			return
		}
		if at, more := Torn(row); at >= 0 && !more {
			row.Join(at, ",")
		}
	}
}

// Torn returns where a number that was torn in two begins, -1 if there is none,
// and whether there are more.
func Torn(row *catalogue.Row) (at int, more bool) {
	at = -1
	for i := 1; i < len(row.Cells); i++ {
		before := row.Cells[i-1]
		if before == "" || before[0]-'0' > 9 {
			continue
		}
		if isTornExponent(row.Cells[i]) && isDigits(before) && (row.Marks[i-1]|row.Marks[i])&catalogue.Quoted == 0 {
			if at >= 0 {
				return at, true
			}
			at = i - 1
		}
	}
	return at, false
}

// isTornExponent reports whether a cell reads like 52123E+12.
func isTornExponent(s string) bool {
	if len(s) < 4 || s[0]-'0' > 9 {
		return false
	}
	if strings.IndexByte(s, 'E') < 0 {
		return false
	}
	m, e, ok := strings.Cut(s, "E+")
	return ok && isDigits(m) && isDigits(e)
}

func isDigits(s string) bool {
	for i := range len(s) {
		if s[i]-'0' > 9 {
			return false
		}
	}
	return s != ""
}
