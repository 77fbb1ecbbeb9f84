//go:build !windows

package terminal

import "os"

// obeys reports whether a terminal obeys escape sequences.
func obeys(*os.File) bool { return os.Getenv("TERM") != "dumb" }
