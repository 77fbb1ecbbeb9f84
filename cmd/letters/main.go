// Command letters writes core/language/letters.txt.gz: how frequent letters are in
// languages, and pairs of them and three in a row. It counts them in the texts of the
// Unicode Common Locale Data Repository (names of languages, places, currencies, units
// and months, and words for emoji), and in the messages of programs that have been
// translated: catalogues in the format of GNU gettext, whose translated half is counted.
//
// The files are those of the Debian 12 packages unicode-cldr-core and, with -messages,
// evolution-common, gnucash-common, homebank-data, kmymoney-common, vlc-l10n,
// freeciv-data and widelands-data, unpacked into one folder.
//
//	go run ./cmd/letters -cldr /usr/share/unicode/cldr/common -messages FOLDER
package main

import (
	"bytes"
	"compress/gzip"
	"flag"
	"fmt"
	"io"
	"log"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

var (
	cldr     = flag.String("cldr", "/usr/share/unicode/cldr/common", "the folder of the locale files")
	messages = flag.String("messages", "", "a folder with catalogues of messages, LANGUAGE/LC_MESSAGES/*.mo, at any depth")
)

// languages are those that the encodings of a single byte were made for; the names of
// their locales follow where they differ.
var languages = []struct {
	code    string
	cldr    string
	locales []string
}{
	{"en", "", nil}, {"de", "", nil}, {"fr", "", nil}, {"es", "", nil}, {"pt", "", []string{"pt", "pt_BR", "pt_PT"}}, {"it", "", nil},
	{"nl", "", nil}, {"sv", "", nil}, {"da", "", nil}, {"nb", "no", []string{"nb", "nb_NO", "no"}}, {"fi", "", nil}, {"is", "", nil},
	{"ca", "", nil}, {"gl", "", nil}, {"eu", "", nil}, {"af", "", nil}, {"pl", "", nil}, {"cs", "", nil}, {"sk", "", nil}, {"hu", "", nil},
	{"ro", "", nil}, {"hr", "", nil}, {"sl", "", nil}, {"bs", "", nil}, {"sq", "", nil}, {"lt", "", nil}, {"lv", "", nil}, {"et", "", nil},
	{"tr", "", nil}, {"az", "", nil}, {"vi", "", nil}, {"el", "", nil}, {"ru", "", nil}, {"uk", "", nil}, {"bg", "", nil}, {"be", "", nil},
	{"sr", "", nil}, {"mk", "", nil}, {"he", "", nil}, {"ar", "", nil}, {"th", "", nil},
	{"ja", "", nil}, {"zh", "", []string{"zh_CN"}}, {"zh_Hant", "", []string{"zh_TW", "zh_HK"}}, {"ko", "", nil},
}

// Shares are given in parts of this many; what is rarer than the least is left out.
const (
	whole      = 1_000_000
	leastPair  = 3
	leastThree = 12 // two and a half where a letter of ASCII is beside one that is none; forty of ASCII alone
	leastWide  = 2
)

func main() {
	flag.Parse()
	var out bytes.Buffer
	out.WriteString("# Written by “go run ./cmd/letters”; do not edit by hand.\n" +
		"# A language; of how many letters in a row, or wide for a language of East Asia; how many letters were counted;\n" +
		"# then letters, each with how many of a million it is. ^ is the edge of a word.\n")
	for _, l := range languages {
		words, err := wordsOf(l.code, l.cldr, l.locales)
		if err != nil {
			log.Fatal(err)
		}
		if wide(l.code) {
			writeWide(&out, l.code, words)
		} else {
			writeLetters(&out, l.code, words)
		}
	}
	var packed bytes.Buffer
	gz, _ := gzip.NewWriterLevel(&packed, gzip.BestCompression)
	if _, err := io.Copy(gz, &out); err != nil {
		log.Fatal(err)
	}
	if err := gz.Close(); err != nil {
		log.Fatal(err)
	}
	if err := os.WriteFile("core/language/letters.txt.gz", packed.Bytes(), 0o666); err != nil {
		log.Fatal(err)
	}
}

// wordsOf returns the words of a language with their weights: a word that occurs often
// counts for more than one that occurs once, but not by as much.
func wordsOf(code, name string, locales []string) (map[string]float64, error) {
	if name == "" {
		name = code
	}
	if locales == nil {
		locales = []string{code}
	}
	counts := make(map[string]float64)
	add := func(text string) {
		for _, w := range strings.FieldsFunc(norm.NFC.String(text), func(r rune) bool { return !isLetter(r) }) {
			counts[strings.ToLower(w)]++
		}
	}
	list, letters, err := names(name)
	if err != nil {
		return nil, err
	}
	for _, text := range list {
		add(text)
	}
	if *messages != "" {
		if err := catalogues(locales, code == "en", add); err != nil {
			return nil, err
		}
	}
	if wide(code) {
		return counts, nil
	}
	latin := letters['e'] && letters['t'] // others may stand in escapes
	for w, n := range counts {
		if !latin && strings.ContainsFunc(w, func(r rune) bool { return r < utf8.RuneSelf }) {
			delete(counts, w) // a name in another script, or with one
			continue
		}
		// A letter that the language does not have, in a name.
		weight := math.Pow(n, 0.7)
		for _, r := range w {
			if r >= utf8.RuneSelf && !letters[r] && !unicode.Is(unicode.Mn, r) {
				weight = min(weight, 0.05)
			}
		}
		counts[w] = weight
	}
	switch code {
	case "ro": // as the encodings before Unicode have it
		for w, n := range maps.Clone(counts) {
			if old := strings.NewReplacer("ș", "ş", "ț", "ţ").Replace(w); old != w {
				delete(counts, w)
				counts[old] += n
			}
		}
	case "vi":
		for w, n := range maps.Clone(counts) {
			if old := tones(w); old != w {
				delete(counts, w)
				counts[old] += n
			}
		}
	}
	return counts, nil
}

// wide reports whether a language is one of those that have more characters than a
// byte has values.
func wide(code string) bool { return slices.Contains([]string{"ja", "zh", "zh_Hant", "ko"}, code) }

func isLetter(r rune) bool {
	return (unicode.IsLetter(r) || unicode.IsMark(r)) && r != 'ª' && r != 'º'
}

// writeLetters writes the letters of a language.
func writeLetters(out *bytes.Buffer, code string, words map[string]float64) {
	var grams [4]map[string]float64
	for n := 1; n <= 3; n++ {
		grams[n] = make(map[string]float64)
	}
	total := 0.0
	for _, word := range slices.Sorted(maps.Keys(words)) {
		weight := words[word]
		last, before := "^", "^"
		for _, r := range word + "^" {
			this := string(r)
			grams[1][this] += weight
			grams[2][last+this] += weight
			if last != "^" {
				grams[3][before+last+this] += weight
			}
			before, last = last, this
			total += weight
		}
	}
	for n, least := range []float64{0, 0, leastPair, leastThree} {
		if n > 0 {
			fmt.Fprintf(out, "%s %d %d%s\n", code, n, int(total), listed(grams[n], total, least))
		}
	}
}

// writeWide writes the characters of a language of East Asia.
func writeWide(out *bytes.Buffer, code string, words map[string]float64) {
	letters, total := make(map[string]float64), 0.0
	for _, word := range slices.Sorted(maps.Keys(words)) {
		for _, r := range word {
			if unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul) || r == 'ー' || r >= 0x3000 && r < 0x3040 {
				letters[string(r)] += words[word]
				total += words[word]
			}
		}
	}
	fmt.Fprintf(out, "%s wide %d%s\n", code, int(total), listed(letters, total, leastWide))
}

// listed writes counts as shares, without those that are rarer than least.
func listed(counts map[string]float64, total, least float64) string {
	var b strings.Builder
	for _, k := range slices.Sorted(maps.Keys(counts)) {
		least := max(least, 0.5)
		if least == leastThree {
			switch high := strings.Count(k, "") - 1; {
			case strings.IndexFunc(k, func(r rune) bool { return r >= utf8.RuneSelf }) < 0:
				least = 40
			case len(k) < 2*high && strings.Trim(k, "^") != "":
				least = 2.5
			}
		}
		if share := counts[k] * whole / total; share >= least {
			fmt.Fprintf(&b, " %s%.0f", k, share)
		}
	}
	return b.String()
}

// tones takes the marks of the tones off Vietnamese letters, and puts them behind
// them, as its encoding of a single byte has them.
func tones(s string) string {
	var b strings.Builder
	for _, r := range s {
		parts := []rune(norm.NFD.String(string(r)))
		base := string(parts[:1])
		var tone string
		for _, mark := range parts[1:] {
			switch mark {
			case 0x300, 0x301, 0x303, 0x309, 0x323:
				tone += string(mark)
			default:
				base += string(mark)
			}
		}
		b.WriteString(norm.NFC.String(base) + tone)
	}
	return b.String()
}

// catalogues hands out the messages of locales, each once; the untranslated ones for
// English.
func catalogues(locales []string, source bool, add func(string)) error {
	seen := make(map[string]bool)
	return filepath.WalkDir(*messages, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Ext(path) != ".mo" {
			return err
		}
		locale := filepath.Base(filepath.Dir(filepath.Dir(path)))
		if !source && !slices.Contains(locales, locale) || source && locale != "de" {
			return nil
		}
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		return eachMessage(data, func(id, text string) {
			switch {
			case source:
				text = id
			case text == id:
				return // not translated
			}
			if text = plain.Replace(text); !seen[text] {
				seen[text] = true
				add(text)
			}
		})
	})
}

// plain takes out of messages what is none of their letters: the marks of keys, and
// places that a program fills.
var plain = strings.NewReplacer("_", "", "&", "", "~", "", "%s", " ", "%d", " ", "%u", " ", "\x00", " ", "<b>", " ", "</b>", " ", "\\n",
	" ")
