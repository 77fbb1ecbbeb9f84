package workbook

import "io"

// A behindWriter writes in a goroutine of its own what was given to it last, while the next is made. What goes wrong is said by the
// next write, or by wait.
type behindWriter struct {
	w    io.Writer
	buf  []byte
	done chan error // has one for what is being written
	busy bool
}

// reset makes the writer write to another; all must be written.
func (b *behindWriter) reset(w io.Writer) {
	if b.done == nil {
		b.done = make(chan error, 1)
	}
	b.w = w
}

func (b *behindWriter) Write(p []byte) (int, error) {
	if err := b.wait(); err != nil {
		return 0, err
	}
	b.buf = append(b.buf[:0], p...)
	b.busy = true
	go func() {
		_, err := b.w.Write(b.buf)
		b.done <- err
	}()
	return len(p), nil
}

// wait waits until all is written.
func (b *behindWriter) wait() error {
	if !b.busy {
		return nil
	}
	b.busy = false
	return <-b.done
}
