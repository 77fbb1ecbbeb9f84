package present

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// opened returns what the shop has, of an export with the fields by which products are known.
func opened(t *testing.T, export string, opt Options) *Catalogue {
	t.Helper()
	path := filepath.Join(t.TempDir(), "export.csv")
	require.NoError(t, os.WriteFile(path, []byte(export), 0o666))
	opt.Sheet = sheet.Options{Spool: t.TempDir()}
	opt.Own = &catalogue.Columns{}
	c, err := Open(path, opt)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, c.Close()) })
	require.NoError(t, c.Read(nil))
	return c
}

// TestFind: which product of the shop a row is, by one key or several, and where they do not agree.
func TestFind(t *testing.T) {
	const export = "Slug,SKU,Barcode,Title,ID\n" +
		"bell,LRA-1,9521234000013,Bell,71\n" + // 0
		",LRA-2,9521234000020,,72\n" + // 1, of the same product
		"bell,,,,\n" + // 2, a further image
		"lamp,LRA-3,0952123400037,Lamp,73\n" + // 3
		"pot,LRA-4,9521234000044,Pot,\n" + // 4
		"pan,LRA-4,9521234000051,Pan,75\n" // 5, whose SKU another product has
	c := opened(t, export, Options{Known: []string{"sku", "barcode", "slug"}, ID: "ID"})
	none := Found{Row: -1, Product: -1, Key: -1, Other: -1, Twice: -1}
	found := func(row, product, key int) Found {
		return Found{Row: row, Product: product, Key: key, Other: -1, Twice: -1, Asked: true}
	}
	for _, test := range []struct {
		name string
		row  string // SKU, barcode, slug
		want Found
	}{
		{"nothing to know it by", "||", none},
		{"new", "LRA-9||vase", Found{Row: -1, Product: -1, Key: -1, Other: -1, Twice: -1, Asked: true}},
		{"by its SKU", "LRA-1||", found(0, 0, 0)},
		{"with spaces around it", " LRA-1 ||", found(0, 0, 0)},
		{"in another case it is another", "lra-1||", Found{Row: -1, Product: -1, Key: -1, Other: -1, Twice: -1, Asked: true}},
		{"a further row of a product", "LRA-2||bell", found(1, 0, 0)},
		{"by its barcode, of 12 digits", "LRA-9|952123400037|", found(3, 3, 1)},
		{"only its product is there", "LRA-9||bell", found(-1, 0, 2)},
		{"its own row by a later key", "|9521234000020|bell", found(1, 0, 1)},
		{"two products", "LRA-1|0952123400037|", Found{Row: 0, Product: 0, Key: 0, Other: 3, Twice: -1, Asked: true}},
		{"two rows of one product", "LRA-1|9521234000020|", Found{Row: 0, Product: 0, Key: 0, Other: 1, Twice: -1, Asked: true}},
		{"a product by its slug, another by its SKU", "LRA-3||bell", Found{Row: 3, Product: 3, Key: 0, Other: 0, Twice: -1, Asked: true}},
		{"what two products have", "LRA-4||", Found{Row: 4, Product: 4, Key: 0, Other: -1, Twice: 0, Asked: true}},
	} {
		cells := strings.Split(test.row, "|")
		assert.Equal(t, test.want, c.Find(func(key int) string { return cells[key] }), test.name)
	}
	assert.Equal(t, 6, c.Rows)
	assert.Equal(t, []string{"71", "72", "", "73", "", "75", ""},
		[]string{c.Number(0), c.Number(1), c.Number(2), c.Number(3), c.Number(4), c.Number(5), c.Number(-1)})
	assert.Equal(t, []string{"9521234000020", ""}, []string{c.Code(1), c.Code(6)})
	assert.Equal(t, 5, c.FindBy(1, "9521234000051"))
	assert.Equal(t, -1, c.FindBy(1, " "))
	assert.Equal(t, "By its sku it is row 2 of export.csv, by another key row 5", c.Says(c.Find(func(key int) string { return [...]string{"LRA-1", "952123400037", ""}[key] })))
	assert.Equal(t, 4, c.RowNumber(2))
}

// TestHasLoose: a row without a key of its own, such as that of a further image, is found by its cells in its product, and in no other.
func TestHasLoose(t *testing.T) {
	c := opened(t, "SKU,Image\nLRA-1,a.jpg\n,b.jpg\n,c.jpg\nLRA-2,d.jpg\n,e.jpg\n", Options{Known: []string{"sku"}})
	p := Pair{Cols: [2]int{1, 1}, Field: catalogue.Images, Kind: catalogue.Images.Kind()}
	require.NoError(t, c.Read([]Pair{p}))
	for _, test := range []struct {
		product int
		image   string
		want    bool
	}{{0, "c.jpg", true}, {0, "a.jpg", false}, {0, "e.jpg", false}, {3, "e.jpg", true}, {3, "c.jpg", false}} {
		assert.Equal(t, test.want, c.HasLoose(test.product, []uint32{p.Sum(test.image, Ours)}), "%d %s", test.product, test.image)
	}
}

// TestKeysRefused: an export by which nothing can be known says what it has.
func TestKeysRefused(t *testing.T) {
	path := filepath.Join(t.TempDir(), "export.csv")
	require.NoError(t, os.WriteFile(path, []byte("Handle,Price\nx,5\ny,6\n"), 0o666))
	own := catalogue.Columns{Headings: []string{"SKU"}, Fields: []catalogue.Field{catalogue.SKU}}
	for _, test := range []struct {
		opt  Options
		want []string
	}{
		{Options{Own: &own}, []string{"export.csv", "no column of SKUs, slugs or barcodes in common", "Handle, Price"}},
		{Options{Own: &own, Known: []string{"sku"}}, []string{"export.csv", "[shop] known_by", "sku"}},
		{Options{Own: &own, ID: "Number"}, []string{"export.csv", "[shop] id", "Number"}},
	} {
		test.opt.Sheet = sheet.Options{Spool: t.TempDir()}
		_, err := Open(path, test.opt)
		for _, want := range test.want {
			assert.ErrorContains(t, err, want)
		}
	}
}

// TestPairs: cells of two files say the same where what they are says so, however each file writes it; and only there.
func TestPairs(t *testing.T) {
	side := func(heading string, cells ...string) Side {
		var s Side
		f := catalogue.Unknown
		if parsed, ok := catalogue.ParseField(heading); ok {
			f = parsed
		}
		s.Columns = &catalogue.Columns{Headings: []string{heading}, Fields: []catalogue.Field{f}}
		for _, c := range cells {
			s.Sample = append(s.Sample, []string{c})
		}
		return s
	}
	for _, test := range []struct {
		name       string
		ours, shop Side
		same       []string // ours = shop's
		differ     []string
	}{
		{"prices", side("price", "1.234,50", "9,90", "12,00"), side("price", "1234.50", "9.90", "12"),
			[]string{"1.234,50=1234.5", "9,90=9.9", "= "}, []string{"9,90=9.91", "=0", "on request=9.9"}},
		{"dates", side("Since", "31.01.2026", "28.02.2026"), side("Since", "01/31/2026", "02/28/2026"),
			[]string{"05.02.2026=02/05/2026"}, []string{"05.02.2026=05/02/2026", "=02/05/2026"}},
		{"yes and no", side("Stocked", "ja", "nein", "ja"), side("Stocked", "TRUE", "FALSE", "TRUE"),
			[]string{"ja=TRUE", "nein=false"}, []string{"ja=FALSE", "=FALSE"}},
		{"barcodes", side("barcode", "9521234000013"), side("barcode", "9521234000013"),
			[]string{"952123400037=0952123400037"}, []string{"9521234000013=9521234000020", "=9521234000013"}},
		{"tags", side("tags", "red, bell"), side("tags", "bell,red"),
			[]string{"red, bell=bell,red", "red=red"}, []string{"red, bell=bell", "red, bell=red, bells", "red, red=red"}},
		{"lines of a text", side("description", "a"), side("description", "a"),
			[]string{"a\r\nb=a\nb", " a=a"}, []string{"a\nb=a b", "a=A"}},
		{"what nobody knows", side("Note", "red", "5 cm"), side("Note", "red", "5 cm"),
			[]string{"5 cm=5 cm "}, []string{"5 cm=5,0 cm", "5=05"}},
	} {
		p := NewPair([2]Side{test.ours, test.shop}, [2]int{}, 2026)
		for _, says := range []bool{true, false} {
			list := test.differ
			if says {
				list = test.same
			}
			for _, cells := range list {
				a, b, _ := strings.Cut(cells, "=")
				assert.Equal(t, says, p.Norm(a, Ours) == p.Norm(b, Shops), "%s: %q", test.name, cells)
				assert.Equal(t, says, p.Sum(a, Ours) == p.Sum(b, Shops), "%s: %q, by their hashes", test.name, cells)
			}
		}
	}
}
