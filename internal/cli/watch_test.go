package cli

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/watch"
)

// TestWatch: what is dropped into a folder is repaired once, by the rulebook that lies there; a file that is still being written is waited for.
func TestWatch(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "in")
	writeFile(t, filepath.Join(filepath.Dir(dir), "other.csv"), small)
	c := zetanum(t, filepath.Dir(dir), "watch", "in", "-once", "-every", "20ms")
	assert.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "There was no folder in; it is there now.")
	writeFile(t, filepath.Join(dir, "list.csv"), small)
	writeFile(t, filepath.Join(dir, "copy.csv"), small)
	writeFile(t, filepath.Join(dir, "words.csv"), "A,B\nx,y\n")
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[columns]\nadd = { Language = 1 }\n")
	run := func() string { return zetanum(t, dir, "watch", ".", "-once", "-every", "20ms").stdout }
	assert.Contains(t, run(), "copy.csv  waits until the rulebook is mended: ")
	assert.NoDirExists(t, filepath.Join(dir, "copy.repaired"))
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[columns]\nadd = { Language = \"en\" }\n")
	said := run()
	assert.Contains(t, said, "copy.csv  1 of 2 rows ready, 1 held; in copy.repaired")
	assert.Contains(t, said, "list.csv  has the same content as copy.csv, and that is done")
	assert.Contains(t, said, "words.csv  could not be repaired: words.csv: none of the headings is known")
	assert.Contains(t, readFile(t, filepath.Join(dir, "copy.repaired", "ready.csv")), "Language")
	assert.NotContains(t, run(), "copy.csv  1 of 2")
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "copy.repaired"))) // taken away to be imported
	assert.NotContains(t, run(), "copy.csv  1 of 2")
	assert.Equal(t, exitUsage, zetanum(t, dir, "watch").status)
	assert.Equal(t, exitFailed, zetanum(t, dir, "watch", "list.csv").status)

	cmd := exec.Command(program, "watch", ".", "-every", "30ms")
	cmd.Dir = dir
	var out strings.Builder
	cmd.Stdout = &out
	require.NoError(t, cmd.Start())
	slow, err := os.Create(filepath.Join(dir, "slow.csv"))
	require.NoError(t, err)
	for i := range 40 {
		if i == 0 {
			fmt.Fprintln(slow, "SKU,Title")
		}
		fmt.Fprintf(slow, "S%d,Smoker %d\n", i, i)
		time.Sleep(5 * time.Millisecond)
	}
	require.NoError(t, slow.Close())
	require.Eventually(t, func() bool {
		content, _ := os.ReadFile(filepath.Join(dir, watch.ListName))
		return strings.Contains(string(content), `"name":"slow.csv","date":"`+time.Now().Format(time.DateOnly)+`","ready":40`)
	}, 20*time.Second, 20*time.Millisecond)
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	assert.NoError(t, cmd.Wait(), "to be stopped is how it ends")
	assert.Contains(t, out.String(), "Watching .; to stop it")
	assert.Contains(t, out.String(), "slow.csv  40 of 40 rows ready")
}

// TestWatchKilled: however often it is killed, in the end each file is done, and none of them twice.
func TestWatchKilled(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	const files = 12
	for i := range files {
		writeFile(t, filepath.Join(dir, fmt.Sprintf("f%02d.csv", i)), fmt.Sprintf("SKU,Title\nA%d,%s\n", i, strings.Repeat("Smoker ", 300)))
	}
	r := rand.New(rand.NewPCG(24, 1))
	for range 12 {
		cmd := exec.Command(program, "watch", dir, "-every", "10ms")
		require.NoError(t, cmd.Start())
		time.Sleep(time.Duration(20+r.IntN(120)) * time.Millisecond)
		require.NoError(t, cmd.Process.Kill())
		cmd.Wait()
	}
	c := zetanum(t, dir, "watch", ".", "-once", "-every", "20ms")
	assert.Equal(t, exitOK, c.status, c.stdout+c.stderr)
	list := strings.Split(strings.TrimSpace(readFile(t, filepath.Join(dir, watch.ListName))), "\n")
	assert.Len(t, list, files)
	for i := range files {
		assert.FileExists(t, filepath.Join(dir, fmt.Sprintf("f%02d.repaired", i), "ready.csv"))
		assert.NoDirExists(t, filepath.Join(dir, fmt.Sprintf("f%02d.repaired-2", i)))
	}
	left, err := filepath.Glob(filepath.Join(dir, "*.part-*"))
	require.NoError(t, err)
	assert.LessOrEqual(t, len(left), 12, "what a kill leaves is taken away by the next run of the same file")
}
