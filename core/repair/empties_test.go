package repair

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/rehearse"
	"zetanum/core/sections"
	"zetanum/core/template"
)

// TestEmpties: in an update the importer's word stands in cells that are to empty what the shop has, once for a product if they are about the
// whole of it; nothing to empty is no change.
func TestEmpties(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write(t, dir, "shop.csv", "SKU,Slug,Title,Price,Sale price,Brand,Image\nA-1,oak-bowl,Oak bowl,12.50,9.00,Mill,a.jpg\nA-2,oak-bowl,,14.00,,,\nB-1,fir-bowl,Fir bowl,5.00,,Mill,b.jpg\nC-1,elm-bowl,Elm bowl,7.00,6.00,Barn,\n")
	const list = "SKU,Slug,Title,Price,Sale price,Brand,Image\nA-1,oak-bowl,Oak bowl,12.50,0,,a.jpg\nA-2,oak-bowl,,14.00,,,\n,oak-bowl,,,,,a2.jpg\nB-1,fir-bowl,Fir bowl,5.00,,Mill,b.jpg\nC-1,elm-bowl,Elm bowl,7.00,5.00,Barn,\n"
	const rules = "[shop]\nexport = \"shop.csv\"\n[sale_price]\nzero = \"none\"\n[target]\njob = \"update\"\nempty = \"-\"\nempties = [\"sale_price\", \"brand\"]\n"
	for name, test := range map[string]struct{ rules, want string }{
		"as the shop has it": {rules + "like = [\"shop.csv\"]\n", "SKU,Slug,Title,Price,Sale price,Brand,Image\nA-1,oak-bowl,Oak bowl,12.50,-,-,a.jpg\nA-2,oak-bowl,,14.00,-,,\n,oak-bowl,,,,,a2.jpg\nB-1,fir-bowl,Fir bowl,5.00,-,Mill,b.jpg\nC-1,elm-bowl,Elm bowl,7.00,5.00,Barn,\n"},
		"what changes": {rules + "like = [\"shop.csv\"]\nonly_changed = true\ncompare = [\"sale_price\", \"brand\"]\n",
			"SKU,Slug,Title,Price,Sale price,Brand,Image\nA-1,oak-bowl,Oak bowl,12.50,-,-,a.jpg\nA-2,oak-bowl,,14.00,-,,\n,oak-bowl,,,,,a2.jpg\nC-1,elm-bowl,Elm bowl,7.00,5.00,Barn,\n"},
		"in a form": {rules + "template = \"form.csv\"\n", "Code *,Price *,Sale price,Maker\nA-1,12.50,-,-\nA-2,14.00,-,\nB-1,5.00,-,Mill\nC-1,7.00,5.00,Barn\n"},
	} {
		write(t, dir, "form.csv", "Code *,Price *,Sale price,Maker\n")
		book, err := sections.Load(write(t, dir, "book.toml", test.rules))
		require.NoError(t, err, name)
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(t.TempDir(), "out"))
		opt.Book = *book
		r := run(t, opt)
		assert.Equal(t, test.want, ready(t, r), name)
		play := rehearse.Options{Ready: filepath.Join(r.Folder, "ready.csv"), Present: filepath.Join(dir, "shop.csv"), Temp: t.TempDir(), Empty: "-", Blank: rehearse.BlankKeeps, Year: 2026}
		if name == "in a form" {
			play.Form, err = template.Learn(filepath.Join(dir, "form.csv"))
			require.NoError(t, err)
		}
		played, err := rehearse.Run(play)
		require.NoError(t, err, name)
		assert.Equal(t, []int{0, 2, 0}, []int{played.Created, played.Updated, played.Refused}, name)
		opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
		_, err = Run(t.Context(), opt)
		assert.ErrorContains(t, err, "empties", name)
	}
	book, err := sections.Load(write(t, dir, "none.toml", "[target]\njob = \"update\"\nempty = \"-\"\nempties = [\"title\"]\ntemplate = \"form.csv\"\n"))
	require.NoError(t, err)
	opt := fixed(filepath.Join(dir, "list.csv"), filepath.Join(dir, "none"))
	opt.Book = *book
	_, err = Run(t.Context(), opt)
	assert.ErrorContains(t, err, "fills no column of the template")
	_, err = sections.Load(write(t, dir, "bad.toml", "[target]\nempties = [\"brand\"]\n"))
	assert.ErrorContains(t, err, "have to be said, too")
}
