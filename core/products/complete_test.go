package products

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLeftOut: what is left out is what the plainest way finds, each product once, with the
// row of the first time, at most five by name; parents are not sold.
func TestLeftOut(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	more := 0
	for range 300 {
		shop := NewShop("shop.csv")
		type variant struct {
			sku     string
			row     int
			product uint64
		}
		var list []variant
		parents := make(map[string]bool)
		seen := make(map[string]bool)
		for row := 2; row < 40; row++ {
			v := variant{fmt.Sprintf("S%d", r.IntN(45)), row, uint64(r.IntN(5))}
			parent := ""
			if r.IntN(6) == 0 {
				parent = fmt.Sprintf("S%d", r.IntN(45))
				parents[parent] = true
			}
			if shop.Add(" "+v.sku+" ", parent, v.row, v.product); !seen[v.sku] {
				seen[v.sku] = true
				list = append(list, v)
			}
		}
		shop.Add("", "", 50, 1)
		require.Equal(t, len(list), shop.Len())
		here := make(map[string]bool)
		var own []int
		products := make(map[uint64]bool)
		var order []uint64
		for i, v := range list {
			if r.IntN(3) == 0 {
				here[v.sku] = true
			}
			if r.IntN(9) == 0 {
				n, ok := shop.Number(v.sku)
				require.True(t, ok && n == i)
				if own = append(own, n); !products[v.product] {
					products[v.product] = true
					order = append(order, v.product)
				}
			}
		}
		var want []string
		for _, p := range order {
			for _, v := range list {
				if v.product == p && !here[v.sku] && !parents[v.sku] {
					want = append(want, fmt.Sprintf("%s (row %d)", v.sku, v.row))
				}
			}
		}
		text := strings.Join(want[:min(len(want), 5)], ", ")
		if len(want) > 5 {
			more++
			text += fmt.Sprintf(" and %d more", len(want)-5)
		}
		require.Equal(t, text, shop.LeftOut(own, func(n int) bool { return here[list[n].sku] }))
	}
	assert.Greater(t, more, 30)
	_, ok := NewShop("").Number("S1")
	assert.False(t, ok)
}
