package line

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// TestReadBack: whatever happens to the file for the importer after it was written is
// noticed: another byte, a row less, a cell more, another code.
func TestReadBack(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("SKU,Title\nA,\"x \"\"y\"\"\"\n\"B\"\"2\",z\n"), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	pipeline := &Pipeline{Grouping: func() func(*catalogue.Row) bool { return func(row *catalogue.Row) bool { return row != nil } }}
	survey, err := Look(t.Context(), table, func() (*Pipeline, error) { return pipeline, nil }, Options{Workers: 2})
	require.NoError(t, err)
	for _, whole := range []bool{false, true} { // whether it is read as a table again
		run := Run{Options: Options{Workers: 2}, Table: table, Pipeline: pipeline, Survey: survey}
		if whole {
			run.Output.Encode = func(dst, rows []byte) ([]byte, error) { return append(dst, rows...), nil }
		}
		report, finish, err := run.Do(t.Context(), dir)
		require.NoError(t, err)
		_, err = finish()
		require.NoError(t, err)
		require.Equal(t, 2, report.Written.Rows)
		require.NoError(t, run.ReadBack(t.Context(), dir, report.Written))
		ready := filepath.Join(dir, FileNames[0])
		right, err := os.ReadFile(ready)
		require.NoError(t, err)
		for change, says := range map[[2]string]string{
			{"z", "q"}: "bytes", {"A,", "Z,"}: "bytes", {"\"B\"\"2\",z\n", ""}: "bytes", {",z", ",z,"}: "3 cells instead of 2",
		} {
			require.NoError(t, os.WriteFile(ready, []byte(strings.Replace(string(right), change[0], change[1], 1)), 0o666))
			err := run.ReadBack(t.Context(), dir, report.Written)
			require.ErrorIs(t, err, ErrReadBack)
			if !whole {
				says = "bytes"
			}
			assert.ErrorContains(t, err, says)
		}
		if require.NoError(t, os.WriteFile(ready, right, 0o666)); whole {
			assert.ErrorContains(t, run.ReadBack(t.Context(), dir, Written{Rows: 3, Codes: report.Written.Codes}), "2 rows instead of 3")
			assert.ErrorContains(t, run.ReadBack(t.Context(), dir, Written{Rows: 2}), "codes in it are others")
		}
	}
}

// TestProof: a row that is written otherwise than it is, in too many cells or too few, or behind one
// that does not end, is noticed where it is written.
func TestProof(t *testing.T) {
	form := sheet.Form{Separator: ';', LineEnd: "\r\n"}
	o := Output{}
	o.begin(&form, 2)
	row := func(cells ...string) *catalogue.Row {
		return &catalogue.Row{Number: 7, Cells: cells, Marks: []catalogue.Mark{catalogue.Altered, catalogue.Altered}, Dirty: true}
	}
	for _, test := range []struct {
		before, written string
		row             *catalogue.Row
		says            string
	}{
		{"", "A;\"x \"\"y\"\"\"\r\n", row("A", `x "y"`), ""},
		{"a;b\r\n", "A;\"line\nbreak\"\r\n", row("A", "line\nbreak"), ""},
		{"", "A;y\r\n", row("A", "x"), "column 2"},
		{"", "A;x;\r\n", row("A", "x"), "not one row of 2 cells"},
		{"", "A;line\nbreak\r\n", row("A", "line\nbreak"), "not one row"},
		{"", "A;\"x\r\n", row("A", "x\r\n"), "not one row"},
		{"a;b", "A;x\r\n", row("A", "x"), "does not end"},
	} {
		err := newProof(&o).row([]byte(test.before+test.written), len(test.before), new(sheet.Part), test.row)
		if test.says == "" {
			assert.NoError(t, err, test.written)
			continue
		}
		assert.ErrorIs(t, err, ErrReadBack, test.written)
		assert.ErrorContains(t, err, test.says)
	}
}

// TestPlainly: what is seen to be right without reading it again is right when it is read again, also
// where a byte of it was changed.
func TestPlainly(t *testing.T) {
	r := rand.New(rand.NewPCG(952, 3))
	pieces := []string{"", "A", "x y", ";", "\"", "\"\"", "\n", "\r\n", "\r", ";\"", "hive"}
	plain, changed := 0, 0
	for range 20_000 {
		form := sheet.Form{Separator: ';', LineEnd: []string{"\n", "\r\n"}[r.IntN(2)]}
		o := Output{}
		o.begin(&form, 3)
		row := &catalogue.Row{Number: 7, Dirty: true}
		part := new(sheet.Part)
		for range 3 {
			cell := pieces[r.IntN(len(pieces))] + pieces[r.IntN(len(pieces))]
			mark := []catalogue.Mark{0, catalogue.Altered, catalogue.Altered | catalogue.Quoted}[r.IntN(3)]
			from := len(part.Data)
			part.Data += string(o.AppendCell(nil, cell, mark)) + ";"
			row.Cells, row.Marks = append(row.Cells, cell), append(row.Marks, mark)
			row.Spans = append(row.Spans, catalogue.Span{From: uint32(from), To: uint32(len(part.Data) - 1)})
		}
		written := o.appendReady(nil, part, row)
		if r.IntN(2) == 0 {
			written[r.IntN(len(written))] = "A;\"\n\r x"[r.IntN(7)]
			changed++
		}
		p := newProof(&o)
		if !p.plainly(string(written), part, row) {
			continue
		}
		plain++
		p.scanner.Reset(string(written))
		require.True(t, p.scanner.Next(&p.read) && !p.scanner.Open && p.scanner.Pos() == len(written), "%q", written)
		for n, cell := range p.read.Cells {
			require.Equal(t, row.Cells[n], strings.ReplaceAll(cell, `""`, `"`), "%q", written)
		}
		require.Len(t, p.read.Cells, 3)
	}
	t.Log(plain, "rows,", changed, "changed")
	require.Greater(t, plain, 9_000)
}

// BenchmarkProof: a row of twenty cells that was written anew is read again.
func BenchmarkProof(b *testing.B) {
	form := sheet.Form{Separator: ',', LineEnd: "\n"}
	o := Output{}
	o.begin(&form, 20)
	row := &catalogue.Row{Number: 7, Dirty: true}
	var written []byte
	for n := range 20 {
		cell := strings.Repeat("hive, tool ", 1+n%7*n%5)
		row.Cells, row.Marks = append(row.Cells, cell), append(row.Marks, catalogue.Altered|catalogue.Quoted)
		written = append(o.AppendCell(written, cell, catalogue.Quoted), ",\n"[n/19])
	}
	p := newProof(&o)
	b.SetBytes(int64(len(written)))
	for b.Loop() {
		if err := p.row(written, 0, new(sheet.Part), row); err != nil {
			b.Fatal(err)
		}
	}
}
