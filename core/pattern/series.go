package pattern

import (
	"strconv"
	"strings"
)

// A Member of a series is a code with a number in it: what stands before and behind the last run of digits.
type Member struct {
	Before, Behind string
	Number         uint64
	Width          int // digits that it has at least, 0 for as many as it needs
}

// mostDigits is how many digits a number in a series has at most.
const mostDigits = 15

// MemberOf reads a code as one of a series; ok is false if it has no number. Zeros at the beginning say how many
// digits the numbers have.
func MemberOf(code string) (m Member, ok bool) {
	end := strings.LastIndexAny(code, "0123456789") + 1
	from := end
	for from > 0 && code[from-1] >= '0' && code[from-1] <= '9' {
		from--
	}
	if from == end || end-from > mostDigits || strings.ContainsAny(code, openMark+groupOpens+groupCloses) {
		return m, false
	}
	m = Member{Before: code[:from], Behind: code[end:]}
	m.Number, _ = strconv.ParseUint(code[from:end], 10, 64)
	if code[from] == '0' {
		m.Width = end - from
	}
	return m, true
}

// Draft returns the draft of the codes of the series.
func (m Member) Draft() Draft {
	var b strings.Builder
	b.WriteString(m.Before)
	Open{Counter, m.Width}.write(&b)
	b.WriteString(m.Behind)
	return Draft(b.String())
}

// At returns the code with another number; ok is false if that has more digits than those of the series.
func (m Member) At(number uint64) (code string, ok bool) {
	digits := strconv.FormatUint(number, 10)
	if m.Width > 0 && len(digits) > m.Width || len(digits) > mostDigits {
		return "", false
	}
	return m.Before + strings.Repeat("0", max(0, m.Width-len(digits))) + digits + m.Behind, true
}
