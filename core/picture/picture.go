// Package picture reads from the first bytes of a picture what an importer wants to know of it: its type, whatever its name says, how
// large it is as it is seen, and whether it has colours, frames or transparency that not every shop takes. It reads as little as it can:
// a picture is given as an [io.ReaderAt], which may fetch from far away.
//
//	JPEG   markers up to the frame header, and Exif for the orientation (ITU-T T.81, Exif 2.32)
//	PNG    its chunks up to the data (W3C PNG, third edition)
//	GIF    its blocks up to the second frame
//	WebP   the header of RIFF, VP8, VP8L or VP8X
//	AVIF and HEIC   the boxes of the primary item: ispe, irot, imir, clap, auxC (ISO/IEC 14496-12, 23008-12)
//	TIFF   its first directory
//	BMP    its header
//	SVG    the attributes of its root
package picture

import (
	"errors"
	"io"
)

// A Type is the type of a picture, by its usual ending; "" if it is none.
type Type string

// The types.
const (
	JPEG Type = "jpg"
	PNG  Type = "png"
	GIF  Type = "gif"
	WebP Type = "webp"
	AVIF Type = "avif"
	HEIC Type = "heic"
	TIFF Type = "tif"
	BMP  Type = "bmp"
	SVG  Type = "svg"
)

// Colours say what the values of a picture stand for.
type Colours string

// The kinds of colours.
const (
	RGB     Colours = "rgb"
	Grey    Colours = "grey"
	Palette Colours = "palette"
	CMYK    Colours = "cmyk" // for print: many shops refuse it, or show it wrongly
)

// Info is what a picture says of itself. Width and Height are in pixels, as it is seen when it is turned as it says; both 0 if it does
// not say, as drawings need not.
type Info struct {
	Type        Type
	Width       int
	Height      int
	Turned      int // how it has to be turned to be upright, as Exif says it: 1 to 8; 0 and 1 for not at all
	Colours     Colours
	Animated    bool
	Transparent bool // some of it may be
}

// Errors of pictures that cannot be read. What the reader says itself comes through.
var (
	ErrNone   = errors.New("this is no picture")
	ErrBroken = errors.New("the picture is broken")
)

// Sniff returns the type of a picture by its first bytes, of which it needs 512 at most; "" if it is none.
func Sniff(b []byte) Type {
	has := func(at int, text string) bool { return len(b) >= at+len(text) && string(b[at:at+len(text)]) == text }
	switch {
	case has(0, "\xFF\xD8\xFF"):
		return JPEG
	case has(0, "\x89PNG\r\n\x1A\n"):
		return PNG
	case has(0, "GIF87a"), has(0, "GIF89a"):
		return GIF
	case has(0, "RIFF") && has(8, "WEBP"):
		return WebP
	case has(0, "II*\x00"), has(0, "MM\x00*"):
		return TIFF
	case has(0, "BM") && len(b) >= 18 && b[6] == 0 && b[7] == 0 && b[8] == 0 && b[9] == 0:
		return BMP
	case has(4, "ftyp"):
		return sniffBoxes(b)
	case isSVG(b):
		return SVG
	}
	return ""
}

// Look reads a picture of size bytes; -1 if nobody knows how many it has. The error wraps [ErrNone] or [ErrBroken], or is that of the
// reader; what is known of the picture by then is returned, too.
func Look(r io.ReaderAt, size int64) (Info, error) {
	s := &source{r: r, size: size}
	first, err := s.atMost(0, 512)
	if err != nil {
		return Info{}, err
	}
	info := Info{Type: Sniff(first)}
	look := map[Type]func(*source, *Info) error{
		JPEG: lookJPEG, PNG: lookPNG, GIF: lookGIF, WebP: lookWebP, AVIF: lookBoxes, HEIC: lookBoxes, TIFF: lookTIFF, BMP: lookBMP, SVG: lookSVG,
	}[info.Type]
	if look == nil {
		return info, ErrNone
	}
	if err := look(s, &info); err != nil {
		return info, err
	}
	if info.Turned > 4 { // it lies on its side
		info.Width, info.Height = info.Height, info.Width
	}
	if info.Width < 0 || info.Height < 0 || info.Width > mostPixels || info.Height > mostPixels ||
		info.Type != SVG && (info.Width == 0 || info.Height == 0) {
		return info, ErrBroken
	}
	return info, nil
}

// mostPixels is how many pixels a side has at most.
const mostPixels = 1 << 20

// most is how many parts of a picture are looked at: markers, chunks, blocks, boxes.
const most = 2000

// A source is a picture of which parts are read.
type source struct {
	r    io.ReaderAt
	size int64
	step int // parts that have been looked at
}

// next reports whether another part may be looked at.
func (s *source) next() bool {
	s.step++
	return s.step <= most
}

// at returns n bytes from an offset on; a picture that ends before them is broken.
func (s *source) at(offset int64, n int) ([]byte, error) {
	b, err := s.atMost(offset, n)
	if err == nil && len(b) < n {
		return nil, ErrBroken
	}
	return b, err
}

// atMost returns up to n bytes.
func (s *source) atMost(offset int64, n int) ([]byte, error) {
	if offset < 0 || s.size >= 0 && offset > s.size {
		return nil, ErrBroken
	}
	b := make([]byte, n)
	got, err := s.r.ReadAt(b, offset)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, err
	}
	return b[:got], nil
}

// section returns the picture as a stream.
func (s *source) section() io.Reader { return io.NewSectionReader(s.r, 0, 1<<62) }

// broken turns an error of a decoder into ours; those of the reader come through.
func broken(err error) error {
	if err == nil || errors.Is(err, ErrBroken) {
		return err
	}
	var far interface{ Far() bool }
	if errors.As(err, &far) {
		return err
	}
	return ErrBroken
}
