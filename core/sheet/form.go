package sheet

import "zetanum/core/charset"

// An Encoding is what is known of the encoding of a file.
type Encoding struct {
	Charset charset.Charset
	BOM     bool
	Foreign charset.Charset // of bytes that are no UTF-8 in a file that is; UTF8 if there are none, or they cannot be read
	// First is the encoding that the file was taken for, or what of it is no UTF-8, and
	// Second is as likely; UTF8 if it is not open which is right.
	First, Second charset.Charset
	Mixed         bool // there are rows of Foreign, not only words
	Broken        bool // bytes that are no UTF-8 are of no encoding: each stands for a character that is lost
	Cut           bool // the file ends in the middle of a character
}

// A Form is how a table is written down.
type Form struct {
	Encoding
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

// Decode returns a text of the file in UTF-8, with what in it was of another encoding.
func (f *Encoding) Decode(s string) string {
	if f.Charset != charset.UTF8 || f.Pure() {
		return s
	}
	return f.Foreign.DecodeRest(s, f.Mixed)
}

// Pure reports whether a file is in one encoding to its end, as far as is known.
func (f *Encoding) Pure() bool { return f.Foreign == charset.UTF8 && !f.Broken }

// Other returns what a cell would be in the encoding that is as likely as the one that
// was taken; raw is the cell as it stands in the file, and text as it was read. ok is
// false if that is the same, or if nothing is open.
func (f *Encoding) Other(raw, text string) (other string, ok bool) {
	switch {
	case f.Second == charset.UTF8:
		return "", false
	case f.Foreign != charset.UTF8:
		other = f.Second.DecodeRest(raw, f.Mixed)
		return other, raw != text && other != text
	}
	return f.First.Differs(f.Second, text)
}

// Own returns the name of the encoding of the file, or of what of it is no UTF-8; "" if
// all of it is.
func (f *Encoding) Own() string {
	if c := max(f.Charset, f.Foreign); c != charset.UTF8 {
		return c.String()
	}
	return ""
}

// lineEnd returns the byte that ends a row.
func (f *Form) lineEnd() byte {
	if f.CR {
		return '\r'
	}
	return '\n'
}
