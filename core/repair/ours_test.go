package repair

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/sections"
)

// TestKnownAgain: an output of ours is known again whatever it is called, also when another
// program has saved it since; so a rule that would change its own result again is refused on
// it. What holds cells of the source may come back, and so may the next list of the supplier.
func TestKnownAgain(t *testing.T) {
	const rules = "[[replace]]\nin = [\"title\"]\nfind = \", \"\nwith = \" – \"\ninside_words = true\nfirst_only = true\nonce = true\n[title]\nlongest = 40\n"
	dir := t.TempDir()
	var list strings.Builder
	list.WriteString("SKU,Title,EAN,Price\n")
	for i := range 40 {
		fmt.Fprintf(&list, "A-%d,\"Box %d, beech, with lid\",95212340000%02d,%d.50\n", i, i, 0, i)
	}
	list.WriteString("A-long,\"Box, beech, with a lid, a floor, a handle and a sign\",,5\n")
	text := strings.NewReplacer(",9521234000000,", ",,").Replace(list.String())
	opt := fixed(write(t, dir, "list.csv", text), filepath.Join(dir, "list.repaired"))
	opt.Book, opt.Temp = bookIn(t, dir, rules, nil), dir
	first, err := Run(t.Context(), opt)
	require.NoError(t, err)
	out := contents(t, first.Folder)
	require.Contains(t, out["ready.csv"], "Box 7 – beech, with lid")
	rows := strings.SplitAfter(out["ready.csv"], "\n")
	saved := "\ufeff" + strings.NewReplacer(",", ";", "\n", "\r\n", "\"",
		"").Replace(strings.NewReplacer("beech, with lid", "beech\x00 with lid").Replace(out["ready.csv"]))
	saved = strings.ReplaceAll(saved, "\x00", ",")
	for name, test := range map[string]struct {
		path, text string
		ours       bool
	}{
		"as it is":                   {"list.repaired/ready.csv", "", true},
		"copied":                     {"upload.csv", out["ready.csv"], true},
		"copied elsewhere":           {"far/away/upload.csv", out["ready.csv"], false}, // nothing near tells
		"copied into a folder":       {"list.repaired/upload.csv", out["ready.csv"], true},
		"saved again":                {"for the shop.csv", saved, true},
		"some rows only":             {"some.csv", rows[0] + strings.Join(rows[10:20], ""), true},
		"what was held":              {"held again.csv", out["held.csv"], false},
		"the source":                 {"list.csv", text, false},
		"the source, called so":      {"another.csv", text, false},
		"the next list":              {"next.csv", strings.ReplaceAll(text, ".50", ".75"), false},
		"the next list, as of today": {"list.csv", strings.ReplaceAll(text, ".50", ".99"), false},
	} {
		again := opt
		again.Input, again.Target = filepath.Join(dir, test.path), filepath.Join(t.TempDir(), "out")
		if test.text != "" {
			write(t, dir, test.path, test.text)
		}
		_, err := Run(t.Context(), again)
		if !test.ours {
			assert.NoError(t, err, name)
			continue
		}
		assert.ErrorIs(t, err, sections.ErrOnce, name)
		if err != nil {
			assert.Contains(t, err.Error(), "with the rulebook zetanum.toml, line 7: [[replace]]: this is an output of ours", name)
		}
	}
}
