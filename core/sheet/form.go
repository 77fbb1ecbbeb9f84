package sheet

import "zetanum/core/charset"

// A Form is how a table is written down.
type Form struct {
	Charset   charset.Charset
	BOM       bool
	Foreign   charset.Charset // of bytes that are no UTF-8 in a file that is; UTF8 if there are none
	Separator byte
	CR        bool // rows end with a lone CR
	Lenient   bool // a quotation mark that is never closed is a character
	Columns   int  // how many headings there are; only Lenient needs it
	Spooled   bool // rows of cells with their lengths before them
	Numbered  bool // and each with its number before it
	LineEnd   string
}

// separators are those that are looked for, the likeliest first.
var separators = []byte{',', ';', '\t', '|'}

// rareSeparators are taken only if the headings that come of them are known.
var rareSeparators = []byte("^~#!:")

// SeparatorName returns the separator's name in words.
func (f *Form) SeparatorName() string { return byteName(f.Separator) }

func byteName(c byte) string {
	switch c {
	case ',':
		return "comma"
	case ';':
		return "semicolon"
	case '\t':
		return "tab"
	case '|':
		return "pipe"
	}
	return string(c)
}

// whole returns a text in UTF-8, with what in it was of another encoding.
func (f *Form) whole(s string) string {
	if f.Foreign == charset.UTF8 {
		return s
	}
	return f.Foreign.DecodeRest(s)
}

// lineEnd returns the byte that ends a row.
func (f *Form) lineEnd() byte {
	if f.CR {
		return '\r'
	}
	return '\n'
}
