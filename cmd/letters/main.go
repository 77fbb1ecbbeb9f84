// Command letters writes core/charset/letters.txt: how frequent the letters beyond
// ASCII are in languages, and beside which letters they stand. It counts them in the
// texts of the Unicode Common Locale Data Repository: names of languages, places,
// currencies, units and months, and words for emoji. Its files are named with -cldr; Debian has them in the
// package unicode-cldr-core.
//
//	go run ./cmd/letters -cldr /usr/share/unicode/cldr/common
package main

import (
	"encoding/xml"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

var cldr = flag.String("cldr", "/usr/share/unicode/cldr/common", "the folder of the locale files")

// languages are those that the encodings of a single byte were made for.
const languages = "de fr es pt it nl sv da nb fi is ca gl eu af pl cs sk hu ro hr sl sq bs lt lv et tr az vi el ru uk bg be sr mk he"

// files are the names of the files that are not called as their language.
var files = func() map[string]string {
	m := map[string]string{}
	for _, code := range strings.Fields(languages) {
		m[code] = code
	}
	m["nb"] = "no"
	return m
}()

func main() {
	var out strings.Builder
	out.WriteString("# Written by “go run ./cmd/letters”; do not edit by hand.\n" +
		"# A language, how many letters beyond ASCII were counted, and these with how many of a hundred thousand they are;\n" +
		"# then pairs of letters with such a letter in them, likewise. ^ is the edge of a word.\n")
	flag.Parse()
	for _, code := range strings.Fields(languages) {
		letters, pairs, err := count(code)
		if err != nil {
			log.Fatal(err)
		}
		fmt.Fprintf(&out, "%s letters %d %s\n", code, counted(letters), listed(letters, 2))
		fmt.Fprintf(&out, "%s pairs %s\n", code, listed(pairs, 8))
	}
	for _, code := range []string{"ja", "zh", "zh_Hant", "ko"} {
		files[code] = code
		letters, err := countWide(code)
		if err != nil {
			log.Fatal(err)
		}
		fmt.Fprintf(&out, "%s wide %d %s\n", code, counted(letters), listed(letters, 1))
	}
	if err := os.WriteFile("core/charset/letters.txt", []byte(out.String()), 0o666); err != nil {
		log.Fatal(err)
	}
}

// count counts letters and pairs of letters in the names of a language.
func count(code string) (letters, pairs map[string]int, err error) {
	letters, pairs = make(map[string]int), make(map[string]int)
	list, main, other, err := names(code)
	if err != nil {
		return nil, nil, err
	}
	weight := func(r rune) int {
		switch {
		case r < utf8.RuneSelf, main[r], unicode.Is(unicode.Mn, r):
			return 8
		case other[r]:
			return 1
		}
		return 0
	}
	for _, name := range list {
		name = strings.ToLower(norm.NFC.String(name))
		if code == "vi" {
			name = tones(name)
		}
		last, before := "^", 8
		for _, r := range name + " " {
			this := "^"
			if unicode.IsLetter(r) || unicode.IsMark(r) {
				this = string(r)
			}
			if r >= utf8.RuneSelf && this != "^" && weight(r) > 0 {
				letters[this] += weight(r)
			}
			if n := min(weight(r), before); n > 0 && (len(this) > 1 || len(last) > 1) {
				pairs[last+this] += n
			}
			last, before = this, weight(r)
		}
	}
	// A letter that a language has is not seldom because few names have it.
	total := 0
	for _, n := range letters {
		total += n
	}
	for r := range main {
		if r >= utf8.RuneSelf {
			letters[string(r)] = max(letters[string(r)], total/50)
		}
	}
	if code == "ro" { // as the encodings before Unicode have it
		for _, m := range []map[string]int{letters, pairs} {
			for k, n := range maps.Clone(m) {
				m[strings.NewReplacer("ș", "ş", "ț", "ţ").Replace(k)] = n
			}
		}
	}
	return letters, pairs, nil
}

// countWide counts the characters of a language of East Asia.
func countWide(code string) (letters map[string]int, err error) {
	letters = make(map[string]int)
	list, _, _, err := names(code)
	for _, name := range list {
		for _, r := range name {
			if unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul) || r == 'ー' || r >= 0x3000 && r < 0x3040 {
				letters[string(r)] += 8
			}
		}
	}
	return letters, err
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

// names returns the texts of a language, each once, the letters that it has and
// others that it uses for foreign words.
func names(code string) (list []string, main, other map[rune]bool, err error) {
	main, other = make(map[rune]bool), make(map[rune]bool)
	for _, folder := range []string{"main", "annotations"} {
		more, err := read(filepath.Join(*cldr, folder, files[code]+".xml"), main, other)
		if err != nil {
			return nil, nil, nil, err
		}
		list = append(list, more...)
	}
	slices.Sort(list)
	return slices.Compact(list), main, other, nil
}

// read returns the texts of a file, and enters the letters that it says a language
// has.
func read(path string, main, other map[rune]bool) (list []string, err error) {
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	var set map[rune]bool // that is being read
	d := xml.NewDecoder(file)
	for skip := 0; ; {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		switch token := token.(type) {
		case xml.StartElement:
			if token.Name.Local == "exemplarCharacters" {
				switch {
				case len(token.Attr) == 0:
					set = main
				case token.Attr[0].Value == "auxiliary":
					set = other
				}
			}
			switch {
			case skip > 0, slices.Contains([]string{"exemplarCharacters", "ellipsis", "pattern", "numbers", "eras", "generation",
				"identity"}, token.Name.Local):
				skip++
			}
		case xml.EndElement:
			set = nil
			if skip > 0 {
				skip--
			}
		case xml.CharData:
			for _, r := range string(token) {
				if set != nil && unicode.IsLetter(r) {
					set[unicode.ToLower(r)] = true
				}
			}
			if skip == 0 {
				list = append(list, strings.TrimSpace(string(token)))
			}
		}
	}
	return list, nil
}

// counted returns how many letters were counted.
func counted(letters map[string]int) (n int) {
	for _, count := range letters {
		n += count
	}
	return n / 8
}

// listed writes counts as shares, the largest first, without those that occur less
// often than least.
func listed(counts map[string]int, least int) string {
	total := 0
	for _, n := range counts {
		total += n
	}
	var keys []string
	for k, n := range counts {
		if n*100_000/total >= least {
			keys = append(keys, k)
		}
	}
	slices.SortFunc(keys, func(a, b string) int {
		if n := counts[b] - counts[a]; n != 0 {
			return n
		}
		return strings.Compare(a, b)
	})
	var b strings.Builder
	for i, k := range keys {
		if i > 0 {
			b.WriteByte(' ')
		}
		fmt.Fprintf(&b, "%s%d", k, counts[k]*100_000/total)
	}
	return b.String()
}
