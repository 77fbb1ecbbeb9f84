package quantity

import (
	_ "embed"
	"strings"
)

// A Stock is what was read of a cell that says how many there are.
type Stock struct {
	Is     What
	Number Number // of [Value] and [Negative], which then has its sign
	More   bool   // there are more than that, or as many: >10, 10+
	Says   Answer // where it is said in words whether there are any; the number says nothing then
}

//go:embed stock.txt
var stockFile string

var pieces, more, stockWords = func() (pieces, more map[string]bool, says map[string]Answer) {
	pieces, more, says = make(map[string]bool), make(map[string]bool), make(map[string]Answer)
	for line := range strings.Lines(stockFile) {
		name, list, ok := strings.Cut(strings.TrimSpace(line), ": ")
		if !ok || name[0] == '#' {
			continue
		}
		for word := range strings.SplitSeq(list, ", ") {
			switch name {
			case "pieces":
				pieces[word] = true
			case "more":
				more[word] = true
			case "yes":
				says[word] = Yes
			case "no":
				says[word] = No
			}
		}
	}
	return pieces, more, says
}()

// ReadStock reads a cell that says how many there are: a whole number, perhaps with a word for pieces behind it, or with what says that there
// are more; or words. A mark before three digits is open, and one before others is part of no whole number.
func ReadStock(cell string) (s Stock) {
	if n, ok := Plain(cell); ok && n.mark == 0 {
		return Stock{Number: n}
	}
	text, is := plainly(cell)
	if is != Value {
		return Stock{Is: is}
	}
	text = fold(text)
	if says := stockWords[text]; says != Neither {
		return Stock{Says: says}
	}
	if rest, cut := strings.CutSuffix(text, "+"); cut {
		text, s.More = strings.TrimSpace(rest), true
	}
	at := strings.IndexFunc(text, isDigit)
	if at < 0 {
		return Stock{Is: Words}
	}
	before := strings.TrimSpace(text[:at])
	sign := byte(0)
	for _, minus := range []string{"-", "−"} {
		if rest, cut := strings.CutSuffix(before, minus); cut {
			before, sign = strings.TrimSpace(rest), '-'
		}
	}
	if before != "" {
		if !more[before] {
			return Stock{Is: Words}
		}
		s.More = true
	}
	var scan scanner
	n, to := scan.number(text, at, 0)
	behind := strings.TrimSpace(text[to:])
	if rest, cut := strings.CutSuffix(behind, "+"); cut {
		behind, s.More = strings.TrimSpace(rest), true
	}
	switch {
	case !n.IsValid():
		return Stock{Is: Malformed}
	case behind != "" && !pieces[strings.Trim(behind, "().")]:
		return Stock{Is: Words}
	case scan.open:
		return Stock{Is: Asked}
	}
	for ; n.behind > 0; n.behind-- {
		if n.coef%10 != 0 {
			return Stock{Is: Malformed}
		}
		n.coef, n.digits = n.coef/10, n.digits-1
	}
	n.mark, n.sign = 0, sign
	if s.Number = n; n.Sign() < 0 {
		s.Is = Negative
	}
	return s
}
