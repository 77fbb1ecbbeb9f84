package rescue

import (
	"fmt"
	"regexp"
	"strings"
	"sync"

	"zetanum/core/barcode"
)

// What people write around a code: names of codes in the languages in which most shops
// are, with the kind and a word for number.
const (
	codeNames = `e\.?a\.?n|gtin|u\.?p\.?c|isbn|issn|jan|bar ?code|strichcode|code[- ]?(?:a )?barres?|codice a barre|codigo de barras|` +
		`streepjescode|streckkod|stregkode|strekkode|kod kreskowy|carovy kod|vonalkod|barkod`
	codeKind = `(?:[-_ ]?(?:8|10|12|13|14|a|e)\b)?`
	codeWord = `(?:[-_ ]?(?:code|codes|number|nummer|numero|num|no|nr)\b\.?)?`
	oneLabel = `(?:` + codeNames + `)` + codeKind + codeWord
)

// label is what people write before a code, or a standard does: (01) says that a GTIN
// follows. labelBehind is the same behind it.
var (
	label = sync.OnceValue(func() *regexp.Regexp {
		return regexp.MustCompile(`^(?i)(?:\(01\)|[(\[{<]?` + oneLabel + `(?:[ ]?[/(\[][ ]?` + oneLabel + `)*[)\]}>]?)[ .:#=/-]*`)
	})
	labelBehind = sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(`(?i)[ ,;:/(\[{<-]+` + oneLabel + `[)\]}>.]*$`) })
)

// undress takes off what stands around a code. What is left has no mark at its ends that
// a number could not have there.
func undress(s string) string {
	for before := ""; before != s; {
		before = s
		s = strings.Trim(s, " '`\"#$*")
		s = unlabel(s)
		if at := labelBehind().FindStringIndex(s); at != nil && at[0] > 0 {
			s = s[:at[0]]
		}
		s = strings.TrimRight(s, " .,;:/|'")
		if n := len(s) - 1; n > 0 && strings.ContainsAny(s[:1], "([{<") && strings.ContainsAny(s[n:], ")]}>") {
			s = s[1:n]
		}
	}
	return s
}

// unlabel takes a label off the beginning of a text. A kind of code in numbers is one only
// if the digits behind it are not a code together with it: UPC 12 3456 7890 may be twelve.
func unlabel(s string) string {
	found := label().FindString(s)
	rest := s[len(found):]
	kind := strings.TrimRight(found, " .:#=/-)]}>")
	before := strings.TrimRight(kind, "0123456789")
	n := len(strings.Map(func(r rune) rune {
		if r < '0' || r > '9' {
			return -1
		}
		return r
	}, rest))
	if k := kind[len(before):]; k != "" && k != "01" && fmt.Sprint(n) != k && barcode.LegalLength(n+len(k)) {
		return s[len(before):]
	}
	return rest
}

// formula is a formula that shows a text or a whole number as it is: ="…", =…, or a function
// that changes no digit of it, in the languages of spreadsheet programs, perhaps with empty
// texts beside it, or with a format of digits behind it.
var formula = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`^'?\s*=\s*(?:(?i:` + textFunctions + `)\(\s*|(?i:` + linkFunctions + `)\(\s*"[^"]*"\s*[;,]\s*|""\s*[;,&]\s*)*` +
		`(?:"+([^"]*)"+|([0-9]{6,15}))\s*(?:[;,&]\s*""\s*)*(?:[;,]\s*"?([0#@]+)"?\s*)?\)*\s*$`)
})

// linkFunctions are the functions that show their second text.
const linkFunctions = `HYPERLINK|LIEN_HYPERTEXTE|HIPERV[IÍ]NCULO|HIPERLINK|COLLEG\.IPERTESTUALE|HYPERLÄNK|HIPERŁĄCZE|HIPERHIVATKOZÁS|ГИПЕРССЫЛКА|KÖPRÜ`

// textFunctions are the functions that make a text of something, or a number, trim it or join one.
const textFunctions = `T|TEXT|TEXTE|TEXTO|TESTO|TEKST|TEKSTI|SZÖVEG|METNEÇEVİR|HODNOTA\.NA\.TEXT|ТЕКСТ|` +
	`TRIM|GLÄTTEN|SUPPRESPACE|ESPACIOS|ARRUMAR|ANNULLA\.SPAZI|SPATIES\.WISSEN|RENSA|FJERN\.OVERFLØDIGE\.BLANKE|USUŃ\.ZBĘDNE\.ODSTĘPY|` +
	`CLEAN|SÄUBERN|EPURAGE|LIMPIAR|TIRAR|LIBERA|WISSEN\.CONTROL|STÄDA|RENS|OCZYŚĆ|` +
	`CONCAT|CONCATENATE|VERKETTEN|TEXTKETTE|CONCATENER|CONCATENAR|CONCATENA|TEKST\.SAMENVOEGEN|SAMMANFOGA|SAMMENKÆDNING|` +
	`ZŁĄCZ\.TEKSTY|ZŁĄCZ\.TEKST|СЦЕПИТЬ|BİRLEŞTİR|` +
	`VALUE|WERT|CNUM|VALOR|VALORE|WAARDE|TEXTNUM|VÆRDI|WARTOŚĆ|ARVO|ЗНАЧЕН|SAYIYAÇEVİR`

// unformula returns the text that a formula shows, and any other cell as it is.
func unformula(cell string) string {
	if strings.IndexByte(cell, '=') < 0 {
		return cell
	}
	if m := formula().FindStringSubmatch(strings.TrimSpace(cell)); m != nil {
		text := m[1] + m[2]
		if zeros := strings.Count(m[3], "0"); zeros > len(text) && zeros <= 18 && strings.Trim(text, "0123456789") == "" && text != "" {
			return strings.Repeat("0", zeros-len(text)) + text
		}
		return text
	}
	return cell
}
