package imagelink

import (
	"bufio"
	"fmt"
	"io"
	"net/url"
	"os"
	"strings"
	"sync/atomic"

	"zetanum/core/lazy"
)

// Addresses are those of pictures that somebody has put on the web, in any order, and that are found by the names of their files. They are
// used by several at once.
type Addresses struct {
	List []string // each once, in their order

	names map[string]int // by name of the file, as it is and in small letters, and with the folders before it; -1 for several
	place map[string]int // by their keys
	used  []atomic.Bool
}

// mostAddresses is how many addresses a list may have.
const mostAddresses = 1 << 20

// inTexts finds addresses in texts of any kind: lines, tables, HTML.
var inTexts = lazy.New(`(?i)\bhttps?://[^\s"'<>\[\]|]+`)

// OpenAddresses reads a list of addresses out of a file.
func OpenAddresses(path string) (*Addresses, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	a, err := ReadAddresses(f)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return a, nil
}

// ReadAddresses reads a list of addresses out of a text: one in a line or several, in a table or between tags.
func ReadAddresses(r io.Reader) (*Addresses, error) {
	a := &Addresses{names: make(map[string]int), place: make(map[string]int)}
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, 1<<24)
	for lines.Scan() {
		for _, found := range inTexts.FindAllString(lines.Text(), -1) {
			for _, link := range Read(nil, strings.TrimRight(found, `,;).`)) {
				if link.Is.IsAddress() {
					a.add(link.Out)
				}
			}
			if len(a.List) > mostAddresses {
				return nil, fmt.Errorf("it has more than %d addresses", mostAddresses)
			}
		}
	}
	if err := lines.Err(); err != nil {
		return nil, err
	}
	if len(a.List) == 0 {
		return nil, fmt.Errorf("it has no address that begins with http:// or https://")
	}
	a.used = make([]atomic.Bool, len(a.List))
	return a, nil
}

func (a *Addresses) add(address string) {
	if _, known := a.place[Key(address)]; known {
		return
	}
	n := len(a.List)
	a.List, a.place[Key(address)] = append(a.List, address), n
	for _, name := range tails(nameIn(address)) {
		for _, key := range []string{name, inSmall(name)} {
			if _, there := a.names[key]; there {
				a.names[key] = -1
			} else {
				a.names[key] = n
			}
		}
	}
}

// inSmall returns the key of a name whatever its case.
func inSmall(name string) string { return "\x00" + strings.ToLower(name) }

// nameIn returns the path of an address, decoded.
func nameIn(address string) string {
	path := parse(address).path
	if text, err := url.PathUnescape(path); err == nil {
		path = text
	}
	return strings.TrimPrefix(path, "/")
}

// mostTails is how many folders before the name of a file count.
const mostTails = 4

// tails returns the name of a file, and that with one folder before it, two, and so on.
func tails(path string) (names []string) {
	for at := len(path); at > 0 && len(names) < mostTails; {
		at = strings.LastIndexByte(path[:at], '/')
		if name := path[at+1:]; name != "" {
			names = append(names, name)
		}
	}
	return names
}

// name returns the name of the file of one of the addresses.
func (a *Addresses) name(n int) string { return append(tails(nameIn(a.List[n])), "")[0] }

// Names returns the names of files that only one of the addresses has.
func (a *Addresses) Names() (names []string) {
	for n := range a.List {
		if name := a.name(n); a.names[name] == n {
			names = append(names, name)
		}
	}
	return names
}

// Find returns the one address whose file has a name, with all folders that stand before it; in any case, if none has it in this one.
func (a *Addresses) Find(name string) (address string, ok bool) {
	name = strings.TrimPrefix(strings.ReplaceAll(strings.TrimSpace(name), `\`, "/"), "./")
	for _, key := range []string{name, inSmall(name)} {
		if n, there := a.names[key]; there {
			if n < 0 {
				return "", false
			}
			a.used[n].Store(true)
			return a.List[n], true
		}
	}
	return "", false
}

// Uses says that an address stands in a cell.
func (a *Addresses) Uses(address string) {
	if n, there := a.place[Key(address)]; there {
		a.used[n].Store(true)
	}
}

// Unused returns the addresses that nobody has found or used, and whether another has the same name.
func (a *Addresses) Unused(do func(address string, several bool)) {
	for n, address := range a.List {
		if !a.used[n].Load() {
			do(address, a.names[inSmall(a.name(n))] < 0)
		}
	}
}
