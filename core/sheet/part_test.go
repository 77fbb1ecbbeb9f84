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
