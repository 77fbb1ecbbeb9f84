//go:build !amd64 || purego

package glance

// Cells returns what is seen in data[from:to]: [Anything] where that cannot be said fast.
func Cells(data string, from, to int) Seen { return Anything }

// Words returns a place in s from at on, at least 1, before which there are only words: printing characters
// of ASCII but <, > and &, and single spaces. Where that place is may depend on the processor; none behind it that is
// the first of something else.
func Words(s string, at int) int { return at }
