package terminal

import (
	"os"

	"golang.org/x/sys/windows"
)

// obeys reports whether a terminal obeys escape sequences, after it has been asked to:
// here it does so only then, and an old one never.
func obeys(f *os.File) bool {
	var mode uint32
	console := windows.Handle(f.Fd())
	if windows.GetConsoleMode(console, &mode) != nil {
		return false
	}
	return mode&windows.ENABLE_VIRTUAL_TERMINAL_PROCESSING != 0 ||
		windows.SetConsoleMode(console, mode|windows.ENABLE_VIRTUAL_TERMINAL_PROCESSING) == nil
}
