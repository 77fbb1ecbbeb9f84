package repair

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/internal/brief"
)

// TestDescriptions: descriptions become what the rulebook says; what it says nothing of stays, byte for byte.
func TestDescriptions(t *testing.T) {
	const soup = `SKU,Title,Description,Image` + "\n" + `A,x,"<p class=""MsoNormal""><b>Oak</b>, oiled.<o:p></o:p></p><p>&nbsp;</p><script>go()</script><p>• legs</p><p>• a top</p>",https://img.halvora.example/1.jpg` + "\n" +
		`B,y,"<p>Beech. <a href=""https://www.linden-row.example/care"">Care</a> <a href=""https://www.anderswo.example"">Cheaper</a><img src=""https://cdn.halvora.example/2.jpg""></p>",https://img.halvora.example/2.jpg` + "\n"
	for _, test := range []struct{ name, source, book, want, found string }{
		{"nothing is ordered", soup, "", soup, "description.unsafe 1, description.untidy 1"},
		{"prices only", soup + "C,z,\"<P>Elm\r\n<BR>\",\n", "[[replace]]\nin = [\"title\"]\nfind = \"z\"\nwith = \"w\"\n", soup + "C,w,\"<P>Elm\r\n<BR>\",\n", "description.unsafe 1, description.broken 1, description.untidy 2"},
		{"safe and tidy", soup, "[description]\nclean = true\n", "SKU,Title,Description,Image\nA,x,\"<p><strong>Oak</strong>, oiled.</p><ul><li>legs</li><li>a top</li></ul>\",https://img.halvora.example/1.jpg\n" +
			"B,y,\"<p>Beech. <a href=\"\"https://www.linden-row.example/care\"\">Care</a> <a href=\"\"https://www.anderswo.example\"\">Cheaper</a><img src=\"\"https://cdn.halvora.example/2.jpg\"\"></p>\",https://img.halvora.example/2.jpg\n", ""},
		{"links and pictures", soup, "[shop]\nhosts = [\"www.linden-row.example\"]\n[description]\nclean = true\nlinks = \"same-shop\"\nimages = \"to-images\"\nlayout = \"one-line\"\n",
			"SKU,Title,Description,Image\nA,x,\"<p><strong>Oak</strong>, oiled.</p><ul><li>legs</li><li>a top</li></ul>\",https://img.halvora.example/1.jpg\nB,y,\"<p>Beech. <a href=\"\"https://www.linden-row.example/care\"\">Care</a> Cheaper</p>\",\"https://img.halvora.example/2.jpg,https://cdn.halvora.example/2.jpg\"\n", ""},
		{"as text", soup, "[description]\nwrite_as = \"text\"\n", "SKU,Title,Description,Image\nA,x,\"Oak, oiled.\n\n- legs\n- a top\",https://img.halvora.example/1.jpg\nB,y,Beech. Care Cheaper,https://img.halvora.example/2.jpg\n", ""},
		{"a short one from the long one", "SKU,Title,Description,Short description\nA,x,<h2>Stand</h2><p>Made of oak. Oiled twice by hand.</p>,\nB,y,<p>Hat.</p>,Own words\n", "[short_description]\nfrom = \"description\"\nlongest = 20\n",
			"SKU,Title,Description,Short description\nA,x,<h2>Stand</h2><p>Made of oak. Oiled twice by hand.</p>,Made of oak.\nB,y,<p>Hat.</p>,Own words\n", ""},
		{"and in HTML, in a column that was not there", "SKU,Title,Description\nA,x,<p>Oak & elm. Oiled.</p>\n", "[short_description]\nfrom = \"description\"\nlongest = 24\nclean = true\n",
			"SKU,Title,Description,Short description\nA,x,<p>Oak & elm. Oiled.</p>,<p>Oak &amp; elm.</p>\n", "description.untidy 1"},
		{"cut, or held", "SKU,Title,Description\nA,x,<p>Oak.</p><ul><li>legs</li><li>top</li></ul>\nB,y,<p>A paragraph that is too long in itself</p>\n", "[description]\nclean = true\nlongest = 40\ncut = true\n",
			"SKU,Title,Description\nA,x,<p>Oak.</p><ul><li>legs</li></ul>\n", "value.long 1"},
		{"words in it", "SKU,Title,Description\nA,x,<P>The best st. steel\nB,y,Plain st. steel & more\n", "[[replace]]\nin = [\"description\"]\nfind = \"st. steel\"\nwith = \"steel\"\n[[closing]]\nin = [\"description\"]\ntext = \"Ask us.\"\n[description]\nclean = true\n",
			"SKU,Title,Description\nA,x,\"<p>The best steel</p>\n<p>Ask us.</p>\"\nB,y,\"<p>Plain steel &amp; more</p>\n<p>Ask us.</p>\"\n", ""},
		{"a field of the shop's own", "SKU,Title,Care\nA,x,<B>Dry\n", "[field.Care]\ntype = \"html\"\nclean = true\nkeep = [\"b\"]\n", "SKU,Title,Care\nA,x,<p><b>Dry</b></p>\n", ""},
		{"escaped, as the column is", "SKU,Title,Description\nA,x,&lt;p&gt;Oak&lt;/p&gt;\nB,y,&lt;p&gt;Elm &amp;lt; beech&lt;/p&gt;\nC,z,Ash\n", "[description]\nclean = true\n",
			"SKU,Title,Description\nA,x,<p>Oak</p>\nB,y,<p>Elm &lt; beech</p>\nC,z,<p>Ash</p>\n", ""},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", test.source)
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, test.book, nil)
		r := run(t, opt)
		assert.Equal(t, plainRows(t, test.want), plainRows(t, ready(t, r)), test.name)
		if test.book == "" || test.name == "prices only" {
			assert.Equal(t, test.want, ready(t, r), test.name)
		}
		var found []string
		for _, f := range r.Report.Found {
			found = append(found, fmt.Sprint(f.Code, " ", f.Cells))
		}
		assert.Equal(t, test.found, strings.Join(found, ", "), test.name)
	}
}

func plainRows(t *testing.T, text string) [][]string {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err, text)
	return rows
}

// markupCells are descriptions of the test data of the room.
func markupCells(t *testing.T) (cells []string) {
	for _, name := range []string{"descriptions.jsonl", "descriptions-right.jsonl"} {
		content, err := os.ReadFile("../markup/testdata/" + name)
		require.NoError(t, err)
		for line := range strings.Lines(string(content)) {
			var r struct{ In string }
			require.NoError(t, json.Unmarshal([]byte(line), &r))
			cells = append(cells, r.In)
		}
	}
	return cells
}

// TestDescriptionsTwice: whatever is ordered of descriptions, the second run finds nothing to do, also when rows were taken out in
// between; and the number of workers does not matter.
func TestDescriptionsTwice(t *testing.T) {
	t.Parallel()
	cells := markupCells(t)
	orders := []string{
		"[description]\nclean = true\n", "[description]\nclean = true\nlinks = \"text\"\nimages = \"to-images\"\nheadings_from = 3\nlayout = \"lines\"\n",
		"[description]\nclean = true\nbold_headings = true\ntext_headings = true\nnamed_lines = \"table\"\nlink_addresses = true\nmarkdown = true\n",
		"[description]\nclean = true\nlongest = 400\ncut = true\nimages = \"drop\"\n[images]\nas = \"rows\"\nnumber = true\n", "[description]\nwrite_as = \"text\"\n",
		"[short_description]\nfrom = \"description\"\nlongest = 80\nclean = true\n", "[short_description]\nfrom = \"description\"\nlongest = 60\nend = \"word\"\n[description]\nclean = true\n",
		"[[replace]]\nin = [\"description\"]\nfind = \"Eiche\"\nwith = \"Oak & <b>ash</b>\"\n[[closing]]\nin = [\"description\"]\ntext = \"<p>Ask <em>us</em>.</p>\"\n[description]\nclean = true\nimages = \"to-images\"\n",
		"[field.description]\nclean = true\nwhere = { title = { contains = \"3\" } }\n",
	}
	files := brief.Of(14, 11)
	changed := 0
	for seed := range files {
		r := rand.New(rand.NewPCG(uint64(seed), 20))
		var source strings.Builder
		w := csv.NewWriter(&source)
		require.NoError(t, w.Write([]string{"SKU", "Title", "Description", "Short description", "Image", "Note"}))
		from := r.IntN(len(cells))
		for i := range 30 + r.IntN(40) {
			cell := cells[(from+r.IntN(40))%len(cells)]
			if r.IntN(5) == 0 {
				other := cells[r.IntN(len(cells))]
				cell += other[:r.IntN(len(other)+1)]
			}
			require.NoError(t, w.Write([]string{fmt.Sprintf("D%d", i), fmt.Sprintf("Product %d", i), strings.ToValidUTF8(cell, ""), "", fmt.Sprintf("%d.jpg", i), cell[:min(len(cell), 9)]}))
		}
		w.Flush()
		dir := t.TempDir()
		path := write(t, dir, "list.csv", source.String())
		opt := fixed(path, Target(path))
		opt.Book, opt.PartSize = bookIn(t, dir, orders[seed%len(orders)], nil), 2000
		first := run(t, opt)
		changed += first.Counts().Changed
		other := opt
		other.Workers, other.PartSize, other.Target = 3, 1<<20, filepath.Join(dir, "other")
		require.Equal(t, ready(t, first), ready(t, run(t, other)), seed)
		again := opt
		again.Input, again.Target = filepath.Join(first.Folder, "ready.csv"), filepath.Join(dir, "again")
		second := run(t, again)
		require.Equal(t, ready(t, first), ready(t, second), "%d %s\n%s", seed, orders[seed%len(orders)], differing(ready(t, first), ready(t, second)))

		var fewer strings.Builder
		w = csv.NewWriter(&fewer)
		for i, row := range plainRows(t, ready(t, first)) {
			if i == 0 || r.IntN(2) == 0 {
				require.NoError(t, w.Write(row))
			}
		}
		w.Flush()
		again.Input, again.Target = write(t, dir, "fewer.csv", fewer.String()), filepath.Join(dir, "fewer")
		third := run(t, again)
		require.Equal(t, plainRows(t, fewer.String()), plainRows(t, ready(t, third)), "%d %s\n%s", seed, orders[seed%len(orders)], differing(fewer.String(), ready(t, third)))
	}
	assert.Greater(t, changed, 500)
}
