package sheet

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/charset"
)

// transcode brings a file to UTF-8, in a file of its own, and looks for the table
// there.
func (t *Table) transcode(from charset.Charset) error {
	source := t.file
	defer source.Close()
	if t.remove != "" {
		defer os.Remove(t.remove)
	}
	t.file, t.remove = nil, ""
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	sum := xxhash.New()
	in := io.TeeReader(io.NewSectionReader(source, 0, math.MaxInt64), sum)
	out := bufio.NewWriterSize(spool, 1<<20)
	if t.Extent, err = io.Copy(out, from.Reader(in)); err == nil {
		err = out.Flush()
	}
	if err != nil {
		return t.fail(err, "while it was read as "+from.String(), "")
	}
	t.BookSum, t.Transcoded = sum.Sum64(), from
	head := make([]byte, sniffSize+1)
	n, err := t.file.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return t.fail(err, "", "")
	}
	t.Form.Charset, t.Form.BOM = charset.UTF8, false
	return t.findTable(head[:min(n, sniffSize)], n > sniffSize)
}

// weigh finds out in which encoding of one byte a character the whole file is, if it
// is not UTF-8.
func (t *Table) weigh() error {
	if t.Form.Charset == charset.UTF8 || t.Form.Charset.Wide() || t.opt.Encoding != "" {
		return nil
	}
	table, lines := new(charset.Table), new(charset.Sample)
	buf := make([]byte, 1<<20)
	in := io.NewSectionReader(t.file, 0, math.MaxInt64)
	var sample []byte
	for {
		n, err := in.Read(buf)
		table.Add(buf[:n])
		lines.Add(buf[:n])
		if len(sample) < sampleSize {
			sample = append(sample, highWords(buf[:n])...)
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return t.fail(err, "", "")
		}
	}
	if wide, ok := lines.East(); ok {
		t.Form.Charset, t.Doubt = wide, ""
		return nil
	}
	guess := table.Guess()
	t.Form.Charset, t.Doubt = guess.Charset, ""
	if guess.Margin < charset.Thin {
		for _, word := range bytes.Fields(sample) {
			one, other := string(guess.Charset.Decode(word)), string(guess.Second.Decode(word))
			if one != other {
				t.Doubt = fmt.Sprintf("the encoding is taken for %s, but %s is nearly as likely: it would make “%s” of “%s”; -encoding says which is right", guess.Charset, guess.Second, other, one)
				break
			}
		}
	}
	return nil
}

// sampleSize is how many bytes of words are kept to show what an encoding makes of
// them.
const sampleSize = 4096

// highWords returns the words of a text that are not all ASCII, a few of them.
func highWords(data []byte) (words []byte) {
	for i := 0; i < len(data) && len(words) < sampleSize; i++ {
		if data[i] < utf8.RuneSelf {
			continue
		}
		edge := func(b byte) bool { return b <= ' ' || strings.IndexByte(",;\t|\"", b) >= 0 }
		from, to := i, i
		for from > 0 && !edge(data[from-1]) && i-from < 40 {
			from--
		}
		for to < len(data) && !edge(data[to]) && to-i < 40 {
			to++
		}
		words = append(append(words, data[from:to]...), ' ')
		i = to
	}
	return words
}
