package template

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/quantity"
)

// TestWriter: what goes into the columns of a form, and what does not.
func TestWriter(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "form.csv")
	require.NoError(t, os.WriteFile(path, []byte("Our desk;;;;;;\nCode *;Price EUR;Discount %;Weight (kg);Pictures;Kind;Sold from\n"+
		"At most 5 characters;Number with decimal comma, 0,10 to 50;Number with decimal comma;Number with decimal comma;Several .jpg or .png parted by |;One of: Plates, Bowls;Date as DD.MM.YYYY\n"), 0o666))
	form, err := Learn(path)
	require.NoError(t, err)
	column := make(map[string]int)
	for n := range form.Columns {
		column[form.Columns[n].Name()] = n
	}
	for _, test := range []struct {
		column, from string
		part         int
		rest         bool
		cell, after  string
		is           MisfitKind
	}{
		{"Code", "SKU", 0, false, "A-1", "A-1", Fits},
		{"Code", "SKU", 0, false, "A-1234", "A-1234", TooLong},
		{"Price EUR", "Price", 0, false, "€ 12.50", "12,50", Fits},
		{"Price EUR", "Price", 0, false, "12.50 USD", "12.50 USD", Unfit},
		{"Price EUR", "Price", 0, false, "20 %", "20 %", Unfit},
		{"Price EUR", "Price", 0, false, "0.05", "0.05", Unfit},
		{"Price EUR", "Price", 0, false, "from 12", "from 12", Unfit},
		{"Discount %", "Discount", 0, false, "20 %", "20", Fits},
		{"Weight (kg)", "Weight g", 0, false, "780", "0,78", Fits},
		{"Weight (kg)", "Weight", 0, false, "1.20 kg", "1,2", Fits},
		{"Pictures", "Images", 0, false, "a.jpg, b.png", "a.jpg|b.png", Fits},
		{"Pictures", "Images", 2, false, "a.jpg, b.png, c.png", "b.png", Fits},
		{"Pictures", "Images", 2, true, "a.jpg, b.png, c.png", "b.png|c.png", Fits},
		{"Pictures", "Images", 2, true, "a.jpg, b.png, c.gif", "b.png|c.gif", Unfit},
		{"Pictures", "Images", 4, true, "a.jpg, b.png", "", Fits},
		{"Kind", "Group", 0, false, "PLATES", "Plates", Fits},
		{"Kind", "Group", 0, false, "Platess", "Platess", Unlisted},
		{"Sold from", "Start", 0, false, "2026-03-31", "31.03.2026", Fits},
		{"Sold from", "Start", 0, false, "2026-02-31", "2026-02-31", Unfit},
		{"Sold from", "Start", 0, false, "", "", Fits},
	} {
		n, there := column[test.column]
		require.True(t, there, test.column)
		after, _, wrong := form.Writer(n, test.from, test.part, test.rest).Write(test.cell, "", &Reading{Numbers: quantity.Form{Decimal: '.'}})
		assert.Equal(t, test.is, wrong.Kind, "%s from %s: %s", test.column, test.cell, wrong.Says)
		assert.Equal(t, test.after, after, "%s from %s", test.column, test.cell)
	}
}
