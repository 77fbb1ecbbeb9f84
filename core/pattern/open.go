package pattern

import (
	"slices"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/text"
)

// An Open is a slot of a code that is open until it is known which codes there are.
type Open struct {
	Kind OpenKind
	N    int // characters; 0: as many as there are
}

// An OpenKind is what comes to stand in an open slot.
type OpenKind byte

// The kinds.
const (
	Counter       OpenKind = iota + 'a' // a number
	RandomDigits                        // as if drawn, without 0 and 1
	RandomLetters                       // capitals, without vowels and without what looks like a digit
	AllDigits                           // as if drawn, 0 and 1 among them
	AllLetters                          // any capitals
	Check372                            // ISO/IEC 7064 MOD 37-2
	Check1110                           // ISO/IEC 7064 MOD 11,10
	CheckLuhn                           // ISO/IEC 7812-1
	CheckGTIN                           // the check digit of barcodes, GS1 General Specifications, 7.9
)

// checks are the check characters by their names.
var checks = map[string]OpenKind{"37-2": Check372, "11-10": Check1110, "luhn": CheckLuhn, "gtin": CheckGTIN}

// most is how many characters an open slot has at most.
const mostOpen = 18

// builtIn reads a slot that is no cell, but for the words behind it.
func (r *reader) builtIn(s *slot) (built bool, err error) {
	name, start := r.word(), r.rest
	if !slices.Contains([]string{"year", "counter", "random", "check"}, name) {
		return false, nil
	}
	r.rest = r.rest[len(name):]
	if name == "year" {
		s.year = true
		return true, nil
	}
	wrong := func(format string, args ...any) (bool, error) {
		end := max(strings.IndexByte(start, '}'), len(name))
		return true, r.wrongAt(start, end, format, args...)
	}
	if !r.code {
		return wrong("{%s} is for codes that are minted; a heading of that name stands in quotation marks: {\"%s\"}", name, name)
	}
	r.space()
	switch name {
	case "counter":
		s.open = Open{Counter, r.number(mostOpen)}
	case "random":
		word := r.word()
		r.rest = r.rest[len(word):]
		kind, ok := map[string]OpenKind{"digits": RandomDigits, "letters": RandomLetters}[word]
		if s.open = (Open{kind, r.number(mostOpen)}); !ok || s.open.N == 0 {
			return wrong("random needs to know what, and how many: {random digits 5} or {random letters 4}")
		}
		if r.space(); r.word() == "all" {
			r.rest = r.rest[len("all"):]
			s.open.Kind += AllDigits - RandomDigits
		}
	case "check":
		word := r.word()
		r.rest = r.rest[len(word):]
		kind, ok := checks[word]
		if s.open.Kind = kind; !ok {
			return wrong("check needs to know which%s: 37-2 for letters and digits, 11-10, luhn or gtin for digits alone",
				text.DidYouMean(word, []string{"37-2", "11-10", "luhn", "gtin"}))
		}
	}
	if s.open.N < 0 {
		return wrong("the number behind {%s …} is one from 1 to %d", name, mostOpen)
	}
	if r.space(); !strings.HasPrefix(r.rest, "}") {
		return wrong("nothing more stands behind {%s}", strings.TrimSpace(start[:len(start)-len(r.rest)]))
	}
	return true, nil
}

// A Draft is a code of which some is still open. What is open, and optional parts with something
// open in them, stands between control characters, which cells do not have in it.
type Draft string

const (
	openMark    = "\x01" // before the kind and the number of characters
	groupOpens  = "\x02"
	groupCloses = "\x03"
)

func (o Open) write(b *strings.Builder) {
	b.WriteString(openMark)
	b.WriteByte(byte(o.Kind))
	b.WriteByte(byte('0' + o.N))
}

// opens reports whether something in a group is open.
func (p *part) opens() bool {
	return slices.ContainsFunc(p.group, func(inner part) bool {
		return inner.slot != nil && inner.slot.open.Kind != 0 || inner.opens()
	})
}

// Opens reports whether something in codes of the pattern is open that tells them apart, in optional parts
// or outside of them.
func (p *Pattern) Opens() bool {
	return slices.ContainsFunc(p.slots, func(s *slot) bool { return s.open.Kind != 0 && s.open.Kind < Check372 })
}

// Counts reports whether codes of the pattern have a counter.
func (p *Pattern) Counts() bool {
	return slices.ContainsFunc(p.slots, func(s *slot) bool { return s.open.Kind == Counter })
}

// CounterPlace returns how many characters the counter has, 0 for any number, and how many stand behind
// it; -1 if there may be more or fewer.
func (p *Pattern) CounterPlace() (size, behind int) {
	found := false
	var walk func(parts []part)
	walk = func(parts []part) {
		for i := range parts {
			switch part := &parts[i]; {
			case part.group != nil:
				before := found
				if walk(part.group); before && behind >= 0 {
					behind = -1 // it may be there or not
				}
			case part.slot != nil && part.slot.open.Kind == Counter && !found:
				found, size = true, part.slot.open.N
			case !found || behind < 0:
			case part.slot == nil:
				behind += utf8.RuneCountInString(part.text)
			case part.slot.open.Kind >= Check372:
				behind++
			case part.slot.open.Kind != 0 && part.slot.open.N > 0:
				behind += part.slot.open.N
			default:
				behind = -1
			}
		}
	}
	walk(p.parts)
	return size, behind
}

// Draft drafts the code for a row. If a cell is empty that has no alternative and stands in no
// optional part, there is none, and missing is its name.
func (p *Pattern) Draft(row *catalogue.Row) (d Draft, missing string) {
	code, missing := p.Text(row)
	return Draft(code), missing
}

// Counts reports whether a draft has a counter.
func (d Draft) Counts() bool { return strings.Contains(string(d), openMark+string(rune(Counter))) }

// A Piece of a draft is a text, or open.
type Piece struct {
	Text string
	Open
	Optional bool // it is there only where it must be
}

// Pieces calls do with the pieces of a draft in their order.
func (d Draft) Pieces(do func(Piece)) {
	optional := false
	for rest := string(d); rest != ""; {
		end := strings.IndexAny(rest, openMark+groupOpens+groupCloses)
		switch {
		case end < 0:
			do(Piece{Text: rest, Optional: optional})
			return
		case end > 0:
			do(Piece{Text: rest[:end], Optional: optional})
			rest = rest[end:]
		case rest[:1] == openMark:
			do(Piece{Open: Open{OpenKind(rest[1]), int(rest[2] - '0')}, Optional: optional})
			rest = rest[3:]
		default:
			optional = rest[:1] == groupOpens
			rest = rest[1:]
		}
	}
}
