package reference

import (
	"encoding/binary"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/spill"
)

// slots is a hash table of records that lie in a store.
type slots struct {
	list []slotEntry
	used int
}

type slotEntry struct {
	hash   uint64
	offset int64 // 0: free
}

// find returns the record with a key, or where it would be entered. With a rule
// the keys of records are compared without what does not count.
func (s *slots) find(store *store, key []byte, rule *BorrowRule) (at int, e *record, err error) {
	if len(s.list) == 0 {
		return 0, nil, nil
	}
	hash := xxhash.Sum64(key)
	mask := uint64(len(s.list) - 1)
	i := hash & mask
	for ; s.list[i].offset != 0; i = (i + 1) & mask {
		if s.list[i].hash != hash {
			continue
		}
		if e, err = store.read(s.list[i].offset); err != nil {
			return 0, nil, err
		}
		there := e.key
		if rule != nil {
			there = string(rule.loosen(nil, []byte(there)))
		}
		if there == string(key) {
			return int(i), e, nil
		}
	}
	return int(i), nil, nil
}

func (s *slots) enter(at int, hash uint64, offset int64) {
	s.list[at] = slotEntry{hash, offset}
	s.used++
}

// room makes sure that another record can be entered.
func (s *slots) room() {
	if s.used*4 < len(s.list)*3 {
		return
	}
	old := s.list
	s.list = make([]slotEntry, max(1024, 2*len(old)))
	mask := uint64(len(s.list) - 1)
	for _, e := range old {
		if e.offset == 0 {
			continue
		}
		i := e.hash & mask
		for s.list[i].offset != 0 {
			i = (i + 1) & mask
		}
		s.list[i] = e
	}
}

// A record is a row of the sheet: the number of its entry, its row number, its
// key and its values.
type record struct {
	entry, row int
	key        string
	values     []string

	loan Loan      // it as what is found
	few  [4]string // for its values
}

// A store keeps records.
type store struct {
	spill.Bytes
	scratch []byte
}

// storeMemory is how many bytes of records are kept in memory.
const storeMemory = 64 << 20

func (s *store) reset() error {
	s.Reset()
	s.Most = storeMemory
	_, err := s.Append([]byte{0}) // no record has the offset 0
	return err
}

// append adds a record and returns where it is.
func (s *store) append(e *record) (int64, error) {
	body := append(s.scratch[:0], 0, 0, 0, 0) // for its length
	body = binary.AppendUvarint(body, uint64(e.entry))
	body = binary.AppendUvarint(body, uint64(e.row))
	body = binary.AppendUvarint(body, uint64(len(e.key)))
	body = append(body, e.key...)
	body = binary.AppendUvarint(body, uint64(len(e.values)))
	for _, v := range e.values {
		body = binary.AppendUvarint(body, uint64(len(v)))
		body = append(body, v...)
	}
	binary.LittleEndian.PutUint32(body, uint32(len(body)-4))
	s.scratch = body
	return s.Append(body)
}

// read returns the record at an offset.
func (s *store) read(offset int64) (*record, error) {
	raw, err := s.At(offset, 512)
	if err != nil {
		return nil, err
	}
	n := 4 + int(binary.LittleEndian.Uint32(raw))
	if n > len(raw) {
		if raw, err = s.At(offset, n); err != nil {
			return nil, err
		}
	}
	raw = raw[4:n]
	body := string(raw) // the texts are parts of it
	at := 0
	next := func() int {
		v, n := binary.Uvarint(raw[at:])
		at += n
		return int(v)
	}
	take := func() string {
		n := next()
		at += n
		return body[at-n : at]
	}
	e := &record{entry: next(), row: next()}
	e.key = take()
	if n := next(); n <= len(e.few) {
		e.values = e.few[:n:n]
	} else {
		e.values = make([]string, n)
	}
	for i := range e.values {
		e.values[i] = take()
	}
	return e, nil
}
