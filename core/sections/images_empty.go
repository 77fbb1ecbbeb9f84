package sections

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/steps"
)

// imageColumns returns the columns of images, and of those of variants.
func (i *imagesSection) imageColumns(s *Sheet) (cols []int) {
	cols = slices.Clone(s.Columns.All(catalogue.Images))
	for _, name := range append(slices.Clone(i.rules.Columns), i.rules.OfVariants) {
		if name == "" {
			continue
		}
		for _, col := range s.Find(name) {
			if !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols
}

// learnEmpty adds the step by which it is known which columns of images have anything in them.
func (i *imagesSection) learnEmpty(s *Sheet) {
	own := slices.DeleteFunc(i.imageColumns(s), func(col int) bool { return col >= s.Columns.Own() })
	if i.rules.LeaveOutEmpty && len(own) > 0 {
		s.Add(StageImages, steps.LearnFilled(own))
	}
}

// Output leaves out columns of images that are empty throughout, and those of their texts and numbers.
func (i *imagesSection) Output(s *Sheet, o *line.Output) error {
	if !i.rules.LeaveOutEmpty || s.CodesOnly || i.rules.Folder != "" || i.rules.Build != "" || i.rules.LinksFrom != "" || i.rules.KeepExisting || s.picturesMoved {
		return nil // images may come from elsewhere
	}
	cols := i.imageColumns(s)
	has := func(col int) bool { return s.Filled.Has(col) || s.Orders.WrittenBy(col) != "" }
	any := slices.ContainsFunc(cols, has)
	first := s.Columns.First(catalogue.Images)
	moved := func(col int) bool { // images may be put there
		return any && (i.rules.As != "" && col == first || i.rules.As == "columns" || i.rules.OfVariants != "" && slices.Contains(s.Find(i.rules.OfVariants), col))
	}
	var empty []int
	for _, col := range cols {
		if !has(col) && !moved(col) {
			empty = append(empty, col)
		}
	}
	for _, col := range slices.Concat(s.Columns.All(catalogue.ImageAlt), s.Columns.All(catalogue.ImageOrder)) {
		if slices.Contains(empty, i.companion(s, cols, col)) {
			empty = append(empty, col)
		}
	}
	empty = slices.DeleteFunc(empty, func(col int) bool { return slices.Contains(s.Rules.Key, col) })
	if len(empty) == 0 {
		return nil
	}
	columns := o.Columns
	if columns == nil {
		for col, heading := range s.Columns.Headings {
			columns = append(columns, line.OutColumn{Col: col, Heading: heading})
		}
	}
	var names []string
	o.Columns = slices.DeleteFunc(slices.Clone(columns), func(c line.OutColumn) bool {
		if gone := slices.Contains(empty, c.Col); gone {
			names = append(names, c.Heading)
			return true
		}
		return false
	})
	if names != nil {
		o.Bare, o.Away = false, s.away(o.Columns)
		s.Note("columns of images that do not go out, because no product has any: %s", strings.Join(names, ", "))
	}
	return nil
}

// companion returns the column of images to which one of texts or numbers belongs: that with the same number in its heading, or the first.
func (i *imagesSection) companion(s *Sheet, images []int, col int) int {
	number := heading.Digits(s.Columns.Headings[col])
	for _, image := range images {
		if heading.Digits(s.Columns.Headings[image]) == number {
			return image
		}
	}
	return images[0]
}
