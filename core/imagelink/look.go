package imagelink

import (
	"net/netip"
	"regexp"
	"strings"
)

// parse takes an address apart that is right.
func parse(s string) (a address) {
	a.scheme, s, _ = strings.Cut(s, "://")
	authority, rest := cutHost(s)
	if at := strings.LastIndexByte(authority, '@'); at >= 0 {
		a.user, authority = authority[:at+1], authority[at+1:]
	}
	a.host = authority
	if at := strings.LastIndexByte(authority, ':'); at >= 0 && !strings.HasSuffix(authority, "]") {
		a.host, a.port = authority[:at], authority[at:]
	}
	if at := strings.IndexByte(rest, '#'); at >= 0 {
		rest, a.fragment = rest[:at], rest[at:]
	}
	if at := strings.IndexByte(rest, '?'); at >= 0 {
		rest, a.query = rest[:at], rest[at:]
	}
	a.path = rest
	return a
}

// look says where an address of the web leads, as far as that can be seen from it.
func look(a address) What {
	switch {
	case a.user != "":
		return Login
	case isPrivateHost(a.host):
		return Private
	case a.query != "" && expires(a.query):
		return Expires
	case isEnding(a.path) && (a.query == "" || !viewParams.MatchString(a.query)):
		return Picture
	case isPage(a.path, a.query):
		return Page
	case isViewer(a.path, a.query):
		return Viewer
	}
	return Picture
}

// isPrivateHost reports whether a host exists only on a computer or in a network of its own (RFC 6761, RFC 6762, RFC 8375).
func isPrivateHost(host string) bool {
	if host == "" {
		return false
	}
	if last := host[len(host)-1]; last == ']' || isDigit(last) {
		addr, err := netip.ParseAddr(strings.Trim(host, "[]"))
		return err == nil && IsPrivate(addr)
	}
	host = strings.TrimSuffix(host, ".")
	at := strings.LastIndexByte(host, '.')
	if at < 0 {
		return true
	}
	switch last := host[at+1:]; len(last) {
	case 3, 4, 5, 8, 9:
		switch strings.ToLower(last) {
		case "lan", "home", "corp", "local", "internal", "intranet", "localhost":
			return true
		case "arpa":
			return strings.HasSuffix(strings.ToLower(host), "home.arpa")
		}
	}
	return false
}

// notPublic are addresses that are nobody's, besides those that package netip knows (RFC 6890, and RFC 6598 for those of providers).
var notPublic = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"),
	netip.MustParsePrefix("198.18.0.0/15"), netip.MustParsePrefix("240.0.0.0/4"), netip.MustParsePrefix("64:ff9b:1::/48"),
	netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("fec0::/10"),
}

// IsPrivate reports whether an address on the net is one that is not open to everybody: that of the computer itself, of a network of
// its own, of its neighbours, of many at once, or of nobody. An address of version 4 within one of version 6 counts as itself.
func IsPrivate(addr netip.Addr) bool {
	addr = addr.Unmap().WithZone("")
	if addr.Is6() {
		b := addr.As16()
		switch {
		case netip.MustParsePrefix("64:ff9b::/96").Contains(addr):
			return IsPrivate(netip.AddrFrom4([4]byte(b[12:])))
		case netip.MustParsePrefix("2002::/16").Contains(addr):
			return IsPrivate(netip.AddrFrom4([4]byte(b[2:6])))
		}
	}
	if !addr.IsValid() || addr.IsPrivate() || addr.IsLoopback() || addr.IsUnspecified() || addr.IsMulticast() || addr.IsLinkLocalUnicast() {
		return true
	}
	for _, p := range notPublic {
		if p.Contains(addr) {
			return true
		}
	}
	return false
}

var (
	// pages are endings of pages, and of files that are no pictures.
	pages = regexp.MustCompile(`(?i)\.(?:s?html?|xhtml|php\d?|aspx?|jspx?|cfm|do|pdf|docx?|xlsx?|pptx?|csv|txt|zip|rar|7z|mp4|mov|xml|json|js|css)$`)
	// serves fits the names of programs that give out pictures.
	serves = regexp.MustCompile(`(?i)ima?ge?|thumb|pic|photo|foto|bild|media|resize`)
	// views are folders and parameters of pages that show a picture.
	views      = regexp.MustCompile(`(?i)/(?:share[ds]?|sharing|albums?|galler(?:y|ies)|viewer|folders?|embed|lightbox|slideshow)(?:/|$)|/d/[^/]+/(?:view|edit|preview)$|/file/d/[^/]+$|/(?:view|preview|open|show)$|/s/[^/]{6,}/?$`)
	viewParams = regexp.MustCompile(`(?i)[?&](?:dl=0|usp=sharing|share=|view=(?:share|viewer)|preview=)`)
)

// isPage reports whether an address leads to a page or a file that is no picture, by its ending.
func isPage(path, query string) bool {
	if path == "" || path == "/" {
		return query == "" || query == "?"
	}
	name := path[strings.LastIndexByte(path, '/')+1:]
	return pages.MatchString(name) && !(query != "" && serves.MatchString(name[:strings.LastIndexByte(name, '.')]))
}

// isViewer reports whether an address leads to a page that shows a picture, by its shape.
func isViewer(path, query string) bool {
	return query != "" && viewParams.MatchString(query) || views.MatchString(path)
}

var (
	ends  = regexp.MustCompile(`(?i)[?&;](?:(?:x-[a-z]+-)*expir(?:es|e|y|es_?(?:at|in)|ation)|se|exp|valid_?(?:until|to)|e|ttl)=[0-9]`)
	signs = regexp.MustCompile(`(?i)[?&;](?:(?:x-[a-z]+-)*sig(?:nature)?|token|hmac|hash|policy|s|st|md5|key-pair-id)=[^&;]`)
	long  = regexp.MustCompile(`(?i)[?&;](?:x-[a-z]+-)+expires=`)
)

// expires reports whether an address is signed and good until a time: it has a parameter for each.
func expires(query string) bool {
	return long.MatchString(query) || ends.MatchString(query) && signs.MatchString(query)
}

// types are the endings of pictures of one type, by the usual one.
var types = map[string]string{"jpeg": "jpg", "jpe": "jpg", "jfif": "jpg", "tiff": "tif", "heif": "heic"}

// TypeOf returns the type of the picture to which a link leads, by the ending of its name: "jpg", "png", "tif"; "" if it has none.
func TypeOf(link string) string {
	if at := strings.IndexAny(link, "?#"); at >= 0 {
		link = link[:at]
	}
	if !isEnding(link) {
		return ""
	}
	return usualType(link[strings.LastIndexByte(link, '.')+1:])
}

// IsType reports whether a text is the ending of pictures of a type, with a point before it or not.
func IsType(ending string) bool { return isPictureEnding(strings.TrimPrefix(ending, ".")) }

// SameType reports whether two endings are of one type: jpg and JPEG.
func SameType(a, b string) bool { return usualType(a) == usualType(b) }

func usualType(ending string) string {
	ending = strings.ToLower(strings.TrimPrefix(ending, "."))
	if usual, is := types[ending]; is {
		return usual
	}
	return ending
}

// FileOf returns the name of the file to which a link leads, decoded and without its ending.
func FileOf(link string) string {
	if at := strings.IndexAny(link, "?#"); at >= 0 {
		link = link[:at]
	}
	name := link[strings.LastIndexByte(link, '/')+1:]
	if at := strings.LastIndexByte(name, '.'); at > 0 {
		name = name[:at]
	}
	if text, ok := decode(name); ok {
		return text
	}
	return name
}
