package workbook

import "io"

// An aheadReader reads in a goroutine of its own, a few blocks ahead.
type aheadReader struct {
	full chan block
	free chan []byte
	now  block
	at   int
}

type block struct {
	data []byte
	err  error
}

const (
	blockSize = 256 << 10
	blocks    = 4
)

// ahead returns a reader that reads r in a goroutine of its own. The goroutine ends
// when r does, or when r returns an error, as it does once it is closed; r must be read
// or closed.
func ahead(r io.Reader) *aheadReader {
	a := &aheadReader{full: make(chan block, blocks), free: make(chan []byte, blocks+1)}
	for range blocks {
		a.free <- make([]byte, blockSize)
	}
	go func() {
		defer close(a.full)
		for data := range a.free {
			n, err := io.ReadFull(r, data[:blockSize])
			if err == io.ErrUnexpectedEOF {
				err = io.EOF
			}
			a.full <- block{data[:n], err}
			if err != nil {
				return
			}
		}
	}()
	return a
}

func (a *aheadReader) Read(p []byte) (int, error) {
	for a.at == len(a.now.data) {
		if a.now.err != nil {
			return 0, a.now.err
		}
		if a.now.data != nil {
			a.free <- a.now.data[:0]
		}
		var ok bool
		if a.now, ok = <-a.full; !ok {
			return 0, io.EOF
		}
		a.at = 0
	}
	n := copy(p, a.now.data[a.at:])
	a.at += n
	return n, nil
}

// stop lets the goroutine end.
func (a *aheadReader) stop() {
	close(a.free)
	for range a.full { // it may wait to hand something out
	}
}
