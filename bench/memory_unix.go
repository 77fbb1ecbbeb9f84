//go:build !windows

package main

import (
	"os"
	"runtime"
	"syscall"
)

// peakMemory returns the most memory that a finished process held, in bytes.
func peakMemory(p *os.ProcessState) int64 {
	usage, ok := p.SysUsage().(*syscall.Rusage)
	if !ok {
		return 0
	}
	if runtime.GOOS == "darwin" {
		return int64(usage.Maxrss)
	}
	return int64(usage.Maxrss) << 10
}
