package barcode

// Key returns a number that is equal for codes that stand for the same thing,
// whatever the form in which they are written: their GTIN.
func (c Code) Key() uint64 {
	switch c.special {
	case NoKind:
		return c.n
	case SSCC:
		return c.n | 1<<63 // a pallet is no product
	}
	gtin, _ := c.GTIN()
	return gtin.n
}

// GTIN returns the code as a till reads it: of a UPC-E the UPC-A, of an ISBN-10
// the ISBN-13, of an ISSN the EAN-13 of its plain issues (977, the seven digits,
// 00). An SSCC has none.
func (c Code) GTIN() (gtin Code, ok bool) {
	switch c.special {
	case NoKind:
		return c, c.IsValid()
	case UPCE:
		upc, _ := expand(c.n)
		return Code{n: upc, length: 12}, true
	case ISBN10:
		return complete(978*Pow10(9)+c.n, 13), true
	case ISSN:
		return complete((977*Pow10(7)+c.n)*100, 13), true
	}
	return Code{}, false
}

// complete appends the check digit to a number.
func complete(data uint64, length int) Code {
	return Code{n: 10*data + uint64(CheckDigit(data)), length: uint8(length)}
}

// Complete appends the check digit to a run of 7, 11, 12 or 13 digits (a GTIN
// without it), 9 (an ISBN-10) or 17 (an SSCC).
func Complete(digits string) (Code, error) {
	n, ok := Number(digits)
	switch {
	case !ok:
		return Code{}, ErrNotDigits
	case LegalLength(len(digits) + 1):
		return complete(n, len(digits)+1), nil
	case len(digits) == 9:
		return Code{n, 10, ISBN10}, nil
	case len(digits) == 17:
		c := complete(n, 18)
		c.special = SSCC
		return c, nil
	}
	return Code{}, ErrLength
}

// GTIN14 returns the 14-digit form, or "" if there is none.
func (c Code) GTIN14() string {
	gtin, ok := c.GTIN()
	if !ok {
		return ""
	}
	return Pad(gtin.n, 14)
}

// As returns the code in another form, if that can hold it: a GTIN may take
// leading zeros or lose them, a UPC-A whose zeros allow it become a UPC-E, an
// ISBN-13 of the range 978 an ISBN-10.
func (c Code) As(kind Kind) (Code, bool) {
	if kind == c.Kind() {
		return c, true
	}
	gtin, ok := c.GTIN()
	if !ok {
		return Code{}, false
	}
	switch kind {
	case EAN8, UPCA, EAN13, GTIN14, ISBN13:
		length := kind.Len()
		out := Code{n: gtin.n, length: uint8(length)}
		isbn := kind == ISBN13
		return out, gtin.n < Pow10(length) && (!isbn || out.Kind() == ISBN13)
	case UPCE:
		short, ok := compress(gtin.n)
		return Code{short, 8, UPCE}, ok
	case ISBN10:
		if gtin.n/Pow10(10) == 978 {
			return Code{gtin.n / 10 % Pow10(9), 10, ISBN10}, true
		}
	case ISSN:
		if gtin.n/Pow10(10) == 977 {
			return Code{gtin.n / 1000 % Pow10(7), 8, ISSN}, true
		}
	}
	return Code{}, false
}

// Shortest returns the GTIN with as few leading zeros as a kind allows: 8, 12,
// 13 or 14 digits. A number below a hundred million is an EAN-8 whatever it was
// written with: company prefixes of so many zeros are not given out, so that the
// two cannot be confused.
func (c Code) Shortest() Code {
	gtin, ok := c.GTIN()
	if !ok {
		return c
	}
	for _, length := range [...]uint8{8, 12, 13} {
		if gtin.n < Pow10(int(length)) {
			return Code{n: gtin.n, length: length}
		}
	}
	return gtin
}

// expand gives the UPC-A of a UPC-E of eight digits (GS1 General Specifications
// 5.2.2): its last digit but one says where how many zeros were left out. ok is
// false if the UPC-A would be compressed to other digits, or if the first digit
// is neither 0 nor 1.
func expand(n uint64) (upc uint64, ok bool) {
	check := n % 10
	how := n / 10 % 10
	d := n / 100 % Pow10(5) // the five digits between
	system := n / Pow10(7)
	var data uint64 // ten digits: five of the company, five of the item
	switch {
	case how <= 2:
		data = (d/1000*10+how)*Pow10(7) + d%1000
	case how == 3:
		data = d/100*Pow10(7) + d%100
	case how == 4:
		data = d/10*Pow10(6) + d%10
	default:
		data = d*Pow10(5) + how
	}
	upc = (system*Pow10(10)+data)*10 + check
	again, ok := compress(upc)
	return upc, ok && again == n
}

// compress gives the UPC-E of a UPC-A, if it has the zeros for it.
func compress(upc uint64) (n uint64, ok bool) {
	check, item, company, system := upc%10, upc/10%Pow10(5), upc/Pow10(6)%Pow10(5), upc/Pow10(11)
	var six uint64
	switch {
	case company%100 == 0 && company/100%10 <= 2 && item <= 999:
		six = company/1000*Pow10(4) + item*10 + company/100%10
	case company%100 == 0 && item <= 99:
		six = company/100*1000 + item*10 + 3
	case company%10 == 0 && item <= 9:
		six = company/10*100 + item*10 + 4
	case item >= 5 && item <= 9 && company%10 != 0:
		six = company*10 + item
	default:
		return 0, false
	}
	return (system*Pow10(6)+six)*10 + check, system <= 1
}

// CheckCharacter returns the check character, a digit or X, of the digits
// before it: from the right they count 2, 3, 4…, and with it the sum is a
// multiple of 11 (ISO 2108:1992 for ISBN-10, ISO 3297 for ISSN).
func CheckCharacter(data uint64) byte {
	sum := uint64(0)
	for w := uint64(2); data > 0; w++ {
		sum += w * (data % 10)
		data /= 10
	}
	return "0X987654321"[sum%11]
}
