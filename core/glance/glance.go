// Package glance says at one look over many cells what is in none of them, so that each need
// not be looked at by itself.
package glance

// Seen says what is among the bytes of cells that stand side by side.
type Seen uint32

// What may be seen.
const (
	High   Seen = 1 << iota // a byte that is not ASCII
	Odd                     // one that is no printing character of ASCII: High, or a control character
	Double                  // a space behind a space
	Amp                     // &

	Anything = High | Odd | Double | Amp
)
