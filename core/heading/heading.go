// Package heading says what the columns of a sheet mean: by the names above
// them, and by what stands in them where the names say nothing.
//
// What headings are made of is data, in parts.txt, in the languages whose encodings are
// known; names.txt has those whose parts do not say it.
package heading

import (
	_ "embed"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"zetanum/core/catalogue"
)

//go:embed names.txt
var namesFile string

// nameList are headings that are known as a whole.
type nameList struct {
	fields  map[string]catalogue.Field // by the key of the heading
	further map[string]bool            // the keys of columns that may stand beside another of the same field
	first   map[string]bool            // the words with which they begin
	product map[string]bool            // the keys of those that name the product, and nothing of it
}

var names = sync.OnceValue(func() *nameList { return parseNames(namesFile) })

// parseNames reads names.txt. A fault in it is a fault of the program.
func parseNames(file string) *nameList {
	m, further, firstWords := make(map[string]catalogue.Field), make(map[string]bool), make(map[string]bool)
	product := make(map[string]bool)
	for line := range strings.Lines(file) {
		line = strings.TrimSpace(line)
		if line == "" || line[0] == '#' {
			continue
		}
		field, list, _ := strings.Cut(line, ":")
		if field == "sku or title" {
			for name := range strings.SplitSeq(list, ",") {
				for _, key := range spellings(Key(name)) {
					product[key] = true
				}
			}
			continue
		}
		field, more := strings.CutSuffix(field, " +")
		f, ok := catalogue.ParseField(field)
		if !ok {
			panic("names.txt: no field " + field)
		}
		for _, name := range strings.Split(list, ",") {
			key := Key(name)
			if _, twice := m[key]; twice || key == "" {
				panic("names.txt: twice or empty: " + name)
			}
			m[key] = f
			first, _, _ := strings.Cut(strings.TrimSpace(name), " ")
			firstWords[strings.ToLower(first)], firstWords[plain(strings.ToLower(first))] = true, true
			if more {
				further[key] = true
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(m)) {
		for _, other := range spellings(key)[1:] {
			if _, there := m[other]; !there {
				m[other] = m[key]
			}
		}
	}
	return &nameList{m, further, firstWords, product}
}

var umlauts = strings.NewReplacer("ä", "ae", "ö", "oe", "ü", "ue", "ß", "ss")

// spellings returns a key, and how else programs and capitals write it.
func spellings(key string) []string {
	if catalogue.IsASCII(key) {
		return []string{key}
	}
	all := []string{key, plain(key)}
	if capitals := strings.ReplaceAll(key, "ß", "ss"); capitals != key { // GRÖSSE
		all = append(all, capitals, plain(capitals))
	}
	if written := umlauts.Replace(key); written != key {
		all = append(all, plain(written))
	}
	return all
}

// plain returns a key without accents.
func plain(key string) string {
	if catalogue.IsASCII(key) {
		return key
	}
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Mn, r):
			return -1
		case r == 'ł':
			return 'l'
		}
		return r
	}, norm.NFD.String(key))
}

// Key returns the letters and digits of a heading in lower case: what two
// spellings of one heading have in common.
func Key(heading string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, heading)
}

// Digits returns the digits of a heading: what is called Image 2 and Image 2 alt text belongs together.
func Digits(heading string) string {
	return strings.Map(func(r rune) rune {
		if r < '0' || r > '9' {
			return -1
		}
		return r
	}, heading)
}

// Field returns what a heading means: by its name or by its parts; [catalogue.Unknown] if
// neither is known.
func Field(heading string) catalogue.Field {
	f, _ := meaningOf(heading)
	return f
}

// NamesProduct reports whether a heading names the product, and nothing of it, so that its number or its name may
// stand below: Article.
func NamesProduct(heading string) bool {
	return len(heading) <= mostLetters && names().product[Key(norm.NFC.String(heading))]
}

// meaningOf is [Field], and says whether the column may stand beside another of the field.
func meaningOf(heading string) (f catalogue.Field, isFurther bool) {
	if !mayBegin(heading) {
		return catalogue.Unknown, false
	}
	if f, isFurther = plainMeaning(heading); f != catalogue.Unknown && !inTongues.Has(f) {
		return f, isFurther
	}
	if code, of := InTongue(heading); code != "" {
		return of, true
	}
	return f, isFurther
}

// plainMeaning is meaningOf of a heading that names no language.
func plainMeaning(heading string) (f catalogue.Field, isFurther bool) {
	key := Key(norm.NFC.String(heading))
	if f, ok := names().fields[key]; ok {
		return f, names().further[key]
	}
	m := parts().byParts(heading)
	return m.field, m.further
}

// Count returns how many of the headings are in the table.
func Count(headings []string) int { return CountOver(headings, -1) }

// CountOver is Count where that is more than a number; otherwise it may be any up to that.
func CountOver(headings []string, than int) (n int) {
	for i, h := range headings {
		if n+len(headings)-i <= than {
			break
		}
		if h != "" && Field(h) != catalogue.Unknown {
			n++
		}
	}
	return n
}

// Fields returns the field of each heading. said, by heading, overrules the
// table; its keys are compared like headings. A field other than barcode that
// two headings share belongs to the first of them, or to that which is called SKU: the second stays unknown,
// unless it says that it is a second one. A field that is near to one which is missing stands in its place.
func Fields(headings []string, said map[string]catalogue.Field) []catalogue.Field {
	byKey := make(map[string]catalogue.Field, len(said))
	var taken catalogue.Fields
	for h, f := range said {
		byKey[Key(h)] = f
		taken |= catalogue.FieldsOf(f)
	}
	fields := make([]catalogue.Field, len(headings))
	for i, h := range headings {
		if f, ok := byKey[Key(h)]; ok {
			fields[i] = f
			continue
		}
		f, isFurther := meaningOf(h)
		switch {
		case f == catalogue.Unknown:
			continue
		case isFurther:
			// The first column of a field is the product's own.
			if !taken.Has(f) && hasOwn(headings[i+1:], f) {
				continue
			}
		case f != catalogue.Barcode && taken.Has(f):
			continue
		case f == catalogue.SKU && Key(h) != "sku" && slices.ContainsFunc(headings[i+1:], func(other string) bool { return Key(other) == "sku" }):
			continue // somebody's number, beside what is called an SKU
		}
		fields[i] = f
		taken |= catalogue.FieldsOf(f)
	}
	for i, h := range headings {
		if _, ok := byKey[Key(h)]; ok {
			continue
		}
		if near := fields[i].Near(); near != catalogue.Unknown && !taken.Has(near) {
			fields[i] = near
			taken |= catalogue.FieldsOf(near)
		}
	}
	return fields
}

// hasOwn reports whether one of the headings names a field, and not as a further
// column of it.
func hasOwn(headings []string, f catalogue.Field) bool {
	return slices.ContainsFunc(headings, func(h string) bool {
		of, isFurther := meaningOf(h)
		return of == f && !isFurther
	})
}

// isScientific reports whether a cell reads like 9.52123E+12: a number of 12
// to 14 digits.
func isScientific(c string) bool {
	if strings.IndexByte(c, '+') < 0 {
		return false
	}
	m, e, found := strings.Cut(strings.ToUpper(c), "E+")
	if !found || e != "11" && e != "12" && e != "13" || len(m) < 3 {
		return false
	}
	return m[0] >= '1' && m[0] <= '9' && (m[1] == '.' || m[1] == ',') && strings.Trim(m[2:], "0123456789") == ""
}
