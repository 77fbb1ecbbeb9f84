package workbook

import (
	"encoding/binary"
	"fmt"
	"strings"
)

// A Place is that of a cell, counted from 1.
type Place struct{ Col, Row int }

// Fills returns the colours with which the cells of the first rows of a sheet are filled, those of cells without anything in them, too. Two
// colours that are the same have the same name in a workbook: "ffc000", "theme 4", "palette 13".
func (b *Book) Fills(s *Sheet, rows int) (map[Place]string, error) {
	switch {
	case b.stream != nil:
		return b.binaryFills(s, rows)
	case b.ods:
		return b.openFills(s, rows)
	case s.lost != nil || b.styles == "":
		return nil, nil
	}
	byStyle, err := b.styleFills()
	if err != nil {
		return nil, err
	}
	fills := make(map[Place]string)
	row := 0
	err = b.tags(s.part, func(t *token) error {
		switch {
		case t.is("row"):
			if n := number([]byte(t.attr("r"))); n > 0 {
				row = n
			} else {
				row++
			}
			if row > rows {
				return errEnough
			}
		case t.is("c"):
			style := number([]byte(t.attr("s")))
			if col, _ := place([]byte(t.attr("r"))); col > 0 && style < len(byStyle) && byStyle[style] != "" {
				fills[Place{col, row}] = byStyle[style]
			}
		}
		return nil
	})
	return fills, err
}

// styleFills returns the colour of each style of cells.
func (b *Book) styleFills() (byStyle []string, err error) {
	var fills []string
	inFills, inCells := false, false
	err = b.tags(b.styles, func(t *token) error {
		switch string(t.name) {
		case "fills":
			inFills = true
		case "borders", "cellStyleXfs":
			inFills = false
		case "fill":
			if inFills {
				fills = append(fills, "")
			}
		case "patternFill":
			if kind := t.attr("patternType"); inFills && len(fills) > 0 && kind == "none" {
				fills[len(fills)-1] = "none"
			}
		case "fgColor":
			if n := len(fills) - 1; inFills && n >= 0 && fills[n] == "" {
				fills[n] = colour(t)
			}
		case "cellXfs":
			inCells = true
		case "cellStyles", "dxfs":
			inCells = false
		case "xf":
			if n := number([]byte(t.attr("fillId"))); inCells && n < len(fills) && fills[n] != "none" {
				byStyle = append(byStyle, fills[n])
			} else if inCells {
				byStyle = append(byStyle, "")
			}
		}
		return nil
	})
	return byStyle, err
}

// colour returns the name of a colour; white is none.
func colour(t *token) string {
	if rgb := strings.ToLower(t.attr("rgb")); len(rgb) >= 6 {
		if rgb = rgb[len(rgb)-6:]; rgb != "ffffff" {
			return rgb
		}
		return ""
	}
	for _, of := range []string{"theme", "indexed"} {
		if n := t.attr(of); n != "" {
			return strings.TrimSpace(of + " " + n + " " + t.attr("tint"))
		}
	}
	return ""
}

// openFills does it for OpenDocument: the colour of a cell is that of its style, or of one from which that is made.
func (b *Book) openFills(s *Sheet, rows int) (map[Place]string, error) {
	type style struct{ parent, colour string }
	styles := make(map[string]style)
	name := ""
	read := func(t *token) {
		if t.kind != startTag {
			return
		}
		switch string(t.name) {
		case "style":
			if name = ""; t.attr("family") == "table-cell" {
				name = t.attr("name")
				styles[name] = style{parent: t.attr("parent-style-name")}
			}
		case "table-cell-properties":
			if c := strings.ToLower(strings.TrimPrefix(t.attr("background-color"), "#")); name != "" && c != "" {
				styles[name] = style{styles[name].parent, c}
			}
		}
	}
	if b.file("styles.xml") != nil {
		if err := b.tags("styles.xml", func(t *token) error { read(t); return nil }); err != nil {
			return nil, err
		}
	}
	of := func(name string) string {
		for range 10 {
			s := styles[name]
			if s.colour == "transparent" || s.colour == "ffffff" {
				return ""
			}
			if s.colour != "" || s.parent == "" {
				return s.colour
			}
			name = s.parent
		}
		return ""
	}
	fills := make(map[Place]string)
	err := b.openCells(s, read, func(c openCell) error {
		if c.Row > rows {
			return errEnough
		}
		colour := of(c.attr("style-name"))
		for row := c.Row; row <= min(c.ToRow, rows) && colour != ""; row++ {
			for col := c.Col; col <= c.ToCol; col++ {
				fills[Place{col, row}] = colour
			}
		}
		return nil
	})
	return fills, err
}

// binaryFills does it for BIFF8, whose styles have a number of a palette (MS-XLS, 2.4.353).
func (b *Book) binaryFills(s *Sheet, rows int) (map[Place]string, error) {
	var byStyle []string
	err := b.eachRecord(0, func(kind uint16, c *chars) error {
		if kind != recXF {
			return nil
		}
		data := c.bytes(20)
		if c.end {
			return fmt.Errorf("%w: a style is cut", ErrDamaged)
		}
		pattern, front := binary.LittleEndian.Uint32(data[14:])>>26, binary.LittleEndian.Uint16(data[18:])&0x7f
		colour := ""
		if pattern != 0 && front != 9 && front != 65 { // white, and what is behind all
			colour = fmt.Sprintf("palette %d", front)
		}
		byStyle = append(byStyle, colour)
		return nil
	})
	if err != nil {
		return nil, err
	}
	fills := make(map[Place]string)
	put := func(row, col, style int) {
		if row <= rows && style < len(byStyle) && byStyle[style] != "" {
			fills[Place{col, row}] = byStyle[style]
		}
	}
	err = b.eachRecord(s.at, func(kind uint16, c *chars) error {
		switch kind {
		case recBlank, recLabelSST, recNumber, recRK, recFormula, recBoolErr, recLabel, recRString:
			row, col, style := int(c.u16())+1, int(c.u16())+1, int(c.u16())
			put(row, col, style)
		case recMulBlank, recMulRK:
			size := 2
			if kind == recMulRK {
				size = 6
			}
			row, col := int(c.u16())+1, int(c.u16())+1
			for ; len(c.data) >= size+2; col++ {
				put(row, col, int(binary.LittleEndian.Uint16(c.bytes(size))))
			}
		}
		return nil
	})
	return fills, err
}
