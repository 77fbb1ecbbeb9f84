package markup

import (
	"slices"
	"strings"
)

// cleanAddress returns an address as a browser reads it, without the spaces and control characters that it passes over, and its
// scheme in small letters, "" if it has none and so stays within the shop (WHATWG URL Standard, 4.4).
func cleanAddress(s string) (address, scheme string) {
	s = strings.TrimFunc(s, func(r rune) bool { return r <= ' ' })
	if strings.ContainsAny(s, "\t\n\r") {
		s = strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(s)
	}
	for i := range len(s) {
		switch c := s[i]; {
		case isLetter(c), i > 0 && (c >= '0' && c <= '9' || c == '+' || c == '-' || c == '.'):
		case c == ':' && i > 0:
			return s, lower(s[:i])
		default:
			return s, ""
		}
	}
	return s, ""
}

// hostOf returns the host to which an address of the web leads, in small letters and without its port; "" of one that stays where it
// is, or leads to something else. It is read as browsers read it, which take any number of slashes, of both kinds.
func hostOf(address string) string {
	_, scheme := cleanAddress(address)
	rest := address
	if scheme != "" {
		rest = address[len(scheme)+1:]
	}
	slashes := 0
	for slashes < len(rest) && (rest[slashes] == '/' || rest[slashes] == '\\') {
		slashes++
	}
	if web := scheme == "http" || scheme == "https"; !web && (scheme != "" || slashes < 2) {
		return ""
	}
	rest = rest[slashes:]
	if end := strings.IndexAny(rest, `/\?#`); end >= 0 {
		rest = rest[:end]
	}
	if at := strings.LastIndexByte(rest, '@'); at >= 0 {
		rest = rest[at+1:]
	}
	if at := strings.LastIndexByte(rest, ':'); at >= 0 && !strings.HasSuffix(rest, "]") {
		rest = rest[:at]
	}
	return lower(strings.TrimSuffix(rest, "."))
}

// Leaves reports whether a link leads to the pages of another host than those of the shop.
func Leaves(address string, own []string) bool {
	host := hostOf(address)
	return host != "" && !slices.ContainsFunc(own, func(h string) bool { return strings.EqualFold(strings.TrimSpace(h), host) })
}

// Insecure reports whether what an address leads to is fetched without encryption.
func Insecure(address string) bool {
	_, scheme := cleanAddress(address)
	return scheme == "http"
}

// Leads reports whether a link leads to something that has to be there: a page, a file, a picture.
func Leads(l Link) bool {
	address, scheme := cleanAddress(l.Address)
	return address != "" && (scheme == "" && address[0] != '#' || slices.Contains(pictureSchemes, scheme))
}

// astray reports whether a link surely leads nowhere: it is empty, or has no host, a scheme that nobody knows, or a space in it; or it
// begins with the name of a host, which without https:// is taken for a page of the shop.
func astray(address string) bool {
	cleaned, scheme := cleanAddress(address)
	switch scheme {
	case "":
		return cleaned == "" || cleaned == "#" || strings.ContainsAny(cleaned, " ") || len(cleaned) > 4 && strings.EqualFold(cleaned[:4], "www.")
	case "http", "https":
		host := hostOf(cleaned)
		return !strings.Contains(host, ".") && !strings.Contains(host, ":") || strings.ContainsAny(cleaned, " ")
	case "mailto":
		return !strings.Contains(cleaned, "@")
	}
	return !slices.Contains(linkSchemes, scheme) && !slices.Contains([]string{"ftp", "sms", "javascript", "vbscript", "data", "file"}, scheme)
}
