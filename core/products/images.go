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
