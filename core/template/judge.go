package template

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/quantity"
)

// A Reason is why an importer that goes by the form refuses a row.
type Reason string

// The reasons.
const (
	ReasonRequired Reason = "required" // a column is empty that must be filled
	ReasonList     Reason = "list"     // a value is not in its list, or not the only one that there may be
	ReasonLength   Reason = "length"   // a text is too long
	ReasonTwice    Reason = "twice"    // an earlier row has the same key
	ReasonCode     Reason = "code"     // a barcode has too few or too many digits, or a wrong check digit
	ReasonPicture  Reason = "picture"  // a picture is of another type
	ReasonAnswer   Reason = "answer"   // something else than the words for yes and no
	ReasonDate     Reason = "date"     // a date is written in another way, or is none
	ReasonNumber   Reason = "number"   // a number is written in another way, or beyond its limits
)

// A Refusal is what is wrong with a cell.
type Refusal struct {
	Column int // by its place, from 0
	Reason Reason
	Says   string // the end of a sentence that begins with the cell
}

// A Judge takes rows or refuses them as an importer does that goes by the words of the form, and by nothing else: where these are laxer than
// what a repair asks, so is it.
type Judge struct {
	columns []judged
	key     int             // the column in which no value may stand twice; -1 if there is none
	seen    map[uint64]bool // hashes of its values
}

// A judged column is what the form takes in it.
type judged struct {
	*Column
	shape   shape
	answer  []string
	list    map[string]bool
	by      map[string]map[string]bool
	layout  string // of dates
	mark    rune   // before decimals; 0 for any
	types   []string
	address bool // of pictures, and not names of files
	check   bool // a barcode of 13 digits
	least   quantity.Number
	most    quantity.Number
	several string
	lax     bool // a file that was taken shows how it is written, and nothing says that anything else is refused
}

// NewJudge returns a judge that has not seen any row. key is the column by which products are known, for forms that do not say it, -1 if there
// is none.
func (t *Template) NewJudge(key int) *Judge {
	j := &Judge{key: key, seen: make(map[uint64]bool)}
	for n := range t.Columns {
		c := &t.Columns[n]
		if says(c.Rule, "once") && (j.key == key || n < j.key) && len(c.List) == 0 {
			j.key = n
		}
		j.columns = append(j.columns, t.judged(n))
	}
	return j
}

// judged returns what the form takes in a column.
func (t *Template) judged(n int) judged {
	c, w := &t.Columns[n], &t.wanted[n]
	one := judged{Column: c, shape: w.shape, several: t.severalOf(n), lax: t.Export && w.guessed}
	one.least, _ = quantity.Parse(c.Least)
	one.most, _ = quantity.Parse(c.Most)
	if one.answer = t.answersIn(n); one.answer != nil {
		one.shape = answer
	}
	if len(c.List) > 0 {
		one.list = setOf(c.List)
		if len(c.ListBy) > 0 {
			one.by = make(map[string]map[string]bool)
			for parent, list := range c.ListBy {
				one.by[parent] = setOf(list)
			}
		}
	}
	if w.shape == date {
		one.layout = strings.NewReplacer("YYYY", "2006", "YY", "06", "MM", "01", "DD", "02").Replace(t.dateForm(c))
	}
	if w.shape == amount && (says(c.Rule, "point") || says(c.Rule, "comma") || t.waysOf(c).Decimal != "") {
		one.mark = t.markOf(c)
	}
	one.check = w.shape == code && asksThirteen(c.Rule)
	one.address = says(c.Rule, "address") && !says(c.Rule, "file")
	rule := strings.ToLower(c.Rule)
	for _, end := range []string{".jpg", ".jpeg", ".png", ".gif", ".webp", ".tif", ".tiff", ".bmp"} {
		if strings.Contains(rule, end) {
			one.types = append(one.types, end)
		}
	}
	return one
}

// dateForm returns how a column writes dates, "" if the form does not show it.
func (t *Template) dateForm(c *Column) string { return cmp.Or(formOf(c.Rule), t.waysOf(c).Date) }

// Key returns the column in which no value may stand twice, -1 if there is none.
func (j *Judge) Key() int { return j.key }

// answersIn returns the words for yes and no in a column, nil if it has others.
func (t *Template) answersIn(n int) []string {
	c := &t.Columns[n]
	if len(c.List) == 2 {
		if own := answersOf(c.List[0], c.List[1]); own != nil {
			return own
		}
	}
	if pair := yesOrNo(c.Rule); pair != nil {
		return pair
	}
	if t.wanted[n].shape == answer && t.waysOf(c).Yes != "" && len(c.List) == 0 {
		return []string{t.waysOf(c).Yes, t.waysOf(c).No}
	}
	return nil
}

func setOf(list []string) map[string]bool {
	set := make(map[string]bool, len(list))
	for _, v := range list {
		set[v] = true
	}
	return set
}

// Row judges the next row: nothing is wrong with one that is taken.
func (j *Judge) Row(cells []string) (wrong []Refusal) {
	wrong = j.Cells(cells)
	if again, is := j.Again(cells); is {
		wrong = append(wrong, again)
	}
	return wrong
}

// Cells judges the cells of a row. Many goroutines may do that at once.
func (j *Judge) Cells(cells []string) (wrong []Refusal) {
	for n := range j.columns {
		c := &j.columns[n]
		if reason, why := c.judge(cellOf(cells, n), cellOf(cells, c.Depends-1)); reason != "" {
			wrong = append(wrong, Refusal{n, reason, why})
		}
	}
	return wrong
}

// Again looks whether an earlier row has the key of the next one.
func (j *Judge) Again(cells []string) (wrong Refusal, is bool) {
	key := strings.TrimSpace(cellOf(cells, j.key))
	if key == "" {
		return Refusal{}, false
	}
	hash := xxhash.Sum64String(key)
	if is = j.seen[hash]; !is {
		j.seen[hash] = true
	}
	return Refusal{j.key, ReasonTwice, "stands in an earlier row, too"}, is
}

func cellOf(cells []string, n int) string {
	if n >= 0 && n < len(cells) {
		return cells[n]
	}
	return ""
}

// judge says why a cell is refused; "" if it is not.
func (c *judged) judge(cell, parent string) (Reason, string) {
	if strings.TrimSpace(cell) == "" {
		if c.Need == Required {
			return ReasonRequired, "must be filled, and is empty"
		}
		return "", ""
	}
	switch {
	case c.Always != "" && cell != c.Always:
		return ReasonList, "is not " + c.Always + ", which must stand in every row"
	case c.shape == answer && c.answer != nil:
		if !slices.Contains(c.answer, cell) {
			return ReasonAnswer, fmt.Sprintf("is neither %s nor %s", c.answer[0], c.answer[1])
		}
		return "", ""
	case c.list != nil:
		list := c.list
		if by, there := c.by[parent]; there {
			list = by
		}
		if !list[cell] {
			return ReasonList, "is not in the list"
		}
		return "", ""
	case c.lax && (c.layout != "" || c.shape == amount):
		return "", ""
	case c.layout != "":
		if _, err := time.Parse(c.layout, cell); err != nil {
			return ReasonDate, "is no date as the template has them"
		}
		return "", ""
	case c.shape == amount:
		return c.number(cell)
	case c.check:
		if code, err := barcode.Parse(cell); err != nil || len(cell) != 13 || code.Key() == 0 {
			return ReasonCode, "is no barcode of 13 digits with a right check digit"
		}
		return "", ""
	case c.shape == picture && c.types != nil:
		parts := []string{cell}
		if c.several != "" {
			parts = strings.Split(cell, strings.TrimSpace(c.several))
		}
		for _, part := range parts {
			lower := strings.ToLower(strings.TrimSpace(part))
			if !slices.ContainsFunc(c.types, func(end string) bool { return strings.HasSuffix(lower, end) && len(lower) > len(end) }) {
				return ReasonPicture, "is no " + strings.Join(c.types, ", ")
			}
			if c.address && !isAddress(lower) {
				return ReasonPicture, "is no address on the web"
			}
		}
	}
	if n := utf8.RuneCountInString(cell); c.MostLength > 0 && n > c.MostLength && c.shape != code {
		return ReasonLength, fmt.Sprintf("has %s characters, and %s is the most", catalogue.Thousands(uint64(n)), catalogue.Thousands(uint64(c.MostLength)))
	}
	return "", ""
}

// isAddress reports whether a text in small letters is an address on the web, as RFC 3986 has them: a host, and something on it, without spaces.
func isAddress(text string) bool {
	rest, secure := strings.CutPrefix(text, "https://")
	if !secure {
		if rest, secure = strings.CutPrefix(text, "http://"); !secure {
			return false
		}
	}
	host, path, _ := strings.Cut(rest, "/")
	return host != "" && path != "" && !strings.ContainsFunc(text, unicode.IsSpace)
}

// number judges a cell of numbers.
func (c *judged) number(cell string) (Reason, string) {
	text := cell
	if c.mark == ',' && !strings.Contains(text, ".") || c.mark == 0 && strings.Count(text, ",") == 1 && !strings.Contains(text, ".") {
		text = strings.Replace(text, ",", ".", 1)
	}
	digits := strings.TrimPrefix(text, "-")
	whole, decimals, marked := strings.Cut(digits, ".")
	n, err := quantity.Parse(text)
	switch {
	case err != nil || strings.Trim(whole+decimals, "0123456789") != "" || whole == "" || marked && decimals == "":
		return ReasonNumber, "is no number as the template has them"
	case c.Whole && marked:
		return ReasonNumber, "is no whole number"
	case c.least.IsValid() && n.Cmp(c.least) < 0:
		return ReasonNumber, "is less than " + c.Least + ", the least"
	case c.most.IsValid() && n.Cmp(c.most) > 0:
		return ReasonNumber, "is more than " + c.Most + ", the most"
	}
	return "", ""
}

// Accepts says what is wrong with the lines above the products of a file, whose rows these are: "" if they are those of the form.
func (t *Template) Accepts(rows [][]string) string {
	if len(rows) < len(t.above) {
		return fmt.Sprintf("it has %d rows, and the template has %d above the products", len(rows), len(t.above))
	}
	for n, want := range t.above {
		has := rows[n]
		for i := range max(len(want), len(has)) {
			a, b := "", ""
			if i < len(want) {
				a = strings.TrimSpace(want[i])
			}
			if i < len(has) {
				b = strings.TrimSpace(has[i])
			}
			if a != b {
				return fmt.Sprintf("row %d is not as in the template: %q stands there, and %q should", n+1, b, a)
			}
		}
	}
	return ""
}
