package sheet

import (
	"bufio"
	"encoding/binary"
	"io"
	"strings"

	"zetanum/core/catalogue"
)

// A spooled row is the number of bytes that follow for it, then each cell as
// thirty-two times its length, plus the number of its marks, and its bytes. All numbers are
// unsigned varints. Empty cells at the end of a row are left out.

// spooled are the marks that cells keep, as the bits of that number.
var spooled = [5]catalogue.Mark{catalogue.Numeric, catalogue.Formula, catalogue.Unsettled, catalogue.Failed, catalogue.Quoted}

// spoolWriter writes rows in that form.
type spoolWriter struct {
	w     *bufio.Writer
	row   []byte
	empty int  // cells at the end of the row that are not written yet
	exact bool // they are written all the same

	written, most int64 // bytes, and how many there may be; 0 for any number
}

func newSpoolWriter(w io.Writer) *spoolWriter { return &spoolWriter{w: bufio.NewWriterSize(w, 1<<16)} }

func (s *spoolWriter) cell(text string, marks catalogue.Mark) {
	if text == "" && marks == 0 && !s.exact {
		s.empty++
		return
	}
	for ; s.empty > 0; s.empty-- {
		s.row = append(s.row, 0)
	}
	n := uint64(len(text)) << len(spooled)
	for i, m := range spooled {
		if marks&m != 0 {
			n |= 1 << i
		}
	}
	s.row = binary.AppendUvarint(s.row, n)
	s.row = append(s.row, text...)
}

func (s *spoolWriter) endRow() error {
	var head [binary.MaxVarintLen64]byte
	s.empty = 0
	s.written += int64(len(s.row)) + 1
	if s.most > 0 && s.written > s.most {
		return ErrSpread
	}
	s.w.Write(head[:binary.PutUvarint(head[:], uint64(len(s.row)))])
	_, err := s.w.Write(s.row)
	s.row = s.row[:0]
	return err
}

// AppendSpooled appends a row in that form; cells calls add with each cell.
func AppendSpooled(dst []byte, cells func(add func(text string))) []byte {
	var row []byte
	cells(func(text string) {
		row = append(binary.AppendUvarint(row, uint64(len(text))<<len(spooled)), text...)
	})
	return append(binary.AppendUvarint(dst, uint64(len(row))), row...)
}

func (s *spoolWriter) flush() error { return s.w.Flush() }

// beginning returns the cells with which a spooled row begins, up to so many bytes.
func beginning(row string, numbered bool, most int) string {
	_, size := uvarint(row)
	row = row[size:]
	if numbered {
		_, size := uvarint(row)
		row = row[size:]
	}
	var b strings.Builder
	for b.Len() < most && row != "" {
		n, size := uvarint(row)
		row = row[size:]
		cell := row[:min(int(n>>len(spooled)), len(row))]
		row = row[len(cell):]
		if b.Len() > 0 {
			b.WriteByte(',')
		}
		b.WriteString(cell[:min(len(cell), most)])
	}
	return strings.ToValidUTF8(b.String(), "")
}

func uvarint(s string) (n uint64, size int) {
	for shift := 0; size < len(s); shift += 7 {
		b := s[size]
		size++
		n |= uint64(b&0x7f) << shift
		if b < 0x80 {
			return n, size
		}
	}
	return 0, 0
}

func (s *Scanner) nextSpooled(row *catalogue.Row) {
	clearRow(row)
	row.Whole = catalogue.Span{From: uint32(s.pos), To: uint32(s.pos)}
	n, size := uvarint(s.data[s.pos:])
	if size == 0 || uint64(len(s.data)-s.pos-size) < n {
		// The text is cut within the row.
		s.Open, s.pos = true, len(s.data)
		row.End = uint32(s.pos)
		return
	}
	body := s.data[s.pos+size : s.pos+size+int(n)]
	s.pos += size + int(n)
	row.End = uint32(s.pos)
	if s.form.Numbered {
		n, size := uvarint(body)
		row.Number, row.Stray, body = int(n>>1), n&1 != 0, body[size:]
	}
	for len(body) > 0 {
		n, size := uvarint(body)
		end := size + int(n>>len(spooled))
		cell := body[size:end]
		body = body[end:]
		mark := catalogue.Mark(0)
		for i := range spooled {
			if n&(1<<i) != 0 {
				mark |= spooled[i]
			}
		}
		row.Cells = append(row.Cells, cell)
		row.Marks = append(row.Marks, mark)
		row.Spans = append(row.Spans, catalogue.Span{})
	}
	// Cells at the end that are empty were left out, unless the rows come of another file.
	for len(row.Cells) < s.form.Columns && !s.form.Numbered {
		row.Cells, row.Marks, row.Spans = append(row.Cells, ""), append(row.Marks, 0), append(row.Spans, catalogue.Span{})
	}
}

// AppendSource appends a row as it stood in the source, whatever has been
// written to it since, but without its end of line. Of a file of several encodings the
// cells are in UTF-8; bytes that cannot be read stay as they are.
func (f *Form) AppendSource(dst []byte, part *Part, row *catalogue.Row) []byte {
	if !f.Spooled && !row.Stray && !row.Mended {
		if whole := part.Data[row.Whole.From:row.Whole.To]; f.Pure() || !catalogue.Has(whole, catalogue.HighBytes) {
			return append(dst, whole...)
		}
	}
	var source catalogue.Row
	f.Scanner(part.Data[row.Whole.From:row.End]).Next(&source)
	for i, cell := range source.Cells {
		if i > 0 {
			dst = append(dst, f.Separator)
		}
		if !f.Pure() {
			if text := f.Decode(cell); !strings.Contains(text, "\ufffd") {
				cell = text
			}
		}
		dst = f.style().AppendCell(dst, cell, source.Marks[i])
	}
	return dst
}
