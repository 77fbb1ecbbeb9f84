package heading

import (
	"strings"
	"unicode/utf8"
)

// totals are the words of lines that sum up others.
var totals = func() map[string]bool {
	m := make(map[string]bool)
	for _, word := range strings.Split("total, totals, grand total, subtotal, sum, gesamt, gesamtsumme, summe, zwischensumme, total "+
		"général, somme, totale, totaal, suma, razem, łącznie, ogółem, total geral, total general", ", ") {
		m[Key(word)] = true
	}
	return m
}()

// IsTotal reports whether a row sums up others: it has one word that says so, and
// numbers that are no codes, and nothing else.
func IsTotal(cells []string) bool {
	words, numbers := 0, 0
	for _, cell := range cells {
		if cell == "" {
			continue
		}
		letter := cell[0]|0x20 >= 'a' && cell[0]|0x20 <= 'z'
		switch cell = strings.TrimSpace(cell); {
		case cell == "":
		case !letter && strings.Trim(cell, "0123456789.,' -+%€$£") == "" && utf8.RuneCountInString(cell) < 12:
			numbers++
		case len(cell) > 24 || words > 0 || hasDigit(cell) || !totals[Key(cell)]:
			return false
		default:
			words++
		}
	}
	return words == 1 && numbers > 0
}

// hasDigit reports whether there is a digit of ASCII.
func hasDigit(s string) bool {
	for i := range len(s) {
		if isDigit(s[i]) {
			return true
		}
	}
	return false
}

// Repeats reports whether a row repeats the headings: every heading again, in its place.
func Repeats(cells, headings []string) bool {
	if len(cells) != len(headings) || len(headings) < 2 {
		return false
	}
	for i, h := range headings {
		if !strings.EqualFold(strings.TrimSpace(cells[i]), strings.TrimSpace(h)) {
			return false
		}
	}
	return true
}
