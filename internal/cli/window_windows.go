package cli

import (
	"os"
	"os/exec"
	"unsafe"

	"golang.org/x/sys/windows"
	"golang.org/x/term"
)

// hasOwnWindow reports whether the program's window was opened for it alone, and closes
// when it ends: nobody else is attached to its console, and what is typed comes from it.
func hasOwnWindow() bool {
	if !term.IsTerminal(int(os.Stdin.Fd())) || !term.IsTerminal(int(os.Stdout.Fd())) {
		return false
	}
	processes := make([]uint32, 2)
	n, _, _ := windows.NewLazySystemDLL("kernel32.dll").NewProc("GetConsoleProcessList").Call(
		uintptr(unsafe.Pointer(&processes[0])), uintptr(len(processes)))
	return n == 1
}

// showFolder opens a folder in the file manager.
func showFolder(path string) error {
	return exec.Command("explorer", path).Start() // it ends with a status that says nothing
}
