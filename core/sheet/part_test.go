package sheet

import (
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestSplitProducts: parts end where a product ends. A product of too many rows is cut,
// each of its parts says so, and what stands before and behind it is not.
func TestSplitProducts(t *testing.T) {
	const most = 20
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 9))
		var text strings.Builder
		text.WriteString("Key,Note\n")
		var rows []int // of each product
		for key := range 30 {
			n := 1 + r.IntN(4)
			if r.IntN(8) == 0 {
				n = 60 + r.IntN(100)
			}
			rows = append(rows, n)
			for i := range n {
				fmt.Fprintf(&text, "k%d,%s\n", key, strings.Repeat("x", i%7))
			}
		}
		table, err := Open(write(t, "list.csv", text.String()), Options{AnyHeadings: true, MostRows: most})
		require.NoError(t, err)
		last, known := "", false
		split, err := table.Split(func(row *catalogue.Row) bool {
			if row == nil {
				known = false
				return false
			}
			begins := known && row.Cell(0) != last
			last, known = row.Cell(0), true
			return begins
		}, 50)
		require.NoError(t, err)
		var all strings.Builder
		torn, before := false, ""
		in := make(map[string]int) // in how many parts a product lies
		cut := make(map[string]bool)
		for {
			p, err := split.Next()
			if err == nil {
				p.Read(&table.Form)
			}
			if errors.Is(err, io.EOF) {
				break
			}
			require.NoError(t, err)
			all.WriteString(p.Data)
			part, _ := readAll(&table.Form, p.Data)
			first, end := part[0][0], part[len(part)-1][0]
			assert.Equal(t, torn, p.Continues)
			assert.Equal(t, torn, first == before, "a part that begins inside a product says so")
			seen := make(map[string]bool)
			for _, row := range part {
				if !seen[row[0]] {
					seen[row[0]] = true
					in[row[0]]++
				}
			}
			if torn, before = p.Torn, end; torn {
				cut[end] = true
			}
		}
		require.False(t, torn)
		require.Equal(t, strings.TrimPrefix(text.String(), "Key,Note\n"), all.String())
		for key, n := range rows {
			name := fmt.Sprint("k", key)
			assert.Equal(t, cut[name], in[name] > 1, name)
			if n <= most {
				assert.Equal(t, 1, in[name], name)
			}
			if n > 50 {
				assert.True(t, cut[name], "%s of %d rows", name, n)
			}
		}
		require.NoError(t, table.Close())
	}
}

// TestLargeRow: a row that is too large is named by how it begins, whatever file it is in;
// one that is almost too large is read.
func TestLargeRow(t *testing.T) {
	if testing.Short() {
		t.Skip("large files, of which the race detector looks at each byte")
	}
	for _, size := range []int{maxRow - 1<<19, maxRow + 1<<19} {
		cell := strings.Repeat("wool ", size/5)
		for name, content := range map[string]string{
			"list.csv":   "SKU,EAN,Title\nB,,x\nY-1,9521234000013,\"" + cell + "\"\nC,,x\n",
			"odd.csv":    "~SKU~^~EAN~^~Title~\n~B~^~~^~x~\n~Y-1~^~9521234000013~^~" + cell + "~\n~C~^~~^~x~\n",
			"list.json":  `[{"sku":"B","ean":"","title":"x"},{"sku":"Y-1","ean":"9521234000013","title":"` + cell + `"},{"sku":"C","title":"x"}]`,
			"table.html": "<table><tr><th>SKU<th>EAN<th>Title<tr><td>B<td><td>x<tr><td>Y-1<td>9521234000013<td>" + cell + "<tr><td>C<td><td>x</table>",
		} {
			table, err := Open(write(t, name, content), Options{})
			rows := 0
			if err == nil {
				err = table.Each(func() { rows = 0 }, func(*catalogue.Row) { rows++ })
				require.NoError(t, table.Close(), name)
			}
			if size < maxRow {
				assert.NoError(t, err, name)
				assert.Equal(t, 3, rows, name)
				continue
			}
			assert.ErrorIs(t, err, ErrRowTooLarge, name)
			begins := map[string]string{"list.csv": `Y-1,95`, "odd.csv": "wool", "list.json": "Y-1,95"}[name]
			if name != "table.html" { // where a token is too large already
				assert.ErrorContains(t, err, `begins with "`+begins, name)
			}
		}
	}
}
