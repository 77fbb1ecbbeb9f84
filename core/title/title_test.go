package title

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/text"
)

// table reads a sheet of the test data.
func table(t testing.TB, name string, comma rune) [][]string {
	f, err := os.Open(filepath.Join("testdata", name))
	require.NoError(t, err)
	defer f.Close()
	in := csv.NewReader(f)
	in.Comma, in.LazyQuotes = comma, comma == '\t'
	if comma != '\t' {
		rows, err := in.ReadAll()
		require.NoError(t, err)
		return rows[1:]
	}
	content, err := os.ReadFile(f.Name())
	require.NoError(t, err)
	var rows [][]string
	for line := range strings.Lines(string(content)) {
		cells := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		for i := range cells {
			cells[i] = strings.NewReplacer(`\t`, "\t", `\n`, "\n", `\\`, `\`).Replace(cells[i])
		}
		rows = append(rows, cells)
	}
	return rows[1:]
}

func wordsOf(t testing.TB, lang string) *Words {
	var keep, twice []string
	for _, row := range table(t, "brands.csv", ',') {
		keep = append(keep, row[0])
	}
	for _, row := range table(t, "exceptions.csv", ',') {
		if row[1] == "doubling" {
			twice = append(twice, row[0])
		}
		keep = append(keep, row[0])
	}
	return NewWords(lang, keep, twice)
}

// applied carries out the orders of a row of the set; ok is false if one of them is not of this package.
func applied(w *Words, orders, title string, own ...string) (string, bool) {
	var r Rules
	for o := range strings.SplitSeq(orders, ",") {
		style, isCase := strings.CutPrefix(o, "case=")
		switch {
		case isCase:
			r.Case = Style(style)
		case o == "clean":
			r.Clean = true
		case o == "own":
			r.WithoutOwnCodes = true
		case o == "emoji=drop":
			r.Emoji = "drop"
		case o == "emoji=keep":
		case o == "measures":
			r.Measures = true
		default:
			return "", false
		}
	}
	return r.Apply(w, title, Product{Codes: own}, nil), true
}

// TestSet: titles in nine languages come out as they should, and those that are right stay.
func TestSet(t *testing.T) {
	words := make(map[string]*Words)
	for _, lang := range Languages() {
		words[lang] = wordsOf(t, lang)
	}
	right, all, kinds, misses := 0, 0, make(map[string][2]int), 0
	for _, row := range table(t, "titles.tsv", '\t') {
		w := words[row[1]]
		got, ok := applied(w, row[2], row[3], row[9], row[10])
		if !ok {
			continue
		}
		all++
		k := kinds[row[7]]
		k[1]++
		if got == row[4] || slices.Contains(strings.Split(row[5], "␟"), got) {
			right++
			k[0]++
		} else if misses++; testing.Verbose() {
			t.Logf("%s %s %-40s %q → %q, and not %q", row[0], row[1], row[2], row[3], got, row[4])
		}
		kinds[row[7]] = k
		again, _ := applied(w, row[2], got, row[9], row[10])
		assert.Equal(t, got, again, "%s again", row[0])
	}
	t.Logf("%d of %d titles are right: %v", right, all, kinds)
	changed := 0
	rows := table(t, "titles-right.tsv", '\t')
	for _, row := range rows {
		w := words[row[1]]
		for _, orders := range []string{"clean", "case=shouting", "measures", "clean,case=shouting,measures"} {
			if got, _ := applied(w, orders, row[2]); got != row[2] {
				changed++
				if testing.Verbose() {
					t.Logf("%s %s %s: %q → %q", row[0], row[1], orders, row[2], got)
				}
			}
		}
	}
	t.Logf("%d changes to %d titles that are right", changed, len(rows))
	assert.GreaterOrEqual(t, 100*right, 97*all)
	assert.Zero(t, changed)
}

// FuzzTwice: whatever is ordered of whatever text, doing it twice is doing it once, and nothing is made empty.
func FuzzTwice(f *testing.F) {
	for _, name := range []string{"titles.tsv", "titles-right.tsv"} {
		for i, row := range table(f, name, '\t') {
			if i%9 == 0 {
				f.Add(row[2], uint16(i))
			}
		}
	}
	f.Add("!!! ( ) - ß ’ l'’ 5 G 2-in-1", uint16(77))
	words := make(map[string]*Words)
	for _, lang := range append(Languages(), "") {
		words[lang] = NewWords(lang, []string{"eNektar", "Mark II"}, []string{"Bora Bora"})
	}
	f.Fuzz(func(t *testing.T, s string, orders uint16) {
		r := Rules{Clean: orders&1 > 0, Measures: orders&2 > 0, WithoutOwnCodes: orders&4 > 0, Emoji: []string{"", "drop"}[orders>>3&1],
			Case: []Style{AsIs, Shouting, Sentence, Title}[orders>>4&3], ShoutingAs: []Style{Title, Sentence}[orders>>6&1]}
		w, of := words[append(Languages(), "")[int(orders>>7)%10]], Product{Brand: "Hollow Brook", Codes: []string{"HB-20"}}
		once := r.Apply(w, s, of, nil)
		require.Equal(t, once, r.Apply(w, once, of, nil), "%+v", r)
		require.Equal(t, strings.TrimSpace(s) == "", strings.TrimSpace(once) == "")
	})
}

// BenchmarkApply carries all orders out on titles of nine languages, most of which are right.
func BenchmarkApply(b *testing.B) {
	words := make(map[string]*Words)
	for _, lang := range Languages() {
		words[lang] = wordsOf(b, lang)
	}
	rows := table(b, "titles-right.tsv", '\t')
	r := Rules{Clean: true, Case: Shouting, Measures: true, WithoutOwnCodes: true, Emoji: "drop"}
	of := Product{Brand: "eNektar", Codes: []string{"HB-2041", "9521234000013"}}
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		row := rows[i%len(rows)]
		r.Apply(words[row[1]], row[2], of, nil)
	}
}

// BenchmarkFit makes titles fit that are too long, with 10 short forms and with 10,000.
func BenchmarkFit(b *testing.B) {
	w := NewWords("en", nil, nil)
	for _, n := range []int{10, 10_000} {
		pairs := [][]string{{"stainless steel", "st. steel"}, {"replacement", "repl."}}
		for i := range n {
			pairs = append(pairs, []string{"long word " + strconv.Itoa(i), "l. w."})
		}
		shorts := w.NewShorts(pairs)
		b.Run(strconv.Itoa(n), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				w.Fit("Bee smoker in stainless steel with replacement bellows, large", text.Limit{Most: 55}, shorts, false)
			}
		})
	}
}

// FuzzInert: a title of which a look says that nothing is to be done is left as it is.
func FuzzInert(f *testing.F) {
	words := make(map[string]*Words)
	for _, lang := range Languages() {
		words[lang] = wordsOf(f, lang)
	}
	quick, all := 0, 0
	for _, row := range table(f, "titles-right.tsv", '\t') {
		f.Add(row[2], row[1])
		if all++; words[row[1]].inert(row[2]) {
			quick++
		}
	}
	f.Logf("%d of %d titles that are right are seen to be so at a look", quick, all)
	for _, s := range []string{"Hive, NEW", "a a", "ſ S", "5 ml", "3-5 kg", "x’s", "ab, , c", "AB cd AB", "É é", "Ka-ka ka", "no. 5", "a.b", "a 5"} {
		f.Add(s, "en")
	}
	f.Fuzz(func(t *testing.T, s, lang string) {
		w := words[lang]
		if w == nil || !w.inert(s) {
			return
		}
		r := Rules{Clean: true, Case: Shouting, Measures: true, Emoji: "drop"}
		if got := r.once(w, s, Product{Brand: "eNektar"}, nil); got != s {
			t.Errorf("%q → %q", s, got)
		}
	})
}

// TestFit: titles that are too long are shortened as far as needed, cut where that is ordered, and else stay.
func TestFit(t *testing.T) {
	right, all := 0, 0
	for _, row := range table(t, "titles.tsv", '\t') {
		l, cut, others := text.Limit{}, false, false
		for o := range strings.SplitSeq(row[2], ",") {
			switch name, value, _ := strings.Cut(o, "="); name {
			case "fit":
				l.Most, _ = strconv.Atoi(value)
			case "count":
				l.In = value
			case "cut":
				cut = true
			default:
				others = true
			}
		}
		if l.Most == 0 || others {
			continue
		}
		w := wordsOf(t, row[1])
		shorts := w.NewShorts(table(t, "short-forms.csv", ','))
		got, ok := w.Fit(row[3], l, shorts, cut)
		if assert.Equal(t, ok, l.Fits(got)); !ok {
			got = "HELD " + got
		}
		if all++; got == row[4] || slices.Contains(strings.Split(row[5], "␟"), got) || !ok && slices.Contains(strings.Split(row[5], "␟"), "HELD") {
			right++
		} else {
			t.Logf("%s %s %s %q → %q, and not %q", row[0], row[1], row[2], row[3], got, row[4])
		}
	}
	w := wordsOf(t, "de")
	for s, want := range map[string]string{ // nothing that opens stands last
		"Bienenbürste <lang> weiß": "Bienenbürste", "Buchenholz „Wabe“ groß": "Buchenholz", "Wachs, lose [gelb] roh": "Wachs, lose", "Wabenhonig #2041-77 Glas": "Wabenhonig",
	} {
		got, ok := w.Fit(s, text.Limit{Most: 14}, nil, true)
		assert.True(t, ok)
		assert.Equal(t, want, got)
	}
	t.Logf("%d of %d are right", right, all)
	assert.GreaterOrEqual(t, 100*right, 97*all)
}

// TestLoud: in a column of which most titles shout, short words in capitals do, too, and titles that shout in part.
func TestLoud(t *testing.T) {
	quiet, loud := NewWords("en", nil, nil), NewWords("en", nil, nil)
	loud.Loud(true)
	r := Rules{Case: Shouting}
	for _, test := range [][3]string{
		{"HIVE STAND oak", "HIVE stand oak", "Hive Stand Oak"}, {"Honey JAR 500 ml", "Honey JAR 500 ml", "Honey jar 500 ml"},
		{"eNektar HONEY JAR", "eNektar honey JAR", "eNektar honey jar"}, {"USB lamp", "USB lamp", "USB lamp"}, {"BEE BRUSH", "Bee Brush", "Bee Brush"},
		{"Bee Brush", "Bee Brush", "Bee Brush"}, {"XKB pump", "XKB pump", "XKB pump"},
	} {
		assert.Equal(t, test[1], r.Apply(quiet, test[0], Product{}, nil))
		got := r.Apply(loud, test[0], Product{}, nil)
		assert.Equal(t, test[2], got)
		assert.Equal(t, got, r.Apply(loud, got, Product{}, nil))
	}
}

// TestLeftAlone: what looks like praise, a shout or a measure, and is none, stays.
func TestLeftAlone(t *testing.T) {
	r := Rules{Clean: true, Case: Shouting, Measures: true}
	for title, lang := range map[string]string{
		"Sale - fino, 1 kg": "it", "TOP Damen, schwarz": "de", "New! Bee brush": "en", "Hit-Radio Sticker": "de", "Hot chilli sauce": "en",
		"Deal or no deal board game": "en", "Nouveau : le grand livre du miel": "fr", "Offre-moi des fleurs": "fr", "Wow! That's What I Call Honey": "en",
		"Neu: Aktion Mensch Lose": "de", "New York - poster": "en", "Oferta - demanda, libro": "es", "#1 Dad mug": "en", "T-shirt (M)": "en",
		"AC/DC - Back in Black (LP)": "en", "Yes! I can": "en", "C&A Jacke": "de", "P!nk - Trustfall": "en",
		"(Un)sichtbar": "de", "Limited edition - vinyl": "en", "Gift box - new": "en", "3M tape": "en", "5G router": "en", "Bye Bye Birdie": "en",
		"Size 8-10 (EU 38)": "en", "S/M L/XL tights": "en", "¡Ay, mi enjambre!": "es", "Wait... Is That My Swarm?": "en", "2 w 1": "pl",
		".5 mm nib": "en", "-20 °C ice pack": "en", "~30 cm willow wand": "en", "AA cell holder +/-": "en", "A) Screws M4": "en",
		"Ylang ylang oil": "en", "Piri piri sauce": "en", "Pom Pom maker": "en", "Bora Bora towel": "en", "Hush hush heater": "en",
	} {
		assert.Equal(t, title, r.Apply(NewWords(lang, nil, nil), title, Product{}, nil), lang)
	}
	w := NewWords("en", nil, nil)
	for title, want := range map[string]string{"- 5 frames": "5 frames", "-- .5 mm nib": ".5 mm nib", "Hive tools, - 10 pieces": "Hive tools, 10 pieces", "Smoker) steel": "Smoker steel"} {
		assert.Equal(t, want, r.Apply(w, title, Product{}, nil))
	}
	assert.Equal(t, "NEW BALANCE running shoe", r.Apply(w, "NEW BALANCE running shoe", Product{Brand: "NEW BALANCE"}, nil), "its brand is written so")
	assert.Equal(t, "fr", LanguageOf([]string{"Gants de l'apiculteur en cuir", "Pot de miel avec couvercle", "Lot de 2 pour la ruche"}))
	assert.Empty(t, LanguageOf([]string{"LED USB", "Honig"}))
	assert.Equal(t, "tr", LanguageOf([]string{"KAPAKLI BAL KAVANOZU", "SÜRGÜLÜ ANA ARI KAFESİ", "IŞIKLI LAMBA", "BAĞLANTI"}), "by letters that it has alone")
	assert.Equal(t, "de", LanguageOf([]string{"Imkerhut mit Schleier, Işıkhan", "Smoker mit Haken, Işıkhan", "Stock für die Biene, Işıkhan", "Rahmen und Draht, Işıkhan"}),
		"a brand counts once")
}
