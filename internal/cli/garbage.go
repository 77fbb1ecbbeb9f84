package cli

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
)

// How much garbage may gather before it is collected: twice what is in use, but not more
// than leastRoom, or a part of what is in use where that is very much.
const (
	mostPercent  = 200
	leastPercent = 35
	leastRoom    = 96 << 20
)

// boundGarbage lets what is allocated and no longer used gather as long as it is little, and
// not in proportion where much is in use: it would take three times as much.
func boundGarbage() {
	debug.SetGCPercent(mostPercent)
	live := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
	percent := mostPercent
	var next func(struct{})
	next = func(struct{}) { // after each collection
		metrics.Read(live)
		want := max(leastPercent, min(mostPercent, int(leastRoom*100/max(1, live[0].Value.Uint64()))))
		if want < percent-5 || want > percent+5 {
			percent = want
			debug.SetGCPercent(percent)
		}
		runtime.AddCleanup(new(collected), next, struct{}{})
	}
	runtime.AddCleanup(new(collected), next, struct{}{})
}

// collected is collected by the next collection.
type collected struct{ _ [32]byte }
