package sections

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/products"
	"zetanum/core/text"
)

// shopImages are the images that the shop has of products and their variants.
type shopImages struct {
	of   products.ImageColumns
	rows map[uint64]*[]products.Image // by hashes of SKUs, and of slugs for the lead row
	now  *[]products.Image            // of the product above, to which rows of images belong
	slug uint64                       // of that
}

// newShopImages returns what reads the images of the shop's export, nil if it has none. Columns name those of further images.
func newShopImages(c *catalogue.Columns, further []string) *shopImages {
	all := columns.OfField(c, catalogue.Images, further...)
	if len(all) == 0 || c.First(catalogue.SKU) < 0 && c.First(catalogue.Slug) < 0 {
		return nil
	}
	return &shopImages{of: products.ImageColumns{Image: all[0], Alt: c.First(catalogue.ImageAlt), Further: all[1:]}, rows: make(map[uint64]*[]products.Image)}
}

// add takes down the images of a row that has the hashes of an SKU and a slug, 0 for none.
func (h *shopImages) add(row *catalogue.Row, keys [2]uint64) {
	sku, slug := keys[0], keys[1]
	switch {
	case sku == 0 && (slug == 0 || slug == h.slug): // a row of the product above
	case sku != 0 && h.rows[sku] != nil:
		h.now = h.rows[sku]
	default:
		h.now = new([]products.Image)
		if sku != 0 {
			h.rows[sku] = h.now
		}
	}
	if slug != 0 && slug != h.slug {
		if h.slug = slug; h.rows[slug] == nil {
			h.rows[slug] = h.now
		}
	}
	into := h.now
	if sku == 0 && slug != 0 {
		into = h.rows[slug] // whose row the variants above have come after
	}
	if into == nil || h.of.Loose(row) {
		return
	}
	links := h.of.Links(row)
	texts, _ := products.Items(row.Cell(h.of.Alt), len(links))
	for n, link := range links {
		if slices.ContainsFunc(*into, func(i products.Image) bool { return i.Link == link }) {
			continue
		}
		image := products.Image{Link: strings.Clone(link)}
		if texts != nil {
			image.Alt = strings.Clone(texts[n])
		}
		*into = append(*into, image)
	}
}

// images returns the images that the shop has in the row of an SKU, or in the lead row of a product without one.
func (in *inShop) imagesOf(sku, slug string) []products.Image {
	for i, key := range []string{sku, slug} {
		if key = text.Typed(strings.TrimSpace(key)); key == "" {
			continue
		}
		if list := in.images.rows[keyInShop(i == 1, key)]; list != nil {
			return *list
		}
	}
	return nil
}
