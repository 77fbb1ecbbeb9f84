package workbook

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// FuzzWriter: what is written is read again as it was, here and by the library.
func FuzzWriter(f *testing.F) {
	for _, s := range []string{"9521234000013", " <a> & \"b\" ", "a\r\nb\tc\x01", "_x0041_ _x000d_ __x0041_", "Küche 🐝", "\ufffe", "=1+1",
		"_x00"} {
		f.Add(s, "x"+s)
	}
	f.Fuzz(func(t *testing.T, one, two string) {
		if !utf8.ValidString(one) || !utf8.ValidString(two) || len(one)+len(two) > 1000 {
			return
		}
		var out bytes.Buffer
		w, err := NewWriter(&out, Layout{Name: "Ready & <done>", Heads: 1, Widths: []int{12}})
		require.NoError(t, err)
		rows := [][]string{{"SKU", "Title"}, {one, two}, {}, {"", one}}
		for _, row := range rows {
			require.NoError(t, w.Row(row))
		}
		require.NoError(t, w.Close())
		b := opened(t, out.Bytes())
		require.Equal(t, "Ready & <done>", b.Sheets[0].Name)
		cells := make(map[string]string)
		for r, row := range rows {
			for c, cell := range row {
				if cell != "" {
					at, _ := excelize.CoordinatesToCellName(c+1, r+1)
					cells[at] = "t " + cell
				}
			}
		}
		assert.Equal(t, cells, said(t, b, b.Sheets[0]))
	})
}

// FuzzODSWriter: what is written is read again as it was, but for the kind of line breaks.
func FuzzODSWriter(f *testing.F) {
	for _, s := range []string{"9521234000013", " <a> & \"b\"  ", "a\r\nb\tc", "\n\na\n", "  ", "Küche 🐝\u00a0", "a \n b", "\t \t", "\x01",
		"_x0041_\t"} {
		f.Add(s, "x"+s)
	}
	f.Fuzz(func(t *testing.T, one, two string) {
		if !utf8.ValidString(one) || !utf8.ValidString(two) || len(one)+len(two) > 1000 {
			return
		}
		var out bytes.Buffer
		w, err := NewODSWriter(&out, 2, Layout{Name: "Ready & <done>", Heads: 1, Widths: []int{12}})
		require.NoError(t, err)
		rows := [][]string{{"SKU", "Title"}, {one, two}, {}, {"", one}, {two, ""}}
		for _, row := range rows {
			if err := w.Row(row); err != nil {
				require.ErrorIs(t, err, ErrNoRoom)
				return
			}
		}
		require.NoError(t, w.Close())
		b := opened(t, out.Bytes())
		require.Equal(t, "Ready & <done>", b.Sheets[0].Name)
		got := make([][]string, len(rows))
		for i := range got {
			got[i] = make([]string, len(rows[i]))
		}
		require.NoError(t, b.Rows(b.Sheets[0], func(row *Row) error {
			for _, c := range row.Cells {
				got[row.Number-1][c.Col-1] = strings.Clone(c.Text)
			}
			return nil
		}))
		for i := range rows {
			for j := range rows[i] {
				rows[i][j] = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(rows[i][j])
			}
		}
		assert.Equal(t, rows, got)
	})
}

func TestWriter(t *testing.T) {
	var out bytes.Buffer
	w, err := NewWriter(&out, Layout{Name: "Ready", Heads: 1})
	require.NoError(t, err)
	wide := make([]string, 800)
	for i := range wide {
		wide[i] = fmt.Sprint("c", i)
	}
	require.NoError(t, w.Row(wide))
	assert.ErrorIs(t, w.Row([]string{strings.Repeat("ü", MostText+1)}), ErrNoRoom)
	assert.ErrorIs(t, w.Row(make([]string, MostColumns+1)), ErrNoRoom)
	require.NoError(t, w.Close())
	theirs, err := excelize.OpenReader(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	rows, err := theirs.GetRows("Ready")
	require.NoError(t, err)
	assert.Equal(t, wide, rows[0])
}

// BenchmarkWriter writes 100,000 rows of twenty cells, here and with the library.
func BenchmarkWriter(b *testing.B) {
	row, anyRow := make([]string, 20), make([]any, 20)
	for i := range row {
		row[i] = fmt.Sprintf("text %d of a row that is <not> too long", i)
		anyRow[i] = row[i]
	}
	b.Run("here", func(b *testing.B) {
		for b.Loop() {
			w, err := NewWriter(io.Discard, Layout{Name: "Ready", Heads: 1})
			require.NoError(b, err)
			for range 100_000 {
				require.NoError(b, w.Row(row))
			}
			require.NoError(b, w.Close())
		}
	})
	b.Run("OpenDocument", func(b *testing.B) {
		for b.Loop() {
			w, err := NewODSWriter(io.Discard, len(row), Layout{Name: "Ready", Heads: 1})
			require.NoError(b, err)
			for range 100_000 {
				require.NoError(b, w.Row(row))
			}
			require.NoError(b, w.Close())
		}
	})
	b.Run("library", func(b *testing.B) {
		for b.Loop() {
			book := excelize.NewFile()
			w, err := book.NewStreamWriter("Sheet1")
			require.NoError(b, err)
			for n := range 100_000 {
				require.NoError(b, w.SetRow(fmt.Sprint("A", n+1), anyRow))
			}
			require.NoError(b, w.Flush())
			require.NoError(b, book.Write(io.Discard))
			require.NoError(b, book.Close())
		}
	})
}
