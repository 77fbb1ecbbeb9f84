package quantity

import (
	_ "embed"
	"encoding/binary"
	"math"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode"
	"unicode/utf8"
)

// A Moment is a date that was read of a cell, with a time of day or without.
type Moment struct {
	Is             What
	Year, Month    int
	Day            int
	HasTime        bool
	Hour, Min, Sec int
	HasZone        bool // the time is that of a zone
	Offset         int  // of it, in minutes east of Greenwich
}

// An Order is that of day, month and year in dates of digits; 0 if nobody knows.
type Order uint8

// The orders.
const (
	DayFirst   Order = iota + 1 // 31.12.2024
	MonthFirst                  // 12/31/2024
	YearFirst                   // 24-12-31; where the year has four digits, that is seen
)

// Orders are what the cells of a column show of the order in its dates, by what stands between their parts. They are an ordered monoid.
type Orders struct {
	of [4]orderSeen
}

type orderSeen struct {
	day, month int  // cells in which the first of the two is surely the day, or the month
	notYear    bool // of three numbers of two digits the first is none, or the last is no day
	short      bool // there are years of two digits
}

// DateForm says how dates are written.
type DateForm struct {
	By   [4]Order // by what stands between their parts: a point, a slash, a hyphen, something else
	Year int      // of the run, by which the century of years with two digits is told
	Old  bool     // days are counted from 1904 on, and not from 1900
}

// Learn takes in a cell.
func (o *Orders) Learn(cell string) {
	var d dateReader
	if d.scan(trim(cell)) && d.count == 3 && d.month == 0 {
		a, b, c := d.numbers[0], d.numbers[1], d.numbers[2]
		if a.digits > 2 {
			return
		}
		seen := &o.of[d.between]
		switch {
		case a.value > 12 && a.value <= 31 && b.value <= 12:
			seen.day++
		case b.value > 12 && b.value <= 31 && a.value <= 12:
			seen.month++
		}
		if c.digits <= 2 {
			seen.short = true
			seen.notYear = seen.notYear || b.value > 12 || c.value > 31 || c.value == 0
		}
	}
}

// AppendTo appends what has been seen.
func (o *Orders) AppendTo(b []byte) []byte {
	for i := range o.of {
		seen := &o.of[i]
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(seen.day)), uint64(seen.month))
		for _, is := range []bool{seen.notYear, seen.short} {
			if is {
				b = append(b, 1)
			} else {
				b = append(b, 0)
			}
		}
	}
	return b
}

// Merge takes in what others say.
func (o *Orders) Merge(with Orders) {
	for i := range o.of {
		a, b := &o.of[i], &with.of[i]
		a.day, a.month, a.notYear, a.short = a.day+b.day, a.month+b.month, a.notYear || b.notYear, a.short || b.short
	}
}

// Form returns how the dates of the column are written, as far as it settles that. year is that of the run.
func (o *Orders) Form(year int) DateForm {
	f := DateForm{Year: year}
	for i := range o.of {
		seen := &o.of[i]
		switch {
		case seen.short && !seen.notYear && i > slash:
			continue // 01-03-26: the year may stand first
		case seen.day > 0 && seen.month == 0:
			f.By[i] = DayFirst
		case seen.month > 0 && seen.day == 0:
			f.By[i] = MonthFirst
		case i == point && seen.month == 0:
			f.By[i] = DayFirst // nobody writes the month first there
		}
	}
	return f
}

// In returns a form in which dates have an order that has been said.
func (f DateForm) In(order Order) DateForm {
	for i := range f.By {
		f.By[i] = order
	}
	return f
}

// What stands between the parts of a date.
const (
	point = iota
	slash
	hyphen
	other
)

// ReadDate reads a cell of a column of a form.
func ReadDate(cell string, form DateForm) Moment {
	text, is := plainly(cell)
	if is != Value {
		return Moment{Is: is}
	}
	if m, is := serial(text, form.Old); is {
		return m
	}
	var d dateReader
	if !d.scan(text) {
		return Moment{Is: d.why}
	}
	return d.moment(form)
}

// serial reads a number of days, or a date of eight digits.
func serial(text string, old bool) (m Moment, is bool) {
	if strings.Trim(text, "0123456789.,") != "" || strings.Count(text, ".")+strings.Count(text, ",") > 1 {
		return m, false
	}
	days, fraction, _ := strings.Cut(strings.ReplaceAll(text, ",", "."), ".")
	n, err := strconv.Atoi(days)
	switch {
	case err != nil:
		return Moment{Is: Words}, true
	case len(days) == 8 && fraction == "":
		return dated(n/10000, n/100%100, n%100), true
	case len(days) == 4 && fraction == "" && n >= 1900 && n < 2200:
		return Moment{Is: Partial}, true // a year
	case len(days) != 5 || n < 10000 || n > 80000:
		return Moment{Is: Impossible}, true
	}
	// The first day is the 1st of January 1900; that year is counted as a leap year, which it was not. In the other way of counting it is the
	// 2nd of January 1904 (ECMA-376 Part 1, 18.17.4.1).
	from := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	if old {
		from = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	day := from.AddDate(0, 0, n)
	m = Moment{Year: day.Year(), Month: int(day.Month()), Day: day.Day()}
	if fraction != "" {
		part, err := strconv.ParseFloat("0."+fraction, 64)
		if err != nil {
			return Moment{Is: Words}, true
		}
		seconds := int(math.Round(part * 86400)) // a day has no more of them than a float tells apart
		if seconds == 86400 {
			seconds--
		}
		m.HasTime, m.Hour, m.Min, m.Sec = true, seconds/3600, seconds/60%60, seconds%60
	}
	return m, true
}

//go:embed dates.txt
var datesFile string

// A dateWord is the number of a month, or one of those below.
type dateWord uint8

const (
	weekday dateWord = iota + 20
	besideDate
	half
	zone
)

var dateWords = sync.OnceValue(func() map[string]dateWord {
	m := make(map[string]dateWord)
	kinds := map[string]dateWord{"week": weekday, "beside": besideDate, "half": half, "zone": zone}
	for line := range strings.Lines(datesFile) {
		name, list, ok := strings.Cut(strings.TrimSpace(line), ": ")
		if !ok || name[0] == '#' {
			continue
		}
		kind := kinds[name]
		if n, err := strconv.Atoi(name); err == nil {
			kind = dateWord(n)
		}
		for word := range strings.SplitSeq(list, ", ") {
			if _, there := m[foldAnswer(word)]; !there {
				m[foldAnswer(word)] = kind
			}
		}
	}
	return m
})

// A dateReader reads one cell.
type dateReader struct {
	why     What
	numbers [3]dateNumber // those of the date, in their order
	count   int
	month   int // that has been named
	before  int // how many numbers stand before it
	between int // what stands between the first two
	time    Moment
}

type dateNumber struct {
	value, digits int
}

func (d *dateReader) fail(why What) bool {
	d.why = why
	return false
}

// scan takes a text apart.
func (d *dateReader) scan(text string) bool {
	d.between = -1
	for i := 0; i < len(text); {
		r, size := utf8.DecodeRuneInString(text[i:])
		switch {
		case r >= '0' && r <= '9':
			n, value := 0, 0
			for ; i+n < len(text) && text[i+n] >= '0' && text[i+n] <= '9'; n++ {
				if value = 10*value + int(text[i+n]-'0'); n > 8 {
					return d.fail(Words)
				}
			}
			rest := text[i+n:]
			if len(rest) > 1 && rest[0] == ':' && rest[1] >= '0' && rest[1] <= '9' && !d.time.HasTime {
				end, ok := d.clock(text[i:])
				if !ok {
					return d.fail(Impossible)
				}
				i += end
				continue
			}
			if d.count == 3 {
				return d.fail(Words)
			}
			d.numbers[d.count] = dateNumber{value, n}
			d.count++
			i += n
		case unicode.IsLetter(r) || r == 'º' || r == 'ª':
			n := strings.IndexFunc(text[i:], func(r rune) bool { return !unicode.IsLetter(r) && r != '\'' && !unicode.Is(unicode.Mn, r) })
			if n < 0 {
				n = len(text) - i
			}
			if !d.word(text[i : i+n]) {
				return false
			}
			i += n
		case r == '+' && d.time.HasTime, r == '-' && d.time.HasTime:
			end, ok := d.offset(text[i:])
			if !ok {
				return d.fail(Words)
			}
			i += end
		case r == '.' || r == '/' || r == '-' || r == ',' || r == ' ' || r == '\u00a0' || r == '’' || r == '\'':
			if d.count == 1 && d.month == 0 && (d.between < 0 || d.between == other) {
				d.between = map[rune]int{'.': point, '/': slash, '-': hyphen}[r]
				if r != '.' && r != '/' && r != '-' {
					d.between = other
				}
			}
			i += size
		default:
			return d.fail(Words)
		}
	}
	d.between = max(d.between, 0)
	switch {
	case d.count == 3 && d.month == 0, d.count == 2 && d.month > 0:
		return true
	case d.count > 0 && (d.month > 0 || d.count == 2):
		return d.fail(Partial)
	}
	return d.fail(Words)
}

// word takes a word.
func (d *dateReader) word(text string) bool {
	folded := foldAnswer(text)
	kind, known := dateWords()[folded]
	switch {
	case !known:
		if d.count > 0 || d.month > 0 {
			return d.fail(Partial)
		}
		return d.fail(Words)
	case kind <= 12:
		if d.month > 0 {
			return d.fail(Words)
		}
		d.month, d.before = int(kind), d.count
	case kind == half:
		if !d.time.HasTime || d.time.Hour > 12 || d.time.Hour == 0 {
			return d.fail(Impossible)
		}
		if d.time.Hour %= 12; folded[0] == 'p' {
			d.time.Hour += 12
		}
	case kind == zone:
		d.time.HasZone = true
	}
	return true
}

// clock reads hours, minutes, and perhaps seconds with parts of one, and returns how long that is.
func (d *dateReader) clock(s string) (end int, ok bool) {
	var parts [3]int
	n := 0
	for n < 3 {
		start := end
		for end < len(s) && s[end] >= '0' && s[end] <= '9' && end-start < 2 {
			parts[n] = 10*parts[n] + int(s[end]-'0')
			end++
		}
		if end == start {
			return 0, false
		}
		if n++; n == 3 || end+1 >= len(s) || s[end] != ':' {
			break
		}
		end++
	}
	if n == 3 && end+1 < len(s) && (s[end] == '.' || s[end] == ',') && s[end+1] >= '0' && s[end+1] <= '9' {
		for end++; end < len(s) && s[end] >= '0' && s[end] <= '9'; end++ {
		}
	}
	if parts[0] > 23 || parts[1] > 59 || parts[2] > 59 || n < 2 {
		return 0, false
	}
	d.time.HasTime, d.time.Hour, d.time.Min, d.time.Sec = true, parts[0], parts[1], parts[2]
	return end, true
}

// offset reads how far a zone is from Greenwich: +01:00, -0500, +2.
func (d *dateReader) offset(s string) (end int, ok bool) {
	digits, value := 0, 0
	for end = 1; end < len(s) && digits < 4; end++ {
		if s[end] == ':' && digits == 2 {
			continue
		}
		if s[end] < '0' || s[end] > '9' {
			break
		}
		value = 10*value + int(s[end]-'0')
		digits++
	}
	switch digits {
	case 1, 2:
		value *= 60
	case 4:
		value = value/100*60 + value%100
	default:
		return 0, false
	}
	if value > 15*60 {
		return 0, false
	}
	if d.time.HasZone = true; s[0] == '-' {
		value = -value
	}
	d.time.Offset = value
	return end, true
}

// moment puts the parts together.
func (d *dateReader) moment(form DateForm) Moment {
	a, b, c := d.numbers[0], d.numbers[1], d.numbers[2]
	var m Moment
	switch {
	case d.month > 0:
		day, year := a, b
		if a.digits > 2 {
			day, year = b, a
		}
		m = d.at(year, dateNumber{d.month, 2}, day, form)
	case a.digits > 2:
		m = d.at(a, b, c, form)
	case b.digits > 2:
		return Moment{Is: Words}
	default:
		order := form.By[d.between]
		if order == YearFirst && c.digits <= 2 {
			m = d.at(a, b, c, form)
			break
		}
		settled := order
		if order != MonthFirst && (a.value > 12 || order == DayFirst) {
			settled = DayFirst
		} else if b.value > 12 || order == MonthFirst {
			settled = MonthFirst
		}
		switch {
		case a.value > 12 && b.value > 12:
			return Moment{Is: Impossible}
		case order == 0 && c.digits <= 2 && d.between > slash:
			return Moment{Is: Asked} // the year may stand first
		case settled == DayFirst:
			m = d.at(c, b, a, form)
		case settled == MonthFirst:
			m = d.at(c, a, b, form)
		case a.value == b.value:
			m = d.at(c, a, b, form)
		default:
			return Moment{Is: Asked}
		}
	}
	if m.Is == Value && d.time.HasTime {
		m.HasTime, m.Hour, m.Min, m.Sec, m.HasZone, m.Offset = true, d.time.Hour, d.time.Min, d.time.Sec, d.time.HasZone, d.time.Offset
	}
	return m
}

// at returns the date of three numbers. A year of two digits lies between 80 years before the run and 20 after it.
func (d *dateReader) at(year, month, day dateNumber, form DateForm) Moment {
	switch y := year.value; {
	case year.digits <= 2:
		y += form.Year / 100 * 100
		for y > form.Year+20 {
			y -= 100
		}
		for y <= form.Year-80 {
			y += 100
		}
		year.value = y
	case year.digits != 4:
		return Moment{Is: Words}
	}
	if month.digits > 2 || day.digits > 2 {
		return Moment{Is: Words}
	}
	return dated(year.value, month.value, day.value)
}

// dated returns a date, if there is such a day.
func dated(year, month, day int) Moment {
	t := time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC)
	if year < 1000 || month < 1 || month > 12 || day < 1 || t.Day() != day || t.Month() != time.Month(month) {
		return Moment{Is: Impossible}
	}
	return Moment{Year: year, Month: month, Day: day}
}

// Before reports whether a moment comes before another: by their times if both have one, otherwise by their days.
func (m Moment) Before(o Moment) bool {
	if !m.HasTime || !o.HasTime {
		m.HasTime, m.Hour, m.Min, m.Sec, o.HasTime, o.Hour, o.Min, o.Sec = false, 0, 0, 0, false, 0, 0, 0
	}
	return m.Time(time.UTC).Before(o.Time(time.UTC))
}

// Time returns the moment, in the zone that it names, or in one for those that name none.
func (m Moment) Time(in *time.Location) time.Time {
	if m.HasZone {
		in = time.FixedZone("", 60*m.Offset)
	}
	return time.Date(m.Year, time.Month(m.Month), m.Day, m.Hour, m.Min, m.Sec, 0, in)
}
