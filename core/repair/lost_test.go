package repair

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
)

// TestLostTexts: a text of which characters are lost comes back from a trusted sheet, or
// from our own earlier output, if that has for the SKU what it can have been.
func TestLostTexts(t *testing.T) {
	dir := t.TempDir()
	const head = "SKU,EAN,Title,Description,Finish\n"
	list := write(t, dir, "list.csv", head+"A,9521234000013,B\ufffdrste  rot,<p>f\ufffd\ufffdr</p>,ge\ufffdlt\nB,9521234000020,B\ufffdrste,x,\ufffd\nC,9521234000037,B\ufffdrste,x,x\n,,B\ufffdrste,x,x\n")
	trusted := write(t, dir, "older.csv", "SKU;EAN;Title;Finish;Description\nA;9521234000013;BÃ¼rste rot;geölt;<p>für</p>\nB;9521234000020;Borste;ä;x\nC;9521234000037;Bürste;x;x\nC;9521234000037;Börste;x;x\n")
	lend := write(t, dir, "lend.xlsx.csv", "SKU,Title\nB,Bärste\n")
	require.NotEmpty(t, lend)
	semicolons := write(t, dir, "semicolons.csv", "SKU;EAN;Title\nA;9521234000013;B\ufffdrste  rot\n")
	r, err := Run(t.Context(), Options{Input: semicolons, Workers: 1, Trust: []string{trusted}, Temp: dir})
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(r.Report.Repaired, func(c line.RepairCount) bool {
		return c.Rule == catalogue.RuleTextBacked &&
			c.Cells == 1
	}))
	for _, test := range []struct {
		trust, rules string
		want         string
		lost         int
	}{
		{"", "", "B\ufffdrste rot,<p>f\ufffd\ufffdr</p>,ge\ufffdlt|B\ufffdrste,x,\ufffd|B\ufffdrste,x,x|B\ufffdrste,x,x", 7},
		{trusted, "", "Bürste rot,<p>für</p>,geölt|B\ufffdrste,x,ä|B\ufffdrste,x,x|B\ufffdrste,x,x", 3},
		{"", "[[borrow]]\nfrom = \"lend.xlsx.csv\"\nby = \"sku\"\ntake = [\"title\"]\n",
			"B\ufffdrste rot,<p>f\ufffd\ufffdr</p>,ge\ufffdlt|Bärste,x,\ufffd|B\ufffdrste,x,x|B\ufffdrste,x,x", 6},
		{trusted, "[field.title]\nunique = true\n", "", 3},
	} {
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err)
		opt := Options{Input: list, Target: Target(list), Workers: 2, PartSize: 40, Book: *book, Temp: dir}
		if test.trust != "" {
			opt.Trust = []string{test.trust}
		}
		result, err := Run(t.Context(), opt)
		require.NoError(t, err)
		if test.want != "" {
			raw, err := os.ReadFile(filepath.Join(result.Folder, "ready.csv"))
			require.NoError(t, err)
			var titles []string
			for _, row := range strings.Split(strings.TrimSpace(string(raw)), "\n")[1:] {
				titles = append(titles, strings.SplitN(row, ",", 3)[2])
			}
			assert.Equal(t, test.want, strings.Join(titles, "|"))
		}
		lost := 0
		for _, f := range result.Report.Found {
			if f.Code.String() == "text.lost" {
				lost += f.Cells
			}
		}
		assert.Equal(t, test.lost, lost, test.rules)
	}
}

// TestReasonsReadable: a reason can be read whatever the encoding of the headings that it names.
func TestReasonsReadable(t *testing.T) {
	dir := t.TempDir()
	list := "SKU|EAN|Title|Ref\n" + strings.Repeat("A|9521234000013|K\xc3\xbcche|1\n", 20) + "\n\nSKU|EAN|Title|R\xe9f\xe9rence\nB|9521234000020|x|2\n"
	r := run(t, fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out")))
	held := contents(t, r.Folder)["held.csv"]
	assert.Contains(t, held, "another table begins")
	assert.True(t, utf8.ValidString(held), held)
}
