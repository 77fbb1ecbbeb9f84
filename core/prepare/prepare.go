// Package prepare makes copies of photos as an importer takes them: upright, as JPEG or PNG, with sides and bytes within limits. What is so
// already is copied byte for byte. What would lose something that matters is not copied at all: moving pictures, drawings, colours for
// print.
package prepare

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"slices"

	"golang.org/x/image/bmp"
	"golang.org/x/image/draw"
	"golang.org/x/image/tiff"
	"golang.org/x/image/webp"

	"zetanum/core/imagelink"
	"zetanum/core/picture"
)

// Limits are those of an importer.
type Limits struct {
	Types    []string // endings of the types that it takes; nil for JPEG and PNG
	Longest  int      // pixels of the longer side; 0 for any
	Shortest int      // and of the shorter one, below which a picture is not made smaller
	Largest  int64    // bytes; 0 for any
}

// A Plan says what becomes of a photo.
type Plan struct {
	Type picture.Type // of the copy
	AsIs bool         // it is copied byte for byte

	info   picture.Info
	limits *Limits
}

// Why a photo is not copied.
var (
	ErrMoves  = errors.New("it moves, and a JPEG or PNG does not")
	ErrPrint  = errors.New("its colours are those for print; save it with colours for screens, RGB")
	ErrReader = errors.New("a picture of this type cannot be turned into another one here")
	ErrType   = errors.New("types has neither jpg nor png, and no others can be written")
	ErrPixels = fmt.Errorf("it has more than %d million pixels", mostPixels/1_000_000)
	ErrFit    = errors.New("it cannot be made so small that it has no more than largest_file")
	ErrBroken = errors.New("it is broken")
)

// mostPixels is how many pixels a photo has at most that is taken into memory.
const mostPixels = 120_000_000

// Plan says what becomes of a photo, by what it says of itself and how many bytes it has. The error is one of those above.
func (l *Limits) Plan(info picture.Info, size int64) (Plan, error) {
	p := Plan{Type: info.Type, info: info, limits: l}
	heavy := l.Largest > 0 && size > l.Largest
	wide := l.Longest > 0 && max(info.Width, info.Height) > l.Longest
	if l.takes(info.Type) && info.Turned <= 1 && !heavy && !wide {
		p.AsIs = true
		return p, nil
	}
	switch {
	case decoders[info.Type] == nil:
		return p, ErrReader
	case info.Animated:
		return p, ErrMoves
	case info.Colours == picture.CMYK:
		return p, ErrPrint
	case int64(info.Width)*int64(info.Height) > mostPixels:
		return p, ErrPixels
	}
	photo := info.Type != picture.PNG && info.Type != picture.GIF && info.Type != picture.BMP && info.Colours != picture.Palette
	order := []picture.Type{picture.PNG, picture.JPEG}
	if !info.Transparent && (photo || heavy) {
		slices.Reverse(order)
	}
	for _, t := range order {
		if l.takes(t) {
			p.Type = t
			return p, nil
		}
	}
	return p, ErrType
}

func (l *Limits) takes(t picture.Type) bool {
	if l.Types == nil {
		return t == picture.JPEG || t == picture.PNG
	}
	return slices.ContainsFunc(l.Types, func(name string) bool { return imagelink.SameType(name, string(t)) })
}

// decoders read the types that can be turned into others.
var decoders = map[picture.Type]func(io.Reader) (image.Image, error){
	picture.JPEG: jpeg.Decode, picture.PNG: png.Decode, picture.GIF: gif.Decode, picture.WebP: webp.Decode, picture.TIFF: tiff.Decode, picture.BMP: bmp.Decode,
}

// Make writes the copy of a photo. The error wraps [ErrBroken] or [ErrFit], or is that of the reader or the writer.
func (p *Plan) Make(w io.Writer, photo io.ReaderAt, size int64) error {
	whole := io.NewSectionReader(photo, 0, size)
	if p.AsIs {
		_, err := io.Copy(w, whole)
		return err
	}
	img, err := decoders[p.info.Type](whole)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrBroken, err)
	}
	colours := profile(p.info.Type, photo, size)
	if _, grey := img.(*image.Gray); grey {
		colours = nil // which would be those of greys
	}
	least := max(p.limits.Shortest, 1)
	for by := 1.0; ; by *= 0.85 {
		width, height := p.sides(img.Bounds(), by)
		if by < 1 && min(width, height) < least {
			return ErrFit
		}
		out := p.drawn(img, width, height)
		for _, quality := range p.qualities() {
			b, err := encode(p.Type, out, quality, colours)
			if err != nil {
				return err
			}
			if p.limits.Largest == 0 || int64(len(b)) <= p.limits.Largest {
				_, err = w.Write(b)
				return err
			}
		}
	}
}

// Sides returns the width and height of the copy as it is seen, unless it has to be made smaller so that it fits.
func (p *Plan) Sides() (width, height int) {
	return p.sides(image.Rect(0, 0, p.info.Width, p.info.Height), 1)
}

// qualities are those of a JPEG that are tried one after the other; those of a PNG are all one.
func (p *Plan) qualities() []int {
	if p.Type == picture.PNG || p.limits.Largest == 0 {
		return []int{90}
	}
	return []int{90, 85, 80, 75}
}

// sides returns the sides of the copy before it is turned.
func (p *Plan) sides(of image.Rectangle, by float64) (width, height int) {
	if long := max(of.Dx(), of.Dy()); p.limits.Longest > 0 && long > p.limits.Longest {
		by *= float64(p.limits.Longest) / float64(long)
	}
	side := func(n int) int { return max(1, int(float64(n)*by+0.5)) }
	return side(of.Dx()), side(of.Dy())
}

// drawn returns a picture with other sides, upright, and on white if it goes out as a JPEG.
func (p *Plan) drawn(img image.Image, width, height int) image.Image {
	at := image.Rect(0, 0, width, height)
	same := at.Size() == img.Bounds().Size()
	opaque := !p.info.Transparent || isOpaque(img)
	if same && p.info.Turned <= 1 && opaque {
		return img // as it was read: greys stay greys
	}
	var on draw.Image = image.NewNRGBA(at)
	if opaque || p.Type == picture.JPEG {
		on = image.NewRGBA(at)
		draw.Draw(on, at, image.NewUniform(color.White), image.Point{}, draw.Src)
	}
	if same {
		draw.Draw(on, at, img, img.Bounds().Min, draw.Over)
	} else {
		draw.CatmullRom.Scale(on, at, img, img.Bounds(), draw.Over, nil)
	}
	switch on := on.(type) {
	case *image.RGBA:
		on.Pix, on.Rect = upright(on.Pix, on.Rect, p.info.Turned)
		on.Stride = 4 * on.Rect.Dx()
	case *image.NRGBA:
		on.Pix, on.Rect = upright(on.Pix, on.Rect, p.info.Turned)
		on.Stride = 4 * on.Rect.Dx()
	}
	return on
}

func isOpaque(img image.Image) bool {
	o, ok := img.(interface{ Opaque() bool })
	return ok && o.Opaque()
}

// upright turns pixels of four bytes as Exif says (Exif 2.32, 4.6.4, orientation).
func upright(pix []uint8, r image.Rectangle, turned int) ([]uint8, image.Rectangle) {
	if turned <= 1 || turned > 8 {
		return pix, r
	}
	w, h := r.Dx(), r.Dy()
	nw, nh := w, h
	if turned > 4 {
		nw, nh = h, w
	}
	out := make([]uint8, len(pix))
	for y := range nh {
		for x := range nw {
			fx, fy := x, y // where the pixel comes from
			switch turned {
			case 2:
				fx = w - 1 - x
			case 3:
				fx, fy = w-1-x, h-1-y
			case 4:
				fy = h - 1 - y
			case 5:
				fx, fy = y, x
			case 6:
				fx, fy = y, h-1-x
			case 7:
				fx, fy = w-1-y, h-1-x
			case 8:
				fx, fy = w-1-y, x
			}
			copy(out[4*(y*nw+x):][:4], pix[4*(fy*w+fx):])
		}
	}
	return out, image.Rect(0, 0, nw, nh)
}

// encode writes a picture, with the profile of its colours if it has one.
func encode(t picture.Type, img image.Image, quality int, colours []byte) ([]byte, error) {
	var b bytes.Buffer
	var err error
	if t == picture.PNG {
		err = png.Encode(&b, img)
	} else {
		err = jpeg.Encode(&b, img, &jpeg.Options{Quality: quality})
	}
	if err != nil || colours == nil {
		return b.Bytes(), err
	}
	return withProfile(t, b.Bytes(), colours), nil
}
