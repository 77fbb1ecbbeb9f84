package repair

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime/debug"
	"runtime/metrics"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/internal/brief"
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
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
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
		"[field.price]\nrequired = true\n": 0, "[field.tags]\nrequired = true\n": 3, "[field.brand]\nrequired = true\n": 0,
		"[field.images]\nrequired = true\nrows = \"variants\"\n":          3,
		"[field.colour]\nrequired = true\nwhere = { title = \"Veil\" }\n": 1,
	} {
		book, err := sections.Load(write(t, dir, rulebook.Name, rules))
		require.NoError(t, err)
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, held, r.Counts().Held, rules)
	}
	_, err := sections.Load(write(t, dir, rulebook.Name, "[[replace]]\nin = [\"title\"]\nfind = \"a\"\nwith = \"b\"\nrows = \"some\"\n"))
	require.ErrorIs(t, err, rulebook.ErrWrong)
	assert.ErrorContains(t, err, "lead, variants, images or all")
}

// copiedList has a row with the description of the one above, one with its image, and one
// with its manufacturer's number.
const copiedList = "SKU,Title,MPN,Description,Image\nA,Copper smoker,m1,A smoker made of copper,1.jpg\nB,Steel smoker,m2,A smoker made of copper,2.jpg\n" +
	"C,\"Veil, S\",m3,A veil of black net,3.jpg\nD,\"Veil, M\",m4,A veil of black net,3.jpg\nE,Hive tool,m5,A tool for the hive,3.jpg\n" +
	"F,Bee brush,m6,A brush of horse hair,4.jpg\nG,Queen cage,m6,A cage for the queen,5.jpg\nH,Hive box,m7,A box of cedar wood,6.jpg\n" +
	"I,Frame,m8,A frame of lime wood,7.jpg\nJ,Foundation,m9,A sheet of bees' wax,8.jpg\nK,Feeder,m10,A feeder of pine wood,9.jpg\nL,Gloves,m11,Gloves of goat leather,9b.jpg\n"

// TestWholeProducts: what is noticed about products as wholes, in which rows, and what the
// rulebook settles.
func TestWholeProducts(t *testing.T) {
	const options = "Slug,SKU,Title,Option 1 name,Option 1 value,Option 2 name,Option 2 value\n"
	for name, test := range map[string]struct{ list, rules, found, ready string }{
		"languages are apart": {"Slug,SKU,Title,Language\ns,A,x,en\nt,B,y,en\ns,A2,x,de\n", "", "", ""},
		"apart": {"Slug,SKU,Title\ns,A,x\ns,A2,\nt,B,y\ns,C,\n", "", "product.scattered 2, product.scattered 5",
			"Slug,SKU,Title\nt,B,y\n"},
		"together by a heading": {"Set,SKU,Title\n1,A,x\n2,B,y\n1,C,z\n", "[products]\ntogether_by = \"set\"\n",
			"product.scattered 2, product.scattered 4", "Set,SKU,Title\n2,B,y\n"},
		"an image between variants": {"Slug,SKU,Title,Image\ns,A,x,1\n,,,2\ns,B,,3\n", "", "", ""},
		"a parent in between":       {"Parent SKU,SKU,Title,Image\n,P,x,1\n,,,2\nP,P1,,\nP,P2,,\n,Q,z,\n", "", "", ""},
		"options": {options + "s,A,x,Size,S,Colour,red\ns,B,,,M,,red\ns,C,,,S,,\ns,D,,,s,,Red\n", "",
			"option.missing 4, option.alike 5", options},
		"a misspelt option": {options + "s,A,x,Colour,Black,Size,S\ns,B,,,Black,,M\ns,C,,,Blak,,L\ns,D,,,Black,,XL\n", "",
			"value.misspelt 4", ""},
		"one option is not used": {options + "s,A,x,Size,S,,\ns,B,,,M,,\n", "", "", ""},
		"told apart": {"Slug,SKU,Title,Colour,Cut\ns,A,x,red,wide\ns,B,,red,slim\n",
			"[products]\ntold_apart_by = [\"colour\", \"Cut\"]\n", "", ""},
		"not told apart": {"Slug,SKU,Title,Colour,Cut\ns,A,x,red,wide\ns,B,,red,slim\n", "", "option.perhaps-alike 3", ""},
		"settled": {"Slug,SKU,Title,Brand,Tags\ns,A,x,b,\ns,B,X,c,t\ns,C,,,t\nr,D,y,,\nr,E,,,u\nr,F,,,v\n",
			"[products]\ndiffer = \"lead\"\nmisplaced = \"move\"\n",
			"product.misplaced 6, product.misplaced 7", "Slug,SKU,Title,Brand,Tags\ns,A,x,b,t\ns,B,x,b,\ns,C,,,\nr,D,y,,\nr,E,,,u\nr,F,,,v\n"},
		"settled in its own way": {"Slug,SKU,Title,Description,Tags,Brand\ns,A,x,short,\"bees, wax\",b\ns,B,y,a longer text,\"Wax, comb\",c\ns,C,,,,\nr,D,u,v,\"t;u\",\nr,E,u,v,u;w,\n", "[products]\ndiffer_in = { description = \"longest\", tags = \"all\" }\n",
			"product.differs 3, product.differs 3", "Slug,SKU,Title,Description,Tags,Brand\ns,A,x,a longer text,\"bees, wax, comb\",b\ns,B,y,a longer text,\"bees, wax, comb\",c\ns,C,,,,\nr,D,u,v,\"t;u;w\",\nr,E,u,v,t;u;w,\n"},
		"in the lead row only": {"Slug,SKU,Title,Brand,Tags\ns,A,x,b,t\ns,B,x,c,t\ns,C,y,b,\nr,D,u,,v\nr,E,u,,v\n",
			"[products]\nlead_only = [\"title\", \"brand\", \"tags\"]\n", "product.differs 4, product.differs 3",
			"Slug,SKU,Title,Brand,Tags\ns,A,x,b,t\ns,B,,c,\ns,C,y,,\nr,D,u,,v\nr,E,,,\n"},
		"settled, in the lead row only": {"Slug,SKU,Title,Tags\ns,A,x,\"t, u\"\ns,B,,\"u, v\"\n",
			"[products]\nlead_only = [\"tags\"]\ndiffer_in = { tags = \"all\" }\n", "",
			"Slug,SKU,Title,Tags\ns,A,x,\"t, u, v\"\ns,B,,\"\"\n"},
		"children with titles of their own": {"Parent SKU,SKU,Title,Brand\n,P,x,b\nP,P1,x,b\n",
			"[products]\nlead_only = [\"title\", \"brand\"]\n", "", "Parent SKU,SKU,Title,Brand\n,P,x,b\nP,P1,x,\n"},
		"children have titles": {"Parent SKU,SKU,Title,Brand\n,P,x,b\nP,P1,y,c\n", "[products]\ndiffer = \"lead\"\n", "",
			"Parent SKU,SKU,Title,Brand\n,P,x,b\nP,P1,y,b\n"},
		"no options": {options + "s,A,x,,,,\ns,B,,,,,\nt,C,y,Size,S,,\nu,D,z,,,,\n", "", "option.none 3",
			options + "t,C,y,Size,S,,\nu,D,z,,,,\n"},
		"other options": {"Slug,SKU,Title,Colour,Cut\ns,A,x,red,\ns,B,,blue,\n",
			"[products]\ntold_apart_by = [\"Cut\"]\n", "option.none 3", "Slug,SKU,Title,Colour,Cut\n"},
		"other options of rules": {"Slug,SKU,Title,Colour,Sizes\ns,A,x,red,S|M\ns,B,,blue,S|M\nt,C,y,red,\nt,D,,blue,\n",
			"[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Length\"\nset = { sku = \"{sku}-{Length}\" }\n", "",
			"Slug,SKU,Title,Colour,Sizes,Length\ns,A-S,x,red,S|M,S\ns,A-M,,red,,M\ns,B-S,,blue,S|M,S\ns,B-M,,blue,,M\nt,C,y,red,,\nt,D,,blue,,\n"},
		"parents": {"Parent SKU,SKU,Title\n,P,x\nP,P1,a\nP,P2,b\nQ,Q1,c\nQ,Q2,\n,R,z\n", "",
			"product.no-parent 5", ""},
		"no children": {"Parent SKU,SKU,Title,Price\n,P,x,\nP,P1,,1\nP,P2,,2\n,Q,y,\n,R,z,2\n", "",
			"product.perhaps-no-variants 5, variant.no-price 5", ""},
		"no prices": {"Parent SKU,SKU,Title,Price\n,P,x,\nP,P1,,\n,Q,y,\n", "",
			"variant.no-price 3, variant.no-price 4", ""},
		"declared parents": {"Parent SKU,SKU,Title,Price,Kind\n,P,x,,parent\nP,P1,,1,variation\n,Q,y,3,Parent\n,R,z,2,simple\n",
			"[products]\nparents = { Kind = \"parent\" }\n", "product.no-variants 4",
			"Parent SKU,SKU,Title,Price,Kind\n,P,x,,parent\nP,P1,,1,variation\n,R,z,2,simple\n"},
		"declared without codes": {"Slug,SKU,Title,Price,Kind\ns,,x,,parent\ns,A,,1,\nt,,y,,parent\n",
			"[products]\nparents = { Kind = \"parent\" }\n", "product.no-variants 4", "Slug,SKU,Title,Price,Kind\ns,,x,,parent\ns,A,,1,\n"},
		"only children": {"Parent SKU,SKU,Title\nP,P1,a\nQ,Q1,c\n", "", "", ""},
		"copied rows": {"Slug,SKU,MPN,Title,Colour,Price,Image\ns,A,m1,x,red,1,1\ns,A,,,,,2\ns,B,m2,,blue,1,3\ns,C,m2,,green,1,\ns,C,m4,,grey,1,4\n", "",
			"variant.same-sku 6, variant.copied 5", "Slug,SKU,MPN,Title,Colour,Price,Image\n"},
		"copied images":   {"Slug,SKU,Title,Colour,Size,Image\ns,A,x,red,S,1\ns,B,,red,M,1\ns,C,,blue,S,2\ns,D,,grey,M,2\ns,E,,black,S,3\ns,F,,pink,S,4\n", "", "variant.copied 5", ""},
		"copied products": {copiedList, "", "product.copied 8, product.copied 3, product.copied 6", copiedList},
		"a space behind a key": {"Slug,SKU,Title\nveil\u00a0,A,x\nveil,B,\n veil,C,\n", "",
			"product.keys-differ 3, product.keys-differ 4", ""},
		"a space behind a key, settled": {"Slug,SKU,Title\nveil\u00a0,A,x\nveil,B,\nhood ,C,y\nhood  ,D,\n",
			"[products]\nsame_as_lead = [\"slug\"]\n", "", "Slug,SKU,Title\nveil,A,x\nveil,B,\nhood ,C,y\nhood ,D,\n"},
		"the lead row is passed over": {"SKU,Title,Price,Image\nA,x,1,\n,,,2.jpg\nB,y,1,\n",
			"[[rows]]\none_per = \"price\"\nchoose = \"last\"\n", "product.no-lead 3, variant.no-price 3",
			"SKU,Title,Price,Image\nB,y,1,\n"},
		"the lead row is a duplicate": {"SKU,Title,Image\nA,x,1.jpg\nB,y,3.jpg\nA,x,1.jpg\n,,2.jpg\n", "", "product.no-lead 5",
			"SKU,Title,Image\nA,x,1.jpg\nB,y,3.jpg\n"},
		"a slip in a key": {"Slug,SKU,Title\nhive-box,A,x\nhive-bx,B,\nveil,C,y\nVeil ,D,\ncap-1,E,\ncap-2,F,\n", "",
			"product.near-key 3, product.near-key 5", ""},
		"copied from the last row": {"Slug,SKU,Title,MPN,Image\ns,A,x,m1,1.jpg\ns,B,,m2,2.jpg\nt,C,y,m2,3.jpg\nu,D,z,m3,3.jpg\nv,E,v,m4,5.jpg\nw,F,w,m5,6.jpg\n", "", "product.copied 4, product.copied 5", ""},
		"a shared text":            {"SKU,Title,Description\nA,x,one text for all of it\nB,y,one text for all of it\nC,z,one text for all of it\n", "", "", ""},
		"one SKU of all":           {"Slug,SKU,Title,Colour\ns,A,x,red\ns,A,,blue\n", "", "variant.copied 3", ""},
		"a copied SKU": {"Slug,SKU,Title,Cut\ns,A,x,wide\ns,A,,slim\n", "[products]\ntold_apart_by = [\"Cut\"]\n",
			"variant.same-sku 3", "Slug,SKU,Title,Cut\n"},
		"one number": {"Slug,SKU,MPN,Title,Colour\ns,A,m,x,red\ns,B,m,,blue\ns,C,m,,green\n", "", "", ""},
		"no titles": {"SKU,EAN,Title\nA,9521234000013,\nB,9521234000021,\nC,9521234000037,\n", "", "",
			"SKU,EAN,Title\nA,9521234000013,\nC,9521234000037,\n"},
		"no price": {"Slug,SKU,Title,Price,Image\ns,A,x,1,1\ns,B,,,\ns,,,,2\n", "", "variant.no-price 3", ""},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err, name)
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		var found []string
		for _, f := range r.Report.Found {
			if p, _, _ := strings.Cut(f.Code.String(), "."); p != "product" && p != "option" && p != "variant" &&
				f.Code != catalogue.ValueMisspelt {
				continue
			}
			slices.SortFunc(f.Examples, func(a, b line.Example) int { return a.Row - b.Row })
			for _, e := range f.Examples {
				found = append(found, fmt.Sprint(f.Code, " ", e.Row))
			}
		}
		assert.Equal(t, test.found, strings.Join(found, ", "), name)
		if test.ready == "" {
			test.ready = test.list
		}
		assert.Equal(t, test.ready, ready(t, r), name)
		if test.rules != "" && r.Counts().Held == 0 {
			again := opt
			again.Input, again.Target = write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again")
			second, err := Run(t.Context(), again)
			require.NoError(t, err, name)
			assert.Equal(t, test.ready, ready(t, second), name)
		}
	}
}

// TestLargeProduct: a product of very many rows is one product, whatever parts it lies in,
// and is held as a whole, also where other products stand between its rows and it has to be
// brought together first.
func TestLargeProduct(t *testing.T) {
	rows := brief.Of(100_000, 20_000)
	var together, apart strings.Builder
	together.WriteString("Slug,SKU,Title,Price,Colour,Size\n")
	apart.WriteString("Slug,SKU,Title,Price,Colour,Size\n")
	for i := range rows {
		line := fmt.Sprintf("big,S%05d,%s,1,c%d,s%d\n", i, map[bool]string{true: "Big"}[i == 0], i%300, i/300)
		together.WriteString(line)
		apart.WriteString(line)
		if i%1000 == 0 {
			fmt.Fprintf(&apart, "small-%d,N%d,Small %d,1,,\n", i, i, i)
		}
	}
	together.WriteString("next,N,Next,1,,\n")
	for name, test := range map[string]struct {
		list                  string
		regroup               bool
		most                  int
		products, held, moved int
	}{
		"one product":     {together.String(), false, 0, 2, 0, 0},
		"one row is held": {strings.Replace(together.String(), fmt.Sprintf("S%05d", rows-1), "2-Mar", 1), false, 0, 2, rows, 0},
		"too many rows":   {together.String(), false, rows * 9 / 10, 0, rows, 0},
		"apart":           {apart.String(), false, 0, 1 + rows/500, rows, 0},
		"interleaved":     {apart.String(), true, 0, 1 + rows/1000, 0, rows + rows/1000 - 1},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		opt.Book.Products.Regroup, opt.PartSize, opt.MostRows = test.regroup, 4096, test.most
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		if test.most == 0 {
			assert.Equal(t, test.products, r.Report.Products, name)
		}
		assert.Equal(t, test.held, r.Counts().Held, name)
		assert.Equal(t, test.moved, r.Moved, name)
		assert.Equal(t, strings.Count(test.list, "\n")-1, r.Counts().Read, name)
	}
}

// TestLargeProductMemory: what a product of too many rows takes in memory does not grow with
// it, and the same of very many products.
func TestLargeProductMemory(t *testing.T) {
	if testing.Short() {
		t.Skip("the race detector has memory of its own")
	}
	defer debug.SetGCPercent(debug.SetGCPercent(20))
	peak := func(rows int, slug string) uint64 {
		var b strings.Builder
		b.WriteString("Slug,SKU,Title,Price,Colour,Size\n")
		for i := range rows {
			fmt.Fprintf(&b, strings.ReplaceAll(slug, "#", strconv.Itoa(i/4))+",S%06d,%s,1,c%d,s%d\n", i,
				map[bool]string{true: "Big"}[i%4 == 0 && slug != "big" || i == 0], i%300, i/300)
		}
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", b.String()), filepath.Join(dir, "out"))
		b.Reset()
		opt.MostRows, opt.PartSize, opt.Workers = 5000, 1<<16, 2
		done, most := make(chan bool), make(chan uint64)
		go func() {
			live := []metrics.Sample{{Name: "/gc/heap/live:bytes"}} // without garbage, of which there is more on a machine that has much to do
			for high := uint64(0); ; time.Sleep(time.Millisecond) {
				metrics.Read(live)
				high = max(high, live[0].Value.Uint64())
				select {
				case <-done:
					most <- high
					return
				default:
				}
			}
		}()
		_, err := Run(t.Context(), opt)
		close(done)
		require.NoError(t, err)
		return <-most
	}
	for _, slug := range []string{"big", "small-#"} {
		few, many := peak(30_000, slug), peak(120_000, slug)
		t.Logf("%s: %d MB and %d MB", slug, few>>20, many>>20)
		assert.Less(t, many, few+20<<20, slug)
	}
}

// TestOptions: options in one cell go into columns, a cell that cannot be taken apart is
// held and stops no other, and a second run finds nothing to do.
func TestOptions(t *testing.T) {
	for name, test := range map[string]struct{ list, rules, ready, note string }{
		"names and values": {"Slug,SKU,Title,Options\ns,A,x,COLOUR=honey|SIZE=L\ns,B,,SIZE=M|colour=ivory\nt,C,y,honey\nu,D,z,\nv,E,w,SIZE=S\n", "[[options]]\nfrom = \"options\"\n",
			"Slug,SKU,Title,Options,COLOUR,SIZE\ns,A,x,COLOUR=honey|SIZE=L,honey,L\ns,B,,SIZE=M|colour=ivory,ivory,M\nu,D,z,,,\nv,E,w,SIZE=S,,S\n", "NAME=VALUE|NAME=VALUE, and go into the columns COLOUR, SIZE"},
		"values, and the column goes": {"SKU,Title,Options,Size\nA,x,honey / L,\nB,y,ivory / M,XL\n",
			"[[options]]\nfrom = \"Options\"\nnames = [\"Colour\", \"Size\"]\n[columns]\ndrop = [\"Options\"]\n",
			"SKU,Title,Size,Colour\nA,x,L,honey\nB,y,XL,ivory\n", "VALUE / VALUE"},
		"names in another column": {"SKU,Title,Names,Values\nA,x,Colour; Size,honey; L\nB,y,Cut,wide\n",
			"[[options]]\nfrom = \"Values\"\nnames_from = \"Names\"\n",
			"SKU,Title,Names,Values,Colour,Size,Cut\nA,x,Colour; Size,honey; L,honey,L,\nB,y,Cut,wide,,,wide\n", "VALUE; VALUE"},
		"and back": {"SKU,Title,Colour,Size\nA,x,honey,L\nB,y,,M\nC,z,,\n",
			"[[options]]\ninto = \"Options\"\nnames = [\"Colour\", \"Size\"]\n",
			"SKU,Title,Colour,Size,Options\nA,x,honey,L,Colour: honey; Size: L\nB,y,,M,Size: M\nC,z,,,\n", ""},
		"and back, values only": {"Slug,SKU,Title,Colour,Size,Image\ns,A,x,honey,L,1\ns,B,,ivory,M,\ns,,,,,2\n",
			"[[options]]\ninto = \"Options\"\nnames = [\"Colour\", \"Size\"]\nbetween = \" / \"\nno_names = true\n[columns]\ndrop = [\"Colour\", \"Size\"]\n",
			"Slug,SKU,Title,Image,Options\ns,A,x,1,honey / L\ns,B,,,ivory / M\ns,,,2,\n", ""},
		"in pairs": {"Slug,SKU,Title,Options\ns,A,x,Height: 10 cm; Colour: red\ns,B,,COLOUR: blue; Height: 15 cm\nt,C,y,Content: 1 l; Lid: black\nt,D,,Content: 2 l; Lid: gold\nu,E,z,\nv,F,w,Cut: wide; Colour: red; Size: S\n", "[[options]]\nfrom = \"Options\"\nin_pairs = 2\n[columns]\ndrop = [\"Options\"]\n",
			"Slug,SKU,Title,Name of option 1,Value of option 1,Name of option 2,Value of option 2\ns,A,x,Height,10 cm,Colour,red\ns,B,,Height,15 cm,Colour,blue\nt,C,y,Content,1 l,Lid,black\nt,D,,Content,2 l,Lid,gold\nu,E,z,,,,\n", "written NAME:VALUE; NAME:VALUE, and go into 2 pairs of columns"},
		"in pairs that are there": {"Slug,SKU,Title,Option 1 name,Option 1 value,Values\ns,A,x,Size,S,\ns,B,,,,blue / M\ns,C,,,,red / L\n",
			"[[options]]\nfrom = \"Values\"\nin_pairs = 2\nnames = [\"Colour\", \"Size\"]\n",
			"Slug,SKU,Title,Option 1 name,Option 1 value,Values,Name of option 2,Value of option 2\n", "VALUE / VALUE"},
		"in pairs, where some are there": {"Slug,SKU,Title,Option 1 name,Option 1 value,Option 2 name,Option 2 value,Values\ns,A,x,Size,S,Colour,grey,\ns,B,,,,,,blue / M\ns,C,,,,,,red / L\n", "[[options]]\nfrom = \"Values\"\nin_pairs = 2\nnames = [\"Colour\", \"Size\"]\n",
			"Slug,SKU,Title,Option 1 name,Option 1 value,Option 2 name,Option 2 value,Values\ns,A,x,Size,S,Colour,grey,\ns,B,,Size,M,Colour,blue,blue / M\ns,C,,Size,L,Colour,red,red / L\n", ""},
		"nothing to see": {"SKU,Title,Options\nA,x,honey\nB,y,ivory\n", "[[options]]\nfrom = \"Options\"\n",
			"SKU,Title,Options\nA,x,honey\nB,y,ivory\n", "cannot be seen"},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err, name)
		opt.Book = *book
		first, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, test.ready, ready(t, first), name)
		assert.Contains(t, strings.Join(first.Notes, "\n"), test.note, name)
		again := opt
		again.Input, again.Target = write(t, dir, "again.csv", ready(t, first)), filepath.Join(dir, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, name)
		assert.Equal(t, test.ready, ready(t, second), name)
	}
}

// TestImages: images go from one cell into rows and from rows into one cell, in their
// order and with their texts; what is written is what was ready and what was made of it,
// and a second run finds nothing to do.
func TestImages(t *testing.T) {
	const cells = "Slug,SKU,Title,Price,Image,Alt text,Language\ns,A,Box,1,\"1.jpg,2.jpg,3.jpg\",\"front,back,side\",en\ns,B,,2,4.jpg,,en\nt,C,Veil,3,,,en\n"
	const rows = "Slug,SKU,Title,Price,Image,Alt text,Language\ns,A,Box,1,1.jpg,front,en\ns,,,,2.jpg,back,en\ns,,,,3.jpg,side,en\ns,B,,2,4.jpg,,en\nt,C,Veil,3,,,en\n"
	for name, test := range map[string]struct {
		list, rules, ready string
		added, joined      int
	}{
		"into rows": {cells, "as = \"rows\"", rows, 2, 0},
		"into rows, numbered": {cells, "as = \"rows\"\nnumber = true",
			"Slug,SKU,Title,Price,Image,Alt text,Language,Image order\ns,A,Box,1,1.jpg,front,en,1\ns,,,,2.jpg,back,en,2\ns,,,,3.jpg,side,en,3\ns,B,,2,4.jpg,,en,4\nt,C,Veil,3,,,en,\n", 2, 0},
		"into one cell": {rows, "as = \"cell\"", cells, 0, 2},
		"the same row twice": {"Slug,SKU,Title,Image\ns,A,x,1.jpg\ns,A,x,1.jpg\n,,,2.jpg\n,,,2.jpg\n",
			"number = true\n[sheet]\nrow_numbers = \"No\"", "Slug,SKU,Title,Image,No,Image order\ns,A,x,1.jpg,2,1\n,,,2.jpg,4,2\n", 0, 0},
		"numbered anew": {"Slug,SKU,Title,Image,Image position\ns,A,x,1.jpg,1\ns,,,2.jpg,1\ns,B,,,\ns,,,3.jpg,7\n",
			"number = true", "Slug,SKU,Title,Image,Image position\ns,A,x,1.jpg,1\ns,,,2.jpg,2\ns,B,,,\ns,,,3.jpg,3\n", 0, 0},
		"a row that says more stays": {"Slug,SKU,Title,Image,Note\ns,A,x,1.jpg,\ns,,,2.jpg,\ns,,,3.jpg,blurred\n",
			"as = \"cell\"\nat = \" | \"", "Slug,SKU,Title,Image,Note\ns,A,x,1.jpg | 2.jpg,\ns,,,3.jpg,blurred\n", 0, 1},
		"columns into rows": {"SKU,Title,Image,Image 2,Image 3\nA,x,1.jpg,2.jpg,3.jpg\nB,y,4.jpg,,\n",
			"as = \"rows\"\ncolumns = [\"Image 2\", \"Image 3\"]",
			"SKU,Title,Image,Image 2,Image 3\nA,x,1.jpg,,\n,,2.jpg,,\n,,3.jpg,,\nB,y,4.jpg,,\n", 2, 0},
		"rows into columns": {"SKU,Title,Image\nA,x,1.jpg\n,,2.jpg\n,,3.jpg\n,,4.jpg\nB,y,5.jpg\n",
			"as = \"columns\"\ncolumns = [\"Image\", \"Image 2\", \"Image 3\"]",
			"SKU,Title,Image,Image 2,Image 3\nA,x,1.jpg,2.jpg,3.jpg,4.jpg\nB,y,5.jpg,,\n", 0, 3},
		"of variants": {"Slug,SKU,Title,Price,Image\ns,A,x,1,1.jpg\ns,B,,2,\ns,C,,3,3.jpg\ns,,,,4.jpg\nt,D,y,1,5.jpg\n",
			"of_variants = \"Shown\"", "Slug,SKU,Title,Price,Image,Shown\ns,A,x,1,1.jpg,1.jpg\ns,B,,2,,1.jpg\ns,C,,3,3.jpg,3.jpg\ns,,,,4.jpg,\nt,D,y,1,5.jpg,\n", 0, 0},
		"of variants, and no other": {"Slug,SKU,Title,Image\ns,A,x,1.jpg\ns,B,,\n",
			"of_variants = \"Shown\"\n[columns]\ndrop = [\"Image\"]", "Slug,SKU,Title,Shown\ns,A,x,1.jpg\ns,B,,1.jpg\n", 0, 0},
		"of variants, in their column": {"Slug,SKU,Title,Price,Image\ns,A,x,1,\"1.jpg,2.jpg\"\ns,B,,2,\n",
			"of_variants = \"images\"\nas = \"rows\"", "Slug,SKU,Title,Price,Image\ns,A,x,1,1.jpg\ns,,,,2.jpg\ns,B,,2,1.jpg\n", 1, 0},
		"a row with a further image": {"Slug,SKU,Title,Image,Image 2\ns,A,x,1.jpg,\ns,,,,2.jpg\n",
			"as = \"columns\"\ncolumns = [\"Image 2\"]", "Slug,SKU,Title,Image,Image 2\ns,A,x,1.jpg,2.jpg\n", 0, 1},
		"one cell into columns": {"SKU,Title,Image\nA,x,\"1.jpg,2.jpg\"\n", "as = \"columns\"\ncolumns = [\"Image 2\"]",
			"SKU,Title,Image,Image 2\nA,x,1.jpg,2.jpg\n", 0, 0},
		"columns into one cell": {"SKU,Title,Image,Image 2\nA,x,1.jpg,2.jpg\nB,y,,3.jpg\n",
			"as = \"cell\"\nat = \";\"\ncolumns = [\"Image 2\"]", "SKU,Title,Image,Image 2\nA,x,1.jpg;2.jpg,\nB,y,3.jpg,\n", 0, 0},
		"a held product stays as it is": {"Slug,SKU,Title,Image\ns,A,x,\"1.jpg,2.jpg\"\nt,2-Mar,y,\"3.jpg,4.jpg\"\nu,B-1,z,\nv,B-2,z,\nw,B-3,z,\n", "as = \"rows\"", "Slug,SKU,Title,Image\ns,A,x,1.jpg\ns,,,2.jpg\nu,B-1,z,\nv,B-2,z,\nw,B-3,z,\n", 1, 0},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		opt.Look, opt.As = true, []string{"xlsx"}
		book, err := sections.Load(write(t, dir, rulebook.Name, "[images]\n"+test.rules+"\n"))
		require.NoError(t, err, name)
		opt.Book = *book
		first, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, strings.ReplaceAll(test.ready, "\"", ""), strings.ReplaceAll(ready(t, first), "\"", ""), name)
		c := first.Counts()
		assert.Equal(t, [2]int{test.added, test.joined}, [2]int{c.Added, c.Joined}, name)
		assert.Equal(t, first.Report.Written.Rows, c.Ready+c.Added-c.Joined, name)
		assert.Equal(t, c.Read, c.Ready+c.Held+c.Aside, name)
		again := opt
		again.Input, again.Target = write(t, dir, "again.csv", ready(t, first)), filepath.Join(dir, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, name)
		assert.Equal(t, ready(t, first), ready(t, second), name)
		assert.Zero(t, second.Counts().Changed, name)
	}
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", "SKU,Price,Image\nA,1,\"1.jpg,2.jpg\"\n"), filepath.Join(dir, "out"))
	opt.Book.Images.As = "rows"
	_, err := Run(t.Context(), opt)
	assert.ErrorContains(t, err, "to which product an image row belongs")
}

// TestOneRowEach: a row with a list becomes a row for each value; what is made has SKUs of
// its own, and a second run finds nothing to do.
func TestOneRowEach(t *testing.T) {
	for name, test := range map[string]struct {
		list, rules, ready string
		added, held        int
	}{
		"sizes": {"Slug,SKU,Title,Tags,Price,Sizes,Image,Language\nveil,V,Veil,clothes,9,\"S, M, L\",1.jpg,en\nbox,B,Box,,5,,2.jpg,en\n",
			"",
			"Slug,SKU,Title,Tags,Price,Sizes,Image,Language,Size\nveil,V-S,Veil,clothes,9,S; M; L,1.jpg,en,S\nveil,V-M,,,9,,,en,M\nveil,V-L,,,9,,,en,L\nbox,B,Box,,5,,2.jpg,en,\n", 2, 0},
		"one of several variants": {"Slug,SKU,Title,Price,Sizes,Size\ns,A,x,1,,XL\ns,B,,2,S|M,\n", "",
			"Slug,SKU,Title,Price,Sizes,Size\ns,A,x,1,,XL\ns,B-S,,2,S|M,S\ns,B-M,,2,,M\n", 1, 0},
		"an SKU that is taken": {"Slug,SKU,Title,Sizes\ns,A,x,S|M\nt,A-M,y,\nu,C,z,\n", "", "Slug,SKU,Title,Sizes,Size\nu,C,z,,\n", 0,
			2},
		"more is set": {"Slug,SKU,Title,Sizes\ns,A,x,S|M\n", ", \"Label\" = \"{title} {Size}\", title = \"{title} ({Sizes})\"",
			"Slug,SKU,Title,Sizes,Size,Label\ns,A-S,x (S|M),S|M,S,x S\ns,A-M,,,M,x M\n", 1, 0},
		"a parent": {"SKU,Title,Sizes,Price\nA,x,S|M,9\nB,y,,1\n", "}\nparent = true\n#",
			"SKU,Title,Sizes,Price,Size,Parent SKU\nA,x,S|M,9,,\nA-S,,,9,S,A\nA-M,,,9,M,A\nB,y,,1,,\n", 2, 0},
		"a parent of one": {"Parent SKU,SKU,Title,Sizes\n,A,x,S\n,P,y,\nP,Q,,S|M\n", "}\nparent = true\n#",
			"Parent SKU,SKU,Title,Sizes,Size\n,A,x,S,\nA,A-S,,,S\n,P,y,,\nP,Q,,S|M,\n", 1, 0},
		"a parent without an SKU, or with a barcode": {"SKU,Title,Sizes,EAN\n,x,S|M,\nB,y,S,9521234000013\nC,z,,\n", "}\nparent = true\n#",
			"SKU,Title,Sizes,EAN,Size,Parent SKU\nC,z,,,,\n", 0, 2},
		"in every row": {"SKU,Title,Brand,Sizes,Image\nA,x,b,S|M,1.jpg\n", ", title = \"{title}, {Size}\" }\nrepeat = true\n#",
			"SKU,Title,Brand,Sizes,Image,Size\nA-S,x, S,b,S|M,1.jpg,S\nA-M,x, M,b,,,M\n", 1, 0},
		"a parent, and in every row": {"SKU,Title,Brand,Sizes\nA,x,b,S|M\n", "}\nparent = true\nrepeat = true\n#",
			"SKU,Title,Brand,Sizes,Size,Parent SKU\nA,x,b,S|M,,\nA-S,x,b,,S,A\nA-M,x,b,,M,A\n", 2, 0},
	} {
		dir := t.TempDir()
		test.list = strings.ReplaceAll(test.list, "S, M, L", "S; M; L")
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name,
			"[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Size}\""+test.rules+" }\n"))
		require.NoError(t, err, name)
		opt.Book = *book
		first, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, test.ready, strings.ReplaceAll(ready(t, first), "\"", ""), name)
		c := first.Counts()
		assert.Equal(t, [2]int{test.added, test.held}, [2]int{c.Added, c.Held}, name)
		assert.Equal(t, first.Report.Written.Rows, c.Ready+c.Added-c.Joined, name)
		again := opt
		again.Input, again.Target = write(t, dir, "again.csv", ready(t, first)), filepath.Join(dir, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, name)
		assert.Equal(t, ready(t, first), ready(t, second), name)
	}
}

// TestRegroup: rows of a product that stand apart are brought together, the lead row first,
// and keep their numbers; what stands together already stays as it is, byte for byte.
func TestRegroup(t *testing.T) {
	for name, test := range map[string]struct {
		list, want string
		moved      int
	}{
		"together already": {"Slug,SKU,Title\n\"s\",A,x\ns,B,\n\nt,C,y\n", "Slug,SKU,Title\n\"s\",A,x\ns,B,\nt,C,y\n", 0},
		"apart": {"Slug,SKU,Title,Image\ns,A,x,1\nt,C,\"y, z\",\n,,,3\ns,B,,\n,,,2\n",
			"Slug,SKU,Title,Image\ns,A,x,1\ns,B,,\n,,,2\nt,C,\"y, z\",\n,,,3\n", 4},
		"the lead row below": {"Slug,SKU,Title\ns,B,\nt,C,y\ns,A,x\n", "Slug,SKU,Title\ns,A,x\ns,B,\nt,C,y\n", 3},
		"parents": {"Parent SKU,SKU,Title\nP,P1,a\n,Q,z\n,P,x\nP,P2,b\n", "Parent SKU,SKU,Title\n,P,x\nP,P1,a\nP,P2,b\n,Q,z\n",
			4},
		"languages": {"Slug,SKU,Title,Language\ns,A,x,en\ns,A2,x,de\ns,B,,en\n",
			"Slug,SKU,Title,Language\ns,A,x,en\ns,B,,en\ns,A2,x,de\n", 2},
		"in another encoding": {"Slug,SKU,Title\ns,A,K\xfcche\nt,C,Gr\xf6\xdfe\ns,B,\n", "Slug,SKU,Title\ns,A,Küche\ns,B,\nt,C,Größe\n", 2},
		"never closed":        {"Slug,SKU,Title\ns,A,\"x\nt,C,y\ns,B,\n", "Slug,SKU,Title\ns,A,\"\"\"x\"\ns,B,\nt,C,y\n", 2},
	} {
		for workers := 1; workers <= 3; workers += 2 {
			dir := t.TempDir()
			opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
			opt.Book.Products.Regroup, opt.Workers, opt.PartSize = true, workers, 10
			first, err := Run(t.Context(), opt)
			require.NoError(t, err, name)
			assert.Equal(t, test.want, ready(t, first), name)
			assert.Equal(t, test.moved, first.Moved, name)
			assert.Zero(t, first.Counts().Held, name)
			again := opt
			again.Input, again.Target = write(t, dir, "again.csv", ready(t, first)), filepath.Join(dir, "again")
			second, err := Run(t.Context(), again)
			require.NoError(t, err, name)
			assert.Equal(t, test.want, ready(t, second), name)
			assert.Zero(t, second.Moved, name)
			sum, err := folder.Sum(opt.Input)
			require.NoError(t, err)
			assert.Equal(t, sum, first.Source.Sum, name)
		}
	}
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", "Slug,SKU,Title,EAN\ns,A,x,\nt,C,y,9521234000012\ns,B,,\n"), filepath.Join(dir, "out"))
	opt.Book.Products.Regroup = true
	r, err := Run(t.Context(), opt)
	require.NoError(t, err)
	held, err := os.ReadFile(filepath.Join(r.Folder, "held.csv"))
	require.NoError(t, err)
	assert.Contains(t, string(held), "\n3,\"EAN: The last digit")
	assert.True(t, r.Source.Kind == "CSV, UTF-8, separator comma, rows end with LF", r.Source.Kind)
}

// TestCombine: separate products become one: a common key, one title, an option of what
// differed in the titles, the images numbered on; what disagrees is shown.
func TestCombine(t *testing.T) {
	const list = "Family,Slug,SKU,Title,Brand,Price,Image,Image position\nveil,veil-s,V1,\"Round veil, S\",Nørrebi,9,s.jpg,1\n,box,B,Hive box,Nørrebi,5,b.jpg,1\n" +
		"veil,veil-m,V2,\"Round veil, M\",Norrebi,9,m.jpg,1\n,,,,,,m2.jpg,2\n"
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
	book, err := sections.Load(write(t, dir, rulebook.Name, "[products]\ntogether_by = \"Family\"\nregroup = true\noption_of_titles = \"Size\"\nsame_as_lead = [\"slug\"]\n[images]\nnumber = true\n"))
	require.NoError(t, err)
	opt.Book = *book
	const want = "Family,Slug,SKU,Title,Brand,Price,Image,Image position,Size\nveil,veil-s,V1,\"Round veil\",Nørrebi,9,s.jpg,1,S\nveil,veil-s,V2,\"\",Norrebi,9,m.jpg,2,M\n,veil-s,,,,,m2.jpg,3,\n,box,B,Hive box,Nørrebi,5,b.jpg,1,\n"
	for range 2 {
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, want, ready(t, r))
		assert.Equal(t, 2, r.Report.Products)
		differs := slices.IndexFunc(r.Report.Found, func(f line.FindingCount) bool { return f.Code == catalogue.ProductDiffers })
		require.GreaterOrEqual(t, differs, 0)
		assert.Contains(t, r.Report.Found[differs].Examples[0].Text, "Norrebi stands here, and in row 2")
		opt.Input, opt.Target = write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again")
	}
}

// TestTogetherFrom: a list says which SKUs are one product.
func TestTogetherFrom(t *testing.T) {
	dir := t.TempDir()
	write(t, dir, "families.csv", "SKU,Family\nV1,veil\nV2,veil\nX,\n")
	opt := fixed(write(t, dir, "list.csv", "Slug,SKU,Title,Price\na,V1,\"Veil, S\",9\nb,B,Box,5\nc,V2,\"Veil, M\",9\n"),
		filepath.Join(dir, "out"))
	book, err := sections.Load(write(t, dir, rulebook.Name, "[products]\ntogether_from = \"families.csv\"\nregroup = true\noption_of_titles = \"Size\"\nsame_as_lead = [\"slug\"]\n"))
	require.NoError(t, err)
	opt.Book = *book
	for range 2 {
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, "Slug,SKU,Title,Price,Size\na,V1,\"Veil\",9,S\na,V2,\"\",9,M\nb,B,Box,5,\n", ready(t, r))
		assert.Equal(t, 2, r.Report.Products)
		opt.Input, opt.Target = write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again")
	}
	// What else the products have comes along, wherever it stands; a product is made one whole.
	opt.Input = write(t, dir, "whole.csv", "Slug,SKU,Title,Price,Image\na,V1,\"Veil, S\",9,1.jpg\nc,V2,\"Veil, M\",9,2.jpg\nb,B,Box,5,\nc,,,,3.jpg\na,V1b,\"Veil, L\",9,\n")
	for range 2 {
		opt.Target = filepath.Join(dir, "whole")
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, "Slug,SKU,Title,Price,Image,Size\na,V1,\"Veil\",9,1.jpg,S\na,V2,\"\",9,2.jpg,M\na,,,,3.jpg,\na,V1b,\"\",9,,L\nb,B,Box,5,,\n",
			ready(t, r))
		opt.Input = write(t, dir, "again.csv", ready(t, r))
	}
	write(t, dir, "families.csv", "SKU,Family\nV1,veil\nV1b,hood\n")
	opt.Input = write(t, dir, "torn.csv", "Slug,SKU,Title\na,V1,Veil\nb,B,Box\na,V1b,\n")
	_, err = Run(t.Context(), opt)
	require.ErrorContains(t, err, "makes V1 in row 2 and V1b in row 4 parts of two products, but both are of the product \"a\"")
	opt.Book.Products.TogetherFrom = filepath.Join(dir, "none.csv")
	_, err = Run(t.Context(), opt)
	assert.ErrorContains(t, err, "together_from")
}

// TestCombineAsked: where nothing says which of two values counts, or what products that are
// made one differ in, it is asked, and an answer settles it.
func TestCombineAsked(t *testing.T) {
	const list = "Slug,SKU,Title,Brand,Weight,Price\na,V1,Veil,Nørrebi,20 g,9\nb,V2,Veil,Norrebi,30 g,12\nc,B,Box,x,,5\n"
	const asked = "[products]\ntogether = [[\"V1\", \"V2\"]]\nsame_as_lead = [\"slug\"]\noption_of_titles = \"Size\"\n"
	for name, test := range map[string]struct {
		rules string
		yes   catalogue.Decisions
		held  int
		said  string
		ready string
	}{
		"what they differ in": {asked, nil, 2, "They differ in the column \"Weight\", 20 g and 30 g.",
			"Slug,SKU,Title,Brand,Weight,Price,Size\nc,B,Box,x,,5,\n"},
		"which brand": {asked + "told_apart_by = [\"Weight\"]\n", nil, 0, "Norrebi stands here, and in row 2",
			"Slug,SKU,Title,Brand,Weight,Price,Size\na,V1,Veil,Nørrebi,20 g,9,\na,V2,Veil,Norrebi,30 g,12,\nc,B,Box,x,,5,\n"},
		"answered": {asked + "told_apart_by = [\"Weight\"]\n", catalogue.Decisions{{Finding: catalogue.ProductDiffers}}, 0, "",
			"Slug,SKU,Title,Brand,Weight,Price,Size\na,V1,Veil,Nørrebi,20 g,9,\na,V2,Veil,Nørrebi,30 g,12,\nc,B,Box,x,,5,\n"},
		"two keys": {"[products]\ntogether = [[\"V1\", \"V2\"]]\ntold_apart_by = [\"Weight\"]\ndiffer = \"lead\"\n", nil, 0,
			"the slug is “b” here and “a” there", "Slug,SKU,Title,Brand,Weight,Price\na,V1,Veil,Nørrebi,20 g,9\nb,V2,Veil,Nørrebi,30 g,12\nc,B,Box,x,,5\n"},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err, name)
		opt.Book, opt.Said = *book, test.yes
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, test.held, r.Counts().Held, name)
		assert.Equal(t, test.ready, ready(t, r), name)
		var said []string
		for _, f := range r.Report.Found {
			said = append(said, f.Examples[0].Text)
		}
		assert.Contains(t, strings.Join(said, "\n"), test.said, name)
		if name == "which brand" {
			assert.Equal(t, "Row,Column,Here,Lead row,There,SKU,Title\n3,Brand,Norrebi,2,Nørrebi,V2,Veil\n",
				strings.ReplaceAll(contents(t, r.Folder)[sections.DifferName], "\"", ""))
		}
		if test.yes != nil {
			assert.NotContains(t, strings.Join(said, "\n"), "stands here", name)
		}
	}
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", "Slug,SKU,Title\na,A\n"), filepath.Join(dir, "missed"))
	opt.Book.Products = products.Rules{Together: [][]string{{"A", "AA"}, {"a", "b"}}}
	r, err := Run(t.Context(), opt)
	require.NoError(t, err)
	assert.Equal(t, []string{`[products] together names "AA", and no row has that SKU or slug`,
		`[products] together names "b", and no row has that SKU or slug`}, r.Notes)
	opt = fixed(write(t, dir, "list.csv", "Slug,SKU,Title\na,V1,\"Veil, S\"\nb,B,Box\nc,V2,\"Veil, M\"\nc,,\n"), filepath.Join(dir, "out"))
	opt.Book.Products = products.Rules{Together: [][]string{{"a", "c"}}, Regroup: true, OptionOfTitles: "Size",
		SameAsLead: []string{"slug"}}
	for range 2 {
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, "Slug,SKU,Title,Size\na,V1,\"Veil\",S\na,V2,\"\",M\na,,,\nb,B,Box,\n", ready(t, r), "by slugs")
		opt.Input, opt.Target = write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again")
	}
	for rules, wrong := range map[string]string{
		"together = [[\"A\"]]": "two or more", "together = [[\"A\", \"B\"], [\"B\", \"C\"]]": "named twice",
		"differ_in = { tags = \"most\" }": "lead\", \"longest\" or \"all",
	} {
		_, err := sections.Load(write(t, t.TempDir(), rulebook.Name, "[products]\n"+rules+"\n"))
		assert.ErrorContains(t, err, wrong)
	}
}

// TestOneRowForAll: variants that differ in one value become one row with a list; what would
// be lost in it keeps a row of its own, and nothing is made of it a second time.
func TestOneRowForAll(t *testing.T) {
	const head = "Slug,SKU,Title,Colour,Size,Price,Image\n"
	for name, test := range map[string]struct {
		rules, list, ready, found string
		joined                    int
	}{
		"all": {"", "s,A-S,x,red,S,2,1.jpg\ns,A-M,,red,M,2,\ns,B-S,,blue,S,2,\ns,,,,,,2.jpg\ns,A-L,x,red,\"3,5\",2,1.jpg\n",
			"s,A-S,x,red,\"S, M, 3,5\",2,1.jpg\ns,B-S,,blue,S,2,\ns,,,,,,2.jpg\n", "", 2},
		"a price differs": {"", "s,A-S,x,red,S,2,\ns,A-M,,red,M,3,\ns,A-L,,red,L,3,\n", "s,A-S,x,red,S,2,\ns,A-M,,red,\"M, L\",3,\n",
			"each.unlike 3 3", 1},
		"an image": {"", "s,A-S,x,red,S,2,1.jpg\ns,A-M,,red,M,2,2.jpg\n", "s,A-S,x,red,S,2,1.jpg\ns,A-M,,red,M,2,2.jpg\n",
			"each.unlike 3 2.jpg", 0},
		"the same twice": {"", "s,A-S,x,red,S,2,\ns,A-s,,red,s,2,\n", "s,A-S,x,red,S,2,\ns,A-s,,red,s,2,\n", "each.unlike 3 s", 0},
		"a list, and more": {"at = \"|\"", "s,A-S,x,red,S|M,2,\ns,A-L,,red,L,2,\ns,A-X,,red,X,2,\n",
			"s,A-S,x,red,S|M,2,\ns,A-L,,red,L|X,2,\n", "", 1},
		"where": {"where = { colour = \"red\" }", "s,A-S,x,red,S,2,\ns,A-M,,red,M,2,\ns,B-S,,blue,S,2,\ns,B-M,,blue,M,2,\n",
			"s,A-S,x,red,\"S, M\",2,\ns,B-S,,blue,S,2,\ns,B-M,,blue,M,2,\n", "", 1},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", head+test.list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, "[[one_row_for_all]]\nfrom = \"size\"\nunlike = [\"sku\"]\n"+test.rules))
		require.NoError(t, err, name)
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, head+test.ready, ready(t, r), name)
		assert.Equal(t, test.joined, r.Report.Joined, name)
		var found []string
		for _, f := range r.Report.Found {
			for _, e := range f.Examples {
				if f.Code == catalogue.EachUnlike {
					found = append(found, fmt.Sprint(f.Code, " ", e.Row, " ", e.Cell))
				}
			}
		}
		assert.Equal(t, test.found, strings.Join(found, ", "), name)
		opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
		second, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, ready(t, r), ready(t, second), name)
	}
	for _, wrong := range []string{"at = \"|\"\n", "from = \"Size\"\nat = \"  \"\n"} {
		_, err := sections.Load(write(t, t.TempDir(), rulebook.Name, "[[one_row_for_all]]\n"+wrong))
		assert.ErrorContains(t, err, "values")
	}
}

// TestComplete: variants that the shop has and the file leaves out are named, wherever they
// stand there, and whatever the part of the file in which the others lie.
func TestComplete(t *testing.T) {
	const list = "Slug,SKU,Title,Size\nveil,V-S,Veil,S\nveil,V-M,,M\nnew,N-1,New,\nbox,B-1,Box,1\n,,,\nhood,V-XL,Hood,XL\n"
	for name, test := range map[string]struct{ shop, rules, found string }{
		"by slugs": {"Slug,SKU,Title\nveil,V-S,Veil\nbox,B-1,Box\nveil,V-L,\nveil,,\nveil,V-M,\nveil,V-XL,\nbox,B-2,\nhood,H,Hood\n", "",
			"2 V-L (row 4)"},
		"by parents": {"Parent SKU,SKU,Title\n,V,Veil\nV,V-S,\nV,V-L,\n,B-1,Box\n", "", "2 V-L (row 4)"},
		"by empty titles": {"SKU,Title,Size\nV-M,Veil,M\nV-1,,1\nV-2,,2\nV-3,,3\nV-4,,4\nV-5,,5\nV-6,,6\n", "",
			"2 V-1 (row 3), V-2 (row 4), V-3 (row 5), V-4 (row 6), V-5 (row 7) and 1 more"},
		"by a declared column": {"Set,SKU,Title\n1,V-S,Veil\n2,B-1,Box\n1,V-L,Veil L\n", "together_by = \"Set\"\n", "2 V-L (row 4)"},
		"all there":            {"Slug,SKU,Title\nveil,V-S,Veil\nveil,V-M,Veil\n", "", ""},
	} {
		dir := t.TempDir()
		text := list
		if test.rules != "" {
			text = strings.ReplaceAll(strings.Replace(text, "Slug", "Set", 1), "veil", "1")
		}
		write(t, dir, "shop.csv", test.shop)
		opt := fixed(write(t, dir, "list.csv", text), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, "[products]\ncomplete_as = \"shop.csv\"\n"+test.rules))
		require.NoError(t, err, name)
		opt.Book, opt.PartSize = *book, 20
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		var found []string
		for _, f := range r.Report.Found {
			if f.Code == catalogue.ProductLeftOut {
				for _, e := range f.Examples {
					_, said, _ := strings.Cut(e.Text, "leaves out: ")
					found = append(found, fmt.Sprint(e.Row, " ", strings.TrimSuffix(said, ". Some importers then take them out of the shop.")))
				}
			}
		}
		if test.found != "" && name == "by slugs" {
			test.found += "; 5 B-2 (row 8); 7 V-L (row 4)"
		}
		slices.Sort(found)
		assert.Equal(t, test.found, strings.Join(found, "; "), name)
	}
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
	opt.Book.Products.CompleteAs = write(t, dir, "others.csv", "Slug,SKU\nx,X1\nx,X2\n")
	r, err := Run(t.Context(), opt)
	require.NoError(t, err)
	assert.Equal(t, []string{"none of the SKUs is in others.csv, so that nothing can be said of variants that are left out"}, r.Notes)
	opt.Book.Products.CompleteAs = write(t, dir, "shop.csv", "SKU,Title\nV-S,Veil\nV-M,Veil M\n")
	_, err = Run(t.Context(), opt)
	require.ErrorContains(t, err, "[products] complete_as")
	assert.ErrorContains(t, err, "one that says which rows are one product")
}

// TestSameImageTwice: an image row without a key is the same as another only in the same
// product; a product that was pasted twice is one all the same.
func TestSameImageTwice(t *testing.T) {
	const box, veil = "A,Box,1.jpg\n,,logo.jpg\n", "B,Veil,2.jpg\n,,logo.jpg\n"
	for list, want := range map[string]string{
		box + veil:                  box + veil,
		box + ",,logo.jpg\n" + veil: box + veil,
		box + veil + box:            box + veil,
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", "SKU,Title,Image\n"+list), filepath.Join(dir, "out"))
		opt.PartSize = 20
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		assert.Equal(t, "SKU,Title,Image\n"+want, ready(t, r))
	}
}

// TestNearParent: where a parent is not there, but nearly, it is said.
func TestNearParent(t *testing.T) {
	for parent, near := range map[string]bool{"hb 10": true, "HB-10": true, "HB11": false} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", "Parent SKU,SKU,Title\n,HB10,Box\nHB10,HB10-S,\n,V,Veil\nV,V-S,\n"+parent+",HB10-M,\n"),
			filepath.Join(dir, "out"))
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		at := slices.IndexFunc(r.Report.Found, func(f line.FindingCount) bool { return f.Code == catalogue.ProductNoParent })
		require.GreaterOrEqual(t, at, 0, parent)
		assert.Equal(t, near, strings.Contains(r.Report.Found[at].Examples[0].Text, "only in case, spaces or dashes"), parent)
	}
}

// TestSurveyStateOfProducts: what is learned of parents, copied rows, keys and the variants
// of the shop is the same, byte for byte, however the sheet is cut.
func TestSurveyStateOfProducts(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	for range some(20) {
		dir := t.TempDir()
		var b strings.Builder
		b.WriteString("Parent SKU,SKU,Slug,Title,MPN,Description,Image,Price\n")
		for i := range 60 {
			fmt.Fprintf(&b, "%s,S%d,%s,%s,m%d,%s,%s,%s\n", pick("", "", "S1", "s 2", "S99"), i, pick("", "a", "A ", "b"),
				pick("", "Veil", fmt.Sprint("Box ", i)), i/(1+r.IntN(3)),
				pick("", "the same long text here", fmt.Sprint("the text of number ", i)), pick("", "1.jpg", fmt.Sprint(i, ".jpg")),
				pick("", "9"))
		}
		write(t, dir, "shop.csv", "Slug,SKU\na,S1\na,S5\na,S70\nb,S6\nb,S71\n")
		opt := fixed(write(t, dir, "list.csv", b.String()), "")
		opt.Book.Products.CompleteAs, opt.Temp = filepath.Join(dir, "shop.csv"), dir
		state := func(workers, size int) string {
			opt.Workers, opt.PartSize = workers, size
			result, err := Run(t.Context(), opt)
			require.NoError(t, err)
			var state []byte
			learned := 0
			for _, l := range result.Survey.Learned {
				if l != nil {
					learned++
					state, err = l.AppendBinary(state)
					require.NoError(t, err)
				}
			}
			require.GreaterOrEqual(t, learned, 5)
			for _, f := range result.Report.Found {
				state = fmt.Appendf(state, "%s %d %v ", f.Code, f.Cells, f.Examples)
			}
			return string(state)
		}
		want := state(1, 1<<20)
		for workers := 1; workers <= 3; workers += 2 {
			for _, size := range []int{1, 100, 400} {
				require.Equal(t, want, state(workers, size), "%d workers, parts of %d\n%s", workers, size, b.String())
			}
		}
	}
}

// TestRequiredWhereItBelongs: what is required is asked of each variant where variants have it, as the field
// or the file shows, and otherwise of the lead row; rows says something else.
func TestRequiredWhereItBelongs(t *testing.T) {
	const list = "Slug,SKU,Title,Price,Size,Sale from,Finish,Series,Image\nveil,V1,Veil,9,S,2026-01-01,oiled,Garden,1.jpg\nveil,V2,,9,M,,raw,,\nveil,V3,,9,L,2026-01-01,,,\nveil,,,,,,,,2.jpg\n" +
		"box,B1,Box,5,,2026-01-01,raw,Shed,\n"
	for rules, rows := range map[string]string{
		"[sale_from]\nrequired = true\n":                                          "3",
		"[field.finish]\ntype = \"text\"\nrequired = true\n":                      "4",
		"[field.series]\ntype = \"text\"\nrequired = true\n":                      "",
		"[field.series]\ntype = \"text\"\nrequired = true\nrows = \"variants\"\n": "3 4",
		"[field.finish]\ntype = \"text\"\nrequired = true\nrows = \"lead\"\n":     "",
		"[title]\nrequired = true\n":                                              "",
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, rules))
		require.NoError(t, err, rules)
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, rules)
		var missing []int
		for _, f := range r.Report.Found {
			for _, e := range f.Examples {
				if f.Code == catalogue.ValueMissing {
					missing = append(missing, e.Row)
				}
			}
		}
		slices.Sort(missing)
		assert.Equal(t, rows, strings.Trim(fmt.Sprint(missing), "[]"), rules)
	}
}

// TestCombineInPairs: where a file has pairs of columns for the names and values of options, what differs in titles
// goes into the first that says the same of all, as one does that stands for none; and variants that cannot be
// told apart are still held.
func TestCombineInPairs(t *testing.T) {
	const head = "Slug,SKU,Title,Option 1 name,Option 1 value,Option 2 name,Option 2 value\n"
	for name, test := range map[string]struct{ rows, ready string }{
		"a default is replaced": {"veil-s,V1,Small veil,Title,Default,,\nveil-m,V2,Large veil,Title,Default,,\nbox,B,Box,Title,Default,,\n",
			"veil-s,V1,Veil,Size,Small,,\nveil-s,V2,,Size,Large,,\nbox,B,Box,Title,Default,,\n"},
		"a free pair is taken": {"veil-s,V1,Veil S,Colour,red,,\nveil-m,V2,Veil M,Colour,blue,,\n",
			"veil-s,V1,Veil,Colour,red,Size,S\nveil-s,V2,,Colour,blue,Size,M\n"},
		"variants alike": {"veil-s,V1,Veil S,Title,Default,,\nveil-m,V2,Veil S,Title,Default,,\n", ""},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", head+test.rows), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, "[products]\ntogether = [[\"V1\", \"V2\"]]\noption_of_titles = \"Size\"\nsame_as_lead = [\"slug\"]\n"))
		require.NoError(t, err, name)
		opt.Book = *book
		for range 2 {
			r, err := Run(t.Context(), opt)
			require.NoError(t, err, name)
			assert.Equal(t, head+test.ready, ready(t, r), name)
			if test.ready == "" {
				break
			}
			opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
		}
	}
}
