package cli

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestSmallFile: of a small file the whole table is shown, under what its columns mean, with codes whole; of a
// larger one, or one that is wide, as much as fits.
func TestSmallFile(t *testing.T) {
	dir := t.TempDir()
	long := strings.Repeat("a long text ", 20)
	writeFile(t, filepath.Join(dir, "small.csv"), "Art. no.,EAN,Designation,Empty,Note,RRP,Text,Colour,Fabric\nP-1,9521234000013,"+long+",,"+long+",3.50,"+long+",red,"+long+"\n"+
		"P-2,9.52E+12,Fern,,,4,,,\n")
	c := zetanum(t, dir, "inspect", "small.csv")
	assert.Contains(t, c.stdout, "  row  sku  barcode        title")
	assert.Contains(t, c.stdout, "    2  P-1  9521234000013  a long t")
	assert.Contains(t, c.stdout, "    3  P-2  9.52E+12       Fern")
	c = zetanum(t, dir, "repair", "small.csv")
	assert.Contains(t, c.stdout, "Ready, under what the columns mean\n  sku  barcode        title")
	assert.Contains(t, c.stdout, "  P-1  9521234000013  a long t")
	for _, line := range strings.Split(c.stdout, "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 100, line)
	}
	writeFile(t, filepath.Join(dir, "large.csv"), "SKU,Title\n"+strings.Repeat("A,x\n", 21))
	assert.NotContains(t, zetanum(t, dir, "inspect", "large.csv").stdout, "All rows")
	writeFile(t, filepath.Join(dir, "wide.csv"), "SKU"+strings.Repeat(",Some column", 40)+"\nA"+strings.Repeat(",some text here", 40)+"\n")
	assert.Contains(t, zetanum(t, dir, "inspect", "wide.csv").stdout, "columns more")
}
