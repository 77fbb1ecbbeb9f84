package cli

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/internal/outside"
)

// TestClipboard: what was copied comes back repaired, by the real clipboard of a screen; and what cannot be is said.
func TestClipboard(t *testing.T) {
	t.Parallel()
	xvfb := outside.Program(t, "xvfb")
	outside.Program(t, "xclip")
	const cells = "SKU\tEAN\tTitle\r\nA1\t9.521234000013E+12\t  Bürste \r\nA2\t9.52E+12\t Hive\r\n"
	tests := []struct {
		what, cells, args string
		status            int
		says, pasted      string
	}{
		{"repaired", cells, "", exitHeld, "the clipboard  ", "SKU\tEAN\tTitle\r\nA1\t9521234000013\tBürste\r\nA2\t9.52E+12\t Hive\r\n"},
		{"an order besides", "SKU\tTitle\nA1\tx\n", "-set 'Title = {sku}'", exitOK, "Set those cells to text first", "SKU\tTitle\nA1\tA1\n"},
		{"a new column", "SKU\tTitle\nA1\tx\n", "-set 'Note = y' -set 'Title = z'", exitOK, "Not among the cells that are pasted back, because they would stand over others: Note", "SKU\tTitle\nA1\tz\n"},
		{"nothing to do", "SKU\tTitle\nA1\tx\n", "", exitOK, "the clipboard is as it was", "SKU\tTitle\nA1\tx\n"},
		{"no headings", "9.521234000013E+12\n", "", exitUsage, "-no-headings", "9.521234000013E+12\n"},
		{"nothing was copied", "", "", exitUsage, "the clipboard has no text", ""},
		{"a file besides", "SKU\tTitle\nA1\tx\n", "list.csv", exitUsage, "name no file with it", "SKU\tTitle\nA1\tx\n"},
	}
	script, dirs := "", make([]string, len(tests))
	for i, test := range tests { // all on one screen, which takes its time to start
		dirs[i] = t.TempDir()
		writeFile(t, filepath.Join(dirs[i], "in"), test.cells)
		script += "cd " + dirs[i] + "; xclip -selection clipboard -in < in > /dev/null; " + program + " repair -clip " + test.args +
			" > said 2>&1; echo $? > status; xclip -selection clipboard -out > out 2> /dev/null\n"
	}
	shown, err := exec.Command(xvfb, "-a", "sh", "-c", script+"exit 0").CombinedOutput()
	require.NoError(t, err, "%s", shown)
	for i, test := range tests {
		said := readFile(t, filepath.Join(dirs[i], "said"))
		assert.Equal(t, fmt.Sprintln(test.status), readFile(t, filepath.Join(dirs[i], "status")), said)
		assert.Contains(t, said, test.says, test.what)
		assert.Equal(t, test.pasted, readFile(t, filepath.Join(dirs[i], "out")), test.what)
	}
	cmd := exec.Command(program, "repair", "-clip")
	cmd.Env = append(os.Environ(), "DISPLAY=", "WAYLAND_DISPLAY=")
	out, _ := cmd.CombinedOutput()
	assert.Equal(t, exitFailed, cmd.ProcessState.ExitCode())
	assert.Contains(t, string(out), "no program is there by which the clipboard can be reached; install one of wl-paste, xclip, xsel")
}
