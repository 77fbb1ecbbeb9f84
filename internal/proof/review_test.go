package proof

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zetanum/core/repair"
)

// review repairs a file and opens its review workbook.
func review(t *testing.T, content string) (*excelize.File, *repair.Result) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
	r, err := repair.Run(context.Background(), repair.Options{Input: path, Target: repair.Target(path), Workers: 2, Temp: t.TempDir(),
		Review: Review})
	require.NoError(t, err)
	book, err := excelize.OpenFile(filepath.Join(r.Folder, ReviewName))
	require.NoError(t, err)
	t.Cleanup(func() { book.Close() })
	return book, r
}

// file returns the bytes of the review workbook of a run.
func file(t *testing.T, r *repair.Result) []byte {
	t.Helper()
	content, err := os.ReadFile(filepath.Join(r.Folder, ReviewName))
	require.NoError(t, err)
	return content
}

func TestHeldSheet(t *testing.T) {
	const content = "\ufeffSKU;EAN;Title\r\nA;9521234000012;\"Smoker; \"\"old\"\"\nline\"\r\nB;9521234000013;x\r\n007;9.5E+12;=1+1\r\n"
	book, r := review(t, content)
	rows, err := book.GetRows("Held")
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, []string{"Row", "Reason", "SKU", "EAN", "Title"}, rows[0])
	assert.Equal(t, []string{"A", "9521234000012", "Smoker; \"old\"\nline"}, rows[1][2:])
	assert.Equal(t, []string{"007", "9.5E+12", "=1+1"}, rows[2][2:], "no formula is made of a cell")
	formula, err := book.GetCellFormula("Held", "E3")
	require.NoError(t, err)
	assert.Empty(t, formula)
	assert.Equal(t, "2", rows[1][0])
	assert.Contains(t, rows[1][1], "EAN: The last digit of 9521234000012 is a check digit")

	_, again := review(t, content)
	assert.Equal(t, file(t, r), file(t, again), "the same rows make the same bytes")

	summary, err := book.GetRows("Summary")
	require.NoError(t, err)
	text := fmt.Sprint(summary)
	for _, part := range []string{"list.csv", "[Rows read 3]", "[Held 2", "the check digit does not fit"} {
		assert.Contains(t, text, part)
	}
}

// TestManyHeldRows: of more rows than a person looks at a fair choice is shown,
// in the order of the sheet, and the sheet says so.
func TestManyHeldRows(t *testing.T) {
	var b strings.Builder
	b.WriteString("SKU,EAN\n")
	for i := range maxRows + 3000 {
		fmt.Fprintf(&b, "A%d,9.5E+12\n", i)
	}
	book, r := review(t, b.String())
	require.Equal(t, maxRows+3000, r.Report.Held)
	rows, err := book.GetRows("Held")
	require.NoError(t, err)
	require.Len(t, rows, maxRows+2)
	assert.Contains(t, rows[0][1], "Shown are 5,000 of 8,000 held rows")
	last, late := 0, 0
	for _, row := range rows[2:] {
		n, err := strconv.Atoi(row[0])
		require.NoError(t, err)
		require.Greater(t, n, last)
		last = n
		if n > (maxRows+3000)/2 {
			late++
		}
	}
	assert.InDelta(t, maxRows/2, late, maxRows/20, "the second half of the sheet is shown as much as the first")
}

// TestVeryWide: a sheet may have as many columns as a workbook can, with none left for what is added.
func TestVeryWide(t *testing.T) {
	wide := strings.Repeat(",c", 16382)
	book, r := review(t, "SKU,EAN"+wide+"\nA,9.5E+12"+strings.Repeat(",x", 16382)+"\n")
	require.Equal(t, 1, r.Report.Held)
	rows, err := book.GetRows("Held")
	require.NoError(t, err)
	assert.Len(t, rows[1], maxColumns+2)
}
