package repair

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
)

// anyRulebook makes up a rulebook of some rules about a few columns, in any order,
// with texts so short that they get into one another's way.
func anyRulebook(r *rand.Rand) string {
	words := []string{"a", "b", "ab", "a b", "B", "c.", "b-a", "ä", "&amp;", "KÃ¼", "“a”", "ａ", "u\u0308", "ł", "-"}
	word := func() string { return words[r.IntN(len(words))] }
	texts := []string{"title", "Brand", "Kind", "Label", "Notes"}
	column := func() string { return texts[r.IntN(len(texts))] }
	where := func() string {
		if r.IntN(3) > 0 {
			return ""
		}
		return fmt.Sprintf("where = { %s = { %s = %q } }\n", column(), []string{"contains", "is", "is_not", "starts"}[r.IntN(4)], word())
	}
	yes := func(key string) string {
		if r.IntN(3) > 0 {
			return ""
		}
		return key + " = true\n"
	}
	var b strings.Builder
	if r.IntN(3) == 0 {
		b.WriteString("[text]\nquotes = \"plain\"\nfull_width = \"plain\"\nformulas = \"quote\"\n")
	}
	if r.IntN(3) == 0 {
		fmt.Fprintf(&b, "[target]\nencoding = %q\n", []string{"windows-1252", "koi8-r", "utf-16le"}[r.IntN(3)])
		b.WriteString([]string{"", "quotes = \"all\"\n", "quotes = \"needed\"\nseparator = \"tab\"\n",
			"first_rows = \"keep\"\n"}[r.IntN(4)])
	}
	if r.IntN(3) == 0 {
		fmt.Fprintf(&b, "[answers]\n%s = [%q]\n", []string{"keep", "aside", "hold"}[r.IntN(3)],
			[]string{"value.unlisted", "value.long", "value.tie"}[r.IntN(3)])
	}
	fields := make(map[string]bool)
	for range 1 + r.IntN(6) {
		switch r.IntN(10) {
		case 0, 1:
			fmt.Fprintf(&b, "[[replace]]\nin = [%q, %q]\nfind = %q\nwith = %q\n%s%s%s", column(), column(), word(), word(),
				yes("inside_words"), yes("match_case"), where())
		case 2:
			fmt.Fprintf(&b, "[[around]]\nin = [%q]\nbefore = %q\nafter = %q\n%s", column(), word(), word(), where())
		case 3:
			fmt.Fprintf(&b, "[[build]]\ninto = %q\nfrom = '{%s}[ {%s}]%s'\n%s%s", column(), column(), column(), word(), yes("over"),
				where())
		case 4:
			fmt.Fprintf(&b, "[[derive]]\ninto = %q\nfrom = [%q]\nlist = \"words.csv\"\n%s", column(), column(), where())
		case 5:
			fmt.Fprintf(&b, "[[expand]]\nin = [%q]\nlist = \"codes.csv\"\n%s%s", column(), []string{"", "at = \"-\"\n"}[r.IntN(2)], where())
		case 6:
			fmt.Fprintf(&b, "[[columns.fill]]\ninto = %q\nwith = %q\n%s%s", column(), word(), yes("over"), where())
		case 7:
			fmt.Fprintf(&b, "[[borrow]]\nfrom = \"lent.csv\"\nby = \"sku\"\ntake = [%q]\n%s%s", column(), yes("over"), where())
		case 8:
			name := []string{"brand", "title"}[r.IntN(2)]
			if !fields[name] {
				fmt.Fprintf(&b, "[field.%s]\n%s", name, []string{"unify = true\n", "one_of = [\"a\", \"ab\", \"a b\"]\n", "one_of = [\"a\"]\nif_open = \"keep\"\n",
					"longest = 3\nif_open = \"blank\"\n"}[r.IntN(4)])
			}
			fields[name] = true
		case 9:
			if r.IntN(2) == 0 {
				fmt.Fprintf(&b, "[[columns.split]]\nfrom = %q\nat = \"-\"\ninto = [%q, \"Rest\"]\n", column(), column())
			} else {
				fmt.Fprintf(&b, "[[closing]]\nin = [%q]\ntext = %q\n%s", column(), word(), where())
			}
		}
	}
	return b.String()
}

// TestAnyRulebookTwice: whatever rules are put together, either they are refused, or
// what they have made comes through them as it is.
func TestAnyRulebookTwice(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	refused, changed, held := 0, 0, 0
	rounds := some(600)
	for range rounds {
		opt := anyFile(t, r)
		first, err := Run(t.Context(), opt)
		if err != nil {
			refused++
			continue
		}
		changed += first.Counts().Changed
		held += first.Counts().Held
		again := opt
		again.Input, again.Target = write(t, opt.Temp, "again.csv", ready(t, first)), filepath.Join(opt.Temp, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, rulesOf(t, opt))
		require.Equal(t, ready(t, first), ready(t, second), "%s\n%s", rulesOf(t, opt), sourceOf(t, opt))
	}
	t.Logf("%d refused, %d cells changed, %d rows held", refused, changed, held)
	require.Less(t, 2*refused, rounds)
	require.Greater(t, changed, 5*rounds)
}

// TestAnyQuantitiesTwice: whatever is ordered of prices, weights, counts, dates, yes and no, what it has made comes through it as it is, as an
// output of ours, and with rows taken out.
func TestAnyQuantitiesTwice(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	one := func(list ...string) string { return list[r.IntN(len(list))] }
	changed, held, rows := 0, 0, 0
	for range some(80) {
		mark, other := one(".", ","), ","
		if mark == "," {
			other = "."
		}
		price := func() string {
			n := fmt.Sprintf("%d", 1+r.IntN(4000))
			if r.IntN(4) > 0 {
				return one("", n+mark+"50", n+mark+"95")
			}
			return one("", n, n+mark+"50", n+mark+"5", n+mark+"995", "€ "+n+mark+"90", n+mark+"90 EUR", "1"+other+"234"+mark+"50", "0", n+",-", "ca. "+n, "from "+n, "12–15", "POA", "-", "1"+mark+"234", "$5")
		}
		var text strings.Builder
		text.WriteString("SKU,Title,Cost,Price,Sale price,Weight" + one("", " kg", " (g)") + ",Unit,Stock,Published,Sale from,Box\n")
		for i := range 10 {
			n := fmt.Sprint(1 + r.IntN(900))
			odd := func(usual string, list ...string) string {
				if r.IntN(6) > 0 {
					return usual
				}
				return one(list...)
			}
			for _, cell := range []string{fmt.Sprint("S", i), "Thing", price(), price(), price(), odd(n+" g", "", n, n+mark+"5 kg", "2 lb 4 oz", n+mark+"250"), odd("g", "", "kg"),
				odd(n, "", n+" pcs", ">10", "1"+mark+"0", "many", "-3"), odd("yes", "", "no", "ja", "x", "1", "perhaps"),
				odd("04.05.2026", "", "2026-05-04", "31.12.2026", "04.05.2026", "5/6/26", "2026-05-04 10:30", "3. Mai 2026", "2026-02-30", "45000"), odd("10 x 20 x 5 cm", "", "30 x 20", "12 in x 4 in x 2 in")} {
				fmt.Fprintf(&text, "%q,", cell)
			}
			text.WriteString("\n")
		}
		var b strings.Builder
		forms := func() string {
			return one("", "written = \"point\"\n", "written = \"comma\"\n") + one("", "decimal = \"comma\"\n", "decimal = \"point\"\n") + one("", "decimals = 2\n", "decimals = 2\nround = \"up\"\n", "decimals = 3\n")
		}
		fmt.Fprintf(&b, "[cost]\n%s[price]\n%s%s%s%s%s", forms(), forms(), one("", "from = \"cost\"\ntimes = 2.2\n", "from = \"cost\"\nmargin = 30\nover = true\n", "at_least = 3\n", "at_most = 900\n"),
			one("", "end_in = 0.95\n", "end_in = 9.9\n"), one("", "read = [\"about\", \"range\"]\n", "clear = [\"request\", \"dash\"]\n"), one("", "currency = \"EUR\"\n", "change_at_most = 0.5\n"))
		fmt.Fprintf(&b, "[sale_price]\nzero = \"none\"\n%s", forms())
		fmt.Fprintf(&b, "[floor_price]\nfrom = \"cost\"\npercent = 15\n")
		if r.IntN(2) == 0 {
			fmt.Fprintf(&b, "[weight]\nunit = %q\n%s%s%s", one("kg", "g", "lb"), forms(), one("", "bare = \"g\"\n"), one("", "unit_from = \"Unit\"\n"))
		}
		b.WriteString(one("", "[stock]\nwords = \"words.csv\"\n", "[stock]\ndecimals = 0\n"))
		b.WriteString(one("", "[published]\nyes = \"1\"\nno = \"0\"\n", "[published]\nyes = \"JA\"\nno = \"NEIN\"\nempty = \"no\"\n", "[published]\nchoices = { 1 = \"yes\", 2 = \"no\", 3 = \"x\" }\n"))
		b.WriteString(one("", "[sale_from]\nform = \"iso\"\n", "[sale_from]\nform = \"DD.MM.YYYY\"\nfirst = \"day\"\n", "[sale_from]\nform = \"MM/DD/YYYY hh:mm\"\nzone = \"Europe/Berlin\"\ntimes_in = \"UTC\"\n"))
		b.WriteString(one("", "[field.box]\ntype = \"text\"\nunit = \"cm\"\nsides = [\"length\", \"width\", \"height\"]\n"))
		opt := madeUp(t, text.String(), b.String(), map[string]string{"words.csv": "Word,Number\nmany,50\n"})
		first, err := Run(t.Context(), opt)
		if err != nil {
			require.ErrorContains(t, err, "would still be called so", b.String())
			continue
		}
		changed, held, rows = changed+first.Counts().Changed, held+first.Counts().Held, rows+first.Counts().Read
		again := opt
		again.Input, again.Target = filepath.Join(first.Folder, "ready.csv"), filepath.Join(opt.Temp, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, rulesOf(t, opt))
		require.Equal(t, ready(t, first), ready(t, second), "%s\n%s", rulesOf(t, opt), sourceOf(t, opt))
	}
	t.Logf("%d cells changed, %d of %d rows held", changed, held, rows)
	require.Greater(t, changed, 2*rows)
}

// anyFile makes up a small file with a rulebook of rules about its cells.
func anyFile(t *testing.T, r *rand.Rand) Options {
	cells := []string{"", "a", "b", "ab", "a b", "B", "b-a", "x a y", "Ä", "a  b", "c. a", "A", "a &amp; b", "fÃ¼r a", "“a” b", "ａ　b",
		"bu\u0308", "ał", "日", "=a", "- b"}
	var text strings.Builder
	text.WriteString("SKU,Title,Brand,Kind,Label,Notes\n")
	for i := range 12 {
		fmt.Fprintf(&text, "S%d", i)
		for range 5 {
			text.WriteString("," + cells[r.IntN(len(cells))])
		}
		text.WriteString("\n")
	}
	return madeUp(t, text.String(), anyRulebook(r), map[string]string{
		"words.csv": "Word,Value\na,b\nb,a b\nab,c.\n", "codes.csv": "Code,Means\na,alpha\nB,beta b\nc.,C\n",
		"lent.csv": "SKU,title,Brand,Kind,Label,Notes\nS1,a &amp; b,b,BÃ¼ro,,x\nS2,b-a,,a,ab,\nS3,A,B,b,b-a,ä\n",
	})
}

// madeUp lays a file in a folder with a rulebook and the sheets that this names, and
// returns what its repair needs.
func madeUp(t *testing.T, text, rules string, sheets map[string]string) Options {
	dir := t.TempDir()
	for name, content := range sheets {
		write(t, dir, name, content)
	}
	book, err := sections.Load(write(t, dir, rulebook.Name, rules))
	require.NoError(t, err, rules)
	opt := fixed(write(t, dir, "list.csv", text), filepath.Join(dir, "out"))
	opt.Book, opt.Temp, opt.PartSize = *book, dir, 60
	return opt
}

// rulesOf and sourceOf return the texts of what was made up, for messages.
func rulesOf(t *testing.T, opt Options) string { return read(t, opt.Book.Path) }

func sourceOf(t *testing.T, opt Options) string { return read(t, opt.Input) }

func read(t *testing.T, path string) string {
	t.Helper()
	content, err := os.ReadFile(path)
	require.NoError(t, err)
	return string(content)
}

// anyProducts makes up a rulebook about products of several rows.
func anyProducts(r *rand.Rand) string {
	var b strings.Builder
	maybe := func(line string) {
		if r.IntN(2) == 0 {
			b.WriteString(line + "\n")
		}
	}
	b.WriteString("[products]\n")
	maybe("regroup = true")
	maybe("differ = \"lead\"")
	maybe("misplaced = \"move\"")
	maybe("told_apart_by = [\"Colour\", \"Cut\"]")
	maybe([]string{"together_by = \"Set\"", "option_of_titles = \"Cut\"", "variant_fields = [\"Note\"]",
		"product_fields = [\"Note\"]"}[r.IntN(4)])
	maybe("lead_only = [\"tags\", \"title\"]")
	maybe("differ_in = { tags = \"all\", brand = \"longest\" }")
	maybe([]string{"together = [[\"S0\", \"S9\"], [\"S12\", \"S13\"]]", "parents = { Note = \"n\" }",
		"complete_as = \"shop.csv\""}[r.IntN(3)])
	maybe([]string{"same_as_lead = [\"slug\"]", "same_as_lead = [\"Set\", \"brand\"]"}[r.IntN(2)])
	switch r.IntN(4) {
	case 0:
		b.WriteString("[images]\nas = \"rows\"\n")
		maybe("number = true")
		maybe("columns = [\"Image 2\"]")
	case 1:
		b.WriteString("[images]\nas = \"cell\"\n")
		maybe("at = \"|\"")
	case 2:
		b.WriteString("[images]\nas = \"columns\"\ncolumns = [\"Image 2\", \"Image 3\"]\n")
	}
	maybe("[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Size}\" }" +
		[]string{"", "", "\nparent = true", "\nrepeat = true", "\nparent = true\nrepeat = true"}[r.IntN(5)])
	maybe("[[one_row_for_all]]\nfrom = \"Cut\"\nunlike = [\"sku\", \"Colour\", \"price\"]\n" +
		[]string{"", "at = \"|\"", "where = { price = \"1\" }"}[r.IntN(3)])
	maybe("[[options]]\nfrom = \"Packed\"\nnames = [\"Colour\", \"Cut\"]" + []string{"", "\nin_pairs = 2"}[r.IntN(2)])
	maybe("[[options]]\ninto = \"Options\"\nnames = [\"Colour\", \"Cut\"]")
	maybe("[[build]]\ninto = \"Alt text\"\nfrom = \"{title}[, {Colour}]\"\n" +
		[]string{"", "rows = \"images\"", "rows = \"all\""}[r.IntN(3)])
	maybe("[[columns.fill]]\ninto = \"" + []string{"Tags\"\nrows = \"lead", "Tags", "Stock", "Note",
		"Note\"\nrows = \"variants"}[r.IntN(5)] + "\"\nwith = \"f\"\n")
	maybe("[[mint]]\ninto = \"sku\"\nfrom = \"" + []string{"{title letters upper first 1}-{counter 3}", "{random letters 3}{check 37-2}",
		"{title slug}[-{counter}]", "{Set|title}-{Colour}[-{counter}]"}[r.IntN(4)] + "\"\nby = [\"title\", \"Colour\", \"Cut\"]")
	maybe("[[mint]]\ninto = \"" + []string{"parent_sku\"\nfrom = \"P{counter 2}", "slug\"\nfrom = \"{title slug}[-{counter}]",
		"Code\"\nfrom = \"{sku}{check 37-2}"}[r.IntN(3)] + "\"\n")
	maybe("[title]\nclean = true\ncase = \"" + []string{"shouting", "title", "sentence", "as-is"}[r.IntN(4)] + "\"\n" +
		[]string{"", "measures = true", "without_own_codes = true", "longest = 6\nfit = true\ncut = true", "longest = 7\nfit = true\nshorten = [[\"veil\", \"v.\"]]"}[r.IntN(5)])
	maybe("[sheet]\nsort_by = [\"title\"]")
	maybe("[target]\n" + []string{"quotes = \"all\"", "encoding = \"utf-16le\"", "separator = \"tab\""}[r.IntN(3)])
	return b.String()
}

// TestAnyProductsTwice: whatever is ordered about products of several rows, all rows are
// accounted for, the cut into parts makes no difference, and what has been made of them
// comes through the same rules as it is.
func TestAnyProductsTwice(t *testing.T) {
	r := rand.New(rand.NewPCG(71, 72))
	images := regexp.MustCompile(`\d+[a-e]\.jpg`)
	changed, added, joined, moved, held, refused := 0, 0, 0, 0, 0, 0
	files := some(300)
	for range files {
		opt := anyProductsFile(t, r)
		dir, rules, text := opt.Temp, rulesOf(t, opt), sourceOf(t, opt)
		first, err := Run(t.Context(), opt)
		if err != nil {
			require.Regexp(t, "parts of two products|into which rules of the rulebook write", err.Error(), "%s\n%s", rules, text)
			refused++
			continue
		}
		c := first.Counts()
		require.Equal(t, c.Read, c.Ready+c.Held+c.Aside)
		require.Equal(t, first.Report.Written.Rows, c.Ready+c.Added-c.Joined)
		out := contents(t, first.Folder)
		all := strings.ReplaceAll(out["ready.csv"], "\x00", "") + out["held.csv"] + out["aside.csv"]
		for _, image := range images.FindAllString(text, -1) {
			require.Contains(t, all, image, "%s\n%s", rules, text)
		}
		changed, added, joined, moved, held = changed+c.Changed, added+c.Added, joined+c.Joined, moved+first.Moved, held+c.Held
		whole := opt
		whole.PartSize, whole.Workers, whole.Target = 1<<20, 3, filepath.Join(dir, "whole")
		other, err := Run(t.Context(), whole)
		require.NoError(t, err)
		require.Equal(t, out, contents(t, other.Folder), "%s\n%s", rules, text)
		again := opt
		again.Input, again.Target = filepath.Join(first.Folder, "ready.csv"), filepath.Join(dir, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, rules)
		require.Equal(t, ready(t, first), ready(t, second), "%s\n%s", rules, text)
	}
	t.Logf("%d refused, %d cells changed, %d rows added, %d joined, %d moved, %d held", refused, changed, added, joined, moved, held)
	require.Less(t, refused, files/6)
	require.Greater(t, min(changed, added, joined, moved), files/10)
}

// anyProductsFile makes up a small file of products of several rows with a rulebook about
// them.
func anyProductsFile(t *testing.T, r *rand.Rand) Options {
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	var text strings.Builder
	text.WriteString("Set,Slug,SKU,Title,Brand,Tags,Price,Colour,Cut,Sizes,Packed,Image,Image 2,Alt text,Note\n")
	slugs, colours := []string{"", "a", "a", "b", "c"}, []string{"", "red", "blue"}
	tidy := r.IntN(3) > 0
	for i := range 14 {
		slug, colour, title := pick(slugs...), pick(colours...), pick("", "", "Veil red", "Veil blue", "Box")
		if tidy {
			slug, colour = slugs[1+i/4], fmt.Sprintf("shade %d", i)
			if i%4 == 0 {
				title = "Veil red"
			}
		}
		sku, cut, packed := pick("", fmt.Sprintf("S%d", i), fmt.Sprintf("S%d", i)), pick("", "", "wide"),
			pick("", "", "red / wide", "blue / slim", "odd")
		if tidy {
			sku, cut, packed = fmt.Sprintf("S%d", i), pick("wide", "slim"), ""
		}
		cells := []string{pick("", "", "x", "y"), slug, sku, title, pick("", "", "b", "B c"), pick("", "", "t", "u;t"), pick("", "1", "2"),
			colour, cut, pick("", "", "", "S|M", "L"), packed,
			pick("", fmt.Sprintf("%da.jpg", i), fmt.Sprintf("%db.jpg|%dc.jpg", i, i), fmt.Sprintf("%dd.jpg", i)),
			pick("", "", fmt.Sprintf("%de.jpg", i)), pick("", "", "alt"), pick("", "", "", "n")}
		if tidy && i%4 == 2 { // an image of the product, and no variant
			cells = []string{"", slug, "", "", "", "", "", "", "", "", "", fmt.Sprintf("%da.jpg", i), "", pick("", "alt"), ""}
		}
		text.WriteString(strings.Join(cells, ",") + "\n")
	}
	opt := madeUp(t, text.String(), anyProducts(r), map[string]string{"shop.csv": "Slug,SKU,Set\na,S1,x\na,S99,x\nb,S6,y\nb,S98,y\n"})
	if r.IntN(2) == 0 {
		opt.Said = catalogue.Decisions{{Finding: catalogue.ProductDiffers}}
	}
	return opt
}
