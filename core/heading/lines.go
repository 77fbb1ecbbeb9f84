package heading

import (
	_ "embed"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
)

//go:embed lines.txt
var linesFile string

// lineWords are the words of lines beside the headings, by what they say.
var lineWords = func() map[string]map[string]bool {
	m := make(map[string]map[string]bool)
	for line := range strings.Lines(linesFile) {
		kind, list, ok := strings.Cut(strings.TrimSpace(line), ":")
		if !ok || line[0] == '#' {
			continue
		}
		m[kind] = make(map[string]bool)
		for word := range strings.SplitSeq(list, ",") {
			if w := bare(word); w == "" || m[kind][w] {
				panic("lines.txt: twice or empty: " + word)
			} else {
				m[kind][w] = true
			}
		}
	}
	return m
}()

// bare returns a text in lower case without spaces, full stops and brackets.
func bare(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) || strings.ContainsRune(".()[]<>{}*", r) {
			return -1
		}
		return unicode.ToLower(r)
	}, s)
}

// Beneath says what a row right under the headings is if it is no product: the headings
// in other words, units or demands, a guide to filling the columns in, or an example.
// fields are those of the headings. It is [catalogue.NoFinding] if the row may be a
// product.
func Beneath(cells []string, fields []catalogue.Field) catalogue.Code {
	switch {
	case isNames(cells, fields):
		return catalogue.RowNames
	case isUnits(cells, fields):
		return catalogue.RowUnits
	case isExample(cells, fields):
		return catalogue.RowExample
	case isGuide(cells, fields):
		return catalogue.RowGuide
	}
	return catalogue.NoFinding
}

// isNames reports whether a row has the headings once more in other words: at least two
// and most of them mean what the heading above them means, or all are names as programs
// have them.
func isNames(cells []string, fields []catalogue.Field) bool {
	filled, same, technical := 0, 0, 0
	for col, cell := range cells {
		if cell = strings.TrimSpace(cell); cell == "" {
			continue
		}
		filled++
		if col < len(fields) && fields[col] != catalogue.Unknown && means(cell, fields[col]) {
			same++
		}
		if name := technicalName(cell); !name {
			technical -= len(cells)
		} else if strings.ContainsAny(cell, "_.:") {
			technical++
		}
	}
	return same >= 2 && 2*same > filled || technical >= 3 && 2*filled >= len(cells)
}

// means reports whether a heading means a field, if need be without words before it:
// item_sku.
func means(h string, f catalogue.Field) bool {
	for {
		if Field(h) == f {
			return true
		}
		_, rest, more := strings.Cut(h, "_")
		if !more {
			return false
		}
		h = rest
	}
}

// technicalName reports whether a text is written like a name in a program: item_name.
func technicalName(s string) bool {
	letters := 0
	for i, r := range s {
		switch {
		case r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z':
			letters++
		case i > 0 && (r == '_' || r == '.' || r == ':' || r == '#' || r >= '0' && r <= '9'):
		default:
			return false
		}
	}
	return 2*letters > len(s)
}

// isUnits reports whether each filled cell of a row, at least two or one where a number
// should be, has a unit or says what must stand there.
func isUnits(cells []string, fields []catalogue.Field) bool {
	filled, number := 0, false
	for col, cell := range cells {
		b := bare(cell)
		if b == "" {
			continue
		}
		if !lineWords["unit"][b] && !lineWords["demand"][b] {
			return false
		}
		filled++
		number = col < len(fields) && fields[col].Kind().Numeric()
	}
	return filled >= 2 || filled == 1 && number
}

// isExample reports whether the first cell of a row, its SKU or its title is or begins
// with the word for an example.
func isExample(cells []string, fields []catalogue.Field) bool {
	first := true
	for col, cell := range cells {
		if cell = strings.TrimSpace(cell); cell == "" {
			continue
		}
		known := col < len(fields) && (fields[col] == catalogue.SKU || fields[col] == catalogue.Title)
		if first || known {
			word := cell
			if at := strings.IndexAny(cell, ":(–"); at > 0 {
				word = cell[:at]
			} else if cell[0] == '(' || cell[0] == '[' {
				word, _, _ = strings.Cut(cell[1:], string(")]"[strings.IndexByte("([", cell[0])]))
			}
			if lineWords["example"][bare(word)] {
				return true
			}
		}
		first = false
	}
	return false
}

// isGuide reports whether a row has sentences where codes and numbers should stand: in
// all such cells that are filled, at least two, and one of them an SKU or a barcode.
func isGuide(cells []string, fields []catalogue.Field) bool {
	sentences, code, long := 0, false, false
	for col, cell := range cells {
		if col >= len(fields) || strings.TrimSpace(cell) == "" {
			continue
		}
		switch k := fields[col].Kind(); {
		case k != catalogue.CodeKind && !k.Numeric() && k != catalogue.DateKind:
			continue
		case lineWords["demand"][bare(cell)]:
		case !prose(cell):
			return false
		default:
			long = long || len(strings.Fields(cell)) >= 4
			code = code || fields[col] == catalogue.SKU || fields[col] == catalogue.Barcode
		}
		sentences++
	}
	return sentences >= 2 && code && long
}

// IsUnit reports whether a word is one of a unit: kg, pcs.
func IsUnit(word string) bool { return lineWords["unit"][bare(word)] }

// prose reports whether a text is made of words: at least two, and hardly anything in it
// but letters.
func prose(s string) bool {
	letters, others := 0, 0
	for _, r := range s {
		switch {
		case unicode.IsLetter(r):
			letters++
		case !unicode.IsSpace(r):
			others++
		}
	}
	return len(strings.Fields(s)) >= 2 && letters >= 4*others
}

// IsNote reports whether all that a row has is a sentence where a code or a number
// should stand. fields are those of the headings.
func IsNote(cells []string, fields []catalogue.Field) bool {
	at := -1
	for col, cell := range cells {
		if cell == "" || strings.TrimSpace(cell) == "" {
			continue
		}
		if at >= 0 {
			return false
		}
		at = col
	}
	if at < 0 || at >= len(fields) || len(fields) < 3 {
		return false
	}
	k := fields[at].Kind()
	return (k == catalogue.CodeKind || k.Numeric()) && fields[at] != catalogue.Slug && len(strings.Fields(cells[at])) >= 4 &&
		prose(cells[at])
}
