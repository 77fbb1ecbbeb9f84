package repair

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tablesBelow are the headings of tables that stand below others, and a row of each.
var tablesBelow = []struct {
	headings, row string
	known         bool // all of the headings are in the table of headings, and more than two
}{
	{"SKU,Title,Pages", "B-%d,Pattern book %[1]d,4%[1]d", false}, {"Title,Brand,Colour,Price", "Needle %d,Nørrebi,steel,3.%[1]d", true},
	{"Size,Chest,Waist", "S%d,8%[1]d,6%[1]d", false}, {"Artikelnummer;Farbe;Gewicht", "G-%d;rot;%[1]d0", true},
	{"SKU,Carton EAN,Cups,Colour", "C-%d,,1%[1]d,red", false}, {"SKU,Old code,Title,Was", "O-%d,K%[1]d,Old one,3.%[1]d", false},
	{"SKU,Remark,Place", "R-%d,broken,shelf", false},
	{"Colour,Code", "red %d,#f%[1]d0", false}, {"Country,Zone,Weight", "Land %d,%[1]d,%[1]d.50", false},
}

// inLetters returns a number in letters.
func inLetters(n int) string {
	return strings.Map(func(r rune) rune { return r - '0' + 'A' }, fmt.Sprint(n))
}

// TestTablesBelow: rows of another table below the one that is read never go out under
// its headings, wherever in the file they stand; and no row of a table with gaps, words for
// codes and empty cells is taken for one of another table.
func TestTablesBelow(t *testing.T) {
	t.Parallel()
	rounds := some(240)
	found, missed := 0, 0
	for seed := range rounds {
		r := rand.New(rand.NewPCG(uint64(seed), 5))
		below := tablesBelow[r.IntN(len(tablesBelow))]
		gap, title, some := r.IntN(4) > 0, r.IntN(3) == 0, r.IntN(5) > 0
		if !gap && !below.known {
			some = false
		}
		var text strings.Builder
		text.WriteString("SKU,EAN,Title,Price,Stock\n")
		rows, first := 0, 2+r.IntN(60)
		for range first {
			switch r.IntN(12) {
			case 0:
				fmt.Fprintf(&text, "HONEY-%s,,Honey jar,,none\n", inLetters(rows))
			case 1:
				fmt.Fprintf(&text, "Wax %s,,Beeswax,,\n,,,,\n", inLetters(rows))
			default:
				fmt.Fprintf(&text, "Y-%d,,Yarn %[1]d,%[1]d.50,%[1]d\n", rows)
			}
			rows++
		}
		theirs := 0
		fmt.Fprintf(&text, "Z-1,,The last,7.50,1\n")
		if some {
			if gap {
				text.WriteString(",,,,\n")
			}
			if gap && title {
				text.WriteString("The other things we have,,,,\n")
			}
			separated := func(s string) string { return strings.ReplaceAll(s, ";", ",") }
			text.WriteString(separated(below.headings) + "\n")
			for theirs = range 1 + r.IntN(30) {
				text.WriteString(separated(fmt.Sprintf(below.row, theirs)) + "\n")
			}
			theirs += 2
		}
		dir := t.TempDir()
		path := filepath.Join(dir, "list.csv")
		require.NoError(t, os.WriteFile(path, []byte(text.String()), 0o666))
		opt := fixed(path, Target(path))
		opt.PartSize = []int{0, 100, 300, 1000}[r.IntN(4)]
		result := run(t, opt)
		counts := result.Counts()
		held := strings.Count(contents(t, result.Folder)["held.csv"], "another table begins")
		ready := contents(t, result.Folder)["ready.csv"]
		if !assert.Equal(t, rows+1, strings.Count(ready, "\n")-1, "seed %d\n%s\n%s", seed, text.String(), ready) {
			missed++
		}
		require.Equal(t, theirs, held, "seed %d\n%s", seed, text.String())
		require.Equal(t, theirs, counts.Held)
		if some {
			found++
			again := opt
			again.Reading.HeadingRow = strings.Count(text.String()[:strings.Index(text.String(), strings.ReplaceAll(below.headings, ";", ","))], "\n") + 1
			again.Target = filepath.Join(dir, "below")
			if other, err := Run(t.Context(), again); err == nil {
				assert.Equal(t, theirs-1, other.Survey.Rows, "the other table by itself")
			}
		}
	}
	t.Logf("%d files: %d tables below the first were held, %d were not", rounds, found, missed)
	assert.Zero(t, missed)
}
