package cli

import (
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestProof: the page is written where it is asked for, whatever flag asks for it, with as many products as are wanted, and the same
// bytes each time.
func TestProof(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	layDemo(t, dir)
	list, rules := filepath.Join("zetanum-demo", "millbrook-texts.csv"), filepath.Join("zetanum-demo", "millbrook-texts.toml")
	page := filepath.Join(dir, "zetanum-demo", "millbrook-texts.repaired", "proof.html")
	repair := func(flags ...string) (*call, string) {
		c := zetanum(t, dir, append([]string{"repair", list, "-rules", rules, "-date", "2026-11-30"}, flags...)...)
		content, err := os.ReadFile(page)
		if os.IsNotExist(err) {
			return c, ""
		}
		require.NoError(t, err)
		return c, string(content)
	}
	products := func(page string) int { return len(regexp.MustCompile(`<article`).FindAllString(page, -1)) }
	c, content := repair()
	assert.Equal(t, exitOK, c.status, c.stderr)
	assert.Empty(t, content)
	c, content = repair("-proof")
	assert.Equal(t, exitOK, c.status, c.stderr)
	assert.Regexp(t, `proof\.html +12 products of 18`, c.stdout)
	assert.Regexp(t, `links\.csv +1 address`, c.stdout)
	assert.Equal(t, 12, products(content))
	_, again := repair("-proof", "-workers", "1")
	assert.Equal(t, content, again)
	_, content = repair("-proof-rows", "3", "-proof-sku", "mb-12", "-proof-sku", "XX-1")
	assert.Equal(t, 4, products(content))
	assert.Contains(t, content, "asked for: mb-12")
	assert.Contains(t, content, "<b>XX-1</b>")
	assert.NotContains(t, content, "<img")
	_, content = repair("-load-images", "-proof-sku", "MB-12")
	assert.Contains(t, content, `<img class="picture" src="https://cdn.millbrook.example/veil.jpg"`)
	for _, wrong := range [][]string{{"-proof-rows", "-1"}, {"-proof", "-out", "-"}} {
		c := zetanum(t, dir, append([]string{"repair", list}, wrong...)...)
		assert.Equal(t, exitUsage, c.status, wrong)
	}
}
