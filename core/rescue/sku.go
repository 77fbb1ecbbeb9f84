package rescue

import (
	"strconv"
	"strings"

	"zetanum/core/lazy"
	"zetanum/core/quantity"
)

// Spoilt reports whether a spreadsheet program can have made the damaged text of
// an SKU or a part number out of the original: leading zeros or zeros behind a
// decimal point dropped (00123, 12.10), a number in scientific notation made of
// 12E4, a date of MAR-2, TRUE of true. It is not enough to restore one; a second
// source must name the original for the same product.
func Spoilt(damaged, original string) bool {
	damaged, original = strings.TrimSpace(damaged), strings.TrimSpace(original)
	switch {
	case damaged == original || damaged == "" || original == "":
		return false
	case isNumber(damaged):
		return isNumber(original) && sameNumber(damaged, original)
	}
	switch Replacement(damaged) {
	case YesOrNo:
		return strings.EqualFold(damaged, original)
	case Date:
		return sameDate(damaged, original)
	}
	return false
}

// isNumber reports whether a text is what spreadsheet programs read and print as a number in
// place of a code.
func isNumber(s string) bool {
	n, err := quantity.Parse(s)
	return err == nil && !n.Signed() && n.GroupMark() == 0 && s[0] >= '0' && s[0] <= '9' && (n.DecimalMark() == 0) == (n.Decimals() == 0)
}

// sameNumber reports whether the damaged text is how a program prints the number
// that the original can be read as, in scientific notation rounded to the digits
// it has.
func sameNumber(damaged, original string) bool {
	d, errD := quantity.Parse(damaged)
	o, errO := quantity.Parse(original)
	if errD != nil || errO != nil {
		return false
	}
	if !d.Scientific() {
		return strings.Replace(damaged, ",", ".", 1) == o.Plain()
	}
	exact, err := strconv.ParseFloat(o.Plain(), 64)
	if err != nil {
		return false
	}
	shown, err := quantity.Parse(strconv.FormatFloat(exact, 'E', d.Decimals(), 64))
	return err == nil && shown.Cmp(d) == 0
}

var (
	letters = lazy.New(`\p{L}+`)
	numbers = lazy.New(`\d+`)
)

// sameDate reports whether the day, month and year that the original can be read
// as are those of the damaged text: a program completes what is missing (the
// year, or the day 1), so all that the original has must be found again.
func sameDate(damaged, original string) bool {
	if len(original) > 12 || len(letters.FindAllString(original, -1)) > 1 {
		return false
	}
	left := dateParts(damaged)
	parts := dateParts(original)
	if len(parts) < 2 || len(parts) > len(left) {
		return false
	}
	for _, p := range parts {
		found := false
		for i, l := range left {
			if l == p || l > 99 && l%100 == p {
				left = append(left[:i:i], left[i+1:]...)
				found = true
				break
			}
		}
		if !found {
			return false
		}
	}
	return true
}

// dateParts returns the numbers of a date, a month in words as its number.
func dateParts(s string) (parts []int) {
	for _, n := range numbers.FindAllString(s, 3) {
		v, _ := strconv.Atoi(n)
		parts = append(parts, v)
	}
	if word := strings.ToLower(letters.FindString(s)); word != "" {
		m := months[word]
		if m == 0 {
			return nil
		}
		parts = append(parts, m)
	}
	return parts
}
