package imagelink

import (
	_ "embed"
	"maps"
	"strings"

	"zetanum/core/glance"
)

//go:embed standin.txt
var standInNames string

var standIns = func() map[string]bool {
	names := make(map[string]bool)
	for line := range strings.Lines(standInNames) {
		if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
			names[line] = true
		}
	}
	return names
}()

var knownStandIns = glance.NewKnown(maps.Keys(standIns))

// withoutQuery returns an address up to its query or fragment.
func withoutQuery(link string) string {
	if at := strings.IndexByte(link, '?'); at >= 0 {
		link = link[:at]
	}
	if at := strings.IndexByte(link, '#'); at >= 0 {
		link = link[:at]
	}
	return link
}

// longestStandIn is how many letters the names of such pictures have at most.
const longestStandIn = 32

// StandsIn reports whether a link leads to a picture that stands for one that is still to come, by its name: no-image.png.
func StandsIn(link string) bool {
	link = withoutQuery(link)
	name := link[strings.LastIndexByte(link, '/')+1:]
	if at := strings.LastIndexByte(name, '.'); at >= 0 {
		name = name[:at]
	}
	if len(name) > longestStandIn+8 {
		return false
	}
	var b [longestStandIn]byte
	n := 0
	for i := 0; i < len(name); i++ {
		switch c := name[i]; {
		case isLetter(c):
			if n == len(b) {
				return false
			}
			b[n] = c | 0x20
			n++
		case c == '%' && escapes(name[i:]):
			i += 2
		case c >= 0x80:
			return false
		}
	}
	return n > 1 && knownStandIns.May(b[0], b[1], n) && standIns[string(b[:n])]
}
