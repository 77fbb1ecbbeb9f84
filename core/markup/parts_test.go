package markup

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestFormOf: what a cell is is told by itself, and by the column where it does not say.
func TestFormOf(t *testing.T) {
	forms := map[Form]string{FormPlain: "plain", FormHTML: "HTML", FormEscaped: "escaped", FormMarkdown: "Markdown"}
	for _, c := range []struct{ cell, want, others string }{
		{"<p>a</p>", "HTML", ""}, {"a<br>b", "HTML", ""}, {"<B>a</B>", "HTML", ""}, {"x <!-- y --> z", "HTML", ""},
		{"a < b and c > d", "plain", ""}, {"x<y und y>z", "plain", ""}, {"1<b und c>2", "plain", ""}, {"I <3 oak", "plain", ""}, {"<hallo@brunnlo.example>", "plain", ""},
		{"<b> before the word", "plain", "Oak.|Elm.|Ash."}, {"<b> before the word", "HTML", "<p>Oak.</p>|<p>Elm.</p>"},
		{"&lt;p&gt;a&lt;/p&gt;", "escaped", ""}, {"&lt;b&gt;a&lt;/b&gt;", "escaped", ""}, {"&lt;p class=\"x\"&gt;a&lt;/p&gt;", "escaped", ""},
		{"&lt;p&gt;a&lt;/p&gt;", "plain", "<p>a</p>|<p>b</p>"}, {"&lt; 5 mm &gt; 3", "plain", ""}, {"write &lt;b&gt; here", "plain", ""},
		{"<p>&lt;p&gt;a&lt;/p&gt;</p>", "HTML", "&lt;p&gt;a&lt;/p&gt;|&lt;p&gt;b&lt;/p&gt;"},
		{"## Oak\n\n**new**", "Markdown", ""}, {"- a\n- b", "Markdown", "## Oak|**x** y"}, {"- a\n- b", "plain", ""}, {"3*4*5, A_1_b, # 1", "plain", "Oak|Elm|Ash"},
		{"**one** of many", "plain", strings.Repeat("Plain.|", 9) + "Plain."},
	} {
		column := Column{}
		column.Add(c.cell)
		if c.others != "" {
			for _, other := range strings.Split(c.others, "|") {
				column.Add(other)
			}
		}
		shown := column.Shown()
		assert.Equal(t, c.want, forms[shown.FormOf(c.cell, true)], "%s among %s", c.cell, c.others)
	}
}

// TestColumn: what a column has shown is the same however it is cut, and entities that were escaped once too often are told from others.
func TestColumn(t *testing.T) {
	cells := []string{"<p>a</p><p>b</p>", "<p>a</p>\n<ul>\n<li>b</li>\n<li>c</li>\n</ul>", "M&amp;uuml;tze", "S&amp;auml;ge &amp;amp; Beil", "", " ", "&lt;p&gt;a&lt;/p&gt;", "**a**"}
	var whole Column
	for _, c := range cells {
		whole.Add(c)
	}
	for cut := range cells {
		var a, b Column
		for i, c := range cells {
			if i < cut {
				a.Add(c)
			} else {
				b.Add(c)
			}
		}
		a.Merge(&b)
		assert.Equal(t, whole, a)
	}
	bytes, err := whole.AppendBinary(nil)
	require.NoError(t, err)
	assert.Len(t, bytes, 10)
	assert.Equal(t, Column{Cells: 6, HTML: 2, Escaped: 1, Markdown: 1, Twice: 2, Layouts: [numLayouts]uint64{oneLine: 1, onLines: 1}}, whole)
	for cells, want := range map[string]bool{"a &amp;amp; b|c &amp;uuml;": true, "a &amp;amp; b": false, "a &amp;amp; b|c &amp;uuml;|R &amp; D": false, "a &amp; b|c &amp; d": false} {
		var c Column
		for _, cell := range strings.Split(cells, "|") {
			c.Add("<p>" + cell + "</p>")
		}
		shown := c.Shown()
		assert.Equal(t, want, shown.Twice, cells)
	}
	for in, want := range map[string]string{"M&amp;uuml;tze": "M&uuml;tze", "a &amp;amp; b": "a &amp; b", "&amp;amp;amp;uuml;": "&uuml;", "R &amp; D": "R &amp; D", "&amp;nope;": "&amp;nope;", "&amp;": "&amp;", "x": "x"} {
		assert.Equal(t, want, escapedOnce(in))
	}
	for layout, cells := range map[Layout][]string{
		OneLine: {"<p>a</p><p>b</p>", "<p>a</p><p>b</p>", "<p>a</p>\n<p>b</p>"}, Blocks: {"<p>a</p>\n<ul><li>b</li><li>c</li></ul>\n<p>d</p>", "<p>a</p>"},
		Lines: {"<p>a</p>\n<p>b</p>", "<p>a</p>"},
	} {
		var c Column
		for _, cell := range cells {
			c.Add(cell)
		}
		shown := c.Shown()
		assert.Equal(t, layout, shown.Layout, cells)
	}
}

// TestRules: what is wrong with rules is said with the key, and why.
func TestRules(t *testing.T) {
	for _, c := range []struct {
		rules Rules
		want  string
	}{
		{Rules{Clean: true, Keep: []string{"s", "a target", "* lang", "details"}, Styles: []string{"text-align"}, Links: SameShop, Images: ToImages, Rel: "nofollow noopener", HeadingsFrom: 3}, ""},
		{Rules{Keep: []string{"s"}}, "keep: says how descriptions are written, and nothing orders that they are: add clean = true"},
		{Rules{NoMention: []string{"x"}, CommonPhrase: 0.5}, ""},
		{Rules{Clean: true, Keep: []string{"script"}}, `keep: "script" cannot be kept: it could load or run something`},
		{Rules{Clean: true, Keep: []string{"blink"}}, `keep: "blink" is no element that can be kept; besides the usual ones these are: ` + keepable},
		{Rules{Clean: true, Keep: []string{"a onclick"}}, `keep: "onclick" is no attribute of a that can be kept; these are: href, rel, target, hreflang, title, lang, dir`},
		{Rules{Clean: true, Styles: []string{"position"}}, `styles: "position" is no property that can be kept; these are: ` + strings.Join(properties, ", ")},
		{Rules{Clean: true, Links: "none"}, `links: there is no "none"; it can be keep, text, drop, same-shop`},
		{Rules{Clean: true, Layout: "tree"}, `layout: there is no "tree"; it can be one-line, blocks, lines`},
		{Rules{Clean: true, HeadingsFrom: 7}, "headings_from: headings have the levels 1 to 6"},
		{Rules{Clean: true, Rel: `x" onclick="y`}, "rel: is one or more words, such as nofollow noopener"},
		{Rules{Clean: true, Cut: true}, "cut: nothing says how long the field may be; say it with longest = 160, for example"},
		{Rules{From: "description"}, "from: nothing says how long the field may be; say it with longest = 160, for example"},
		{Rules{Clean: true, End: Word}, "end: says where the beginning of another field ends; name that with from"},
		{Rules{CommonPhrase: 2}, "common_phrase: is a part of all descriptions, between 0 and 1, such as 0.3"},
	} {
		var got []string
		for _, p := range c.rules.Check(catalogue.HTMLKind, false) {
			got = append(got, p.Key+": "+p.Text)
		}
		assert.Equal(t, c.want, strings.Join(got, "\n"))
	}
	assert.Empty(t, (&Rules{From: "description", End: Word, Clean: true, Cut: true}).Check(catalogue.HTMLKind, true))
	assert.Empty(t, (&Rules{}).Check(catalogue.LineKind, false))
	assert.Equal(t, "does not go with a field of type text; it goes with html", (&Rules{Links: Keep}).Check(catalogue.LineKind, false)[0].Text)
	assert.Equal(t, "safe and tidy HTML, links: text, pictures: drop, what is too long cut", (&Rules{Clean: true, Links: AsText, Images: Drop, Cut: true}).String())
	assert.True(t, (&Rules{NoMention: []string{"x"}}).Idle() && !(&Rules{WriteAs: PlainText}).Idle())
}

// TestOneByOne: each thing that is put in order, with the rules that order it.
func TestOneByOne(t *testing.T) {
	for _, c := range []struct {
		in, want string
		rules    Rules
	}{
		{"<p>a&nbsp;b&nbsp; c</p>", "<p>a\u00a0b c</p>", Rules{}},
		{"<b>a </b>b<i> c</i>", "<p><strong>a</strong> b <em>c</em></p>", Rules{}},
		{"<strong>a</strong> <strong>b</strong>", "<p><strong>a</strong> <strong>b</strong></p>", Rules{}},
		{"<strong>a</strong><strong>b</strong>", "<p><strong>ab</strong></p>", Rules{}},
		{`<span style="font-weight:700">a</span> <span style="FONT-STYLE: italic">b</span> m<span style="vertical-align:super">2</span>`, "<p><strong>a</strong> <em>b</em> m<sup>2</sup></p>", Rules{}},
		{`<b style="font-weight:normal">a</b>`, "<p>a</p>", Rules{}},
		{"<b><p>a</p><ul><li>b</li><li>c</li></ul></b>", "<p><strong>a</strong></p><ul><li><strong>b</strong></li><li><strong>c</strong></li></ul>", Rules{}},
		{"<a href=x><h3>a</h3><p>b</p></a>", `<h3><a href="x">a</a></h3><p><a href="x">b</a></p>`, Rules{}},
		{"<ul>a<li>b</li>c<p>d</p></ul>", "<ul><li>a</li><li>b</li><li><p>c</p><p>d</p></li></ul>", Rules{}},
		{"<ul><ul><li>a</li></ul></ul>", "<ul><li><ul><li>a</li></ul></li></ul>", Rules{}},
		{"<h2><p>a</p><p>b</p></h2>", "<h2>a</h2><h2>b</h2>", Rules{}},
		{"<h5>a</h5><h1>b</h1>", "<h4>a</h4><h2>b</h2>", Rules{}},
		{"<h5>a</h5>", "<h5>a</h5>", Rules{Keep: []string{"h5"}}},
		{"<h1>a</h1><h2>b</h2><h5>c</h5>", "<h3>a</h3><h4>b</h4><h4>c</h4>", Rules{HeadingsFrom: 3}},
		{"<h4>a</h4>", "<h4>a</h4>", Rules{HeadingsFrom: 3}},
		{"<pre>a\n  b</pre>", "<p>a<br>b</p>", Rules{}},
		{"<pre>\n a\n  b</pre>", "<pre> a\n  b</pre>", Rules{Keep: []string{"pre"}}},
		{"<dl><dt>a<dd>b</dl>", "<p>a</p><p>b</p>", Rules{}},
		{"<dl><dt>a<dd>b</dl>", "<dl><dt>a</dt><dd>b</dd></dl>", Rules{Keep: []string{"dl", "dt", "dd"}}},
		{"a<div hidden>b</div><p style='display: none'>c</p>", "<p>a</p>", Rules{}},
		{"<img src=x width=1 height=1><img src=y style='width:0px;height:1px'>z", "<p>z</p>", Rules{}},
		{`<img src="https://x.example/a.jpg" alt='' width=90 title=t>`, `<p><img src="https://x.example/a.jpg" alt=""></p>`, Rules{}},
		{`<img src="a.jpg" width="90" height="6em">`, `<p><img src="a.jpg" width="90"></p>`, Rules{Keep: []string{"img width", "img height"}}},
		{"<table><tr><td>a</td></tr><tr><td>b</td></tr></table>", "<p>a</p><p>b</p>", Rules{}},
		{"<table><tr><td>a</td><td>1</td></tr></table>", "<table><tbody><tr><td>a</td><td>1</td></tr></tbody></table>", Rules{}},
		{"<table><tr><td><h3>a</h3></td><td><img src=x>b<p>c</p></td></tr></table>", `<h3>a</h3><p><img src="x">b</p><p>c</p>`, Rules{}},
		{"<table><tr><td></td></tr></table>", "", Rules{}},
		{"<table><tr><td colspan=1 rowspan=2>a</td><td>b</td></tr><tr><td></td></tr></table>", `<table><tbody><tr><td rowspan="2">a</td><td>b</td></tr><tr><td></td></tr></tbody></table>`, Rules{}},
		{"• a<br>• b<br>c", "<ul><li>a</li><li>b</li></ul><p>c</p>", Rules{}},
		{"<p>1. a</p><p>2. b</p><p>4. c</p>", "<ol><li>a</li><li>b</li></ol><p>4. c</p>", Rules{}},
		{"<p>- a</p><p>• b</p>", "<p>- a</p><p>• b</p>", Rules{}},
		{"<p><b>•</b> a</p><p><b>•</b> b</p>", "<ul><li>a</li><li>b</li></ul>", Rules{}},
		{"<ul><li>- a</li><li>- b</li></ul>", "<ul><li>a</li><li>b</li></ul>", Rules{}},
		{"<ul><li>- a</li><li>b</li></ul>", "<ul><li>- a</li><li>b</li></ul>", Rules{}},
		{"<p>✓ a</p><p>✓ b</p>", "<ul><li>a</li><li>b</li></ul>", Rules{}},
		{"<p>• a<br>- b<br>- c<br>• d</p>", "<ul><li>a<ul><li>b</li><li>c</li></ul></li><li>d</li></ul>", Rules{}},
		{"<p>• a<br>- b<br>• c</p>", "<p>• a<br>- b<br>• c</p>", Rules{}},
		{"<p>★★★★</p><p>✓ a<br>✗ b</p>", "<p>★★★★</p><p>✓ a<br>✗ b</p>", Rules{}},
		{"<p>-10 °C</p><p>-20 °C</p>", "<p>-10 °C</p><p>-20 °C</p>", Rules{}},
		{"<p><b>Care:</b></p><p>Dry.</p><p><b>End</b></p>", "<h3>Care:</h3><p>Dry.</p><p><strong>End</strong></p>", Rules{BoldHeadings: true}},
		{"<p><b>Height</b>: 3 cm<br>Weight: 2 kg</p>", "<ul><li><strong>Height</strong>: 3 cm</li><li>Weight: 2 kg</li></ul>", Rules{NamedLines: AsList}},
		{"<p><b>Height:</b> 3 cm<br>Weight: <i>2 kg</i></p>", "<table><tbody><tr><th>Height</th><td>3 cm</td></tr><tr><th>Weight</th><td><em>2 kg</em></td></tr></tbody></table>", Rules{NamedLines: AsTable}},
		{"<p>Data:<br>Height: 3 cm<br>Weight: 2 kg<br>End</p>", "<p>Data:</p><table><tbody><tr><th>Height</th><td>3 cm</td></tr><tr><th>Weight</th><td>2 kg</td></tr></tbody></table><p>End</p>", Rules{NamedLines: AsTable}},
		{`<img src="data:image/gif;base64,R0" data-src="https://x.example/a.jpg" alt="a">`, `<p><img src="https://x.example/a.jpg" alt="a"></p>`, Rules{}},
		{"<table><tr><td><img src=/a.jpg></td><td>" + strings.Repeat("long ", 20) + "</td></tr><tr><td><img src=/b.jpg></td><td>c</td></tr></table>", `<p><img src="/a.jpg"></p><p>` + strings.TrimSpace(strings.Repeat("long ", 20)) + `</p><p><img src="/b.jpg"></p><p>c</p>`, Rules{}},
		{"<table><tr><td><img src=/a.jpg></td><td>red</td></tr><tr><td><img src=/b.jpg></td><td>blue</td></tr></table>", `<table><tbody><tr><td><img src="/a.jpg"></td><td>red</td></tr><tr><td><img src="/b.jpg"></td><td>blue</td></tr></tbody></table>`, Rules{}},
		{"<p>At https://x.example/a. Or (www.y.example), a@b.example!</p>", `<p>At <a href="https://x.example/a">https://x.example/a</a>. Or (<a href="https://www.y.example">www.y.example</a>), <a href="mailto:a@b.example">a@b.example</a>!</p>`, Rules{LinkAddresses: true}},
		{`<a href="HTTP://x.example" target=_blank rel="NoFollow x">a</a> <a href=/b>c</a>`, `<p><a href="HTTP://x.example" rel="nofollow x">a</a> <a href="/b">c</a></p>`, Rules{}},
		{`<a href="https://x.example">a</a> <a href=/b>c</a> <a href="https://own.example/">d</a>`, `<p><a href="https://x.example" rel="nofollow">a</a> <a href="/b">c</a> <a href="https://own.example/">d</a></p>`, Rules{Rel: "nofollow"}},
		{`<a href="https:/\own.example/a">a</a> <a href="//own.example:80/">b</a> <a href="https://own.example@x.example">c</a> <a name=y>d</a>`, `<p><a href="https:/\own.example/a">a</a> <a href="//own.example:80/">b</a> c d</p>`, Rules{Links: SameShop}},
		{`<p style="color: RED; text-align:center;background:url(x)">a</p>`, `<p style="text-align:center">a</p>`, Rules{Styles: []string{"text-align"}}},
		{`<p style="color:rgb(1, 2, 3);color:url(x);color:expression(1)">a</p>`, `<p style="color:rgb(1, 2, 3)">a</p>`, Rules{Styles: []string{"color"}}},
		{`<p dir=RTL lang=ar>كوب</p>`, `<p dir="rtl">كوب</p>`, Rules{}},
		{"<ol start=4 type=a><li>a</li><li value=9>b</li></ol>", `<ol start="4"><li>a</li><li value="9">b</li></ol>`, Rules{}},
		{"<p>\x01a\u2028b\x7f</p>", "<p>a b</p>", Rules{}},
		{"<o:p>a</o:p><st1:place>b</st1:place><xml><w:View>Normal</w:View></xml>", "<p>ab</p>", Rules{}},
	} {
		c.rules.Clean, c.rules.Layout = true, OneLine
		cleaner := c.rules.NewCleaner([]string{"Own.example"})
		got, err := cleaner.Clean(c.in, &Shown{HTML: true})
		require.NoError(t, err)
		assert.Equal(t, c.want, got, c.in)
		again, err := cleaner.Clean(got, &Shown{HTML: true})
		require.NoError(t, err)
		assert.Equal(t, got, again)
	}
}

// TestPlain: plain text and Markdown.
func TestPlain(t *testing.T) {
	for _, c := range []struct{ in, want string }{
		{"a\nb\r\n\r\nc", "<p>a<br>b</p><p>c</p>"}, {"  a  b\t c ", "<p>a b c</p>"}, {"5 &lt; 6 &amp; 7", "<p>5 &lt; 6 &amp; 7</p>"}, {"a & b &copy; c", "<p>a &amp; b © c</p>"},
		{"- a\n\n- b\n\n- c", "<ul><li>a</li><li>b</li><li>c</li></ul>"}, {"- a\n  goes on\n- b", "<ul><li>a goes on</li><li>b</li></ul>"}, {"- a", "<p>- a</p>"}, {"- a\nb\n- c", "<p>- a<br>b<br>- c</p>"},
		{"1) a\n2) b\n   • c\n   • d\n3) e", "<ol><li>a</li><li>b<ul><li>c</li><li>d</li></ul></li><li>e</li></ol>"}, {"2. a\n3. b", "<p>2. a<br>3. b</p>"}, {"1. a\n1. b", "<p>1. a<br>1. b</p>"},
		{"Head:\n- a\n- b\nend", "<p>Head:</p><ul><li>a</li><li>b</li></ul><p>end</p>"}, {"•a\n•b", "<ul><li>a</li><li>b</li></ul>"}, {"", ""}, {" \n\t", ""},
		{"1.Open\n2.Fill", "<ol><li>Open</li><li>Fill</li></ol>"}, {"(1) a\n(2) b", "<ol><li>a</li><li>b</li></ol>"}, {"① a\n② b", "<ol><li>a</li><li>b</li></ol>"}, {"1.5 mm\n2.5 mm", "<p>1.5 mm<br>2.5 mm</p>"},
		{"+ lid\n+ bowl", "<ul><li>lid</li><li>bowl</li></ul>"}, {"+ 5 °C\n+ 9 °C", "<p>+ 5 °C<br>+ 9 °C</p>"}, {"-a\n-b", "<ul><li>a</li><li>b</li></ul>"}, {"-10 °C\n-20 °C", "<p>-10 °C<br>-20 °C</p>"},
		{"1. a\n- b\n- c\n2. d", "<ol><li>a<ul><li>b</li><li>c</li></ul></li><li>d</li></ol>"}, {"✓ a\n✓ b\n✗ c", "<p>✓ a<br>✓ b<br>✗ c</p>"}, {"→ a\n→ b", "<ul><li>a</li><li>b</li></ul>"},
	} {
		got, err := (&Rules{Clean: true, Layout: OneLine}).NewCleaner(nil).Clean(c.in, &Shown{})
		require.NoError(t, err)
		assert.Equal(t, c.want, got, "%q", c.in)
	}
	for _, c := range []struct{ in, want string }{
		{"# a #\n\nb *c* __d__ _e_f g_", "<h2>a</h2><p>b <em>c</em> <strong>d</strong> <em>e_f g</em></p>"}, {"**a\nb**", "<p>**a<br>b**</p>"}, {"a*b*c 2 * 3 * 4", "<p>a<em>b</em>c 2 * 3 * 4</p>"},
		{"> a\n> b\n\n---\n\nc", "<blockquote><p>a<br>b</p></blockquote><hr><p>c</p>"}, {`\*a\* \[b\]`, "<p>*a* [b]</p>"}, {"`<b>` **`c`**", "<p>&lt;b&gt; <strong>c</strong></p>"},
		{"| a | b |\n|---|:--:|\n| 1 | *2* |", "<table><thead><tr><th>a</th><th>b</th></tr></thead><tbody><tr><td>1</td><td><em>2</em></td></tr></tbody></table>"},
		{`[a](https://x.example/b_(c) "t") ![d](e.jpg)`, `<p><a href="https://x.example/b_(c)">a</a> <img src="e.jpg" alt="d"></p>`}, {"[a](javascript:x)", "<p>a</p>"}, {"+ a\n+ b", "<ul><li>a</li><li>b</li></ul>"}, {"***a*** **b *c***", "<p><em><strong>a</strong></em> <strong>b <em>c</em></strong></p>"}, {"Oak\n===\n\nCare\n--\ndry", "<h2>Oak</h2><h2>Care</h2><p>dry</p>"},
	} {
		got, err := (&Rules{Clean: true, Markdown: true, Layout: OneLine}).NewCleaner(nil).Clean(c.in, &Shown{Markdown: true})
		require.NoError(t, err)
		assert.Equal(t, c.want, got, "%q", c.in)
	}
}

// TestLook: what a look at a description finds, and what it does not mind.
func TestLook(t *testing.T) {
	for in, want := range map[string]string{
		"<p>a</p>": "text", "a": "text", "": "", "<p></p>": "HTML", "<p><img src=x></p>": "HTML pictures 1 links [{x true}]", "<p>&nbsp;</p>": "HTML",
		"<p>a<b>b</p>": "text broken <b> is not closed", "a</b>": "text broken </b> closes nothing", "<ul><li>a<li>b</ul>": "text broken <li> is not closed", "<p>a<p>b</p>": "text broken <p> is not closed",
		"<p>a<br>b<hr></p>": "text", "</p>a": "text broken </p> closes nothing", "<p>a": "text broken <p> is not closed", "<p": "HTML broken <p has no end", "<b><i>a</b></i>": "text broken <i> is not closed",
		"<ul><li>a</li><li> </li></ul>": "text empty list", "<ul></ul>a": "text empty list", "<h2>a</h2><h4>b</h4>": "text <h4> comes behind <h2>", "<h2>a</h2><h3>b</h3><h2>c</h2>": "text",
		"<table><tr><td>a</td><td>b</td></tr></table>": "text bare table", "<table><tr><th>a</th><td>b</td></tr></table>": "text", "<table><tr><td>a</td></tr></table>": "text",
		"<p onclick=x>a</p>": "text unsafe onclick=", "<a href=' JAVA&Tab;SCRIPT:x'>a</a>": "text unsafe javascript:", "<script>a</script>b": "text unsafe <script>", "<img src='data:x'>": "HTML pictures 1 links [{data:x true}]",
		"<p style='width:expression(1)'>a</p>": "text unsafe style that runs something", "<a href='data:x'>a</a>": "text unsafe data:", "<p title='onclick=x'>a</p>": "text",
		"&lt;p&gt;a": "text code &lt;p&gt;", "<p>&lt;p&gt;a</p>": "text code &lt;p&gt;", "<p>&lt;b&gt; a</p>": "text", "a &lt; b &gt; c": "text",
		"<a href=www.x.example>a</a>": "text astray www.x.example", "<a href=''>a</a>": "text astray nothing", "<a href='htp://x.example'>a</a>": "text astray htp://x.example", "<a href='#a'>b</a>": "text", "<a href='/a b'>c</a>": "text astray /a b",
		"<a href='https://x'>a</a>": "text astray https://x", "<a href='mailto:x'>a</a>": "text astray mailto:x", "<a href='tel:+1'>a</a>": "text", "<a name=x>a</a>": "text",
	} {
		s := new(Looker).Look(in)
		var got []string
		say := func(is bool, what ...any) {
			if is {
				got = append(got, strings.TrimSuffix(fmt.Sprintln(what...), "\n"))
			}
		}
		say(s.Text, "text")
		say(s.HTML && !s.Text, "HTML")
		say(s.Unsafe != "", "unsafe", s.Unsafe)
		say(s.Broken != "", "broken", s.Broken)
		say(s.Code != "", "code", s.Code)
		say(s.EmptyList, "empty list")
		say(s.Skips != "", s.Skips)
		say(s.BareTable, "bare table")
		say(s.Astray != "", "astray", s.Astray)
		say(s.Pictures > 0, "pictures", s.Pictures)
		say(s.Pictures > 0, "links", s.Links)
		assert.Equal(t, want, strings.Join(got, " "), in)
	}
	assert.True(t, Leaves("https://x.example/", []string{"Own.example"}) && !Leaves("HTTPS://OWN.example", []string{"Own.example"}) && !Leaves("/x", nil) && !Leaves("mailto:a@b", nil))
	assert.True(t, Insecure("HTTP://x.example") && !Insecure("https://x.example") && !Insecure("//x.example"))
}

// TestSays: placeholders, words that must not be there, and sentences that stand everywhere.
func TestSays(t *testing.T) {
	for in, want := range map[string]string{"<p>TBC</p>": "TBC", "Lorem ipsum dolor": "Lorem ipsum", "<p>Hello {{name}}!</p>": "{{name}}", "Beschreibung folgt …": "Beschreibung folgt …", "A real text. To follow the bees.": "", "{a}": "", "psum": "",
		"<p>Opis.</p>": "Opis."} {
		assert.Equal(t, want, Placeholder(in), in)
	}
	m := NewMention([]string{"Anderswo  Handel", "anderswo.example", " ", "Über"})
	for in, want := range map[string]string{"Bei ANDERSWO HANDEL kaufen": "ANDERSWO HANDEL", "www.anderswo.example/x": "anderswo.example", "anderswo.examples": "", "über uns": "über", "darüber": "", "": "", "Anderswo": ""} {
		assert.Equal(t, want, m.In(in), in)
	}
	var cells []string
	for i := range 10 {
		cells = append(cells, fmt.Sprintf("<p>Product %d of oak. All our goods are tested with love!</p><p>Ask us.</p>", i))
	}
	assert.Equal(t, []string{"All our goods are tested with love!"}, Phrases(cells, 0.3))
	assert.Empty(t, Phrases(cells[:2], 0.3))
	var lines []string
	EachLine("<p>Height: 3&nbsp;cm<br>x</p><table><tr><th>Weight</th><td>2 kg</td></tr></table>", func(line string) { lines = append(lines, line) })
	assert.Equal(t, []string{"Height: 3 cm", "x", "Weight: 2 kg"}, lines)
	for line, want := range map[string]string{"Height: 3 cm": "Height=3 cm", "Poids : 2 kg": "Poids=2 kg", "https://x.example": "=", "See above. Note: x": "=", "Note:": "=", ": x": "=", "12:30": "="} {
		name, value, _ := Named(line)
		assert.Equal(t, want, name+"="+value)
	}
}

// TestSentences: where sentences end, and what of a text fits.
func TestSentences(t *testing.T) {
	for in, want := range map[string]string{
		"One. Two! Three?": "One.|Two!|Three?", "It holds approx. 1.5 l. It boils.": "It holds approx. 1.5 l.|It boils.", "Nr. 5 ist groß. Ja.": "Nr. 5 ist groß.|Ja.", "Am 3. Mai z. B. nicht. Doch.": "Am 3. Mai z. B. nicht.|Doch.",
		"“Good.” She said so. (Yes.) No": "“Good.”|She said so.|(Yes.)|No", "See www.x.example. Then go.": "See www.x.example.|Then go.", "Wait... so what. Go.": "Wait... so what.|Go.", "茶。急須。": "茶。|急須。", "¿Pesa mucho? Sí.": "¿Pesa mucho?|Sí.",
		"Version 2.0. New": "Version 2.0.|New", "no end": "no end",
	} {
		var got []string
		from := 0
		for _, end := range sentences(in) {
			got = append(got, strings.TrimSpace(in[from:end]))
			from = end
		}
		assert.Equal(t, want, strings.Join(got, "|"), in)
	}
	for _, c := range []struct {
		most       int
		words      bool
		html, want string
	}{
		{20, false, "<h2>Head</h2><p>Of oak. And more of it.</p>", "Of oak."}, {20, true, "<p>Of oak. And more of it.</p>", "Of oak. And more of…"}, {8, false, "<p>Something long.</p>", ""}, {40, false, "<ul><li>oak</li><li>elm</li></ul>", "oak, elm"},
		{40, false, "<p>Label</p><p>A sentence. And more than what fits into it.</p>", "A sentence."}, {40, false, "<p>Label</p>", "Label"}, {40, false, "<table><tr><th>a</th><td>b</td></tr></table>", ""},
	} {
		end := Sentence
		if c.words {
			end = Word
		}
		got, err := (&Rules{From: "description", End: end}).NewCleaner(nil).Beginning(c.html, &Shown{}, func(s string) bool { return utf8.RuneCountInString(s) <= c.most })
		require.NoError(t, err)
		assert.Equal(t, c.want, got, c.html)
	}
}
