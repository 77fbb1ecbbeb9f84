package repair

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/linkcheck"
	"zetanum/core/picture"
)

// TestImageLinks: links become what the rulebook says; what it says nothing of stays, byte for byte.
func TestImageLinks(t *testing.T) {
	const head = "Slug,SKU,Title,Colour,Image,Alt text,Image order\n"
	const messy = head + `chair,CH-1,Chair,red," http//cdn.halvora.example/Stuhl rot.jpg, https://cdn.halvora.example/chair-blue.jpg",,` + "\n" +
		"chair,CH-2,,blue,,,\nchair,,,,//cdn.halvora.example/chair-blue.jpg,,\n" +
		`lamp,LA-1,Lamp,brass,"https://cdn.halvora.example/lamp.jpg; http://CDN.halvora.example/lamp.jpg","Lamp; The same",` + "\n" +
		"table,TA-1,Table,oak,C:\\Pictures\\table.jpg,,\ncup,CU-1,Cup,,HV-2041.JPG,,\n"
	for _, test := range []struct{ name, source, book, want string }{
		{"rows, numbers, texts, one for each variant", messy, "[images]\nas = \"rows\"\nnumber = true\nrepair = true\nalt = \"{title}[, {colour}]\"\n" +
			"base_url = \"https://cdn.halvora.example/p\"\nname_case = \"lower\"\nof_variants = \"Shown\"\nvariant_image = \"option\"\n",
			"Slug,SKU,Title,Colour,Image,Alt text,Image order,Shown\n" +
				"chair,CH-1,Chair,red,http://cdn.halvora.example/Stuhl%20rot.jpg,\"Chair, red\",1,http://cdn.halvora.example/Stuhl%20rot.jpg\n" +
				"chair,,,,https://cdn.halvora.example/chair-blue.jpg,Chair,2,\nchair,CH-2,,blue,,,,https://cdn.halvora.example/chair-blue.jpg\n" +
				"lamp,LA-1,Lamp,brass,https://cdn.halvora.example/lamp.jpg,Lamp,1,\ntable,TA-1,Table,oak,C:\\Pictures\\table.jpg,\"Table, oak\",1,\n" +
				"cup,CU-1,Cup,,https://cdn.halvora.example/p/hv-2041.jpg,Cup,1,\n"},
		{"an image row that the product has already", head + "a,A,x,,a.jpg,,\na,,,,b.jpg,,\na,,,,a.jpg,,\nb,B,y,,b.jpg,,\n", "[images]\nrepair = true\n",
			head + "a,A,x,,a.jpg,,\na,,,,b.jpg,,\nb,B,y,,b.jpg,,\n"},
		{"variants keep what they share", head + "a,A,x,red,a.jpg,,\na,B,,blue,a.jpg,,\n", "[images]\nrepair = true\n", head + "a,A,x,red,a.jpg,,\na,B,,blue,a.jpg,,\n"},
		{"orders", "SKU,Title,Image\nA,x,http://old.halvora.example/a.jpg?utm_source=mail&w=90#front | https://old.halvora.example/a.jpg\n",
			"[images]\nhttps = true\ndrop_tracking = true\ndrop_fragments = true\ndrop_parameters = [\"w\"]\nreplace_hosts = { \"old.halvora.example\" = \"cdn.halvora.example\" }\n",
			"SKU,Title,Image\nA,x,https://cdn.halvora.example/a.jpg\n"},
		{"columns", "SKU,Title,Image,Image 2,Image 3\nA,x,\"//cdn.halvora.example/a.jpg;//cdn.halvora.example/b.jpg\",,//cdn.halvora.example/a.jpg\n",
			"[images]\nas = \"columns\"\ncolumns = [\"Image 2\", \"Image 3\"]\nrepair = true\n",
			"SKU,Title,Image,Image 2,Image 3\nA,x,https://cdn.halvora.example/a.jpg,https://cdn.halvora.example/b.jpg,\n"},
		{"names that are built, for each variant", "Slug,SKU,Title,Size,Image\na,A,x,S,\na,B,,M,\nb,C,y,,own.jpg\n", "[images]\nbuild = \"{sku lower}_{number 2}.jpg\"\nhow_many = 2\nat = \"|\"\nas = \"cell\"\nbase_url = \"https://cdn.halvora.example\"\n",
			"Slug,SKU,Title,Size,Image\na,A,x,S,https://cdn.halvora.example/a_01.jpg|https://cdn.halvora.example/a_02.jpg\n" +
				"a,B,,M,https://cdn.halvora.example/b_01.jpg|https://cdn.halvora.example/b_02.jpg\nb,C,y,,https://cdn.halvora.example/own.jpg\n"},
		{"and for each product", "Slug,SKU,Title,Size,Image\na,A,x,S,\na,B,,M,\n", "[images]\nbuild = \"{slug}.jpg\"\nbase_url = \"https://cdn.halvora.example\"\n",
			"Slug,SKU,Title,Size,Image\na,A,x,S,https://cdn.halvora.example/a.jpg\na,B,,M,\n"},
		{"made of names that are built, each in a row", "Slug,SKU,Title,Image\na,A,x,\n", "[images]\nas = \"rows\"\nbase_url = \"https://cdn.halvora.example\"\nalt = \"{title}\"\n" +
			"[[build]]\ninto = \"images\"\nfrom = \"{sku lower}-1.jpg, {sku lower}-2.jpg\"\n",
			"Slug,SKU,Title,Image,Image alt\na,A,x,https://cdn.halvora.example/a-1.jpg,x\na,,,https://cdn.halvora.example/a-2.jpg,x\n"},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", test.source)
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, test.book, nil)
		r := run(t, opt)
		assert.Equal(t, plainRows(t, test.want), plainRows(t, ready(t, r)), test.name)
	}
}

// TestImageFolder: products get the photos that are called by their codes, each in a row; what is left over is listed, and what is not as it
// has to be named.
func TestImageFolder(t *testing.T) {
	dir := t.TempDir()
	photo := func(name, of string) {
		data, err := os.ReadFile("../picture/testdata/" + of)
		require.NoError(t, err)
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, "photos", name)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "photos", name), data, 0o666))
	}
	for name, of := range map[string]string{"CH-1-2.jpg": "rgb.jpg", "CH-1.jpg": "grey.jpg", "new/ch-2.png": "rgb.png", "9521234000013.jpg": "rgb.png",
		"stool.jpg": "cmyk.jpg", "logo.png": "pal.png", "007.jpg": "rgb.jpg"} {
		photo(name, of)
	}
	source := "Slug,SKU,EAN,Title,Colour,Image\nchair,CH-1,,Chair,red,\nchair,CH-2,,,blue,\nlamp,LA-1,9.521234000013E+12,Lamp,,\nstool,ST-1,,Stool,,\n" +
		"a,7,,Nail,,\nb,0007,,Bolt,,\ncup,CU-1,,Cup,,https://cdn.halvora.example/cup.jpg\n"
	path := write(t, dir, "list.csv", source)
	book := "[images]\nas = \"rows\"\nfolder = \"photos\"\nbase_url = \"https://cdn.halvora.example/p/\"\nalt = \"{title}\"\n"
	opt := fixed(path, Target(path))
	opt.Book = bookIn(t, dir, book, nil)
	r := run(t, opt)
	const p = "https://cdn.halvora.example/p/"
	want := "Slug,SKU,EAN,Title,Colour,Image,Image alt\nchair,CH-1,,Chair,red," + p + "CH-1.jpg,Chair\nchair,,,,," + p + "CH-1-2.jpg,Chair\n" +
		"chair,CH-2,,,blue," + p + "new/ch-2.png,Chair\nlamp,LA-1,9521234000013,Lamp,," + p + "9521234000013.jpg,Lamp\nstool,ST-1,,Stool,," + p + "stool.jpg,Stool\n" +
		"a,7,,Nail,,,\nb,0007,,Bolt,,,\ncup,CU-1,,Cup,,https://cdn.halvora.example/cup.jpg,Cup\n"
	assert.Equal(t, plainRows(t, want), plainRows(t, ready(t, r)))
	lists := contents(t, r.Folder)
	assert.Equal(t, "SKU,Title,Colour\n7,Nail,\n0007,Bolt,\n", lists["products-without-photo.csv"])
	assert.Equal(t, "File\nlogo.png\n", lists["photos-without-product.csv"])
	assert.Equal(t, "File,One,Another\n007.jpg,0007,7\n", lists["photos-of-several.csv"])
	var found []string
	for _, f := range r.Report.Found {
		found = append(found, fmt.Sprint(f.Code, " ", f.Cells))
	}
	assert.Equal(t, "barcode.missing 6, image.missing 2, image.loosely 1, image.false-type 1, image.colours 1", strings.Join(found, ", "))

	opt.Book = bookIn(t, dir, book+"shortest_side = 21\nlargest_file = \"1 kB\"\n", nil)
	opt.Target += ".limits"
	limited := run(t, opt)
	assert.Equal(t, 4, limited.Counts().Held, "each of the pictures has a side of 20 pixels")

	next := fixed(write(t, t.TempDir(), "list.csv", ready(t, r)), t.TempDir()+"/out")
	next.Book = bookIn(t, dir, book, nil)
	assert.Equal(t, ready(t, r), ready(t, run(t, next)))

	opt.Book = bookIn(t, dir, "[images]\nfolder = \"nowhere\"\n", nil)
	opt.Temp = t.TempDir()
	_, err := Run(context.Background(), opt)
	assert.ErrorContains(t, err, "folder")
	assert.ErrorContains(t, err, "nowhere")
}

// TestImagePrepare: the photos of products are copied as the importer takes them, each once and under a name that no other has; when they
// have been put on the web, their addresses find their products.
func TestImagePrepare(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "photos", "LA-1"), 0o777))
	for name, of := range map[string]string{"CH-1.jpg": "rgb.jpg", "CH-1 (2).png": "rgb.png", "ch/2.tif": "turned.tif", "LA-1/front.webp": "alpha.webp",
		"LA-1/back.png": "pal.png", "ST-1.jpg": "cmyk.jpg", "CU-1.gif": "anim.gif"} {
		data, err := os.ReadFile("../picture/testdata/" + of)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "photos", strings.Replace(name, "ch/2", "ch-2", 1)), data, 0o666))
	}
	broken, err := os.ReadFile("../picture/testdata/rgb.jpg")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "photos", "CU-1_2.jpg"), broken[:len(broken)-90], 0o666))
	source := "Slug,SKU,Title,Colour,Image\nchair,CH-1,Chair,red,\nchair,CH-2,,blue,\nlamp,LA-1,Lamp,,\nstool,ST-1,Stool,,\ncup,CU-1,Cup,,\nmug,MU-1,Mug,,\n"
	path := write(t, dir, "list.csv", source)
	book := "[images]\nfolder = \"photos\"\nprepare = \"upload/\"\nprepare_as = \"{slug}-{number 2}\"\nlongest_side = 16\n"
	opt := fixed(path, Target(path))
	opt.Book = bookIn(t, dir, book+"base_url = \"https://cdn.halvora.example/p/\"\n", nil)
	r := run(t, opt)
	const p = "https://cdn.halvora.example/p/"
	want := "Slug,SKU,Title,Colour,Image\nchair,CH-1,Chair,red,\"" + p + "chair-01.jpg," + p + "chair-02.png\"\nchair,CH-2,,blue," + p + "chair-03.jpg\n" +
		"lamp,LA-1,Lamp,,\"" + p + "lamp-01.png," + p + "lamp-02.png\"\nstool,ST-1,Stool,,\ncup,CU-1,Cup,,\nmug,MU-1,Mug,,\n"
	assert.Equal(t, want, ready(t, r))
	assert.Equal(t, &Prepared{Folder: "upload", Photos: 5}, r.Prepared)
	var copies []string
	entries, err := os.ReadDir(filepath.Join(r.Folder, "upload"))
	require.NoError(t, err)
	for _, e := range entries {
		data, err := os.ReadFile(filepath.Join(r.Folder, "upload", e.Name()))
		require.NoError(t, err)
		info, err := picture.Look(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		copies = append(copies, fmt.Sprint(e.Name(), " ", info.Type, " ", max(info.Width, info.Height), " ", info.Turned))
	}
	assert.Equal(t, []string{"chair-01.jpg jpg 16 0", "chair-02.png png 16 0", "chair-03.jpg jpg 16 0", "lamp-01.png png 16 0", "lamp-02.png png 16 0"}, copies)
	found := map[string]int{}
	for _, f := range r.Report.Found {
		found[f.Code.String()] = f.Cells
	}
	assert.Equal(t, 3, found["image.not-prepared"], "one in colours for print, one that moves, and one that breaks off")

	sum := contents(t, r.Folder)
	again := run(t, opt)
	assert.Equal(t, r.Folder, again.Folder, "a folder that nobody has worked in is replaced, with what is in it")
	assert.Equal(t, sum, contents(t, again.Folder))
	opt.PartSize, opt.Workers = 1, 1
	assert.Equal(t, sum["ready.csv"], contents(t, run(t, opt).Folder)["ready.csv"])
	require.NoError(t, os.WriteFile(filepath.Join(r.Folder, "upload", "chair-01.jpg"), []byte("mine"), 0o666))
	assert.Equal(t, []string{filepath.Join(r.Folder, "upload", "chair-01.jpg")}, run(t, opt).Edited)

	addresses := "https://img.halvora.example/7/lamp-02.png\nhttps://img.halvora.example/7/chair-01.jpg https://img.halvora.example/8/CHAIR-02.png\n" +
		"https://img.halvora.example/7/lamp-01.png\nhttps://img.halvora.example/7/logo.png\n"
	write(t, dir, "addresses.txt", addresses)
	opt.Book = bookIn(t, dir, book+"links_from = \"addresses.txt\"\n", nil)
	opt.Target += ".addresses"
	linked := run(t, opt)
	const q = "https://img.halvora.example/7/"
	assert.Equal(t, "Slug,SKU,Title,Colour,Image\nchair,CH-1,Chair,red,\""+q+"chair-01.jpg,https://img.halvora.example/8/CHAIR-02.png\"\nchair,CH-2,,blue,chair-03.jpg\n"+
		"lamp,LA-1,Lamp,,\""+q+"lamp-01.png,"+q+"lamp-02.png\"\nstool,ST-1,Stool,,\ncup,CU-1,Cup,,\nmug,MU-1,Mug,,\n", ready(t, linked))
	lists := contents(t, linked.Folder)
	assert.Equal(t, "Address,Why\n"+q+"logo.png,no product has a photo of this name\n", lists["addresses-without-product.csv"])
	assert.Equal(t, "SKU,Title,Colour,File\nCH-2,,blue,chair-03.jpg\n", lists["photos-without-address.csv"])

	opt.Book = bookIn(t, dir, "[images]\nlinks_from = \"addresses.txt\"\n", nil) // names in cells and codes find theirs; which photo of that name is that of a folder, nobody knows
	opt.Input = write(t, dir, "names.csv", "SKU,Title,Image\nlamp,Lamp,\nX,Chair,\"photos\\chair-01.jpg; chair-02.png\"\nLOGO,Logo,\nnone,None,\n")
	opt.Target = Target(opt.Input)
	named := run(t, opt)
	assert.Equal(t, "SKU,Title,Image\nlamp,Lamp,\""+q+"lamp-01.png,"+q+"lamp-02.png\"\nX,Chair,\"photos\\chair-01.jpg; https://img.halvora.example/8/CHAIR-02.png\"\nLOGO,Logo,"+q+"logo.png\nnone,None,\n", ready(t, named))

	require.NoError(t, os.Mkdir(filepath.Join(dir, "broken"), 0o777)) // the only photo breaks off
	require.NoError(t, os.WriteFile(filepath.Join(dir, "broken", "CU-1.jpg"), broken[:len(broken)-90], 0o666))
	opt.Book = bookIn(t, dir, strings.Replace(book, "\"photos\"", "\"broken\"", 1), nil)
	opt.Input = write(t, dir, "one.csv", "Slug,SKU,Title,Image\ncup,CU-1,Cup,\n")
	opt.Target = Target(opt.Input)
	none := run(t, opt)
	assert.Equal(t, &Prepared{Folder: "upload"}, none.Prepared)
	assert.NoDirExists(t, filepath.Join(none.Folder, "upload"))

	opt.Book = bookIn(t, dir, strings.Replace(book, "{slug}", "{colour}", 1), nil)
	opt.Input = write(t, dir, "same.csv", "SKU,Title,Colour,Image\nCH-1,Chair,red,\nCH-2,Table,Red,\n")
	opt.Target, opt.Temp = Target(opt.Input), t.TempDir()
	_, err = Run(context.Background(), opt)
	assert.ErrorContains(t, err, "both CH-1.jpg and ch-2.tif would be called red-01.jpg")
	assert.NoDirExists(t, opt.Target)
}

// TestKeepExisting: what the shop has of a product comes first, as it is there, and only other pictures are added, however often the file is
// sent.
func TestKeepExisting(t *testing.T) {
	const shop, sup = "https://cdn.halvora.example/", "https://img.brackenfield.example/"
	export := "Handle,SKU,Title,Image,Alt text\nchair,CH-1,Chair," + shop + "chair-1.jpg?v=12,From the front\nchair,,," + shop + "own.jpg,\nchair,CH-2,," + shop + "blue.jpg,\n" +
		"lamp,LA-1,Lamp," + shop + "lamp.jpg,\ncup,CU-1,Cup,,\nset,SE-1,Set," + shop + "1.jpg,\nset,,," + shop + "b/1.jpg,\n"
	const head = "Slug,SKU,Title,Image,Alt text\n"
	source := head + "chair,CH-1,Chair," + sup + "p/CHAIR-1.jpg,Chair\nchair,,," + sup + "p/side.jpg,From the side\nchair,,," + shop + "own.jpg,\nchair,CH-2,,,\n" +
		"lamp,LA-1,Lamp," + shop + "lamp.jpg,Our text\nlamp,,," + sup + "lamp-2.jpg,\ncup,CU-1,Cup," + sup + "cup.jpg,\nset,SE-1,Set," + sup + "1.jpg,\nnew,NE-1,New," + sup + "new.jpg,\n"
	for _, tt := range []struct{ name, as, want string }{
		{"rows", "as = \"rows\"\n", head + "chair,CH-1,Chair," + shop + "chair-1.jpg?v=12,From the front\nchair,,," + shop + "own.jpg,\nchair,,," + sup + "p/side.jpg,From the side\nchair,CH-2,," + shop + "blue.jpg,\n" +
			"lamp,LA-1,Lamp," + shop + "lamp.jpg,Our text\nlamp,,," + sup + "lamp-2.jpg,\ncup,CU-1,Cup," + sup + "cup.jpg,\nset,SE-1,Set," + shop + "1.jpg,\nset,,," + shop + "b/1.jpg,\nset,,," + sup + "1.jpg,\nnew,NE-1,New," + sup + "new.jpg,\n"},
		{"cell", "as = \"cell\"\nat = \"|\"\n", head + "chair,CH-1,Chair," + shop + "chair-1.jpg?v=12|" + shop + "own.jpg|" + sup + "p/side.jpg,From the front||From the side\nchair,CH-2,," + shop + "blue.jpg,\n" +
			"lamp,LA-1,Lamp," + shop + "lamp.jpg|" + sup + "lamp-2.jpg,Our text\ncup,CU-1,Cup," + sup + "cup.jpg,\nset,SE-1,Set," + shop + "1.jpg|" + shop + "b/1.jpg|" + sup + "1.jpg,\nnew,NE-1,New," + sup + "new.jpg,\n"},
	} {
		dir := t.TempDir()
		write(t, dir, "shop.csv", export)
		opt := fixed(write(t, dir, "list.csv", source), filepath.Join(dir, "out"))
		book := "[images]\nkeep_existing = true\n" + tt.as + "[shop]\nexport = \"shop.csv\"\n"
		opt.Book = bookIn(t, dir, book, nil)
		r := run(t, opt)
		assert.Equal(t, plainRows(t, tt.want), plainRows(t, ready(t, r)), tt.name)
		c := r.Counts()
		assert.Equal(t, c.Read, c.Ready+c.Held+c.Aside)
		opt.PartSize, opt.Workers, opt.Target = 1, 1, opt.Target+".cut"
		assert.Equal(t, ready(t, r), ready(t, run(t, opt)))
		again := fixed(write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again"))
		again.Book = opt.Book
		assert.Equal(t, ready(t, r), ready(t, run(t, again)), tt.name)
	}
	dir := t.TempDir()
	write(t, dir, "shop.csv", "SKU,Title\nA,x\n")
	opt := fixed(write(t, dir, "list.csv", source), filepath.Join(dir, "out"))
	opt.Book, opt.Temp = bookIn(t, dir, "[images]\nas = \"rows\"\nkeep_existing = true\n[shop]\nexport = \"shop.csv\"\n", nil), t.TempDir()
	_, err := Run(context.Background(), opt)
	assert.ErrorContains(t, err, "keep_existing goes by the images that the shop has")
}

// TestImageColumns: columns with numbers have further images; where one is emptied, the others move up.
func TestImageColumns(t *testing.T) {
	const p = "https://cdn.shop.example/"
	for _, tt := range []struct{ name, source, book, want string }{
		{"twice", "SKU,Title,Image 1,Image 2,Photo URL 3\nA,x," + p + "a.jpg," + p + "a.jpg,//cdn.shop.example/c.jpg\nB,y,," + p + "b.jpg,\n", "repair = true\n",
			"SKU,Title,Image 1,Image 2,Photo URL 3\nA,x," + p + "a.jpg," + p + "c.jpg,\nB,y,," + p + "b.jpg,\n"},
		{"with texts of their own", "SKU,Title,Image,Image 1 alt text,Image 2,Image 2 alt text,Image 3\nA,x," + p + "a.jpg,one," + p + "a.jpg,two," + p + "c.jpg\n", "repair = true\n",
			"SKU,Title,Image,Image 1 alt text,Image 2,Image 2 alt text,Image 3\nA,x," + p + "a.jpg,one,,two," + p + "c.jpg\n"},
		{"texts go with them", "SKU,Title,Slug,Image 1,Image 1 alt text,Image 2,Image 2 alt text\nA,x,x," + p + "a.jpg,\"one, red\"," + p + "b.jpg,two\n", "as = \"rows\"\n",
			"SKU,Title,Slug,Image 1,Image 1 alt text,Image 2,Image 2 alt text\nA,x,x," + p + "a.jpg,\"one, red\",,\n,,x," + p + "b.jpg,two,,\n"},
		{"and into the cell", "SKU,Title,Image 1,Image 1 alt text,Image 2,Image 2 alt text\nA,x," + p + "a.jpg,one," + p + "b.jpg,two\n", "as = \"cell\"\nat = \"|\"\n",
			"SKU,Title,Image 1,Image 1 alt text,Image 2,Image 2 alt text\nA,x," + p + "a.jpg|" + p + "b.jpg,one|two,,\n"},
		{"into one cell", "SKU,Title,Image,Additional image link\nA,x," + p + "a.jpg," + p + "b.jpg\n", "as = \"cell\"\nat = \"|\"\n",
			"SKU,Title,Image,Additional image link\nA,x," + p + "a.jpg|" + p + "b.jpg,\n"},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", tt.source), filepath.Join(dir, "out"))
		opt.Book = bookIn(t, dir, "[images]\n"+tt.book, nil)
		r := run(t, opt)
		assert.Equal(t, plainRows(t, tt.want), plainRows(t, ready(t, r)), tt.name)
		again := fixed(write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again"))
		again.Book = opt.Book
		assert.Equal(t, ready(t, r), ready(t, run(t, again)), tt.name)
	}
}

// TestLeaveOutEmpty: a column of images in which nothing is does not go out, nor what only says something of it.
func TestLeaveOutEmpty(t *testing.T) {
	for _, tt := range []struct{ name, source, book, want string }{
		{"none", "SKU,Title,Image,Image order,Alt text,Price\nA,x,,1,,2\nB,y, ,1,,2\n", "", "SKU,Title,Price\nA,x,2\nB,y,2\n"},
		{"none, and more columns", "SKU,Title,Image\nA,x,\n", "as = \"columns\"\ncolumns = [\"Image 2\"]\nalt = \"{title}\"\n", "SKU,Title\nA,x\n"},
		{"one of two", "SKU,Title,Image 1,Image 1 alt text,Image 2,Image 2 alt text\nA,x,https://cdn.shop.example/a.jpg,a,,\n", "",
			"SKU,Title,Image 1,Image 1 alt text\nA,x,https://cdn.shop.example/a.jpg,a\n"},
		{"may be put there", "SKU,Title,Image,Image 2\nA,x,\"https://cdn.shop.example/a.jpg,https://cdn.shop.example/b.jpg\",\n",
			"as = \"columns\"\ncolumns = [\"Image 2\"]\n", "SKU,Title,Image,Image 2\nA,x,\"https://cdn.shop.example/a.jpg\",https://cdn.shop.example/b.jpg\n"},
		{"filled by a rule", "SKU,Title,Image\nA,x,\n", "[[columns.fill]]\ninto = \"Image\"\nwith = \"https://cdn.shop.example/a.jpg\"\n", "SKU,Title,Image\nA,x,https://cdn.shop.example/a.jpg\n"},
		{"made of names", "SKU,Title,Image\nA,x,\n", "build = \"{sku}.jpg\"\n", "SKU,Title,Image\nA,x,A.jpg\n"},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", tt.source), filepath.Join(dir, "out"))
		opt.Book = bookIn(t, dir, "[images]\nleave_out_empty = true\n"+tt.book, nil)
		r := run(t, opt)
		assert.Equal(t, tt.want, ready(t, r), tt.name)
		again := fixed(write(t, dir, "again.csv", ready(t, r)), filepath.Join(dir, "again"))
		again.Book = opt.Book
		assert.Equal(t, tt.want, ready(t, run(t, again)), tt.name)
	}
}

// TestImageLinksTwice: whatever the links and the rules, repairing what was repaired changes nothing, and cutting the file otherwise neither.
func TestImageLinksTwice(t *testing.T) {
	files := some(150)
	links := []string{"https://cdn.halvora.example/a.jpg", "http://CDN.halvora.example/a.jpg", "//cdn.halvora.example/b c.jpg", " http//cdn.halvora.example/d.jpg ",
		"HV-1.JPG", "fotos\\HV 2.jpg", "C:\\a.jpg", "see folder", "https://files.halvora.example/d/12/view", "https://cdn.halvora.example/a.jpg?utm_source=x",
		"https://cdn.halvora.example/w_1,h_2/e.jpg", "https://cdn.halvora.example/%2520f.jpg", "\"https://cdn.halvora.example/g.jpg\"", "", "", "a-red.jpg"}
	marks := []string{",", ", ", ";", "|", " ", "\n"}
	rules := []string{"repair = true\n", "https = true\n", "drop_tracking = true\n", "drop_fragments = true\n", "base_url = \"https://cdn.halvora.example/p/\"\n",
		"alt = \"{title}[ {colour}]\"\n", "of_variants = \"Shown\"\n", "number = true\n", "replace_hosts = { \"cdn.halvora.example\" = \"img.halvora.example\" }\n",
		"viewers = [[\"https://files.halvora.example/d/{id}/view\", \"https://files.halvora.example/get/{id}\"]]\n"}
	for seed := range files {
		r := rand.New(rand.NewPCG(uint64(seed), 21))
		var b strings.Builder
		b.WriteString("Slug,SKU,Title,Colour,Image,Alt text,Image 2,Image 2 alt text\n")
		cell := func() string {
			cell := links[r.IntN(len(links))]
			for range r.IntN(3) {
				cell += marks[r.IntN(len(marks))] + links[r.IntN(len(links))]
			}
			return `"` + strings.ReplaceAll(cell, `"`, `""`) + `"`
		}
		alt := func() string { return []string{"", "", "one", "\"one, two\"", "one|two|three"}[r.IntN(5)] }
		for p := range 1 + r.IntN(5) {
			fmt.Fprintf(&b, "p%d,S%d,Chair,red,%s,%s,%s,%s\n", p, p, cell(), alt(), cell(), alt())
			for n := range r.IntN(4) {
				if r.IntN(2) == 0 {
					fmt.Fprintf(&b, "p%d,S%d-%d,,blue,%s,%s,,\n", p, p, n, cell(), alt())
				} else {
					fmt.Fprintf(&b, "p%d,,,,%s,%s,,\n", p, cell(), alt())
				}
			}
		}
		book := "[images]\n" + []string{"", "as = \"rows\"\n", "as = \"cell\"\nat = \"|\"\n", "as = \"columns\"\ncolumns = [\"Image 2\"]\n"}[r.IntN(4)]
		for _, rule := range rules {
			if r.IntN(2) == 0 && !(strings.HasPrefix(rule, "number") && strings.Contains(book, "as = \"c")) {
				book += rule
			}
		}
		if strings.Contains(book, "of_variants") {
			book += []string{"", "variant_image = \"option\"\n", "variant_image = \"none\"\n"}[r.IntN(3)]
		}
		dir := t.TempDir()
		path := write(t, dir, "list.csv", b.String())
		if strings.Contains(book, "as =") && r.IntN(2) == 0 {
			book += "keep_existing = true\n[shop]\nexport = \"shop.csv\"\n"
			shop := "Slug,SKU,Title,Image,Alt text\n"
			for p := range 4 {
				shop += fmt.Sprintf("p%d,S%d,Chair,%s,%s\np%d,S%d-%d,,%s,\np%d,,,%s,%s\n", p, p, cell(), alt(), p, p, r.IntN(3), cell(), p, cell(), alt())
			}
			write(t, dir, "shop.csv", shop)
		}
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, book, nil)
		first := run(t, opt)
		c := first.Counts()
		require.Equal(t, c.Read, c.Ready+c.Held+c.Aside, "seed %d", seed)
		text := ready(t, first)

		opt.PartSize, opt.Workers, opt.Target = 1, 1, path+".cut"
		require.Equal(t, text, ready(t, run(t, opt)), "seed %d, cut\n%s%s", seed, book, b.String())

		next := fixed(write(t, t.TempDir(), "list.csv", text), t.TempDir()+"/out")
		next.Book = opt.Book
		require.Equal(t, text, ready(t, run(t, next)), "seed %d, again\n%s%s", seed, book, b.String())
	}
}

// TestToUpload: every address that has to be there before the import is listed once, with the products that need it.
func TestToUpload(t *testing.T) {
	dir := t.TempDir()
	source := "SKU,Title,Image,Description,Manual\nA,x,\"https://cdn.shop.example/a.jpg, https://cdn.shop.example/b.jpg\",\"<p><a href=\"\"https://www.shop.example/care\"\">Care</a></p>\",https://cdn.shop.example/m.pdf\n" +
		"B,y,https://cdn.shop.example/b.jpg,<p>y</p>,https://cdn.shop.example/m.pdf\nC,z,see folder,<p>z</p>,\n"
	path := write(t, dir, "list.csv", source)
	for _, workers := range []int{1, 4} {
		opt := fixed(path, Target(path)+fmt.Sprint(workers))
		opt.Workers, opt.PartSize = workers, 1
		opt.Book = bookIn(t, dir, "[images]\nto_upload = true\n[field.Manual]\ntype = \"link\"\n", nil)
		assert.Equal(t, "Address,What,Products,Which\nhttps://cdn.shop.example/a.jpg,picture,1,A\nhttps://cdn.shop.example/b.jpg,picture,2,\"A, B\"\n"+
			"https://cdn.shop.example/m.pdf,Manual,2,\"A, B\"\nhttps://www.shop.example/care,link in a description,1,A\n", contents(t, run(t, opt).Folder)["to-upload.csv"])
	}
}

// openedLinks writes a folder with what links have led to: one is good, one dead, one has moved, and one has not answered.
func openedLinks(t *testing.T, dir string, more ...linkcheck.Result) string {
	t.Helper()
	target := filepath.Join(dir, "opened.links")
	job, err := folder.Begin(target)
	require.NoError(t, err)
	var b strings.Builder
	for _, r := range append(more, []linkcheck.Result{
		{Link: "https://cdn.shop.example/good.jpg", State: linkcheck.Good, Info: picture.Info{Type: picture.JPEG, Width: 300, Height: 200}, Size: 5000},
		{Link: "https://cdn.shop.example/dead.jpg", State: linkcheck.Dead, Reason: linkcheck.NotFound, Says: "No such picture"},
		{Link: "https://cdn.shop.example/moved.jpg", State: linkcheck.Good, Final: "https://img.shop.example/a.jpg", Redirects: 1, Permanent: true},
		{Link: "https://cdn.shop.example/silent.jpg", State: linkcheck.Silent, Reason: linkcheck.NoAnswer},
	}...) {
		line, err := json.Marshal(r)
		require.NoError(t, err)
		b.Write(append(line, '\n'))
	}
	write(t, job.Dir(), ResultsName, b.String())
	_, err = job.Commit(linkManifest{})
	require.NoError(t, err)
	return target
}

// TestSamePicture: what products of many kinds share is named, under whatever links, and so is a picture with nothing on it.
func TestSamePicture(t *testing.T) {
	dir := t.TempDir()
	var results []linkcheck.Result
	source := "SKU,Title,Image\n"
	for n, title := range []string{"Hat", "Cup", "Veil", "Smoker", "Glove", "Jar", "Knife", "Brush", "Frame"} {
		link := fmt.Sprintf("https://cdn.shop.example/p%d.jpg", n)
		results = append(results, linkcheck.Result{Link: link, State: linkcheck.Good, Sum: "xxh64:1", Info: picture.Info{Type: picture.JPEG, Width: 300, Height: 200}})
		source += fmt.Sprintf("A%d,%s,%s\n", n, title, link)
	}
	results = append(results, linkcheck.Result{Link: "https://cdn.shop.example/grey.jpg", State: linkcheck.Good, Sum: "xxh64:2", OneHue: true, Info: picture.Info{Type: picture.JPEG, Width: 300, Height: 200}})
	opt := fixed(write(t, dir, "list.csv", source+"B,Box,https://cdn.shop.example/grey.jpg\nC,Bag,https://cdn.shop.example/other.jpg\n"), filepath.Join(dir, "out"))
	opt.Book, opt.Links = bookIn(t, dir, "", nil), openedLinks(t, dir, results...)
	found := func(r *Result) (n int) {
		for _, f := range r.Report.Found {
			if f.Code == catalogue.ImageStandIn {
				n = f.Cells
			}
		}
		return n
	}
	assert.Equal(t, 10, found(run(t, opt)))
	opt.Links, opt.Target = "", opt.Target+".2"
	assert.Equal(t, 0, found(run(t, opt)))
}

// TestOpenedLinks: what links have led to holds products, or the links are taken out, with their texts, and images are numbered anew.
func TestOpenedLinks(t *testing.T) {
	const cdn = "https://cdn.shop.example/"
	source := strings.ReplaceAll("Slug,SKU,Title,Image,Alt text,Image order\na,A,x,\"@good.jpg, @dead.jpg, @moved.jpg\",\"one, two, three\",\nb,B,y,@dead.jpg,,\nb,,,@good.jpg,,\n"+
		"c,C,z,@good.jpg,,1\nc,,,@dead.jpg,,2\nc,,,@silent.jpg,,3\n", "@", cdn)
	for _, test := range []struct {
		name             string
		hold, drop, move bool
		book, want       string
		held             int
	}{
		{"only named", false, false, false, "", source, 0},
		{"held", true, false, false, "", "Slug,SKU,Title,Image,Alt text,Image order\n", 6},
		{"taken out, and written where they have moved", false, true, true, "[images]\nnumber = true\n", strings.ReplaceAll("Slug,SKU,Title,Image,Alt text,Image order\n"+
			"a,A,x,\"@good.jpg, https://img.shop.example/a.jpg\",\"one, three\",1\nc,C,z,@good.jpg,,1\nc,,,@silent.jpg,,2\n", "@", cdn), 2},
		{"too small", false, false, false, "[images]\nshortest_side = 201\n", "Slug,SKU,Title,Image,Alt text,Image order\n", 6},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", source)
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, test.book, nil)
		opt.Links, opt.LinksHold, opt.LinksDrop, opt.LinksMove = openedLinks(t, dir), test.hold, test.drop, test.move
		r := run(t, opt)
		assert.Equal(t, plainRows(t, test.want), plainRows(t, ready(t, r)), test.name)
		assert.Equal(t, test.held, r.Counts().Held, test.name)
		assert.Contains(t, contents(t, r.Folder)["run.json"], `"links": {`, "the sum of the results is an input of the run")

		write(t, opt.Links, ResultsName, "{}\n")
		opt.Temp = t.TempDir()
		_, err := Run(context.Background(), opt)
		assert.ErrorContains(t, err, "changed since it was written")
		opt.Links = dir
		_, err = Run(context.Background(), opt)
		assert.ErrorIs(t, err, ErrLinks)
	}
}
