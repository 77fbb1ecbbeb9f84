package mint

import (
	"errors"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/pattern"
)

// ErrCheck says that a check character cannot be worked out.
var ErrCheck = errors.New("no check character can be worked out")

// alphabet372 has the characters of ISO/IEC 7064 MOD 37-2 by their values; the last is a check
// character only.
const alphabet372 = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ*"

// CheckCharacter returns the check character over a text. Signs and spaces in it do not count;
// small letters count as capitals. The error is [ErrCheck] where there are letters that the kind does
// not know.
func CheckCharacter(kind pattern.OpenKind, over string) (byte, error) {
	var chars []byte
	for _, c := range strings.ToUpper(over) {
		at := -1
		if c < 128 {
			at = strings.IndexByte(alphabet372[:36], byte(c))
		}
		switch {
		case at >= 0 && (at < 10 || kind == pattern.Check372):
			chars = append(chars, byte(at))
		case at >= 0 || c >= 128:
			return 0, ErrCheck
		}
	}
	if len(chars) == 0 {
		return 0, ErrCheck
	}
	switch kind {
	case pattern.Check372:
		return mod37(chars), nil
	case pattern.Check1110:
		return mod11(chars), nil
	case pattern.CheckLuhn:
		return luhn(chars), nil
	case pattern.CheckGTIN:
		var n uint64
		if len(chars) > 17 {
			return 0, ErrCheck
		}
		for _, c := range chars {
			n = 10*n + uint64(c)
		}
		return byte('0' + barcode.CheckDigit(n)), nil
	}
	return 0, ErrCheck
}

// mod37 is ISO/IEC 7064 MOD 37-2, a pure system: the sum of the values, each times a power of two
// by its place, and of the check character is 1 modulo 37.
func mod37(values []byte) byte {
	p := 0
	for _, v := range values {
		p = (p + int(v)) * 2 % 37
	}
	return alphabet372[(38-p)%37]
}

// mod11 is ISO/IEC 7064 MOD 11,10, a hybrid system.
func mod11(values []byte) byte {
	p := 10
	for _, v := range values {
		if p = (p + int(v)) % 10; p == 0 {
			p = 10
		}
		p = p * 2 % 11
	}
	return byte('0' + (11-p)%10)
}

// luhn is the formula of ISO/IEC 7812-1, annex B: every second digit, from the last on, counts double.
func luhn(values []byte) byte {
	sum := 0
	for i := range values {
		v := int(values[len(values)-1-i])
		if i%2 == 0 {
			if v *= 2; v > 9 {
				v -= 9
			}
		}
		sum += v
	}
	return byte('0' + (10-sum%10)%10)
}
