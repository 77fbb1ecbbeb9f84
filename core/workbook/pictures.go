package workbook

import (
	"encoding/binary"
	"errors"
	"io"
	"strings"
)

// A Picture lies over a sheet, or stands in one of its cells, and is no text that could go out with it.
type Picture struct {
	Col, Row int    // the cell at its upper left corner, counted from 1
	Name     string // as the workbook has it, "" if it has none
}

// mostPictures is how many pictures of a sheet are named.
const mostPictures = 100_000

func (s *Sheet) picture(p Picture) {
	if p.Row > 0 && p.Col > 0 && len(s.Pictures) < mostPictures {
		s.Pictures = append(s.Pictures, p)
	}
}

// readPictures reads which pictures lie over a sheet of Office Open XML: those of its drawings (ECMA-376 Part 1, 20.5). A drawing that
// cannot be read has none: the rows are there without it.
func (b *Book) readPictures(s *Sheet) {
	rels, _ := b.relations(s.part)
	for _, rel := range rels {
		if strings.HasSuffix(rel.kind, "/drawing") && rel.lost == nil {
			_ = b.readDrawing(s, rel.target)
		}
	}
}

func (b *Book) readDrawing(s *Sheet, part string) error {
	file, err := b.open(part)
	if err != nil {
		return err
	}
	defer file.Close()
	in := newScanner(file)
	var t token
	var at Picture
	from, pictures := false, 0 // within one; how many deep
	for {
		if err := in.next(&t); err != nil {
			if errors.Is(err, io.EOF) {
				return nil
			}
			return err
		}
		switch {
		case t.kind == endTag && t.is("from"):
			from = false
		case t.kind == endTag && t.is("pic"):
			pictures--
		case t.kind != startTag || t.empty && !t.is("cNvPr"):
		case t.is("twoCellAnchor"), t.is("oneCellAnchor"), t.is("absoluteAnchor"):
			at = Picture{}
		case t.is("from"):
			from = true
		case from && (t.is("col") || t.is("row")):
			into := &at.Col
			if t.is("row") {
				into = &at.Row
			}
			if err := in.next(&t); err != nil {
				return err
			}
			if t.kind == someText {
				*into = number(t.text) + 1
			}
		case t.is("pic"):
			pictures++
		case t.is("cNvPr") && pictures == 1:
			at.Name = t.attr("name")
			s.picture(at)
		}
	}
}

// The records of what is drawn over a sheet (MS-ODRAW, 2.2).
const (
	drawnContainer = 0xf
	drawnShape     = 0xf00a
	drawnAnchor    = 0xf010
	pictureFrame   = 75 // the type of a shape (2.4.24)
)

// drawn reads which pictures lie over a sheet of a binary workbook.
func (s *Sheet) drawn(b []byte) {
	isPicture := false
	for len(b) >= 8 {
		head, kind, length := binary.LittleEndian.Uint16(b), binary.LittleEndian.Uint16(b[2:]), binary.LittleEndian.Uint32(b[4:])
		b = b[8:]
		if head&0xf == drawnContainer {
			continue // what is in it follows
		}
		if uint64(length) > uint64(len(b)) {
			return
		}
		switch kind {
		case drawnShape:
			isPicture = head>>4 == pictureFrame
		case drawnAnchor:
			if isPicture && length >= 8 {
				s.picture(Picture{Col: int(binary.LittleEndian.Uint16(b[2:])) + 1, Row: int(binary.LittleEndian.Uint16(b[6:])) + 1})
			}
			isPicture = false
		}
		b = b[length:]
	}
}
