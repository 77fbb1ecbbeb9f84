package sheet

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/charset"
)

// transcode brings a file to UTF-8, in a file of its own, and looks for the table
// there.
func (t *Table) transcode(from charset.Charset) error {
	source, done := t.giveUp()
	defer done()
	end := t.end
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	sum := xxhash.New()
	in := io.TeeReader(io.NewSectionReader(source, 0, end), sum)
	out := bufio.NewWriterSize(spool, 1<<20)
	decoded := from.Reader(in)
	if t.mixed {
		decoded = from.ReaderOfLines(in)
	}
	last := &lastBytes{}
	if t.Extent, err = io.Copy(io.MultiWriter(out, last), decoded); err == nil {
		err = out.Flush()
	}
	if err != nil {
		return t.fail(err, "while it was read as "+from.String(), "")
	}
	t.Transcoded = from
	if t.Member == "" { // or the sum is that of the archive
		t.BookSum = sum.Sum64()
	}
	if err := t.findEnd(); err != nil {
		return err
	}
	t.Extent = t.end
	head, more, err := t.head()
	if err != nil {
		return err
	}
	t.Form.Charset, t.Form.BOM = charset.UTF8, false
	if t.Form.Cut = string(last[:]) == "\ufffd"; t.Form.Cut {
		t.Doubt = strings.TrimSpace(t.Doubt + " " + cutOff)
	}
	return t.findTable(head, more)
}

// lastBytes keeps the last three bytes of what is written to it: as many as a lost
// character has.
type lastBytes [3]byte

func (l *lastBytes) Write(p []byte) (n int, err error) {
	tail := append(l[:], p[max(0, len(p)-3):]...)
	copy(l[:], tail[len(tail)-3:])
	return len(p), nil
}

// weigh finds out in which encoding the whole file is, if it is not UTF-8 to its end;
// if a part of it is, in which encoding the rest.
func (t *Table) weigh() error {
	if t.Form.Charset == charset.UTF8 || t.Form.Charset.Wide() {
		return nil
	}
	said, named := charset.Parse(t.opt.Encoding)
	lines := new(charset.Sample)
	var whole, rest []byte
	err := t.stretches(func(b []byte) {
		lines.Add(b)
		if len(whole) < sampleSize {
			whole = append(whole, wordsWith(b, notASCII, sampleSize)...)
		}
		if len(rest) < sampleSize {
			rest = append(rest, wordsWith(b, notUTF8, sampleSize)...)
		}
	})
	if err != nil {
		return err
	}
	lines.End()
	t.Doubt, t.Evidence = "", ""
	f := &t.Form
	guess := lines.Guess()
	f.Encoding = Encoding{Charset: f.Charset, BOM: f.BOM, First: guess.Charset, Cut: lines.Cut > 0}
	if lines.Whole() {
		f.Charset, f.Broken = charset.UTF8, true
		t.Doubt = cutOff
		return nil
	}
	if guess.Margin < charset.Thin {
		f.Second = guess.Second
	}
	mostly := f.BOM || named && said == charset.UTF8 || lines.MostlyUTF8()
	switch {
	case guess.Charset.Wide() && !mostly:
		f.Charset = guess.Charset
		t.Evidence = evidence("not UTF-8; in "+guess.Charset.String()+" the words beyond ASCII make sense", guess, whole)
		t.Doubt = doubt("The encoding is", guess, whole)
		t.mixed = guess.Mixed
	case mostly || guess.Mixed:
		f.Charset, f.Foreign, f.Mixed = charset.UTF8, guess.Charset, !mostly
		broken := guess.Lost || guess.Charset.Wide()
		switch {
		case broken:
			f.Foreign, f.Second, f.Broken = charset.UTF8, charset.UTF8, true
			t.Doubt = "Some bytes are no UTF-8, as the rest of the file is, and are too few, or make too little sense, to be of another " +
				"encoding: what stood there cannot be told."
		case !mostly:
			t.Evidence = evidence("UTF-8 in a part of the rows; in "+guess.Charset.String()+" the others make sense", guess, rest)
		default:
			t.Evidence = evidence("UTF-8 but for some bytes, which in "+guess.Charset.String()+" make sense", guess, rest)
		}
		if !broken {
			t.Doubt = doubt("What is no UTF-8 is", guess, rest)
		}
	default:
		f.Charset, f.Cut = guess.Charset, false
		t.Doubt = doubt("The encoding is", guess, whole)
		t.Evidence = evidence("not UTF-8; in "+guess.Charset.String()+" the words beyond ASCII make sense", guess, whole)
	}
	if f.Cut {
		t.Doubt = strings.TrimSpace(t.Doubt + " " + cutOff)
	}
	return nil
}

// cutOff is said of a file that ends in the middle of a character.
const cutOff = "The file ends in the middle of a character: it seems to be cut off."

// stretches hands out the whole file in stretches that end behind an ASCII character.
func (t *Table) stretches(add func([]byte)) error {
	buf := make([]byte, 1<<20)
	in := io.NewSectionReader(t.file, 0, t.end)
	kept := 0
	for {
		n, err := in.Read(buf[kept:])
		n += kept
		end := n
		for err == nil && end > 0 && n-end < maxWord && buf[end-1] >= utf8.RuneSelf {
			end--
		}
		if end == 0 || n-end == maxWord {
			end = n
		}
		add(buf[:end])
		kept = copy(buf, buf[end:n])
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return t.fail(err, "while its encoding was looked for", "")
		}
	}
}

// evidence says what was found, with some words of the sample, and how far the next
// best encoding lies behind.
func evidence(what string, guess charset.Guess, sample []byte) string {
	var words []string
	for _, word := range bytes.Fields(sample) {
		w := "“" + guess.Charset.Read(string(word)) + "”"
		if len(words) < 3 && !slices.Contains(words, w) {
			words = append(words, w)
		}
	}
	if len(words) == 0 {
		return ""
	}
	return fmt.Sprintf("%s, such as %s; %s lies %s behind", what, strings.Join(words, ", "), guess.Second, howFar(guess.Margin))
}

// howFar puts a margin in words.
func howFar(margin float64) string {
	switch {
	case margin < charset.Thin:
		return "little"
	case margin < 3*charset.Thin:
		return "clearly"
	}
	return "far"
}

// Contains reports whether a text stands somewhere in a file in UTF-8.
func (t *Table) Contains(text string) (found bool, err error) {
	if t.Form.Charset != charset.UTF8 {
		return false, nil
	}
	before := make([]byte, 0, 2*len(text))
	err = t.stretches(func(b []byte) {
		before = append(before, b[:min(len(b), len(text))]...)
		found = found || bytes.Contains(before, []byte(text)) || bytes.Contains(b, []byte(text))
		before = append(before[:0], b[max(0, len(b)-len(text)):]...)
	})
	return found, err
}

// doubt says what speaks for another encoding, "" if little does, with a word of the
// sample as it would be in both.
func doubt(what string, guess charset.Guess, sample []byte) string {
	if guess.Margin >= charset.Thin {
		return ""
	}
	for _, word := range bytes.Fields(sample) {
		one, other := guess.Charset.Read(string(word)), guess.Second.Read(string(word))
		if one != other {
			return fmt.Sprintf("%s taken for %s, but %s is nearly as likely: it would make “%s” of “%s”; the setting ‹encoding› says "+
				"which is right.", what, guess.Charset, guess.Second, other, one)
		}
	}
	return ""
}

// sampleSize is how many bytes of words are kept to show what an encoding makes of
// them, and maxWord how much of one is looked at on either side.
const (
	sampleSize = 4096
	maxWord    = 40
)

// notASCII returns where the first byte beyond ASCII stands, or -1.
func notASCII(data []byte) int {
	return slices.IndexFunc(data, func(b byte) bool { return b >= utf8.RuneSelf })
}

// notUTF8 returns where the first byte stands that is no UTF-8, or -1.
func notUTF8(data []byte) int {
	for i := 0; i < len(data); {
		r, size := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && size == 1 {
			return i
		}
		i += size
	}
	return -1
}

// wordsWith returns the words of a text in which something is found, with spaces
// between them, until they are that many bytes.
func wordsWith(data []byte, find func([]byte) int, most int) (words []byte) {
	edge := func(b byte) bool { return b <= ' ' || strings.IndexByte(",;\t|\"", b) >= 0 }
	for at := 0; len(words) < most; {
		i := find(data[at:])
		if i < 0 {
			break
		}
		i += at
		from, to := i, i
		for from > at && !edge(data[from-1]) && i-from < maxWord {
			from--
		}
		for to < len(data) && !edge(data[to]) && to-i < maxWord {
			to++
		}
		words = append(append(words, data[from:to]...), ' ')
		at = to
	}
	return words
}
