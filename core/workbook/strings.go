package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"unicode/utf8"
	"unsafe"
)

// shared are the texts that cells share, one behind the other, in blocks: so that they are
// never moved, and take no more memory than they have bytes.
type shared struct {
	blocks [][]byte
	starts []uint64 // of each text: the number of its block, and its place there
	bytes  int
}

// sharedBlock is how many bytes a block has; one with a longer text has more.
const sharedBlock = 1 << 20

// get returns the text of a number; it is valid as long as the workbook.
func (s *shared) get(n int) (text string, ok bool) {
	if n < 0 || n >= len(s.starts) {
		return "", false
	}
	at := s.starts[n]
	block := s.blocks[at>>32]
	end := uint64(len(block))
	if n+1 < len(s.starts) && s.starts[n+1]>>32 == at>>32 {
		end = s.starts[n+1] & (1<<32 - 1)
	}
	b := block[at&(1<<32-1) : end]
	return unsafe.String(unsafe.SliceData(b), len(b)), true
}

// add adds the next text. The error says that there are too many.
func (s *shared) add(text []byte) error {
	n := len(s.blocks) - 1
	if n < 0 || len(s.blocks[n])+len(text) > cap(s.blocks[n]) {
		s.blocks = append(s.blocks, make([]byte, 0, max(sharedBlock, len(text))))
		n++
	}
	s.starts = append(s.starts, uint64(n)<<32|uint64(len(s.blocks[n])))
	s.blocks[n] = append(s.blocks[n], text...)
	if s.bytes += len(text) + 8; s.bytes > MostShared {
		return fmt.Errorf("%w: the texts that cells share have more than %d MB", ErrTooLarge, MostShared>>20)
	}
	return nil
}

// readShared reads the texts that cells share.
func (b *Book) readShared() error {
	if b.shared != nil {
		return nil
	}
	b.shared = new(shared)
	if b.lostTexts != nil {
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
	var text []byte
	for {
		if plain, ok := s.quickText(); ok {
			text = unescapeX(append(text[:0], plain...), 0)
			if err := b.shared.add(text); err != nil {
				return fmt.Errorf("%s: %w", b.strings, err)
			}
			continue
		}
		err := s.next(&t)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err == nil && t.kind == startTag && t.is("si") {
			if text, err = s.richText(&t, text[:0]); err == nil {
				err = b.shared.add(text)
			}
		}
		if err != nil {
			return fmt.Errorf("%s: %w", b.strings, err)
		}
	}
}

// quickText returns the next text that cells share, if it is written as nearly all are: <si><t>text</t></si>, with nothing escaped. Otherwise nothing was read.
func (s *scanner) quickText() (text []byte, ok bool) {
	const begin, end = "<si><t>", "</t></si>"
	b := s.buf[s.pos:s.end]
	if !bytes.HasPrefix(b, []byte(begin)) {
		return nil, false
	}
	b = b[len(begin):]
	n := bytes.IndexByte(b, '<')
	if n < 0 || !bytes.HasPrefix(b[n:], []byte(end)) || !isPlain(b[:n]) {
		return nil, false
	}
	s.pos += len(begin) + n + len(end)
	return b[:n], true
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
	first := bytes.IndexByte(b[from:], '_')
	if first < 0 {
		return b
	}
	out := from + first
	for i := out; i < len(b); {
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
