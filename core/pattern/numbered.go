package pattern

import (
	"fmt"
	"strconv"
	"strings"

	"zetanum/core/lazy"
)

// numberMark stands in a pattern of names for the number of one of several.
const numberMark = "\uE000"

var numberSlot = lazy.New(`\{number(?: ([1-9]))?\}`)

// Numbers is how a pattern of names counts those of one product: {number}, or {number 2} for 01, 02.
type Numbers struct {
	Any    bool // it does
	Digits int  // that a number has at least
}

// CutNumbers returns a pattern of names without the slot of its number, as [Parse] takes it.
func CutNumbers(text string) (string, Numbers) {
	var n Numbers
	text = numberSlot.ReplaceAllStringFunc(text, func(slot string) string {
		n.Any = true
		n.Digits, _ = strconv.Atoi(numberSlot.FindStringSubmatch(slot)[1])
		return numberMark
	})
	return text, n
}

// Name puts a number into what such a pattern has made.
func (n Numbers) Name(text string, number int) string {
	return strings.ReplaceAll(text, numberMark, fmt.Sprintf("%0*d", n.Digits, number))
}
