package cli

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"

	"github.com/KimMachineGun/automemlimit/memlimit"
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

// mostOfMemory is how much of the memory that the program may have it uses before garbage is collected at once, whatever that costs.
const mostOfMemory = 0.8

// guardMemory lets the program stay within the memory that its container or the machine has, as long as what is in use does: without it, it would be
// ended from outside where that is less than what may gather. GOMEMLIMIT overrules it.
func guardMemory() {
	memlimit.Set(memlimit.WithRatio(mostOfMemory), memlimit.WithProvider(memlimit.ApplyFallback(memlimit.FromCgroup, memlimit.FromSystem))) // where it is not known there is no bound
}

// collected is collected by the next collection.
type collected struct{ _ [32]byte }
