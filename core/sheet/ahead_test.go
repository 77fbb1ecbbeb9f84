package sheet

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestAhead: a list that was opened ahead is the one that is asked for, as it lies there then and as it is to be read; what has to be
// written down first, or is not there, is opened when it is asked for.
func TestAhead(t *testing.T) {
	const list = "sep=;\nSKU;Title;Nr\nA-1;Smoker;1\nA-2;Veil;2\n"
	opt := func() Options {
		return Options{Spool: t.TempDir(), Hints: map[string]catalogue.Field{"nr": catalogue.Stock}}
	}
	for name, tt := range map[string]struct {
		first   string
		between func(t *testing.T, path string)
		asked   func(*Options)
		ahead   bool // what was opened ahead is taken
		title   string
	}{
		"as it was":      {list, nil, nil, true, "Smoker"},
		"written anew":   {list, func(t *testing.T, path string) { put(t, path, strings.Replace(list, "Smoker", "Gloves", 1)) }, nil, false, "Gloves"},
		"another length": {list, func(t *testing.T, path string) { put(t, path, strings.Replace(list, "Smoker", "Queen cage", 1)) }, nil, false, "Queen cage"},
		"in its place": {list, func(t *testing.T, path string) {
			info, err := os.Stat(path)
			require.NoError(t, err)
			put(t, path+".new", strings.Replace(list, "Smoker", "Gloves", 1))
			require.NoError(t, os.Chtimes(path+".new", info.ModTime(), info.ModTime()))
			require.NoError(t, os.Rename(path+".new", path))
		}, nil, false, "Gloves"},
		"read otherwise": {list, nil, func(o *Options) { o.HeadingRow = 1 }, false, "Smoker"},
		"other meanings": {list, nil, func(o *Options) { o.Hints = nil }, false, "Smoker"},
		"UTF-16":         {"\xff\xfe" + strings.Join(strings.Split(list, ""), "\x00") + "\x00", nil, nil, false, "Smoker"},
		"no table yet":   {"", func(t *testing.T, path string) { put(t, path, list) }, nil, false, "Smoker"},
	} {
		t.Run(name, func(t *testing.T) {
			path := filepath.Join(t.TempDir(), "list.csv")
			put(t, path, tt.first)
			var a Ahead
			defer a.Close()
			a.Begin(path, opt())
			a.opening.Wait()
			opened := a.table
			if tt.between != nil {
				tt.between(t, path)
			}
			o := opt()
			if tt.asked != nil {
				tt.asked(&o)
			}
			table, err := a.Open(path, o)
			require.NoError(t, err)
			defer table.Close()
			assert.Equal(t, tt.ahead, table == opened && opened != nil)
			assert.Equal(t, o.Spool, table.opt.Spool)
			rows, _ := rowsOf(t, table, 1)
			require.Len(t, rows, 2)
			assert.Equal(t, tt.title, rows[0][1])
		})
	}
	var a Ahead
	a.Begin(filepath.Join(t.TempDir(), "none.csv"), opt())
	_, err := a.Open("none.csv", opt())
	assert.ErrorIs(t, err, os.ErrNotExist)
}

func put(t *testing.T, path, text string) {
	t.Helper()
	time.Sleep(10 * time.Millisecond) // so that it has another time
	require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
}
