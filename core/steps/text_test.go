package steps

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// putInOrder runs the step of the texts alone, on titles, and returns what becomes of them
// and what was found.
func putInOrder(t *testing.T, rules text.Rules, yes bool, titles ...string) (out []string, found []string) {
	t.Helper()
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("SKU|Title\n"+"A|"+strings.Join(titles, "\nA|")+"\n"), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	var answers catalogue.Decisions
	if yes {
		answers = catalogue.Decisions{{Finding: catalogue.TextMisread, Column: "title"}, {Finding: catalogue.TextMixed}}
	}
	s := fitted(t, table, nil)
	s.Texts, s.Decisions = &Texts{Rules: rules, Encoding: table.Form.Encoding}, answers
	pipeline := &line.Pipeline{Grouping: s.Key.Grouping(), Steps: []line.Step{Text(s)}, Claims: Claims()}
	survey, err := line.Look(t.Context(), table, func() (*line.Pipeline, error) { return pipeline, nil },
		line.Options{Workers: 2, PartSize: 30})
	require.NoError(t, err)
	run := line.Run{Options: line.Options{Workers: 2}, Table: table, Pipeline: pipeline, Survey: survey}
	report, finish, err := run.Do(t.Context(), dir)
	require.NoError(t, err)
	_, err = finish()
	require.NoError(t, err)
	ready, err := os.ReadFile(filepath.Join(dir, "ready.csv"))
	require.NoError(t, err)
	for _, row := range strings.Split(strings.TrimSuffix(string(ready), "\n"), "\n")[1:] {
		out = append(out, strings.TrimPrefix(row, "A|"))
	}
	for _, f := range report.Found {
		found = append(found, f.Code.String())
	}
	return out, found
}

func TestText(t *testing.T) {
	for _, test := range []struct {
		name    string
		in, out string // titles, with / between them
		yes     bool
		found   string
	}{
		{"tidied", " a  b/x\u200by", "a b/xy", false, ""},
		{"mended and tidied", "KÃ¼che \u00a0 fÃ¼r", "Küche für", false, ""},
		{"entities, and what was in them", "A &amp; B/K&Atilde;&frac14;che", "A & B/Küche", false, ""},
		{"open, so nothing is tidied", "crÃ¨me Ã  la", "crÃ¨me Ã  la", false, "text.misread"},
		{"taken", "crÃ¨me Ã  la", "crème à la", true, ""},
		{"alone it is open", "Г© bom", "Г© bom", false, "text.misread"},
		{"the others say what it is", "Г© bom/KГ¶lsch/NГ¶rdlich/KГјche", "é bom/Kölsch/Nördlich/Küche", false, ""},
		{"the others do not agree", "Г© bom/KГ¶lsch/K├╝che/NГ¶rdlich/fÃ¼r", "Г© bom/Kölsch/Küche/Nördlich/für", false, "text.misread"},
		{"by its language", "FRANZĂ–SISCH", "FRANZÖSISCH", false, ""},
		{"lost", "B\ufffdrste", "B\ufffdrste", false, "text.lost"},
		{"a part of it", "Königs CafÃ©", "Königs Café", false, ""},
		{"accents by themselves", "Bu\u0308rste/uÌˆber", "Bürste/über", false, ""},
		{"soft hyphens", "Bie\u00adnen", "Bienen", false, ""},
		{"letters of another script", "Bееswax/kΩ", "Bееswax/kΩ", false, "text.look-alike"},
		{"meant as they look", "Bееswax/Хs", "Beeswax/Хs", true, "text.look-alike"},
		{"quotation marks and width stay", "“x” ５０", "“x” ５０", false, ""},
		{"pasted in", "Käse/Öl/Würze/K\xfcche – B\xe4der", "Käse/Öl/Würze/Küche – Bäder", false, "text.ill-formed"},
		{"honest", "MAÇÃ/½ Â ®/Việt", "MAÇÃ/½ Â ®/Việt", false, ""},
	} {
		out, found := putInOrder(t, text.Rules{}, test.yes, strings.Split(test.in, "/")...)
		assert.Equal(t, test.out, strings.Join(out, "/"), test.name)
		assert.Equal(t, test.found, strings.Join(found, " "), test.name)
	}
}

// TestTextRules: what is asked for becomes plain, and nothing else.
func TestTextRules(t *testing.T) {
	out, found := putInOrder(t, text.Rules{Quotes: "plain", Width: "plain"}, false, "“x” ’s", "５０＆ａｍｐ；　％", "巣箱５", "itâ€™s", "« x »",
		"B\u0308“")
	assert.Equal(t, []string{`"""x"" 's"`, "50& %", "巣箱５", "it's", "« x »", `"B̈"""`}, out)
	assert.Empty(t, found)
}

// FuzzTexts: whatever stands in a cell, putting it in order twice is doing it once.
func FuzzTexts(f *testing.F) {
	for _, s := range []string{"KÃ¼che  x", "&amp;amp;", "e\u0301 ＆ａｍｐ；", "“Ã©”", "\xfc Ã¼", "Ã\u00ad", "BÌ\u0088x"} {
		f.Add(s, uint8(3))
	}
	f.Fuzz(func(t *testing.T, s string, how uint8) {
		texts := &Texts{Encoding: sheet.Encoding{Foreign: charset.Windows1252}}
		if how&1 > 0 {
			texts.Rules.Quotes = "plain"
		}
		if how&2 > 0 {
			texts.Rules.Width, texts.Rules.Formulas = "plain", "quote"
		}
		for _, kind := range []catalogue.Kind{catalogue.LineKind, catalogue.HTMLKind, catalogue.AnyKind, catalogue.CodeKind,
			catalogue.LinkKind} {
			once, likely, _ := texts.order(s, kind, "", how&4 > 0)
			twice, again, did := texts.order(once, kind, "", how&4 > 0)
			assert.Equal(t, once, twice)
			assert.Equal(t, likely, again)
			assert.Empty(t, did)
			may := false
			texts.mayBecome(s, kind, func(text string) { may = may || text == once })
			assert.True(t, may, "%q may become %q", s, once)
		}
	})
}

// TestMisreadAggregate: what the survey learns of misread texts does not depend on how the
// rows were cut and merged.
func TestMisreadAggregate(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 5))
	var products []*catalogue.Product
	for range 200 {
		var texts []string
		for _, misread := range charset.Misread([]string{"Küche", "größer", "plain", "élève"}[r.IntN(4)]) {
			texts = append(texts, misread)
		}
		products = append(products, &catalogue.Product{Rows: []*catalogue.Row{{Cells: []string{texts[r.IntN(len(texts))], "KÃ¼che"}}}})
	}
	learn := func(list []*catalogue.Product) *misreadAggregate {
		l := &misreadAggregate{learns: []int{0}, counts: make(map[string]int)}
		for _, p := range list {
			l.Learn(p)
		}
		return l
	}
	want, err := learn(products).AppendBinary(nil)
	require.NoError(t, err)
	for range 20 {
		a, b := r.IntN(100), 100+r.IntN(100)
		x, y, z := learn(products[:a]), learn(products[a:b]), learn(products[b:])
		if r.IntN(2) == 0 {
			y.Merge(z)
			x.Merge(y)
		} else {
			x.Merge(y)
			x.Merge(z)
		}
		got, err := x.AppendBinary(nil)
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	assert.Empty(t, learn(products).as(), "they do not agree")
}

// BenchmarkText runs the line over a list in which nothing needs doing, without the step
// of the texts and with it.
func BenchmarkText(b *testing.B) {
	for name, title := range map[string]string{"ASCII": "Beech smoker box with lid, no. %d",
		"German": "Räucherkasten aus Buche, größer, Nr. %d", "Russian": "Дымарь из бука с крышкой, № %d"} {
		var list strings.Builder
		list.WriteString("SKU,EAN,Title,Brand,Description\n")
		for i := range 40_000 {
			code, err := barcode.Complete(fmt.Sprintf("9521%08d", i))
			require.NoError(b, err)
			text := fmt.Sprintf(title, i)
			fmt.Fprintf(&list, "LRA-%d,%s,%q,Hollowbrook Joinery,%q\n", i, code, text, strings.Repeat(text+". ", 6)+"end")
		}
		path := filepath.Join(b.TempDir(), "list.csv")
		require.NoError(b, os.WriteFile(path, []byte(list.String()), 0o666))
		for _, with := range []bool{false, true} {
			b.Run(fmt.Sprintf("%s/with=%v", name, with), func(b *testing.B) {
				b.SetBytes(int64(list.Len()))
				for b.Loop() {
					table, err := sheet.Open(path, sheet.Options{})
					require.NoError(b, err)
					s := fitted(b, table, nil)
					pipeline := &line.Pipeline{Grouping: s.Key.Grouping(), Prepare: table.Rejoin(), Claims: Claims(),
						Lists: []line.List{{Name: "lost.csv"}},
						Steps: []line.Step{Shape(s, false), SKUs(s), Barcodes(s, table.Columns.First(catalogue.Barcode))}}
					if with {
						pipeline.Steps = slices.Insert(pipeline.Steps, 1, Text(s))
					}
					survey, err := line.Look(b.Context(), table, func() (*line.Pipeline, error) { return pipeline, nil },
						line.Options{Workers: 1})
					require.NoError(b, err)
					run := line.Run{Options: line.Options{Workers: 1}, Table: table, Pipeline: pipeline, Survey: survey}
					report, _, err := run.Do(b.Context(), "")
					require.NoError(b, err)
					require.Equal(b, 40_000, report.Ready)
					require.NoError(b, table.Close())
				}
			})
		}
	}
}
