package picture

import (
	"encoding/binary"
	"slices"
	"strings"
)

// sniffBoxes tells AVIF and HEIC by the brands of the file.
func sniffBoxes(b []byte) Type {
	size := int(min(binary.BigEndian.Uint32(b), uint32(len(b))))
	for at := 8; at+4 <= size; at += 4 {
		switch string(b[at : at+4]) {
		case "avif", "avis":
			return AVIF
		case "heic", "heix", "hevc", "hevx", "heim", "heis", "mif1", "msf1":
			if at == 8 && strings.HasPrefix(string(b[8:12]), "m") {
				continue // the brand of the form, which both have
			}
			return HEIC
		}
	}
	if size >= 12 && (string(b[8:12]) == "mif1" || string(b[8:12]) == "msf1") {
		return HEIC
	}
	return ""
}

// mostMeta is how many bytes of boxes are read.
const mostMeta = 256 << 10

// A box is one of a file in the form of ISO media (ISO/IEC 14496-12, 4.2).
type box struct {
	kind string
	body []byte
}

// eachBox calls do with the boxes in some bytes until it returns false.
func eachBox(b []byte, s *source, do func(box) bool) {
	for len(b) >= 8 && s.next() {
		size, head := uint64(binary.BigEndian.Uint32(b)), 8
		if size == 1 && len(b) >= 16 {
			size, head = binary.BigEndian.Uint64(b[8:]), 16
		}
		if size == 0 || size > uint64(len(b)) {
			size = uint64(len(b))
		}
		if size < uint64(head) || !do(box{string(b[4:8]), b[head:size]}) {
			return
		}
		b = b[size:]
	}
}

// lookBoxes reads the boxes that say how large the primary item of a file is.
func lookBoxes(s *source, info *Info) error {
	info.Colours = RGB
	for at := int64(0); s.next(); {
		b, err := s.atMost(at, 16)
		if err != nil {
			return err
		}
		if len(b) < 8 {
			return ErrBroken
		}
		size := int64(binary.BigEndian.Uint32(b))
		if size == 1 && len(b) == 16 {
			size = int64(min(binary.BigEndian.Uint64(b[8:]), 1<<62))
		}
		switch string(b[4:8]) {
		case "ftyp":
			brands, err := s.atMost(at+8, int(min(size-8, 256)))
			if err != nil {
				return err
			}
			info.Animated = strings.Contains(string(brands), "avis") && strings.HasPrefix(string(brands), "avis")
		case "meta":
			if size < 12 || size > mostMeta {
				return ErrBroken
			}
			meta, err := s.at(at+12, int(size-12))
			if err != nil {
				return err
			}
			return lookMeta(meta, s, info)
		}
		if size < 8 {
			return ErrBroken
		}
		at += size
	}
	return ErrBroken
}

// lookMeta reads what the primary item is: the properties that belong to it, in their order.
func lookMeta(meta []byte, s *source, info *Info) error {
	var primary uint32
	var properties []box
	var belongs []byte
	hidden := false // an item says how transparent another is
	eachBox(meta, s, func(b box) bool {
		switch b.kind {
		case "pitm":
			if len(b.body) >= 8 && b.body[0] > 0 {
				primary = binary.BigEndian.Uint32(b.body[4:])
			} else if len(b.body) >= 6 {
				primary = uint32(binary.BigEndian.Uint16(b.body[4:]))
			}
		case "iprp":
			eachBox(b.body, s, func(p box) bool {
				switch p.kind {
				case "ipco":
					eachBox(p.body, s, func(property box) bool {
						properties = append(properties, property)
						return true
					})
				case "ipma":
					belongs = append(belongs, p.body...)
				}
				return true
			})
		}
		return true
	})
	for _, p := range properties {
		hidden = hidden || p.kind == "auxC" && strings.Contains(string(p.body), ":alpha")
	}
	info.Transparent = hidden
	for _, n := range propertiesOf(belongs, primary, s) {
		if n < 1 || n > len(properties) {
			continue
		}
		switch p := properties[n-1]; p.kind {
		case "ispe":
			if len(p.body) >= 12 {
				w, h := binary.BigEndian.Uint32(p.body[4:]), binary.BigEndian.Uint32(p.body[8:])
				if w > mostPixels || h > mostPixels {
					return ErrBroken
				}
				info.Width, info.Height = int(w), int(h)
			}
		case "clap":
			clip(p.body, info)
		case "irot":
			if len(p.body) >= 1 {
				if p.body[0]&1 == 1 {
					info.Width, info.Height = info.Height, info.Width
				}
			}
		}
	}
	return nil
}

// clip cuts the picture to its clean aperture, which is given as fractions (ISO/IEC 14496-12, 12.1.4).
func clip(b []byte, info *Info) {
	if len(b) < 16 {
		return
	}
	part := func(at int) int {
		n, d := binary.BigEndian.Uint32(b[at:]), binary.BigEndian.Uint32(b[at+4:])
		if d == 0 || n/d > mostPixels {
			return 0
		}
		return int(n / d)
	}
	if w, h := part(0), part(8); w > 0 && h > 0 && w <= info.Width && h <= info.Height {
		info.Width, info.Height = w, h
	}
}

// propertiesOf returns the numbers of the properties of an item, from 1.
func propertiesOf(b []byte, item uint32, s *source) (numbers []int) {
	if len(b) < 8 {
		return nil
	}
	long, wide := b[0] > 0, b[3]&1 == 1
	count := binary.BigEndian.Uint32(b[4:])
	b = b[8:]
	for range count {
		if !s.next() {
			return nil
		}
		var id uint32
		switch {
		case long && len(b) >= 5:
			id, b = binary.BigEndian.Uint32(b), b[4:]
		case !long && len(b) >= 3:
			id, b = uint32(binary.BigEndian.Uint16(b)), b[2:]
		default:
			return nil
		}
		n := int(b[0])
		b = b[1:]
		size := 1
		if wide {
			size = 2
		}
		if len(b) < n*size {
			return nil
		}
		if id == item {
			for i := range n {
				if wide {
					numbers = append(numbers, int(binary.BigEndian.Uint16(b[2*i:])&0x7FFF))
				} else {
					numbers = append(numbers, int(b[i]&0x7F))
				}
			}
			return slices.Clone(numbers)
		}
		b = b[n*size:]
	}
	return nil
}
