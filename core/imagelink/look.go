package imagelink

import (
	"net/url"
	"strings"

	"zetanum/core/lazy"
	"zetanum/core/network"
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
		return network.IsLocalName(strings.Trim(host, "[]"))
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

var (
	// pages are endings of pages, and of files that are no pictures.
	pages = lazy.New(`(?i)\.(?:s?html?|xhtml|php\d?|aspx?|jspx?|cfm|do|pdf|docx?|xlsx?|pptx?|csv|txt|zip|rar|7z|mp4|mov|xml|json|js|css)$`)
	// serves fits the names of programs that give out pictures.
	serves = lazy.New(`(?i)ima?ge?|thumb|pic|photo|foto|bild|media|resize`)
	// views are folders and parameters of pages that show a picture.
	views      = lazy.New(`(?i)/(?:share[ds]?|sharing|albums?|galler(?:y|ies)|viewer|folders?|embed|lightbox|slideshow)(?:/|$)|/(?:view|edit|preview|open|show)$|/d/[^/.]{8,}/?$|/s/[^/]{6,}/?$`)
	viewParams = lazy.New(`(?i)[?&](?:(?:dl|download|raw)=(?:0|no|false)(?:&|$)|[a-z]+=(?:shar(?:e|ing)|viewer)(?:&|$)|share=|preview=)`)
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
	ends  = lazy.New(`(?i)[?&;](?:(?:x-[a-z]+-)*expir(?:es|e|y|es_?(?:at|in)|ation)|se|exp|valid_?(?:until|to)|e|ttl)=[0-9]`)
	signs = lazy.New(`(?i)[?&;](?:(?:x-[a-z]+-)*sig(?:nature)?|token|hmac|hash|policy|s|st|md5|(?:[a-z]+-)*key(?:-[a-z]+)*-?id)=[^&;]`)
	long  = lazy.New(`(?i)[?&;](?:x-[a-z]+-)+expires=`)
)

// expires reports whether an address is signed and good until a time: it has a parameter for each.
func expires(query string) bool {
	return long.MatchString(query) || ends.MatchString(query) && signs.MatchString(query)
}

// types are the endings of pictures of one type, by the usual one.
var types = map[string]string{"jpeg": "jpg", "jpe": "jpg", "jfif": "jpg", "tiff": "tif", "heif": "heic"}

// TypeOf returns the type of the picture to which a link leads, by the ending of its name: "jpg", "png", "tif"; "" if it has none.
func TypeOf(link string) string {
	link = withoutQuery(link)
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
	link = withoutQuery(link)
	name := link[strings.LastIndexByte(link, '/')+1:]
	if at := strings.LastIndexByte(name, '.'); at > 0 {
		name = name[:at]
	}
	if text, err := url.PathUnescape(name); err == nil {
		return text
	}
	return name
}
