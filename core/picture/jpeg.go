package picture

import "encoding/binary"

// lookJPEG reads the markers of a JPEG up to the header of its frame.
func lookJPEG(s *source, info *Info) error {
	for at := int64(2); s.next(); {
		b, err := s.at(at, 4)
		if err != nil {
			return err
		}
		if b[0] != 0xFF {
			return ErrBroken
		}
		marker := b[1]
		switch {
		case marker == 0xFF: // a byte to fill up
			at++
			continue
		case marker == 0x01, marker >= 0xD0 && marker <= 0xD8: // without a length
			at += 2
			continue
		case marker == 0xD9, marker == 0xDA:
			return ErrBroken // data before the frame
		}
		length := int(binary.BigEndian.Uint16(b[2:]))
		if length < 2 {
			return ErrBroken
		}
		switch {
		case marker == 0xE1:
			if err := exif(s, at+4, length-2, info); err != nil {
				return err
			}
		case marker >= 0xC0 && marker <= 0xCF && marker != 0xC4 && marker != 0xC8 && marker != 0xCC:
			frame, err := s.at(at+4, 6)
			if err != nil {
				return err
			}
			info.Height, info.Width = int(binary.BigEndian.Uint16(frame[1:])), int(binary.BigEndian.Uint16(frame[3:]))
			switch frame[5] {
			case 1:
				info.Colours = Grey
			case 3:
				info.Colours = RGB
			case 4:
				info.Colours = CMYK
			default:
				return ErrBroken
			}
			return nil
		}
		at += 2 + int64(length)
	}
	return ErrBroken
}

// mostExif is how much of what a camera has written is read: the directory stands at its beginning.
const mostExif = 4096

// exif reads the orientation. What is not as it should be there says nothing.
func exif(s *source, at int64, length int, info *Info) error {
	b, err := s.atMost(at, min(length, mostExif))
	if err != nil {
		return err
	}
	if len(b) < 14 || string(b[:6]) != "Exif\x00\x00" {
		return nil
	}
	d, ok := readDirectory(b[6:])
	if turned := d.value(tagOrientation); ok && turned >= 1 && turned <= 8 && info.Turned == 0 {
		info.Turned = int(turned)
	}
	return nil
}

// The tags of a directory that are read (TIFF 6.0).
const (
	tagWidth       = 256
	tagHeight      = 257
	tagPhotometric = 262
	tagOrientation = 274
	tagExtra       = 338
)

// A directory is the first of a TIFF, or of what a camera has written, which has the same form.
type directory struct {
	order   binary.ByteOrder
	entries []byte
}

// readDirectory reads the first directory of a TIFF that is all there.
func readDirectory(b []byte) (d directory, ok bool) {
	order, at, ok := header(b)
	if !ok || int64(at)+2 > int64(len(b)) {
		return d, false
	}
	n := int(order.Uint16(b[at:]))
	entries := b[at+2:]
	return directory{order, entries[:min(len(entries), 12*n)]}, true
}

// header reads the header of a TIFF: the order of its bytes, and where its first directory stands.
func header(b []byte) (order binary.ByteOrder, at uint32, ok bool) {
	if len(b) < 8 {
		return nil, 0, false
	}
	switch string(b[:2]) {
	case "II":
		order = binary.LittleEndian
	case "MM":
		order = binary.BigEndian
	default:
		return nil, 0, false
	}
	return order, order.Uint32(b[4:]), order.Uint16(b[2:]) == 42
}

// value returns the value of a tag that is one number, 0 if it is not there.
func (d directory) value(tag uint16) uint32 {
	for b := d.entries; len(b) >= 12; b = b[12:] {
		if d.order.Uint16(b) != tag {
			continue
		}
		switch d.order.Uint16(b[2:]) {
		case 1:
			return uint32(b[8])
		case 3:
			return uint32(d.order.Uint16(b[8:]))
		case 4:
			return d.order.Uint32(b[8:])
		}
	}
	return 0
}

// mostEntries is how many entries of the directory of a TIFF are read.
const mostEntries = 512

// lookTIFF reads the first directory of a TIFF, which may stand at its end.
func lookTIFF(s *source, info *Info) error {
	b, err := s.at(0, 8)
	if err != nil {
		return err
	}
	order, at, ok := header(b)
	if !ok {
		return ErrBroken
	}
	count, err := s.at(int64(at), 2)
	if err != nil {
		return err
	}
	entries, err := s.atMost(int64(at)+2, 12*min(int(order.Uint16(count)), mostEntries))
	if err != nil {
		return err
	}
	d := directory{order, entries}
	width, height := d.value(tagWidth), d.value(tagHeight)
	if width > mostPixels || height > mostPixels {
		return ErrBroken
	}
	info.Width, info.Height = int(width), int(height)
	if turned := d.value(tagOrientation); turned <= 8 {
		info.Turned = int(turned)
	}
	switch d.value(tagPhotometric) {
	case 0, 1:
		info.Colours = Grey
	case 3:
		info.Colours = Palette
	case 5:
		info.Colours = CMYK
	default:
		info.Colours = RGB
	}
	info.Transparent = d.value(tagExtra) > 0
	return nil
}
