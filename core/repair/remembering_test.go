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

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

// TestRemembered: what one month's file had whole comes back in the next, by supplier and SKU, where what is
// left agrees, and nothing else does.
func TestRemembered(t *testing.T) {
	const head = "SKU,EAN,Title\n"
	for name, test := range map[string]struct {
		before []string // lists of earlier months
		now    string
		ready  string // the rows
		held   string // what rows are held for
	}{
		"brought back": {[]string{head + "A,9521234000013,Bell\nB,9521234000020,Axle\nC,9521234000037,Grip\n"},
			head + "A,9.52123E+12,Bell\nB,,Axle\nC,9521234000037,Grip\n", "A,9521234000013,Bell\nB,9521234000020,Axle\nC,9521234000037,Grip\n", ""},
		"by supplier": {[]string{"SKU,EAN,Title,Supplier\nA,9521234000013,Bell,Hollowbrook\nA2,9521234000112,Bell,\n"},
			"SKU,EAN,Title,Supplier\nA,9.52123E+12,Bell,Saltmarsh\nB,9521234000020,Axle,\n", "B,9521234000020,Axle,\n", "1 barcode.rounded"},
		"what was rescued is not remembered": {[]string{head + "A,9.521234000013E+12,Bell\nB,9.521234000044E+12,Axle\n"},
			head + "A,9.52123E+12,Bell\nB,9521234000044,Axle\n", "B,9521234000044,Axle\n", "1 barcode.rounded"},
		"what was held is not": {[]string{head + "A,9521234000013,Bell\nB,9521234000013,Axle\n"}, head + "A,9.52123E+12,Bell\n", "", "1 barcode.rounded"},
		"two codes of one SKU": {[]string{head + "A,9521234000013,Bell\n", head + "A,9521234000020,Bell\n"}, head + "A,9.52123E+12,Bell\n", "", "1 memory.open"},
		"a code of two SKUs":   {[]string{head + "A,9521234000013,Bell\n", head + "B,9521234000013,Bell\n"}, head + "A,9.52123E+12,Bell\n", "", "1 memory.open"},
		"another company":      {[]string{head + "A,9527770000012,Bell\n"}, head + "A,9.52123E+12,Bell\n", "", "1 memory.open"},
		"another title":        {[]string{head + "A,9521234000013,Bell\n"}, head + "A,,Candle\n", "", "1 memory.other-title"},
		"SKUs of any kind": {[]string{"SKU,EAN,Title\n\"a,\"\"b\",9521234000013,Bell\n=1+1,9521234000020,Axle\n S p ,9521234000037,Grip\n0012,9521234000044,Cap\n"},
			"SKU,EAN,Title\n\"a,\"\"b\",,Bell\n=1+1,,Axle\nS p,,Grip\n12,9.52123E+12,Cap\n",
			"\"a,\"\"b\",9521234000013,Bell\n=1+1,9521234000020,Axle\nS p,9521234000037,Grip\n", "1 barcode.rounded"},
		"half of the title":   {[]string{head + "A,9521234000013,Bell of brass\n"}, head + "A,9.52E+12,Bell of steel\n", "A,9521234000013,Bell of steel\n", ""},
		"a word of the title": {[]string{head + "A,9521234000013,Set of bells\n"}, head + "A,9.52123E+12,Pair of oars\n", "", "1 memory.other-title"},
		"another has the code now": {[]string{head + "A,9521234000013,Bell\n"}, head + "A,9.52123E+12,Bell\nB,9521234000013,Axle\n", "",
			"2 barcode.duplicate"},
		"two rows with the SKU": {[]string{head + "A,9521234000013,Bell\n"}, "Slug,SKU,EAN,Title,Colour\ns,A,9.52123E+12,Bell,red\ns,A,9.52123E+12,Bell,blue\n", "",
			"2 memory.open"},
		"a row that is sold beside it": {[]string{head + "A,9521234000013,Bell\n"}, "Slug,SKU,EAN,Title,Image\ns,A,9.52123E+12,Bell,a.jpg\ns,,,,b.jpg\n",
			"s,A,9521234000013,Bell,a.jpg\ns,,,,b.jpg\n", ""},
	} {
		dir := t.TempDir()
		at := rememberingLists(t, dir, test.before...)
		path := write(t, dir, "list.csv", test.now)
		r, err := Run(t.Context(), Options{Input: path, Target: Target(path), Workers: 2, PartSize: 20, Register: at, Date: "2026-09-01"})
		require.NoError(t, err, name)
		_, ready, _ := strings.Cut(read(t, filepath.Join(r.Folder, "ready.csv")), "\n")
		assert.Equal(t, test.ready, ready, name)
		var held []string
		for _, f := range r.Report.Found {
			if f.Code.Entry().Severity == catalogue.Error {
				held = append(held, fmt.Sprint(f.Cells, " ", f.Code))
			}
		}
		assert.Equal(t, test.held, strings.Join(held, ", "), name)
	}
}

// TestOwnOutputIsNotRemembered: what stands whole in an output of ours may have been brought back.
func TestOwnOutputIsNotRemembered(t *testing.T) {
	dir := t.TempDir()
	at := filepath.Join(dir, "codes.register")
	path := write(t, dir, "list.csv", "SKU,EAN,Title\nA,9.521234000013E+12,Bell\nB,9521234000020,Axle\n")
	r, err := Run(t.Context(), Options{Input: path, Target: Target(path), Workers: 1, Register: at, Date: "2026-09-01"})
	require.NoError(t, err)
	assert.Equal(t, 1, r.Register.Noted)
	again := filepath.Join(r.Folder, "ready.csv")
	r, err = Run(t.Context(), Options{Input: again, Target: filepath.Join(dir, "again"), Workers: 1, Register: at, Date: "2026-09-02"})
	require.NoError(t, err)
	assert.Equal(t, 2, r.Counts().Ready)
	assert.Zero(t, r.Register.Noted)
}

// TestRememberedByChance damages catalogues whose codes are remembered: what comes out is what was there, the
// same for any number of workers, and again when the register has seen the file itself.
func TestRememberedByChance(t *testing.T) {
	rounds := some(40)
	back := 0
	for seed := range rounds {
		rng := rand.New(rand.NewPCG(uint64(seed), 18))
		n := 20 + rng.IntN(200)
		code := func(i int) string { return mustComplete(t, 952123400000+uint64(i)) }
		list := func(damaged bool) (string, map[string]string) {
			var b strings.Builder
			truth := make(map[string]string)
			b.WriteString("SKU,EAN,Title,Supplier\n")
			for _, i := range rng.Perm(n) {
				ean, sku, title := code(i), fmt.Sprint("S", i), fmt.Sprintf("Tool number %d", i)
				truth[sku] = ean
				if damaged {
					switch rng.IntN(6) {
					case 0:
						ean = ""
					case 1, 2:
						ean = ean[:1] + "." + ean[1:6] + "E+12"
					case 3:
						sku = fmt.Sprint("S", rng.IntN(2*n)) // renamed, perhaps to one that another has had
					}
				}
				fmt.Fprintf(&b, "%s,%s,%s,%s\n", sku, ean, title, []string{"", "Hollowbrook"}[i%2])
			}
			return b.String(), truth
		}
		dir := t.TempDir()
		whole, truth := list(false)
		at := rememberingLists(t, dir, whole)
		mangled, _ := list(true)
		path := write(t, dir, "list.csv", mangled)
		before, err := os.ReadFile(at)
		require.NoError(t, err)
		first := ""
		for round, workers := range []int{1, 2, 8, 3} {
			if round < 3 { // the register as it was
				require.NoError(t, os.WriteFile(at, before, 0o666))
				os.Remove(at + "-wal")
				os.Remove(at + "-shm")
			}
			r, err := Run(t.Context(), Options{Input: path, Target: Target(path), Workers: workers, PartSize: 100 + rng.IntN(2000), Register: at, Date: "2026-09-01"})
			require.NoError(t, err)
			all := ""
			for _, name := range []string{"ready.csv", "held.csv", "aside.csv", "changes.jsonl"} {
				all += read(t, filepath.Join(r.Folder, name))
			}
			if round == 0 {
				first = all
				_, rows, _ := strings.Cut(read(t, filepath.Join(r.Folder, "ready.csv")), "\n")
				for line := range strings.Lines(rows) {
					cells := strings.Split(line, ",")
					if cells[1] == "" {
						continue
					}
					title := cells[2][strings.LastIndex(cells[2], " ")+1:]
					assert.Equal(t, truth["S"+title], cells[1], "seed %d: %s", seed, line)
				}
				for _, c := range r.Report.Repaired {
					back += c.Cells
				}
			}
			assert.True(t, first == all, "seed %d, %d workers, round %d", seed, workers, round)
			require.NoError(t, os.RemoveAll(r.Folder))
		}
	}
	assert.Greater(t, back, rounds*10, "few are brought back")
	t.Logf("%d codes brought back, none of them wrong", back)
}

// BenchmarkRemembered repairs a file of 50,000 rows whose barcodes a register remembers, and the same without one:
// the difference is what it costs to see that nothing is new.
func BenchmarkRemembered(b *testing.B) {
	var text strings.Builder
	text.WriteString("SKU,EAN,Title,Description\n")
	for i := range 50_000 {
		code, _ := barcode.Complete(fmt.Sprintf("9521%08d", i*37%100_000_000))
		fmt.Fprintf(&text, "LR%06d,%s,\"Hive tool, no. %d\",<p>%s</p>\n", i, code, i, strings.Repeat("A tool for the hive. ", 8))
	}
	dir := b.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(b, os.WriteFile(path, []byte(text.String()), 0o666))
	for name, at := range map[string]string{"remembered": filepath.Join(dir, "codes.register"), "without": ""} {
		b.Run(name, func(b *testing.B) {
			opt := Options{Input: path, Target: Target(path), Workers: 1, Register: at}
			_, err := Run(b.Context(), opt)
			require.NoError(b, err)
			b.SetBytes(int64(text.Len()))
			for b.Loop() {
				_, err := Run(b.Context(), opt)
				require.NoError(b, err)
			}
		})
	}
}

func mustComplete(t *testing.T, number uint64) string {
	code, err := barcode.Complete(fmt.Sprint(number))
	require.NoError(t, err)
	return code.String()
}
