package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// TestGrouping: the letters say which product each row belongs to.
func TestGrouping(t *testing.T) {
	for _, test := range []struct {
		name, head string
		rows       []string
		want       string
	}{
		{"a row a product", "sku,title", []string{"A,x", "B,x", "C,y"}, "abc"},
		{"empty title", "sku,title", []string{"A,x", ",", "B,y", ",z"}, "aabc"},
		{"a product without a title", "sku,title,price", []string{"A,x,1", "B,,", ",,2", ",,"}, "abcc"},
		{"the SKU above once more, with a picture", "sku,title,price,images", []string{"A,x,1,a", "A,,,b", ",,,c", "B,y,1,d", "B,,2,", "C,,,e"}, "aaabbc"},
		{"a variant, which its option tells", "sku,title,colour", []string{"A,x,red", "A-2,,blue", "B,,", "B-2,,red"}, "aabb"},
		{"no title column: every row", "sku,price", []string{"A,1", ",2", "B,"}, "abc"},
		{"slug", "sku,slug,title", []string{"A,one,x", "B,one,y", "C,two,x", "D,,x", "E,,", "F,three,"}, "aabcde"},
		{"slug comes again later", "sku,slug,title", []string{"A,one,x", "B,two,x", "C,one,x"}, "abc"},
		{"parent", "sku,parent sku,title", []string{"P,,x", "P-1,P,y", "P-2,P,z", "Q,,x", "R-1,R,x"}, "aaabc"},
		{"blank rows interrupt nothing", "sku,slug,title", []string{"A,one,x", ",,", "B,one,y", ",,", "C,two,z"}, "aaaab"},
	} {
		fields := catalogue.Columns{Headings: strings.Split(test.head, ",")}
		for _, h := range fields.Headings {
			f, _ := catalogue.ParseField(strings.ReplaceAll(h, " ", "_"))
			fields.Fields = append(fields.Fields, f)
		}
		begins := NewKey(&fields, -1, nil).Grouping()()
		begins(nil)
		got, letter := "", byte('a')
		for i, r := range test.rows {
			row := &catalogue.Row{Cells: strings.Split(r, ",")}
			if begins(row) && i > 0 {
				letter++
			}
			got += string(letter)
		}
		assert.Equal(t, test.want, got, test.name)
	}
}
