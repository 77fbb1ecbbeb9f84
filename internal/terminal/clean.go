package terminal

import (
	"fmt"
	"io"
	"os"
	"strings"
	"unicode/utf8"

	"golang.org/x/term"
)

// hidden reports whether a character does something to a terminal, or to how the text beside
// it is shown, in place of being shown: controls, marks of direction, and what ends a line
// for some programs only.
func hidden(r rune) bool {
	switch {
	case r == '\n' || r == '\t':
		return false
	case r < ' ', r >= 0x7f && r < 0xa0, r == 0x61c, r == 0x200e, r == 0x200f, r >= 0x2028 && r <= 0x202e, r >= 0x2066 && r <= 0x2069,
		r == 0xfeff, r >= 0xe0000 && r < 0xe1000:
		return true
	}
	return false
}

// Clean returns a text with what is hidden in it written out, as <001B>, and bytes that are
// no UTF-8 as <E4>: nothing from a file reaches the terminal raw.
func Clean(s string) string { return clean(s, nil) }

// clean leaves the sequences that are allowed.
func clean(s string, allowed []string) string {
	if strings.IndexFunc(s, func(r rune) bool { return r == utf8.RuneError || hidden(r) }) < 0 {
		return s
	}
	var b strings.Builder
next:
	for i := 0; i < len(s); {
		for _, a := range allowed {
			if strings.HasPrefix(s[i:], a) {
				b.WriteString(a)
				i += len(a)
				continue next
			}
		}
		r, size := utf8.DecodeRuneInString(s[i:])
		switch {
		case r == utf8.RuneError && size == 1:
			fmt.Fprintf(&b, "<%02X>", s[i])
		case hidden(r):
			fmt.Fprintf(&b, "<%04X>", r)
		default:
			b.WriteString(s[i : i+size])
		}
		i += size
	}
	return b.String()
}

// A cleaner writes texts clean. Each of them is written at once.
type cleaner struct {
	w       io.Writer
	allowed []string
}

func (c *cleaner) Write(p []byte) (int, error) {
	if _, err := io.WriteString(c.w, clean(string(p), c.allowed)); err != nil {
		return 0, err
	}
	return len(p), nil
}

// Messages returns a writer for messages, which writes them clean and cuts those that are
// very long.
func Messages(w io.Writer) io.Writer { return &messages{cleaner{w: w}} }

type messages struct{ cleaner }

func (m *messages) Write(p []byte) (int, error) {
	s := strings.TrimSuffix(string(p), "\n")
	if _, err := m.cleaner.Write([]byte(short(s) + "\n")); err != nil {
		return 0, err
	}
	return len(p), nil
}

// mostText is how many bytes of a message or a paragraph are shown.
const mostText = 4000

// short cuts a text that is very long.
func short(s string) string {
	if len(s) <= mostText {
		return s
	}
	end := mostText
	for end > 0 && !utf8.RuneStart(s[end]) {
		end--
	}
	return s[:end] + " …"
}

// Data returns a writer for contents of files: as they are for another program, and clean
// on a terminal.
func Data(w io.Writer) io.Writer {
	if f, ok := w.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		return &cleaner{w: w, allowed: []string{"\r\n"}}
	}
	return w
}

// JSON returns a writer for JSON, in which what is hidden is escaped by the rules of that.
// Each value is written at once.
func JSON(w io.Writer) io.Writer { return jsonWriter{w} }

type jsonWriter struct{ w io.Writer }

func (j jsonWriter) Write(p []byte) (int, error) {
	var b strings.Builder
	for _, r := range string(p) {
		switch {
		case !hidden(r):
			b.WriteRune(r)
		case r > 0xffff:
			r -= 0x10000
			fmt.Fprintf(&b, `\u%04x\u%04x`, 0xd800+r>>10, 0xdc00+r&0x3ff)
		default:
			fmt.Fprintf(&b, `\u%04x`, r)
		}
	}
	if _, err := io.WriteString(j.w, b.String()); err != nil {
		return 0, err
	}
	return len(p), nil
}
