package pattern

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/text"
)

type reader struct {
	pattern     *Pattern
	rest, whole string
	slots       []*slot
	code        bool // slots may be open
}

// shownBefore and shownAfter are how many characters of a pattern are drawn around a mistake.
const (
	shownBefore = 40
	shownAfter  = 30
)

// wrong says what is wrong where the reader is.
func (r *reader) wrong(format string, args ...any) error {
	return r.wrongAt(r.rest, 1, format, args...)
}

// wrongAt says what is wrong in so many bytes from rest on, and draws the place.
func (r *reader) wrongAt(rest string, size int, format string, args ...any) error {
	at := len(r.whole) - len(rest)
	before, marked, after := []rune(r.whole[:at]), []rune(rest[:min(size, len(rest))]), []rune(rest[min(size, len(rest)):])
	number := len(before) + 1
	begins, ends := "", ""
	if len(before) > shownBefore {
		before, begins = before[len(before)-shownBefore:], "…"
	}
	if len(after) > shownAfter {
		after, ends = after[:shownAfter], "…"
	}
	if len(marked) > shownAfter {
		marked, after, ends = marked[:shownAfter], nil, "…"
	}
	oneLine := func(s []rune) string { return strings.Map(printable, string(s)) }
	return fmt.Errorf("%w at character %d: %s\n  %s%s%s%s%s\n  %s%s", ErrWrong, number, fmt.Sprintf(format, args...), begins, oneLine(before),
		oneLine(marked), oneLine(after), ends, strings.Repeat(" ", utf8.RuneCountInString(begins)+len(before)),
		strings.Repeat("^", max(1, len(marked))))
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
			if c < ' ' {
				c = ' '
			}
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
	r.space()
	s := new(slot)
	if built, err := r.builtIn(s); err != nil {
		return nil, err
	} else if !built {
		if err := r.names(s); err != nil {
			return nil, err
		}
	}
	for {
		r.space()
		switch {
		case r.rest == "" || strings.IndexByte(r.rest, '}') < 0:
			return nil, r.wrong("a { is not closed")
		case r.rest[0] == '}':
			r.rest = r.rest[1:]
			r.slots = append(r.slots, s)
			return s, nil
		}
		if err := r.narrow(s); err != nil {
			return nil, err
		}
	}
}

// names reads the names of a slot, with a | between them.
func (r *reader) names(s *slot) error {
	for {
		name, err := r.name()
		if err != nil {
			return err
		}
		s.names = append(s.names, name)
		r.space()
		if !strings.HasPrefix(r.rest, "|") {
			return nil
		}
		r.rest = r.rest[1:]
	}
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

// word returns the next word of a slot, without taking it.
func (r *reader) word() string {
	end := strings.IndexAny(r.rest, " }")
	if end < 0 {
		end = len(r.rest)
	}
	return r.rest[:end]
}

// number takes the number behind a word; 0 if there is none, -1 if it is none from 1 to most.
func (r *reader) number(most int) int {
	r.space()
	word := r.word()
	if word == "" || strings.Trim(word, "0123456789") != "" {
		return 0
	}
	r.rest = r.rest[len(word):]
	n := 0
	for _, c := range word {
		if n = 10*n + int(c-'0'); n > most {
			return -1
		}
	}
	if n == 0 {
		return -1
	}
	return n
}

// mostCharacters is the greatest number behind a word.
const mostCharacters = 1000

// narrow reads a word behind the names of a slot, with its number.
func (r *reader) narrow(s *slot) error {
	word, start := r.word(), r.rest
	at := slices.IndexFunc(words, func(w narrowing) bool { return w.name == word })
	if at < 0 {
		return r.wrongAt(start, len(word), "there is no word %q%s; the words are: %s. A heading with a space stands in quotation marks",
			catalogue.Shorten(word, 40), text.DidYouMean(word, wordNames()), Words())
	}
	r.rest = r.rest[len(word):]
	w, n := &words[at], 0
	if w.counts {
		if n = r.number(mostCharacters); n < 1 {
			return r.wrongAt(start, len(word), "%s needs a number from 1 to %d behind it: %s 4", word, mostCharacters, word)
		}
	}
	if w.do == nil {
		p := r.pattern
		p.styled = true
		s.words = append(s.words, func(text string) string { return p.words.Case(text, w.style, "", "") })
		return nil
	}
	s.words = append(s.words, func(text string) string { return w.do(text, n) })
	return nil
}
