package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"unicode/utf8"
)

// A token is a tag or a text of an XML document. Its bytes are valid until the next.
type token struct {
	kind  tokenKind
	name  []byte // of a tag, without its prefix
	attrs []byte // of a tag, as they stand there
	empty bool   // the tag ends itself
	text  []byte // as it stands there; see unescape
	plain bool   // nothing in the text is escaped
}

type tokenKind uint8

const (
	startTag tokenKind = iota + 1
	endTag
	someText
)

// A scanner cuts XML into tokens. It knows what documents of workbooks have: no
// document types, and no entities but the five of XML itself.
type scanner struct {
	r        io.Reader
	buf      []byte
	pos, end int
	eof      bool
}

func newScanner(r io.Reader) *scanner { return &scanner{r: r, buf: make([]byte, 1<<18)} }

// fill reads more behind what there is from pos on, and returns io.EOF if there is no
// more.
func (s *scanner) fill() error {
	if s.eof {
		return io.EOF
	}
	if s.pos > 0 {
		s.end = copy(s.buf, s.buf[s.pos:s.end])
		s.pos = 0
	}
	if s.end == len(s.buf) {
		if len(s.buf) > MostCell {
			return fmt.Errorf("%w: a single cell of more than %d MB", ErrTooLarge, MostCell>>20)
		}
		s.buf = append(s.buf, make([]byte, len(s.buf))...)
	}
	for {
		n, err := s.r.Read(s.buf[s.end:])
		s.end += n
		if errors.Is(err, io.EOF) {
			s.eof = true
			if n == 0 {
				return io.EOF
			}
			return nil
		}
		if err != nil || n > 0 {
			return err
		}
	}
}

// find returns where a text ends that begins somewhere behind the first from bytes, so
// that all before it is in the buffer; it reads on until it is there.
func (s *scanner) find(from int, what string) (int, error) {
	for {
		if i := bytes.Index(s.buf[s.pos+from:s.end], []byte(what)); i >= 0 {
			return from + i + len(what), nil
		}
		from = max(from, s.end-s.pos-len(what)+1)
		if err := s.fill(); err != nil {
			if errors.Is(err, io.EOF) {
				err = fmt.Errorf("%w: it ends in the middle of a tag", ErrDamaged)
			}
			return 0, err
		}
	}
}

// next returns the next token, or io.EOF.
func (s *scanner) next(t *token) error {
	for {
		if s.pos == s.end {
			if err := s.fill(); err != nil {
				return err
			}
		}
		if s.buf[s.pos] != '<' {
			return s.text(t)
		}
		for s.end-s.pos < 9 { // <![CDATA[
			if err := s.fill(); err != nil {
				if errors.Is(err, io.EOF) {
					break
				}
				return err
			}
		}
		b := s.buf[s.pos:s.end]
		switch {
		case len(b) > 1 && b[1] == '?':
			n, err := s.find(2, "?>")
			if err != nil {
				return err
			}
			s.pos += n
			continue
		case len(b) > 1 && b[1] == '!':
			switch {
			case bytes.HasPrefix(b, []byte("<!--")):
				n, err := s.find(4, "-->")
				if err != nil {
					return err
				}
				s.pos += n
				continue
			case bytes.HasPrefix(b, []byte("<![CDATA[")):
				n, err := s.find(9, "]]>")
				if err != nil {
					return err
				}
				t.kind, t.text, t.plain = someText, s.buf[s.pos+9:s.pos+n-3], true
				s.pos += n
				return nil
			}
			return ErrDoctype
		}
		return s.tag(t)
	}
}

func (s *scanner) text(t *token) error {
	from := 0
	for {
		if i := bytes.IndexByte(s.buf[s.pos+from:s.end], '<'); i >= 0 {
			from += i
			break
		}
		from = s.end - s.pos
		if err := s.fill(); err != nil {
			if errors.Is(err, io.EOF) {
				break
			}
			return err
		}
	}
	text := s.buf[s.pos : s.pos+from]
	t.kind, t.text, t.plain = someText, text, isPlain(text)
	s.pos += from
	return nil
}

// isPlain reports whether nothing in a text is escaped.
func isPlain(text []byte) bool {
	return bytes.IndexByte(text, '&') < 0 && bytes.IndexByte(text, '\r') < 0
}

// tag reads a tag; in attributes > may stand, too.
func (s *scanner) tag(t *token) error {
	i, quote := 1, byte(0)
	for {
		b := s.buf[s.pos:s.end]
		if i == 1 { // as nearly all are: short, and whole
			if n := bytes.IndexByte(b, '>'); n > 0 && (b[1] == '/' || closed(b[1:n])) {
				s.pos += n + 1
				return cutTag(t, b[1:n])
			}
		}
		for ; i < len(b); i++ {
			switch c := b[i]; {
			case quote != 0:
				if c == quote {
					quote = 0
				}
			case c == '>':
				s.pos += i + 1
				return cutTag(t, b[1:i])
			case c == '"' || c == '\'':
				quote = c
			}
		}
		if err := s.fill(); err != nil {
			if errors.Is(err, io.EOF) {
				err = fmt.Errorf("%w: it ends in the middle of a tag", ErrDamaged)
			}
			return err
		}
	}
}

// closed reports whether a quotation mark of each kind stands as often as it must where
// attributes end.
func closed(b []byte) bool {
	double := 0
	for _, c := range b {
		if c == '\'' {
			return false // the long way
		}
		if c == '"' {
			double++
		}
	}
	return double&1 == 0
}

func cutTag(t *token, b []byte) error {
	t.kind, t.empty, t.text = startTag, false, nil
	if len(b) > 0 && b[0] == '/' {
		t.kind = endTag
		b = b[1:]
	} else if len(b) > 0 && b[len(b)-1] == '/' {
		t.empty = true
		b = b[:len(b)-1]
	}
	n := 0
	for n < len(b) && !isSpace(b[n]) {
		n++
	}
	t.name, t.attrs = b[:n], b[n:]
	if i := bytes.IndexByte(t.name, ':'); i >= 0 {
		t.name = t.name[i+1:]
	}
	if len(t.name) == 0 {
		return fmt.Errorf("%w: a tag without a name", ErrDamaged)
	}
	return nil
}

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' }

// eachAttr calls do with the attributes of a tag, names without their prefix, values
// as they stand there.
func eachAttr(b []byte, do func(name, value []byte)) {
	eachWholeAttr(b, func(_, name, value []byte) { do(name, value) })
}

// eachWholeAttr also says how an attribute is written.
func eachWholeAttr(b []byte, do func(whole, name, value []byte)) {
	for i := 0; i < len(b); {
		for i < len(b) && isSpace(b[i]) {
			i++
		}
		from, local := i, i
		for i < len(b) && b[i] != '=' && !isSpace(b[i]) {
			if i++; b[i-1] == ':' && string(b[from:i]) != "xmlns:" {
				local = i
			}
		}
		name := b[local:i]
		for i < len(b) && (b[i] == '=' || isSpace(b[i])) {
			i++
		}
		if i == len(b) {
			return
		}
		end := bytes.IndexByte(b[i+1:], b[i])
		if end < 0 {
			return
		}
		do(b[from:i+end+2], name, b[i+1:i+1+end])
		i += end + 2
	}
}

// attr returns the value of an attribute, unescaped.
func (t *token) attr(name string) (value string) {
	eachAttr(t.attrs, func(n, v []byte) {
		if string(n) == name {
			value = string(unescape(nil, v))
		}
	})
	return value
}

// is reports whether a tag has a name.
func (t *token) is(name string) bool { return string(t.name) == name }

var entities = map[string]byte{"amp": '&', "lt": '<', "gt": '>', "quot": '"', "apos": '\''}

// unescape appends a text with its references resolved and its line ends as XML wants
// them.
func unescape(dst, text []byte) []byte {
	for len(text) > 0 {
		i := bytes.IndexAny(text, "&\r")
		if i < 0 {
			return append(dst, text...)
		}
		dst = append(dst, text[:i]...)
		text = text[i:]
		if text[0] == '\r' {
			dst = append(dst, '\n')
			text = bytes.TrimPrefix(text[1:], []byte("\n"))
			continue
		}
		end := bytes.IndexByte(text[:min(len(text), 12)], ';')
		if end < 0 {
			dst, text = append(dst, '&'), text[1:]
			continue
		}
		name := string(text[1:end])
		switch r := reference(name); {
		case r >= 0:
			dst = utf8.AppendRune(dst, r)
		default:
			dst = append(dst, text[:end+1]...)
		}
		text = text[end+1:]
	}
	return dst
}

// reference returns the character that a reference stands for, -1 if there is none.
func reference(name string) rune {
	if c, ok := entities[name]; ok {
		return rune(c)
	}
	if len(name) < 2 || name[0] != '#' {
		return -1
	}
	base, digits := 10, name[1:]
	if digits[0] == 'x' || digits[0] == 'X' {
		base, digits = 16, digits[1:]
	}
	n, err := strconv.ParseUint(digits, base, 32)
	if err != nil || n > utf8.MaxRune || !utf8.ValidRune(rune(n)) {
		return -1
	}
	return rune(n)
}
