package heading

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/lazy"
	"zetanum/core/markup"
)

// Contents are what the cells of a column have in common.
type Contents uint8

// The contents, by which a column is known best first.
const (
	Mixed Contents = iota
	Barcodes
	ImageLinks
	Links
	HTML
	Money     // amounts with their currency
	Prices    // amounts that end as prices do: 4.99, 12.95, 8.50
	Numbers   // nothing but numbers
	Sentences // long texts
	Words     // texts without a digit
)

var contentsNames = [...]string{"", "barcodes", "links to images", "links", "HTML", "amounts of money", "prices", "numbers", "long texts", "words"}

// String returns the contents in words: "links to images".
func (c Contents) String() string { return contentsNames[c] }

// contentsShare is the share of filled cells, in percent, that must be of one kind
// before the column counts as such, and contentsCells is the least number of them. A
// column of other numbers of the lengths of barcodes passes the check digit one time in
// ten, so that even five cells do so by chance once in 100,000.
const (
	contentsShare = 80
	contentsCells = 5
)

// ContentsOf says what the cells of a column have in common, and of how many of the
// filled ones that is true.
func ContentsOf(cells []string) (c Contents, true, filled int) {
	return contentsOf(cells, contentsCells)
}

// contentsOf asks for at least so many cells of a kind.
func contentsOf(cells []string, least int) (c Contents, true, filled int) {
	var counts [Words + 1]int
	sharp := 0
	for _, cell := range cells {
		if cell = strings.TrimSpace(cell); cell != "" {
			filled++
			count(&counts, cell)
			if mayEndAsPrice(cell) && pricePoint.MatchString(cell) {
				counts[Prices]++
				if strings.Contains(cell[len(cell)-2:], "9") {
					sharp++
				}
			}
		}
	}
	if 2*sharp < counts[Prices] { // weights and lengths end in halves, too, but not in nines
		counts[Prices] = 0
	}
	for c := Barcodes; c <= Words; c++ {
		if counts[c] >= least && 100*counts[c] >= contentsShare*filled {
			return c, counts[c], filled
		}
	}
	return Mixed, 0, filled
}

// ContentsIn is [ContentsOf] of a column of rows, and what fewer cells than are needed to know
// it for certain have in common.
func ContentsIn(rows [][]string, col int) Contents {
	var cells []string
	for _, row := range rows {
		if col < len(row) {
			cells = append(cells, row[col])
		}
	}
	c, _, _ := contentsOf(cells, 1)
	return c
}

// AreYesNo reports whether the cells of a column, some of which are filled, say yes or no.
func AreYesNo(cells []string) bool {
	some := false
	for _, cell := range cells {
		if cell = strings.TrimSpace(cell); cell == "" {
			continue
		}
		if some = true; !lineWords["answer"][bare(cell)] {
			return false
		}
	}
	return some
}

// SaysNone reports whether a cell has a word or a sign that says that there is none of what the
// column should have: n/a, TBC, ohne, a dash, zeros.
func SaysNone(cell string) bool {
	b := strings.Trim(bare(cell), "/-–—_?'\"")
	return strings.Trim(b, "0") == "" && strings.TrimSpace(cell) != "" || lineWords["none"][bare(cell)] || lineWords["none"][b]
}

// titleLength is how many characters the longest title has.
const titleLength = 120

// AreTitles reports whether a column of descriptions has titles: short plain texts on one line,
// which all differ.
func AreTitles(rows [][]string, col int) bool {
	seen := make(map[string]bool)
	for _, cells := range rows {
		cell := ""
		if col < len(cells) {
			cell = strings.TrimSpace(cells[col])
		}
		if cell == "" {
			continue
		}
		if seen[cell] || utf8.RuneCountInString(cell) > titleLength || markup.IsHTML(cell) || strings.ContainsAny(cell, "\n\r") || strings.Contains(cell, ". ") {
			return false
		}
		seen[cell] = true
	}
	return len(seen) >= 2
}

// AreCodes reports whether the cells of a column look like codes: short, without spaces, with
// a digit, and neither the numbers of the rows nor amounts.
func AreCodes(rows [][]string, col int) bool {
	count, amounts, filled := true, true, 0
	for _, cells := range rows {
		if col >= len(cells) || strings.TrimSpace(cells[col]) == "" {
			continue
		}
		cell := strings.TrimSpace(cells[col])
		filled++
		count, amounts = count && cell == strconv.Itoa(filled), amounts && amount.MatchString(cell)
		if len(cell) > 40 || strings.ContainsAny(cell, " \n<>") || strings.Contains(cell, "://") || !strings.ContainsAny(cell, "0123456789") {
			return false
		}
	}
	return filled > 0 && !count && !amounts
}

// amount is a number with decimals.
var amount = lazy.New(`^[-+]?[0-9.,']*[.,][0-9]{1,2}$`)

// AllDiffer reports whether a column is filled in all of several rows, each time with something else.
func AllDiffer(rows [][]string, col int) bool {
	seen := make(map[string]bool)
	for _, cells := range rows {
		if col >= len(cells) || strings.TrimSpace(cells[col]) == "" || seen[strings.TrimSpace(cells[col])] {
			return false
		}
		seen[strings.TrimSpace(cells[col])] = true
	}
	return len(rows) > 1
}

// AreNames reports whether most cells of a column look like the names of products: words on
// one line.
func AreNames(rows [][]string, col int) bool {
	names, filled := 0, 0
	for _, cells := range rows {
		if col >= len(cells) || strings.TrimSpace(cells[col]) == "" {
			continue
		}
		cell := strings.TrimSpace(cells[col])
		filled++
		letters := 0
		for _, c := range cell {
			if unicode.IsLetter(c) {
				letters++
			}
		}
		if 2*letters > utf8.RuneCountInString(cell) && utf8.RuneCountInString(cell) <= titleLength && !strings.ContainsAny(cell, "\n<>") && !strings.Contains(cell, "://") {
			names++
		}
	}
	return filled > 0 && 10*names >= 8*filled
}

// count adds a cell to the counts of the contents that it has. A link to an image is a
// link, too, and an amount a number.
func count(counts *[Words + 1]int, cell string) {
	digit := strings.ContainsAny(cell, "0123456789")
	if !digit && !strings.ContainsAny(cell, "<:/") {
		counts[Words]++
	}
	if digit {
		if barcode.Is(cell) || isScientific(cell) {
			counts[Barcodes]++
		}
		if n := strings.TrimRight(strings.TrimLeft(cell, "+-"), "%"); strings.Trim(n, "0123456789.,' ") == "" {
			counts[Numbers]++
		} else if c := cell[0]; (c >= '0' && c <= '9' || c >= 0x80 || strings.IndexByte("-+$EUGCP", c) >= 0) && money.MatchString(cell) {
			counts[Money]++
			counts[Numbers]++
		}
	}
	if links, images := linksIn(cell); links {
		counts[Links]++
		if images {
			counts[ImageLinks]++
		}
		return
	}
	if markup.IsHTML(cell) {
		counts[HTML]++
		return
	}
	if utf8.RuneCountInString(cell) > longText && prose(cell) {
		counts[Sentences]++
	}
}

// longText is how many characters a text must have to be a description rather than a
// name.
const longText = 150

// mayEndAsPrice is a look at whether [pricePoint] may fit a cell, as it fits few.
func mayEndAsPrice(cell string) bool {
	n := len(cell)
	return n >= 4 && n <= 10 && (cell[n-3] == '.' || cell[n-3] == ',')
}

// pricePoint is the end of a number as prices mostly have it.
var pricePoint = lazy.New(`^[0-9]{1,7}[.,](99|98|95|90|79|49|50|00)$`)

var (
	money = lazy.New(`^[-+]?(?:(?:[€$£¥]|EUR|USD|GBP|CHF|PLN) ?[0-9][0-9.,' ]*|[0-9][0-9.,' ]* ?(?:[€$£¥]|zł|kr|EUR|USD|GBP|CHF|PLN|SEK|DKK|NOK|CZK))$`)
)

// linksIn reports whether a cell has nothing but links, and whether these end as the
// names of images do.
func linksIn(cell string) (links, images bool) {
	if !strings.Contains(cell, "://") {
		return false, false
	}
	images = true
	for _, part := range strings.FieldsFunc(cell, func(r rune) bool { return unicode.IsSpace(r) || r == ',' || r == ';' || r == '|' }) {
		lower := strings.ToLower(part)
		if !strings.HasPrefix(lower, "http://") && !strings.HasPrefix(lower, "https://") {
			return false, false
		}
		if at := strings.IndexAny(lower, "?#"); at >= 0 {
			lower = lower[:at]
		}
		ending := lower[strings.LastIndexByte(lower, '.')+1:]
		images = images && imagelink.IsType(ending)
	}
	return true, images
}

// Field returns what a column with such contents means, if it says that by itself.
func (c Contents) Field() catalogue.Field {
	switch c {
	case Barcodes:
		return catalogue.Barcode
	case ImageLinks:
		return catalogue.Images
	case HTML:
		return catalogue.Description
	case Money, Prices:
		return catalogue.Price
	}
	return catalogue.Unknown
}

// Unlike reports whether such contents are not what a column of that field has.
func (c Contents) Unlike(f catalogue.Field) bool {
	switch f {
	case catalogue.Title, catalogue.Brand, catalogue.Supplier:
		return c != Mixed && c != Words
	case catalogue.Category, catalogue.Type, catalogue.Colour, catalogue.Size, catalogue.Material, catalogue.Tags, catalogue.ImageAlt:
		return c == Barcodes || c == ImageLinks || c == Links || c == HTML || c == Money || c == Sentences && f != catalogue.Tags
	case catalogue.Description, catalogue.ShortDescription:
		return c == Barcodes || c == ImageLinks || c == Links || c == Money || c == Prices || c == Numbers
	case catalogue.Price, catalogue.SalePrice, catalogue.Cost, catalogue.ListPrice, catalogue.WholesalePrice, catalogue.FloorPrice, catalogue.Weight, catalogue.Length, catalogue.Width, catalogue.Height,
		catalogue.ImageOrder, catalogue.SaleFrom, catalogue.SaleTo:
		return c == Barcodes || c == ImageLinks || c == Links || c == HTML || c == Sentences || c == Words
	case catalogue.Stock: // of which some say it in words
		return c == Barcodes || c == ImageLinks || c == Links || c == HTML || c == Money || c == Sentences
	case catalogue.Images:
		return c == Barcodes || c == HTML || c == Money || c == Prices || c == Numbers || c == Sentences
	case catalogue.SKU, catalogue.ParentSKU, catalogue.MPN, catalogue.Slug:
		return c == ImageLinks || c == HTML || c == Money || c == Sentences
	case catalogue.Barcode:
		return c == ImageLinks || c == Links || c == HTML || c == Money || c == Sentences
	}
	return false
}

// Watches reports whether there are contents that a column of that field does not have, and that a look at single cells shows.
func Watches(f catalogue.Field) bool {
	return Links.Unlike(f) && f != catalogue.Description && f != catalogue.ShortDescription || ImageLinks.Unlike(f) && f.Kind() == catalogue.CodeKind || f == catalogue.Images
}

// Astray returns what a single cell holds, if it is not what a field has that is watched; Mixed otherwise.
func Astray(f catalogue.Field, cell string) Contents {
	if atHome(f.Kind(), cell) {
		return Mixed
	}
	if c := ContentOf(cell); c.Unlike(f) {
		return c
	}
	return Mixed
}

// ContentOf returns what a single cell holds, by which it is known best; Mixed if that is nothing of these.
func ContentOf(cell string) Contents {
	cell = strings.TrimSpace(cell)
	var counts [Words + 1]int
	if count(&counts, cell); mayEndAsPrice(cell) && pricePoint.MatchString(cell) {
		counts[Prices]++
	}
	for c := Barcodes; c <= Words; c++ {
		if counts[c] > 0 && (c != Barcodes || len(cell) >= longCode) { // every tenth number of eight digits is one
			return c
		}
	}
	return Mixed
}

// longCode is how many digits a barcode has at least that is known as one by itself.
const longCode = 12

// longestCode is how many bytes an SKU or another code has at most that is known as one at once.
const longestCode = 40

// atHome reports, at once, that a cell may stand in a column of a kind, as most do.
func atHome(kind catalogue.Kind, cell string) bool {
	n := len(cell)
	if n == 0 {
		return true
	}
	first, last := cell[0], cell[n-1]
	switch kind {
	case catalogue.LineKind, catalogue.ListKind: // words
		return n <= longText && isLetter(first) && last != '>' && !isLink(cell)
	case catalogue.LinkKind:
		return isLink(cell)
	case catalogue.CodeKind:
		return n <= longestCode && (isLetter(first) || isDigit(first)) && (isLetter(last) || isDigit(last)) && !isLink(cell)
	}
	if n < longCode && isDigit(first) { // a number, with its mark, currency or unit
		return true
	}
	digits := 0
	for i := range n {
		if isDigit(cell[i]) {
			digits++
		}
	}
	return digits > 0 && digits < longCode && n <= 24
}

// A Home tells cells that may stand in a column of a kind, as most do: nearly all of them by their first and last bytes and their length.
type Home struct {
	kind        catalogue.Kind
	first, last [256]bool
	longest     int
}

// HomeOf returns that of columns of a kind.
func HomeOf(kind catalogue.Kind) *Home {
	h := &Home{kind: kind}
	for i := range h.first {
		c := byte(i)
		letter := isLetter(c) && c|0x20 != 'h' // which may be a link
		switch kind {
		case catalogue.LineKind, catalogue.ListKind:
			h.first[c], h.last[c], h.longest = letter, c != '>', longText
		case catalogue.LinkKind: // none
		case catalogue.CodeKind:
			h.first[c], h.last[c], h.longest = letter || isDigit(c), isLetter(c) || isDigit(c), longestCode
		default:
			h.first[c], h.last[c], h.longest = isDigit(c), true, longCode-1
		}
	}
	return h
}

// Has reports whether a cell, which is not empty, may stand there; [Astray] looks closer at the others.
func (h *Home) Has(cell string) bool { return h.surely(cell) || atHome(h.kind, cell) }

// surely reports whether that is seen at once.
func (h *Home) surely(cell string) bool {
	n := len(cell)
	return n <= h.longest && h.first[cell[0]] && h.last[cell[n-1]]
}

func isLink(cell string) bool {
	return cell[0]|0x20 == 'h' && (strings.HasPrefix(cell, "https://") || strings.Contains(cell, "://"))
}

func isLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' || c >= 0x80 }

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// LooksLikeProduct reports whether a row that should be that of the headings has what
// headings never are: a barcode, a link, HTML or an amount.
func LooksLikeProduct(cells []string) bool {
	for _, cell := range cells {
		cell = strings.TrimSpace(cell)
		_, err := barcode.Parse(cell)
		links, _ := linksIn(cell)
		if err == nil || links || money.MatchString(cell) || markup.IsHTML(cell) || price.MatchString(cell) {
			return true
		}
	}
	return false
}

// price is a number with two decimals, which a heading is not.
var price = lazy.New(`^[0-9]+[.,][0-9]{2}$`)
