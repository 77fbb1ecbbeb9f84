package sheet

import (
	"slices"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// A Reading says how a file is to be read, where the user says so. The zero value
// leaves it all to be found out.
type Reading struct {
	Encoding   string `json:"encoding,omitempty"`    // of a CSV file
	Separator  string `json:"separator,omitempty"`   // of its cells: a character of ASCII, or its name
	Quote      string `json:"quote,omitempty"`       // around its cells: a character of ASCII
	HeadingRow int    `json:"heading_row,omitempty"` // the row that has the headings
	NoHeadings bool   `json:"no_headings,omitempty"` // there are none
}

// Check returns what is wrong with what was said, by the name of the flag.
func (r *Reading) Check() (problems []catalogue.Problem) {
	wrong := func(key, text string) { problems = append(problems, catalogue.Problem{Key: key, Text: text}) }
	if _, ok := charset.Parse(r.Encoding); r.Encoding != "" && !ok {
		wrong("encoding", "there is no such encoding; those that can be read are: "+strings.Join(charset.Names(), ", "))
	}
	if r.Separator != "" && r.SeparatorByte() == 0 {
		wrong("separator", "a separator is one character of ASCII, or comma, semicolon, tab or pipe")
	} else if r.Quote == "" && r.SeparatorByte() == '"' {
		wrong("separator", "this is the quotation mark; name another one (quote), too")
	}
	if r.Quote != "" && r.QuoteByte() == 0 {
		wrong("quote", "a quotation mark is one character of ASCII, and another than the separator")
	}
	switch {
	case r.HeadingRow < 0:
		wrong("heading-row", "a number from 1 on")
	case r.HeadingRow > 0 && r.NoHeadings:
		wrong("no-headings", "goes without the setting ‹heading-row›")
	}
	return problems
}

// skipped returns how many rows are not even looked at, because the headings are said to
// stand far below.
func (r *Reading) skipped() int {
	if r.HeadingRow <= sampleRows {
		return 0
	}
	return r.HeadingRow - 1
}

// SeparatorByte returns the separator, 0 if none is said.
func (r *Reading) SeparatorByte() byte {
	if i := slices.Index([]string{"comma", "semicolon", "tab", "pipe"}, strings.ToLower(r.Separator)); i >= 0 {
		return separators[i]
	}
	if r.Separator == `\t` {
		return '\t'
	}
	return oneByte(r.Separator)
}

// QuoteByte returns the quotation mark, 0 if none is said.
func (r *Reading) QuoteByte() byte {
	if q := oneByte(r.Quote); q != r.SeparatorByte() {
		return q
	}
	return 0
}

func oneByte(s string) byte {
	if len(s) != 1 || s[0] >= utf8.RuneSelf || s[0] < ' ' && s[0] != '\t' || s[0]|0x20 >= 'a' && s[0]|0x20 <= 'z' ||
		s[0] >= '0' && s[0] <= '9' {
		return 0
	}
	return s[0]
}
