package products

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// rowsOf makes the rows of a product: rows are separated by lines, cells by bars.
func rowsOf(text string) (rows []*catalogue.Row) {
	for i, line := range strings.Split(text, "\n") {
		cells := strings.Split(line, "|")
		for j := range cells {
			cells[j] = strings.TrimSpace(cells[j])
		}
		rows = append(rows, &catalogue.Row{Number: i + 2, Cells: cells})
	}
	return rows
}

// TestGathering: the columns are size, colour (an option), price, image and title (of the
// product). Rows become one only where nothing is lost by it, and what stands in the way is named.
func TestGathering(t *testing.T) {
	g := &Gathering{From: 0, At: ", ", Compared: []int{1, 2}, Options: []int{1}, Images: []int{3}, Whole: []int{4}}
	for _, test := range []struct{ name, rows, want string }{
		{"one row for all", "S|red|5|a.jpg|Suit\nM|red|5\nL|red|5|a.jpg|Suit", "0=S,M,L"},
		{"by colour", "S|red|5\nS|blue|5\nM|red|5\nM|blue|5", "0=S,M 1=S,M"},
		{"another price", "S|red|5\nM|red|6", "0=S 1=M; 1 like 0 but for 2"},
		{"another image", "S|red|5|a.jpg\nM|red|5|b.jpg", "0=S 1=M; 1 like 0 but for 3"},
		{"another title", "S|red|5||Suit\nM|red|5||Other", "0=S 1=M; 1 like 0 but for 4"},
		{"the same value twice", "S|red|5\ns|red|5", "0=S 1=s; 1 like 0 but for 0"},
		{"it fits the second of two", "S|red|5|a.jpg\nM|red|5|b.jpg\nL|red|5|b.jpg", "0=S 1=M,L; 1 like 0 but for 3"},
		{"no value, a list, and what is not meant", "|red|5\nS, M|red|5\nS|no|5\nM|red|5\nL|red|5", "3=M,L"},
		{"what is set aside is no lead row", "aside||||Old\nS|red|5||New\nM|red|5||New", "1=S,M"},
	} {
		rows := rowsOf(test.rows)
		list, unlike := g.Rows(rows, func(i int) bool { return rows[i].Cell(0) == "aside" },
			func(i int) bool { return rows[i].Cell(1) != "no" })
		var got []string
		for _, row := range list {
			got = append(got, fmt.Sprintf("%d=%s", row.Index, strings.Join(row.Values, ",")))
			assert.Len(t, row.Others, len(row.Values)-1)
		}
		said := strings.Join(got, " ")
		for _, u := range unlike {
			said += fmt.Sprintf("; %d like %d but for %d", u.Index, u.Of, u.Col)
		}
		assert.Equal(t, test.want, said, test.name)
	}
}
