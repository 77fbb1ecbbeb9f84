package text

import "strings"

// A List is what stands between the values of a list in one cell: ";" in “red; blue”.
type List string

// Marks that stand between values, the more telling first: where there is a |, a comma is part
// of a value.
var (
	TagMarks   = []List{"|", ";", "\n", ","}
	ValueMarks = []List{"|", ";", "\n", ",", " / "}
	LinkMarks  = []List{"|", ";", "\n", ",", " "} // a space is part of no link
)

// FindList returns the first of some marks that stands in any of the cells; ok is false if
// none does.
func FindList(marks []List, cells ...string) (l List, ok bool) {
	for _, l := range marks {
		for _, cell := range cells {
			if strings.Contains(cell, string(l)) {
				return l, true
			}
		}
	}
	return "", false
}

// Parts returns what stands between the marks of a cell, as it stands there, empty parts and
// spaces included: joined again they are the cell.
func (l List) Parts(cell string) []string {
	if l == "" {
		return []string{cell}
	}
	return strings.Split(cell, string(l))
}

// Items returns the parts without the spaces around them, empty ones included.
func (l List) Items(cell string) []string {
	items := l.Parts(cell)
	for i := range items {
		items[i] = strings.TrimSpace(items[i])
	}
	return items
}

// Values returns the items that are not empty.
func (l List) Values(cell string) (values []string) {
	for _, item := range l.Parts(cell) {
		if item = strings.TrimSpace(item); item != "" {
			values = append(values, item)
		}
	}
	return values
}

// Spaced reports whether a space stands behind a mark of a cell.
func (l List) Spaced(cell string) bool {
	for {
		_, behind, found := strings.Cut(cell, string(l))
		if !found || l == "" {
			return false
		}
		if strings.HasPrefix(behind, " ") {
			return true
		}
		cell = behind
	}
}

// Join puts values together.
func (l List) Join(values []string) string { return strings.Join(values, string(l)) }

// Quoted returns the values of a cell as [List.Values] does, with quotation marks honoured: what stands between two of them is
// one value, whatever marks it has in it, and "" within stands for one.
func (l List) Quoted(cell string) []string { return l.AppendQuoted(nil, cell) }

// AppendQuoted appends the values that [List.Quoted] returns.
func (l List) AppendQuoted(values []string, cell string) []string {
	for rest := cell; rest != ""; {
		rest = strings.TrimLeft(rest, " \t")
		if value, more, ok := l.quoted(rest); ok {
			rest = more
			if value = strings.TrimSpace(value); value != "" {
				values = append(values, value)
			}
			continue
		}
		end := len(rest)
		if l != "" {
			end = l.index(rest)
		}
		if value := strings.TrimSpace(rest[:end]); value != "" {
			values = append(values, value)
		}
		if end == len(rest) {
			break
		}
		rest = rest[end+len(l):]
	}
	return values
}

// index returns where the mark stands first, the length of the text if nowhere. A comma between digits is that of a number.
func (l List) index(s string) int {
	for from := 0; ; {
		at := strings.Index(s[from:], string(l))
		if at < 0 {
			return len(s)
		}
		if at += from; l != "," || at == 0 || at+1 == len(s) || !isDigit(s[at-1]) || !isDigit(s[at+1]) {
			return at
		}
		from = at + 1
	}
}

// Within reports whether the mark stands in a cell outside of quotation marks.
func (l List) Within(cell string) bool {
	if strings.IndexByte(cell, '"') < 0 {
		return l.index(cell) < len(cell)
	}
	for {
		open := openQuote(cell)
		if l.index(cell[:open]) < open {
			return true
		}
		if open == len(cell) {
			return false
		}
		shut := shutQuote(cell, open)
		if shut < 0 {
			return l.index(cell) < len(cell)
		}
		cell = cell[shut+1:]
	}
}

// openQuote returns where a quotation mark stands before a value, the length of the cell if none does.
func openQuote(cell string) int {
	for i := 0; i < len(cell); i++ {
		if cell[i] == '"' && (i == 0 || besideQuote(cell[i-1])) {
			return i
		}
	}
	return len(cell)
}

// shutQuote returns where the quotation mark stands that closes another, -1 if none does.
func shutQuote(cell string, open int) int {
	for i := open + 1; i < len(cell); i++ {
		if cell[i] != '"' {
			continue
		}
		if i+1 == len(cell) || besideQuote(cell[i+1]) {
			return i
		}
		if cell[i+1] == '"' {
			i++
		}
	}
	return -1
}

// besideQuote reports whether a byte may stand beside the quotation marks of a value.
func besideQuote(c byte) bool { return c <= ' ' || strings.IndexByte(",;|/>", c) >= 0 || c >= 0x80 }

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// quoted reads a value in quotation marks at the beginning of a text, and returns what stands behind the mark after it; ok is
// false if there is none, or if something else stands behind the closing one.
func (l List) quoted(s string) (value, rest string, ok bool) {
	if s == "" || s[0] != '"' {
		return "", "", false
	}
	for i := 1; i < len(s); i++ {
		if s[i] != '"' {
			continue
		}
		if i+1 < len(s) && s[i+1] == '"' {
			i++
			continue
		}
		value, rest = strings.ReplaceAll(s[1:i], `""`, `"`), strings.TrimLeft(s[i+1:], " \t")
		if rest == "" {
			return value, "", true
		}
		if l == "" || !strings.HasPrefix(rest, string(l)) {
			return "", "", false
		}
		return value, rest[len(l):], true
	}
	return "", "", false
}

// Quote returns a value with quotation marks around it, if the mark stands in it.
func (l List) Quote(value string) string {
	if !strings.Contains(value, string(l)) {
		return value
	}
	return `"` + strings.ReplaceAll(value, `"`, `""`) + `"`
}
