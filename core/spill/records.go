package spill

import (
	"bufio"
	"bytes"
	"cmp"
	"container/heap"
	"encoding/binary"
	"io"
	"os"
	"slices"
	"sort"
)

// Width is how many bytes a record has.
const Width = 24

// A Record is what a Sorter puts in order, by its bytes.
type Record [Width]byte

// A Sorter takes records and gives them back in order. The zero value has its file in the
// folder of the system; Close must be called.
type Sorter struct {
	Dir  string // for the file
	Most int    // records that are kept in memory; 0: [MostRecords]

	list []Record
	runs []int64 // where in the file each stretch that is in order begins
	size int64   // of the file
	file *os.File
}

// MostRecords is how many records are kept in memory where nothing else is said.
const MostRecords = 1 << 19

// Add takes a record. The error is one of writing the file.
func (s *Sorter) Add(r Record) error {
	if len(s.list) == s.most() {
		if err := s.spill(); err != nil {
			return err
		}
	}
	s.list = append(s.list, r)
	return nil
}

func (s *Sorter) most() int { return cmp.Or(s.Most, MostRecords) }

func (s *Sorter) order() {
	slices.SortFunc(s.list, func(a, b Record) int {
		if a, b := binary.BigEndian.Uint64(a[:]), binary.BigEndian.Uint64(b[:]); a != b {
			return cmp.Compare(a, b)
		}
		return bytes.Compare(a[8:], b[8:])
	})
}

// spill writes the records that are in memory into the file.
func (s *Sorter) spill() (err error) {
	if s.file == nil {
		if s.file, err = create(s.Dir); err != nil {
			return err
		}
	}
	s.order()
	out := bufio.NewWriterSize(s.file, 1<<18)
	for i := range s.list {
		out.Write(s.list[i][:])
	}
	s.runs = append(s.runs, s.size)
	s.size += int64(len(s.list)) * Width
	s.list = s.list[:0]
	return out.Flush()
}

// Each calls do with each record, in order. It stops at an error and returns it. What is in
// memory goes: it can be called once.
func (s *Sorter) Each(do func(r *Record) error) error {
	s.order()
	if s.file == nil {
		for i := range s.list {
			if err := do(&s.list[i]); err != nil {
				return err
			}
		}
		s.list = nil
		return nil
	}
	var m merge
	for i, from := range s.runs {
		to := s.size
		if i+1 < len(s.runs) {
			to = s.runs[i+1]
		}
		run := &run{in: bufio.NewReaderSize(io.NewSectionReader(s.file, from, to-from), 1<<16)}
		if err := run.next(); err != nil {
			return err
		}
		m = append(m, run)
	}
	if len(s.list) > 0 {
		first := s.list[0]
		m = append(m, &run{rest: s.list[1:], record: first})
	}
	heap.Init(&m)
	for len(m) > 0 {
		first := m[0]
		if err := do(&first.record); err != nil {
			return err
		}
		switch err := first.next(); err {
		case nil:
			heap.Fix(&m, 0)
		case io.EOF:
			heap.Pop(&m)
		default:
			return err
		}
	}
	s.list = nil
	return nil
}

// Close removes the file.
func (s *Sorter) Close() error {
	file := s.file
	s.file, s.list = nil, nil
	return remove(file)
}

// A run is a stretch of records in order, in the file or in memory.
type run struct {
	in     *bufio.Reader
	rest   []Record
	record Record // the first that is left
}

func (r *run) next() error {
	if r.in != nil {
		_, err := io.ReadFull(r.in, r.record[:])
		return err
	}
	if len(r.rest) == 0 {
		return io.EOF
	}
	r.record, r.rest = r.rest[0], r.rest[1:]
	return nil
}

// merge is a heap of runs by their first records.
type merge []*run

func (m merge) Len() int           { return len(m) }
func (m merge) Less(i, j int) bool { return bytes.Compare(m[i].record[:], m[j].record[:]) < 0 }
func (m merge) Swap(i, j int)      { m[i], m[j] = m[j], m[i] }
func (m *merge) Push(x any)        { *m = append(*m, x.(*run)) }
func (m *merge) Pop() any {
	last := (*m)[len(*m)-1]
	*m = (*m)[:len(*m)-1]
	return last
}

// A Table has records in order, to be found by the number with which they begin.
type Table struct {
	bytes Bytes
	count int
	every []uint32 // the numbers with which each block begins
}

// blockSize is how many records are read at once.
const blockSize = 128

// Table makes a table of the records. Close must be called for it, too.
func (s *Sorter) Table() (*Table, error) {
	t := &Table{bytes: Bytes{Dir: s.Dir, Most: s.most() / blockSize * blockSize * Width}}
	err := s.Each(func(r *Record) error {
		if t.count%blockSize == 0 {
			t.every = append(t.every, binary.BigEndian.Uint32(r[:]))
		}
		t.count++
		_, err := t.bytes.Append(r[:])
		return err
	})
	if err == nil {
		err = t.bytes.Flush()
	}
	return t, err
}

// Len returns how many records there are.
func (t *Table) Len() int {
	if t == nil {
		return 0
	}
	return t.count
}

// Close removes the file.
func (t *Table) Close() error {
	if t == nil {
		return nil
	}
	return t.bytes.Close()
}

// A Finder finds records of a table. It keeps what it has read last, so that numbers that are
// close to one another are found soon.
type Finder struct {
	table *Table
	block int // that is there; counted from 1
	text  []byte

	from, to uint64 // numbers, up to the second, of which there are no records
}

// Finder returns one; several can be used at the same time.
func (t *Table) Finder() *Finder { return &Finder{table: t} }

// none is beyond all numbers.
const none = uint64(1) << 32

// Find appends the records that begin with a number, big end first, to dst. The error is one
// of reading the file.
func (f *Finder) Find(number uint32, dst []Record) ([]Record, error) {
	t := f.table
	if t.Len() == 0 || f.from <= uint64(number) && uint64(number) < f.to {
		return dst, nil
	}
	had, behind := len(dst), none // the number of the next record
	// The first of them is at or behind the last block that begins with less.
	block := max(0, sort.Search(len(t.every), func(i int) bool { return t.every[i] >= number })-1)
	for ; block < len(t.every) && t.every[block] <= number; block++ {
		if f.block != block+1 {
			first := block * blockSize
			text, err := t.bytes.At(int64(first*Width), min(blockSize, t.count-first)*Width)
			if err != nil {
				return dst, err
			}
			f.block, f.text = block+1, text
		}
		n := len(f.text) / Width
		at := sort.Search(n, func(i int) bool { return binary.BigEndian.Uint32(f.text[i*Width:]) >= number })
		for ; at < n && binary.BigEndian.Uint32(f.text[at*Width:]) == number; at++ {
			dst = append(dst, Record(f.text[at*Width:]))
		}
		if at < n {
			behind = uint64(binary.BigEndian.Uint32(f.text[at*Width:]))
			break
		}
	}
	if behind == none && block < len(t.every) {
		behind = uint64(t.every[block])
	}
	if len(dst) == had {
		f.from, f.to = uint64(number), behind
	}
	return dst, nil
}
