// Package spill keeps much in little memory: what is beyond a bound waits in a temporary
// file.
//
// [Bytes] keeps texts that are found by where they were put. [Sorter] puts records in order,
// and [Table] finds those of a number among them.
package spill

import (
	"cmp"
	"os"
)

// Bytes are texts, the first of them in memory and those that follow in a file. The zero
// value has its file in the folder of the system; Close must be called.
type Bytes struct {
	Dir  string // for the file
	Most int    // bytes that are kept in memory

	mem  []byte
	wait []byte // for the file
	file *os.File
	size int64 // of the file, without what waits
}

// Reset empties it.
func (b *Bytes) Reset() { b.mem, b.wait, b.size = b.mem[:0], b.wait[:0], 0 }

// Append adds a text and returns where it is. The error is one of writing the file.
func (b *Bytes) Append(text []byte) (offset int64, err error) {
	if b.size == 0 && len(b.wait) == 0 && len(b.mem)+len(text) <= b.Most {
		offset := int64(len(b.mem))
		b.mem = append(b.mem, text...)
		return offset, nil
	}
	offset = int64(len(b.mem)) + b.size + int64(len(b.wait))
	b.wait = append(b.wait, text...)
	if len(b.wait) >= 1<<20 {
		return offset, b.Flush()
	}
	return offset, nil
}

// Flush writes down what waits for the file. Behind it, At is safe for concurrent use.
func (b *Bytes) Flush() (err error) {
	if len(b.wait) == 0 {
		return nil
	}
	if b.file == nil {
		if b.file, err = create(b.Dir); err != nil {
			return err
		}
	}
	n, err := b.file.WriteAt(b.wait, b.size)
	b.size += int64(n)
	b.wait = b.wait[:0]
	return err
}

// At returns n bytes, or as many as there are behind a place; not all of them where other
// texts than the one that begins there lie elsewhere.
func (b *Bytes) At(offset int64, n int) ([]byte, error) {
	switch at := offset - int64(len(b.mem)); {
	case at < 0:
		return b.mem[offset:min(int64(len(b.mem)), offset+int64(n))], nil
	case at >= b.size:
		at -= b.size
		return b.wait[at:min(int64(len(b.wait)), at+int64(n))], nil
	default:
		text := make([]byte, min(int64(n), b.size-at))
		_, err := b.file.ReadAt(text, at)
		return text, err
	}
}

// Close removes the file.
func (b *Bytes) Close() error {
	file := b.file
	b.file = nil
	return remove(file)
}

func create(dir string) (*os.File, error) { return os.CreateTemp(dir, ".zetanum-spill-*") }

func remove(file *os.File) error {
	if file == nil {
		return nil
	}
	return cmp.Or(file.Close(), os.Remove(file.Name()))
}
