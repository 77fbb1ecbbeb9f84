package watch

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLook: a file is handed out when two looks have seen it the same, once; not while it grows, while a program has it open, or if it is no table.
func TestLook(t *testing.T) {
	dir := t.TempDir()
	put := func(name, content string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(content), 0o666))
	}
	f, err := Open(dir)
	require.NoError(t, err)
	look := func(want ...string) {
		t.Helper()
		got, err := f.Look()
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	look()
	put("a.csv", "SKU\n1\n")
	put("empty.csv", "")
	put("note.docx", "x")
	put(".hidden.csv", "SKU\n1\n")
	put("~$book.xlsx", "x")
	put("book.xlsx", "x")
	put("~$ngname.xlsx", "x")
	put("longname.xlsx", "x")
	put(".~lock.sheet.ods#", "x")
	put("sheet.ods", "x")
	put("b.csv.part", "SKU\n")
	require.NoError(t, os.Mkdir(filepath.Join(dir, "a.repaired"), 0o777))
	look()
	look("a.csv")
	look()
	put("a.csv", "SKU\n1\n2\n")
	look()
	put("a.csv", "SKU\n1\n2\n3\n")
	look()
	require.NoError(t, os.Remove(filepath.Join(dir, "~$book.xlsx")))
	require.NoError(t, os.Remove(filepath.Join(dir, ".~lock.sheet.ods#")))
	require.NoError(t, os.Rename(filepath.Join(dir, "b.csv.part"), filepath.Join(dir, "b.csv")))
	look("a.csv", "book.xlsx", "sheet.ods")
	look("b.csv")
	f.Again("book.xlsx")
	look("book.xlsx")
	later := time.Now().Add(time.Hour)
	require.NoError(t, os.Chtimes(filepath.Join(dir, "b.csv"), later, later))
	look()
	look("b.csv")
	_, err = Open(filepath.Join(dir, "a.csv"))
	assert.ErrorContains(t, err, "no folder")
}

// TestNote: what is done is known by its content, under any name and after whatever has stopped the program.
func TestNote(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.csv"), []byte("SKU\n1\n"), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "copy.csv"), []byte("SKU\n1\n"), 0o666))
	f, err := Open(dir)
	require.NoError(t, err)
	_, sum, done, err := f.Done("a.csv")
	require.NoError(t, err)
	assert.False(t, done)
	require.NoError(t, f.Note(Entry{Sum: sum, Name: "a.csv", Ready: 1, Folder: "a.repaired"}))
	list := filepath.Join(dir, ListName)
	whole, err := os.ReadFile(list)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(list, append(whole, `{"sum":"xxh64:12`...), 0o666)) // stopped in the middle of a line
	f, err = Open(dir)
	require.NoError(t, err)
	e, _, done, err := f.Done("copy.csv")
	require.NoError(t, err)
	assert.True(t, done)
	assert.Equal(t, "a.csv", e.Name)
	require.NoError(t, f.Note(Entry{Sum: "xxh64:0", Name: "b.csv"}))
	f, err = Open(dir)
	require.NoError(t, err)
	assert.Len(t, f.done, 2)
}
