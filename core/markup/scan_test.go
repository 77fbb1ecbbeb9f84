package markup

import (
	"fmt"
	"html"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	nethtml "golang.org/x/net/html"
)

// TestScan: each token as its kind and what stands there.
func TestScan(t *testing.T) {
	letters := map[Kind]string{Text: "t", Entity: "e", StartTag: "s", EndTag: "/", Comment: "c", Other: "o", Raw: "r"}
	for in, want := range map[string]string{
		`<p class="a">x &amp; y</p>`:                `s<p class="a">|tx |e&amp;|t y|/</p>`,
		`a < b & c > d`:                             `ta < b & c > d`,
		`1<2 and 3<b`:                               `t1<2 and 3|s<b!`,
		`<a title="x > y" href='>'>z`:               `s<a title="x > y" href='>'>|tz`,
		`<img alt=a"b>c`:                            `s<img alt=a"b>|tc`,
		`<br/><BR />`:                               `s<br/>|s<BR />`,
		`<!-- a <b> --><b>`:                         `c<!-- a <b> -->|s<b>`,
		`<!-- never closed <b>`:                     `c<!-- never closed <b>!`,
		`<!--><b>`:                                  `c<!-->|s<b>`,
		`<!doctype html><?xml version="1.0"?></ x>`: `o<!doctype html>|o<?xml version="1.0"?>|o</ x>`,
		`<script>if (a<b) "</p>" </SCRIPT >x`:       `s<script>|rif (a<b) "</p>" |/</SCRIPT >|tx`,
		`<style>p { } `:                             `s<style>|rp { } `,
		`<p`:                                        `s<p!`,
		`&lt;p&gt; &copy; &#233; &#xE9; &nope; &amp &semi;`: `e&lt;|tp|e&gt;|t |e&copy;|t |e&#233;|t |e&#xE9;|t &nope; &amp |e&semi;`,
		`&ampx; &#1a; &#; &#x; AT&T;`:                       `t&ampx; &#1a; &#; &#x; AT&T;`,
		`</`:                                                `t</`,
		`<`:                                                 `t<`,
	} {
		var got []string
		for s := NewScanner(in); s.Next(); {
			token := letters[s.Token().Kind] + s.Token().Raw
			if !s.Token().Whole {
				token += "!"
			}
			got = append(got, token)
		}
		assert.Equal(t, want, strings.Join(got, "|"), in)
	}
}

// FuzzScan: the tokens are the source, and the tags are those that a browser sees.
func FuzzScan(f *testing.F) {
	for _, s := range []string{"<p>a</p>", "<a b='c>d'>", "<!--x--!>y", "<script><!--<script></script>", "<textarea><b></textarea>",
		"a&lt;b<c", "<title>x<y</title>", "<p =\">x", "<a\x00b>", "</p x=\">\">", "<svg><![CDATA[<b>]]></svg>"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, in string) {
		var whole strings.Builder
		var tags []string
		for s := NewScanner(in); s.Next(); {
			token := s.Token()
			require.NotEmpty(t, token.Raw)
			whole.WriteString(token.Raw)
			if (token.Kind == StartTag || token.Kind == EndTag) && token.Whole {
				tags = append(tags, fmt.Sprint(token.Kind == EndTag, token.Name()))
			}
			if token.Kind == Entity {
				require.NotEqual(t, token.Raw, html.UnescapeString(token.Raw))
			}
		}
		require.Equal(t, in, whole.String())
		if strings.ContainsAny(in, "\x00\r") || strings.Contains(in, "<![") || strings.Contains(strings.ToLower(in), "<t") ||
			strings.Contains(strings.ToLower(in), "<plaintext") || strings.Contains(strings.ToLower(in), "<script") {
			return // the other one knows the context, or changes characters
		}
		var want []string
		z := nethtml.NewTokenizer(strings.NewReader(in))
		for kind := z.Next(); kind != nethtml.ErrorToken; kind = z.Next() {
			name, _ := z.TagName()
			switch kind {
			case nethtml.StartTagToken, nethtml.SelfClosingTagToken:
				want = append(want, fmt.Sprint(false, string(name)))
			case nethtml.EndTagToken:
				want = append(want, fmt.Sprint(true, string(name)))
			}
		}
		assert.Equal(t, want, tags, "%q", in)
	})
}

func TestOutsideTags(t *testing.T) {
	upper := func(s string) (string, bool) { return strings.ToUpper(s), strings.ToUpper(s) != s }
	digits := func(s string) (string, bool) { return strings.ReplaceAll(s, "2", "b"), strings.Contains(s, "2") }
	got, changed := OutsideTags("<p>2</p>1<2", digits)
	assert.True(t, got == "<p>b</p>1<2" && changed, "no tag is made of text: %s", got)
	for in, want := range map[string]string{
		"a<b>c</b>": "A<b>C</b>", "": "", "<p>": "<p>", "a < b": "A < B", `<a title="x>y">z`: `<a title="x>y">Z`,
		"x<!-- y -->z<script>w</script>": "X<!-- y -->Z<script>w</script>", "a &lt; b": "A &LT; B",
	} {
		got, changed := OutsideTags(in, upper)
		assert.Equal(t, want, got)
		assert.Equal(t, in != want, changed)
	}
}

func TestWords(t *testing.T) {
	assert.Equal(t, " Beech & oak ", Words("<p>Beech &amp; oak</p>"))
	assert.Equal(t, "fish & chips; AT&T; é", Unescape("fish &amp; chips; AT&T; &eacute;"))
	for in, want := range map[string]bool{"a <b>c": true, "<foo>": false, "x < y > z": false, "<P>": true, "</p>": true, "<p": false,
		"": false} {
		assert.Equal(t, want, IsHTML(in), in)
	}
	assert.True(t, HasTags("<foo>") && !HasTags("a<b"))
}

func BenchmarkOutsideTags(b *testing.B) {
	in := strings.Repeat("<p class=\"x\">A long text of several words &amp; signs</p>\n", 20)
	b.SetBytes(int64(len(in)))
	for b.Loop() {
		OutsideTags(in, func(s string) (string, bool) { return s, false })
	}
}

func ExampleScanner() {
	for s := NewScanner("<p>Beech &amp; oak</p>"); s.Next(); {
		fmt.Printf("%t %q\n", s.Token().Kind == Text, s.Token().Raw)
	}
	// Output:
	// false "<p>"
	// true "Beech "
	// false "&amp;"
	// true " oak"
	// false "</p>"
}
