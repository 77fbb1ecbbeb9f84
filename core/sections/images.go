package sections

import (
	"cmp"
	"fmt"
	"net/url"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/imagelink"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/pattern"
	"zetanum/core/photos"
	"zetanum/core/products"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// imagesSection says where the images of products stand.
type imagesSection struct {
	plain
	rules  *products.ImageRules
	folder *photos.Folder   // nil if none is named
	field  *lists.FieldRule // what the section says as that of a field; nil if it is not read
}

func (*imagesSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "images", Line: "[images]", Also: fieldKeys(),
			Says: "In which rows and cells the images of a product go out. Rows that are made or put into others are counted: " +
				"written = ready + added − joined.",
			Keys: []rulebook.Key{
				{
					Name: "as",
					Says: "rows gives each image behind the first of a row a row of its own, with the text that belongs to it; cell puts " +
						"the images of image rows into the lead row, in their order; columns puts them there one into each of columns. " +
						"An image row that says something else, too, stays.",
					Example: `as = "rows"`,
				},
				{
					Name: "columns",
					Says: "Columns of further images, besides that of the first: those that columns fills, or from which rows and cell " +
						"take them. Images for which there is no column stand with the last.",
					Example: `as      = "columns"
columns = ["Image 2", "Image 3"]`,
				},
				{
					Name: "at",
					Says: "What stands between the images in one cell; a comma if nothing is said.",
					Example: `as = "cell"
at = "|"`,
				},
				{
					Name: "keep_existing",
					Says: "Puts the images that [shop] export has of a product first, as they are there; of those of the file only others are added. A " +
						"file of the same name at another host is no other. So a file may be sent again without doubling pictures. Links are " +
						"repaired as with repair.",
					Example: `as            = "rows"
keep_existing = true`,
				},
				{
					Name: "leave_out_empty",
					Says: "Leaves out columns of images in which no row has anything, and into which no rule puts any, with the columns of their texts " +
						"and numbers.",
					Example: `leave_out_empty = true`,
				},
				{
					Name: "of_variants",
					Says: "A column in which each variant of a product with several gets an image, where it has none: its own, or the " +
						"first of the product. If nothing is said, variants without an image stay without.",
					Example: `of_variants = "Variant image"`,
				},
				{
					Name: "variant_image",
					Says: `What a variant without an image of its own gets: "first", the first of the product, as when nothing is said; "option", that ` +
						`whose name or text has what its options say, such as chair-red.jpg, and none if there is no such; "none".`,
					Example: `of_variants   = "Variant image"
variant_image = "option"`,
				},
				{
					Name: "number",
					Says: "Numbers the images of each product from 1 on, in the column for their order, without gaps.",
					Example: `as     = "rows"
number = true`,
				},
				{
					Name:    "alt",
					Says:    "The text of an image where it has none, as a pattern. What belongs to the whole product is taken from its lead row.",
					Example: `alt = "{title}[, {colour}]"`,
				},
				{
					Name: "repair",
					Says: "Writes links as they should be, where that is certain: without spaces and marks around, with their scheme, encoded as an " +
						"address has to be; and takes those out that a row has twice, and rows that have nothing but an image which is there " +
						"already. The keys below do so, too.",
					Example: `repair = true`,
				},
				{
					Name:    "https",
					Says:    "Writes https for http.",
					Example: `https = true`,
				},
				{
					Name:    "drop_tracking",
					Says:    "Takes parameters off that only count visitors, utm_source and the like.",
					Example: `drop_tracking = true`,
				},
				{
					Name:    "drop_fragments",
					Says:    "Takes off what stands behind a #.",
					Example: `drop_fragments = true`,
				},
				{
					Name:    "drop_parameters",
					Says:    "Parameters that are taken off by their names, such as those of a size.",
					Example: `drop_parameters = ["w", "h"]`,
				},
				{
					Name:    "replace_hosts",
					Says:    "Hosts in place of others.",
					Example: `replace_hosts = { "old.shop.example" = "cdn.shop.example" }`,
				},
				{
					Name:    "base_url",
					Says:    "The address of the folder of which links are made where only the name of a file stands.",
					Example: `base_url = "https://cdn.shop.example/photos/"`,
				},
				{
					Name: "name_case",
					Says: `The case in which these names are written: "lower" or "upper"; as they are, if nothing is said.`,
					Example: `base_url  = "https://cdn.shop.example/photos/"
name_case = "lower"`,
				},
				{
					Name: "viewers",
					Says: "Addresses of pages that show a picture, and those of the pictures: a slot in braces stands for what is different in each. " +
						"Parameters behind the first are left out.",
					Example: `viewers = [["https://files.shop.example/d/{id}/view", "https://files.shop.example/get/{id}"]]`,
				},
				{
					Name: "folder",
					Says: "A folder of photos, of which products without an image get those that are called by their codes: HV-2041.jpg, HV-2041_2.jpg and " +
						"HV-2041 (3).jpg are three of HV-2041. Case, spaces and zeros at the beginning do not count where nothing fits better, " +
						"and a file that fits two products belongs to neither. What is left over, on both sides, is listed.",
					Example: `folder   = "photos/"
base_url = "https://cdn.shop.example/photos/"`,
				},
				{
					Name: "folder_by",
					Says: "The fields or headings by which files of folder or links_from are called, the surest first; sku, barcode, slug and mpn if nothing is said.",
					Example: `folder    = "photos/"
folder_by = ["sku", "Supplier code"]`,
				},
				{
					Name: "prepare",
					Says: "A folder within the one that a run writes, into which the photos of folder are copied that products get: upright, as JPEG or " +
						"PNG or as types says, and not larger than longest_side and largest_file want them. What is so already is copied byte for byte.",
					Example: `folder       = "photos/"
prepare      = "upload/"
longest_side = 2000`,
				},
				{
					Name: "prepare_as",
					Says: "The names of these copies, as a pattern; {number}, or {number 2} for 01, counts the photos of a product. Without it they " +
						"are called as the photos are, with hyphens for all that is not a letter or digit of ASCII.",
					Example: `folder     = "photos/"
prepare    = "upload/"
prepare_as = "{sku lower}-{number}"`,
				},
				{
					Name: "links_from",
					Says: "A file with addresses in any order, such as a host lists them when photos have been uploaded: each goes where the name of " +
						"its file stands, or, without a folder, to the product that is called so. What is left over, on both sides, is listed.",
					Example: `links_from = "addresses.txt"`,
				},
				{
					Name: "build",
					Says: "The names of the images of products that have none, as a pattern; {number}, or {number 2} for 01, is that of the image.",
					Example: `build    = "{sku lower}-{number}.jpg"
how_many = 3
base_url = "https://cdn.shop.example/photos/"`,
				},
				{
					Name: "how_many",
					Says: "How many names build makes for each product; one, if nothing is said.",
					Example: `build    = "{sku}_{number 2}.jpg"
how_many = 2`,
				},
				{
					Name:    "shortest_side",
					Says:    "How many pixels the shorter side of a picture has at least, where it has been opened. Products with smaller ones are held.",
					Example: `shortest_side = 500`,
				},
				{
					Name:    "longest_side",
					Says:    "How many pixels the longer side has at most, likewise. What prepare copies is made smaller.",
					Example: `longest_side = 2000`,
				},
				{
					Name:    "largest_file",
					Says:    "How large the file of a picture may be, in kB or MB. Products with larger ones are held.",
					Example: `largest_file = "5 MB"`,
				},
				{
					Name: "to_upload",
					Says: "Lists every address that has to be there before the import, once, in to-upload.csv, with the products that need it: of images, " +
						"of links and pictures in descriptions, and in fields of type link.",
					Example: `to_upload = true`,
				},
				{
					Name:    "types",
					Says:    "The types of pictures that the importer takes, by their endings. Products with others are held.",
					Example: `types = ["jpg", "png", "webp"]`,
				},
				{
					Name:    "most",
					Says:    "How many images a product has at most. One that has more is held.",
					Example: `most = 10`,
				},
				{
					Name:    "fewest",
					Says:    "How many it has at least. One that has fewer is held.",
					Example: `fewest = 1`,
				},
			},
		},
	}
}

func (s *imagesSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "images", Into: &struct {
		*products.ImageRules
		*lists.FieldRule
	}{s.rules, s.field}}}
}

func (i *imagesSection) Files() []*string { return []*string{&i.rules.Folder, &i.rules.LinksFrom} }

// Open reads what is in the folder of photos, and the list of addresses.
func (i *imagesSection) Open(s *Sheet) (err error) {
	if s.CodesOnly {
		return nil
	}
	wrong := func(key string, err error) error {
		return &ruleError{part: "images", key: key, error: columns.Refuse("[images] %s: %w", key, err)}
	}
	if i.rules.KeepExisting && (s.inShop == nil || s.inShop.images == nil) {
		return &ruleError{part: "images", key: "keep_existing", error: columns.Refuse("[images] keep_existing goes by the images that the shop has: name its " +
			"export, with images and SKUs or link names, with export under [shop]")}
	}
	if i.rules.KeepExisting {
		i.rules.Repair = true // or links would not be known by what they are
	}
	if i.rules.LinksFrom != "" {
		if i.rules.Addresses, err = imagelink.OpenAddresses(i.rules.LinksFrom); err != nil {
			return wrong("links_from", err)
		}
	}
	if i.rules.Folder != "" {
		if i.folder, err = photos.Open(i.rules.Folder); err != nil {
			return wrong("folder", err)
		}
		s.Closes(i.folder)
	}
	return nil
}

// The lists of what is left over when the files of a folder, or addresses of them, have been given to products.
const (
	WithoutPhotoName     = "products-without-photo.csv"
	UnusedPhotosName     = "photos-without-product.csv"
	SeveralPhotosName    = "photos-of-several.csv"
	UnusedAddressesName  = "addresses-without-product.csv"
	MissingAddressesName = "photos-without-address.csv"
)

// source returns where images of products come from that have none; nil if nothing says so.
func (i *imagesSection) source(s *Sheet) (*steps.ImageSource, error) {
	if i.folder == nil && i.rules.Build == "" && i.rules.Addresses == nil {
		return nil, nil
	}
	of := &steps.ImageSource{Rules: i.rules, Folder: i.folder, HowMany: max(1, i.rules.HowMany), Without: -1,
		Join: func(names []string) string {
			for n := range names {
				names[n] = i.address(names[n])
			}
			return strings.Join(names, cmp.Or(i.rules.At, ","))
		}}
	if of.Folder == nil && i.rules.Addresses != nil {
		of.Folder = photos.New(i.rules.Addresses.Names())
	}
	if of.Folder != nil {
		if err := i.photos(s, of); err != nil {
			return nil, err
		}
	}
	var err error
	if i.rules.Build != "" {
		if of.Pattern, of.Of, of.Numbers, err = i.namePattern(s, "build", i.rules.Build); err != nil {
			return nil, err
		}
		of.Variants = slices.ContainsFunc(of.Of, func(col int) bool { return s.Products.Level(col) == products.OfVariant })
	}
	if i.rules.Prepare != "" && i.folder != nil {
		of.Prepare = steps.NewPreparing(i.rules)
		s.Prepared = of.Prepare
		if s.Into != "" {
			of.Prepare.Dir = filepath.Join(s.Into, i.rules.Prepare)
		} else {
			s.Note("no photos are copied: only a run that writes a folder does that")
		}
		if i.rules.PrepareAs != "" {
			if of.Prepare.Pattern, of.Named, of.Prepare.Numbers, err = i.namePattern(s, "prepare_as", i.rules.PrepareAs); err != nil {
				return nil, err
			}
		}
	}
	return of, nil
}

// photos says by what the files of a folder are called, and lists what is left over.
func (i *imagesSection) photos(s *Sheet, of *steps.ImageSource) error {
	by := i.rules.FolderBy
	if by == nil {
		by = slices.DeleteFunc(slices.Clone(products.UsualFolderBy), func(name string) bool { return len(s.Find(name)) == 0 })
	}
	for _, name := range by {
		cols, err := s.Need("[images] folder_by", name)
		if err != nil {
			return err
		}
		for _, col := range cols {
			of.By = append(of.By, col)
			of.Unique = append(of.Unique, col == s.Columns.First(catalogue.SKU) || col == s.Columns.First(catalogue.Barcode))
		}
	}
	of.Without = s.List(line.List{Name: WithoutPhotoName, Known: steps.KnownBy(&s.Columns), Headings: s.knownBy()})
	s.List(line.List{Name: SeveralPhotosName, Headings: []string{"File", "One", "Another"}, Rest: func(enter func(...string)) error {
		_, several := of.Unused()
		for _, file := range several {
			enter(file[0], file[1], file[2])
		}
		if of.Prepare == nil {
			return nil
		}
		if err := of.Prepare.Clash(); err != nil {
			return &ruleError{part: "images", key: "prepare", error: err}
		}
		return nil
	}})
	if i.folder == nil {
		return nil
	}
	s.List(line.List{Name: UnusedPhotosName, Headings: []string{"File"}, Rest: func(enter func(...string)) error {
		none, _ := of.Unused()
		for _, name := range none {
			enter(name)
		}
		return nil
	}})
	return nil
}

// address returns the address of a file, its name if there is none.
func (i *imagesSection) address(name string) string {
	address := i.rules.Address(name)
	if base := path.Base(name); address == name && base != name && i.rules.Addresses != nil && i.folder != nil && i.folder.Once(base) {
		if address = i.rules.Address(base); address == base {
			return name
		}
	}
	return address
}

// addresses lists addresses that no product has, and returns the list of names of files that have none.
func (i *imagesSection) addresses(s *Sheet) (missing int) {
	if i.rules.Addresses == nil {
		return -1
	}
	s.List(line.List{Name: UnusedAddressesName, Headings: []string{"Address", "Why"}, Rest: func(enter func(...string)) error {
		i.rules.Addresses.Unused(func(address string, several bool) {
			why := "no product has a photo of this name"
			if several {
				why = "another address has the same name"
			}
			enter(address, why)
		})
		return nil
	}})
	return s.List(line.List{Name: MissingAddressesName, Known: steps.KnownBy(&s.Columns), Headings: append(s.knownBy(), "File")})
}

// namePattern reads the pattern of names of files.
func (i *imagesSection) namePattern(s *Sheet, key, text string) (p *pattern.Pattern, cols []int, n pattern.Numbers, err error) {
	name := catalogue.Images.String()
	into, err := s.NeedOne("[images] "+key, name)
	if err != nil || into < 0 {
		return nil, nil, n, err
	}
	text, n = pattern.CutNumbers(text)
	p, cols, gone, err := s.pattern("[images]", key, text, name, into)
	if err != nil || gone {
		return nil, nil, n, err
	}
	return p, cols, n, nil
}

func (s *imagesSection) Check() []rulebook.Problem { return rulebook.In("images", 0, s.rules.Check()) }

// Adds returns the columns that are filled.
func (i *imagesSection) Adds(*Sheet) (names []string, err error) {
	if i.rules.OfVariants != "" {
		names = append(names, i.rules.OfVariants)
	}
	if i.rules.As == "columns" {
		names = append(names, i.rules.Columns...)
	}
	if i.rules.Folder != "" || i.rules.Build != "" || i.rules.LinksFrom != "" {
		names = append(names, catalogue.Images.String())
	}
	if i.rules.Number {
		names = append(names, catalogue.ImageOrder.String())
	}
	if i.rules.Alt != "" {
		names = append(names, catalogue.ImageAlt.String())
	}
	return names, nil
}

// Order says which columns have images.
func (i *imagesSection) Order(s *Sheet) error {
	for _, name := range i.rules.Columns {
		s.Products.Put(products.OfImage, s.Find(name))
	}
	if i.rules.OfVariants != "" {
		for _, col := range s.Find(i.rules.OfVariants) {
			s.settled[col] = true // links are no values that are spelt
		}
	}
	return nil
}

func (i *imagesSection) Steps(s *Sheet) error {
	if s.CodesOnly {
		return nil
	}
	i.learnEmpty(s)
	if step, ok := steps.Pasted(&s.Sheet); ok {
		s.Add(StageSanity, step)
	}
	alt, of, err := i.alt(s)
	if err != nil {
		return err
	}
	var kept func(sku, slug string) []products.Image
	if i.rules.KeepExisting {
		kept = s.inShop.imagesOf
	}
	images, err := steps.Images(&s.Sheet, i.rules, alt, of, s.Opened, kept)
	if err != nil {
		return err
	}
	// Images that others have written go the same way.
	written := s.picturesMoved || slices.ContainsFunc(s.Columns.All(catalogue.Images), func(col int) bool { return s.Orders.WrittenBy(col) != "" })
	source, err := i.source(s)
	if err != nil {
		return err
	}
	s.Add(StageImages, slices.Concat(images.Links, images.Places, images.Kept)...)
	if source != nil {
		written = true
		s.Add(StageImagesAgain, steps.ImageFiles(&s.Sheet, source))
	}
	if written {
		s.Add(StageImagesAgain, images.Links...)
		if i.rules.As == "rows" && len(images.Places) > 0 {
			s.Add(StageImagesAgain, images.Places[0])
		}
	}
	if i.rules.As == "rows" || i.rules.KeepExisting {
		s.Add(StageImagesAgain, images.Links...) // rows that have been made, or images that were put in, may be what the product has already
	}
	s.Add(StageImagesAgain, images.Opened...)
	s.Add(StageImagesAgain, images.Again...)
	s.Add(StageNumbers, images.Numbers...)
	if written || alt != nil {
		s.Add(StageNumbers, images.Variants...) // which are found by what has been written
	} else {
		s.Add(StageImages, images.Variants...)
	}
	of = nil
	for _, name := range i.rules.Columns {
		of = append(of, s.Find(name)...)
	}
	var need func(string, string, *catalogue.Row)
	var links []int
	if i.rules.ToUpload {
		s.needed = s.listNeeded()
		need = s.needed.add
		for col := range s.Columns.Headings {
			if s.Columns.Kind(col) == catalogue.LinkKind && s.Columns.Fields[col] != catalogue.Images {
				links = append(links, col)
			}
		}
	}
	if look, ok := steps.LookAtPictures(&s.Sheet, &steps.Pictures{Opened: s.Opened, Missing: i.addresses(s), Need: need, Links: links, Rules: i.rules, Further: of, Folder: i.folder != nil, Fills: written && i.folder == nil, Written: !i.rules.Idle()}); ok {
		s.Add(StageSanity, look)
	}
	return nil
}

// alt returns the pattern of the texts of images, and the columns of which they are made; nil if there is none.
func (i *imagesSection) alt(s *Sheet) (p *pattern.Pattern, cols []int, err error) {
	if i.rules.Alt == "" {
		return nil, nil, nil
	}
	name := catalogue.ImageAlt.String()
	into, err := s.NeedOne("[images] alt", name)
	if err != nil || into < 0 {
		return nil, nil, err
	}
	p, cols, gone, err := s.pattern("[images]", "alt", i.rules.Alt, name, into)
	if err != nil || gone {
		return nil, nil, err
	}
	return p, cols, nil
}

// Begin proposes what links of images need.
func (*imagesSection) Begin(s *Seen, b *Draft) {
	untidy, names := s.cells(catalogue.ImageUntidy)+s.cells(catalogue.ImageTwice), s.cells(catalogue.ImageFileName)
	images, texts := 0, -1 // how many cells are filled
	for _, c := range s.Columns {
		switch c.Field {
		case catalogue.Images:
			images = max(images, c.Filled)
		case catalogue.ImageAlt:
			texts = max(texts, c.Filled)
		}
	}
	lacking := texts >= 0 && 2*texts < images
	if untidy == 0 && names == 0 && !lacking {
		return
	}
	b.line("\n# [images]")
	if untidy > 0 {
		b.line("# %-28s # %s that importers may refuse, or that stand there twice", "repair   = true", plural(untidy, "link"))
	}
	if names > 0 {
		b.line("# %-28s # before %s", `base_url = "https://…/"`, plural(names, "name")+" of files")
	}
	if lacking {
		b.line("# %-28s # %s without a text", `alt      = "{title}"`, plural(images-texts, "image"))
	}
}

// Ask asks for what would put links to images in order.
func (*imagesSection) Ask(s *Seen) (list []Question) {
	if n := s.cells(catalogue.ImageUntidy) + s.cells(catalogue.ImageTwice); n > 0 {
		list = append(list, yesNo("image.untidy", n, fmt.Sprintf("%s written so that importers may refuse them, or there twice.", are(n, "link to an image")), "Put them in order?",
			set("images", "repair", "true")).on(catalogue.ImageUntidy, s.first(catalogue.Images)))
	}
	if n := s.cells(catalogue.ImageFileName); n > 0 {
		list = append(list, Question{Name: "images.base_url", Rows: n, Says: fmt.Sprintf("%s only the name of a file, without an address.", verb(n, "image", "is", "are")), Asks: "Where do the files lie on the web?", Keys: []rulebook.Order{set("images", "base_url", "")},
			Finding: catalogue.ImageFileName, Column: s.first(catalogue.Images),
			Ways: []Way{{Says: "at the address", Type: "the address that comes before the names, such as https://pictures.example/", With: func(typed string) ([]rulebook.Order, error) {
				if u, err := url.Parse(typed); err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" {
					return nil, fmt.Errorf("%q is no address that begins with https:// or http://", typed)
				}
				return []rulebook.Order{set("images", "base_url", quoted(typed))}, nil
			}}}})
	}
	if images, texts := s.filled(catalogue.Images), s.filled(catalogue.ImageAlt); texts >= 0 && 2*texts < images && s.has(catalogue.Title) {
		list = append(list, yesNo("images.alt", images-texts, fmt.Sprintf("%s no text that says what is on them.", verb(images-texts, "image", "has", "have")), "Write the title there?", set("images", "alt", `"{title}"`)))
	}
	return list
}
