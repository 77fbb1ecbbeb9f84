package rescue

import (
	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

// A Verdict is what may be said about one reading.
type Verdict struct {
	Ground  catalogue.Ground // Certain, Ordered: Code may be written. Likely: it may be proposed
	Rule    catalogue.Rule   // what brought the code back; NoRule if the cell is right as it stands
	Code    barcode.Code     // the zero value if nothing may even be proposed
	Finding catalogue.Code   // NoFinding if the code is known
	Facts   catalogue.Facts
}

// Whole reports whether the code is known.
func (v *Verdict) Whole() bool { return v.Finding == catalogue.NoFinding }

// Intact reports whether the cell is right as it stands.
func (v *Verdict) Intact() bool { return v.Whole() && v.Rule == catalogue.NoRule }

// Decide gives a reading its verdict: that of the first of the [Cases] that
// applies.
func (e *Evidence) Decide(r Reading) Verdict {
	// Most cells are intact and end in no zero; they need no table.
	if r.Form == Plain && r.N%10 != 0 && r.Length > 8 && barcode.LegalLength(r.Length) && !r.X && !e.Whole[r.Length].fails(10) {
		if code, err := barcode.FromNumber(r.N, r.Length); err == nil && !barcode.IsPlaceholder(r.N) {
			return Verdict{Ground: catalogue.Certain, Code: code}
		}
	}
	for i := range cases {
		if v, applies := cases[i].judge(e, r); applies {
			return v
		}
	}
	return open(catalogue.BarcodeLength, catalogue.Facts{Digits: r.Length})
}

func open(code catalogue.Code, facts catalogue.Facts) Verdict {
	return Verdict{Finding: code, Facts: facts}
}

func known(ground catalogue.Ground, rule catalogue.Rule, code barcode.Code) Verdict {
	return Verdict{Ground: ground, Rule: rule, Code: code}
}

// Write returns the code in the form in which the shop's rules write it.
func (e *Evidence) Write(c barcode.Code) barcode.Code { return e.rules.Write(c) }

// A Case is one line of the table by which cells are judged.
type Case struct {
	Cell  string // what the cell holds
	When  string // what its column must show, "" if nothing
	Says  string // certain, likely, open or lost, and what
	Bound string // how often what is written is wrong

	judge func(e *Evidence, r Reading) (v Verdict, applies bool)
}

// Cases returns the table.
func Cases() []Case { return cases }

// cases is the table, most telling first. Where several lines share a function,
// the function says which of them it is.
var cases = []Case{
	{Cell: "nothing, an error value, a date, a yes or no, words", Says: "lost: nothing of a code is left", judge: gone},
	{Cell: "two different codes", Says: "open: which of them is meant the cell does not say", judge: several},
	{Cell: "digits other than zeros behind a decimal mark", Says: "lost: not the number that was entered", judge: oddTail},
	{Cell: "one code of 12 digits and more, and words", Says: "likely: the code", judge: amongWords},
	{Cell: "an X at the end, or the hyphens of an ISBN-10, and the check of ISBN-10 or ISSN fits", Says: "certain: an ISBN-10 or an ISSN",
		Bound: "no other code ends in X or is printed so", judge: endsX},
	{Cell: "nnnn-nnnn, the check of ISSN fits and that of EAN-8 does not", Says: "certain: an ISSN",
		Bound: "nothing but the hyphen's place is written", judge: serial},
	{Cell: "more than 15 digits", Says: "an SSCC if 18 digits and the check digit fit, else lost: programs that store numbers keep 15",
		judge: tooLong},
	{Cell: "all digits equal or counting up or down", Says: "open: a placeholder", judge: placeholder},
	{Cell: "one digit missing, the number with 0 there passes, the digits before do not end in 00",
		When: "a number printed with all its digits", Says: "certain: the zero",
		Bound: "no other number within the rounding passes, however it was printed; wrong only where the code was wrong before",
		judge: lastZero},
	{Cell: "the same", When: "no such number", Says: "likely: the zero", judge: lastZero},
	{Cell: "digits missing, the number with zeros there passes",
		When: "printed in shortest form: at most one number in six is short of digits, none shows a zero at its end",
		Says: "likely: the zeros", judge: lastZeros},
	{Cell: "one digit missing, one number within the rounding passes", Says: "likely: that number; it took the check digit to find it",
		judge: rounded},
	{Cell: "digits missing", Says: "lost: so many codes it may have been", judge: rounded},
	{Cell: "zeros at the end", When: "more numbers with as few significant digits than chance explains (Poisson, p < 1e-6)",
		Says: "lost: rounded and filled up with zeros", judge: flattened},
	{Cell: "six zeros at the end", Says: "lost: rounded and filled up",
		Bound: "one code in a million ends so by nature and is held for nothing", judge: flattened},
	{Cell: "four or five zeros at the end", When: "other lost digits, the same number at another product, or leading zeros lost too",
		Says: "lost: rounded and filled up", Bound: "one code in ten thousand is held for nothing", judge: flattened},
	{Cell: "7, 11 or 12 digits", When: "at least ten such, of which four in five fail",
		Says: "open: the check digit left off; likely with it, ordered by add_check_digit, which also holds for fewer if they are four " +
			"in five of the column", Bound: "as the order says", judge: checkLeftOff},
	{Cell: "8, 13 or 14 digits", When: "at least ten such, of which four in five fail",
		Says: "open: no codes at all, and those that pass do so by chance", judge: byChance},
	{Cell: "8 digits, the first 0, the check digit of the UPC-A fits", Says: "certain: a UPC-E", Bound: "the cell is not changed",
		judge: eight},
	{Cell: "8 digits, the first 1 to 9, the check digit fits", Says: "certain: an EAN-8", Bound: "the cell's own digits", judge: eight},
	{Cell: "12, 13 or 14 digits, the check digit fits", Says: "certain: the code",
		Bound: "the cell's own digits; wrong only where they were wrong before", judge: whole},
	{Cell: "8, 12, 13 or 14 digits, the check digit does not fit", Says: "open: wrong somewhere", judge: wrongDigit},
	{Cell: "7 digits, a UPC-E with 0 before them", When: "at least five such, lucky ones (a ninth of those that fail) at most 2 in " +
		"1,000, no code that kept its zero", Says: "certain: the zero",
		Bound: "2 in 1,000 of the cells at worst, by the column's own failing cells", judge: seven},
	{Cell: "the same", When: "less than that", Says: "likely: the zero", judge: seven},
	{Cell: "6 digits", When: "UPC-E accepted", Says: "likely: the core of a UPC-E; its check digit must be made", judge: six},
	{Cell: "10 digits, or 9 that lost a zero, the check of ISBN-10 fits",
		When: "all such fit, at least five do or one ends in X, and not all fit a UPC-A too; or 10 digits where ISBN-10 is among the " +
			"accepted kinds by name", Says: "certain: an ISBN-10", Bound: "by chance once in 160,000 columns", judge: nineOrTen},
	{Cell: "9, 10 or 11 digits, a UPC-A with zeros before them",
		When: "at least five such, lucky ones at most 2 in 1,000, or a column of UPC-A codes that went through numbers with none " +
			"failing; no code that kept its zero; nine or ten digits not all ISBN-10s too", Says: "certain: the zeros",
		Bound: "2 in 1,000 of the cells at worst, by the column's own failing cells", judge: stripped},
	{Cell: "the same", When: "less than that", Says: "likely: the zeros, or an ISBN-10; open if both fit", judge: stripped},
	{Cell: "any other number of digits", Says: "open: no code is so long", judge: wrongLength},
}

func gone(_ *Evidence, r Reading) (Verdict, bool) {
	switch r.Form {
	case Empty:
		return open(catalogue.BarcodeMissing, catalogue.Facts{}), true
	case Replaced:
		return open(catalogue.BarcodeReplaced, catalogue.Facts{Other: "something"}), true // the step says what
	case Nothing:
		return open(catalogue.BarcodeNotACode, catalogue.Facts{}), true
	}
	return Verdict{}, false
}

func several(_ *Evidence, r Reading) (v Verdict, applies bool) {
	if r.Form != TwoCodes {
		return v, false
	}
	return open(catalogue.BarcodeTwoCodes, catalogue.Facts{}), true
}

func oddTail(_ *Evidence, r Reading) (v Verdict, applies bool) {
	if r.Form != OddTail {
		return v, false
	}
	return open(catalogue.BarcodeTail, catalogue.Facts{}), true
}

func amongWords(_ *Evidence, r Reading) (v Verdict, applies bool) {
	if r.Form != Among {
		return v, false
	}
	code, err := barcode.FromNumber(r.N, r.Length)
	return propose(open(catalogue.BarcodeAmongWords, catalogue.Facts{}), catalogue.RuleAmongWords, code), err == nil
}

func endsX(_ *Evidence, r Reading) (Verdict, bool) {
	if r.Book && passesMod11(r.N) && !r.X {
		code, err := barcode.ParseAs(barcode.ISBN10, barcode.Pad(r.N, 10))
		return known(catalogue.Certain, formRules[r.Form], code), err == nil
	}
	if !r.X {
		return Verdict{}, false
	}
	kind := barcode.ISBN10
	if r.Length == 8 {
		kind = barcode.ISSN
	}
	code, err := barcode.ParseAs(kind, barcode.Pad(r.N, r.Length-1)+"X")
	if err != nil {
		return open(catalogue.BarcodeCheckDigit, catalogue.Facts{Right: barcode.CheckCharacter(r.N)}), true
	}
	return known(catalogue.Certain, formRules[r.Form], code), true
}

func serial(_ *Evidence, r Reading) (Verdict, bool) {
	if !r.Halves || r.Length != 8 || barcode.Valid(r.N) {
		return Verdict{}, false
	}
	code, err := barcode.ParseAs(barcode.ISSN, barcode.Pad(r.N, 8))
	return known(catalogue.Certain, catalogue.NoRule, code), err == nil
}

func tooLong(_ *Evidence, r Reading) (Verdict, bool) {
	if r.Form != TooLong && r.Length <= 15 {
		return Verdict{}, false
	}
	if r.Form != TooLong && r.Missing == 0 && !r.Numeric {
		if code, err := barcode.ParseAs(barcode.SSCC, barcode.Pad(r.N, r.Length)); err == nil && r.N%1000 != 0 {
			return known(catalogue.Certain, formRules[r.Form], code), true
		}
	}
	facts := catalogue.Facts{Digits: r.Length}
	if r.Form != TooLong && r.Length <= 18 {
		facts.Low, facts.High = r.beyond()
	}
	return open(catalogue.BarcodeTooLong, facts), true
}

func placeholder(_ *Evidence, r Reading) (Verdict, bool) {
	applies := r.Missing == 0 && barcode.IsPlaceholder(r.N) && (r.N == 0 || r.Length >= 8)
	return open(catalogue.BarcodePlaceholder, catalogue.Facts{}), applies
}

// lastZero: the number with a zero at its end is the only valid one within half
// a unit, whether the program printed the shortest form, rounded or cut off,
// unless the mantissa ends in 00. But if the column was rounded to this many
// digits and the code was invalid to begin with, it would be wrong (1.8% of
// cells where 2% are invalid); a neighbour printed with all its digits shows
// that it was not.
func lastZero(e *Evidence, r Reading) (Verdict, bool) {
	if r.Missing != 1 || !barcode.LegalLength(r.Length) || r.N%barcode.Pow10(flatAlone) == 0 {
		return Verdict{}, false
	}
	code, err := barcode.FromNumber(r.N, r.Length)
	if err != nil {
		return Verdict{}, false
	}
	if e.Sci[r.Length][0].all() > 0 && r.N/10%100 != 0 {
		return known(catalogue.Certain, catalogue.RuleZeroFilled, code), true
	}
	return propose(lost(catalogue.BarcodeZeroFilled, r.N, r.Length, 1), catalogue.RuleZeroFilled, code), true
}

// lastZeros: with two and more digits missing several valid numbers lie within
// half a unit, and only the way in which the column was printed decides between
// them. One cell from elsewhere, rounded, passes every such test in one column
// of twelve, so this is asked, and never written.
func lastZeros(e *Evidence, r Reading) (Verdict, bool) {
	if r.Missing < 2 || !barcode.LegalLength(r.Length) || !e.shortest(r.Length) || r.N%barcode.Pow10(flatAlone) == 0 {
		return Verdict{}, false
	}
	code, err := barcode.FromNumber(r.N, r.Length)
	return propose(lost(catalogue.BarcodeZeroFilled, r.N, r.Length, r.Missing), catalogue.RuleZeroFilled, code), err == nil
}

// rounded: a check digit that has to fill in a digit confirms nothing.
func rounded(_ *Evidence, r Reading) (Verdict, bool) {
	if r.Missing == 0 {
		return Verdict{}, false
	}
	v := lost(catalogue.BarcodeRounded, r.N, r.Length, r.Missing)
	switch v.Facts.Candidates {
	case 0:
		v.Finding = catalogue.BarcodeNone
	case 1:
		only := v.Facts.Low
		for !barcode.Valid(only) {
			only++
		}
		if code, err := barcode.FromNumber(only, r.Length); err == nil {
			v.Finding = catalogue.BarcodeOnlyOne
			v = propose(v, catalogue.RuleOnlyOne, code)
		}
	}
	return v, true
}

// flattened recognises numbers that were rounded and then filled with zeros.
func flattened(e *Evidence, r Reading) (Verdict, bool) {
	if r.N%10 != 0 || !mayBeCode(r.Length) {
		return Verdict{}, false
	}
	s := r.significant()
	zeros := r.Length - s
	shared := e.Rounded.Count(r.N) > 1
	switch {
	case s <= e.cap[r.Length]:
		s = e.cap[r.Length]
	case zeros >= flatAlone:
	case zeros >= flatWithCause && (e.damaged || shared || !barcode.LegalLength(r.Length)):
	default:
		return Verdict{}, false
	}
	finding := catalogue.BarcodeFlattened
	if shared {
		finding = catalogue.BarcodeShared
	}
	return lost(finding, r.N, r.Length, r.Length-s), true
}

// checkLeftOff: wrong numbers pass one time in ten; in such a class those that
// pass are no more than that.
func checkLeftOff(e *Evidence, r Reading) (Verdict, bool) {
	class := e.Whole[r.Length]
	atLeast := uint64(10)
	if e.rules.AddCheckDigit && e.mostly(class) {
		atLeast = 1
	}
	switch r.Length {
	case 7:
		if e.UPCE[7].Pass*5 > e.UPCE[7].all() {
			return Verdict{}, false
		}
	case 11, 12:
	case 13:
		if !e.rules.names(barcode.GTIN14) {
			return Verdict{}, false
		}
	default:
		return Verdict{}, false
	}
	if !class.fails(atLeast) {
		return Verdict{}, false
	}
	code, err := barcode.Complete(barcode.Pad(r.N, r.Length))
	switch {
	case err != nil:
		return Verdict{}, false
	case e.rules.AddCheckDigit:
		return known(catalogue.Ordered, catalogue.RuleAddCheckDigit, code), true
	}
	return propose(open(catalogue.BarcodeNoCheckDigit, catalogue.Facts{
		Low: r.N * 10, High: r.N*10 + 9, Candidates: 1, Digits: r.Length, Length: r.Length + 1,
	}), catalogue.RuleAddCheckDigit, code), true
}

// byChance holds a class that passes about as often as numbers do that are no
// codes at all.
func byChance(e *Evidence, r Reading) (Verdict, bool) {
	applies := barcode.LegalLength(r.Length) && e.Whole[r.Length].fails(10)
	return open(catalogue.BarcodeByChance, catalogue.Facts{Digits: r.Length}), applies
}

// formRules says which rule brings a whole number back from its form.
var formRules = [Nothing + 1]catalogue.Rule{
	Dressed:    catalogue.RuleUndress,
	Tailed:     catalogue.RuleTail,
	Grouped:    catalogue.RuleGrouping,
	Scientific: catalogue.RuleScientific,
	Repeated:   catalogue.RuleRepeated,
}

// eight: 58% of UPC-Es pass as EAN-8 too, but no EAN-8 that begins with 0 is
// given out. A UPC-E that begins with 1 is rare, and counts only where UPC-E is
// among the accepted kinds by name.
func eight(e *Evidence, r Reading) (Verdict, bool) {
	if r.Length != 8 {
		return Verdict{}, false
	}
	code, err := barcode.FromNumber(r.N, 8)
	if r.N < barcode.Pow10(7) || err != nil && e.rules.names(barcode.UPCE) {
		short, errShort := barcode.FromNumberUPCE(r.N)
		if errShort != nil && err == nil {
			return open(catalogue.BarcodeOtherKind, catalogue.Facts{Digits: 8,
				Other: "a number for use inside a shop, or a UPC-E code with a wrong digit"}), true
		}
		code, err = short, errShort
	}
	return known(catalogue.Certain, formRules[r.Form], code), err == nil
}

// whole: the digits are those of the cell, so writing them is never wrong.
func whole(_ *Evidence, r Reading) (Verdict, bool) {
	code, err := barcode.FromNumber(r.N, r.Length)
	return known(catalogue.Certain, formRules[r.Form], code), err == nil
}

func wrongDigit(_ *Evidence, r Reading) (Verdict, bool) {
	right := byte('0' + barcode.CheckDigit(r.N/10))
	return open(catalogue.BarcodeCheckDigit, catalogue.Facts{Right: right}), barcode.LegalLength(r.Length)
}

func seven(e *Evidence, r Reading) (Verdict, bool) {
	if r.Length != 7 {
		return Verdict{}, false
	}
	facts := catalogue.Facts{Low: r.N, High: r.N, Candidates: 1, Digits: 7, Length: 8}
	code, err := barcode.FromNumberUPCE(r.N)
	switch {
	case err != nil:
		facts.Other = "a code with digits missing"
		return open(catalogue.BarcodeOtherKind, facts), true
	case e.Zeros > 0:
		facts.Other = "a UPC-E code without its leading zero, which other codes of this column have kept"
		return open(catalogue.BarcodeOtherKind, facts), true
	case e.UPCE[7].stands():
		return known(catalogue.Certain, catalogue.RuleLeadingZero, code), true
	}
	return propose(open(catalogue.BarcodeLeadingZero, facts), catalogue.RuleLeadingZero, code), true
}

func six(e *Evidence, r Reading) (Verdict, bool) {
	if r.Length != 6 {
		return Verdict{}, false
	}
	facts := catalogue.Facts{Digits: 6, Other: "the core of a UPC-E code"}
	v := open(catalogue.BarcodeOtherKind, facts)
	if e.rules.names(barcode.UPCE) {
		for check := range uint64(10) {
			if code, err := barcode.FromNumberUPCE(r.N*10 + check); err == nil {
				if e.rules.AddCheckDigit && e.mostly(e.Whole[6]) {
					return known(catalogue.Ordered, catalogue.RuleAddCheckDigit, code), true
				}
				v = propose(v, catalogue.RuleAddCheckDigit, code)
				v.Facts.Other = "the core of the UPC-E code " + code.String()
			}
		}
	}
	return v, true
}

func nineOrTen(e *Evidence, r Reading) (Verdict, bool) {
	declared := r.Length == 10 && e.rules.names(barcode.ISBN10)
	if r.Length != 9 && r.Length != 10 || !passesMod11(r.N) || !declared && !e.isbn(r.Length) {
		return Verdict{}, false
	}
	if !declared && barcode.Valid(r.N) && e.Whole[r.Length].Pass > e.Both[r.Length] {
		return Verdict{}, false // others of that length are UPC-A codes
	}
	code, err := barcode.ParseAs(barcode.ISBN10, barcode.Pad(r.N, 10))
	rule := formRules[r.Form]
	if r.Length == 9 {
		rule = catalogue.RuleLeadingZero
	}
	return known(catalogue.Certain, rule, code), err == nil
}

// stripped: whole numbers of a length that no code has, because leading zeros
// may be missing. A column that has codes with leading zeros did not lose them.
func stripped(e *Evidence, r Reading) (Verdict, bool) {
	if r.Length < 9 || r.Length > 11 {
		return Verdict{}, false
	}
	facts := catalogue.Facts{Low: r.N, High: r.N, Candidates: 1, Digits: r.Length, Length: 12}
	upc, errUPC := barcode.FromNumber(r.N, 12)
	if e.Zeros > 0 {
		errUPC = barcode.ErrLength
	}
	book := r.Length <= 10 && passesMod11(r.N)
	switch {
	case errUPC == nil && e.padded(r.Length) && !(book && e.Mod11[r.Length].Pass > e.Both[r.Length]):
		return known(catalogue.Certain, catalogue.RuleLeadingZero, upc), true
	case errUPC == nil && book:
		facts.Other = "an ISBN-10 or a UPC-A code without its zeros"
		return open(catalogue.BarcodeOtherKind, facts), true
	case errUPC == nil:
		return propose(open(catalogue.BarcodeLeadingZero, facts), catalogue.RuleLeadingZero, upc), true
	case book:
		code, err := barcode.ParseAs(barcode.ISBN10, barcode.Pad(r.N, 10))
		if err != nil {
			return Verdict{}, false
		}
		v := propose(open(catalogue.BarcodeOtherKind, facts), catalogue.RuleLeadingZero, code)
		isbn13, _ := code.GTIN()
		v.Facts.Other = "the ISBN-10 " + code.String() + " (as ISBN-13 " + isbn13.String() + ")"
		return v, true
	}
	return Verdict{}, false
}

func wrongLength(_ *Evidence, r Reading) (Verdict, bool) {
	return open(catalogue.BarcodeLength, catalogue.Facts{Digits: r.Length}), true
}
