package rehearse_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"zetanum/core/rehearse"
)

// BenchmarkRun rehearses 50,000 rows of ten columns against as many of the shop's, in another order.
func BenchmarkRun(b *testing.B) {
	const rows = 50_000
	dir := b.TempDir()
	side := func(name string, step int) string {
		var text strings.Builder
		text.WriteString("SKU,Title,Description,Price,Stock,Weight,Category,Brand,Tags,Image\n")
		for n := range rows {
			i := n * step % rows
			fmt.Fprintf(&text, "K-%06d,Thing no. %d,%s,%d.%d0,%d,0.%d,Tools,Linden Row,\"bees, tool %d\",https://cdn.shop.example/%d.jpg\n", i, i, strings.Repeat("Made by hand. ", 12), i%90+1, i%9+1, i%40,
				i%900+100, i%20, i)
		}
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text.String()), 0o666); err != nil {
			b.Fatal(err)
		}
		return path
	}
	ready, shop := side("ready.csv", 1), side("shop.csv", 7919)
	b.ResetTimer()
	b.ReportAllocs()
	for b.Loop() {
		r, err := rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Temp: dir, Year: 2026})
		if err != nil || r.Unchanged != rows {
			b.Fatal(r, err)
		}
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/rows, "ns/row")
}
