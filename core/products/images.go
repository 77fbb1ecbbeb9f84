package products

import (
	"regexp"
	"strings"

	"zetanum/core/catalogue"
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
	// Number numbers the images of each product from 1 on.
	Number bool `toml:"number" json:"number,omitempty"`
	// OfVariants names a column in which each variant of several gets an image: its own,
	// or the first of the product.
	OfVariants string `toml:"of_variants" json:"of_variants,omitempty"`
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
	}
	return problems
}

// imageEnding fits the end of the name of an image.
var imageEnding = regexp.MustCompile(`(?i)\.(?:jpe?g|png|gif|webp|svg|bmp|tiff?|avif|heic)(?:[?#]\S*)?$`)

// Links takes the images in one cell apart: links, or names of files. A text that is not
// made of such is one image.
func Links(cell string) (links []string) {
	cell = strings.TrimSpace(cell)
	if cell == "" {
		return nil
	}
	for _, at := range text.LinkMarks {
		if parts, ok := linksAt(cell, at); ok {
			return parts
		}
	}
	return []string{cell}
}

// linksAt takes a cell apart at a separator; ok is false if not all parts are images.
// Commas and the like within an address are no separators: what follows one begins anew.
func linksAt(cell string, at text.List) (links []string, ok bool) {
	for _, part := range at.Values(cell) {
		address := strings.Contains(part, "://")
		if !address && !imageEnding.MatchString(part) || strings.ContainsAny(part, " \n|;") || strings.Count(part, "://") > 1 {
			return nil, false
		}
		links = append(links, part)
	}
	return links, len(links) > 1
}

// Items takes the texts of images in one cell apart, if there is one for each of so many
// images; otherwise it returns nil.
func Items(cell string, n int) []string {
	for _, at := range text.LinkMarks[:4] { // not at spaces: they are words
		if parts := at.Items(cell); len(parts) == n {
			return parts
		}
	}
	return nil
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

// An Image is one image with its text.
type Image struct{ Link, Alt string }

// Apart returns the images of a row one by one, if it has several. Their texts are those of the cell
// if there is one for each; texts is false if they cannot be told apart and stay where they are.
func (c *ImageColumns) Apart(row *catalogue.Row) (images []Image, texts bool) {
	links := c.Links(row)
	if len(links) < 2 {
		return nil, false
	}
	alts := Items(row.Cell(c.Alt), len(links))
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
			t.Lead = i
		} else if lead := p.Rows[t.Lead]; p.Role(i)&catalogue.ImageRow == 0 || len(own) == 0 || more(row, lead) ||
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

// OfVariants returns the image of each variant of a product that has several, by its row: its own, or
// the first of the product.
func (c *ImageColumns) OfVariants(p *catalogue.Product, aside func(i int) bool) map[int]string {
	count, first := 0, ""
	images := make(map[int]string)
	for i, row := range p.Rows {
		if aside(i) {
			continue
		}
		links := c.Links(row)
		if first == "" && len(links) > 0 {
			first = links[0]
		}
		if p.Role(i)&catalogue.Variant != 0 {
			count++
			images[i] = append(links, "")[0]
		}
	}
	if count < 2 || first == "" {
		return nil
	}
	for i, own := range images {
		if own == "" {
			images[i] = first
		}
	}
	return images
}
