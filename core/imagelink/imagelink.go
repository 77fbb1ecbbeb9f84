// Package imagelink puts links of pictures in order, as they stand in the cells of a catalogue. It takes cells apart that have several,
// repairs what is certain, and says of the others what they are instead of the address of a picture:
//
//	" http//cdn.shop.example/Stuhl rot.jpg"        http://cdn.shop.example/Stuhl%20rot.jpg
//	"//cdn.shop.example/a.jpg;//cdn.shop.example/b.jpg"   two links, with https: before them
//	"C:\Pictures\chair.jpg"                        a file on a disk
//	"https://files.shop.example/d/1aB9/view"       a page that shows the picture
//
// What is written is an address as RFC 3986 has it, with hosts outside of ASCII as RFC 5891 has them. An address that is right, however
// odd, comes out byte for byte, and so does one of which it is not certain what was meant.
package imagelink

import "strings"

// A What says what stands in place of the address of a picture. The zero value is such an address, as far as can be seen.
type What uint8

// What can stand there. From Login on it is an address of the web, and still none that an importer would get the picture from.
const (
	Picture  What = iota
	NoLink        // words
	FileName      // the name of a file, without an address before it
	Disk          // a path on somebody's disk
	Share         // a path in somebody's network
	Data          // the picture itself, written out
	Formula       // of a spreadsheet program
	Scheme        // an address of another kind, such as ftp
	Unclear       // an address that is broken, and could be repaired in several ways
	Login         // an address with a name or password in it
	Private       // one that exists only on a computer, or in a network
	Page          // a page, or another file that is no picture
	Viewer        // a page that shows the picture
	Expires       // one that is signed, and only good for a while
)

var whats = [...]string{
	Picture: "picture", NoLink: "no link", FileName: "file name", Disk: "disk", Share: "share", Data: "data", Formula: "formula",
	Scheme: "scheme", Unclear: "unclear", Login: "login", Private: "private", Page: "page", Viewer: "viewer", Expires: "expires",
}

// String returns a word for it.
func (w What) String() string { return whats[w] }

// IsAddress reports whether it is an address of the web, wherever it leads.
func (w What) IsAddress() bool { return w == Picture || w >= Login }

// A Link is one of those in a cell.
type Link struct {
	As  string // as it stands in the cell, without what stands between links
	Out string // as it should be: the same if nothing is wrong with it, or if nobody knows what was meant
	Is  What

	key string // what Key returns of Out, if that has been seen on the way
}

// Key returns what [Key] returns of the link as it should be; of what is no address, that itself, without what stands around it in its cell.
func (l *Link) Key() string {
	switch {
	case l.key != "":
		return l.key
	case !l.Is.IsAddress():
		return l.As
	}
	return Key(l.Out)
}

// Read takes a cell apart and repairs what is certain in its links, which it appends to a list. A cell that is empty has none.
func Read(links []Link, cell string) []Link {
	from := len(links)
	if links = readPlain(links, cell); len(links) > from {
		return links
	}
	words := false
	for _, part := range Split(cell) {
		link := Link{As: part}
		link.Out, link.Is = Mend(part)
		words = words || link.Is == NoLink
		links = append(links, link)
	}
	switch {
	case words && len(links) > from+1:
		return append(links[:from], Link{As: cell, Out: cell, Is: Unclear}) // words beside links
	case len(links) == from+1 && links[from].Is != Picture:
		links[from].Out = cell
	}
	return links
}

// readPlain reads a cell as Read does if it surely has nothing but addresses that nothing is wrong with, with marks between them;
// otherwise it appends nothing. It passes over the bytes of the cell once.
func readPlain(links []Link, cell string) []Link {
	from := len(links)
	for rest := cell; rest != ""; {
		v := scan(rest)
		if !v.right {
			return links[:from]
		}
		part := rest[:v.length]
		link := Link{As: part, Out: part, Is: v.is(part)}
		if v.normal {
			link.key = part[v.begin:]
		}
		links = append(links, link)
		rest = rest[v.next:]
	}
	return links
}

// plain reports whether a text is surely one address of the web that nothing is wrong with, as nearly all are.
func plain(s string) bool {
	v := scan(s)
	return v.right && v.length == len(s)
}

// seen is what one pass over the bytes of an address has shown.
type seen struct {
	right  bool // nothing is wrong with it; the others say nothing if there is
	length int  // how many bytes it has
	next   int  // where the next one begins
	begin  int  // where its host begins
	end    int  // and ends
	beyond bool // it has a query, a fragment, a name or no path
	normal bool // what stands behind its scheme is its key
}

// is says what an address is that has been scanned.
func (v *seen) is(s string) What {
	if v.beyond {
		return look(parse(s))
	}
	host := s[v.begin:v.end]
	if !v.normal {
		if at := strings.IndexByte(host, ':'); at >= 0 {
			host = host[:at]
		}
	}
	switch {
	case isPrivateHost(host):
		return Private
	case isEnding(s[v.end:]):
		return Picture
	}
	return look(parse(s))
}

// scan reads the address at the beginning of a text, up to its end or a mark behind which another begins.
func scan(s string) (v seen) {
	i := len("https://")
	switch {
	case strings.HasPrefix(s, "https://"):
	case strings.HasPrefix(s, "http://"):
		i--
	default:
		return v
	}
	v.begin = i
	if i == len(s) || !isAlnum(s[i]) {
		return v
	}
	var semicolon, amp, query, coded, hash bool
	tail := 0 // where the last ? or # stands
	v.length, v.next = len(s), len(s)
loop:
	for ; i < len(s); i++ {
		c := s[i]
		if marked[c] == ordinary {
			continue
		}
		switch c {
		case '/':
			if v.end == 0 && !query {
				v.end = i
			}
			if i+1 < len(s) && (s[i+1] == '.' || s[i+1] == '/') && !query {
				return v
			}
		case '%':
			if i+2 >= len(s) || !isHex(s[i+1]) || !isHex(s[i+2]) || !query && s[i+1] == '2' && s[i+2] == '5' {
				return v
			}
			coded = true
			i += 2
		case '?', '#':
			if c == '#' && hash {
				return v
			}
			hash = hash || c == '#'
			query, v.beyond, tail = true, true, i
		case ',', ';', ' ', '|', '\n':
			next := i + 1
			for next < len(s) && (s[next] == ' ' || s[next] == '\n') {
				next++
			}
			switch {
			case strings.HasPrefix(s[next:], "http"):
				v.length, v.next = i, next
				break loop
			case c != ',' && c != ';', i+1 == len(s), mayBegin(s[i+1]):
				return v
			}
			semicolon = semicolon || c == ';'
		case '&':
			amp = true
		case '@':
			v.beyond = true
		case ':':
			if v.end == 0 && !query {
				if coded = true; i+1 == len(s) || !isDigit(s[i+1]) {
					return v
				}
			}
			if strings.HasPrefix(s[i:], "://") {
				return v
			}
		default:
			return v
		}
	}
	v.beyond = v.beyond || v.end == 0
	v.normal = !coded && !v.beyond && s[v.end-1] != '.' && isLower(s[v.begin:v.end])
	v.right = (!semicolon || !amp) && v.length <= longestAddress && (tail == 0 || !isEnding(s[tail:v.length]))
	return v
}

// A host is the beginning of an address, up to the path: that of the link that was read last, because most links of a sheet lead to the
// same. It is one of which nothing has to be looked at again.
type host struct {
	text  []byte
	begin int // of the name in it
}

// picture reports whether a text is surely one address of a picture there that nothing is wrong with, and that is its own key behind the scheme.
func (h *host) picture(s string) bool {
	n := len(h.text)
	if n == 0 || n >= len(s) || len(s) > longestAddress || s[:n] != string(h.text) {
		return false
	}
	path, last := s[n:], byte('/')
	if path[0] != last {
		return false
	}
	for i := 1; i < len(path); i++ {
		c := path[i]
		if marked[c] != ordinary && c != '/' || last == '/' && (c == '/' || c == '.') {
			return false
		}
		last = c
	}
	return isEnding(path)
}

// learn takes that of a link that has been read, if it has a key that was seen on the way.
func (h *host) learn(l *Link) {
	if l.Is == Picture && l.key != "" {
		h.begin = len(l.Out) - len(l.key)
		h.text = append(h.text[:0], l.Out[:h.begin+strings.IndexByte(l.key, '/')]...)
	}
}

// isLower reports whether a text has no capitals.
func isLower(s string) bool {
	for i := range len(s) {
		if c := s[i]; c >= 'A' && c <= 'Z' {
			return false
		}
	}
	return true
}

// longestAddress is how many bytes an address has at most: no server takes longer ones (RFC 9110, 4.1, asks for 8000).
const longestAddress = 8192

// mayBegin reports whether a byte behind a comma may begin another link.
func mayBegin(c byte) bool {
	return c == 'h' || c == 'H' || c == 't' || c == 'T' || c == 'w' || c == 'W' || c == '/' || c == ':' || c == ','
}

// ordinary are bytes of which an address is made, and that mean nothing in it.
const ordinary = 1

var marked = func() (class [256]uint8) {
	for c := range class {
		if isAlnum(byte(c)) || strings.IndexByte("-._~!$'()*+=", byte(c)) >= 0 {
			class[c] = ordinary
		}
	}
	return class
}()

func isAlnum(c byte) bool { return isLetter(c) || isDigit(c) }

func isLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

func isHex(c byte) bool { return isDigit(c) || c|0x20 >= 'a' && c|0x20 <= 'f' }
