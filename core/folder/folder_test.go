package folder

import (
	"os"
	"path/filepath"
	"sort"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func makeFolder(t *testing.T, target, content string) string {
	t.Helper()
	job, err := Begin(target)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(job.Dir(), "ready.csv"), []byte(content), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(job.Dir(), Temporary+"x"), nil, 0o666))
	at, err := job.Commit(map[string]string{"made": content})
	require.NoError(t, err)
	return at.Folder
}

func names(t *testing.T, dir string) []string {
	t.Helper()
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	var list []string
	for _, e := range entries {
		list = append(list, e.Name())
	}
	sort.Strings(list)
	return list
}

func read(t *testing.T, path string) string {
	t.Helper()
	b, err := os.ReadFile(path)
	require.NoError(t, err)
	return string(b)
}

func TestCommit(t *testing.T) {
	dir := t.TempDir()
	target := filepath.Join(dir, "out")
	require.Equal(t, target, makeFolder(t, target, "one"))
	assert.Equal(t, []string{"ready.csv", ManifestName}, names(t, target))
	require.Equal(t, target, makeFolder(t, target, "two"))
	assert.Equal(t, "two", read(t, filepath.Join(target, "ready.csv")))
	assert.Equal(t, []string{"out"}, names(t, dir))

	for what, edit := range map[string]func() error{
		"changed": func() error { return os.WriteFile(filepath.Join(target, "ready.csv"), []byte("x"), 0o666) },
		"added":   func() error { return os.WriteFile(filepath.Join(target, "notes.txt"), []byte("x"), 0o666) },
		"removed": func() error { return os.Remove(filepath.Join(target, "ready.csv")) },
	} {
		require.NoError(t, os.RemoveAll(target))
		makeFolder(t, target, "one")
		require.NoError(t, edit())
		assert.Equal(t, target+"-2", makeFolder(t, target, "two"), what)
		require.NoError(t, os.RemoveAll(target+"-2"))
	}
	require.NoError(t, os.WriteFile(filepath.Join(target, ".DS_Store"), nil, 0o666))
}

// TestLink: of a target that is a link the folder appears where the link leads, and one
// that leads nowhere is refused; neither is replaced.
func TestLink(t *testing.T) {
	dir := t.TempDir()
	link, real := filepath.Join(dir, "out"), filepath.Join(dir, "disk", "out")
	require.NoError(t, os.Mkdir(filepath.Dir(real), 0o777))
	err := os.Symlink(filepath.Join("disk", "out"), link)
	if info, e := os.Lstat(link); err != nil || e != nil || info.Mode()&os.ModeSymlink == 0 {
		t.Skip("no symbolic links here:", err, e)
	}
	_, err = Begin(link)
	assert.ErrorIs(t, err, ErrLink)
	require.NoError(t, os.Mkdir(real, 0o777))
	for _, content := range []string{"one", "two"} {
		assert.Equal(t, real, makeFolder(t, link, content))
		assert.Equal(t, content, read(t, filepath.Join(link, "ready.csv")))
	}
	require.NoError(t, os.WriteFile(filepath.Join(link, "ready.csv"), []byte("x"), 0o666))
	assert.Equal(t, real+"-2", makeFolder(t, link, "three"))
	assert.Equal(t, []string{"disk", "out"}, names(t, dir))
	assert.Equal(t, []string{"out", "out-2"}, names(t, filepath.Dir(real)))
}

func TestAbortAndBusy(t *testing.T) {
	dir := t.TempDir()
	target := filepath.Join(dir, "out")
	job, err := Begin(target)
	require.NoError(t, err)
	_, err = Begin(target)
	assert.ErrorIs(t, err, ErrBusy)
	require.NoError(t, job.Abort())
	assert.Empty(t, names(t, dir))
}

// TestLeftovers lays out what a killed program may leave and checks that the next run ends
// with the old folder or the new one, whole, and nothing else.
func TestLeftovers(t *testing.T) {
	for _, test := range []struct {
		name  string
		state func(old, new, target string) error // moves two whole folders to where they are left
		want  string
	}{
		{"killed while writing", func(old, new, target string) error {
			os.Remove(filepath.Join(new, ManifestName))
			os.Rename(old, target)
			return os.Rename(new, target+".part-abcdefgh")
		}, "old"},
		{"killed before the first rename", func(old, new, target string) error {
			os.Rename(old, target)
			return os.Rename(new, target+".part-abcdefgh")
		}, "old"},
		{"killed between the renames", func(old, new, target string) error {
			os.Rename(old, target+".old-abcdefgh")
			return os.Rename(new, target+".part-abcdefgh")
		}, "new"},
		{"killed between them, the new one not whole", func(old, new, target string) error {
			os.WriteFile(filepath.Join(new, "ready.csv"), []byte("cut"), 0o666)
			os.Rename(old, target+".old-abcdefgh")
			return os.Rename(new, target+".part-abcdefgh")
		}, "old"},
		{"killed while removing the old one", func(old, new, target string) error {
			os.Remove(filepath.Join(old, "ready.csv"))
			os.Rename(old, target+".old-abcdefgh")
			return os.Rename(new, target)
		}, "new"},
	} {
		dir := t.TempDir()
		target := filepath.Join(dir, "out")
		old, new := makeFolder(t, filepath.Join(dir, "a"), "old"), makeFolder(t, filepath.Join(dir, "b"), "new")
		require.NoError(t, test.state(old, new, target), test.name)
		job, err := Begin(target)
		require.NoError(t, err, test.name)
		require.NoError(t, job.Abort(), test.name)
		assert.Equal(t, []string{"out"}, names(t, dir), test.name)
		assert.Equal(t, test.want, read(t, filepath.Join(target, "ready.csv")), test.name)
		edited, err := Edited(target)
		require.NoError(t, err)
		assert.Empty(t, edited, test.name)
	}
}

// TestWhatIsNotOursStays: folders that only look like leftovers are left alone.
func TestWhatIsNotOursStays(t *testing.T) {
	dir := t.TempDir()
	target := filepath.Join(dir, "out")
	for _, name := range []string{"out.old", "out.part-1", "out.old-backup-2025", "out-2"} {
		require.NoError(t, os.Mkdir(filepath.Join(dir, name), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name, "mine"), nil, 0o666))
	}
	before := names(t, dir)
	makeFolder(t, target, "one")
	assert.Subset(t, names(t, dir), before)
	edited, err := Edited(filepath.Join(dir, "out-2"))
	require.NoError(t, err)
	assert.Equal(t, []string{"."}, edited)
}

// TestTemp: a folder for a while stays as long as it is used, however many are made and taken away beside it; what a run
// has left that was killed goes, and what is another's stays.
func TestTemp(t *testing.T) {
	dir := t.TempDir()
	t.Setenv("TMPDIR", dir)
	t.Setenv("TMP", dir)
	t.Setenv("TEMP", dir)
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			for range 100 {
				temp, err := NewTemp()
				if !assert.NoError(t, err) {
					return
				}
				assert.NoError(t, os.WriteFile(filepath.Join(temp.Dir, "part"), []byte("row"), 0o666))
				assert.NoError(t, temp.Remove())
			}
		})
	}
	all.Wait()
	assert.Empty(t, names(t, dir))

	for _, other := range []string{"zetanum-1", "zetanum-2.lock"} { // without a lock, and without a folder as yet
		require.NoError(t, os.Mkdir(filepath.Join(dir, other), 0o700))
	}
	killed, err := NewTemp()
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(killed.Dir, "part"), []byte("row"), 0o666))
	killed.lock.Close()
	making := filepath.Join(dir, "zetanum-3.lock")
	require.NoError(t, os.WriteFile(making, nil, 0o600))
	one, err := NewTemp()
	require.NoError(t, err)
	assert.NoDirExists(t, killed.Dir)
	assert.ElementsMatch(t, []string{filepath.Base(one.Dir), filepath.Base(one.Dir) + ".lock", "zetanum-1", "zetanum-2.lock", "zetanum-3.lock"}, names(t, dir))
	require.NoError(t, os.Chtimes(making, time.Time{}, time.Now().Add(-2*idle)))
	two, err := NewTemp()
	require.NoError(t, err)
	assert.NoFileExists(t, making)
	require.NoError(t, two.Remove())
	require.NoError(t, one.Remove())
	assert.Equal(t, []string{"zetanum-1", "zetanum-2.lock"}, names(t, dir))
}
