package products

import (
	"cmp"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
)

// A Kin says which products are to be one, although their keys differ. It is told so by
// SKUs or keys, and learns from the sheet which keys those SKUs have: rows with such a key,
// a further variant or an image, go with them.
type Kin struct {
	skus  map[string]string // the family of an SKU, or of a key
	keys  map[string]kinKey // that of a key
	met   map[string]bool   // SKUs and keys of families that the sheet has
	Wrong error             // why it cannot be, if a key has SKUs of two families
}

type kinKey struct {
	family, sku string
	row         int // the first that says so
}

// NewKin returns what makes no products one yet.
func NewKin() *Kin {
	return &Kin{skus: make(map[string]string), keys: make(map[string]kinKey), met: make(map[string]bool)}
}

// Add says that an SKU or a key is of a family.
func (k *Kin) Add(sku, family string) {
	if sku != "" && family != "" {
		k.skus[sku] = family
	}
}

// Reset forgets what was learned from a sheet.
func (k *Kin) Reset() {
	clear(k.keys)
	clear(k.met)
	k.Wrong = nil
}

// Met reports whether the sheet has an SKU or a key.
func (k *Kin) Met(name string) bool { return k.met[name] }

// Learn learns from a row which key a family has there.
func (k *Kin) Learn(key *Key, row *catalogue.Row) {
	sku, own := row.Cell(key.sku), key.own(row)
	family := cmp.Or(k.skus[sku], k.skus[own])
	for _, name := range []string{sku, own} {
		if k.skus[name] != "" && !k.met[name] {
			k.met[strings.Clone(name)] = true
		}
	}
	if family == "" || own == "" {
		return
	}
	known, there := k.keys[own]
	if !there {
		k.keys[strings.Clone(own)] = kinKey{family, strings.Clone(sku), row.Number}
	} else if known.family != family && k.Wrong == nil {
		k.Wrong = columns.Refuse("[products] makes %s in row %d and %s in row %d parts of two products, but both are of the product %q, "+
			"and products are made one as wholes; put them in one list, or give one of them another key", known.sku, known.row, sku,
			row.Number, own)
	}
}

// Names reports whether an SKU is of a family; k may be nil.
func (k *Kin) Names(sku string) bool { return k != nil && k.skus[sku] != "" }

// of returns the family of a row, whose SKU and key are given, "" if it has none.
func (k *Kin) of(sku, key string) string {
	if key == "" {
		return k.skus[sku]
	}
	return cmp.Or(k.skus[sku], k.skus[key], k.keys[key].family)
}
