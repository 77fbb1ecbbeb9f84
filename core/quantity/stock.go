package quantity

import (
	_ "embed"
	"fmt"
	"math/big"
	"slices"
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

// Counting writes numbers of pieces, and other numbers without a currency or a unit, by rules that have been checked.
type Counting struct {
	words    map[string]string
	read     bool // what is about so much, or more, as that number
	clear    []What
	decimals int
	round    Rounding
}

// NewCounting prepares a rule. words are numbers by what stands in their place; of is what is read and cleared.
func NewCounting(r *NumberRule, of *PriceRule, words [][2]string) (*Counting, error) {
	c := &Counting{words: make(map[string]string), decimals: -1, round: roundings[r.Round]}
	if r.Decimals != nil {
		c.decimals = *r.Decimals
	}
	c.read = slices.Contains(of.Read, "about")
	for _, name := range of.Clear {
		c.clear = append(c.clear, clearable[name])
	}
	for _, w := range words {
		n, err := Parse(strings.TrimSpace(w[1]))
		if err != nil {
			return nil, fmt.Errorf("%q stands for %q, which is no number", w[0], w[1])
		}
		c.words[foldAnswer(w[0])] = n.Plain()
	}
	return c, nil
}

// Of returns what is written in place of a cell; what it is if it is not read.
func (c *Counting) Of(cell string, form Form) (after string, is What) {
	if n, plain := Plain(cell); plain && n.mark == 0 && c.decimals <= 0 {
		return cell, Value // as nearly all are
	}
	if len(c.words) > 0 {
		if number, known := c.words[foldAnswer(cell)]; known {
			return number, Value
		}
	}
	var number Number
	sign := ""
	switch s := ReadStock(cell); {
	case s.Is == Blank:
		return "", Value
	case (s.More || s.Is == About) && slices.Contains(c.clear, About), s.Is == Dash && slices.Contains(c.clear, Dash):
		return "", Value
	case s.Is == Value && s.Says == Neither && (!s.More || c.read), s.Is == Negative && !s.More:
		if number = s.Number; s.Is == Negative {
			sign, number.sign = "-", 0
		}
	case s.More:
		return cell, About
	case s.Says != Neither:
		return cell, Words
	default:
		p := ReadPrice(cell, form)
		if p.Is != Value {
			return cell, p.Is
		}
		if p.Currency != "" {
			return cell, Words
		}
		number = p.Number
	}
	decimals := c.decimals
	if decimals < 0 {
		if decimals = int(number.behind); decimals == 3 {
			decimals = 4
		}
	}
	value, _ := new(big.Rat).SetString(number.Plain())
	if after = Round(value, decimals, c.round); strings.Trim(after, "0.") != "" {
		after = sign + after
	}
	return after, Value
}
