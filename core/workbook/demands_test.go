package workbook

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/internal/brief"
)

// forms are templates of the kinds that are read.
func forms(t testing.TB) (list [][]byte) {
	for _, name := range []string{"t3/template.xlsx", "t5/template.ods", "t8/template.xls"} {
		data, err := os.ReadFile(filepath.Join("..", "template", "testdata", name))
		require.NoError(t, err)
		list = append(list, data)
	}
	return list
}

// TestDemands: what a workbook asks of its cells, in the three formats; and one that is cut or damaged anywhere asks for something, or is
// refused, but nothing breaks.
func TestDemands(t *testing.T) {
	t.Parallel()
	want := []Demand{
		{Areas: []Area{{4, 4, 4, 604}}, Kind: "list", First: `INDIRECT(SUBSTITUTE(C4," ","_"))`, Blank: true, Prompt: "Choose from the list"},
		{Areas: []Area{{4, 6, 4, 506}}, Kind: "list", First: "'Auswahl'!$A$2:$A$8"},
		{Areas: []Area{{4, 6, 4, 306}}, Kind: "list", First: "'Listes'!$A$2:$A$7"},
	}
	for n, data := range forms(t) {
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		found := false
		for _, s := range b.Sheets {
			demands, err := b.Demands(s)
			require.NoError(t, err)
			for _, d := range demands {
				found = found || assert.ObjectsAreEqual(want[n], d)
			}
		}
		assert.True(t, found, "%+v", want[n])
		for at := 0; at < len(data); at += 1 + len(data)/brief.Of(150, 15) {
			broken := bytes.Clone(data)
			broken[at] ^= 0x15
			look(broken)
			look(data[:at])
		}
	}
}

// look reads all that can be read of a workbook.
func look(data []byte) {
	b, err := Open(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return
	}
	b.Names()
	for _, s := range b.Sheets {
		b.Demands(s)
		b.Fills(s, 20)
	}
}

func FuzzDemands(f *testing.F) {
	for _, data := range forms(f) {
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) { look(data) })
}

// FuzzBinaryFormula: whatever stands in a formula, it is written or left out.
func FuzzBinaryFormula(f *testing.F) {
	f.Add([]byte{0x17, 3, 0, 'a', 0, 'b'})
	f.Add([]byte{0x3b, 0, 0, 1, 0, 6, 0, 0, 0, 0, 0})
	f.Add([]byte{0x44, 3, 0, 2, 0, 0x17, 1, 0, ' ', 0x17, 1, 0, '_', 0x42, 3, 120, 0, 0x41, 148, 0})
	f.Fuzz(func(t *testing.T, tokens []byte) {
		formulas := &binaryFormulas{sheets: []string{"Lists"}, names: []binaryName{{"colours", nil}}}
		formulas.text(tokens)
	})
}
