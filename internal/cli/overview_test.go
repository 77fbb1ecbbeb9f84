package cli

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/demo"
)

// TestOneScreen: whatever table of the demo, what is said of it by its name alone is on a screen of 24 lines, with the command before and the
// one behind, and ends with the next command; -all says more.
func TestOneScreen(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	seen := 0
	for _, name := range demo.Names() {
		if ext := filepath.Ext(name); ext != ".csv" && ext != ".xlsx" {
			continue
		}
		c := zetanum(t, dir, name)
		if !assert.Equal(t, exitOK, c.status, "%s: %s", name, c.stderr) || strings.Contains(c.stdout, "None of the headings is known") {
			continue
		}
		seen++
		lines := strings.Split(strings.TrimSuffix(c.stdout, "\n"), "\n")
		assert.LessOrEqual(t, len(lines), screenLines, "%s\n%s", name, c.stdout)
		assert.Regexp(t, `^  zetanum (begin -ask|repair) `+name, lines[len(lines)-1])
		assert.Contains(t, c.stdout, " ready to import")
		assert.Contains(t, zetanum(t, dir, name, "-all").stdout, "\nColumns\n", name)
	}
	assert.Greater(t, seen, 15)
	c := zetanum(t, dir, "saltmarsh-export.csv")
	assert.Contains(t, c.stdout, "310 rows, 300 products, 9 columns: 158 ready to import, 147 held, 5 set aside.")
	assert.Contains(t, c.stdout, "  105  Barcode: digits lost to scientific notation\n")
	assert.Contains(t, c.stdout, "stock-take.xlsx, beside it, has whole codes for 95 of these 150 SKUs.")
	c = zetanum(t, dir)
	lines := strings.Split(strings.TrimSuffix(c.stdout, "\n"), "\n")
	assert.LessOrEqual(t, len(lines), screenLines)
	for _, line := range lines {
		assert.LessOrEqual(t, len([]rune(line)), 80, line)
	}
}
