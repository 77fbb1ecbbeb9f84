package products

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/text"
)

// ImageRules say in which rows and cells the images of a product go out: [images].
type ImageRules struct {
	// As is "rows", for an image in each row, "cell", for all of a product in its lead
	// row, or "columns", for one in each of Columns there.
	As string `toml:"as" json:"as,omitempty"`
	// Columns name columns of further images, besides the first: those that are filled,
	// or from which images are taken.
	Columns []string `toml:"columns" json:"columns,omitempty"`
	// At stands between the images in one cell that is written; a comma if nothing is
	// said.
	At string `toml:"at" json:"at,omitempty"`
	// KeepExisting puts the images that the shop has of a product before those of the file, of which only others are added.
	KeepExisting bool `toml:"keep_existing" json:"keep_existing,omitempty"`
	// LeaveOutEmpty leaves out columns of images in which nothing is, and those of their texts and numbers.
	LeaveOutEmpty bool `toml:"leave_out_empty" json:"leave_out_empty,omitempty"`
	// Number numbers the images of each product from 1 on.
	Number bool `toml:"number" json:"number,omitempty"`
	// OfVariants names a column in which each variant of several gets an image: its own, or what VariantImage says: "first", that of
	// the product, as when nothing is said; "option", that whose name or text has the value of an option; or "none".
	OfVariants   string `toml:"of_variants" json:"of_variants,omitempty"`
	VariantImage string `toml:"variant_image" json:"variant_image,omitempty"`
	// Alt is the pattern by which the text of an image is made, where it has none.
	Alt string `toml:"alt" json:"alt,omitempty"`
	// Types are the endings of pictures that are taken; Most and Fewest is how many a product may have.
	Types  []string `toml:"types" json:"types,omitempty"`
	Most   int      `toml:"most" json:"most,omitempty"`
	Fewest int      `toml:"fewest" json:"fewest,omitempty"`

	// ShortestSide is how many pixels the shorter side of a picture has at least, LongestSide how many the longer one has at most, and
	// LargestFile how large its file may be, such as "5 MB".
	ShortestSide int    `toml:"shortest_side" json:"shortest_side,omitempty"`
	LongestSide  int    `toml:"longest_side" json:"longest_side,omitempty"`
	LargestFile  string `toml:"largest_file" json:"largest_file,omitempty"`
	// ToUpload lists every address that has to be there before the import.
	ToUpload bool `toml:"to_upload" json:"to_upload,omitempty"`
	// Folder is a folder of photos, whose files are called by what FolderBy names: fields or headings, the surest first.
	Folder   string   `toml:"folder" json:"folder,omitempty"`
	FolderBy []string `toml:"folder_by" json:"folder_by,omitempty"`
	// Prepare is a folder of copies of these photos, as the limits want them, and PrepareAs the pattern of their names.
	Prepare   string `toml:"prepare" json:"prepare,omitempty"`
	PrepareAs string `toml:"prepare_as" json:"prepare_as,omitempty"`
	// LinksFrom is a file with the addresses of pictures that are on the web.
	LinksFrom string `toml:"links_from" json:"links_from,omitempty"`
	// Build is the pattern of the names of images, HowMany for each product.
	Build   string `toml:"build" json:"build,omitempty"`
	HowMany int    `toml:"how_many" json:"how_many,omitempty"`

	imagelink.Rules // how links are written
}

// isFolderName reports whether a text is the name of a folder, and leads nowhere else.
func isFolderName(s string) bool {
	s = strings.TrimSuffix(s, "/")
	return s != "" && s[0] != '.' && !strings.ContainsAny(s, `/\:*?"<>|`) && strings.TrimSpace(s) == s
}

// UsualFolderBy is what the files of a folder are called by if nothing is said.
var UsualFolderBy = []string{catalogue.SKU.String(), catalogue.Barcode.String(), catalogue.Slug.String(), catalogue.MPN.String()}

// LargestBytes returns how many bytes the file of a picture may have, 0 if nothing is said.
func (r *ImageRules) LargestBytes() int64 {
	n, _ := parseBytes(r.LargestFile)
	return n
}

// parseBytes reads a size such as 5 MB or 300 kB.
func parseBytes(s string) (n int64, ok bool) {
	number, unit, _ := strings.Cut(strings.ToLower(strings.TrimSpace(s)), " ")
	times, known := map[string]float64{"kb": 1e3, "mb": 1e6}[strings.TrimSpace(unit)]
	f, err := strconv.ParseFloat(number, 64)
	if !known || err != nil || !(f > 0) || f > 1e6 {
		return 0, false
	}
	return int64(f * times), true
}

// Bytes writes a size for people.
func Bytes(n int64) string {
	if n < 1e6 {
		return fmt.Sprintf("%d kB", (n+999)/1000)
	}
	return strconv.FormatFloat(float64(n)/1e6, 'f', 1, 64) + " MB"
}

// Check returns what is wrong with the rules whatever the sheet.
func (r *ImageRules) Check() (problems []catalogue.Problem) {
	switch {
	case r.As != "" && r.As != "rows" && r.As != "cell" && r.As != "columns":
		problems = append(problems, catalogue.Problem{Key: "as", Text: "is rows, cell or columns"})
	case (r.As == "columns") && len(r.Columns) == 0:
		problems = append(problems, catalogue.Problem{Key: "columns",
			Text: `names the columns of further images, for example columns = ["Image 2", "Image 3"]`})
	case r.As == "" && len(r.Columns) > 0:
		problems = append(problems, catalogue.Problem{Key: "as", Text: `says where the images of the columns go: rows, cell or columns`})
	case r.At != "" && r.As != "cell":
		problems = append(problems, catalogue.Problem{Key: "at",
			Text: `goes with as = "cell"; what stands between images that are read is seen from them`})
	case r.Number && r.As != "rows" && r.As != "":
		problems = append(problems, catalogue.Problem{Key: "number", Text: `images in one row are in their order; number goes with rows`})
	case r.KeepExisting && r.As == "":
		problems = append(problems, catalogue.Problem{Key: "keep_existing", Text: `puts images before others, and as says where they stand: rows, cell or columns`})
	case r.VariantImage != "" && !slices.Contains([]string{FirstImage, OptionImage, NoImage}, r.VariantImage):
		problems = append(problems, catalogue.Problem{Key: "variant_image", Text: "is first, option or none"})
	case r.VariantImage != "" && r.OfVariants == "":
		problems = append(problems, catalogue.Problem{Key: "variant_image", Text: "says what goes into the column that of_variants names"})
	case r.Most < 0 || r.Fewest < 0 || r.Most > 0 && r.Fewest > r.Most:
		problems = append(problems, catalogue.Problem{Key: "most", Text: "is how many images a product may have, and not fewer than fewest"})
	}
	if _, ok := parseBytes(r.LargestFile); r.LargestFile != "" && !ok {
		problems = append(problems, catalogue.Problem{Key: "largest_file", Text: fmt.Sprintf(`is a number with kB or MB, such as "5 MB", and not %q`, r.LargestFile)})
	}
	if r.ShortestSide < 0 {
		problems = append(problems, catalogue.Problem{Key: "shortest_side", Text: "is a number of pixels"})
	}
	if r.LongestSide < 0 || r.LongestSide > 0 && r.LongestSide < r.ShortestSide {
		problems = append(problems, catalogue.Problem{Key: "longest_side", Text: "is a number of pixels, and no smaller one than that of shortest_side"})
	}
	if r.FolderBy != nil && r.Folder == "" && r.LinksFrom == "" {
		problems = append(problems, catalogue.Problem{Key: "folder_by", Text: "says what the files of folder or links_from are called by"})
	}
	if r.Prepare != "" && r.Folder == "" {
		problems = append(problems, catalogue.Problem{Key: "prepare", Text: "copies photos of folder, which names none"})
	}
	if r.Prepare != "" && !isFolderName(r.Prepare) {
		problems = append(problems, catalogue.Problem{Key: "prepare",
			Text: fmt.Sprintf(`is the name of a folder within the one that a run writes, such as "upload/", and not %q`, r.Prepare)})
	}
	if r.PrepareAs != "" && r.Prepare == "" {
		problems = append(problems, catalogue.Problem{Key: "prepare_as", Text: "is the pattern of the names of what prepare copies"})
	}
	if r.PrepareAs != "" && !strings.Contains(r.PrepareAs, "{number") {
		problems = append(problems, catalogue.Problem{Key: "prepare_as", Text: "has no {number}, which tells the photos of one product apart"})
	}
	if r.HowMany != 0 && (r.Build == "" || r.HowMany < 0 || r.HowMany > 100) {
		problems = append(problems, catalogue.Problem{Key: "how_many", Text: "is how many names build makes for each product, 100 at most"})
	}
	if r.HowMany > 1 && !strings.Contains(r.Build, "{number") {
		problems = append(problems, catalogue.Problem{Key: "build", Text: "makes several names for each product, which {number} would tell apart"})
	}
	for _, t := range r.Types {
		if !imagelink.IsType(t) {
			problems = append(problems, catalogue.Problem{Key: "types", Text: fmt.Sprintf(`are endings of pictures, such as ["jpg", "png"], and %q is none`, t)})
		}
	}
	return append(problems, r.Rules.Check()...)
}

// What VariantImage may say.
const (
	FirstImage  = "first"
	OptionImage = "option"
	NoImage     = "none"
)

// Links takes the images in one cell apart: links, or names of files. A text that is not
// made of such is one image.
func Links(cell string) (links []string) {
	cell = strings.TrimSpace(cell)
	for _, link := range imagelink.Read(nil, cell) {
		links = append(links, link.As)
	}
	return links
}

// Items takes the texts of images in one cell apart, if there is one for each of so many
// images, and returns what stands between them; otherwise it returns nil.
func Items(cell string, n int) (items []string, at string) {
	for _, at := range text.LinkMarks[:4] { // not at spaces: they are words
		if parts := at.Items(cell); len(parts) == n {
			if at.Spaced(cell) {
				at += " "
			}
			return parts, string(at)
		}
	}
	return nil, ""
}

// ImageColumns are the columns that have the images of a product.
type ImageColumns struct {
	Image, Alt int   // of the first image and its text; -1 if there is none
	Further    []int // of further images
}

// Links returns the images of a row: those of its cell, and of further columns.
func (c *ImageColumns) Links(row *catalogue.Row) []string {
	links := Links(row.Cell(c.Image))
	for _, col := range c.Further {
		links = append(links, Links(row.Cell(col))...)
	}
	return links
}

// Loose reports whether a row has words where links should be, or a link of which nobody knows where it ends: such cells stay as they are.
func (c *ImageColumns) Loose(row *catalogue.Row) bool {
	for _, col := range append([]int{c.Image}, c.Further...) {
		if cell := row.Cell(col); cell != "" {
			if links := imagelink.Read(nil, cell); len(links) == 1 && (links[0].Is == imagelink.NoLink || links[0].Is == imagelink.Unclear) {
				return true
			}
		}
	}
	return false
}

// Readable reports whether links that are put into cells are read from these again.
func (c *ImageColumns) Readable(links []string, spread bool, at string) bool {
	var again []string
	for _, cell := range c.Cells(links, spread, at) {
		again = append(again, Links(cell)...)
	}
	return slices.Equal(links, again)
}

// An Image is one image with its text.
type Image struct{ Link, Alt string }

// Apart returns the images of a row one by one, if it has several. Their texts are those of the cell
// if there is one for each; texts is false if they cannot be told apart and stay where they are.
func (c *ImageColumns) Apart(row *catalogue.Row) (images []Image, texts bool) {
	links := c.Links(row)
	if len(links) < 2 || c.Loose(row) {
		return nil, false
	}
	alts, _ := Items(row.Cell(c.Alt), len(links))
	for i, link := range links {
		images = append(images, Image{Link: link})
		if alts != nil {
			images[i].Alt = alts[i]
		}
	}
	return images, alts != nil
}

// Cells returns what goes into the column of the first image and the further ones: with spread an
// image into each, and those for which there is no column with the last; otherwise all into the
// first, with at between them.
func (c *ImageColumns) Cells(links []string, spread bool, at string) []string {
	cells := make([]string, 1+len(c.Further))
	last := 0
	if spread {
		last = len(c.Further)
	}
	for i := 0; i <= last && i < len(links); i++ {
		cells[i] = links[i]
		if i == last {
			cells[i] = strings.Join(links[i:], at)
		}
	}
	return cells
}

// An ImagesTogether is what becomes of the images of a product when they go into its lead row.
type ImagesTogether struct {
	Lead   int      // the lead row; -1 if there is none
	Links  []string // its images
	Alts   []string // their texts in the same order; one that has none is empty; fewer than images if the last have none
	Joined []int    // the image rows that are not needed any more
	Own    []int    // the rows that keep images of their own
}

// Together brings the images of image rows into the lead row. A row that says something else, too,
// which more reports, stays, and so does one whose text cannot be told from its neighbours in a cell.
func (c *ImageColumns) Together(p *catalogue.Product, aside func(i int) bool, more func(row, lead *catalogue.Row) bool,
	at string) (t ImagesTogether) {
	t.Lead = -1
	for i, row := range p.Rows {
		if aside(i) {
			continue
		}
		own, alt := c.Links(row), strings.TrimSpace(row.Cell(c.Alt))
		if t.Lead < 0 {
			if t.Lead = i; c.Loose(row) {
				return t
			}
		} else if lead := p.Rows[t.Lead]; p.Role(i)&catalogue.ImageRow == 0 || len(own) == 0 || more(row, lead) || c.Loose(row) ||
			alt != "" && strings.Contains(alt+lead.Cell(c.Alt), at) {
			t.Own = append(t.Own, i)
			continue
		} else {
			t.Joined = append(t.Joined, i)
		}
		if alt != "" {
			for len(t.Alts) < len(t.Links) {
				t.Alts = append(t.Alts, "")
			}
			t.Alts = append(t.Alts, alt)
		}
		t.Links = append(t.Links, own...)
	}
	return t
}

// OfVariants returns the image of each variant of a product that has several, by its row: its own, or the one that which says. values
// are what the options of a row say.
func (c *ImageColumns) OfVariants(p *catalogue.Product, which string, aside func(i int) bool, values func(*catalogue.Row) []string) map[int]string {
	var all []Image
	variants := make(map[int]string)
	for i, row := range p.Rows {
		if aside(i) {
			continue
		}
		var links []string
		if !c.Loose(row) {
			links = c.Links(row)
		}
		texts, _ := Items(row.Cell(c.Alt), len(links))
		for n, link := range links {
			image := Image{Link: link}
			if texts != nil {
				image.Alt = texts[n]
			}
			all = append(all, image)
		}
		if p.Role(i)&catalogue.Variant != 0 {
			variants[i] = append(links, "")[0]
		}
	}
	if len(variants) < 2 || len(all) == 0 {
		return nil
	}
	for i, own := range variants {
		switch {
		case which == OptionImage && own == "" || which == OptionImage && i == 0: // the first picture in the lead row is that of the product
			said := values(p.Rows[i])
			variants[i] = imageOf(all, said, func(foreign func(value string)) {
				for other := range variants {
					for _, v := range values(p.Rows[other]) {
						if !slices.Contains(said, v) {
							foreign(v)
						}
					}
				}
			})
		case own == "" && which != NoImage:
			variants[i] = all[0].Link
		}
	}
	return variants
}

// imageOf returns the image whose name or text has most of what the options of a variant say, and least of what those of others say; ""
// if none has any of it.
func imageOf(images []Image, values []string, others func(func(string))) (link string) {
	best, least := 0, 0
	for _, image := range images {
		words := " " + asWords(imagelink.FileOf(image.Link)+" "+image.Alt) + " "
		has := func(value string) bool {
			value = asWords(value)
			return value != "" && strings.Contains(words, " "+value+" ")
		}
		own, foreign := 0, 0
		for _, v := range values {
			if has(v) {
				own++
			}
		}
		if own == 0 || own < best {
			continue
		}
		others(func(v string) {
			if has(v) {
				foreign++
			}
		})
		if own > best || foreign < least {
			best, least, link = own, foreign, image.Link
		}
	}
	return link
}

// asWords returns the words of a text, in small ASCII letters and with one space between them: those in names of files are written so.
func asWords(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(text.ASCII(s)), func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < '0' || r > '9')
	}), " ")
}
