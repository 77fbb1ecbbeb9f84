package workbook

import (
	"math"
	"strings"
	"time"
)

// An epoch is the day from which a workbook counts.
type epoch uint8

const (
	epoch1900 epoch = iota // 1 is the first of January 1900, and 60 a day that never was
	epoch1904              // 0 is the first of January 1904
)

// shown is what a number is, to judge by its format.
type shown uint8

const (
	asNumber shown = iota
	asDate
)

// shownBy returns what the numbers of a format are. The built-in formats of dates and
// times are 14 to 22, 27 to 36, 45 to 47 and 50 to 58 (ECMA-376 Part 1, 18.8.30).
func shownBy(id int, custom string) shown {
	if custom == "" {
		if id >= 14 && id <= 22 || id >= 27 && id <= 36 || id >= 45 && id <= 47 || id >= 50 && id <= 58 {
			return asDate
		}
		return asNumber
	}
	if strings.EqualFold(custom, "general") {
		return asNumber
	}
	quoted, bracket, skip := false, false, false
	for _, r := range strings.ToLower(custom) {
		switch {
		case skip:
			skip = false
		case r == '"':
			quoted = !quoted
		case quoted:
		case r == '\\' || r == '_' || r == '*':
			skip = true
		case r == '[':
			bracket = true
		case r == ']':
			bracket = false
		case bracket:
		case r == 'y' || r == 'd' || r == 'm' || r == 'h' || r == 's':
			return asDate
		case r == '0' || r == '#' || r == '?' || r == 'e' || r == '@':
			return asNumber
		}
	}
	return asNumber
}

// date returns a day and time as ISO 8601 has it, without what is zero: a day alone, or
// a time alone. ok is false if a number is none.
func (e epoch) date(dst []byte, value float64) (out []byte, ok bool) {
	if value < 0 || value >= 2958466 || math.IsNaN(value) { // the year 10000
		return dst, false
	}
	days := math.Floor(value)
	seconds := math.Round((value - days) * 86400)
	if seconds == 86400 {
		days, seconds = days+1, 0
	}
	base := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	switch {
	case e == epoch1904:
		base = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	case days < 61:
		base = base.AddDate(0, 0, 1)
	}
	when := base.AddDate(0, 0, int(days)).Add(time.Duration(seconds) * time.Second)
	switch {
	case seconds == 0:
		return when.AppendFormat(dst, "2006-01-02"), true
	case days == 0 && e == epoch1900:
		return when.AppendFormat(dst, "15:04:05"), true
	}
	return when.AppendFormat(dst, "2006-01-02 15:04:05"), true
}
