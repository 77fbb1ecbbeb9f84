package repair

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/rulebook"
)

// TestRowsOfProducts: rules act where they belong, or on the rows that they name; what
// comes of it goes through them a second time as it is.
func TestRowsOfProducts(t *testing.T) {
	const list = "Slug,SKU,Title,Brand,Price,Colour,Image,Alt text,Tags\n" +
		"box,B1,Hive box,Nørrebi,9,red,1.jpg,,\nbox,B2,,,9,blue,,,\nbox,,,,,,2.jpg,,\nveil,V1,Veil,Nørrebi,5,,3.jpg,,x\n"
	for name, test := range map[string]struct{ rules, want string }{
		"nothing": {"", list},
		"filled where it belongs": {
			"[columns]\nadd = { \"Tags\" = \"hive\", \"Stock\" = \"0\", \"Language\" = \"en\" }\n[[build]]\ninto = \"Alt text\"\nfrom = \"{title}[, {colour}]\"\n",
			"Slug,SKU,Title,Brand,Price,Colour,Image,Alt text,Tags,Language,Stock\n" +
				"box,B1,Hive box,Nørrebi,9,red,1.jpg,\"Hive box, red\",hive,en,0\nbox,B2,,,9,blue,,,,en,0\nbox,,,,,,2.jpg,Hive box,,en,\nveil,V1,Veil,Nørrebi,5,,3.jpg,Veil,x,en,0\n"},
		"a condition sees the lead row": {
			"[[columns.fill]]\ninto = \"Stock\"\nwith = \"7\"\nwhere = { title = \"Hive box\" }\n",
			"Slug,SKU,Title,Brand,Price,Colour,Image,Alt text,Tags,Stock\nbox,B1,Hive box,Nørrebi,9,red,1.jpg,,,7\nbox,B2,,,9,blue,,,,7\nbox,,,,,,2.jpg,,,\nveil,V1,Veil,Nørrebi,5,,3.jpg,,x,\n"},
		"rows that are named": {
			"[[columns.fill]]\ninto = \"Tags\"\nwith = \"t\"\nrows = \"variants\"\n[[replace]]\nin = [\"Colour\"]\nfind = \"red\"\nwith = \"ruby\"\nrows = \"images\"\n[[around]]\nin = [\"Colour\"]\nafter = \"(2)\"\nrows = \"variants\"\n",
			"Slug,SKU,Title,Brand,Price,Colour,Image,Alt text,Tags\nbox,B1,Hive box,Nørrebi,9,red (2),1.jpg,,t\nbox,B2,,,9,blue (2),,,t\nbox,,,,,,2.jpg,,\nveil,V1,Veil,Nørrebi,5,,3.jpg,,x\n"},
		"together by another column": {
			"[products]\ntogether_by = \"brand\"\nproduct_fields = [\"Price\"]\n[columns]\nadd = { \"Weight\" = \"1\" }\n",
			"Slug,SKU,Title,Brand,Price,Colour,Image,Alt text,Tags,Weight\nbox,B1,Hive box,Nørrebi,9,red,1.jpg,,,1\nbox,B2,,,9,blue,,,,1\nbox,,,,,,2.jpg,,,\nveil,V1,Veil,Nørrebi,5,,3.jpg,,x,1\n"},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		book, err := rulebook.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err, name)
		opt.Book = *book
		first, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, test.want, ready(t, first), name)
		again := opt
		again.Input, again.Target = write(t, dir, "again.csv", ready(t, first)), filepath.Join(dir, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, name)
		assert.Equal(t, test.want, ready(t, second), name)
	}
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
	for rules, held := range map[string]int{
		"[field.price]\nrequired = true\n": 0, "[field.tags]\nrequired = true\n": 3, "[field.brand]\nrequired = true\n": 0, "[field.images]\nrequired = true\nrows = \"variants\"\n": 3,
		"[field.colour]\nrequired = true\nwhere = { title = \"Veil\" }\n": 1,
	} {
		book, err := rulebook.Load(write(t, dir, rulebook.Name, rules))
		require.NoError(t, err)
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, held, r.Counts().Held, rules)
	}
	_, err := rulebook.Load(write(t, dir, rulebook.Name, "[[replace]]\nin = [\"title\"]\nfind = \"a\"\nwith = \"b\"\nrows = \"some\"\n"))
	require.ErrorIs(t, err, rulebook.ErrWrong)
	assert.ErrorContains(t, err, "lead, variants, images or all")
}
