package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// The claims that every course has; those that a rulebook asks for follow.
const (
	ClaimBarcode line.ClaimKind = iota
	ClaimSKU
)

// Claims returns those that every course has.
func Claims() []line.Claim {
	return []line.Claim{ClaimBarcode: {Clash: catalogue.BarcodeDuplicate}, ClaimSKU: {Clash: catalogue.SKUDuplicate}}
}
