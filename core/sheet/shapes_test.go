package sheet

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/internal/brief"
)

// quoteWith puts a cell in quotation marks if it needs them.
func quoteWith(cell, separator, quote string, always bool) string {
	if always || strings.Contains(cell, separator) || strings.Contains(cell, quote) || strings.ContainsAny(cell, "\r\n") {
		return quote + strings.ReplaceAll(cell, quote, quote+quote) + quote
	}
	return cell
}

// joined writes rows with a separator.
func joined(rows [][]string, separator, quote, end string, always bool) string {
	var b strings.Builder
	for _, row := range rows {
		for i, cell := range row {
			if i > 0 {
				b.WriteString(separator)
			}
			b.WriteString(quoteWith(cell, separator, quote, always))
		}
		b.WriteString(end)
	}
	return b.String()
}

// other returns another separator.
func other(r *rand.Rand, separator string) string {
	for {
		if sep := []string{",", ";", "\t"}[r.IntN(3)]; sep != separator {
			return sep
		}
	}
}

// shapes are the ways in which tables are written that are not what they seem.
var shapes = map[string]func(r *rand.Rand, rows [][]string, sep, end string) string{
	"usual": func(_ *rand.Rand, rows [][]string, sep, end string) string { return joined(rows, sep, `"`, end, false) },
	"headings with another separator": func(r *rand.Rand, rows [][]string, sep, end string) string {
		return joined(rows[:1], other(r, sep), `"`, end, false) + joined(rows[1:], sep, `"`, end, false)
	},
	"each row in one cell": func(_ *rand.Rand, rows [][]string, sep, end string) string {
		var b strings.Builder
		for _, row := range rows {
			b.WriteString(quoteWith(joined([][]string{row}, sep, `"`, "", false), sep, `"`, true) + end)
		}
		return b.String()
	},
	"each row in one cell, but the headings": func(r *rand.Rand, rows [][]string, sep, end string) string {
		var b strings.Builder
		empty := strings.Repeat(sep, r.IntN(3))
		b.WriteString(joined(rows[:1], sep, `"`, "", false) + empty + end)
		for _, row := range rows[1:] {
			b.WriteString(quoteWith(joined([][]string{row}, sep, `"`, "", false), sep, `"`, true) + empty + end)
		}
		return b.String()
	},
	"carets and tildes": func(_ *rand.Rand, rows [][]string, _, end string) string { return joined(rows, "^", "~", end, true) },
	"pipes and tildes":  func(_ *rand.Rand, rows [][]string, _, end string) string { return joined(rows, "|", "~", end, true) },
	"single quotation marks": func(_ *rand.Rand, rows [][]string, sep, end string) string {
		return joined(rows, sep, "'", end, true)
	},
	"spaces before quotation marks": func(_ *rand.Rand, rows [][]string, sep, end string) string {
		var b strings.Builder
		for _, row := range rows {
			for i, cell := range row {
				if i > 0 {
					b.WriteString(sep + " ")
				}
				b.WriteString(quoteWith(cell, sep, `"`, true))
			}
			b.WriteString(end)
		}
		return b.String()
	},
	"a break in a heading": func(r *rand.Rand, rows [][]string, sep, end string) string {
		heads := slices.Clone(rows[0])
		heads[len(heads)-1] += []string{"\n", "\r\n"}[r.IntN(2)] + "(net)"
		rows = append([][]string{heads}, rows[1:]...)
		return joined(rows, sep, `"`, end, false)
	},
	"CR CR LF": func(_ *rand.Rand, rows [][]string, sep, _ string) string {
		return joined(rows, sep, `"`, "\r\r\n", false)
	},
	"CR alone among others": func(r *rand.Rand, rows [][]string, sep, _ string) string {
		at := 2 + r.IntN(len(rows)-3)
		return joined(rows[:at], sep, `"`, "\r\n", false) + joined(rows[at:at+1], sep, `"`, "\r", false) +
			joined(rows[at+1:], sep, `"`, "\r\n", false)
	},
	"end of file of old systems": func(r *rand.Rand, rows [][]string, sep, end string) string {
		return joined(rows, sep, `"`, end, false) + "\x1a" + strings.Repeat("\x00", r.IntN(200))
	},
	"NULs up to a block": func(r *rand.Rand, rows [][]string, sep, end string) string {
		s := joined(rows, sep, `"`, end, false)
		return s + strings.Repeat("\x00", 4096-len(s)%4096)
	},
	"blank rows at the end": func(r *rand.Rand, rows [][]string, sep, end string) string {
		s := joined(rows, sep, `"`, end, false)
		for range 101 + r.IntN(50) {
			s += []string{"", " ", strings.Repeat(sep, len(rows[0])-1), strings.Repeat(`""`+sep, len(rows[0])-1) + `""`}[r.IntN(4)] + end
		}
		return s
	},
	"no end of line at the end": func(_ *rand.Rand, rows [][]string, sep, end string) string {
		return strings.TrimSuffix(joined(rows, sep, `"`, end, false), end)
	},
	"UTF-16 and an odd byte": func(r *rand.Rand, rows [][]string, sep, end string) string {
		return "\xff\xfe" + string(appended(charset.UTF16, joined(rows, sep, `"`, end, false))) + string("\x00\n\r"[r.IntN(3)])
	},
}

// TestShapes: thousands of made-up tables of other trades, written in every shape, are read
// as what they are.
func TestShapes(t *testing.T) {
	t.Parallel()
	words := strings.Fields("wool yarn 4-ply needle bamboo, 5\" hook; red blue \"soft\" set of 3 skein bag | pattern card, cotton Öl für Größe 1,5 l 'fine'")
	rounds := brief.Of(150, 8)
	for _, name := range slices.Sorted(maps.Keys(shapes)) {
		r := rand.New(rand.NewPCG(16, 5))
		right := 0
		for range rounds {
			heads := []string{"SKU", "EAN", "Title", "Price", "Stock", "Brand"}[:4+r.IntN(3)]
			rows := [][]string{heads}
			for i := range 5 + r.IntN(30) {
				var title []string
				for range 1 + r.IntN(5) {
					title = append(title, words[r.IntN(len(words))])
				}
				row := []string{fmt.Sprint("Y-", i), fmt.Sprint(9521234000000 + r.Int64N(99999)), strings.Join(title, " "), fmt.Sprintf("%d.50", r.IntN(90)),
					fmt.Sprint(r.IntN(50)), "Lana"}
				rows = append(rows, row[:len(heads)])
			}
			sep, end := []string{",", ";", "\t"}[r.IntN(3)], []string{"\n", "\r\n"}[r.IntN(2)]
			path := filepath.Join(t.TempDir(), "list.csv")
			require.NoError(t, os.WriteFile(path, []byte(shapes[name](r, rows, sep, end)), 0o666))
			table, err := Open(path, Options{Spool: t.TempDir()})
			require.NoError(t, err, name)
			var got [][]string
			require.NoError(t, table.Each(func() { got = nil }, func(row *catalogue.Row) {
				cells := make([]string, len(row.Cells))
				for i, c := range row.Cells {
					cells[i] = strings.Clone(c)
				}
				got = append(got, cells[:min(len(cells), len(heads))])
			}), name)
			if assert.Equal(t, rows[1:], got, "%s: %s", name, table.Kind()) {
				right++
			}
			require.NoError(t, table.Close())
		}
		t.Logf("| %s | %d of %d |", name, right, rounds)
	}
}
