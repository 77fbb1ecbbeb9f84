package prepare

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/picture"
)

// TestPlan: what becomes of a photo is seen from what it says of itself.
func TestPlan(t *testing.T) {
	photo := picture.Info{Type: picture.JPEG, Width: 4000, Height: 3000, Turned: 1, Colours: picture.RGB}
	with := func(of picture.Info, do func(*picture.Info)) picture.Info { do(&of); return of }
	drawing := picture.Info{Type: picture.PNG, Width: 800, Height: 600, Colours: picture.RGB}
	for name, tt := range map[string]struct {
		limits Limits
		info   picture.Info
		size   int64
		as     picture.Type
		asIs   bool
		err    error
	}{
		"as it is":               {Limits{}, photo, 5e6, picture.JPEG, true, nil},
		"lies on its side":       {Limits{}, with(photo, func(i *picture.Info) { i.Turned = 6 }), 5e6, picture.JPEG, false, nil},
		"too wide":               {Limits{Longest: 2000}, photo, 5e6, picture.JPEG, false, nil},
		"too heavy":              {Limits{Largest: 1e6}, photo, 5e6, picture.JPEG, false, nil},
		"a photo as PNG":         {Limits{Types: []string{"png"}}, photo, 5e6, picture.PNG, false, nil},
		"a drawing stays PNG":    {Limits{Longest: 400}, drawing, 1e5, picture.PNG, false, nil},
		"a heavy one does not":   {Limits{Largest: 1e5}, drawing, 2e5, picture.JPEG, false, nil},
		"unless it is clear":     {Limits{Largest: 1e5}, with(drawing, func(i *picture.Info) { i.Transparent = true }), 2e5, picture.PNG, false, nil},
		"another type":           {Limits{}, with(photo, func(i *picture.Info) { i.Type = picture.TIFF }), 5e6, picture.JPEG, false, nil},
		"a type that is taken":   {Limits{Types: []string{"webp", "JPEG"}}, with(photo, func(i *picture.Info) { i.Type = picture.WebP }), 5e6, picture.WebP, true, nil},
		"no type to write":       {Limits{Types: []string{"webp"}}, photo, 5e6, "", false, ErrType},
		"no reader":              {Limits{}, with(photo, func(i *picture.Info) { i.Type = picture.HEIC }), 5e6, "", false, ErrReader},
		"moves":                  {Limits{}, picture.Info{Type: picture.GIF, Width: 9, Height: 9, Animated: true}, 5e3, "", false, ErrMoves},
		"for print, as it is":    {Limits{}, with(photo, func(i *picture.Info) { i.Colours = picture.CMYK }), 5e6, picture.JPEG, true, nil},
		"for print, and too big": {Limits{Longest: 9}, with(photo, func(i *picture.Info) { i.Colours = picture.CMYK }), 5e6, "", false, ErrPrint},
		"too many pixels":        {Limits{Longest: 9}, with(photo, func(i *picture.Info) { i.Width = 100000 }), 5e6, "", false, ErrPixels},
	} {
		t.Run(name, func(t *testing.T) {
			p, err := tt.limits.Plan(tt.info, tt.size)
			require.ErrorIs(t, err, tt.err)
			if tt.err == nil {
				assert.Equal(t, tt.as, p.Type)
				assert.Equal(t, tt.asIs, p.AsIs)
			}
		})
	}
}

// copyOf returns the copy of a photo, and what it says of itself.
func copyOf(t testing.TB, l Limits, photo []byte) ([]byte, picture.Info, error) {
	info, err := picture.Look(bytes.NewReader(photo), int64(len(photo)))
	require.NoError(t, err)
	p, err := l.Plan(info, int64(len(photo)))
	require.NoError(t, err)
	var b bytes.Buffer
	if err := p.Make(&b, bytes.NewReader(photo), int64(len(photo))); err != nil {
		return nil, info, err
	}
	out, err := picture.Look(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	assert.Equal(t, p.Type, out.Type)
	return b.Bytes(), out, nil
}

// TestUpright: a picture is as it is to be seen, however it lies in its file.
func TestUpright(t *testing.T) {
	const w, h = 32, 16
	quarters := [2][2]color.RGBA{{{250, 0, 0, 255}, {0, 250, 0, 255}}, {{0, 0, 250, 255}, {250, 250, 0, 255}}}
	seen := func(x, y int) color.RGBA { return quarters[y*2/h][x*2/w] }
	// Where the first row and the first column of the file are to be seen, as the standard says it: at the top or right …
	for turned, at := range map[uint16]func(row, col int) (x, y int){
		1: func(r, c int) (int, int) { return c, r },
		2: func(r, c int) (int, int) { return w - 1 - c, r },
		3: func(r, c int) (int, int) { return w - 1 - c, h - 1 - r },
		4: func(r, c int) (int, int) { return c, h - 1 - r },
		5: func(r, c int) (int, int) { return r, c },
		6: func(r, c int) (int, int) { return w - 1 - r, c },
		7: func(r, c int) (int, int) { return w - 1 - r, h - 1 - c },
		8: func(r, c int) (int, int) { return r, h - 1 - c },
	} {
		rows, cols := h, w
		if turned > 4 {
			rows, cols = w, h
		}
		stored := image.NewRGBA(image.Rect(0, 0, cols, rows))
		for r := range rows {
			for c := range cols {
				stored.Set(c, r, seen(at(r, c)))
			}
		}
		var b bytes.Buffer
		require.NoError(t, jpeg.Encode(&b, stored, &jpeg.Options{Quality: 100}))
		exif := append([]byte("Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01"), byte(turned>>8), byte(turned), 0, 0, 0, 0, 0, 0)
		photo := append([]byte{0xFF, 0xD8, 0xFF, 0xE1, 0, byte(len(exif) + 2)}, exif...)
		photo = append(photo, b.Bytes()[2:]...)
		for _, longest := range []int{0, 16} {
			made, info, err := copyOf(t, Limits{Longest: longest, Types: []string{"jpg"}}, photo)
			require.NoError(t, err)
			by := 1
			if longest > 0 {
				by = 2
			}
			assert.Equal(t, [3]int{w / by, h / by, 0}, [3]int{info.Width, info.Height, max(info.Turned, 1) - 1}, "turned %d", turned)
			img, err := jpeg.Decode(bytes.NewReader(made))
			require.NoError(t, err)
			for _, p := range [][2]int{{3, 3}, {w - 4, 3}, {3, h - 4}, {w - 4, h - 4}} {
				r, g, bl, _ := img.At(p[0]/by, p[1]/by).RGBA()
				want := seen(p[0], p[1])
				assert.InDeltaSlice(t, []int{int(want.R), int(want.G), int(want.B)}, []int{int(r >> 8), int(g >> 8), int(bl >> 8)}, 24, "turned %d at %v", turned, p)
			}
		}
	}
}

// TestMake: all types that can be read come out within the limits, and broken ones not at all.
func TestMake(t *testing.T) {
	for _, name := range []string{"rgb.jpg", "grey.jpg", "rgb.png", "rgba.png", "pal.png", "still.gif", "lossy.webp", "alpha.webp", "rgb.tif", "turned.tif", "rgb.bmp"} {
		photo, err := os.ReadFile("../picture/testdata/" + name)
		require.NoError(t, err)
		made, info, err := copyOf(t, Limits{Longest: 15}, photo)
		require.NoError(t, err, name)
		assert.Equal(t, 15, max(info.Width, info.Height), name)
		again, _, err := copyOf(t, Limits{Longest: 15}, made)
		require.NoError(t, err, name)
		assert.Equal(t, made, again, "a copy is within the limits already")
	}
	photo, err := os.ReadFile("../picture/testdata/rgb.jpg")
	require.NoError(t, err)
	_, _, err = copyOf(t, Limits{Longest: 15}, photo[:len(photo)-80])
	assert.ErrorIs(t, err, ErrBroken)

	noise := image.NewRGBA(image.Rect(0, 0, 300, 200))
	r := rand.New(rand.NewPCG(1, 2))
	for i := range noise.Pix {
		noise.Pix[i] = byte(r.IntN(256)) | byte(255*(i&3/3))
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, noise, &jpeg.Options{Quality: 100}))
	for _, types := range [][]string{{"jpg"}, {"png"}} {
		made, info, err := copyOf(t, Limits{Types: types, Largest: 20000}, b.Bytes())
		require.NoError(t, err)
		assert.LessOrEqual(t, len(made), 20000)
		assert.InDelta(t, 1.5, float64(info.Width)/float64(info.Height), 0.05)
	}
	_, _, err = copyOf(t, Limits{Largest: 20000, Shortest: 190}, b.Bytes())
	assert.ErrorIs(t, err, ErrFit)
}

// TestProfile: colours keep what says which they are.
func TestProfile(t *testing.T) {
	img := image.NewRGBA(image.Rect(0, 0, 40, 30))
	for i := range img.Pix {
		img.Pix[i] = byte(i) | byte(255*(i&3/3))
	}
	for _, size := range []int{500, 150000} {
		profile := make([]byte, size)
		for i := range profile {
			profile[i] = byte(i * 7)
		}
		binary.BigEndian.PutUint32(profile, uint32(size))
		copy(profile[16:], "RGB ")
		var j, p bytes.Buffer
		require.NoError(t, jpeg.Encode(&j, img, nil))
		require.NoError(t, png.Encode(&p, img))
		for _, photo := range [][]byte{withProfile(picture.JPEG, j.Bytes(), profile), withProfile(picture.PNG, p.Bytes(), profile)} {
			for _, types := range [][]string{{"jpg"}, {"png"}} {
				made, info, err := copyOf(t, Limits{Longest: 20, Types: types}, photo)
				require.NoError(t, err)
				assert.Equal(t, profile, profileOf(info.Type, made))
				_, err = decoders[info.Type](bytes.NewReader(made))
				assert.NoError(t, err)
			}
		}
		copy(profile[16:], "GRAY")
		made, _, err := copyOf(t, Limits{Longest: 20}, withProfile(picture.JPEG, j.Bytes(), profile))
		require.NoError(t, err)
		assert.Nil(t, profileOf(picture.JPEG, made), "that of greys would be wrong for colours")
	}
}

func profileOf(t picture.Type, b []byte) []byte { return profile(t, bytes.NewReader(b), int64(len(b))) }

// FuzzProfile: whatever stands there, reading a profile ends.
func FuzzProfile(f *testing.F) {
	f.Add([]byte("\xFF\xD8\xFF\xE2\x00\x20ICC_PROFILE\x00\x01\x01RGB "))
	f.Add([]byte("\x89PNG\r\n\x1A\n\x00\x00\x00\x0AiCCPp\x00\x00xxxx"))
	f.Fuzz(func(t *testing.T, b []byte) {
		profileOf(picture.JPEG, b)
		profileOf(picture.PNG, b)
	})
}

func BenchmarkMake(b *testing.B) {
	img := image.NewYCbCr(image.Rect(0, 0, 4000, 3000), image.YCbCrSubsampleRatio420)
	for i := range img.Y {
		img.Y[i] = byte(i / 40)
	}
	var photo bytes.Buffer
	require.NoError(b, jpeg.Encode(&photo, img, nil))
	b.SetBytes(12e6)
	for b.Loop() {
		_, _, err := copyOf(b, Limits{Longest: 2000}, photo.Bytes())
		require.NoError(b, err)
	}
}
