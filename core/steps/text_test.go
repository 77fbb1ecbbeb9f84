package steps

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// mend runs the step of the texts alone, on titles, and returns what becomes of them
// and what was found.
func mend(t *testing.T, yes bool, titles ...string) (out []string, found []string) {
	t.Helper()
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("SKU|Title\n"+"A|"+strings.Join(titles, "\nA|")+"\n"), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	var answers []catalogue.Answer
	if yes {
		answers = []catalogue.Answer{{Finding: catalogue.TextMisread, Column: "title"}}
	}
	course := &line.Course{Grouping: Grouping(&table.Columns), Steps: []line.Step{Text(table, answers)}, Claims: Claims()}
	survey, err := line.Look(t.Context(), table, func() (*line.Course, error) { return course, nil }, line.Options{Workers: 2, PartSize: 30})
	require.NoError(t, err)
	run := line.Run{Options: line.Options{Workers: 2}, Table: table, Course: course, Survey: survey}
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
		{"alone it is open", "FRANZĂ–SISCH", "FRANZĂ–SISCH", false, "text.misread"},
		{"the others say what it is", "FRANZĂ–SISCH/KĂ¶lsch/NĂ¶rdlich/fĂĽr", "FRANZÖSISCH/Kölsch/Nördlich/für", false, ""},
		{"the others do not agree", "FRANZĂ–SISCH/KĂ¶lsch/K├╝che/fĂĽr/fÃ¼r", "FRANZĂ–SISCH/Kölsch/Küche/für/für", false, "text.misread"},
		{"lost", "B\ufffdrste", "B\ufffdrste", false, "text.lost"},
		{"honest", "MAÇÃ/½ Â ®/Việt", "MAÇÃ/½ Â ®/Việt", false, ""},
	} {
		out, found := mend(t, test.yes, strings.Split(test.in, "/")...)
		assert.Equal(t, test.out, strings.Join(out, "/"), test.name)
		assert.Equal(t, test.found, strings.Join(found, " "), test.name)
	}
}

// TestMisreadLore: what the survey learns of misread texts does not depend on how the
// rows were cut and merged.
func TestMisreadLore(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 5))
	columns := []tidyColumn{{mended: true}, {}}
	var products []*catalogue.Product
	for range 200 {
		var texts []string
		for _, text := range charset.Misread([]string{"Küche", "größer", "plain", "élève"}[r.IntN(4)]) {
			texts = append(texts, text)
		}
		products = append(products, &catalogue.Product{Rows: []*catalogue.Row{{Cells: []string{texts[r.IntN(len(texts))], "KÃ¼che"}}}})
	}
	learn := func(list []*catalogue.Product) *misreadLore {
		l := &misreadLore{columns: columns, counts: make(map[string]int)}
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
