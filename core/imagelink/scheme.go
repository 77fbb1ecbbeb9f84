package imagelink

import (
	"strings"

	"golang.org/x/net/publicsuffix"
)

// schemes are http and https as they are mistyped: with a letter too few, one too many, or two that have changed places.
var schemes = func() map[string]string {
	right := map[string]string{}
	wrong := map[string]string{}
	for _, s := range []string{"http", "https"} {
		right[s] = s
		for i := range len(s) {
			wrong[s[:i]+s[i+1:]] += s + " "
			if i > 0 {
				wrong[s[:i-1]+s[i:i+1]+s[i-1:i]+s[i+1:]] += s + " "
			}
		}
		for i := range len(s) + 1 {
			for _, c := range "htps" {
				wrong[s[:i]+string(c)+s[i:]] += s + " "
			}
		}
	}
	right["htpp"], right["htpps"] = "http", "https"
	for w, of := range wrong {
		fields := strings.Fields(of)
		one := true
		for _, f := range fields {
			one = one && f == fields[0]
		}
		if _, is := right[w]; !is && one {
			right[w] = fields[0]
		}
	}
	return right
}()

// startOf returns how many bytes the beginning of an address of the web has: its scheme and slashes, or www.; 0 if there is none.
func startOf(s string) int {
	if len(s) < 4 {
		return 0
	}
	if _, n := schemeOf(s); n > 0 {
		return n
	}
	if strings.EqualFold(s[:4], "www.") && len(s) > 4 && isAlnum(s[4]) {
		return 4
	}
	if n := slashesOf(s); n == 2 || n == 3 && s[0] == ':' {
		if beginsHost(s[n:]) {
			return n
		}
	}
	return 0
}

// slashesOf returns how many bytes a colon, which may be missing, and slashes have at the beginning of a text.
func slashesOf(s string) int {
	i := 0
	if strings.HasPrefix(s, ":") {
		i = 1
	}
	for i < len(s) && (s[i] == '/' || s[i] == '\\') {
		i++
	}
	return i
}

// schemeOf reads the scheme at the beginning of an address of the web, however it is mistyped: hhttp://, http//, https:/, htps ;//.
// n is how many bytes it has with its slashes, 0 if there is none.
func schemeOf(s string) (scheme string, n int) {
	letters := 0
	for letters < len(s) && letters < 8 && isLetter(s[letters]) {
		letters++
	}
	if letters < 3 || letters == 8 {
		return "", 0
	}
	scheme, is := schemes[strings.ToLower(s[:letters])]
	if !is {
		return "", 0
	}
	i := letters
	spaces := func() {
		for i < len(s) && s[i] == ' ' {
			i++
		}
	}
	spaces()
	mark := byte(0)
	if i < len(s) && strings.IndexByte(":;.,", s[i]) >= 0 {
		mark = s[i]
		i++
	}
	spaces()
	slashes := 0
	for i < len(s) && (s[i] == '/' || s[i] == '\\') {
		i++
		slashes++
	}
	switch {
	case i == len(s), slashes == 1 && mark != ':':
		return "", 0
	case slashes == 0:
		if mark != ':' || !beginsHost(s[i:]) {
			return "", 0
		}
	}
	return scheme, i
}

// cutHost returns the host at the beginning of a text, with its port, and what stands behind it.
func cutHost(s string) (host, rest string) {
	if i := strings.IndexAny(s, `/\?#`); i >= 0 {
		return s[:i], s[i:]
	}
	return s, ""
}

// beginsHost reports whether a text begins with the name of a host.
func beginsHost(s string) bool {
	host, _ := cutHost(s[:min(len(s), longestHost+10)])
	return isHost(host)
}

// longestHost is how many bytes the name of a host has at most (RFC 1035, 2.3.4).
const longestHost = 253

// isHost reports whether a text, with a port behind it or not, is surely the name of a host of the web: labels between points, of which
// the last is a domain that everybody can register under (Public Suffix List, and RFC 2606 for what is made up).
func isHost(s string) bool {
	if at := strings.LastIndexByte(s, ':'); at >= 0 {
		port := s[at+1:]
		if port == "" || strings.Trim(port, "0123456789") != "" {
			return false
		}
		s = s[:at]
	}
	if strings.EqualFold(s, "www") || len(s) > longestHost {
		return false
	}
	s = strings.ToLower(s)
	labels := strings.Split(s, ".")
	for _, l := range labels {
		if l == "" || len(l) > 63 || !isLabel(l) {
			return false
		}
	}
	last := labels[len(labels)-1]
	if len(labels) < 2 || !isTop(last) {
		return false
	}
	return len(labels) > 2 || len(last) == 2 || strings.Contains(" com net org info biz example ", " "+last+" ")
}

func isLabel(l string) bool {
	for _, r := range l {
		if r < 0x80 && !isAlnum(byte(r)) && r != '-' && r != '_' || isBlank(r) {
			return false
		}
	}
	return true
}

// isTop reports whether a label is a domain under which hosts are registered.
func isTop(label string) bool {
	if label == "example" {
		return true
	}
	_, icann := publicsuffix.PublicSuffix("a." + label)
	return icann && !isEnding("."+label)
}
