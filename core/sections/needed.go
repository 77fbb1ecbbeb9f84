package sections

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/steps"
)

// ToUploadName is the list of what has to be on the web before the import.
const ToUploadName = "to-upload.csv"

// needed are the addresses that have to be there before products are imported, each with the products that need it.
type needed struct {
	known []int // columns by which somebody knows a product
	mu    sync.Mutex
	of    map[address]*needing
	past  uint64 // addresses with a larger hash are not kept any more, because there are too many
}

type address struct{ link, what string }

// needing is how many rows need an address, and the first of them.
type needing struct {
	rows  int
	first []rowName
}

type rowName struct {
	number int
	name   string
}

// mostNeeded is how many addresses are listed, and mostNamed how many products are named for each.
const (
	mostNeeded = 200000
	mostNamed  = 5
)

// listNeeded makes the list.
func (s *Sheet) listNeeded() *needed {
	n := &needed{known: steps.KnownBy(&s.Columns), of: make(map[address]*needing)}
	s.List(line.List{Name: ToUploadName, Headings: []string{"Address", "What", "Products", "Which"}, Rest: n.list})
	return n
}

// add takes down that a row needs an address.
func (n *needed) add(link, what string, row *catalogue.Row) {
	if link == "" {
		return
	}
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.past > 0 && xxhash.Sum64String(link) >= n.past {
		return
	}
	of := n.of[address{link, what}]
	if of == nil {
		of = new(needing)
		n.of[address{strings.Clone(link), what}] = of
		if len(n.of) > 2*mostNeeded {
			n.thin()
		}
	}
	of.rows++
	if len(of.first) == mostNamed && row.Number >= of.first[mostNamed-1].number {
		return
	}
	name := ""
	for _, col := range n.known {
		if name = row.Cell(col); name != "" {
			break
		}
	}
	of.first = append(of.first, rowName{row.Number, strings.Clone(name)})
	slices.SortStableFunc(of.first, func(a, b rowName) int { return a.number - b.number })
	of.first = of.first[:min(len(of.first), mostNamed)]
}

// thin keeps those with the smallest hashes, which are the same whatever the order in which they came.
func (n *needed) thin() {
	var hashes []uint64
	for a := range n.of {
		hashes = append(hashes, xxhash.Sum64String(a.link))
	}
	slices.Sort(hashes)
	n.past = hashes[mostNeeded]
	maps.DeleteFunc(n.of, func(a address, _ *needing) bool { return xxhash.Sum64String(a.link) >= n.past })
}

func (n *needed) list(enter func(cells ...string)) error {
	if len(n.of) > mostNeeded {
		n.thin()
	}
	for _, a := range slices.SortedFunc(maps.Keys(n.of), func(a, b address) int {
		return strings.Compare(a.link+"\x00"+a.what, b.link+"\x00"+b.what)
	}) {
		of := n.of[a]
		var names []string
		for _, row := range of.first {
			if row.name != "" && !slices.Contains(names, row.name) {
				names = append(names, row.name)
			}
		}
		enter(a.link, a.what, strconv.Itoa(of.rows), strings.Join(names, ", "))
	}
	return nil
}
