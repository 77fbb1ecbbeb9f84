package export_test

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// ready sends a file past no step at all and returns what is ready then.
func ready(t *testing.T, file string) *export.Ready {
	t.Helper()
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(file), 0o666))
	table, err := sheet.Open(path, sheet.Options{Spool: dir})
	require.NoError(t, err)
	t.Cleanup(func() { table.Close() })
	pipeline := &line.Pipeline{
		Grouping: func() func(*catalogue.Row) bool {
			return func(r *catalogue.Row) bool { return r != nil && r != sheet.Start }
		},
		Steps: []line.Step{{Name: "none", New: func(line.Aggregate) (line.Repairer, error) { return nil, nil }}},
	}
	survey, err := line.Look(context.Background(), table, func() (*line.Pipeline, error) { return pipeline, nil }, line.Options{Workers: 1})
	require.NoError(t, err)
	run := &line.Run{Options: line.Options{Workers: 1}, Table: table, Pipeline: pipeline, Survey: survey, Output: line.Output{Look: true}}
	_, finish, err := run.Do(context.Background(), dir)
	require.NoError(t, err)
	_, err = finish()
	require.NoError(t, err)
	above, below := run.HeadRows()
	return &export.Ready{Path: filepath.Join(dir, line.FileNames[0]), Output: &run.Output, Above: above, Below: below,
		Columns: &table.Columns, Sample: table.Sample, Source: table.Name}
}

// written returns a file beside what is ready.
func written(t *testing.T, r *export.Ready, name string) []byte {
	t.Helper()
	content, err := os.ReadFile(filepath.Join(filepath.Dir(r.Path), name))
	require.NoError(t, err)
	return content
}

// cells returns the cells of the first sheet of a workbook, by row.
func cells(t *testing.T, content []byte) (rows [][]string) {
	t.Helper()
	book, err := workbook.Open(bytes.NewReader(content), int64(len(content)))
	require.NoError(t, err)
	require.NoError(t, book.Rows(book.Sheets[0], func(row *workbook.Row) error {
		var list []string
		for _, c := range row.Cells {
			list = append(list, strings.Clone(c.Text))
		}
		rows = append(rows, list)
		return nil
	}))
	return rows
}

// TestForms: every form says what is ready, codes with zeros in front and cells that are hard to write
// included; what a form cannot hold is an error that says where.
func TestForms(t *testing.T) {
	r := ready(t, "SKU,EAN,Title\n007,0952123400001,\"a, \"\"b\"\"\nc\"\nB,9521234000013,=1+1\n")
	want := [][]string{{"SKU", "EAN", "Title"}, {"007", "0952123400001", "a, \"b\"\nc"}, {"B", "9521234000013", "=1+1"}}
	for _, form := range export.Forms([]string{"jsonl", "ods", "tsv", "xlsx", "csv"}) {
		require.NoError(t, r.Write(form), form)
	}
	assert.Equal(t, want, cells(t, written(t, r, "ready.xlsx")))
	assert.Equal(t, want, cells(t, written(t, r, "ready.ods")))
	assert.Equal(t, "SKU\tEAN\tTitle\n007\t0952123400001\t\"a, \"\"b\"\"\nc\"\nB\t9521234000013\t=1+1\n",
		string(written(t, r, "ready.tsv")))
	for i, line := range strings.Split(strings.TrimSpace(string(written(t, r, "ready.jsonl"))), "\n") {
		var object map[string]string
		require.NoError(t, json.Unmarshal([]byte(line), &object), line)
		assert.Equal(t, map[string]string{"SKU": want[i+1][0], "EAN": want[i+1][1], "Title": want[i+1][2]}, object)
	}
	require.NoError(t, r.Look())
	look := cells(t, written(t, r, export.LookName))
	assert.Equal(t, []string{"Row", "SKU", "EAN", "Title"}, look[1])
	assert.Equal(t, []string{"2", "007", "0952123400001", "a, \"b\" ⏎ c"}, look[2])

	long := ready(t, "SKU,Title\nA,"+strings.Repeat("x", workbook.MostText+1)+"\n")
	require.NoError(t, long.Write("tsv"))
	err := long.Write("xlsx")
	require.ErrorIs(t, err, workbook.ErrNoRoom)
	assert.ErrorContains(t, err, "column 2 of row 2")
	assert.NoError(t, long.Look(), "what is only looked at is shortened")
}
