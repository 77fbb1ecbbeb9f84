package imagelink

import (
	"net/url"
	"strings"
	"unicode/utf8"

	"golang.org/x/net/idna"

	"zetanum/core/catalogue"
	"zetanum/core/markup"
)

// Mend returns an address as it should be, with what is certain repaired, and says what it is. What is not the address of a picture,
// as far as can be seen, comes back byte for byte.
//
// Repaired are spaces and marks around it, names of characters as in HTML, backslashes, a scheme that is mistyped, doubled or missing,
// hosts outside of ASCII, characters that have to be encoded (RFC 3986, 2.1), those that were encoded twice, and dot segments (5.2.4).
func Mend(link string) (string, What) {
	out, what := mend(link)
	if what != Picture {
		return link, what
	}
	if out != link && !stays(out) {
		return link, Unclear // what would be read otherwise the next time is not certain
	}
	return out, Picture
}

// stays reports whether an address is read the same the next time.
func stays(out string) bool {
	if plain(out) {
		return true
	}
	if again, what := mend(out); again != out || what != Picture {
		return false
	}
	parts := Split(out)
	return len(parts) == 1 && parts[0] == out
}

func mend(link string) (string, What) {
	if len(link) > longestAddress {
		if what := elsewhere(link); what != Picture {
			return link, what
		}
		return link, Unclear
	}
	s := bare(link)
	if what := elsewhere(s); what != Picture {
		return link, what
	}
	a, what := read(s)
	if what != Picture {
		return link, what
	}
	return a.String(), look(a)
}

// Name returns the name of a file as it is written behind the address of a folder; ok is false if it cannot be.
func Name(name string) (path string, ok bool) {
	if !endsPicture(bare(name)) {
		return "", false
	}
	name = strings.ReplaceAll(bare(name), `\`, "/")
	query := ""
	if i := strings.IndexByte(name, '?'); i >= 0 && isEnding(name[:i]) && !isEnding(name) {
		name, query = name[:i], "?"+encode(name[i+1:], inQuery)
	}
	name = strings.TrimPrefix(name, "./")
	if strings.HasPrefix(name, "/") || strings.HasPrefix(name, "../") || strings.Contains(name, "/../") || strings.ContainsAny(name, "\n\r\t\uFFFD") {
		return "", false
	}
	name = nameMarks.Replace(encode(name, inPath))
	return name + query, name != ""
}

// nameMarks encodes what would end the path.
var nameMarks = strings.NewReplacer("?", "%3F", "#", "%23")

// bare returns a link without spaces and marks around it, and with the characters that HTML writes by their names.
func bare(s string) string {
	for {
		t := strings.TrimFunc(s, isBlank)
		if strings.IndexByte(t, '&') >= 0 {
			t = entities(t)
		}
		if t = unmark(t); t == s {
			return s
		}
		s = t
	}
}

// entities returns a link without the names of characters that belong to HTML. Where a semicolon is missing it is none: there are
// addresses with &copy=1.
func entities(s string) string {
	for i := 0; i < len(s); i++ {
		if s[i] != '&' {
			continue
		}
		end := strings.IndexByte(s[i:], ';')
		if end < 2 || end > 8 {
			continue
		}
		name := s[i : i+end+1]
		if name[1] != '#' && strings.IndexFunc(name[1:end], func(r rune) bool { return r >= utf8.RuneSelf || !isAlnum(byte(r)) }) >= 0 {
			continue
		}
		if text := markup.Unescape(name); text != name {
			s = s[:i] + text + s[i+len(name):]
			i-- // &amp;amp;
		}
	}
	return s
}

// unmark takes marks off around a link, also where one is missing. An apostrophe at its end may belong to it.
func unmark(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	last, m := utf8.DecodeLastRuneInString(s)
	if len(s) <= n+m {
		return s
	}
	if _, opens := pairs[first]; opens {
		s = s[n:]
		if first == '\'' && last == '\'' {
			return s[:len(s)-m]
		}
	}
	if strings.ContainsRune("\"`>“”„»«›’‘", last) && (last != '"' || !isDigit(s[len(s)-2])) {
		s = s[:len(s)-m]
	}
	return s
}

// elsewhere says of a text that is surely no address of the web what it is.
func elsewhere(s string) What {
	lower := strings.ToLower(s[:min(len(s), 24)])
	begins := func(prefixes ...string) bool {
		for _, p := range prefixes {
			if strings.HasPrefix(lower, p) {
				return true
			}
		}
		return false
	}
	switch {
	case begins("="):
		return Formula
	case begins("data:"):
		return Data
	case len(s) > 2 && isLetter(s[0]) && s[1] == ':' && (s[2] == '\\' || s[2] == '/') || begins("file:", "/users/", "/home/", "/volumes/", "/mnt/", "~/"):
		return Disk
	case begins(`\\`):
		if host, _ := cutHost(s[2:]); isHost(host) && !strings.HasPrefix(s, `\\\`) {
			return Picture // an address without its scheme
		}
		return Share
	case begins("smb:", "cifs:", "nfs:", "afp:"):
		return Share
	}
	if at := strings.Index(s, "://"); at > 0 && at < 16 && isScheme(s[:at]) {
		if _, n := schemeOf(s); n == 0 {
			return Scheme
		}
	}
	if begins("blob:", "cid:", "mailto:", "content:", "javascript:", "tel:") {
		return Scheme
	}
	return Picture
}

// isScheme reports whether a text is the scheme of an address (RFC 3986, 3.1).
func isScheme(s string) bool {
	for i := range len(s) {
		if c := s[i]; !isLetter(c) && (i == 0 || !isDigit(c) && c != '+' && c != '-' && c != '.') {
			return false
		}
	}
	return s != ""
}

// An address is one of the web, taken apart. Path, query and fragment have their marks before them; what is not there is empty.
type address struct {
	scheme, user, host, port, path, query, fragment string
}

func (a *address) String() string {
	return a.scheme + "://" + a.user + a.host + a.port + a.path + a.query + a.fragment
}

// read reads an address, and repairs what is certain. what says what the text is if it is none.
func read(s string) (a address, what What) {
	rest, what := a.readScheme(s)
	if what != Picture {
		return a, what
	}
	authority, rest := cutHost(rest)
	if at := strings.LastIndexByte(authority, '@'); at >= 0 {
		a.user, authority = authority[:at+1], authority[at+1:]
	}
	if !a.readHost(authority) || a.port == ":" && strings.HasPrefix(rest, "//") || isUnclear(rest) {
		return a, Unclear
	}
	if at := strings.IndexByte(rest, '#'); at >= 0 {
		rest, a.fragment = rest[:at], rest[at:]
	}
	if at := strings.IndexByte(rest, '?'); at >= 0 {
		rest, a.query = rest[:at], rest[at:]
	}
	if isEnding(a.fragment) && !isEnding(rest) || a.query != "" && !strings.Contains(a.query, "=") && isEnding(a.query) && !isEnding(rest) {
		return a, Unclear // a # or ? that belongs to the name, or does not
	}
	if spacesUnclear(rest, a.query+a.fragment) || !catalogue.IsASCII(rest) && foreign(rest) {
		return a, Unclear
	}
	a.path = dots(encode(decodeTwice(strings.ReplaceAll(rest, `\`, "/")), inPath))
	if a.query != "" {
		a.query = "?" + encode(a.query[1:], inQuery)
	}
	if a.fragment != "" {
		a.fragment = "#" + encode(a.fragment[1:], inQuery)
	}
	return a, Picture
}

// isUnclear reports whether what stands behind a host has characters that are in no address, and that nobody would encode.
func isUnclear(rest string) bool {
	path, _, _ := strings.Cut(rest, "?")
	return strings.Contains(path, " /") || strings.Contains(path, "/ ") || strings.Contains(path, "|") ||
		strings.ContainsFunc(rest, func(r rune) bool { return r != ' ' && isBlank(r) || r == utf8.RuneError })
}

// spacesUnclear reports whether spaces may stand before something that does not belong to the address: a word behind it. Those within
// the name of a picture belong to it, and so do those within parameters if there is another behind them.
func spacesUnclear(path, behind string) bool {
	if at := strings.LastIndexByte(behind, ' '); at >= 0 && !strings.ContainsAny(behind[at:], "&=") {
		return true
	}
	if strings.IndexByte(path, ' ') < 0 && strings.IndexByte(behind, ' ') < 0 {
		return false
	}
	if !isEnding(path) {
		return true
	}
	for i := range len(path) {
		if path[i] == ' ' && isEnding(path[:i]) {
			return true
		}
	}
	return false
}

// foreign reports whether what is encoded in a path is in another encoding than UTF-8, in which the rest of it would have to be, too.
func foreign(path string) bool {
	text, err := url.PathUnescape(encode(path, inPath))
	return err == nil && !utf8.ValidString(text)
}

// readScheme reads the scheme, and returns what stands behind it.
func (a *address) readScheme(s string) (rest string, what What) {
	scheme, n := schemeOf(s)
	for rest = s; n > 0; {
		as := rest[:n]
		if rest = rest[n:]; scheme+"://" == strings.ToLower(as) {
			a.scheme = as[:len(scheme)] // with its capitals
		} else {
			a.scheme = scheme
		}
		scheme, n = schemeOf(rest)
		if n > 0 && !strings.Contains(rest[:n], "//") && !strings.Contains(rest[:n], `\\`) {
			n = 0
		}
	}
	if a.scheme != "" {
		return rest, Picture
	}
	a.scheme = "https"
	if n := slashesOf(s); n == 2 || n == 3 && s[0] == ':' {
		if host, path := cutHost(s[n:]); isHost(host) && len(path) > 1 {
			return s[n:], Picture
		}
		if host, path := cutHost(s[n:]); host != "" && !strings.Contains(host, ".") && path != "" {
			return s, Share
		}
		return s, Unclear
	}
	host, path := cutHost(s)
	if len(path) > 1 && (isHost(host) || strings.HasPrefix(strings.ToLower(host), "www.") && isLabels(host)) {
		return s, Picture
	}
	switch {
	case len(host) > 4 && strings.EqualFold(host[:4], "www.") && isLabels(host):
		return s, Page
	case strings.Contains(s, "://") || strings.Contains(strings.ToLower(s), "www."):
		return s, Unclear // something stands before it
	case endsPicture(s):
		if at := strings.IndexByte(s, ':'); at > 0 && isScheme(s[:at]) || strings.ContainsAny(s, "<>\"") {
			return s, Unclear
		}
		return s, FileName
	case !strings.ContainsFunc(s, isBlank) && len(s) > 1 && (s[0] == '/' || strings.Contains(s, "?") && strings.Contains(s, "=")):
		return s, FileName // a path of the shop's own
	}
	return s, NoLink
}

// isLabels reports whether a text is made of names between points.
func isLabels(s string) bool {
	for l := range strings.SplitSeq(s, ".") {
		if l == "" || !isLabel(l) {
			return false
		}
	}
	return true
}

// hosts encodes labels outside of ASCII: as browsers do, without looking at hyphens, which real hosts have in any place.
var hosts = idna.New(idna.MapForLookup(), idna.Transitional(false), idna.CheckHyphens(false), idna.BidiRule())

// readHost reads a host and its port; ok is false if it is none.
func (a *address) readHost(s string) (ok bool) {
	a.host = s
	if strings.HasPrefix(s, "[") {
		end := strings.IndexByte(s, ']')
		if end < 0 {
			return false
		}
		a.host, a.port = s[:end+1], s[end+1:]
		return a.port == "" || a.port[0] == ':'
	}
	if at := strings.IndexByte(s, ':'); at >= 0 {
		a.host, a.port = s[:at], s[at:]
		if strings.Trim(a.port[1:], "0123456789") != "" || len(a.port) > 6 {
			return false
		}
	}
	if catalogue.IsASCII(a.host) {
		return a.host != "" && isLabels(strings.TrimSuffix(a.host, "."))
	}
	labels := strings.Split(a.host, ".")
	for i, l := range labels {
		if catalogue.IsASCII(l) {
			continue
		}
		encoded, err := hosts.ToASCII(l)
		if err != nil || strings.Contains(encoded, ".") {
			return false
		}
		labels[i] = encoded
	}
	a.host = strings.Join(labels, ".")
	return isLabels(strings.TrimSuffix(a.host, "."))
}
