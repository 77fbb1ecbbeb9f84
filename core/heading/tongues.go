package heading

import (
	_ "embed"
	"slices"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/lazy"
)

//go:embed tongues.txt
var tonguesFile string

// tongues are the codes of languages by their names and codes.
var tongues = func() map[string]string {
	m := make(map[string]string)
	for line := range strings.Lines(tonguesFile) {
		code, list, ok := strings.Cut(strings.TrimSpace(line), ":")
		if !ok || line[0] == '#' {
			continue
		}
		m[code] = code
		for name := range strings.SplitSeq(list, ",") {
			key := Key(name)
			if other := m[key]; key == "" || other != "" && other != code {
				panic("tongues.txt: twice or empty: " + name)
			}
			m[key], m[plain(key)] = code, code
		}
	}
	return m
}()

// TongueName returns the name of a language in English, "" of none that is known.
func TongueName(code string) string {
	for line := range strings.Lines(tonguesFile) {
		if of, list, ok := strings.Cut(line, ":"); ok && of == code {
			name, _, _ := strings.Cut(strings.TrimSpace(list), ",")
			return strings.ToUpper(name[:1]) + name[1:]
		}
	}
	return ""
}

// Tongue returns the code of a language by its name or its code, with or without that of a country: "de" of DE, de-AT, German, Deutsch; "" of
// none that is known.
func Tongue(name string) string {
	key := Key(strings.TrimSpace(name))
	if code := tongues[key]; code != "" {
		return code
	}
	if code, _, cut := strings.Cut(strings.ReplaceAll(strings.TrimSpace(name), "_", "-"), "-"); cut && len(code) == 2 {
		return tongues[Key(code)]
	}
	return ""
}

// TongueOf returns the language that a cell names: its code, or as it stands there in small letters if it is not known.
func TongueOf(cell string) string {
	if code := Tongue(cell); code != "" {
		return code
	}
	return strings.ToLower(strings.TrimSpace(cell))
}

// Tongues returns the codes of the languages that headings can name.
func Tongues() (codes []string) {
	for name, code := range tongues {
		if name == code {
			codes = append(codes, code)
		}
	}
	slices.Sort(codes)
	return codes
}

// inTongues are the fields that have a text in each language.
var inTongues = catalogue.FieldsOf(catalogue.Title, catalogue.Description, catalogue.ShortDescription, catalogue.Tags, catalogue.Category,
	catalogue.Type, catalogue.Colour, catalogue.Material, catalogue.ImageAlt)

// The places of a language in a heading: behind what it is of, or before it.
var (
	tongueBehind = lazy.New(`^(.*?[^\s_\-./:(\[])([\s_\-./:(\[]+)([A-Za-z]{2})([-_][A-Za-z]{2})?[)\]]?$`)
	tongueBefore = lazy.New(`^[(\[]?([A-Za-z]{2})([-_][A-Za-z]{2})?([)\]\s_\-./:]+)(.+)$`)
)

// InTongue returns the language that a heading names besides a field that has a text in each:
// "de" and the title for "Name (DE)". The code is "" if it names none.
func InTongue(heading string) (code string, f catalogue.Field) {
	heading = strings.TrimSpace(heading)
	if len(heading) > mostLetters || strings.IndexFunc(heading, func(r rune) bool { return !unicode.IsLetter(r) }) < 0 {
		return "", catalogue.Unknown
	}
	try := func(name, rest string) bool {
		tongue := tongues[Key(name)]
		if tongue == "" {
			return false
		}
		of, _ := plainMeaning(rest)
		if !inTongues.Has(of) {
			return false
		}
		code, f = tongue, of
		return true
	}
	marked := func(name, region, sign string) bool { // a word such as "de" is none
		return region != "" || name == strings.ToUpper(name) || strings.ContainsAny(sign, "([_-./:")
	}
	if m := tongueBehind.FindStringSubmatch(heading); m != nil && marked(m[3], m[4], m[2]) && try(m[3], m[1]) {
		if own, _ := plainMeaning(heading); own.Kind() == catalogue.CodeKind { // Article No
			return "", catalogue.Unknown
		}
		return code, f
	}
	if m := tongueBefore.FindStringSubmatch(heading); m != nil && marked(m[1], m[2], m[3]) && try(m[1], m[4]) {
		return code, f
	}
	words := strings.FieldsFunc(heading, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.Is(unicode.M, r)
	})
	if len(words) < 2 || len(words) > mostTokens {
		return "", catalogue.Unknown
	}
	for i, w := range words {
		if len(w) > 3 && try(w, strings.Join(slices.Concat(words[:i], words[i+1:]), " ")) {
			return code, f
		}
	}
	return "", catalogue.Unknown
}
