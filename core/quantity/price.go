package quantity

import (
	"encoding/binary"
	"strings"
	"unicode"
	"unicode/utf8"
)

// A What says what stands in a cell where a quantity should be. The zero value is a number that is read.
type What uint8

// What can stand there.
const (
	Value      What = iota
	Blank           // nothing
	Dash            // a dash alone
	Asked           // a number whose only mark may stand before decimals or between thousands
	About           // about so much
	From            // from so much on
	Range           // from one number to another
	Request         // on request
	Percent         // a share of something
	Error           // an error of the spreadsheet program
	Formula         // a formula of it
	Negative        // less than nothing
	Malformed       // a number with marks where none can be
	Impossible      // a day that there is not
	Partial         // a month or a year without its day
	Words           // something else
)

var whats = [...]string{"value", "blank", "dash", "asked", "about", "from", "range", "request", "percent", "error", "formula", "negative", "malformed", "impossible", "partial", "words"}

// String returns a word for it.
func (w What) String() string { return whats[w] }

// A Price is what was read of a cell.
type Price struct {
	Is       What
	Number   Number // of [Value], [About], [From] and [Range], of which it is the first
	Currency string // its code, the sign where that stands for several, "" if none is said
}

// Marks are what the cells of a column show of the marks in its numbers. They are an ordered monoid: whatever the order in which cells are
// seen, they come out the same.
type Marks struct {
	Comma int // cells in which a comma stands before decimals, or a point between thousands
	Point int // the other way round
	Fine  int // with more than two decimals, for certain
	Open  int // in which one mark could be either
}

// Plain reads a cell that is surely a number of digits, as nearly all are, with one or two of them behind a mark, or none.
func Plain(cell string) (n Number, ok bool) {
	if len(cell) == 0 || len(cell) >= MostDigits {
		return n, false
	}
	at := -1
	for i := range len(cell) {
		switch c := cell[i]; {
		case c >= '0' && c <= '9':
			n.coef = 10*n.coef + uint64(c-'0')
		case (c == '.' || c == ',') && at < 0 && i > 0:
			at, n.mark = i, c
		default:
			return Number{}, false
		}
	}
	n.digits = uint8(len(cell))
	if at >= 0 {
		n.digits, n.behind = n.digits-1, uint8(len(cell)-at-1)
	}
	return n, at < 0 || n.behind == 1 || n.behind == 2
}

// Learn takes in a cell, and returns what can be read of it by itself; open is the mark of one that could be read in two ways, of which the
// larger one is returned.
func (m *Marks) Learn(cell string) (p Price, open rune) {
	if n, ok := Plain(cell); ok {
		if n.mark == ',' {
			m.Comma++
		} else if n.mark == '.' {
			m.Point++
		}
		return Price{Number: n}, 0
	}
	var s scanner
	if p = s.read(cell, Form{}); s.fine {
		m.Fine++
	}
	switch {
	case s.proves == ',':
		m.Comma++
	case s.proves == '.':
		m.Point++
	case s.open:
		m.Open++
		open = s.mark
	}
	return p, open
}

// Merge takes in what others say.
func (m *Marks) Merge(o Marks) {
	m.Comma, m.Point, m.Fine, m.Open = m.Comma+o.Comma, m.Point+o.Point, m.Fine+o.Fine, m.Open+o.Open
}

// AppendTo appends what they say.
func (m Marks) AppendTo(b []byte) []byte {
	for _, n := range []int{m.Comma, m.Point, m.Fine, m.Open} {
		b = binary.AppendUvarint(b, uint64(n))
	}
	return b
}

// A Form says how the numbers of a column are written.
type Form struct {
	Decimal rune // the mark before decimals, '.' or ','; 0 if nobody knows
	Fine    bool // numbers may have three decimals and more
}

// strays is how many cells of one form have to stand against each of the other, so that a column is of that form all the same.
const strays = 50

// Form returns how the numbers of the column are written, as far as it settles that.
func (m Marks) Form() (f Form) {
	switch {
	case m.Comma > strays*m.Point:
		f.Decimal = ','
	case m.Point > strays*m.Comma:
		f.Decimal = '.'
	}
	f.Fine = m.Fine > 0
	return f
}

// plainIn is [Plain] for a cell of a column of a form, of which it has the mark.
func plainIn(cell string, form Form) (n Number, ok bool) {
	n, ok = Plain(cell)
	if n.mark != 0 {
		ok = ok && (form.Decimal == 0 || form.Decimal == rune(n.mark)) || form.Fine && form.Decimal == rune(n.mark) && n.behind > 0
		n.mark = '.'
	}
	return n, ok
}

// ReadPrice reads a cell of a column of a form.
func ReadPrice(cell string, form Form) Price {
	if n, ok := plainIn(cell, form); ok {
		return Price{Number: n}
	}
	var s scanner
	return s.read(cell, form)
}

// A scanner reads one cell.
type scanner struct {
	proves rune // the mark before decimals, as the cell shows it; 0 if it does not
	open   bool // its mark could be either
	mark   rune // which it is
	fine   bool // it has more than two decimals
}

// trim takes off what cannot be seen around a text, and the apostrophe that keeps a spreadsheet program from reading a number.
func trim(s string) string {
	s = strings.TrimFunc(s, func(r rune) bool { return unicode.IsSpace(r) || unicode.Is(unicode.Cf, r) || r == '\u00a0' })
	if len(s) > 1 && s[0] == '\'' && s[1] >= '0' && s[1] <= '9' {
		s = s[1:]
	}
	return s
}

// plainly returns what can be seen of a cell, and says what it is if that is no quantity of any kind.
func plainly(cell string) (text string, is What) {
	switch text = trim(cell); {
	case text == "":
		return text, Blank
	case strings.Trim(text, "-–—") == "":
		return text, Dash
	case text[0] == '=' || text[0] == '@':
		return text, Formula
	case text[0] == '#':
		return text, Error
	}
	return text, Value
}

func (s *scanner) read(cell string, form Form) (p Price) {
	text, is := plainly(cell)
	if is != Value {
		return Price{Is: is}
	}
	from := strings.IndexFunc(text, isDigit)
	if from < 0 {
		if p.Is = Words; lookUp(text).is == Request {
			p.Is = Request
		}
		return p
	}
	if from > 0 && (text[from-1] == '.' || text[from-1] == ',') && (from == 1 || !isLetterBefore(text[:from-1])) { // .50
		from--
	}
	before := strings.TrimSpace(text[:from])
	minus := false
	if rest, cut := strings.CutSuffix(before, "-"); cut {
		before, minus = strings.TrimSpace(rest), true
	} else if rest, cut := strings.CutSuffix(before, "−"); cut {
		before, minus = strings.TrimSpace(rest), true
	} else if strings.HasPrefix(text, "-") {
		before, minus = strings.TrimSpace(before[1:]), true
	}
	if strings.HasPrefix(before, "(") && strings.HasSuffix(text, ")") {
		before, text, minus = strings.TrimSpace(before[1:]), text[:len(text)-1], true
	}
	before = strings.TrimSpace(strings.TrimSuffix(before, "+"))
	number, to := s.number(text, from, form.Decimal)
	p.Number = number
	if !number.IsValid() {
		p.Is = Malformed
		return p
	}
	after := strings.TrimSpace(text[to:])
	p.Is = Value
	if !p.beside(before) {
		return Price{Is: Words}
	}
	if strings.HasPrefix(after, "%") || strings.HasSuffix(before, "%") {
		return Price{Is: Percent}
	}
	if at := strings.IndexFunc(after, isDigit); at >= 0 {
		if p = s.between(p, after, at); p.Is == Range {
			p.doubt(s, minus, form)
		}
		return p
	}
	if !p.beside(after) {
		return Price{Is: Words}
	}
	p.doubt(s, minus, form)
	return p
}

// doubt says what a number is, whatever stands beside it, that is less than nothing or could be read in two ways.
func (p *Price) doubt(s *scanner, minus bool, form Form) {
	switch {
	case minus:
		p.Is = Negative
	case asked(s, form):
		p.Is = Asked
	}
}

// between reads what stands behind the first number if it has digits: the other end of a range, or nothing that is known.
func (s *scanner) between(p Price, after string, at int) Price {
	if at > 0 && (after[at-1] == '.' || after[at-1] == ',') {
		at--
	}
	mark := strings.TrimSpace(after[:at])
	for _, field := range strings.Fields(mark) {
		if lookUp(field).currency != "" {
			mark = strings.TrimSpace(strings.Replace(mark, field, "", 1))
		}
	}
	for _, r := range "€£$" {
		mark = strings.TrimSpace(strings.Trim(mark, string(r)))
	}
	if mark == "-" || mark == "–" || mark == "—" || mark == "..." || mark == "…" || lookUp(mark).is == Range {
		p.Is = Range
		return p
	}
	return Price{Is: Words}
}

// isDigit reports whether a rune is a digit of those that numbers are written with: Latin, Arabic and Persian ones.
func isDigit(r rune) bool {
	return r >= '0' && r <= '9' || r >= '٠' && r <= '٩' || r >= '۰' && r <= '۹'
}

func digitOf(r rune) uint64 {
	switch {
	case r <= '9':
		return uint64(r - '0')
	case r <= '٩':
		return uint64(r - '٠')
	}
	return uint64(r - '۰')
}

// mostMarks is how many marks a number has at most.
const mostMarks = 8

// number reads the number that begins at a byte of a text, and returns where it ends; one that is not valid has marks where none can be.
func (s *scanner) number(text string, from int, decimal rune) (n Number, to int) {
	var marks [mostMarks]rune // in their order
	var sizes [mostMarks + 1]int
	count, to := 0, from
	leadingZero := false
	first := true
	digits := uint8(0)
	var coef uint64
scan:
	for to < len(text) {
		r, size := utf8.DecodeRuneInString(text[to:])
		switch {
		case isDigit(r):
			if first {
				leadingZero = digitOf(r) == 0
			}
			first = false
			if digits++; digits > MostDigits {
				return Number{}, to
			}
			coef = 10*coef + digitOf(r)
			sizes[count]++
		case r == '.', r == ',', r == '٫', r == '٬', r == '\'', r == '’':
			if count == mostMarks {
				return Number{}, to
			}
			rest := text[to+size:]
			if next, _ := utf8.DecodeRuneInString(rest); !isDigit(next) {
				if next == '-' || next == '–' || next == '—' { // 12,-
					end := strings.TrimLeft(rest, "-–—")
					if r2, _ := utf8.DecodeRuneInString(strings.TrimSpace(end)); !isDigit(r2) || end == "" {
						to = len(text) - len(end)
						if r == ',' || r == '.' {
							s.proves = r
						}
						break scan
					}
				}
				if next == '.' || next == ',' {
					return Number{}, to // 9,,9
				}
				if r == '.' || r == ',' {
					to += size // 12.
				}
				break scan
			}
			if (r == '\'' || r == '’') && !groupFollows(rest) {
				break scan // feet
			}
			marks[count] = r
			count++
		case r == ':': // 29:-
			end := strings.TrimLeft(text[to+1:], "-–—")
			if r2, _ := utf8.DecodeRuneInString(strings.TrimSpace(end)); len(end) < len(text)-to-1 && !isDigit(r2) {
				to = len(text) - len(end)
			}
			break scan
		case r == ' ' || r == '\u00a0' || r == '\u2009' || r == '\u202f':
			if !groupFollows(text[to+size:]) || sizes[count] == 0 || sizes[count] > 3 {
				break scan
			}
			if count == mostMarks {
				return Number{}, to
			}
			marks[count] = ' '
			count++
		default:
			break scan
		}
		to += size
	}
	n = Number{coef: coef, digits: digits}
	if count == 0 {
		return n, to
	}
	last := marks[count-1]
	behind := sizes[count]
	several := count > 1 && marks[count-2] == last
	switch {
	case last == '٫':
		if !groups(marks[:count-1], sizes[:count]) {
			return Number{}, to
		}
		n.behind, n.mark = uint8(behind), '.'
	case last == '٬', last == '\'', last == '’', last == ' ', several: // between thousands
		if !groups(marks[:count], sizes[:count+1]) {
			return Number{}, to
		}
		if last == '.' {
			s.proves = ','
		} else if last == ',' {
			s.proves = '.'
		}
	case count > 1: // of two marks the last stands before decimals
		if !groups(marks[:count-1], sizes[:count]) {
			return Number{}, to
		}
		n.behind, n.mark = uint8(behind), '.'
		s.proves = last
	case behind != 3 || sizes[0] == 0 || sizes[0] > 3 || leadingZero:
		n.behind, n.mark = uint8(behind), '.'
		s.proves, s.fine = last, behind > 2
	default: // 1.234
		if s.open, s.mark = true, last; decimal == last {
			n.behind, n.mark = 3, '.'
		}
	}
	return n, to
}

// groupFollows reports whether three digits follow, and no fourth.
func groupFollows(s string) bool {
	count := 0
	for _, r := range s {
		if !isDigit(r) {
			break
		}
		count++
	}
	return count == 3
}

// groups reports whether digits stand in groups of thousands, all with one mark between, or of two below the last three, as in India.
func groups(marks []rune, sizes []int) bool {
	if len(marks) == 0 {
		return true
	}
	for _, m := range marks {
		if m != marks[0] {
			return false
		}
	}
	last := len(sizes) - 1
	if sizes[0] == 0 || sizes[0] > 3 || sizes[last] != 3 {
		return false
	}
	threes, twos := true, marks[0] == ',' && sizes[0] <= 2
	for _, size := range sizes[1:last] {
		threes, twos = threes && size == 3, twos && size == 2
	}
	return threes || twos
}
