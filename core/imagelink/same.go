package imagelink

import "strings"

// Key returns what is the same for two addresses of one picture: without the scheme, with the host in small letters and without a port
// that goes without saying, with what needs no encoding decoded (RFC 3986, 6.2.2), and without parameters that only count visitors.
// What is no address of the web is its own key.
func Key(link string) string {
	at := strings.Index(link, "://")
	if at < 0 || !strings.EqualFold(link[:at], "http") && !strings.EqualFold(link[:at], "https") {
		return link
	}
	if rest := link[at+3:]; isNormal(rest) {
		return rest
	}
	a := parse(link)
	port := a.port
	if port == ":80" || port == ":443" || port == ":" {
		port = ""
	}
	a.dropParameters(isTracking)
	a.query = strings.TrimSuffix(a.query, "?")
	a.fragment = strings.TrimSuffix(a.fragment, "#")
	return a.user + strings.ToLower(strings.TrimSuffix(a.host, ".")) + port + normal(a.path) + normal(a.query) + a.fragment
}

// isNormal reports whether an address behind its scheme is surely its own key: small letters in the host, no port, nothing encoded, no
// parameters.
func isNormal(s string) bool {
	end := strings.IndexByte(s, '/')
	if end < 1 || s[end-1] == '.' {
		return false
	}
	for i := range end {
		if c := s[i]; c == ':' || c == '@' || c >= 'A' && c <= 'Z' {
			return false
		}
	}
	path := s[end:]
	return strings.IndexByte(path, '%') < 0 && strings.IndexByte(path, '?') < 0 && strings.IndexByte(path, '#') < 0
}

// normal returns a text with what needs no encoding decoded, and the others in capitals.
func normal(s string) string {
	if strings.IndexByte(s, '%') < 0 {
		return s
	}
	b := make([]byte, 0, len(s))
	for i := 0; i < len(s); i++ {
		if s[i] != '%' || !escapes(s[i:]) {
			b = append(b, s[i])
			continue
		}
		if c := unhex(s[i+1])<<4 | unhex(s[i+2]); isAlnum(c) || strings.IndexByte("-._~", c) >= 0 {
			b = append(b, c)
		} else {
			b = append(b, '%', hexDigits[c>>4], hexDigits[c&15])
		}
		i += 2
	}
	return string(b)
}

// isTracking reports whether a parameter only says where a visitor came from.
func isTracking(name string) bool { return len(name) > 4 && strings.EqualFold(name[:4], "utm_") }

// dropParameters takes parameters out of the query by their names; the others stay as they are.
func (a *address) dropParameters(drop func(name string) bool) {
	if len(a.query) < 2 {
		return
	}
	var kept []string
	all := strings.Split(a.query[1:], "&")
	for _, p := range all {
		if name, _, _ := strings.Cut(p, "="); !drop(name) {
			kept = append(kept, p)
		}
	}
	switch {
	case len(kept) == len(all):
	case len(kept) == 0:
		a.query = ""
	default:
		a.query = "?" + strings.Join(kept, "&")
	}
}
