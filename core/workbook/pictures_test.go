package workbook

import (
	"archive/zip"
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestPictures: pictures that lie over a sheet are found, with the cell in which they begin, whatever kind of workbook it is.
func TestPictures(t *testing.T) {
	pictures := func(data []byte) []Picture {
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		for range 2 { // the second time as the first
			require.NoError(t, b.Rows(b.Sheets[0], func(*Row) error { return nil }))
		}
		return b.Sheets[0].Pictures
	}
	named := []Picture{{1, 1, "Logo"}, {3, 2, "Hat & veil"}, {2, 4, "Picture 2"}}
	for kind, want := range map[string][]Picture{"xlsx": named, "ods": named, "xls": {{1, 1, ""}, {3, 2, ""}, {2, 4, ""}}} {
		data, err := os.ReadFile("testdata/pictures." + kind)
		require.NoError(t, err)
		assert.Equal(t, want, pictures(data), kind)
	}

	// A picture in a cell stands there as an error, which says where the picture is. A drawing that is cut off has no pictures, and rows stay.
	data, err := os.ReadFile("testdata/pictures.xlsx")
	require.NoError(t, err)
	archive, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range archive.File {
		in, err := f.Open()
		require.NoError(t, err)
		var text bytes.Buffer
		_, err = text.ReadFrom(in)
		require.NoError(t, err)
		s := text.String()
		switch {
		case strings.HasSuffix(f.Name, "drawing1.xml"):
			s = s[:400]
		case strings.HasSuffix(f.Name, "sheet1.xml"):
			s = strings.Replace(s, "</row>", `<c r="F1" t="e" vm="1"><v>#VALUE!</v></c></row>`, 1)
		}
		to, err := w.Create(f.Name)
		require.NoError(t, err)
		_, err = to.Write([]byte(s))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	assert.Equal(t, []Picture{{6, 1, ""}}, pictures(out.Bytes()))
}

// FuzzDrawn: whatever is drawn over a sheet, reading it ends.
func FuzzDrawn(f *testing.F) {
	f.Add([]byte{0x0f, 0, 0x02, 0xf0, 8, 0, 0, 0, 0xb2, 4, 0x0a, 0xf0, 0, 0, 0, 0, 0, 0, 0x10, 0xf0, 8, 0, 0, 0, 0, 0, 2, 0, 0, 0, 1, 0})
	f.Fuzz(func(t *testing.T, b []byte) {
		s := new(Sheet)
		s.drawn(b)
		for _, p := range s.Pictures {
			assert.Positive(t, p.Row*p.Col)
		}
	})
}
