package repair

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/line"
)

// TestLanguagesInRows: where each product has a row in each language, these may have one SKU and one barcode, and only these; a product without
// a row in a language is held, and so is a row that lacks the field; languages that are not asked for may be empty.
func TestLanguagesInRows(t *testing.T) {
	t.Parallel()
	for seed := range uint64(some(30)) {
		r := rand.New(rand.NewPCG(seed, 152))
		names := map[string][]string{"en": {"en", "EN", "en-GB", "English"}, "de": {"de", "DE", "de_AT", "Deutsch"}, "fr": {"fr", "French", "français"}}
		codes := slices.Sorted(maps.Keys(names))
		name := map[string]string{} // the same in all rows
		for _, code := range codes {
			name[code] = names[code][r.IntN(len(names[code]))]
		}
		var rows []string
		held := make(map[string]bool)
		for n := range 30 {
			sku, code := fmt.Sprintf("LH-%d", n), mustComplete(t, 952123400000+uint64(n))
			faulty := r.IntN(4) == 0
			for _, lang := range codes {
				title := "Lamp " + lang
				if faulty && n%3 == 2 { // the barcode of the first one
					code = mustComplete(t, 952123400000)
					held[sku+","+name[lang]], held["LH-0,"+name[lang]] = true, true
				}
				switch {
				case lang == "fr" && r.IntN(2) == 0:
					title = ""
				case faulty && lang == "de" && n%3 == 0: // no row: the other language is held
					held[sku+","+name["en"]], held[sku+","+name["fr"]] = true, true
					continue
				case faulty && lang == "de" && n%3 == 1:
					title = ""
					held[sku+","+name[lang]] = true
				}
				rows = append(rows, sku+","+name[lang]+","+title+","+code)
			}
		}
		if seed%2 == 0 { // all of one language below those of another
			slices.SortStableFunc(rows, func(a, b string) int { return strings.Compare(strings.Split(a, ",")[1], strings.Split(b, ",")[1]) })
		}
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", "SKU,Language,Title,EAN\n"+strings.Join(rows, "\n")+"\n"), filepath.Join(dir, "out"))
		opt.Book = bookIn(t, dir, "[title]\nlanguages = [\"en\", \"de\"]\n", nil)
		once := run(t, opt)
		var want []string
		for _, row := range rows {
			cells := strings.Split(row, ",")
			if !held[cells[0]+","+cells[1]] {
				want = append(want, row)
			}
		}
		assert.Equal(t, strings.Join(want, "\n")+"\n", below(t, once), "seed %d", seed)
		opt.Input, opt.Target = filepath.Join(opt.Target, line.FileNames[0]), filepath.Join(dir, "twice")
		assert.Equal(t, below(t, once), below(t, run(t, opt)), "seed %d: twice", seed)
	}
}

// TestLanguagesOfVariants: rows of variants are in the language of the lead row above them, however it is written, and a product in another language begins where that
// is named, although it has the same slug.
func TestLanguagesOfVariants(t *testing.T) {
	t.Parallel()
	const text = `Slug,Language,Title,SKU,Option1 name,Option1 value,EAN
lamp,en,Desk lamp,L-1,Colour,Red,9521234000013
lamp,,,L-2,,Blue,9521234000020
lamp,de,Tischlampe,L-1,Farbe,Rot,9521234000013
lamp,DE,,L-2,,Blau,9521234000020
bulb,en,Bulb,B-1,Colour,Clear,9521234000037
bulb,,,B-2,,White,9521234000037
bulb,de,Birne,B-1,Farbe,Klar,9521234000037
`
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", text), filepath.Join(dir, "out"))
	opt.Book = bookIn(t, dir, "[title]\nlanguages = [\"en\", \"de\"]\n", nil)
	lines := strings.SplitAfter(text, "\n")
	assert.Equal(t, strings.Join(lines[1:5], "")+lines[7], below(t, run(t, opt)), "two variants of the bulb have one barcode")
}
