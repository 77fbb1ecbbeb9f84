package steps

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/pattern"
	"zetanum/core/products"
)

// ImageSteps are what becomes of the images of products.
type ImageSteps struct {
	// Links writes links as they should be, before anything else is done to them, and again when others may have written some.
	Links []line.Step
	// Kept puts images before them that the shop has, when they are in their places.
	Kept []line.Step
	// Places brings them into rows of their own, or into the lead row, and Again does so
	// behind the rules that may have left nothing else in a row. Numbers numbers them when
	// all else is done to them, and gives them their texts.
	Places, Again, Numbers []line.Step
	// Opened looks at links by what they have led to.
	Opened []line.Step
	// Variants gives variants their images.
	Variants []line.Step
}

// Images fits the rules about images to a sheet.
// alt is the pattern of their texts, bound to the columns of; nil if nothing is said.
// opened says what links have led to; nil if they have not been opened. kept returns the images that the shop has in the row of an SKU, or
// in the lead row of a slug; nil if they are not kept.
func Images(s *Sheet, rules *products.ImageRules, alt *pattern.Pattern, of []int, opened *Opened, kept func(sku, slug string) []products.Image) (steps ImageSteps, err error) {
	if rules.As == "" && !rules.Number && rules.OfVariants == "" && rules.Idle() && alt == nil && opened == nil {
		return steps, nil
	}
	c := &s.Columns
	m := &imageShaper{columns: c, layout: s.Products, rules: rules, order: c.First(catalogue.ImageOrder),
		clean: func(text string) string { return s.Texts.Clean(text, catalogue.ImageAlt.Kind()) },
		of:    products.ImageColumns{Image: c.First(catalogue.Images), Alt: c.First(catalogue.ImageAlt)}}
	if m.of.Image < 0 {
		if _, gone := s.Rules.Find(c, catalogue.Images.String()); gone || rules.LeaveOutEmpty {
			return steps, nil // all has been done with them
		}
		return steps, fmt.Errorf("%w: [images] orders what becomes of images, and no column has any; the headings are: %s",
			columns.ErrWrong, strings.Join(c.Headings, ", "))
	}
	for _, name := range rules.Columns {
		col, err := m.column(s, "columns", name)
		if err != nil {
			return steps, err
		}
		if col >= 0 && col != m.of.Image {
			m.of.Further = append(m.of.Further, col)
		}
	}
	if rules.Columns == nil {
		variant := columns.FindAll(c, rules.OfVariants)
		for _, col := range c.All(catalogue.Images)[1:] { // Image 2
			if !slices.Contains(variant, col) {
				m.of.Further = append(m.of.Further, col)
			}
		}
	}
	m.findTexts()
	// What an image row must have so that it stays with its product.
	for _, col := range []int{s.Together, c.First(catalogue.Slug), c.First(catalogue.ParentSKU), c.First(catalogue.Language)} {
		if col >= 0 {
			m.same = append(m.same, col)
		}
	}
	if rules.As == "rows" && c.First(catalogue.Title) < 0 && s.Together < 0 && c.First(catalogue.Slug) < 0 {
		return steps, columns.Refuse("[images] as = \"rows\": without a title and a slug nothing would say to which product an image " +
			"row belongs; name a column with together_by under [products]")
	}
	if opened != nil {
		steps.Opened = []line.Step{m.opened(s, opened)}
	}
	if !rules.Idle() {
		steps.Links = []line.Step{m.links(s)}
	}
	if kept != nil {
		steps.Kept = []line.Step{m.kept(s, kept)}
	}
	images := catalogue.ColumnsOf(slices.Concat([]int{m.of.Image, m.of.Alt}, m.of.Further, m.alts)...)
	step := func(name string, reads, writes catalogue.ColumnSet, rule catalogue.Rule, do func(*catalogue.Product, *line.Log)) []line.Step {
		reads.AddAll(writes)
		return []line.Step{{Name: name, Reads: reads, Writes: writes, Before: writing, Rules: []catalogue.Rule{rule}, New: Always(do)}}
	}
	switch rules.As {
	case "rows":
		steps.Places = step(NameImageRows, catalogue.ColumnsOf(m.same...), images, catalogue.RuleImageRows, m.apart)
	case "cell", "columns":
		steps.Places = step(NameImageCells, s.everyColumn(), images, catalogue.RuleImageCell, m.together) // whether a row says anything else
		steps.Again = steps.Places
	}
	if rules.OfVariants != "" {
		if m.variant, err = m.column(s, "of_variants", rules.OfVariants); err != nil {
			return steps, err
		}
		if m.variant >= 0 {
			reads := catalogue.ColumnsOf(images.List()...)
			if rules.VariantImage == products.OptionImage {
				reads.Add(m.options()...)
			}
			steps.Variants = step(NameVariantImages, reads, catalogue.ColumnsOf(m.variant), catalogue.RuleVariantImage, m.variants)
		}
	}
	if rules.Number && m.order >= 0 {
		steps.Numbers = step(NameImageNumbers, catalogue.ColumnsOf(m.of.Image), catalogue.ColumnsOf(m.order), catalogue.RuleImageNumber,
			m.number)
	}
	if alt != nil && m.of.Alt >= 0 {
		m.alt = alt
		reads := catalogue.ColumnsOf(append([]int{m.of.Image}, m.of.Further...)...)
		reads.Add(of...)
		steps.Numbers = append(steps.Numbers, step(NameImageTexts, reads, catalogue.ColumnsOf(m.of.Alt), catalogue.RuleImageText, m.texts)...)
	}
	return steps, nil
}

// options returns the columns of what the options of variants say.
func (m *imageShaper) options() (cols []int) {
	for _, o := range m.layout.Options {
		cols = append(cols, o.Value)
	}
	return cols
}

// texts gives images the texts that are made for them, where they have none.
func (m *imageShaper) texts(p *catalogue.Product, log *line.Log) {
	lead := -1
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if lead < 0 {
			lead = i
		}
		if strings.TrimSpace(row.Cell(m.of.Alt)) != "" || len(m.of.Links(row)) == 0 {
			continue
		}
		if text, missing := m.alt.Text(withLead(m.layout, row, p.Rows[lead])); missing == "" {
			m.set(row, m.of.Alt, m.clean(text), catalogue.RuleImageText, log)
		}
	}
}

// column returns a column into which images may go, -1 if it does not go out.
func (m *imageShaper) column(s *Sheet, key, name string) (int, error) {
	col, err := s.NeedOne("[images] "+key, name)
	if err == nil {
		err = Unreserved(&s.Columns, col, Reserved, "[images] "+key, name)
	}
	return col, err
}

type imageShaper struct {
	columns *catalogue.Columns
	layout  *products.Layout
	rules   *products.ImageRules
	of      products.ImageColumns
	order   int
	variant int   // column of the images of variants
	same    []int // columns that a further row of a product has like the first
	alts    []int // columns of the texts of further images, -1 for one without; nil if none has one
	alt     *pattern.Pattern
	clean   func(text string) string // tidies the text of an image
}

// number numbers the images of a product.
func (m *imageShaper) number(p *catalogue.Product, log *line.Log) {
	if log.Judging() {
		return // rows that are the same are so whatever their numbers would be
	}
	n := 0
	for i, row := range p.Rows {
		if !log.IsAside(i) && strings.TrimSpace(row.Cell(m.of.Image)) != "" {
			n++
			m.set(row, m.order, strconv.Itoa(n), catalogue.RuleImageNumber, log)
		}
	}
}

// variants gives each variant of several an image.
func (m *imageShaper) variants(p *catalogue.Product, log *line.Log) {
	images := m.of.OfVariants(p, m.rules.VariantImage, log.IsAside, func(row *catalogue.Row) (values []string) {
		for _, o := range m.layout.Options {
			if cell := row.Cell(o.Value); cell != "" {
				values = append(values, cell)
			}
		}
		return values
	})
	for i, row := range p.Rows {
		if image, ok := images[i]; ok && strings.TrimSpace(row.Cell(m.variant)) == "" {
			m.set(row, m.variant, image, catalogue.RuleVariantImage, log)
		}
	}
}

// set writes a cell, if it is not so already.
func (m *imageShaper) set(row *catalogue.Row, col int, text string, rule catalogue.Rule, log *line.Log) {
	if row.Cell(col) == text {
		return
	}
	widen(row, m.columns)
	log.Set(row, col, text, rule, catalogue.Ordered, "")
}

// widen gives a row the columns that the sheet itself does not have.
func widen(row *catalogue.Row, c *catalogue.Columns) {
	if c.Added > 0 && !row.Wide {
		row.Extend(c.Own(), c.Added)
	} else if len(row.Cells) < c.Own() {
		row.Extend(c.Own(), 0)
	}
}

// findTexts finds the columns of the texts of further images: those with the same number in their headings.
func (m *imageShaper) findTexts() {
	number := func(col int) string { return heading.Digits(m.columns.Headings[col]) }
	alts, any := make([]int, len(m.of.Further)), false
	for n, col := range m.of.Further {
		alts[n] = -1
		for _, alt := range m.columns.All(catalogue.ImageAlt) {
			if alt != m.of.Alt && number(alt) != "" && number(alt) == number(col) {
				alts[n], any = alt, true
			}
		}
	}
	if any {
		m.alts = alts
	}
}

// gather puts the texts of further images that have columns of their own beside that of the first, before these images go elsewhere.
func (m *imageShaper) gather(row *catalogue.Row, rule catalogue.Rule, log *line.Log) {
	if m.alts == nil || m.of.Loose(row) {
		return
	}
	var texts []string
	further := false
	for n, col := range append([]int{m.of.Image}, m.of.Further...) {
		alt := m.of.Alt
		if n > 0 {
			alt = m.alts[n-1]
		}
		text := strings.TrimSpace(row.Cell(alt))
		switch links := products.Links(row.Cell(col)); {
		case len(links) > 1, len(links) == 0 && text != "":
			return // nobody knows whose text it is
		case len(links) == 1:
			texts = append(texts, text)
			further = further || n > 0 && text != ""
		}
	}
	if !further || m.of.Alt < 0 {
		return
	}
	marks := []string{cmp.Or(m.rules.At, ",")}
	if m.rules.As == "rows" {
		marks = []string{",", ";", "|"}
	}
	for _, at := range marks {
		joined := strings.Join(texts, at)
		if again, _ := products.Items(joined, len(texts)); slices.Equal(again, texts) {
			m.set(row, m.of.Alt, joined, rule, log)
			for _, alt := range m.alts {
				if alt >= 0 {
					m.set(row, alt, "", rule, log)
				}
			}
			return
		}
	}
}

// apart gives each image behind the first of a row a row of its own.
func (m *imageShaper) apart(p *catalogue.Product, log *line.Log) {
	for i := len(p.Rows) - 1; i >= 0; i-- {
		row := p.Rows[i]
		if log.IsAside(i) {
			continue
		}
		m.gather(row, catalogue.RuleImageRows, log)
		images, texts := m.of.Apart(row)
		if images == nil {
			continue
		}
		for _, col := range m.of.Further {
			m.set(row, col, "", catalogue.RuleImageRows, log)
		}
		m.set(row, m.of.Image, images[0].Link, catalogue.RuleImageRows, log)
		if texts {
			m.set(row, m.of.Alt, images[0].Alt, catalogue.RuleImageRows, log)
		}
		for n := len(images) - 1; n > 0; n-- {
			log.Insert(i, m.further(row, images[n]), catalogue.ImageRow, catalogue.RuleImageRows)
		}
	}
}

// further returns a row of a further image of another.
func (m *imageShaper) further(of *catalogue.Row, image products.Image) *catalogue.Row {
	row := made(of, m.columns)
	for _, col := range m.same {
		row.Set(col, of.Cell(col))
	}
	row.Set(m.of.Image, image.Link)
	if image.Alt != "" {
		row.Set(m.of.Alt, image.Alt)
	}
	return row
}

// made returns an empty row that comes of another.
func made(of *catalogue.Row, c *catalogue.Columns) *catalogue.Row {
	row := &catalogue.Row{Number: of.Number}
	row.Extend(c.Own(), c.Added)
	row.Wide = true
	return row
}

// put writes images into a row.
func (m *imageShaper) put(row *catalogue.Row, links []string, log *line.Log) {
	cells := m.of.Cells(links, m.rules.As == "columns", cmp.Or(m.rules.At, ","))
	for i, col := range append([]int{m.of.Image}, m.of.Further...) {
		m.set(row, col, cells[i], catalogue.RuleImageCell, log)
	}
}

// readable reports whether links are read again from the cells into which they would be put.
func (m *imageShaper) readable(links []string) bool {
	return m.of.Readable(links, m.rules.As == "columns", cmp.Or(m.rules.At, ","))
}

// together brings the images of image rows into the lead row, and their texts in the same
// order: what has none is an empty place between separators.
func (m *imageShaper) together(p *catalogue.Product, log *line.Log) {
	at := cmp.Or(m.rules.At, ",")
	if m.rules.As == "cell" {
		for i, row := range p.Rows {
			if !log.IsAside(i) {
				m.gather(row, catalogue.RuleImageCell, log)
			}
		}
	}
	t := m.of.Together(p, log.IsAside, m.more, at)
	if t.Lead >= 0 && !m.readable(t.Links) { // an importer would not know either where one ends: each row keeps its own
		t = products.ImagesTogether{Lead: t.Lead}
		for i := range p.Rows {
			if !log.IsAside(i) {
				t.Own = append(t.Own, i)
			}
		}
	}
	for _, i := range t.Own {
		row := p.Rows[i]
		if own := m.of.Links(row); (len(own) > 1 || len(m.of.Further) > 0 && len(own) > 0) && !m.of.Loose(row) && m.readable(own) {
			m.put(row, own, log)
		}
	}
	for _, i := range t.Joined {
		log.Join(i, catalogue.RuleImageCell)
	}
	joined := len(t.Joined) > 0
	if len(t.Links) > 1 || len(t.Links) > 0 && (joined || len(m.of.Further) > 0) {
		m.put(p.Rows[t.Lead], t.Links, log)
	}
	if joined && m.of.Alt >= 0 && len(t.Alts) > 0 {
		m.set(p.Rows[t.Lead], m.of.Alt, strings.Join(t.Alts, at), catalogue.RuleImageCell, log)
	}
}

// more reports whether an image row has anything that would be lost without it.
func (m *imageShaper) more(row, lead *catalogue.Row) bool {
	for col, cell := range row.Cells {
		if cell != "" && m.layout.Level(col) != products.OfImage && cell != lead.Cell(col) && !slices.Contains(m.of.Further, col) {
			return true
		}
	}
	return false
}
