package sheet

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// zipped returns an archive of files: a name and what is in it, in turn.
func zipped(t *testing.T, files ...string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(files[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.String()
}

// bomb returns an archive of one file that says that it unpacks to so many bytes.
func bomb(t *testing.T, name string, size uint64) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.CreateRaw(&zip.FileHeader{Name: name, Method: zip.Deflate, UncompressedSize64: size, CompressedSize64: 4})
	require.NoError(t, err)
	_, err = w.Write([]byte("\x01\x00\x00\xff"))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return b.String()
}

// TestArchives: a table in an archive is read as if it lay beside it; where there are
// several the user says which.
func TestArchives(t *testing.T) {
	const one, two = "SKU,Title\nA,Küche\n", "SKU;Title\nB;B\xe4der\nC;gr\xfcn\n"
	book := zipped(t, "xl/workbook.xml", `<workbook><sheets><sheet name="P" id="s"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels", `<Relationships><Relationship Id="s" Type="/worksheet" Target="s.xml"/></Relationships>`,
		"xl/s.xml", `<worksheet><sheetData><row><c t="str"><v>SKU</v></c><c t="str"><v>Title</v></c></row><row><c t="str"><v>X</v></c><c t="str"><v>y</v></c></row></sheetData></worksheet>`)
	var gz bytes.Buffer
	w := gzip.NewWriter(&gz)
	_, err := w.Write([]byte(one))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	for _, test := range []struct {
		name, content, member string
		kind, rows, beside    string
		want                  error
		says                  string
	}{
		{"one file", zipped(t, "shop/", "", "shop/list.csv", one), "", "shop/list.csv in an archive; CSV, UTF-8", "A|Küche", "", nil, ""},
		{"one table", zipped(t, "read me.pdf", "x", "list.csv", one, "__MACOSX/list.csv", "x", ".DS_Store", "x"), "",
			"list.csv in an archive", "A|Küche", "read me.pdf", nil, ""},
		{"two tables", zipped(t, "one.csv", one, "two.csv", two), "", "", "", "", ErrMembers, "one.csv, two.csv"},
		{"one of two", zipped(t, "one.csv", one, "shop/two.csv", two), "TWO.csv", "shop/two.csv in an archive; CSV, Windows-1252",
			"B|Bäder/C|grün", "one.csv", nil, ""},
		{"none of them", zipped(t, "one.csv", one), "three.csv", "", "", "", ErrNoMember, "It has: one.csv"},
		{"a workbook", zipped(t, "list.xlsx", book), "", `list.xlsx in an archive; workbook, sheet "P"`, "X|y", "", nil, ""},
		{"an odd flavour", zipped(t, "list.txt", "'SKU'^'Title'\n'A'^'b'\n"), "", "list.txt in an archive; CSV, UTF-8, separator ^", "A|b",
			"", nil, ""},
		{"no archive", one, "list.csv", "", "", "", ErrNoArchive, "Leave out the setting ‹member›"},
		{"no files", zipped(t, "empty/", ""), "", "", "", "", ErrBinary, "without files"},
		{"an archive in an archive", zipped(t, "list.zip", zipped(t, "list.csv", one)), "", "", "", "", ErrBinary,
			"an archive in an archive"},
		{"cut", zipped(t, "list.csv", one)[:40], "", "", "", "", ErrBinary, "damaged"},
		{"it unpacks to very much", bomb(t, "list.csv", 100<<20), "", "", "", "", ErrUnpacked, "104857600 bytes"},
		{"compressed by itself", gz.String(), "", "list in an archive; CSV", "A|Küche", "", nil, ""},
		{"compressed, and cut", gz.String()[:20], "", "", "", "", ErrBinary, "cannot be unpacked"},
	} {
		path := filepath.Join(t.TempDir(), "list.gz")
		require.NoError(t, os.WriteFile(path, []byte(test.content), 0o666))
		spool := t.TempDir()
		table, err := Open(path, Options{Member: test.member, Spool: spool})
		if test.want != nil {
			assert.ErrorIs(t, err, test.want, test.name)
			assert.ErrorContains(t, err, test.says, test.name)
		} else {
			require.NoError(t, err, test.name)
			var rows []string
			require.NoError(t, table.Each(func() { rows = nil },
				func(r *catalogue.Row) { rows = append(rows, strings.Join(r.Cells, "|")) }))
			assert.Contains(t, table.Kind(), test.kind, test.name)
			assert.Equal(t, test.rows, strings.Join(rows, "/"), test.name)
			assert.Equal(t, test.beside, strings.Join(table.Beside, ", "), test.name)
			require.NoError(t, table.Close())
		}
		left, err := os.ReadDir(spool)
		require.NoError(t, err)
		assert.Empty(t, left, test.name)
	}
}
