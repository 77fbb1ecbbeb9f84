package cli

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
)

// How much garbage may gather before it is collected: so much for each processor, or a part of
// what is in use where that is very much.
const (
	garbageRoom  = 16 << 20
	leastPercent = 35
)

// boundGarbage lets what is allocated and no longer used gather up to a bound, however little or much
// is in use: in proportion it would be collected every few megabytes where that is little, and take three times as much
// where it is much.
func boundGarbage() {
	const leastHeap = 4 << 20 // for which the percentage is meant before anything has been collected
	room := uint64(garbageRoom * max(2, runtime.GOMAXPROCS(0)))
	percent := int(room * 100 / leastHeap)
	debug.SetGCPercent(percent)
	live := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
	var next func(struct{})
	next = func(struct{}) { // after each collection
		metrics.Read(live)
		want := max(leastPercent, int(room*100/max(leastHeap, live[0].Value.Uint64())))
		if 20*want < 19*percent || 20*want > 21*percent {
			percent = want
			debug.SetGCPercent(percent)
		}
		runtime.AddCleanup(new(collected), next, struct{}{})
	}
	runtime.AddCleanup(new(collected), next, struct{}{})
}

// collected is collected by the next collection.
type collected struct{ _ [32]byte }
