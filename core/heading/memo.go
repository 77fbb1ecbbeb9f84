package heading

import (
	"strings"
	"sync"
)

// A memo keeps what was found out of texts that come again: headings are looked at several times for one sheet, and again for each sheet of a
// form, and so are the words with which cells begin.
type memo[V any] struct {
	mu sync.Mutex
	of map[string]V
}

var (
	meanings   memo[meaning] // of headings that have one
	knownWords memo[bool]    // whether they are
)

// mostKept is how many texts a memo keeps before it forgets all of them; longestKept is the length of the longest.
const mostKept, longestKept = 2000, 60

func (m *memo[V]) get(text string) (v V, there bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	v, there = m.of[text]
	return v, there
}

func (m *memo[V]) put(text string, v V) {
	if len(text) > longestKept {
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.of == nil || len(m.of) >= mostKept {
		m.of = make(map[string]V)
	}
	m.of[strings.Clone(text)] = v
}
