//go:build !spoil

package sheet

const (
	spoils = false

	// PartSize is how large a part is at least, but for the last.
	PartSize = 1 << 20
)
