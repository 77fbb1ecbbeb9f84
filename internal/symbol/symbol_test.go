package symbol

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/internal/outside"
)

// TestReadBack: what is drawn is read again by a program that has nothing to do
// with this one.
func TestReadBack(t *testing.T) {
	reader := outside.Program(t, "zbar")
	for digits, want := range map[string]string{
		"9521234000013":  "EAN-13:9521234000013",
		"9780306406157":  "EAN-13:9780306406157",
		"036000291452":   "EAN-13:0036000291452",
		"12345670":       "EAN-8:12345670",
		"09521234000013": "EAN-13:9521234000013",
	} {
		code, err := barcode.Parse(digits)
		require.NoError(t, err)
		s, err := New(code)
		require.NoError(t, err)
		path := filepath.Join(t.TempDir(), "symbol.png")
		var b bytes.Buffer
		require.NoError(t, s.PNG(&b))
		require.NoError(t, os.WriteFile(path, b.Bytes(), 0o666))
		out, err := exec.Command(reader, "--quiet", "-Sean8.enable", path).Output()
		require.NoError(t, err, digits)
		assert.Equal(t, want, strings.TrimSpace(string(out)))
	}
}

// TestSVG: the bars of the drawing are those of the picture.
func TestSVG(t *testing.T) {
	code, err := barcode.Parse("9521234000013")
	require.NoError(t, err)
	s, err := New(code)
	require.NoError(t, err)
	var svg, picture bytes.Buffer
	require.NoError(t, s.SVG(&svg))
	require.NoError(t, s.PNG(&picture))
	assert.Contains(t, svg.String(), `width="37.29mm" height="25.85mm"`, "the nominal size")
	assert.Contains(t, svg.String(), ">521234</text>")
	bars := strings.Count(svg.String(), "M")
	img, err := png.Decode(&picture)
	require.NoError(t, err)
	assert.Equal(t, 30, bars)
	assert.Equal(t, bars, darkRuns(img))
}

func darkRuns(img image.Image) (n int) {
	last := false
	for x := range img.Bounds().Dx() {
		dark := color.GrayModel.Convert(img.At(x, 10)).(color.Gray).Y < 128
		if dark && !last {
			n++
		}
		last = dark
	}
	return n
}

func TestNotDrawn(t *testing.T) {
	for kind, digits := range map[barcode.Kind]string{barcode.GTIN14: "19521234000010", barcode.SSCC: "106141412345678908"} {
		code, err := barcode.ParseAs(kind, digits)
		require.NoError(t, err)
		_, err = New(code)
		assert.ErrorIs(t, err, ErrKind)
	}
}
