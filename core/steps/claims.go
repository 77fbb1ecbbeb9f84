package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
)

// The claims that every pipeline has; those that a rulebook asks for follow.
const (
	ClaimBarcode line.ClaimKind = iota
	ClaimSKU
)

// Claims returns those that every pipeline has.
func Claims() []line.Claim {
	return []line.Claim{ClaimBarcode: {Clash: catalogue.BarcodeDuplicate}, ClaimSKU: {Clash: catalogue.SKUDuplicate}}
}

// Reserved are the fields whose values no rule makes up: they are what a product is known by,
// and what it costs.
var Reserved = catalogue.FieldsOf(catalogue.Barcode, catalogue.SKU, catalogue.Price, catalogue.SalePrice, catalogue.Cost, catalogue.Stock,
	catalogue.ListPrice, catalogue.WholesalePrice, catalogue.FloorPrice)

// Unreserved returns an error if a rule would make up values of a field in which there are none to
// be made up. key and name are those of the rulebook.
func Unreserved(c *catalogue.Columns, col int, never catalogue.Fields, key, name string) error {
	if col < 0 || !never.Has(c.Fields[col]) {
		return nil
	}
	return columns.Refuse("%s names %q, which is the field %s: no rule makes up what a product is known by or what it costs", key, name,
		c.Fields[col])
}
