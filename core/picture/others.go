package picture

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"image/color"
	"io"
	"strconv"
	"strings"

	"golang.org/x/image/bmp"
)

// lookPNG reads the chunks of a PNG up to its data.
func lookPNG(s *source, info *Info) error {
	b, err := s.at(8, 21)
	if err != nil {
		return err
	}
	if string(b[4:8]) != "IHDR" || binary.BigEndian.Uint32(b) != 13 {
		return ErrBroken
	}
	width, height := binary.BigEndian.Uint32(b[8:]), binary.BigEndian.Uint32(b[12:])
	if width > mostPixels || height > mostPixels {
		return ErrBroken
	}
	info.Width, info.Height = int(width), int(height)
	switch b[17] {
	case 0, 4:
		info.Colours = Grey
	case 2, 6:
		info.Colours = RGB
	case 3:
		info.Colours = Palette
	default:
		return ErrBroken
	}
	info.Transparent = b[17] >= 4
	for at := int64(33); s.next(); {
		chunk, err := s.atMost(at, 8)
		if err != nil || len(chunk) < 8 {
			return err // nothing but its size is needed
		}
		switch string(chunk[4:]) {
		case "acTL":
			info.Animated = true
		case "tRNS":
			info.Transparent = true
		case "IDAT", "IEND":
			return nil
		}
		at += 12 + int64(binary.BigEndian.Uint32(chunk))
	}
	return nil
}

// lookGIF reads the blocks of a GIF up to its second frame.
func lookGIF(s *source, info *Info) error {
	b, err := s.at(6, 7)
	if err != nil {
		return err
	}
	info.Width, info.Height = int(binary.LittleEndian.Uint16(b)), int(binary.LittleEndian.Uint16(b[2:]))
	info.Colours = Palette
	at := int64(13) + table(b[4])
	frames := 0
	for s.next() {
		b, err := s.atMost(at, 10)
		if err != nil || len(b) < 2 {
			return err
		}
		switch b[0] {
		case 0x21: // an extension
			if b[1] == 0xF9 && len(b) >= 4 && b[3]&1 != 0 {
				info.Transparent = true
			}
			at += 2
		case 0x2C: // a frame
			if frames++; frames > 1 {
				info.Animated = true
				return nil
			}
			if len(b) < 10 {
				return nil
			}
			at += 10 + table(b[9]) + 1
		default:
			return nil
		}
		for s.next() { // the blocks in it
			n, err := s.atMost(at, 1)
			if err != nil || len(n) < 1 {
				return err
			}
			if at += 1 + int64(n[0]); n[0] == 0 {
				break
			}
		}
	}
	return nil // it has so many blocks that nobody looks for a second frame
}

// table returns how many bytes a table of colours has.
func table(flags byte) int64 {
	if flags&0x80 == 0 {
		return 0
	}
	return 3 << (flags&7 + 1)
}

// lookWebP reads the header of a WebP.
func lookWebP(s *source, info *Info) error {
	b, err := s.at(12, 18)
	if err != nil {
		return err
	}
	info.Colours = RGB
	switch string(b[:4]) {
	case "VP8X":
		info.Animated, info.Transparent = b[8]&2 != 0, b[8]&16 != 0
		info.Width, info.Height = 1+int(b[12])+int(b[13])<<8+int(b[14])<<16, 1+int(b[15])+int(b[16])<<8+int(b[17])<<16
	case "VP8L":
		bits := binary.LittleEndian.Uint32(b[9:])
		if b[8] != 0x2F {
			return ErrBroken
		}
		info.Width, info.Height, info.Transparent = int(bits&0x3FFF)+1, int(bits>>14&0x3FFF)+1, bits>>28&1 != 0
	case "VP8 ":
		if b[11] != 0x9D || b[12] != 0x01 || b[13] != 0x2A {
			return ErrBroken
		}
		info.Width, info.Height = int(binary.LittleEndian.Uint16(b[14:])&0x3FFF), int(binary.LittleEndian.Uint16(b[16:])&0x3FFF)
	default:
		return ErrBroken
	}
	return nil
}

func lookBMP(s *source, info *Info) error {
	c, err := bmp.DecodeConfig(s.section())
	if err != nil {
		return broken(err)
	}
	info.Width, info.Height, info.Colours = c.Width, c.Height, RGB
	if _, is := c.ColorModel.(color.Palette); is {
		info.Colours = Palette
	}
	return nil
}

// isSVG reports whether a text begins as a drawing does.
func isSVG(b []byte) bool {
	text := strings.ToLower(string(bytes.TrimPrefix(b, []byte("\uFEFF"))))
	text = strings.TrimLeft(text, " \t\r\n")
	if !strings.HasPrefix(text, "<") {
		return false
	}
	for {
		switch {
		case strings.HasPrefix(text, "<?"), strings.HasPrefix(text, "<!doctype svg"), strings.HasPrefix(text, "<!--"):
			end := strings.Index(text, ">")
			if strings.HasPrefix(text, "<!--") {
				if end = strings.Index(text, "-->"); end >= 0 {
					end += 2
				}
			}
			if end < 0 {
				return strings.HasPrefix(text, "<!doctype svg")
			}
			text = strings.TrimLeft(text[end+1:], " \t\r\n")
		default:
			return strings.HasPrefix(text, "<svg") && (len(text) == 4 || strings.IndexByte(" \t\r\n>/", text[4]) >= 0)
		}
	}
}

// mostSVG is how far the root of a drawing is looked for.
const mostSVG = 64 << 10

// lookSVG reads the attributes of the root of a drawing. One that names a length in other units than pixels, or only shares, has the
// size of its view, or none.
func lookSVG(s *source, info *Info) error {
	b, err := s.atMost(0, mostSVG)
	if err != nil {
		return err
	}
	info.Colours, info.Transparent = RGB, true
	d := xml.NewDecoder(bytes.NewReader(b))
	d.Strict = false
	d.CharsetReader = func(_ string, r io.Reader) (io.Reader, error) { return r, nil }
	for {
		token, err := d.Token()
		if err != nil {
			return ErrBroken
		}
		root, is := token.(xml.StartElement)
		if !is {
			continue
		}
		var view []string
		for _, a := range root.Attr {
			switch a.Name.Local {
			case "width":
				info.Width = pixels(a.Value)
			case "height":
				info.Height = pixels(a.Value)
			case "viewBox":
				view = strings.FieldsFunc(a.Value, func(r rune) bool { return r == ' ' || r == ',' })
			}
		}
		if (info.Width == 0 || info.Height == 0) && len(view) == 4 {
			info.Width, info.Height = pixels(view[2]), pixels(view[3])
		}
		return nil
	}
}

// pixels returns a length in pixels, 0 if it is in something else.
func pixels(s string) int {
	n, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(s), "px"), 64)
	if err != nil || !(n > 0) || n > mostPixels {
		return 0
	}
	return int(n + 0.5)
}
