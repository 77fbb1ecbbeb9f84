//go:build !windows

package cli

import (
	"os"
	"os/exec"
	"runtime"

	"zetanum/internal/terminal"
)

// windowVariable is the environment variable by which what starts the program from a file manager says that its window closes with it.
const windowVariable = "ZETANUM_WINDOW"

// hasOwnWindow reports whether the program's window was opened for it alone, and closes
// when it ends: whatever has opened it says so.
func hasOwnWindow() bool { return os.Getenv(windowVariable) != "" && terminal.IsTyped(os.Stdin) }

// showFolder opens a folder in the file manager.
func showFolder(path string) error {
	if runtime.GOOS == "darwin" {
		return exec.Command("open", path).Run()
	}
	return exec.Command("xdg-open", path).Run()
}
