package steps

import (
	"cmp"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/text"
)

// keptImages puts the images that the shop has before those of the file.
type keptImages struct {
	*imageLinks
	inShop    func(sku, slug string) []products.Image
	sku, slug int
}

// kept returns the step that keeps what the shop has.
func (m *imageShaper) kept(s *Sheet, inShop func(sku, slug string) []products.Image) line.Step {
	k := &keptImages{m.linksOf(), inShop, m.columns.First(catalogue.SKU), m.columns.First(catalogue.Slug)}
	k.number = s.Tally.Add("images: keep_existing", Changed, 0)
	return line.Step{Name: NameImageKept, Reads: s.everyColumn(), Writes: catalogue.ColumnsOf(append([]int{m.of.Alt}, k.all...)...), Before: writing,
		Rules: []catalogue.Rule{catalogue.RuleImageKept}, New: Always(k.repair)}
}

// an existing image is one that the shop has.
type existing struct {
	products.Image
	key, name string
}

func (k *keptImages) repair(p *catalogue.Product, log *line.Log) {
	for i := 0; i < len(p.Rows); {
		end := i + 1 // behind the rows of images that belong to the row
		for end < len(p.Rows) && (p.Role(end) == catalogue.ImageRow || log.IsAside(end)) {
			end++
		}
		if !log.IsAside(i) && p.Role(i) != catalogue.ImageRow {
			k.row(p, i, end, log)
		}
		i = end
	}
}

// row puts the images that the shop has of a row before those of the row, and of the rows of images behind it up to another.
func (k *keptImages) row(p *catalogue.Product, i, end int, log *line.Log) {
	slug := ""
	if i == 0 {
		slug = p.Rows[0].Cell(k.slug)
	}
	var has []existing
	for _, image := range k.inShop(p.Rows[i].Cell(k.sku), slug) {
		links := k.rules.Read(nil, image.Link)
		if len(links) == 1 && links[0].Is.IsAddress() {
			image.Link = links[0].Out
			if key := links[0].Key(); !slices.ContainsFunc(has, func(e existing) bool { return e.key == key }) {
				has = append(has, existing{image, key, nameOfLink(image.Link)})
			}
		}
	}
	if has == nil {
		return
	}
	var own []string // in their order
	for n := i; n < end; n++ {
		if row := p.Rows[n]; !log.IsAside(n) {
			if k.of.Loose(row) {
				return
			}
			own = append(own, k.of.Links(row)...)
		}
	}
	if k.isFirst(has, own) {
		return
	}
	others := make(map[string]int) // how many of the row's own have a name
	for _, link := range own {
		others[nameOfLink(link)]++
	}
	is := func(link string) bool {
		key, name := imagelink.Key(link), nameOfLink(link)
		return slices.ContainsFunc(has, func(e existing) bool {
			return e.key == key || name != "" && e.name == name && others[name] == 1 && count(has, name) == 1 && elsewhere(e.key, key)
		})
	}
	first := p.Rows[i]
	images, texts := k.withTexts(first)
	said := make(map[string]string) // by key: the texts that the file has
	for n := i; n < end; n++ {
		if row := p.Rows[n]; !log.IsAside(n) {
			of, _ := k.withTexts(row)
			for _, image := range of {
				if key := imagelink.Key(image.Link); image.Alt != "" && said[key] == "" {
					said[key] = image.Alt
				}
			}
		}
	}
	all := make([]products.Image, 0, len(has)+len(images))
	for _, e := range has {
		texts = texts && !strings.Contains(e.Alt, cmp.Or(k.rules.At, ","))
		e.Alt = cmp.Or(said[e.key], e.Alt) // which the file may say anew
		all = append(all, e.Image)
	}
	for _, image := range images {
		if !is(image.Link) {
			all = append(all, image)
		}
	}
	if k.rules.As != "rows" && !k.together(first, all, texts, log) {
		return
	}
	for n := i + 1; n < end; n++ {
		if row := p.Rows[n]; !log.IsAside(n) {
			k.without(row, p.Rows[0], n, is, log)
		}
	}
	if k.rules.As == "rows" {
		k.inRows(first, i, all, texts, log)
	}
	log.Touch(k.number, i)
}

// together puts images into one row, from which they go into columns if that is ordered. It does nothing if they, or their texts, would not
// be told apart there.
func (k *keptImages) together(row *catalogue.Row, all []products.Image, texts bool, log *line.Log) bool {
	at := cmp.Or(k.rules.At, ",")
	links, alts, last := make([]string, len(all)), make([]string, len(all)), 0
	for n, image := range all {
		links[n], alts[n] = image.Link, image.Alt
		if texts = texts && !strings.Contains(image.Alt, at); image.Alt != "" {
			last = n + 1
		}
	}
	if !texts || !k.readable(links) {
		return false
	}
	k.put(row, links, log)
	if k.of.Alt >= 0 && last > 0 {
		k.set(row, k.of.Alt, strings.Join(alts[:last], at), catalogue.RuleImageKept, log)
	}
	return true
}

// inRows puts the first image into a row, and each of the others into one behind it.
func (k *keptImages) inRows(row *catalogue.Row, i int, all []products.Image, texts bool, log *line.Log) {
	for _, col := range k.of.Further {
		k.set(row, col, "", catalogue.RuleImageKept, log)
	}
	k.set(row, k.of.Image, all[0].Link, catalogue.RuleImageKept, log)
	if k.of.Alt >= 0 && texts {
		k.set(row, k.of.Alt, all[0].Alt, catalogue.RuleImageKept, log)
	}
	for n := len(all) - 1; n > 0; n-- {
		log.Insert(i, k.further(row, all[n]), catalogue.ImageRow, catalogue.RuleImageKept)
	}
}

// isFirst reports whether the images that the shop has come first already, in their order.
func (k *keptImages) isFirst(has []existing, own []string) bool {
	if len(own) < len(has) {
		return false
	}
	for n, link := range own {
		key := imagelink.Key(link)
		if n < len(has) && has[n].key != key || n >= len(has) && slices.ContainsFunc(has, func(e existing) bool { return e.key == key }) {
			return false
		}
	}
	return true
}

// withTexts returns the images of a row; texts is false if its texts cannot be told apart.
func (k *keptImages) withTexts(row *catalogue.Row) (images []products.Image, texts bool) {
	links := k.of.Links(row)
	alts, _ := products.Items(row.Cell(k.of.Alt), len(links))
	if alts == nil && k.rules.As != "rows" { // images without a text at the end have no place there
		if alts = text.List(cmp.Or(k.rules.At, ",")).Items(row.Cell(k.of.Alt)); len(alts) > len(links) {
			alts = nil
		}
	}
	for n, link := range links {
		image := products.Image{Link: link}
		if n < len(alts) {
			image.Alt = alts[n]
		}
		images = append(images, image)
	}
	return images, alts != nil || strings.TrimSpace(row.Cell(k.of.Alt)) == ""
}

// without takes images out of a row of images that the shop has already, and the row if nothing else is in it.
func (k *keptImages) without(row, lead *catalogue.Row, n int, is func(link string) bool, log *line.Log) {
	links := k.of.Links(row)
	kept := slices.DeleteFunc(slices.Clone(links), is)
	switch {
	case len(kept) == len(links):
	case len(kept) == 0 && !k.more(row, lead):
		log.Join(n, catalogue.RuleImageKept)
	default:
		for i, cell := range k.of.Cells(kept, len(k.of.Further) > 0, ",") {
			k.set(row, append([]int{k.of.Image}, k.of.Further...)[i], cell, catalogue.RuleImageKept, log)
		}
	}
}

// nameOfLink returns the name of the file to which a link leads, in small letters.
func nameOfLink(link string) string { return strings.ToLower(imagelink.FileOf(link)) }

func count(has []existing, name string) (n int) {
	for _, e := range has {
		if e.name == name {
			n++
		}
	}
	return n
}

// elsewhere reports whether two addresses of files of one name are of one picture: at different hosts, or in one folder.
func elsewhere(a, b string) bool {
	a, _, _ = strings.Cut(a, "?")
	b, _, _ = strings.Cut(b, "?")
	hostA, pathA, _ := strings.Cut(a, "/")
	hostB, pathB, _ := strings.Cut(b, "/")
	return hostA != hostB || pathA == pathB
}
