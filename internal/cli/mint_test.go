package cli

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/mint"
)

// TestMintCommand: codes are proposed, made, and nothing else is changed; the pattern that was taken serves
// the next file.
func TestMintCommand(t *testing.T) {
	dir := t.TempDir()
	const list = "SKU,Title,Maker,Colour,EAN\nBK-0012,  Road   saddle,Kestrel,,9.52E+12\nBK-0013,Bell,Kestrel,,\nBK-0014,KÃ¼hler,Lark,,\n" +
		",Chain oil,Lark,clear,\n,Chain oil,Lark,dark,\n"
	writeFile(t, filepath.Join(dir, "parts.csv"), list)
	c := zetanum(t, dir, "mint", "parts.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"1  BK-{counter 4}", "as 3 of the codes that are there", "BK-0015  BK-0016", "2  {brand", "3  {", "-take 1"} {
		assert.Contains(t, c.stdout, said)
	}
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, entries, 1, "nothing was written")

	c = zetanum(t, dir, "mint", "parts.csv", "-take", "1")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "The pattern stands in zetanum.toml now.")
	assert.Equal(t, strings.Replace(strings.Replace(list, ",Chain oil,Lark,clear", "BK-0015,Chain oil,Lark,clear", 1),
		",Chain oil,Lark,dark", "BK-0016,Chain oil,Lark,dark", 1), readFile(t, filepath.Join(dir, "parts.repaired", "ready.csv")), "all else is as it was")
	assert.Contains(t, readFile(t, filepath.Join(dir, "zetanum.toml")), "into = \"sku\"\nfrom = \"BK-{counter 4}\"")
	c = zetanum(t, dir, "mint", "parts.csv", "-check", "-json")
	var doc struct {
		Minted []struct {
			Issued int
			Codes  []string `json:"first_codes"`
		}
	}
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &doc))
	require.Len(t, doc.Minted, 1)
	assert.Equal(t, []string{"BK-0015", "BK-0016"}, doc.Minted[0].Codes)

	c = zetanum(t, dir, "mint", "parts.csv", "-over", "-pattern", "{brand upper first 1}{counter 2}", "-out", "new")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "3 codes would be replaced")
	assert.Regexp(t, `2  BK-0012  →  K02`, c.stdout)
	assert.NoDirExists(t, filepath.Join(dir, "new"))
	c = zetanum(t, dir, "mint", "parts.csv", "-over", "-pattern", "{brand upper first 1}{counter 2}", "-out", "new", "-replace-codes")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "3 codes that were replaced, each with the new one")
	assert.Contains(t, readFile(t, filepath.Join(dir, "new", "old-to-new.csv")), "2,BK-0012,K02,")

	for _, wrong := range [][]string{
		{"-pattern: the pattern is wrong", "parts.csv", "-pattern", "{brand uper}"}, {"3 patterns are proposed", "parts.csv", "-take", "4"},
		{"name one file"}, {"-take takes one of the patterns", "parts.csv", "-take", "1", "-pattern", "x"},
		{"-count goes with -pattern", "-count", "3"}, {"without a file", "parts.csv", "-count", "3"},
		{"is a column of a file", "-count", "3", "-pattern", "{title}"}, {"there can be 9, and 10 are wanted", "-count", "10", "-pattern", "A{counter 1}"},
	} {
		c = zetanum(t, dir, append([]string{"mint"}, wrong[1:]...)...)
		assert.Equal(t, exitUsage, c.status, wrong)
		assert.Contains(t, c.stderr, wrong[0])
		assert.NotContains(t, c.stderr, "panic")
	}
}

// TestMintPrints: codes without a file, the same each time and none twice.
func TestMintPrints(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "shop.csv"), "SKU\nBOX-2026-007\n")
	c := zetanum(t, dir, "mint", "-count", "3", "-pattern", "BOX-{year}-{counter 3}", "-avoid", "shop.csv", "-date", "2026-05-01")
	assert.Equal(t, "BOX-2026-008\nBOX-2026-009\nBOX-2026-010\n", c.stdout)
	args := []string{"mint", "-count", "2000", "-pattern", "{random letters 2}{random digits 3}{check 37-2}"}
	c = zetanum(t, dir, args...)
	seen := make(map[string]bool)
	for _, code := range strings.Fields(c.stdout) {
		assert.False(t, seen[mint.Fold(code)], code)
		seen[mint.Fold(code)] = true
	}
	assert.Len(t, seen, 2000)
	assert.Equal(t, c.stdout, zetanum(t, dir, args...).stdout)
}
