package workbook

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/internal/brief"
	"zetanum/internal/outside"
)

// readBack returns the cells of the first sheet of a workbook.
func readBack(t *testing.T, content []byte) (rows [][]string) {
	t.Helper()
	book, err := Open(bytes.NewReader(content), int64(len(content)))
	require.NoError(t, err)
	require.NoError(t, book.Rows(book.Sheets[0], func(row *Row) error {
		for len(rows) < row.Number {
			rows = append(rows, nil)
		}
		for _, c := range row.Cells {
			for len(rows[row.Number-1]) < c.Col {
				rows[row.Number-1] = append(rows[row.Number-1], "")
			}
			rows[row.Number-1][c.Col-1] = strings.Clone(c.Text) // which is that of the row
		}
		return nil
	}))
	return rows
}

// TestXLSWriter: what is written comes back cell by cell, whatever the lengths of texts, which go on in further records, and of the file, whose
// table of sectors goes on beyond its header.
func TestXLSWriter(t *testing.T) {
	letters := []rune("abc ,;\"'<>&\tü€Ω字😀\n")
	for seed := range brief.Of(uint64(12), 3) {
		r := rand.New(rand.NewPCG(seed, 2328))
		var b bytes.Buffer
		w, err := NewXLSWriter(&b, t.TempDir(), Layout{Name: "Prödücts"})
		require.NoError(t, err)
		var want [][]string
		most := []int{3, 40, 9000}[seed%3]
		for i := range 1 + r.IntN(map[int]int{3: 400, 40: 3000, 9000: 120}[most]) {
			row := []string{fmt.Sprintf("%014d", i)}
			for range r.IntN(6) {
				var cell strings.Builder
				alphabet := letters[:4+r.IntN(len(letters)-4)]
				for range r.IntN(most) {
					cell.WriteRune(alphabet[r.IntN(len(alphabet))])
				}
				row = append(row, cell.String())
			}
			for len(row) > 0 && row[len(row)-1] == "" {
				row = row[:len(row)-1]
			}
			want = append(want, row)
			require.NoError(t, w.Row(row))
		}
		require.NoError(t, w.Close())
		got := readBack(t, b.Bytes())
		require.Equal(t, len(want), len(got), seed)
		for i := range want {
			require.Equal(t, want[i], got[i], "%d, row %d", seed, i+1)
		}
	}

	var b bytes.Buffer // of more than seven megabytes
	w, err := NewXLSWriter(&b, t.TempDir(), Layout{Name: "Products"})
	require.NoError(t, err)
	for i := range 30_000 {
		require.NoError(t, w.Row([]string{fmt.Sprintf("%014d", i), strings.Repeat("x", 300)}))
	}
	require.NoError(t, w.Close())
	assert.Greater(t, b.Len(), 8<<20)
	rows := readBack(t, b.Bytes())
	require.Len(t, rows, 30_000)
	assert.Equal(t, "00000000029999", rows[29_999][0])

	w, err = NewXLSWriter(&b, t.TempDir(), Layout{Name: "Products"})
	require.NoError(t, err)
	assert.ErrorIs(t, w.Row(make([]string, MostXLSColumns+1)), ErrNoRoom)
	assert.ErrorIs(t, w.Row([]string{strings.Repeat("x", MostText+1)}), ErrNoRoom)
	require.NoError(t, w.Close())
}

// TestXLSInOffice: the office suite opens what is written, and reads codes as the texts that they are.
func TestXLSInOffice(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "ready.xls")
	f, err := os.Create(path)
	require.NoError(t, err)
	w, err := NewXLSWriter(f, dir, Layout{Name: "Products"})
	require.NoError(t, err)
	require.NoError(t, w.Row([]string{"SKU", "Barcode", "Text"}))
	for i := range 200 {
		require.NoError(t, w.Row([]string{fmt.Sprintf("%05d", i), fmt.Sprintf("0952123%06d", i), strings.Repeat("Küche 字 ", i*3)}))
	}
	require.NoError(t, w.Close())
	require.NoError(t, f.Close())
	content, err := os.ReadFile(filepath.Join(outside.Convert(t, "xlsx", path), "ready.xlsx"))
	require.NoError(t, err)
	rows := readBack(t, content)
	require.Len(t, rows, 201)
	assert.Equal(t, []string{"00199", "0952123000199", strings.Repeat("Küche 字 ", 199*3)}, rows[200])
}
