// Package symbol draws the bars of a code, to be scanned from a page or a
// screen: EAN-13, UPC-A and EAN-8 at their nominal size, with the quiet zones and
// the digits below (GS1 General Specifications 5.2).
package symbol

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"io"

	"github.com/boombuler/barcode/ean"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"zetanum/core/barcode"
)

// ErrKind says that codes of that kind are not drawn.
var ErrKind = errors.New("only EAN-13, UPC-A and EAN-8 are drawn, and what can be written as one of them")

// A Symbol is the bars of a code.
type Symbol struct {
	bars   []bool // a module each, dark or light
	long   []bool // the modules of the guard bars, which reach down into the digits
	quiet  [2]int // modules kept free on the left and right
	groups []group
}

// A group is digits that stand below the bars.
type group struct {
	digits   string
	from, to int // modules, from the left edge of the bars
}

// The nominal size of a module and of the bars, in hundredths of a millimetre.
const (
	module    = 33
	height    = 2285
	reach     = 5 * module // how far guard bars reach down
	below     = 300        // room for the digits
	fontSize  = 320
	perModule = 6 // pixels of a PNG
)

// New returns the symbol of a code; [ErrKind] if it has none.
func New(c barcode.Code) (*Symbol, error) {
	gtin, ok := c.GTIN()
	if !ok || gtin.Len() == 14 && gtin.Number() >= barcode.Pow10(13) {
		return nil, fmt.Errorf("%s is %s: %w", c, c.Kind(), ErrKind)
	}
	if gtin.Len() == 14 {
		gtin, _ = gtin.As(barcode.EAN13)
	}
	text := gtin.String()
	digits := text
	if len(text) == 12 {
		digits = "0" + text // the same bars
	}
	img, err := ean.Encode(digits)
	if err != nil {
		return nil, err
	}
	n := img.Bounds().Dx()
	s := &Symbol{bars: make([]bool, n), long: make([]bool, n)}
	for x := range n {
		level, _, _, _ := img.At(x, 0).RGBA()
		s.bars[x] = level < 0x8000
	}
	long := func(from, to int) {
		for x := from; x < to; x++ {
			s.long[x] = true
		}
	}
	long(0, 3)
	long(n-3, n)
	switch len(text) {
	case 8:
		s.quiet = [2]int{7, 7}
		long(31, 36)
		s.groups = []group{{text[:4], 3, 31}, {text[4:], 36, 64}}
	case 12:
		// The bars of the first and last digit are long, too, and the digits
		// stand outside.
		s.quiet = [2]int{9, 9}
		long(0, 10)
		long(45, 50)
		long(85, n)
		s.groups = []group{{text[:1], -9, -1}, {text[1:6], 10, 45}, {text[6:11], 50, 85}, {text[11:], 96, 104}}
	default:
		s.quiet = [2]int{11, 7}
		long(45, 50)
		s.groups = []group{{text[:1], -10, -1}, {text[1:7], 3, 45}, {text[7:], 50, 92}}
	}
	return s, nil
}

// width returns the modules from edge to edge.
func (s *Symbol) width() int { return s.quiet[0] + len(s.bars) + s.quiet[1] }

// runs calls do for each dark bar, with its first module and its width.
func (s *Symbol) runs(do func(from, width int, long bool)) {
	for x := 0; x < len(s.bars); x++ {
		if !s.bars[x] {
			continue
		}
		from := x
		for x < len(s.bars) && s.bars[x] {
			x++
		}
		do(from, x-from, s.long[from])
	}
}

// SVG writes the symbol as a drawing of its nominal size.
func (s *Symbol) SVG(w io.Writer) error {
	var b bytes.Buffer
	wide, high := s.width()*module, height+below
	fmt.Fprintf(&b, "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"%.2fmm\" height=\"%.2fmm\" viewBox=\"0 0 %d %d\">\n",
		float64(wide)/100, float64(high)/100, wide, high)
	fmt.Fprintf(&b, "<rect width=\"%d\" height=\"%d\" fill=\"#fff\"/>\n<path fill=\"#000\" d=\"", wide, high)
	s.runs(func(from, width int, long bool) {
		tall := height
		if long {
			tall += reach
		}
		fmt.Fprintf(&b, "M%d 0h%dv%dh-%dz", (s.quiet[0]+from)*module, width*module, tall, width*module)
	})
	b.WriteString("\"/>\n<g font-family=\"monospace\" font-size=\"320\" fill=\"#000\">\n")
	for _, g := range s.groups {
		fmt.Fprintf(&b, "<text x=\"%d\" y=\"%d\" textLength=\"%d\">%s</text>\n",
			(s.quiet[0]+g.from)*module+module/2, high-40, (g.to-g.from)*module-module, g.digits)
	}
	b.WriteString("</g>\n</svg>\n")
	_, err := w.Write(b.Bytes())
	return err
}

// PNG writes the symbol as a picture, six pixels a module.
func (s *Symbol) PNG(w io.Writer) error {
	scale := func(hundredths int) int { return hundredths * perModule / module }
	img := image.NewGray(image.Rect(0, 0, s.width()*perModule, scale(height+below)))
	draw.Draw(img, img.Bounds(), image.White, image.Point{}, draw.Src)
	s.runs(func(from, width int, long bool) {
		tall := height
		if long {
			tall += reach
		}
		x := (s.quiet[0] + from) * perModule
		draw.Draw(img, image.Rect(x, 0, x+width*perModule, scale(tall)), image.NewUniform(color.Black), image.Point{}, draw.Src)
	})
	parsed, err := opentype.Parse(gomono.TTF)
	if err != nil {
		return err
	}
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: float64(scale(fontSize)), DPI: 72, Hinting: font.HintingFull})
	if err != nil {
		return err
	}
	defer face.Close()
	for _, g := range s.groups {
		step := (g.to - g.from) * perModule / len(g.digits)
		for i, digit := range g.digits {
			wide := font.MeasureString(face, string(digit)).Round()
			x := (s.quiet[0]+g.from)*perModule + i*step + (step-wide)/2
			d := font.Drawer{Dst: img, Src: image.NewUniform(color.Black), Face: face, Dot: fixed.P(x, scale(height+below-40))}
			d.DrawString(string(digit))
		}
	}
	return png.Encode(w, img)
}
