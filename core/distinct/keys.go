package distinct

import "github.com/cespare/xxhash/v2"

// KeyOf returns a hash of a key, which is never 0.
func KeyOf(key string) uint64 { return max(1, xxhash.Sum64String(key)) }

// Keys finds rows by hashes of their keys. They take twelve bytes for each, and half as much again.
type Keys struct {
	hashes []uint64
	rows   []int32
	used   int
}

// NewKeys makes a table of the hashes of rows; those of 0 and those to skip are left out, and of several rows with one hash the first is found.
func NewKeys(hashes []uint64, skip func(row int) bool) Keys {
	size := 16
	for 2*size < 3*len(hashes) {
		size *= 2
	}
	t := Keys{hashes: make([]uint64, size), rows: make([]int32, size)}
	for row, hash := range hashes {
		if hash != 0 && !skip(row) {
			t.Add(hash, row)
		}
	}
	return t
}

// Add enters a row under a hash that is not 0, unless another has it: which one is returned, -1 if none.
func (t *Keys) Add(hash uint64, row int) (other int) {
	if 3*(t.used+1) > 2*len(t.hashes) {
		t.grow()
	}
	at := t.at(hash)
	if t.hashes[at] != 0 {
		return int(t.rows[at])
	}
	t.hashes[at], t.rows[at] = hash, int32(row)
	t.used++
	return -1
}

func (t *Keys) grow() {
	old := *t
	t.hashes, t.rows = make([]uint64, max(16, 2*len(old.hashes))), make([]int32, max(16, 2*len(old.hashes)))
	for i, hash := range old.hashes {
		if hash != 0 {
			at := t.at(hash)
			t.hashes[at], t.rows[at] = hash, old.rows[i]
		}
	}
}

func (t *Keys) at(hash uint64) int {
	mask := uint64(len(t.hashes) - 1)
	for at := (hash * 0x9e3779b97f4a7c15) >> 20 & mask; ; at = (at + 1) & mask {
		if t.hashes[at] == 0 || t.hashes[at] == hash {
			return int(at)
		}
	}
}

// Find returns the row of a hash, -1 if there is none.
func (t *Keys) Find(hash uint64) int {
	if hash == 0 || t.used == 0 {
		return -1
	}
	if at := t.at(hash); t.hashes[at] == hash {
		return int(t.rows[at])
	}
	return -1
}
