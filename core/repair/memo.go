package repair

import (
	"os"
	"sync"
)

// A memo keeps what files say, for the lists of one call that have the same ones near them, as long as each is the same.
type memo[T any] struct {
	mu         sync.Mutex
	of         map[string]memorised[T]
	size, most int
}

type memorised[T any] struct {
	value T
	size  int
	file  os.FileInfo
}

func newMemo[T any](most int) *memo[T] {
	return &memo[T]{of: make(map[string]memorised[T]), most: most}
}

// get returns what a file says.
func (m *memo[T]) get(path string, file os.FileInfo) (value T, known bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	k, there := m.of[path]
	if !there || !os.SameFile(k.file, file) || k.file.Size() != file.Size() || !k.file.ModTime().Equal(file.ModTime()) {
		return value, false
	}
	return k.value, true
}

// put keeps what a file says, of that size; where there is no room for it, in place of all the rest.
func (m *memo[T]) put(path string, file os.FileInfo, value T, size int) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.size += size - m.of[path].size; m.size > m.most {
		clear(m.of)
		m.size = size
	}
	m.of[path] = memorised[T]{value, size, file}
}
