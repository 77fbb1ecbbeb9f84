package markup

import (
	"encoding/json"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// A setRow is a description with what a careful editor makes of it. Its options are called otherwise than ours.
type setRow struct {
	ID, Kind, In, Out, Note          string
	Neighbours, Alternatives, Images []string

	Options struct {
		Keep, Styles, Shop []string
		Links, Images, Rel string
		HeadingsFrom       int    `json:"headings_from"`
		BoldHeadings       bool   `json:"bold_headings"`
		TextHeadings       bool   `json:"text_headings"`
		SpecLines          string `json:"spec_lines"`
		Autolink, Markdown bool
	}
}

func (r *setRow) rules(layout Layout) *Rules {
	o := &r.Options
	return &Rules{Clean: true, Keep: o.Keep, Styles: o.Styles, Links: o.Links, Images: o.Images, Rel: o.Rel, HeadingsFrom: o.HeadingsFrom,
		BoldHeadings: o.BoldHeadings, TextHeadings: o.TextHeadings, NamedLines: o.SpecLines, LinkAddresses: o.Autolink, Markdown: o.Markdown,
		Layout: layout}
}

func setRows(t *testing.T, name string) (rows []setRow) {
	all, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	for line := range strings.Lines(string(all)) {
		var r setRow
		require.NoError(t, json.Unmarshal([]byte(line), &r))
		rows = append(rows, r)
	}
	return rows
}

// TestDescriptions: descriptions become what a careful editor makes of them, in every layout, and stay so.
func TestDescriptions(t *testing.T) {
	right, rows := 0, setRows(t, "descriptions.jsonl")
	for _, r := range rows {
		column := Column{}
		for _, cell := range append(r.Neighbours, r.In) {
			column.Add(cell)
		}
		shown := column.Shown()
		good := true
		for _, layout := range Layouts {
			c := r.rules(layout).NewCleaner(r.Options.Shop)
			got, err := c.Clean(r.In, &shown)
			require.NoError(t, err, r.ID)
			images := slices.Clone(c.Images())
			again, err := c.Clean(got, &shown)
			require.NoError(t, err, r.ID)
			assert.Equal(t, got, again, r.ID)
			if !slices.ContainsFunc(append(r.Alternatives, r.Out), func(want string) bool { return canonical(t, got) == canonical(t, want) }) ||
				r.Images != nil && !slices.Equal(r.Images, images) {
				t.Logf("%s %s %s\n   in %q\n want %s\n  got %s %v", r.ID, r.Kind, r.Note, r.In, r.Out, got, images)
				good = false
				break
			}
		}
		if good {
			right++
		}
	}
	t.Logf("%d of %d descriptions are what an editor makes of them", right, len(rows))
	assert.Equal(t, len(rows), right)
}

// TestCleanStays: descriptions that are in order stay as they are, byte for byte.
func TestCleanStays(t *testing.T) {
	rows := setRows(t, "descriptions-right.jsonl")
	for _, r := range rows {
		c := r.rules(OneLine).NewCleaner(nil)
		got, err := c.Clean(r.In, &Shown{HTML: true})
		require.NoError(t, err)
		assert.Equal(t, r.In, got, r.ID)
		for _, layout := range []Layout{Blocks, Lines} {
			c := r.rules(layout).NewCleaner(nil)
			once, err := c.Clean(r.In, &Shown{HTML: true})
			require.NoError(t, err)
			twice, err := c.Clean(once, &Shown{HTML: true})
			require.NoError(t, err)
			assert.Equal(t, once, twice, r.ID)
			assert.Equal(t, r.In, strings.ReplaceAll(once, "\n", ""), r.ID)
		}
	}
	t.Logf("%d descriptions that are in order stay", len(rows))
}

// TestToText: HTML as plain text, and the beginning of it. How items and cells are marked is a matter of taste.
func TestToText(t *testing.T) {
	all, err := os.ReadFile("testdata/html-to-text.tsv")
	require.NoError(t, err)
	unescape := strings.NewReplacer(`\t`, "\t", `\n`, "\n", `\r`, "\r", `\\`, `\`)
	right, rows := 0, strings.Split(strings.TrimSpace(string(all)), "\n")[1:]
	for _, line := range rows {
		f := strings.Split(line, "\t")
		var o struct {
			Max int
			End string
		}
		var also []string
		require.NoError(t, json.Unmarshal([]byte(f[2]), &o))
		if f[6] != "" {
			require.NoError(t, json.Unmarshal([]byte(f[6]), &also))
		}
		c := (&Rules{WriteAs: PlainText, End: o.End}).NewCleaner(nil)
		in, want := unescape.Replace(f[1]), append(also, unescape.Replace(f[3]))
		var got string
		if o.Max > 0 {
			got, err = c.Beginning(in, &Shown{}, func(s string) bool { return utf8.RuneCountInString(s) <= o.Max })
			assert.LessOrEqual(t, utf8.RuneCountInString(got), o.Max)
		} else {
			got, err = c.Text(in, &Shown{})
		}
		require.NoError(t, err)
		if slices.ContainsFunc(want, func(w string) bool {
			return plainly(got) == plainly(w) || o.Max > 0 && strings.TrimRight(got, "… ,.:") == strings.TrimRight(w, "… ,.:")
		}) {
			right++
		} else {
			t.Errorf("%s\n want %q\n  got %q", f[0], want, got)
		}
	}
	t.Logf("%d of %d texts", right, len(rows))
}

// plainly returns a text without empty lines and spaces at the ends of lines.
func plainly(s string) string {
	var lines []string
	for line := range strings.SplitSeq(s, "\n") {
		if line = strings.TrimSpace(line); line != "" {
			lines = append(lines, line)
		}
	}
	return strings.Join(lines, "\n")
}

var aroundBlocks = regexp.MustCompile(`\s*(</?(?:p|ul|ol|li|table|tr|td|th|caption|blockquote|h[1-6]|br|hr|div)\b[^>]*>)\s*`)

// canonical returns HTML as a parser reads it, without spaces that nobody sees.
func canonical(t *testing.T, s string) string {
	nodes, err := html.ParseFragment(strings.NewReader(s), &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body})
	require.NoError(t, err)
	var b strings.Builder
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		if n.Type == html.TextNode {
			text := strings.Join(strings.Fields(" "+strings.ReplaceAll(n.Data, "\u00a0", " ")+" "), " ")
			if strings.TrimLeft(n.Data, " \n") != n.Data {
				text = " " + text
			}
			if strings.TrimRight(n.Data, " \n") != n.Data {
				text += " "
			}
			b.WriteString(html.EscapeString(text))
			return
		}
		if n.Data == "thead" || n.Data == "tbody" {
			for k := n.FirstChild; k != nil; k = k.NextSibling {
				walk(k)
			}
			return
		}
		b.WriteString("<" + n.Data)
		for _, a := range n.Attr {
			b.WriteString(" " + a.Key + "=" + strings.ReplaceAll(strings.ReplaceAll(a.Val, " ", ""), ";", ""))
		}
		b.WriteString(">")
		for k := n.FirstChild; k != nil; k = k.NextSibling {
			walk(k)
		}
		b.WriteString("</" + n.Data + ">")
	}
	for _, n := range nodes {
		walk(n)
	}
	out := aroundBlocks.ReplaceAllString(b.String(), "$1")
	return strings.TrimSpace(out)
}
