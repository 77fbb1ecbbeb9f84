package sections

import (
	"fmt"
	"strings"

	"zetanum/core/line"
)

// A Stage is a place in the line.
type Stage uint8

// The stages of the line, in the order of the work.
const (
	StageReturned Stage = iota
	StageShape
	StageText
	StageBorrow
	StageSKUs
	StageBarcodes
	StageProducts
	StageOptions
	StageEach
	StageImages
	StageProductsMade
	StageMint
	StageOrders
	StageProductsWritten
	StageImagesAgain
	StageForAll
	StageNumbers
	StageLimits
	StageSanity
	StageParents
	StageCopied
	StageTogether
	StageRows
	StageComplete
	StageOrigin
	StageKnown
	StageListed
	StageTemplate
	StageChanged
	numStages
)

// stages say what is done at each stage, and on whose order.
var stages = [numStages]struct{ section, says string }{
	StageReturned:     {"sheet", "cells that people have mended in tables that came back"},
	StageShape:        {"sheet", "what is no product is set aside; what each row is in its product"},
	StageText:         {"text", "texts decoded, mended, tidied"},
	StageBorrow:       {"borrow", "barcodes and SKUs that other sheets have"},
	StageSKUs:         {"barcode", "SKUs, and part numbers"},
	StageBarcodes:     {"barcode", "barcodes: what the cell, the column and other sheets prove"},
	StageProducts:     {"products", "what is said of a product once, in its lead row"},
	StageOptions:      {"options", "options taken apart, which tell what a row is"},
	StageEach:         {"one_row_each", "rows made of lists"},
	StageImages:       {"images", "links of images repaired; images in rows, or in cells"},
	StageProductsMade: {"products", "the same for rows that have been made"},
	StageMint:         {"mint", "which codes there are, before any is made"},
	StageOrders: {"columns", "all that is ordered for cells: borrowed, filled, built, codes made, derived, written out, replaced, listed, " +
		"fitted to the target"},
	StageProductsWritten: {"products", "the same for what has been written"},
	StageImagesAgain:     {"images", "the same for images that have been written, and rows in which nothing but an image is left"},
	StageForAll:          {"one_row_for_all", "rows put together"},
	StageNumbers:         {"images", "images numbered, and their texts made"},
	StageLimits:          {"field", "what fields must have"},
	StageSanity:          {"sheet", "cells that say what cannot be: prices and dates as their columns show them, pictures, markup in titles"},
	StageParents:         {"products", "parents that are not there, or have no variants"},
	StageCopied:          {"products", "rows that still have something of the one above"},
	StageTogether:        {"products", "whether a product is whole, and its rows say the same"},
	StageRows:            {"rows", "which products are worked on"},
	StageComplete:        {"products", "variants that the shop has, too"},
	StageOrigin:          {"columns", "where products came from, in columns that keep it"},
	StageKnown:           {"target", "which product of the shop each is; which go out, and into which file"},
	StageListed:          {"sheet", "what was found in prices, dates, stocks and weights is listed for people, with all its rows"},
	StageTemplate:        {"target", "cells written as the template has them, and what it demands of them"},
	StageChanged:         {"target", "products that are as the shop has them"},
}

// Add puts steps into the line.
func (s *Sheet) Add(stage Stage, steps ...line.Step) {
	s.placed[stage] = append(s.placed[stage], steps...)
}

// Picture draws the line as a list in Markdown: its stages, and whose they are.
func Picture() string {
	var b strings.Builder
	for n, stage := range stages {
		fmt.Fprintf(&b, "%d. `[%s]` %s\n", n+1, stage.section, stage.says)
	}
	return b.String()
}
