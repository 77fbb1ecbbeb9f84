package sections

import (
	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// imagesSection says where the images of products stand.
type imagesSection struct {
	plain
	rules *products.ImageRules
	field *lists.FieldRule // what the section says as that of a field; nil if it is not read
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
					Name: "of_variants",
					Says: "A column in which each variant of a product with several gets an image, where it has none: its own, or the " +
						"first of the product. If nothing is said, variants without an image stay without.",
					Example: `of_variants = "Variant image"`,
				},
				{
					Name: "number",
					Says: "Numbers the images of each product from 1 on, in the column for their order, without gaps.",
					Example: `as     = "rows"
number = true`,
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

func (s *imagesSection) Check() []rulebook.Problem { return rulebook.In("images", 0, s.rules.Check()) }

// Adds returns the columns that are filled.
func (i *imagesSection) Adds(*Sheet) (names []string, err error) {
	if i.rules.OfVariants != "" {
		names = append(names, i.rules.OfVariants)
	}
	if i.rules.As == "columns" {
		names = append(names, i.rules.Columns...)
	}
	if i.rules.Number {
		names = append(names, catalogue.ImageOrder.String())
	}
	return names, nil
}

// Order says which columns have images.
func (i *imagesSection) Order(s *Sheet) error {
	for _, name := range i.rules.Columns {
		s.Products.Put(products.OfImage, s.Find(name))
	}
	return nil
}

func (i *imagesSection) Steps(s *Sheet) error {
	images, err := steps.Images(&s.Sheet, i.rules)
	s.Add(StageImages, images.Places...)
	if i.rules.As == "rows" && s.picturesMoved && len(images.Places) > 0 {
		s.Add(StageImagesAgain, images.Places[0]) // of those that descriptions had
	}
	s.Add(StageImagesAgain, images.Again...)
	s.Add(StageNumbers, images.Numbers...)
	return err
}
