package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/demo"
)

// TestReproduces: the files that the program carries are those of the
// generator, byte for byte.
func TestReproduces(t *testing.T) {
	files, err := Files()
	require.NoError(t, err)
	assert.Len(t, files, len(demo.Names()))
	for name, content := range files {
		there, err := demo.Read(name)
		require.NoError(t, err, name)
		assert.Equal(t, len(there), len(content), name)
		assert.True(t, string(there) == string(content), "%s differs: run “go run ./demo/generate”", name)
	}
}

// TestWhatComesBack repairs the three damaged files and holds each barcode that
// was written against the code that the supplier gave: none may be wrong, and
// more than a third of the damaged ones must come back.
func TestWhatComesBack(t *testing.T) {
	r := rand.New(rand.NewPCG(952, 7))
	truth := make(map[string]string)
	hb, ww, sm := hollowbrook.products(r, 120), wickAndWax.products(r, 200), saltmarsh.products(r, 300)
	for _, p := range slices.Concat(hb, ww, sm) {
		truth[p.sku] = p.code
	}
	for i, p := range hb {
		if i%4 == 1 {
			truth[p.sku] = restricted(i)
		}
	}
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	for _, test := range []struct {
		file              string
		restored, damaged int // barcodes
	}{
		{"saltmarsh-export.csv", 183, 232},
		{"hollowbrook-prices.csv", 36, 37},
		{"wick-and-wax.xlsx", 4, 12},
	} {
		path := filepath.Join(dir, test.file)
		result, err := repair.Run(context.Background(), repair.Options{
			Input: path, Target: repair.Target(path), Workers: 2, Temp: dir,
			Trust: []string{filepath.Join(dir, "stock-take.xlsx")},
		})
		require.NoError(t, err)
		f, err := os.Open(filepath.Join(result.Folder, "changes.jsonl"))
		require.NoError(t, err)
		defer f.Close()
		sku := skuByRow(t, path)
		restored := 0
		for lines := bufio.NewScanner(f); lines.Scan(); {
			var change struct {
				Row                  int
				Field, Before, After string
			}
			require.NoError(t, json.Unmarshal(lines.Bytes(), &change))
			if change.Field != "barcode" {
				continue
			}
			restored++
			assert.Equal(t, truth[sku[change.Row]], change.After, "%s row %d: %s", test.file, change.Row, change.Before)
		}
		t.Logf("%s: %d of %d damaged barcodes restored", test.file, restored, test.damaged)
		assert.GreaterOrEqual(t, restored, test.restored, test.file)
		assert.GreaterOrEqual(t, restored*3, test.damaged, test.file)
	}
}

// skuByRow reads the SKU of each row of a file.
func skuByRow(t *testing.T, path string) map[int]string {
	t.Helper()
	table, err := sheet.Open(path, sheet.Options{Spool: t.TempDir()})
	require.NoError(t, err)
	defer table.Close()
	col := table.Columns.First(catalogue.SKU)
	var skus map[int]string
	require.NoError(t, table.Each(func() { skus = make(map[int]string) }, func(r *catalogue.Row) {
		skus[r.Number] = strings.Clone(r.Cell(col))
	}))
	return skus
}

// TestOddsAndEnds holds what comes of the odds and ends against last year's list
// and says which of them stay open.
func TestOddsAndEnds(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	path := filepath.Join(dir, "odds-and-ends.csv")
	result, err := repair.Run(context.Background(), repair.Options{
		Input: path, Target: repair.Target(path), Workers: 2, Temp: dir, Trust: []string{filepath.Join(dir, "odds-last-year.csv")},
	})
	require.NoError(t, err)
	ready, err := os.ReadFile(filepath.Join(result.Folder, "ready.csv"))
	require.NoError(t, err)
	open := ""
	for _, o := range odds() {
		sku, code := cmp.Or(o.skuWas, o.sku), cmp.Or(o.codeWas, o.code)
		if !strings.Contains(string(ready), "\n"+sku+","+code+",") {
			open += " " + o.sku
		}
	}
	assert.Equal(t, " OD-013 OD-022 OD-024 OD-025 OD-026 OD-027 OD-031 OD-032", open)
}

// TestAutumnOffers: the rulebooks of the demo use every part that a rulebook can have, and
// the one of the offers makes of them what it says; what it makes, it leaves as it is.
func TestAutumnOffers(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	rules := ""
	for _, name := range demo.Names() {
		if content, err := demo.Read(name); err == nil && filepath.Ext(name) == ".toml" {
			rules += string(content)
		}
	}
	for _, s := range new(sections.Book).Sections() {
		for _, p := range s.Parts() {
			part := "[" + strings.Replace(p.Name, "field", "field.", 1)
			assert.Contains(t, rules, part, "the demo has no %s", p.Name)
		}
	}
	book, err := sections.Load(filepath.Join(dir, "hollowbrook-autumn.toml"))
	require.NoError(t, err)
	repaired := func(name string) (*repair.Result, string) {
		path := filepath.Join(dir, name)
		result, err := repair.Run(context.Background(), repair.Options{Input: path, Target: repair.Target(path), Workers: 2, Book: *book})
		require.NoError(t, err)
		ready, err := os.ReadFile(filepath.Join(result.Folder, "ready.csv"))
		require.NoError(t, err)
		return result, string(ready)
	}
	first, ready := repaired("hollowbrook-autumn.csv")
	assert.Equal(t, [3]int{10, 2, 3}, [3]int{first.Counts().Ready, first.Counts().Held, first.Counts().Aside})
	for _, line := range []string{
		"SKU;Title;Brand;Category;EAN;Wood;Price EUR;Finish;Length;Width;Height;Size;MPN;Language;Delivery;Description;Weight (kg);Image text\r\n",
		"\r\nHB0304;Crown board with clearer;Hollowbrook Joinery;Hives;9521101020045;Pine;17,25;raw;500;425;25;500 × 425 × 25;HB0304;en;;" +
			"<p>For the last week before the harvest.</p><p>All our wood is untreated.</p>;11.5;Hollowbrook Joinery Crown board with clearer, 500 × 425 × 25 mm\r\n",
		"\r\nHB0307;\"Frame jig \"\"Rapid\"\"",
		"\r\nHB0309;Honey press (oak);Brüder Zeidelmoos;Harvest;9521101020090;Oak;179,00;oiled;",
	} {
		assert.Contains(t, ready, line)
	}
	tour, err := os.ReadFile(filepath.Join("..", "..", "docs", "tour.md"))
	require.NoError(t, err)
	for _, block := range regexp.MustCompile("(?s)```toml\n(.*?)```").FindAllSubmatch(tour, -1) {
		for line := range strings.Lines(string(block[1])) {
			order, _, _ := strings.Cut(line, " #")
			assert.Contains(t, autumnRules, strings.TrimSpace(order), "the tour shows what the rulebook does not have")
		}
	}
	book.Columns.Expect = nil
	book.Rows = nil
	require.NoError(t, os.WriteFile(filepath.Join(dir, "again.csv"), []byte(ready), 0o666))
	_, again := repaired("again.csv")
	assert.Equal(t, ready, again)
}

// TestGarbled: of the list that was decoded wrongly all comes back that can, and what
// only looks so stays.
func TestGarbled(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	path := filepath.Join(dir, "wick-garbled.csv")
	result, err := repair.Run(context.Background(), repair.Options{Input: path, Target: repair.Target(path), Workers: 2})
	require.NoError(t, err)
	ready, err := os.ReadFile(filepath.Join(result.Folder, "ready.csv"))
	require.NoError(t, err)
	for _, title := range []string{
		"Crème brûlée scented candle,Maison Ôrmeau", "Beeswax pillar candle – 12 × 4 cm, 35 °C", "Tea lights, “pure”, £4.50",
		"Überwinterungskerze für große Völker,Brüder Zeidelmoos",
		"Überwinterungskerze für kleine Völker,Brüder Zeidelmoos", "Café au lait candle", "Rähmchenkerze, zwölf Stück",
		"Blütenhonigglas, 500 g", "Свеча из воска", "Łagodna świeca, żółta",
		"VELA DE MAÇÃ, PRODUÇÃO SÃO BRÁS", "Jar, ½ litre, Â grade, 5 £", "Nến sáp ong Việt Nam,Nørrebi",
		"Königliche Blütenkerze für Gäste", "Pasted in: große Rähmchenkerze", "Bürste für Kerzenwachs", "Bеeswax sheets, Tom & Ada",
	} {
		assert.Contains(t, string(ready), title)
	}
	found := make(map[string]int)
	for _, f := range result.Report.Found {
		if strings.HasPrefix(f.Code.String(), "text.") {
			found[f.Code.String()] = f.Cells
		}
	}
	assert.Equal(t, map[string]int{"text.misread": 2, "text.lost": 1, "text.ill-formed": 1, "text.look-alike": 1}, found)
}
