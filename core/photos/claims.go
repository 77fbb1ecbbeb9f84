package photos

import (
	"cmp"
	"encoding/binary"
	"maps"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"
)

// Claims say which products the files of a folder fit best. They are an ordered monoid: whatever the order in which products are
// taken in, they come out the same.
type Claims struct{ files map[int]claim }

// claim is how well a file fits, and which products it fits so well.
type claim struct {
	fit      Fit
	products []claimant // two at most, in their order
}

type claimant struct {
	id   uint64 // tells products apart
	code string // by which the file is called
}

// Add takes in that a file fits a product, which has a code and a number by which it is told from others.
func (c *Claims) Add(file int, fit Fit, id uint64, code string) {
	c.join(file, claim{fit, []claimant{{id, code}}})
}

func (c *Claims) join(file int, with claim) {
	if c.files == nil {
		c.files = make(map[int]claim)
	}
	had, there := c.files[file]
	switch {
	case !there || with.fit.Less(had.fit):
		c.files[file] = with
		return
	case had.fit.Less(with.fit):
		return
	}
	all := slices.Concat(had.products, with.products)
	slices.SortFunc(all, func(a, b claimant) int { return cmp.Or(cmp.Compare(a.id, b.id), strings.Compare(a.code, b.code)) })
	all = slices.CompactFunc(all, func(a, b claimant) bool { return a.id == b.id })
	c.files[file] = claim{had.fit, all[:min(len(all), 2)]}
}

// Place adds a number to those by which products are told apart that are smaller than the least of others: the rows above them.
func (c *Claims) Place(above int) {
	for _, one := range c.files {
		for i := range one.products {
			if one.products[i].id < leastHash {
				one.products[i].id += uint64(above)
			}
		}
	}
}

// leastHash is the least of numbers that are no rows.
const leastHash = 1 << 48

// OfRow and OfCode tell products apart: by their first row, or by a code that no two products may have, so that rows which repeat one
// another are one.
func OfRow(row int) uint64 { return uint64(row) }

// OfCode returns the number of a code.
func OfCode(code string) uint64 { return xxhash.Sum64String(code) | leastHash }

// Merge takes in what others say.
func (c *Claims) Merge(next *Claims) {
	for file, with := range next.files {
		c.join(file, with)
	}
}

// Best returns how well a file fits the products that it fits best, and the codes of these: none, one or two.
func (c *Claims) Best(file int) (fit Fit, codes []string) {
	for _, p := range c.files[file].products {
		codes = append(codes, p.code)
	}
	slices.Sort(codes)
	return c.files[file].fit, codes
}

// Takes reports whether a file is that of a product: it fits none better or as well.
func (c *Claims) Takes(file int, fit Fit, id uint64) bool {
	best, there := c.files[file]
	return !there || len(best.products) == 1 && best.products[0].id == id && !best.fit.Less(fit)
}

// AppendBinary appends the claims.
func (c *Claims) AppendBinary(b []byte) ([]byte, error) {
	for _, file := range slices.Sorted(maps.Keys(c.files)) {
		one := c.files[file]
		b = binary.AppendUvarint(b, uint64(file))
		b = append(b, byte(one.fit.rank()), byte(len(one.products)))
		for _, p := range one.products {
			b = append(binary.AppendUvarint(b, p.id), p.code...)
			b = append(b, 0)
		}
	}
	return b, nil
}
