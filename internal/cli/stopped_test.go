//go:build unix

package cli

import (
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestStopped: a run that is told to stop, in whatever way, leaves nothing behind; what one
// leaves that is killed the next run takes away, whatever it does.
func TestStopped(t *testing.T) {
	dir, temp := t.TempDir(), t.TempDir()
	var rows strings.Builder
	rows.WriteString("SKU\tEAN\tTitle\n")
	for range 60_000 {
		rows.WriteString("A\t9.52123E+12\tKüche  " + strings.Repeat("x", 60) + "\n")
	}
	file := filepath.Join(dir, "list.csv")
	// In UTF-16 it is written down in another file first, which the run must take away.
	var raw []byte
	for _, r := range "\ufeff" + rows.String() {
		raw = append(raw, byte(r), byte(r>>8))
	}
	require.NoError(t, os.WriteFile(file, raw, 0o666))
	start := func() *exec.Cmd {
		cmd := exec.Command(program, "repair", "list.csv")
		cmd.Dir, cmd.Stdout, cmd.Stderr = dir, io.Discard, io.Discard
		cmd.Env = append(os.Environ(), "TMPDIR="+temp)
		require.NoError(t, cmd.Start())
		return cmd
	}
	left := func(folder string) (names []string) {
		entries, err := os.ReadDir(folder)
		require.NoError(t, err)
		for _, e := range entries {
			if e.Name() != "list.csv" && e.Name() != "list.repaired" {
				names = append(names, e.Name())
			}
		}
		return names
	}
	began := time.Now()
	start().Wait()
	took := time.Since(began)
	for _, signal := range []syscall.Signal{syscall.SIGINT, syscall.SIGTERM, syscall.SIGHUP} {
		for _, part := range []float64{0.2, 0.5, 0.8} {
			cmd := start()
			time.Sleep(time.Duration(float64(took) * part))
			require.NoError(t, cmd.Process.Signal(signal))
			cmd.Wait()
			assert.Empty(t, left(dir), "%s", signal)
			assert.Empty(t, left(temp), "%s", signal)
		}
	}
	for _, part := range []float64{0.2, 0.5, 0.8} {
		cmd := start()
		time.Sleep(time.Duration(float64(took) * part))
		require.NoError(t, cmd.Process.Kill())
		cmd.Wait()
	}
	other := exec.Command(program, "inspect", "list.csv")
	other.Dir, other.Env = dir, append(os.Environ(), "TMPDIR="+temp)
	require.NoError(t, other.Run())
	assert.Empty(t, left(temp), "another command takes away what is in the temporary folder")
	start().Wait()
	assert.Empty(t, left(dir), "the next run with that folder what is beside it")
}
