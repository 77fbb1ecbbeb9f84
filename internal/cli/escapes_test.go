package cli

import (
	"encoding/json"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// escapes is what does something to a terminal, or to the text beside it, in place of being
// shown.
var escapes = []string{"\x1b]0;owned\x07", "\x1b[2J", "\x1b[31m", "\u009b31m", "\u0085", "\x08", "\x7f", "\u202e", "\u2066", "\u200f", "\u2028",
	"\ufeff", "\r"}

// TestNothingRaw: nothing from a file reaches the terminal raw, through whatever command and
// from wherever in the file; JSON escapes it by its own rules.
func TestNothingRaw(t *testing.T) {
	t.Parallel()
	for _, escape := range escapes {
		dir := t.TempDir()
		name := "list" + strings.ReplaceAll(escape, "\r", "") + ".csv"
		if runtime.GOOS == "windows" {
			name = "list.csv"
		}
		writeFile(t, filepath.Join(dir, name), `"SKU`+escape+`","EAN","Title`+escape+`x","`+escape+`","Brand"`+"\n"+
			`"A`+escape+`","9.52E+12","x`+escape+`y","1","B`+escape+`"`+"\n"+`"B","95212`+escape+`34000013","z","2","`+escape+`"`+"\n")
		writeFile(t, filepath.Join(dir, "rules.toml"), "[columns]\nkeep = [\"No"+escape+"ne\"]\n")
		writeFile(t, filepath.Join(dir, "other.toml"), "[columns]\nexpect = [\"x\\u001b[31m\"]\n")
		for _, args := range [][]string{
			{"inspect", name}, {name}, {"check", name}, {"repair", name, "-out", "o"}, {"repair", "-json", name, "-out", "p"}, {"inspect", "-json", name},
			{"begin", name}, {"inspect", "no" + name}, {"repair", name, "-rules", "rules.toml"}, {"repair", name, "-rules", "other.toml"},
			{"repair", name, "-field", "x" + escape + "=sku"}, {"repair", name, "-only", "x" + escape}, {"repair", name, "-sheet", escape},
			{"barcode", "95" + escape + "21"}, {"barcode", "-json", "95" + escape + "21"}, {"finding", "x" + escape}, {"x" + escape},
			{"inspect", "-x" + escape}, {"repair", name, "-trust", "no" + escape},
		} {
			c := zetanum(t, dir, args...)
			for _, said := range []string{c.stdout, c.stderr} {
				for _, r := range said {
					raw := r < ' ' && r != '\n' && r != '\t' || r >= 0x7f && r < 0xa0 || strings.ContainsRune("\u202e\u2066\u200f\u2028\ufeff\ufffd", r)
					require.False(t, raw, "%q through %q: %q", escape, args, said)
				}
			}
			if len(args) > 1 && args[1] == "-json" {
				assert.True(t, json.Valid([]byte(c.stdout)), "%q: %s", args, c.stdout)
			}
		}
		ready, err := os.ReadFile(filepath.Join(dir, "o", "held.csv"))
		require.NoError(t, err)
		assert.Contains(t, string(ready), "SKU"+escape, "files have what was there")
	}
}

// TestLongMessages: a message has a greatest length.
func TestLongMessages(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU"+strings.Repeat(",a long heading", 3000)+"\nA\n")
	c := zetanum(t, dir, "repair", "list.csv", "-only", "nothing")
	assert.Equal(t, exitUsage, c.status)
	assert.Less(t, len(c.stderr), 4500)
}
