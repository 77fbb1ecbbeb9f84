package picture

import (
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// file returns a file of testdata; they were made with usual programs, all of the same 30 by 20 pixels.
func file(t testing.TB, name string) []byte {
	b, err := os.ReadFile(filepath.Join("testdata", name))
	require.NoError(t, err)
	return b
}

// in puts bytes into others at an offset.
func in(b []byte, at int, insert ...byte) []byte {
	return append(append(bytes.Clone(b[:at]), insert...), b[at:]...)
}

// segment returns a segment of a JPEG.
func segment(marker byte, body string) []byte {
	return append(binary.BigEndian.AppendUint16([]byte{0xFF, marker}, uint16(len(body)+2)), body...)
}

func TestLook(t *testing.T) {
	rgb := file(t, "rgb.jpg")
	exif := "Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00"
	long := segment(0xE2, string(make([]byte, 65000)))
	late := rgb
	for range 12 {
		late = in(late, 2, long...)
	}
	frames := []byte("\x00\x00\x00\x08acTL\x00\x00\x00\x02\x00\x00\x00\x00\x00\x00\x00\x00")
	for name, want := range map[string]struct {
		data []byte
		info Info
	}{
		"rgb.jpg":            {nil, Info{Type: JPEG, Width: 30, Height: 20, Colours: RGB}},
		"grey.jpg":           {nil, Info{Type: JPEG, Width: 30, Height: 20, Colours: Grey}},
		"cmyk.jpg":           {nil, Info{Type: JPEG, Width: 30, Height: 20, Colours: CMYK}},
		"turned by a camera": {in(rgb, 2, segment(0xE1, exif)...), Info{Type: JPEG, Width: 20, Height: 30, Turned: 6, Colours: RGB}},
		"a late header":      {late, Info{Type: JPEG, Width: 30, Height: 20, Colours: RGB}},
		"bytes between":      {in(rgb, 2, 0xFF, 0xFF), Info{Type: JPEG, Width: 30, Height: 20, Colours: RGB}},
		"rgb.png":            {nil, Info{Type: PNG, Width: 30, Height: 20, Colours: RGB}},
		"rgba.png":           {nil, Info{Type: PNG, Width: 30, Height: 20, Colours: RGB, Transparent: true}},
		"pal.png":            {nil, Info{Type: PNG, Width: 30, Height: 20, Colours: Palette}},
		"frames.png":         {in(file(t, "rgb.png"), 33, frames...), Info{Type: PNG, Width: 30, Height: 20, Colours: RGB, Animated: true}},
		"still.gif":          {nil, Info{Type: GIF, Width: 30, Height: 20, Colours: Palette}},
		"anim.gif":           {nil, Info{Type: GIF, Width: 30, Height: 20, Colours: Palette, Animated: true}},
		"lossy.webp":         {nil, Info{Type: WebP, Width: 30, Height: 20, Colours: RGB}},
		"lossless.webp":      {nil, Info{Type: WebP, Width: 30, Height: 20, Colours: RGB}},
		"alpha.webp":         {nil, Info{Type: WebP, Width: 30, Height: 20, Colours: RGB, Transparent: true}},
		"anim.webp":          {nil, Info{Type: WebP, Width: 30, Height: 20, Colours: RGB, Animated: true}},
		"plain.avif":         {nil, Info{Type: AVIF, Width: 30, Height: 20, Colours: RGB}},
		"turned.avif":        {nil, Info{Type: AVIF, Width: 20, Height: 30, Colours: RGB}},
		"clap.avif":          {nil, Info{Type: AVIF, Width: 20, Height: 10, Colours: RGB}},
		"alpha.avif":         {nil, Info{Type: AVIF, Width: 30, Height: 20, Colours: RGB, Transparent: true}},
		"seq.avif":           {nil, Info{Type: AVIF, Width: 30, Height: 20, Colours: RGB, Animated: true, Transparent: true}},
		"plain.heic":         {nil, Info{Type: HEIC, Width: 30, Height: 20, Colours: RGB}},
		"rgb.tif":            {nil, Info{Type: TIFF, Width: 30, Height: 20, Turned: 1, Colours: RGB}},
		"big.tif":            {nil, Info{Type: TIFF, Width: 30, Height: 20, Turned: 1, Colours: RGB}},
		"turned.tif":         {nil, Info{Type: TIFF, Width: 20, Height: 30, Turned: 6, Colours: RGB}},
		"cmyk.tif":           {nil, Info{Type: TIFF, Width: 30, Height: 20, Turned: 1, Colours: CMYK}},
		"rgb.bmp":            {nil, Info{Type: BMP, Width: 30, Height: 20, Colours: RGB}},
		"a drawing":          {[]byte(`<?xml version="1.0"?><!-- made --><svg xmlns="http://www.w3.org/2000/svg" width="30px" height="20"/>`), Info{Type: SVG, Width: 30, Height: 20, Colours: RGB, Transparent: true}},
		"one with a view":    {[]byte(`<svg width="100%" viewBox="0 0 30 20">`), Info{Type: SVG, Width: 30, Height: 20, Colours: RGB, Transparent: true}},
		"one without a size": {[]byte(`<svg>`), Info{Type: SVG, Colours: RGB, Transparent: true}},
	} {
		data := want.data
		if data == nil {
			data = file(t, name)
		}
		got, err := Look(bytes.NewReader(data), int64(len(data)))
		assert.NoError(t, err, name)
		assert.Equal(t, want.info, got, name)
	}
}

// TestNotPictures: what is no picture, or a broken one, is called so.
func TestNotPictures(t *testing.T) {
	jpeg := file(t, "rgb.jpg")
	for name, c := range map[string]struct {
		data string
		want error
	}{
		"nothing":            {"", ErrNone},
		"a page":             {"<!DOCTYPE html><html><svg></svg></html>", ErrNone},
		"a text that begins": {"BMW 320", ErrNone},
		"cut":                {string(jpeg[:100]), ErrBroken},
		"no size":            {string(file(t, "rgb.png")[:16]) + string(make([]byte, 30)), ErrBroken},
		"a huge one":         {string(file(t, "rgb.png")[:16]) + "\x7F\xFF\xFF\xFF\x00\x00\x00\x01\x08\x02\x00\x00\x00\x00\x00\x00\x00", ErrBroken},
		"only a beginning":   {"\xFF\xD8\xFF", ErrBroken},
		"data first":         {"\xFF\xD8\xFF\xDA\x00\x02", ErrBroken},
		"endless markers":    {"\xFF\xD8" + string(bytes.Repeat([]byte{0xFF, 0xD0}, 1<<16)), ErrBroken},
	} {
		_, err := Look(bytes.NewReader([]byte(c.data)), int64(len(c.data)))
		assert.ErrorIs(t, err, c.want, name)
	}
	far := errors.New("far away")
	_, err := Look(failing{far}, -1)
	assert.ErrorIs(t, err, far)
}

type failing struct{ error }

func (f failing) ReadAt([]byte, int64) (int, error) { return 0, f.error }

// TestLittle: a header is found without reading the picture, also where what a camera wrote pushes it far back.
func TestLittle(t *testing.T) {
	data := file(t, "rgb.jpg")
	for range 100 {
		data = in(data, 2, segment(0xE2, string(make([]byte, 65000)))...)
	}
	c := &counting{r: bytes.NewReader(data)}
	_, err := Look(c, int64(len(data)))
	require.NoError(t, err)
	assert.Less(t, c.n, 10<<10)
}

type counting struct {
	r io.ReaderAt
	n int
}

func (c *counting) ReadAt(b []byte, at int64) (int, error) {
	n, err := c.r.ReadAt(b, at)
	c.n += n
	return n, err
}

func FuzzLook(f *testing.F) {
	names, err := filepath.Glob("testdata/*.*")
	require.NoError(f, err)
	for _, name := range names {
		f.Add(file(f, filepath.Base(name)))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		c := &counting{r: bytes.NewReader(data)}
		info, err := Look(c, int64(len(data)))
		if err == nil && (info.Type == "" || info.Width < 0 || info.Height < 0) {
			t.Fatalf("%+v", info)
		}
		if c.n > 1<<20 {
			t.Fatalf("%d bytes of %d were read", c.n, len(data))
		}
	})
}

func BenchmarkLook(b *testing.B) {
	for _, name := range []string{"rgb.jpg", "rgb.png", "lossy.webp", "plain.avif", "rgb.tif"} {
		data := file(b, name)
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				_, _ = Look(bytes.NewReader(data), int64(len(data)))
			}
		})
	}
}
