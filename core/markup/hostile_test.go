package markup

import (
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestHostile: input that is made to break a parser takes memory in proportion to its length, and is either put in order or told; what is
// in order already is so whatever its length.
func TestHostile(t *testing.T) {
	repeat := strings.Repeat
	for name, of := range map[string]func(n int) string{
		"levels":              func(n int) string { return repeat("<div>", n) + "x" },
		"levels that close":   func(n int) string { return repeat("<blockquote>", n) + "x" + repeat("</blockquote>", n) },
		"lists in lists":      func(n int) string { return repeat("<ul><li>", n) + "x" },
		"tables in tables":    func(n int) string { return repeat("<table><tr><td>", n) + "x" },
		"formats":             func(n int) string { return repeat("<b>", n) + "x" },
		"formats that differ": func(n int) string { return repeat("<p><font color=1><b><i>", n) },
		"formats, paragraphs": func(n int) string { return repeat("<b><i><u><font><s>", 90) + repeat("<p>x", n) },
		"unclosed paragraphs": func(n int) string { return repeat("<p>x", n) },
		"unclosed items":      func(n int) string { return repeat("<li>x", n) },
		"ends of nothing":     func(n int) string { return repeat("</b></p>", n) },
		"wrongly nested":      func(n int) string { return repeat("<b><i>x</b></i>", n) },
		"links in links":      func(n int) string { return repeat("<a href=x>", n) },
		"a long attribute":    func(n int) string { return `<p title="` + repeat("x", 10*n) + `">y</p>` },
		"many attributes":     func(n int) string { return "<p " + repeat("a=b ", n) + ">y</p>" },
		"a long name":         func(n int) string { return "<" + repeat("x", 10*n) + ">y" },
		"signs":               func(n int) string { return repeat("<", n) + repeat("&", n) },
		"escaped tags":        func(n int) string { return repeat("&lt;p", n) + "&gt;" },
		"entities":            func(n int) string { return repeat("&amp;amp;", n) },
		"comments":            func(n int) string { return repeat("<!--", n) + "-->" },
		"NULs":                func(n int) string { return "<p>" + repeat("\x00", n) + "</p>" },
		"half characters":     func(n int) string { return "<p>" + repeat("\xe2\x80", n) + "</p>" },
		"spaces":              func(n int) string { return "<p>x" + repeat(" \u00a0", n) + "y</p>" },
		"line breaks":         func(n int) string { return "<p>x" + repeat("<br>", n) + "y</p>" },
		"marks":               func(n int) string { return repeat("<p>• x</p><p>- y</p>", n) },
		"lines with marks":    func(n int) string { return repeat("- x\n", n) + repeat("  - y\n", n) },
		"deeper and deeper": func(n int) string {
			var b strings.Builder
			for i := range min(n, 3000) {
				b.WriteString(repeat(" ", i) + "- x\n")
			}
			return b.String()
		},
		"numbers":              func(n int) string { return repeat("<p>1. x</p>", n) },
		"stars":                func(n int) string { return repeat("*x", n) + repeat("[", n) },
		"foreign":              func(n int) string { return repeat("<svg><math>", n) + "x" },
		"templates":            func(n int) string { return repeat("<template>", n) + "x" },
		"selects":              func(n int) string { return repeat("<select><option>", n) + "x" },
		"a table full of text": func(n int) string { return "<table>" + repeat("<tr>x", n) },
		"one paragraph":        func(n int) string { return "<p>" + repeat("word ", n) + "end</p>" },
	} {
		most := 20000
		if strings.Contains(name, "unclosed") || strings.Contains(name, "long") {
			most = 100000
		}
		if testing.Short() {
			most /= 20
		}
		for _, n := range []int{300, most} {
			in := of(n)
			for _, shown := range []Shown{{HTML: true}, {Escaped: true, Twice: true, Markdown: true}} {
				var before, after runtime.MemStats
				runtime.ReadMemStats(&before)
				c := (&Rules{Clean: true, NamedLines: AsTable, Markdown: true, LinkAddresses: true}).NewCleaner(nil)
				once, err := c.Clean(in, &shown)
				runtime.ReadMemStats(&after)
				assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(20<<20)+2500*uint64(len(in)), "%s, %d", name, n)
				if err != nil {
					require.ErrorIs(t, err, ErrDeep, name)
					continue
				}
				twice, err := c.Clean(once, &shown)
				require.NoError(t, err, name)
				assert.True(t, once == twice, "%s, %d", name, n)
			}
			new(Looker).Look(in)
			new(Column).Add(in)
			EachLine(in, func(string) {})
			Placeholder(in)
		}
	}
}
