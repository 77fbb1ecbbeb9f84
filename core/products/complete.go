package products

import (
	"fmt"
	"strings"
)

// A Shop knows which variants each product has in another sheet: that of the shop.
type Shop struct {
	Name     string
	skus     []string
	rows     []int
	numbers  map[string]int
	products map[uint64][]int // what is known of a product: numbers of SKUs
	of       []uint64         // the product of each SKU
	parents  map[string]bool  // SKUs that others name as their parents: they are not sold
}

// mostNamed is how many variants that are left out are named.
const mostNamed = 5

// NewShop returns what knows no variant yet of the sheet of that name.
func NewShop(name string) *Shop {
	return &Shop{Name: name, numbers: make(map[string]int), products: make(map[uint64][]int), parents: make(map[string]bool)}
}

// Add adds the SKU in a row of the sheet, its parent, and what stands for its product.
func (s *Shop) Add(sku, parent string, row int, product uint64) {
	if parent != "" && !s.parents[parent] {
		s.parents[strings.Clone(parent)] = true
	}
	sku = strings.TrimSpace(sku)
	if _, there := s.numbers[sku]; sku == "" || there {
		return // of an image row
	}
	sku = strings.Clone(sku)
	s.numbers[sku] = len(s.skus)
	s.products[product] = append(s.products[product], len(s.skus))
	s.skus, s.rows, s.of = append(s.skus, sku), append(s.rows, row), append(s.of, product)
}

// Len returns how many SKUs are known.
func (s *Shop) Len() int { return len(s.skus) }

// Number returns the number of an SKU, which is less than Len; ok is false if the shop
// does not have it.
func (s *Shop) Number(sku string) (n int, ok bool) {
	n, ok = s.numbers[strings.TrimSpace(sku)]
	return n, ok
}

// LeftOut says which variants the products with these numbered SKUs have in the shop of
// which here says that they are not: "HB-3 (row 7), HB-4 (row 8)"; "" if it is none.
func (s *Shop) LeftOut(numbers []int, here func(n int) bool) string {
	var b strings.Builder
	seen := make(map[uint64]bool)
	named, more := 0, 0
	for _, n := range numbers {
		if seen[s.of[n]] {
			continue
		}
		seen[s.of[n]] = true
		for _, other := range s.products[s.of[n]] {
			if here(other) || s.parents[s.skus[other]] {
				continue
			}
			if named == mostNamed {
				more++
				continue
			}
			if named++; named > 1 {
				b.WriteString(", ")
			}
			fmt.Fprintf(&b, "%s (row %d)", s.skus[other], s.rows[other])
		}
	}
	if more > 0 {
		fmt.Fprintf(&b, " and %d more", more)
	}
	return b.String()
}
