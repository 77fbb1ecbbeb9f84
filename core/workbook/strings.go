package workbook

import (
	"errors"
	"fmt"
	"io"
	"strconv"
	"unicode/utf8"
	"unsafe"
)

// shared are the texts that cells share, one behind the other.
type shared struct {
	text []byte
	ends []uint32
}

// get returns the text of a number; it is valid as long as the workbook.
func (s *shared) get(n int) (text string, ok bool) {
	if n < 0 || n >= len(s.ends) {
		return "", false
	}
	from := uint32(0)
	if n > 0 {
		from = s.ends[n-1]
	}
	b := s.text[from:s.ends[n]]
	return unsafe.String(unsafe.SliceData(b), len(b)), true
}

// readShared reads the texts that cells share.
func (b *Book) readShared() error {
	if b.shared != nil {
		return nil
	}
	b.shared = new(shared)
	if b.strings == "" || b.file(b.strings) == nil {
		return nil
	}
	r, err := b.open(b.strings)
	if err != nil {
		return err
	}
	defer r.Close()
	a := ahead(r)
	defer a.stop()
	s := newScanner(a)
	var t token
	for {
		err := s.next(&t)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err == nil && t.kind == startTag && t.is("si") {
			if b.shared.text, err = s.richText(&t, b.shared.text); err == nil {
				b.shared.ends = append(b.shared.ends, uint32(len(b.shared.text)))
			}
			if len(b.shared.text) > MostShared {
				err = fmt.Errorf("%w: the texts that cells share have more than %d MB", ErrTooLarge, MostShared>>20)
			}
		}
		if err != nil {
			return fmt.Errorf("%s: %w", b.strings, err)
		}
	}
}

// richText appends the text of an element that has begun: of its runs, but not of how
// they are read aloud.
func (s *scanner) richText(t *token, dst []byte) ([]byte, error) {
	if t.empty {
		return dst, nil
	}
	from := len(dst)
	depth, aloud, inText := 1, 0, 0
	for depth > 0 {
		if err := s.next(t); err != nil {
			if errors.Is(err, io.EOF) {
				err = fmt.Errorf("%w: it ends in the middle of a text", ErrDamaged)
			}
			return dst, err
		}
		switch t.kind {
		case startTag:
			if t.empty {
				continue
			}
			depth++
			switch {
			case aloud == 0 && t.is("rPh"):
				aloud = depth
			case t.is("t"):
				inText = depth
			}
		case endTag:
			if depth == aloud {
				aloud = 0
			}
			if depth == inText {
				inText = 0
			}
			depth--
		case someText:
			if inText > 0 && aloud == 0 {
				dst = t.appendText(dst)
			}
		}
	}
	return unescapeX(dst, from), nil
}

// appendText appends the text of a token.
func (t *token) appendText(dst []byte) []byte {
	if t.plain {
		return append(dst, t.text...)
	}
	return unescape(dst, t.text)
}

// unescapeX puts the characters in that XML cannot have, and that are written as _x000D_
// (ECMA-376 Part 1, 22.9.2.19), in what stands from there on.
func unescapeX(b []byte, from int) []byte {
	out := from
	for i := from; i < len(b); {
		if b[i] == '_' && i+7 <= len(b) && b[i+1] == 'x' && b[i+6] == '_' {
			if n, err := strconv.ParseUint(string(b[i+2:i+6]), 16, 16); err == nil && utf8.ValidRune(rune(n)) {
				var r [utf8.UTFMax]byte
				out += copy(b[out:], r[:utf8.EncodeRune(r[:], rune(n))])
				i += 7
				continue
			}
		}
		b[out] = b[i]
		out++
		i++
	}
	return b[:out]
}
