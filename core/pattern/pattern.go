// Package pattern builds a text from the cells of a row:
//
//	{brand} {title}                    the cells, with a space between
//	{title}[, {colour}][ ({size})]     a part in square brackets vanishes if a cell in it is empty
//	{short_description|title}          the first of several that is not empty
//	{"Product group" upper first 3}    a heading with spaces, and words that narrow the text
//
// The words after a name change its text, from left to right; [Words] names them. A pattern need not
// have a slot. A brace or a square bracket that is meant as such is doubled: {{ }} [[ ]].
//
// Some slots are no cells. They win over headings of the same name, which then stand in quotation
// marks: {year}, that of the run, and in patterns of codes what is open until all codes are known:
//
//	{counter 4}                        a number for each text that stands before it, 0001 for the first
//	{random digits 5}                  digits, or letters, that look drawn; the same for the same product
//	{check 37-2}                       a check character over all that stands before it
//	{title slug}[-{counter}]           an optional part with a counter is there only where it must be
package pattern

import (
	"errors"
	"html"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/title"
)

// ErrWrong is wrapped by every error about how a pattern is written.
var ErrWrong = errors.New("the pattern is wrong")

// A Pattern is a text with slots.
type Pattern struct {
	text  string
	parts []part
	slots []*slot
	year  string
	code  bool // slots may be open
	words *title.Words

	styled bool // a word behind a name says how words are written
}

// anyWords are those of no language.
var anyWords = title.NewWords("", nil, nil)

// Speak says how words are written, if title or sentence stands in the pattern.
func (p *Pattern) Speak(words func() *title.Words) {
	if p.styled {
		p.words = words()
	}
}

// A part is a literal text, a slot or an optional group.
type part struct {
	text  string
	slot  *slot
	group []part
}

type slot struct {
	names []string
	cols  []column // of the names
	words []func(string) string
	year  bool // it is the year, and has no names
	open  Open // it is open, and has no names
}

type column struct {
	col    int
	escape bool
}

// maxDepth is how deep optional parts may be nested.
const maxDepth = 10

// Parse reads a pattern of texts.
func Parse(text string) (*Pattern, error) { return parse(text, false) }

// ParseCode reads a pattern of codes, in which slots may be open.
func ParseCode(text string) (*Pattern, error) { return parse(text, true) }

func parse(text string, code bool) (*Pattern, error) {
	p := &Pattern{text: text, code: code, words: anyWords}
	r := reader{pattern: p, rest: text, whole: text, code: code}
	var err error
	if p.parts, err = r.parts(0); err != nil {
		return nil, err
	}
	p.slots = r.slots
	if strings.TrimSpace(text) == "" {
		return nil, r.wrong("it is empty; it may be a text, with fields in it as {title}")
	}
	return p, nil
}

// String returns the pattern as it was written.
func (p *Pattern) String() string { return p.text }

// Bind says where the fields and headings of the pattern stand; column returns -1
// for one that is not there. escape says of which columns the text has to be
// written as HTML. It returns the columns, and the names that are not there.
func (p *Pattern) Bind(find func(name string) int, escape func(col int) bool) (cols []int, missing []string) {
	for _, s := range p.slots {
		s.cols = nil
		for _, name := range s.names {
			col := find(name)
			if col < 0 {
				missing = append(missing, name)
				continue
			}
			s.cols = append(s.cols, column{col, escape(col)})
			if !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols, missing
}

// Whole returns the columns whose cells the pattern always takes up as they are, if
// they are not empty.
func (p *Pattern) Whole() (cols []int) {
	for _, s := range p.slots {
		if len(s.cols) == 1 && len(s.words) == 0 {
			cols = append(cols, s.cols[0].col)
		}
	}
	return cols
}

// Names returns the fields and headings in the pattern.
func (p *Pattern) Names() (names []string) {
	for _, s := range p.slots {
		names = append(names, s.names...)
	}
	return names
}

// In says which year it is, for {year}.
func (p *Pattern) In(year string) { p.year = year }

// Text builds the text for a row. If a cell is empty that has no alternative and
// stands in no optional part, there is none, and missing is its name.
func (p *Pattern) Text(row *catalogue.Row) (text, missing string) {
	var b strings.Builder
	if s := p.build(&b, p.parts, row); s != nil {
		return "", s.named()
	}
	return strings.TrimSpace(b.String()), ""
}

// TextWithout builds the text for a row without the last of the optional parts that have something to say, n of them; ok is false if
// there are not so many, or the pattern cannot be built.
func (p *Pattern) TextWithout(row *catalogue.Row, n int) (text string, ok bool) {
	parts := slices.Clone(p.parts)
	for i := len(parts) - 1; i >= 0 && n > 0; i-- {
		var b strings.Builder
		if group := parts[i].group; group == nil || p.build(&b, group, row) != nil || strings.TrimSpace(b.String()) == "" {
			continue
		}
		parts = slices.Delete(parts, i, i+1)
		n--
	}
	var b strings.Builder
	if n > 0 || p.build(&b, parts, row) != nil {
		return "", false
	}
	return strings.TrimSpace(b.String()), true
}

// named says what a slot lacks that has no text.
func (s *slot) named() string {
	if s.year {
		return "year"
	}
	return strings.Join(s.names, " or ")
}

// build writes parts; it returns the first slot that has nothing to write.
func (p *Pattern) build(b *strings.Builder, parts []part, row *catalogue.Row) *slot {
	for i := range parts {
		switch part := &parts[i]; {
		case part.slot != nil && part.slot.open.Kind != 0:
			part.slot.open.write(b)
		case part.slot != nil:
			text := p.of(part.slot, row)
			if text == "" {
				return part.slot
			}
			b.WriteString(text)
		case part.group != nil:
			var inner strings.Builder
			if p.build(&inner, part.group, row) != nil {
				continue
			}
			if part.opens() {
				b.WriteString(groupOpens + inner.String() + groupCloses)
			} else {
				b.WriteString(inner.String())
			}
		default:
			b.WriteString(part.text)
		}
	}
	return nil
}

// printable makes a space of what is no character of a code.
func printable(c rune) rune {
	if c < ' ' {
		return ' '
	}
	return c
}

// of returns the text of a slot.
func (p *Pattern) of(s *slot, row *catalogue.Row) string {
	narrow := func(text string) string {
		for _, do := range s.words {
			text = strings.TrimSpace(do(text))
		}
		return text
	}
	if s.year {
		return narrow(p.year)
	}
	for _, c := range s.cols {
		cell := row.Cell(c.col)
		if p.code {
			cell = strings.Map(printable, cell)
		}
		text := narrow(strings.TrimSpace(cell))
		if text == "" {
			continue
		}
		if c.escape {
			text = html.EscapeString(text)
		}
		return text
	}
	return ""
}
