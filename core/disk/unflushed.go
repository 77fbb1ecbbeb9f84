//go:build unflushed

// With -tags unflushed nothing waits for the disk: for tests, which write thousands of small folders
// that nobody will miss.

package disk

const flushes = false
