package sheet

import (
	"bufio"
	"errors"
	"io"
	"strings"

	"zetanum/core/charset"
)

// blankBytes are those that blank rows consist of, and padding: what some programs put
// behind the end of a text.
const blankBytes = padding + " \t\r\n,;|\""

// padding are NULs, to fill a block, and the end of file of old systems.
const padding = "\x00\x1a"

// findEnd finds out where the last row ends that is not blank. In a file in UTF-16 and the
// like only bytes are left out that are no whole character.
func (t *Table) findEnd() error {
	info, err := t.file.Stat()
	if err != nil {
		return t.fail(err, "", "")
	}
	t.end = info.Size()
	head := make([]byte, min(t.end, 8192))
	if _, err := t.file.ReadAt(head, 0); err != nil {
		return t.fail(err, "", "")
	}
	switch c, _ := charset.Detect(head, true); c {
	case charset.UTF16, charset.UTF16BE:
		return t.endOfUnits(2)
	case charset.UTF32, charset.UTF32BE:
		return t.endOfUnits(4)
	}
	last, err := t.lastOf(func(b byte) bool { return strings.IndexByte(blankBytes, b) < 0 })
	if err != nil || last < 0 {
		return err
	}
	return t.endBehind(last + 1)
}

// endOfUnits leaves bytes out at the end that are no whole unit of that many bytes, if the
// last row has ended before them; otherwise the file is cut off.
func (t *Table) endOfUnits(size int64) error {
	rest := t.end % size
	tail := make([]byte, min(t.end, size+rest))
	if _, err := t.file.ReadAt(tail, t.end-int64(len(tail))); err != nil {
		return t.fail(err, "", "")
	}
	if strings.Trim(string(tail[:int64(len(tail))-rest]), "\x00") == "\n" {
		t.end -= rest
	}
	return nil
}

// lastOf returns the place of the last byte that is wanted, -1 if there is none.
func (t *Table) lastOf(want func(byte) bool) (int64, error) {
	buf := make([]byte, 1<<16)
	for to := t.end; to > 0; {
		from := max(0, to-int64(len(buf)))
		if _, err := t.file.ReadAt(buf[:to-from], from); err != nil {
			return 0, t.fail(err, "", "")
		}
		for i := to - from - 1; i >= 0; i-- {
			if want(buf[i]) {
				return from + i, nil
			}
		}
		to = from
	}
	return -1, nil
}

// endBehind sets the end behind the row in which there is a byte before that place, and
// nothing but blank ones behind it. Whether that stands in quotation marks follows from how
// many of them there are up to the end, since those of blank cells are pairs.
func (t *Table) endBehind(at int64) error {
	tail := func(each func(b byte) (more bool)) (int64, error) {
		in := bufio.NewReaderSize(io.NewSectionReader(t.file, at, t.end-at), 1<<16)
		for n := int64(0); ; n++ {
			b, err := in.ReadByte()
			if errors.Is(err, io.EOF) || err == nil && !each(b) {
				return n, nil
			}
			if err != nil {
				return 0, t.fail(err, "", "")
			}
		}
	}
	inside := false
	if _, err := tail(func(b byte) bool {
		inside = inside != (b == '"')
		return true
	}); err != nil {
		return err
	}
	ended, last := false, byte(0)
	n, err := tail(func(b byte) bool {
		switch {
		case ended:
			// Of one end of line, or of two carriage returns and a line feed.
			more := (b == '\n' || b == '\r') && last == '\r'
			last = b
			return more
		case b == '"':
			inside = !inside
		case !inside && (b == '\n' || b == '\r'):
			ended = true
		case strings.IndexByte(padding, b) >= 0:
			return false
		}
		last = b
		return true
	})
	if err != nil {
		return err
	}
	return t.leaveOut(at + n)
}

// mostBlank is how many blank rows at the end of a file are rows like others, and set
// aside. More of them are what is left of a formatted sheet, and no rows.
const mostBlank = 100

// leaveOut leaves out what comes from that place on: padding in any case, and blank rows if
// there are many.
func (t *Table) leaveOut(from int64) error {
	feeds, returns := 0, 0
	in := bufio.NewReaderSize(io.NewSectionReader(t.file, from, t.end-from), 1<<16)
	for {
		b, err := in.ReadByte()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return t.fail(err, "", "")
		}
		switch b {
		case '\n':
			feeds++
		case '\r':
			returns++
		}
	}
	if feeds == 0 {
		feeds = returns
	}
	if feeds > mostBlank {
		t.Blank, t.end = feeds, from
		return nil
	}
	last, err := t.lastOf(func(b byte) bool { return strings.IndexByte(padding, b) < 0 })
	t.end = max(from, last+1)
	return err
}
