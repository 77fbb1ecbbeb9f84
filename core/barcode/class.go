package barcode

// A Class is what the first digits of a GTIN say about its use (GS1 General
// Specifications 1.4, "GS1 Prefixes").
type Class uint8

// The classes. The zero value is an ordinary number of a company.
const (
	Ordinary   Class = iota
	InStore          // 02, 04, 20 to 29: numbers a company gives for its own shops
	Coupon           // 05, 981 to 984, 99
	Refund           // 980
	Serial           // 977: periodicals
	Book             // 978, 979
	Music            // 979-0
	Demo             // 952: demonstrations and examples
	Unassigned       // reserved for later
	Carton           // GTIN-14 with the indicator 1 to 8: a trade unit of several
	Measure          // GTIN-14 with the indicator 9: of variable measure
	numClasses
)

var classWords = [numClasses]string{
	"an ordinary number of a company",
	"for use inside one company's shops; nobody else knows the number",
	"a coupon, not a product",
	"a refund receipt, not a product",
	"a periodical (ISSN)",
	"a book (ISBN)",
	"printed music (ISMN)",
	"for demonstrations and examples; no real product has it",
	"a beginning that is not assigned to any company",
	"a carton or pallet of a product, not the single product",
	"a trade unit that is sold by weight or length",
}

// String says the class in words.
func (c Class) String() string { return classWords[c] }

// Classes is the number of classes.
const Classes = int(numClasses)

// unassigned are ranges of the first three digits that are kept for later.
// Ranges are given out from time to time; only those are listed that have been
// free for decades.
var unassigned = [...][2]int{{140, 199}, {510, 519}, {550, 559}, {580, 589}, {650, 679}, {710, 719}, {920, 929}, {970, 976}, {985, 989}}

// Class returns what the first digits say.
func (c Code) Class() Class {
	gtin, ok := c.GTIN()
	if !ok {
		return Carton
	}
	return ClassOf(gtin.n)
}

// ClassOf returns what the first digits of a GTIN say, given as a number.
func ClassOf(n uint64) Class {
	if n < Pow10(8) {
		return class8(n / Pow10(5))
	}
	if indicator := n / Pow10(13); indicator == 9 {
		return Measure
	} else if indicator > 0 {
		return Carton
	}
	class := prefixes[n/Pow10(10)]
	if class == Music && n/Pow10(9)%10 != 0 {
		return Book
	}
	return class
}

// prefixes are the classes by the first three of thirteen digits; 979 is Music,
// which only 979-0 is.
var prefixes = func() (table [1000]Class) {
	fill := func(from, to int, class Class) {
		for p := from; p <= to; p++ {
			table[p] = class
		}
	}
	for _, r := range unassigned {
		fill(r[0], r[1], Unassigned)
	}
	fill(20, 29, InStore)
	fill(40, 49, InStore)
	fill(200, 299, InStore)
	fill(50, 59, Coupon)
	fill(981, 984, Coupon)
	fill(990, 999, Coupon)
	fill(980, 980, Refund)
	fill(977, 977, Serial)
	fill(978, 978, Book)
	fill(979, 979, Music)
	fill(952, 952, Demo)
	return table
}()

// class8 is the class of an EAN-8, whose prefixes are a list of their own:
// those that begin with 0 or 2 are for use inside a company.
func class8(p uint64) Class {
	switch {
	case p < 100, p >= 200 && p <= 299:
		return InStore
	case p == 952:
		return Demo
	}
	return Ordinary
}

// IsPlaceholder reports whether a number was made up to fill a field: its
// digits, leading zeros and the last one (a check digit, perhaps) left out, are
// all equal, or count up or down by one, and are at least five. 27 of the ten
// million EAN-8s look so, and as many of all EAN-13s. A number of one digit,
// zero above all, is none either.
func IsPlaceholder(n uint64) bool {
	if n < 10 {
		return true
	}
	step := (n/100%10 + 10 - n/10%10) % 10 // of the digits, from right to left
	return (step == 0 || step == 1 || step == 9) && counts(n/10, step)
}

// counts reports whether the digits of n, at least five, go up by step, modulo
// 10, from right to left.
func counts(n, step uint64) bool {
	digits := 1
	for ; n >= 10; n /= 10 {
		if (n%10+step)%10 != n/10%10 {
			return false
		}
		digits++
	}
	return digits >= 5
}
