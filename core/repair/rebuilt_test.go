package repair

import (
	"bufio"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// A logLine is a line of changes.jsonl.
type logLine struct {
	Row, Added     int
	Ready, Joined  bool
	Column, Before string
	Rule           string
	Sum            string `json:"before_xxh64"`
	Hex            string `json:"before_hex"`
}

// rebuild puts the cells of the source together again, by their rows, from what a repair has
// written, as far as their columns go out.
func rebuild(t *testing.T, r *Result) map[int]map[string]string {
	t.Helper()
	long := make(map[string]string)
	eachLine(t, filepath.Join(r.Folder, line.LongName), func(b []byte) {
		var l struct{ XXH64, Text string }
		require.NoError(t, json.Unmarshal(b, &l))
		long[l.XXH64] = l.Text
	})
	var log []logLine
	var order []int // the rows that go out, where it is said
	joined, added := make(map[int]bool), make(map[int]int)
	eachLine(t, filepath.Join(r.Folder, "changes.jsonl"), func(b []byte) {
		var l logLine
		require.NoError(t, json.Unmarshal(b, &l), string(b))
		switch {
		case l.Ready:
			order = append(order, l.Row)
			return
		case l.Hex != "":
			bytes, err := hex.DecodeString(l.Hex)
			require.NoError(t, err)
			l.Before = string(bytes)
		case l.Sum != "":
			whole, there := long[l.Sum]
			require.True(t, there, "a long text is not there: %s", b)
			l.Before = whole
		}
		log = append(log, l)
		joined[l.Row] = joined[l.Row] || l.Joined
		added[l.Row] = max(added[l.Row], l.Added)
	})
	source := make(map[int]map[string]string)
	put := func(row int, heading, cell string) {
		if source[row] == nil {
			source[row] = make(map[string]string)
		}
		source[row][heading] = cell
	}
	elsewhere := make(map[int]bool)
	for _, name := range []string{"held.csv", "aside.csv"} {
		rows := rowsIn(t, filepath.Join(r.Folder, name), r.Source.Form)
		for _, row := range rows[1:] {
			number, err := strconv.Atoi(row[0])
			require.NoError(t, err)
			elsewhere[number] = true
			for i, cell := range row[2:] {
				put(number, headingAt(rows[0], i+2), cell)
			}
		}
	}
	if order == nil {
		for row := r.Source.Heading + 1; row <= r.Source.Heading+r.Counts().Read; row++ {
			if !elsewhere[row] && !joined[row] {
				order = append(order, slices.Repeat([]int{row}, 1+added[row])...)
			}
		}
	}
	ready, err := sheet.OpenWritten(filepath.Join(r.Folder, "ready.csv"), 0, r.written.Style, r.written.Charset, t.TempDir())
	require.NoError(t, err)
	defer ready.Close()
	n, headings := 0, []string(nil)
	require.NoError(t, ready.Each(func() { n, headings = 0, nil }, func(row *catalogue.Row) {
		if headings == nil {
			for _, cell := range row.Cells {
				headings = append(headings, strings.Clone(strings.TrimPrefix(cell, "\ufeff")))
			}
			return
		}
		if n >= len(order) {
			n++
			return
		}
		if number := order[n]; source[number] == nil { // and not one made of it
			for i, cell := range row.Cells {
				put(number, headings[i], strings.Clone(cell))
			}
		}
		n++
	}))
	require.Equal(t, len(order), n, "rows that go out")
	for _, l := range slices.Backward(log) {
		if l.Added == 0 {
			put(l.Row, l.Column, l.Before)
		}
	}
	return source
}

func headingAt(headings []string, i int) string {
	if i < len(headings) {
		return headings[i]
	}
	return fmt.Sprint("#", i)
}

func eachLine(t *testing.T, path string, do func([]byte)) {
	t.Helper()
	file, err := os.Open(path)
	if os.IsNotExist(err) {
		return
	}
	require.NoError(t, err)
	defer file.Close()
	sc := bufio.NewScanner(file)
	sc.Buffer(nil, 64<<20)
	for sc.Scan() {
		do(sc.Bytes())
	}
	require.NoError(t, sc.Err())
}

// TestSourceIsRebuilt: from what goes out, the changes, what is held and what is set aside
// every cell of the source can be had again whose column goes out, whatever was done.
func TestSourceIsRebuilt(t *testing.T) {
	cells, changed, moved := 0, 0, 0
	check := func(name string, opt Options) {
		result, err := Run(t.Context(), opt)
		if err != nil {
			return
		}
		moved += result.Counts().Joined + result.Counts().Added
		changed += result.Counts().Changed
		rebuilt := rebuild(t, result)
		table, err := sheet.Open(opt.Input, sheet.Options{Spool: t.TempDir()})
		require.NoError(t, err)
		defer table.Close()
		require.NoError(t, table.EachAsIs(func() {}, func(row *catalogue.Row) {
			for col, cell := range row.Cells {
				if col >= len(table.Columns.Headings) {
					break
				}
				if got, there := rebuilt[row.Number][table.Columns.Headings[col]]; there && got != cell {
					assert.Equal(t, cell, got, "%s, row %d, %s", name, row.Number, table.Columns.Headings[col])
				} else if there {
					cells++
				}
			}
			require.NotNil(t, rebuilt[row.Number], "%s: row %d is nowhere", name, row.Number)
		}))
	}
	someFiles(t, 25, check)
	r := rand.New(rand.NewPCG(5, 55))
	for i := range some(60) {
		opt := anyProductsFile(t, r)
		opt.Book.Products.Regroup = i%2 == 0
		opt.Book.Sheet.SortBy = []string{"title", "sku"}[:1+i%2]
		check(fmt.Sprint("sorted/", i), opt)
	}
	t.Logf("%d cells, %d changed, %d rows moved", cells, changed, moved)
	assert.Greater(t, min(cells/10, changed, moved*10), some(1000))
}
