package folder

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestOpen: a folder with a file that is open in another program is not replaced: the run
// says so before it begins, or puts the new one beside it.
func TestOpen(t *testing.T) {
	dir := t.TempDir()
	target := filepath.Join(dir, "out")
	makeFolder(t, target, "one")
	ready := filepath.Join(target, "ready.csv")
	job, err := Begin(target)
	require.NoError(t, err)
	file, err := os.Open(ready)
	require.NoError(t, err)
	_, err = Begin(filepath.Join(dir, "OUT"))
	assert.Error(t, err, "another run writes it")
	at, err := job.Commit("two")
	require.NoError(t, err)
	assert.Equal(t, target+"-2", at.Folder)
	assert.Equal(t, []string{ready}, at.Open)
	assert.Empty(t, at.Edited)
	_, err = Begin(target)
	assert.ErrorIs(t, err, ErrInUse)
	assert.ErrorContains(t, err, ready)
	require.NoError(t, file.Close())
	assert.Equal(t, target, makeFolder(t, target, "three"))
	assert.Equal(t, []string{"out", "out-2"}, names(t, dir))

	_, err = Begin(filepath.Join(dir, "nul.repaired"))
	assert.ErrorIs(t, err, ErrName)
	deep := dir
	for len(deep) < 400 {
		deep = filepath.Join(deep, "a folder with a long name")
	}
	assert.Equal(t, filepath.Join(deep, "out"), makeFolder(t, filepath.Join(deep, "out"), "four"))
}
