//go:build !windows

package cli

// hasOwnWindow reports whether the program's window was opened for it alone, and closes
// when it ends. Here a program that is started by a click has none, or that of a shell.
func hasOwnWindow() bool { return false }
