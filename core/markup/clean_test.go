package markup

import (
	"errors"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	"math/rand/v2"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/require"

	"zetanum/internal/brief"
)

// TestTwice: what is written is written the same again, whatever it was and whatever the rules are.
func TestTwice(t *testing.T) {
	rounds := brief.Of(5000, 700)
	for seed := range rounds {
		r := rand.New(rand.NewPCG(uint64(seed), 1))
		rules, shown := soupRules(r)
		c := rules.NewCleaner([]string{"www.halvora.example"})
		in := soup(r, 4+seed%40)
		once, err := c.Clean(in, shown)
		require.NoError(t, err)
		twice, err := c.Clean(once, shown)
		require.NoError(t, err)
		require.Equal(t, once, twice, "seed %d: %q with %+v %+v", seed, in, *rules, *shown)
	}
}

// TestNothingLost: the words that a browser shows are those of what is written, in their order. Marks of lists are none.
func TestNothingLost(t *testing.T) {
	rounds := brief.Of(5000, 700)
	for seed := range rounds {
		r := rand.New(rand.NewPCG(uint64(seed), 2))
		rules, shown := soupRules(r)
		rules.Links, rules.Markdown, shown.Twice, shown.Escaped = "", false, false, false
		in := soup(r, 4+seed%40)
		after, err := rules.NewCleaner(nil).Clean(in, shown)
		require.NoError(t, err)
		want := lettersOf(Unescape(in))
		if shown.FormOf(in, false) == FormHTML {
			want = lettersOf(shownIn(t, in))
		}
		require.Equal(t, want, lettersOf(shownIn(t, after)), "seed %d: %q with %+v %+v\n%s", seed, in, *rules, *shown, after)
	}
}

// lettersOf returns the letters of each word.
func lettersOf(s string) string {
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		switch {
		case unicode.IsLetter(r):
			return r
		case unicode.IsSpace(r):
			return ' '
		}
		return -1
	}, s)), " ")
}

// shownIn returns the text that a browser shows of HTML, with spaces between blocks.
func shownIn(t *testing.T, s string) string {
	nodes, err := html.ParseFragment(strings.NewReader(s), &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body})
	require.NoError(t, err)
	var b strings.Builder
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		c := unknown
		if e := elements[n.Data]; e != nil && n.Type == html.ElementNode {
			c = e.class
		}
		for _, a := range n.Attr {
			if a.Key == "hidden" || a.Key == "style" && (strings.Contains(a.Val, "display:none") || strings.Contains(a.Val, "mso-list:Ignore")) {
				return
			}
		}
		if c == dropped || n.Namespace != "" {
			return
		}
		if n.Type == html.TextNode {
			b.WriteString(n.Data)
		}
		blocks := c != unknown && c != inline && c != vanished && c != picture
		if blocks {
			b.WriteByte(' ')
		}
		for k := n.FirstChild; k != nil; k = k.NextSibling {
			walk(k)
		}
		if blocks {
			b.WriteByte(' ')
		}
	}
	for _, n := range nodes {
		walk(n)
	}
	return b.String()
}

// TestTextTwice: what is written as text is written the same again, and has the words that a browser shows.
func TestTextTwice(t *testing.T) {
	rounds := brief.Of(4000, 700)
	for seed := range rounds {
		r := rand.New(rand.NewPCG(uint64(seed), 3))
		rules, shown := soupRules(r)
		rules.WriteAs, rules.Links, rules.Markdown, shown.Twice, shown.Escaped = PlainText, "", false, false, false
		in := soup(r, 4+seed%40)
		c := rules.NewCleaner(nil)
		once, err := c.Text(in, shown)
		if errors.Is(err, ErrUnclear) {
			continue
		}
		require.NoError(t, err)
		twice, err := c.Text(once, shown)
		require.NoError(t, err)
		require.Equal(t, once, twice, "seed %d: %q with %+v %+v", seed, in, *rules, *shown)
		if shown.FormOf(in, false) == FormHTML {
			require.Equal(t, lettersOf(shownIn(t, in)), lettersOf(once), "seed %d: %q", seed, in)
		}
	}
}

func TestCut(t *testing.T) {
	const in = "<h2>Stand</h2><p>Oak, oiled.</p><p>It has:</p><ul><li>legs</li><li>a top</li></ul><h3>Care</h3><p>Oil it.</p>"
	for most, want := range map[int]string{
		200:         in,
		len(in) - 1: "<h2>Stand</h2><p>Oak, oiled.</p><p>It has:</p><ul><li>legs</li><li>a top</li></ul>",
		75:          "<h2>Stand</h2><p>Oak, oiled.</p><p>It has:</p><ul><li>legs</li></ul>",
		60:          "<h2>Stand</h2><p>Oak, oiled.</p>",
		32:          "<h2>Stand</h2><p>Oak, oiled.</p>",
		31:          "", 13: "",
	} {
		c := (&Rules{Clean: true, Layout: OneLine}).NewCleaner(nil)
		got, ok, err := c.Cut(in, &Shown{}, func(s string) bool { return len(s) <= most })
		require.NoError(t, err)
		require.Equal(t, want, got, most)
		require.Equal(t, want != "", ok)
	}
}

// sideBySide holds the fast ways to the parser: the same bytes.
func sideBySide(t *testing.T, in string, rules *Rules, shown *Shown) {
	fast, slow := rules.NewCleaner(nil), rules.NewCleaner(nil)
	slow.slow = true
	want, wantErr := slow.Clean(in, shown)
	got, err := fast.Clean(in, shown)
	require.Equal(t, wantErr, err, "%q", in)
	require.Equal(t, want, got, "%q with %+v %+v", in, *rules, *shown)
	require.Equal(t, slow.Images(), fast.Images(), "%q", in)
}

// TestSideBySide: what needs no parser becomes what the parser makes of it.
func TestSideBySide(t *testing.T) {
	rounds := brief.Of(6000, 700)
	for seed := range rounds {
		r := rand.New(rand.NewPCG(uint64(seed), 4))
		rules, shown := soupRules(r)
		in := soup(r, 4+seed%40)
		if seed%2 == 0 { // most of it closed as it should be
			in, _ = (&Rules{Clean: true, Keep: strings.Fields(keepable)}).NewCleaner(nil).Clean(in, shown)
			if cut := r.IntN(len(in) + 1); seed%4 == 0 {
				in = in[:cut] + soup(r, 1) + in[cut:]
			}
		}
		sideBySide(t, in, rules, shown)
	}
}

func FuzzSideBySide(f *testing.F) {
	for _, p := range []string{"<p>a</p>", "<ul><li>a<ul><li>b</li></ul></li></ul>", "<table><tr><td>a</td></tr></table>", "<div><b>x</b><br>y</div>", "<p>a &amp; b</p>\n<p>c</p>",
		"<h2 class=x>a</h2><!-- b --><p style='color:red'>c</p>", "<p>• a</p><p>• b</p>", "<b><p>a</p></b>", "<a href='x'>y</a>"} {
		f.Add(p, uint64(1))
	}
	f.Fuzz(func(t *testing.T, in string, seed uint64) {
		rules, shown := soupRules(rand.New(rand.NewPCG(seed, 5)))
		sideBySide(t, in, rules, shown)
		c := rules.NewCleaner(nil)
		once, err := c.Clean(in, shown)
		if err != nil {
			return
		}
		twice, err := c.Clean(once, shown)
		require.NoError(t, err)
		require.Equal(t, once, twice, "%q", in)
	})
}
