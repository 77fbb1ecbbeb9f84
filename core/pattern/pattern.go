// Package pattern builds a text from the cells of a row:
//
//	{brand} {title}                    the cells, with a space between
//	{title}[, {colour}][ ({size})]     a part in square brackets vanishes if a cell in it is empty
//	{short_description|title}          the first of several that is not empty
//	{"Product group" upper first 3}    a heading with spaces, and words that narrow the text
//
// The words after a name are upper, lower, letters, digits, ascii, slug (lower case, dashes, ASCII: safe in an
// address), words N, first N and last N; they work from left to right. A pattern need not have a slot. A brace or a square bracket that is meant
// as such is doubled: {{ }} [[ ]].
package pattern

import (
	"errors"
	"fmt"
	"html"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/text"
)

// ErrWrong is wrapped by every error about how a pattern is written.
var ErrWrong = errors.New("the pattern is wrong")

// A Pattern is a text with slots.
type Pattern struct {
	text  string
	parts []part
	slots []*slot
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
}

type column struct {
	col    int
	escape bool
}

// maxDepth is how deep optional parts may be nested.
const maxDepth = 10

// Parse reads a pattern.
func Parse(text string) (*Pattern, error) {
	r := reader{rest: text, whole: text}
	p := &Pattern{text: text}
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

type reader struct {
	rest, whole string
	slots       []*slot
}

func (r *reader) wrong(format string, args ...any) error {
	at := utf8.RuneCountInString(r.whole[:len(r.whole)-len(r.rest)]) + 1
	return fmt.Errorf("%w: %q, character %d: %s", ErrWrong, catalogue.Shorten(r.whole, 80), at, fmt.Sprintf(format, args...))
}

// parts reads up to the bracket that closes a group, or to the end.
func (r *reader) parts(depth int) (list []part, err error) {
	if depth > maxDepth {
		return nil, r.wrong("optional parts are nested more than %d deep", maxDepth)
	}
	var text strings.Builder
	flush := func() {
		if text.Len() > 0 {
			list = append(list, part{text: text.String()})
			text.Reset()
		}
	}
	for r.rest != "" {
		c := r.rest[0]
		if strings.IndexByte("{}[]", c) >= 0 && len(r.rest) > 1 && r.rest[1] == c && !(c == ']' && depth > 0) {
			text.WriteByte(c)
			r.rest = r.rest[2:]
			continue
		}
		switch c {
		case '{':
			flush()
			s, err := r.slot()
			if err != nil {
				return nil, err
			}
			list = append(list, part{slot: s})
		case '[':
			flush()
			before := len(r.slots)
			start := r.rest
			r.rest = r.rest[1:]
			group, err := r.parts(depth + 1)
			if err != nil {
				return nil, err
			}
			if len(r.slots) == before {
				r.rest = start
				return nil, r.wrong("an optional part without a field in it would always be there; write [[ for a bracket")
			}
			list = append(list, part{group: group})
		case ']':
			if depth == 0 {
				return nil, r.wrong("a ] without its [; write ]] for a bracket")
			}
			r.rest = r.rest[1:]
			flush()
			return list, nil
		case '}':
			return nil, r.wrong("a } without its {; write }} for a brace")
		default:
			text.WriteByte(c)
			r.rest = r.rest[1:]
		}
	}
	if depth > 0 {
		return nil, r.wrong("a [ is not closed")
	}
	flush()
	return list, nil
}

// slot reads {names words}.
func (r *reader) slot() (*slot, error) {
	r.rest = r.rest[1:]
	s := new(slot)
	for {
		name, err := r.name()
		if err != nil {
			return nil, err
		}
		s.names = append(s.names, name)
		r.space()
		if !strings.HasPrefix(r.rest, "|") {
			break
		}
		r.rest = r.rest[1:]
	}
	shut := strings.IndexByte(r.rest, '}')
	if shut < 0 {
		return nil, r.wrong("a { is not closed")
	}
	words := strings.Fields(r.rest[:shut])
	for len(words) > 0 {
		var err error
		if words, err = s.word(words); err != nil {
			return nil, r.wrong("%v", err)
		}
	}
	r.rest = r.rest[shut+1:]
	r.slots = append(r.slots, s)
	return s, nil
}

func (r *reader) space() { r.rest = strings.TrimLeft(r.rest, " ") }

func (r *reader) name() (string, error) {
	r.space()
	if strings.HasPrefix(r.rest, `"`) {
		shut := strings.IndexByte(r.rest[1:], '"')
		if shut < 1 {
			return "", r.wrong("a heading in quotation marks is not closed")
		}
		name := r.rest[1 : 1+shut]
		r.rest = r.rest[shut+2:]
		return name, nil
	}
	end := strings.IndexAny(r.rest, " |{}[]")
	if end < 0 {
		return "", r.wrong("a { is not closed")
	}
	if end == 0 {
		return "", r.wrong("a field or a heading is missing here")
	}
	name := r.rest[:end]
	r.rest = r.rest[end:]
	return name, nil
}

// wordNames are the words that may stand in a slot.
const wordNames = "upper lower letters digits ascii slug words N first N last N"

// word takes one of the words, with its number, off a list.
func (s *slot) word(words []string) (rest []string, err error) {
	word, n := words[0], 0
	switch word {
	case "words", "first", "last":
		if len(words) > 1 {
			n, _ = strconv.Atoi(words[1])
		}
		if n < 1 || n > 1000 {
			return nil, fmt.Errorf("%s needs a number from 1 to 1000 behind it: %s 4", word, word)
		}
		rest = words[2:]
	default:
		rest = words[1:]
	}
	var do func(string) string
	switch word {
	case "upper":
		do = strings.ToUpper
	case "lower":
		do = strings.ToLower
	case "letters":
		do = only(unicode.IsLetter)
	case "digits":
		do = only(unicode.IsDigit)
	case "ascii":
		do = func(t string) string { return strings.Join(strings.Fields(text.ASCII(t)), " ") }
	case "slug":
		do = text.Slug
	case "words":
		do = func(t string) string {
			f := strings.Fields(t)
			return strings.Join(f[:min(n, len(f))], " ")
		}
	case "first":
		do = func(t string) string {
			runes := []rune(t)
			return string(runes[:min(n, len(runes))])
		}
	case "last":
		do = func(t string) string {
			runes := []rune(t)
			return string(runes[max(0, len(runes)-n):])
		}
	default:
		return nil, fmt.Errorf("there is no word %q; the words are: %s. A heading with a space stands in quotation marks", word, wordNames)
	}
	s.words = append(s.words, do)
	return rest, nil
}

func only(keep func(rune) bool) func(string) string {
	return func(t string) string {
		return strings.Map(func(r rune) rune {
			if keep(r) {
				return r
			}
			return -1
		}, t)
	}
}

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

// Text builds the text for a row. If a cell is empty that has no alternative and
// stands in no optional part, there is none, and missing is its name.
func (p *Pattern) Text(row *catalogue.Row) (text, missing string) {
	var b strings.Builder
	if s := build(&b, p.parts, row); s != nil {
		return "", strings.Join(s.names, " or ")
	}
	return strings.TrimSpace(b.String()), ""
}

// build writes parts; it returns the first slot that has nothing to write.
func build(b *strings.Builder, parts []part, row *catalogue.Row) *slot {
	for i := range parts {
		p := &parts[i]
		switch {
		case p.slot != nil:
			text := p.slot.text(row)
			if text == "" {
				return p.slot
			}
			b.WriteString(text)
		case p.group != nil:
			var inner strings.Builder
			if build(&inner, p.group, row) == nil {
				b.WriteString(inner.String())
			}
		default:
			b.WriteString(p.text)
		}
	}
	return nil
}

func (s *slot) text(row *catalogue.Row) string {
	for _, c := range s.cols {
		text := strings.TrimSpace(row.Cell(c.col))
		for _, do := range s.words {
			text = strings.TrimSpace(do(text))
		}
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
