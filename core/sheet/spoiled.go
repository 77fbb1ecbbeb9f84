//go:build spoil

package sheet

// With -tags spoil memory that is given back is written over, and parts are small, so that a few rows take several: who looks at a
// cell that is gone is found out by the tests.
const (
	spoils   = true
	PartSize = 3 << 10
)
