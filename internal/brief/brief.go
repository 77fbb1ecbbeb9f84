// Package brief takes samples where tests are to be short, as with the race detector, with which all takes ten times as long and much of it
// shows nothing more.
package brief

import "testing"

// Of returns how many there are of something: all, or few where tests are to be short.
func Of[N int | uint64](all, few N) N {
	if testing.Short() {
		return few
	}
	return all
}

// Sample returns a list, or each nth of it, from the first on, where tests are to be short.
func Sample[T any](list []T, nth int) []T {
	var some []T
	for i := 0; i < len(list); i += Of(1, nth) {
		some = append(some, list[i])
	}
	return some
}
