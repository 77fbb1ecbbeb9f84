package markup

import (
	"math/rand/v2"
	"strings"
)

// soup makes HTML of any quality: tags of all kinds that are closed or not, texts that look like tags, marks, entities, styles.
func soup(r *rand.Rand, most int) string {
	pick := func(of []string) string { return of[r.IntN(len(of))] }
	var b strings.Builder
	var open []string
	for range 1 + r.IntN(most) {
		switch r.IntN(12) {
		case 0, 1, 2:
			b.WriteString(pick(soupTexts))
		case 3, 4, 5, 6:
			name := pick(soupTags)
			b.WriteString("<" + name)
			for range r.IntN(3) / 2 * (1 + r.IntN(2)) {
				b.WriteString(" " + pick(soupAttributes))
			}
			b.WriteString(pick([]string{">", ">", ">", ">", "/>", " >"}))
			open = append(open, name)
		case 7, 8, 9:
			if len(open) > 0 {
				at := len(open) - 1
				if r.IntN(6) == 0 {
					at = r.IntN(len(open))
				}
				b.WriteString("</" + open[at] + ">")
				open = append(open[:at], open[at+1:]...)
			}
		case 10:
			b.WriteString("</" + pick(soupTags) + ">")
		default:
			b.WriteString(pick(soupOdd))
		}
	}
	return b.String()
}

var (
	soupTags = strings.Fields("p p p br br ul ol li li li b i strong em u s span font a a img h1 h2 h3 h4 h5 h6 div div section table tr td th thead tbody " +
		"tfoot caption blockquote sup sub hr center pre dl dt dd address o:p st1:place script style svg math template select option button form label " +
		"noscript iframe textarea title input nobr ruby rt details summary figure figcaption")
	soupTexts = []string{"oak", " ", "  ", "\n", "\r\n", "\t", "beech & oak", "a < b", "x<y", "&nbsp;", "&nbsp;&nbsp; ", "\u00a0", "• one", "• two", "- three", "- four",
		"* five", "1. six", "2. seven", "3) eight", "Name: value", "Size: 3 cm", "CAPITALS", "Care:", "&lt;p&gt;", "&lt;/p&gt;", "&amp;amp;", "&amp;uuml;", "&copy x", "\x00", "\x01",
		"https://www.halvora.example/a?b=1&c=2.", "post@halvora.example", "ü", "茶", "**bold**", "_so_", "[a](https://x.example)", "## Head", "-10 °C", "."}
	soupAttributes = []string{`class="x"`, `style="color:red;font-weight:bold"`, `style="mso-list:l0 level1 lfo1"`, `style="mso-list:l0 level2 lfo1"`, `style='mso-list:Ignore'`,
		`style="display:none"`, `style="font-weight:normal"`, `style="vertical-align:super"`, `href="https://www.brunnlo.example/a"`, `href="/b"`, `href="#top"`,
		`href="javascript:alert(1)"`, `src="https://cdn.halvora.example/1.jpg"`, `src=x`, `alt="An &quot;oak&quot; <b>"`, `width=1 height=1`, `colspan=2`, `rowspan="x"`, `onclick=alert(1)`,
		`dir=rtl`, `start=4`, `rel="nofollow"`, `hidden`, `id=a`, `lang=de`, `title="a  b"`, `="`, `data-x='>'`, `scope=row`, `target=_blank`}
	soupOdd = []string{"<!-- a -->", "<!--", "-->", "<![if !supportLists]>", "<![endif]>", "<?xml x?>", "<", ">", "</", "<p", "<!doctype html>", "&#8226; a", "&#xb7;&nbsp;b",
		"<table><tr><td>", "</td><td>", "</td></tr><tr><td>", "</td></tr></table>", "<br><br>", "<br/>", "</p><p>", "<li>", "<ul><li>", "</li></ul>", "<b><i>", "</b></i>", "<p><b>", "</p></b>",
		"<span style='mso-list:Ignore'>1.<span>&nbsp;</span></span>", "<svg><style><p>", "<math><mi>", "<a href='https://x.example'>", "\u2028"}
)

// soupRules are rules of all kinds.
func soupRules(r *rand.Rand) (*Rules, *Shown) {
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	rules := &Rules{Clean: true, Links: pick("", "", AsText, Drop, SameShop), Images: pick("", "", Drop, ToImages), Rel: pick("", "", "nofollow noopener"),
		HeadingsFrom: r.IntN(7), BoldHeadings: r.IntN(3) == 0, TextHeadings: r.IntN(3) == 0, NamedLines: pick("", "", AsTable, AsList),
		LinkAddresses: r.IntN(3) == 0, Markdown: r.IntN(3) == 0, Layout: Layout(pick("", string(OneLine), string(Blocks), string(Lines)))}
	if r.IntN(3) == 0 {
		all := strings.Fields(keepable)
		for _, a := range attributes {
			if !a.usual {
				all = append(all, a.of+" "+a.name)
			}
		}
		for range 1 + r.IntN(8) {
			rules.Keep = append(rules.Keep, all[r.IntN(len(all))])
		}
		rules.Styles = []string{"color", "font-weight"}
	}
	return rules, &Shown{Escaped: r.IntN(3) == 0, Twice: r.IntN(3) == 0, Markdown: r.IntN(2) == 0, HTML: r.IntN(2) == 0, Layout: Lines}
}
