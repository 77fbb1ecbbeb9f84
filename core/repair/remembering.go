package repair

import (
	"cmp"
	"encoding/binary"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/register"
)

// memory asks the register about barcodes that a file has lost.
type memory struct {
	*issuing
	whose string // the rows are that name no supplier
}

func (m *memory) Recall(keys []uint64, but uint64) ([]register.Seen, error) {
	return m.Register.Recall(m.ctx, keys, but)
}

func (m *memory) Whose() string { return m.whose }

// newMemory returns what the register remembers; nil without one.
func (r *runner) newMemory() *memory {
	return &memory{r.issuing, cmp.Or(r.opt.Book.Register.Source, reference.SourceOf(r.table.Name))}
}

// remembering gives the register the barcodes that go out as they came, while the rest is written. They are
// looked at in stretches, which end where the barcodes themselves say so, so that most of those of last
// month's file are the same and need not be looked up.
type remembering struct {
	*issuing
	known map[uint64]bool // stretches that are remembered

	stretch []line.Memo
	sum     xxhash.Digest
	block   block
	work    chan block
	stopped chan struct{}
	failed  error // of whoever hands them over, once it has stopped

	differing []register.Differing
}

// block is what is handed over at once.
type block struct {
	list      []register.Seen
	stretches []uint64
}

// How long stretches are about, and at most; and how many barcodes are handed over at once.
const (
	stretchMask = 1<<10 - 1
	stretchMost = 1 << 13
	blockSize   = 100_000
)

// remember begins to remember, unless nothing is written, or the file is an output of ours: what is whole in it may
// have been brought back.
func (r *runner) remember() (err error) {
	if r.issuing == nil || r.issuing.try || r.asLeft || r.result.Own != "" {
		return nil
	}
	m := &remembering{issuing: r.issuing}
	if m.known, err = m.Stretches(m.ctx); err != nil {
		return err
	}
	r.remembering, r.pipeline.Remember = m, m.take
	return nil
}

// take takes the barcodes of a part.
func (m *remembering) take(memos []line.Memo) error {
	from := 0 // of what has not been looked at
	for i := range memos {
		memo := &memos[i]
		var b [16]byte
		binary.LittleEndian.PutUint64(b[:], memo.Key)
		binary.LittleEndian.PutUint64(b[8:], memo.Number<<4|uint64(memo.Digits))
		m.sum.Write(b[:])
		if memo.Key&stretchMask == 0 || len(m.stretch)+i-from >= stretchMost {
			stretch := memos[from : i+1]
			if len(m.stretch) > 0 {
				m.stretch = append(m.stretch, stretch...)
				stretch = m.stretch
			}
			if err := m.endStretch(stretch); err != nil {
				return err
			}
			from = i + 1
		}
	}
	for _, memo := range memos[from:] { // the part with their texts goes
		for i, text := range memo.Texts {
			memo.Texts[i] = strings.Clone(text)
		}
		m.stretch = append(m.stretch, memo)
	}
	return nil
}

// endStretch puts a stretch with those that are handed over, if it is not remembered.
func (m *remembering) endStretch(stretch []line.Memo) error {
	defer func() {
		clear(m.stretch) // their texts keep a part in memory
		m.stretch = m.stretch[:0]
		m.sum.Reset()
	}()
	if len(stretch) == 0 || m.known[m.sum.Sum64()] {
		return nil
	}
	var texts []byte
	for i := range stretch {
		for _, s := range stretch[i].Texts {
			texts = append(texts, s...)
		}
	}
	all := string(texts)
	own := func(s string) (own string) {
		own, all = all[:len(s)], all[len(s):]
		return own
	}
	for i := range stretch {
		memo := &stretch[i]
		source, sku, title := own(memo.Texts[0]), own(memo.Texts[1]), own(memo.Texts[2])
		code, err := barcode.FromNumber(memo.Number, memo.Digits)
		if err != nil {
			return err
		}
		if source != remembered(source) || sku != remembered(sku) {
			continue // no register could say of which SKU it is
		}
		m.block.list = append(m.block.list, register.Seen{Key: memo.Key, Code: code, Source: source, SKU: sku, Title: remembered(title)})
	}
	m.block.stretches = append(m.block.stretches, m.sum.Sum64())
	if len(m.block.list) >= blockSize {
		return m.handOver()
	}
	return nil
}

// mostRemembered is how much of a text is remembered, in bytes.
const mostRemembered = 200

// remembered returns a text as it can be remembered by any register.
func remembered(s string) string {
	s = s[:min(len(s), mostRemembered)]
	return strings.ReplaceAll(strings.ToValidUTF8(s, ""), "\x00", "")
}

// handOver hands over what has been gathered to somebody who waits for the register meanwhile.
func (m *remembering) handOver() error {
	if m.work == nil {
		if err := m.begin(); err != nil {
			return err
		}
		m.work, m.stopped = make(chan block), make(chan struct{})
		go func() {
			defer close(m.stopped)
			for b := range m.work {
				if m.failed != nil {
					continue
				}
				var differing []register.Differing
				differing, m.failed = m.run.Remember(m.ctx, b.list, b.stretches)
				m.differing = append(m.differing, differing...)
			}
		}()
	}
	m.work <- m.block
	m.block = block{}
	return nil
}

// end waits until all is taken down.
func (m *remembering) end() error {
	err := m.endStretch(m.stretch)
	if err == nil && len(m.block.list) > 0 {
		err = m.handOver()
	}
	return cmp.Or(err, m.stop())
}

// stop stops handing over, and returns what has gone wrong with it.
func (m *remembering) stop() error {
	if m == nil || m.work == nil {
		return nil
	}
	close(m.work)
	<-m.stopped
	m.work = nil
	return m.failed
}
