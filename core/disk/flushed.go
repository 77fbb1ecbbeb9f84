//go:build !unflushed

package disk

const flushes = true
