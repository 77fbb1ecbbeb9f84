//go:build !amd64 || purego

package glance

const wide, bits = false, false

func pairs(*byte, int) uint32 { return uint32(Anything) }

func words(*byte, int) int { return 0 }

func ends(*byte, int, byte, byte, uint32, *Ends) {}

func pair(*byte, int, byte, byte) int { return 0 }

func some(*byte, int, uint32) uint32 { return 0 }

func undouble(*byte, *byte, int) (int, int) { return 0, 0 }
