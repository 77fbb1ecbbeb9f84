package main

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/products"
	"zetanum/core/repair"
	"zetanum/internal/brief"
)

// TestCatalogue: the catalogue that is measured is what it says it is, and REF
// copies it.
func TestCatalogue(t *testing.T) {
	path := filepath.Join(t.TempDir(), "catalogue.csv")
	rows := brief.Of(20_000, 4_000)
	require.NoError(t, writeCatalogue(path, rows))
	info, err := os.Stat(path)
	require.NoError(t, err)
	assert.InDelta(t, 530, int(info.Size())/rows, 40, "bytes a row")
	r, err := repair.Run(context.Background(), repair.Options{Input: path, Workers: 2, Temp: t.TempDir()})
	require.NoError(t, err)
	c := r.Counts()
	assert.Equal(t, rows, c.Read)
	assert.InDelta(t, 0.01, float64(c.Held)/float64(rows), 0.003)
	assert.InDelta(t, 0.07, float64(c.Changed)/float64(rows), 0.0075)
	require.NoError(t, copyFile(path, path+".copy"))
	copied, err := os.Stat(path + ".copy")
	require.NoError(t, err)
	assert.InDelta(t, info.Size(), copied.Size(), float64(info.Size())/100)
}

// TestTable: the table that is checked has every run, a run that is a fifth slower beside REF than in it is named, and one
// that is not is none.
func TestTable(t *testing.T) {
	t.Chdir("..")
	had, err := readTable()
	require.NoError(t, err)
	runs, _, err := prepare(20, t.TempDir())
	require.NoError(t, err)
	for _, c := range runs("zetanum", "") {
		assert.True(t, slices.ContainsFunc(had.Runs, func(r runOf) bool { return r.Name == c.name && r.Ratio > 0 }), c.name)
	}
	now := *had
	now.Runs = slices.Clone(had.Runs)
	require.NoError(t, now.against(had))
	at := slices.IndexFunc(now.Runs, func(r runOf) bool { return r.Name == "repair" })
	now.Runs[at].Ratio *= 0.82
	require.NoError(t, now.against(had))
	now.Runs[at].Ratio *= 0.95
	assert.ErrorContains(t, now.against(had), "repair is ")
	some := table{Date: had.Date, Rows: had.Rows, Machine: had.Machine, Runs: []runOf{{Name: refName, Seconds: 1}, {Name: "100 lists", Ratio: 9}}}
	some.keep(had)
	require.Len(t, some.Runs, len(had.Runs))
	assert.Equal(t, had.Runs[0], some.Runs[0], "REF stays that of the runs that stay")
	assert.Contains(t, some.Runs, runOf{Name: "100 lists", Ratio: 9})
	some.Runs = slices.Clone(now.Runs)
	some.Runs[0].Seconds = 1
	some.keep(had)
	assert.Equal(t, 1.0, some.Runs[0].Seconds, "no other stays")
	var b strings.Builder
	require.NoError(t, had.print(&b))
	assert.Contains(t, b.String(), "20 rules")
}

func BenchmarkLine(b *testing.B) {
	path := filepath.Join(b.TempDir(), "catalogue.csv")
	require.NoError(b, writeCatalogue(path, 100000))
	info, err := os.Stat(path)
	require.NoError(b, err)
	for _, test := range []struct {
		name string
		run  func(context.Context, repair.Options) (*repair.Result, error)
	}{{"inspect", repair.Look}, {"repair", repair.Run}} {
		b.Run(test.name, func(b *testing.B) {
			b.SetBytes(info.Size())
			b.ReportAllocs()
			for b.Loop() {
				_, err := test.run(context.Background(), repair.Options{Input: path, Target: path + ".repaired", Workers: 2,
					Temp: b.TempDir()})
				require.NoError(b, err)
			}
		})
	}
}

// BenchmarkProducts: the same 200,000 rows as products of one row, of five rows, as one
// product, and as products of five rows that stand apart and are brought together.
func BenchmarkProducts(b *testing.B) {
	const rows = 200_000
	for _, test := range []struct {
		name    string
		product func(i int) int
		rules   products.Rules
	}{
		{"one row", func(i int) int { return i }, products.Rules{}},
		{"five rows", func(i int) int { return i / 5 }, products.Rules{}},
		{"one product", func(int) int { return 0 }, products.Rules{}},
		{"apart", func(i int) int { return i % (rows / 5) }, products.Rules{Regroup: true}},
	} {
		b.Run(test.name, func(b *testing.B) {
			path := filepath.Join(b.TempDir(), "variants.csv")
			f, err := os.Create(path)
			require.NoError(b, err)
			w := bufio.NewWriter(f)
			fmt.Fprintln(w, "Slug,SKU,Title,Brand,Tags,Price,Stock,Colour,Size,Image URL,Memo")
			last := -1
			for i := range rows {
				n, title, brand := test.product(i), "", ""
				if n > last {
					title, brand, last = fmt.Sprintf("Ventilated veil no. %d", n), "Linden Row", n
				}
				fmt.Fprintf(w, "veil-%06d,LRA-%07d,%s,%s,,%d.50,%d,shade %d,%d cm,https://cdn.lindenrow.example/products/%07d/front.jpg,\n",
					n, i, title, brand, 5+i%90, i%300, i%500, 40+i/500, i)
			}
			require.NoError(b, w.Flush())
			require.NoError(b, f.Close())
			info, err := os.Stat(path)
			require.NoError(b, err)
			opt := repair.Options{Input: path, Target: path + ".repaired", Workers: 2, Temp: b.TempDir()}
			opt.Book.Products = test.rules
			b.SetBytes(info.Size())
			b.ReportAllocs()
			for b.Loop() {
				r, err := repair.Run(context.Background(), opt)
				require.NoError(b, err)
				require.Equal(b, rows, r.Counts().Ready)
			}
		})
	}
}
