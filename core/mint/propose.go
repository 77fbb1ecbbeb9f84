package mint

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/text"
)

// A Proposal is a pattern that fits a file.
type Proposal struct {
	From string
	Says string // of what its codes are made, in words
}

// Propose returns patterns for SKUs that fit the columns of a file, the best first. rows are its first
// rows: most codes that are there may have one form, in which it goes on.
func Propose(columns *catalogue.Columns, options []int, rows [][]string) (list []Proposal) {
	add := func(from, says string) {
		if !slices.ContainsFunc(list, func(p Proposal) bool { return p.From == from }) {
			list = append(list, Proposal{from, says})
		}
	}
	if from, says := formOf(columns, rows); from != "" {
		add(from, says)
	}
	var tail, slugs strings.Builder
	for _, col := range options {
		how := "slug upper first 6"
		if columns.Fields[col] == catalogue.Colour {
			how = "ascii letters upper first 3"
		}
		fmt.Fprintf(&tail, "[-{%s %s}]", slot(columns, col), how)
		fmt.Fprintf(&slugs, "[-{%s slug}]", slot(columns, col))
	}
	told := ""
	if tail.Len() > 0 {
		told = ", with the options"
	}
	if columns.First(catalogue.Brand) >= 0 {
		add("{brand ascii letters upper first 2}-{title ascii letters upper first 3}"+tail.String()+"-{counter 4}", "the brand and the title, with a number"+told)
	}
	add("{title ascii letters upper first 3}"+tail.String()+"-{counter 4}", "the title, with a number"+told)
	add("{random letters 3}-{random digits 4}", "letters and digits that say nothing")
	add("{title slug}"+slugs.String()+"[-{counter}]", "the whole title, a number only where it must be"+told)
	return list[:min(len(list), 3)]
}

// slot returns how a column is named in a pattern.
func slot(columns *catalogue.Columns, col int) string {
	if f := columns.Fields[col]; f != catalogue.Unknown && columns.First(f) == col {
		return f.String()
	}
	return `"` + columns.Headings[col] + `"`
}

// leastOfForm is how many codes of a form are needed to go on in it.
const leastOfForm = 3

// A coded is a row with a code that ends in a number.
type coded struct {
	head, number string
	cells        []string
}

// formOf returns the pattern of most of the codes that are there: they begin the same, then may have the
// first letters of some column, and end with a number of fixed width. It returns "" if there is none.
func formOf(columns *catalogue.Columns, rows [][]string) (from, says string) {
	sku := columns.First(catalogue.SKU)
	if sku < 0 {
		return "", ""
	}
	widths, filled := make(map[int][]coded), 0
	for _, cells := range rows {
		if sku >= len(cells) || strings.TrimSpace(cells[sku]) == "" {
			continue
		}
		filled++
		code := strings.TrimSpace(cells[sku])
		at := len(code)
		for at > 0 && isDigit(code[at-1]) {
			at--
		}
		if n := len(code) - at; at > 0 && n > 0 && n < 18 {
			widths[n] = append(widths[n], coded{code[:at], code[at:], cells})
		}
	}
	var of []coded
	for n := 1; n < 18; n++ {
		if len(widths[n]) > len(of) {
			of = widths[n]
		}
	}
	if len(of) < leastOfForm || 2*len(of) < filled {
		return "", ""
	}
	width := len(of[0].number)
	says = fmt.Sprintf("as %d of the codes that are there are made", len(of))
	common := of[0].head
	for _, c := range of {
		for !strings.HasPrefix(c.head, common) {
			common = common[:len(common)-1]
		}
	}
	if same := !slices.ContainsFunc(of, func(c coded) bool { return c.head != common }); same {
		return fmt.Sprintf("%s{counter %d}", literal(common), width), says
	}
	for begin := len(common); begin >= 0; begin-- { // letters of a column may begin the same, too
		if from := ofColumn(columns, of, common[:begin]); from != "" {
			return fmt.Sprintf("%s{counter %d}", from, width), says
		}
	}
	return "", ""
}

// ofColumn returns the pattern of what stands before the numbers of codes, if behind the part that they have in
// common stand the first letters of a column, and then a sign or none.
func ofColumn(columns *catalogue.Columns, of []coded, common string) string {
	rest := of[0].head[len(common):]
	sign := strings.TrimLeft(rest, "ABCDEFGHIJKLMNOPQRSTUVWXYZ")
	size := len(rest) - len(sign)
	if size == 0 || size > 8 || len(sign) > 2 {
		return ""
	}
	for col := range columns.Own() {
		fits := func(c coded) bool {
			if col >= len(c.cells) || c.head == c.cells[col] {
				return false
			}
			letters := []rune(strings.ToUpper(only(text.ASCII(c.cells[col]))))
			return c.head == common+string(letters[:min(size, len(letters))])+sign
		}
		if columns.Fields[col] != catalogue.SKU && !slices.ContainsFunc(of, func(c coded) bool { return !fits(c) }) {
			return fmt.Sprintf("%s{%s ascii letters upper first %d}%s", literal(common), slot(columns, col), size, literal(sign))
		}
	}
	return ""
}

func only(s string) string {
	return strings.Map(func(c rune) rune {
		if unicode.IsLetter(c) {
			return c
		}
		return -1
	}, s)
}

// literal writes a text as it stands in a pattern.
func literal(s string) string {
	return strings.NewReplacer("{", "{{", "}", "}}", "[", "[[", "]", "]]").Replace(s)
}
