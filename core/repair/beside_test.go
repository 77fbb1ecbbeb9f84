package repair

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/line"
)

// TestMayHave: a table beside the source is passed over without a closer look only where too few of the SKUs can stand
// in it, whatever stands around them.
func TestMayHave(t *testing.T) {
	keys := func(skus ...string) (list []line.LackOf) {
		for i, sku := range skus {
			list = append(list, line.LackOf{Row: i, SKU: sku})
		}
		return list
	}
	var many []string
	for i := range 70 {
		many = append(many, "HG-"+strings.Repeat("7", i+1))
	}
	three := "SKU\nHG-7\nHG-77\nHG-777\n"
	for _, test := range []struct {
		text string
		keys []line.LackOf
		want bool
	}{
		{"SKU;EAN\nHG-0012;9521234000013\n", keys("HG-0012"), true},
		{"SKU;EAN\n'HG-0012;9521234000013\n", keys("HG-0012"), true},
		{"SKU,EAN\r\n\"HG-0012\",1\r\n", keys("HG-0012", "HG-0013"), true},
		{"SKU,EAN\r\nHG-00123,1\r\n", keys("HG-0012", "HG-0013"), false},
		{"SKU,EAN\r\nxHG-0012 HG-00122 HG-0012,1\r\n", keys("HG-0012", "HG-0019"), true},
		{"SKU,EAN\r\nxHG-0012,1\r\n", keys("HG-0012", "HG-0019"), false},
		{"SKU,EAN\r\nHG 0012 a,1\r\n", keys("HG 0012 a"), true},
		{"S\x00K\x00U\x00", keys("HG-0012"), true},
		{"SKU\nx\n", keys("Größe 7"), true},
		{"SKU\nx\n", keys("----"), false},
		{"SKU\nx----\n", keys("----"), false},
		{"SKU\nx\n", keys("--"), true},
		{"SKU\nx\n", keys("", ""), false},
		{three, keys(many[:30]...), true},
		{three, keys(many[:31]...), false},
		{three, keys(many...), false},
		{three + "HG-7777\nHG-77777\nHG-777777\nHG-7777777\n", keys(many...), true},
	} {
		assert.Equal(t, test.want, mayHave([]byte(test.text), test.keys), "%q", test.text)
		assert.Equal(t, test.want, sketchOf([]byte(test.text)).mayHave(test.keys), "%q", test.text)
	}
}

// BenchmarkMayHave: a list of a megabyte in which none of the SKUs stands, few of them and many.
func BenchmarkMayHave(b *testing.B) {
	text := []byte(strings.Repeat("LRA-0000001,9521234000013,Beech smoker box,12.90,4,Linden Row\n", 16_000))
	for _, n := range []int{4, 400} {
		var keys []line.LackOf
		for i := range n {
			keys = append(keys, line.LackOf{Row: i, SKU: fmt.Sprintf("LRA-9%06d", i)})
		}
		looks := []struct {
			name string
			may  func() bool
		}{{"first", func() bool { return mayHave(text, keys) }}, {"sketch", func() bool { return sketchOf(text).mayHave(keys) }}}
		for _, look := range looks {
			b.Run(look.name+strconv.Itoa(n), func(b *testing.B) {
				b.SetBytes(int64(len(text)))
				for b.Loop() {
					if look.may() {
						b.Fatal()
					}
				}
			})
		}
	}
}
