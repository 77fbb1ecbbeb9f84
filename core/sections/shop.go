package sections

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/target"
	"zetanum/core/text"
)

// Shop says what the shop has: [shop].
type Shop struct {
	// Export is a sheet of the shop's present catalogue, which other sections refer to.
	Export string `toml:"export" json:"export,omitempty"`
	// KnownBy are the fields or headings by which the shop knows its products, in this order.
	KnownBy []string `toml:"known_by" json:"known_by,omitempty"`
	// ID is the heading of the column with the shop's own number of each product.
	ID string `toml:"id" json:"id,omitempty"`
	// Hosts are those of the shop's pages: "www.linden-row.example".
	Hosts []string `toml:"hosts" json:"hosts,omitempty"`
}

// shopSection names the shop's present catalogue, once for all that need it.
type shopSection struct {
	plain
	rules *Shop
}

// inShop is what is known of the shop's present catalogue.
type inShop struct {
	name   string            // of the sheet
	titles map[uint64]string // by hashes of SKUs; nil if nobody needs them
	tags   map[uint64]string // the cells, by hashes of SKUs and slugs; nil if the export has none
	images *shopImages       // nil if nobody needs them, or it has none
	form   lists.Form        // of the tags

	numbers map[uint64][]string // by hashes of SKUs, one for each of their fields
	fields  []catalogue.Field
	brands  []string // as the shop writes them
}

func (*shopSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "shop", Line: "[shop]",
		Says: "What the shop has now.",
		Keys: []rulebook.Key{{
			Name: "export",
			Says: "A sheet of the shop's present catalogue, as the shop exports it. Where another section needs it, it says so with " +
				"the word shop. Where no link names go out, titles are compared with those of the shop. self is the file itself that is " +
				"repaired, where that is what the shop has exported.",
			Example: `export = "shop-export.csv"`,
		}, {
			Name: "known_by",
			Says: "The fields or headings by which it is seen which product of the shop a row is, in this order: what the first does not find, the " +
				"next may. If nothing is said, the SKU, or else the slug or the barcode that both have. A row that is one product by one of them " +
				"and another by the next is held, and so are two that are the same product.",
			Example: "export   = \"shop-export.csv\"\nknown_by = [\"sku\", \"barcode\"]",
		}, {
			Name: "id",
			Says: "The column of the export with the shop's own number of each product. In what goes out the column of that heading has it for " +
				"products that the shop has, and is empty for new ones; it is added if it is not there.",
			Example: "export = \"shop-export.csv\"\nid     = \"Shop number\"",
		}, {
			Name:    "hosts",
			Says:    "The hosts of the shop's pages. Links in descriptions that lead to others leave the shop.",
			Example: `hosts = ["www.linden-row.example"]`,
		}},
	}}
}

func (s *shopSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "shop", Into: s.rules}}
}

func (s *shopSection) Files() []*string {
	if s.rules.Export == target.Self {
		return nil
	}
	return []*string{&s.rules.Export}
}

func (s *shopSection) Check() []rulebook.Problem {
	if s.rules.Export != "" || len(s.rules.KnownBy) == 0 {
		return nil
	}
	return []rulebook.Problem{{Part: "shop", Problem: catalogue.Problem{Key: "known_by", Text: "says how products of the export are known, and export names none"}}}
}

// Open reads what is needed of the shop.
func (h *shopSection) Open(s *Sheet) error {
	if h.rules.Export == "" {
		return nil
	}
	has := func(f catalogue.Field) bool { return s.Columns.First(f) >= 0 }
	titles := !has(catalogue.Slug) && has(catalogue.SKU) && has(catalogue.Title) // it may matter that one is another
	tags, brands := has(catalogue.Tags) || s.Book.Tags.Adds(), has(catalogue.Brand)
	images := s.Book.Images.KeepExisting
	var numbers []catalogue.Field
	for _, f := range steps.NumberFields() {
		if has(f) && has(catalogue.SKU) {
			numbers = append(numbers, f)
		}
	}
	if !titles && !tags && !brands && !images && numbers == nil {
		return nil
	}
	table, err := sheet.Open(h.rules.Export, s.exportOptions())
	if err != nil {
		return &ruleError{key: "export", error: fmt.Errorf("[shop] export: %w", err)}
	}
	defer table.Close()
	var in *inShop
	read := reader{table: table, keys: []int{table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.Slug)}}
	ofTitle, ofTags, ofBrand := read.column(catalogue.Title, titles), read.column(catalogue.Tags, tags), read.column(catalogue.Brand, brands)
	var ofNumbers []int
	for n := 0; n < len(numbers); n++ {
		if col := table.Columns.First(numbers[n]); col >= 0 && read.keys[0] >= 0 {
			ofNumbers = append(ofNumbers, col)
		} else {
			numbers = slices.Delete(numbers, n, n+1)
			n--
		}
	}
	if !images && ofNumbers == nil {
		if ofTitle < 0 && ofTags < 0 && ofBrand < 0 || read.keys[0] < 0 && read.keys[1] < 0 && ofBrand < 0 {
			return nil // it is for something else
		}
	}
	var marks lists.Marks
	var spelt lists.Spellings
	err = table.Each(func() {
		in, marks, spelt, read.slug = &inShop{name: filepath.Base(h.rules.Export)}, lists.Marks{}, lists.Spellings{}, ""
		if images {
			in.images = newShopImages(&table.Columns, s.Book.Images.Columns)
		}
	}, func(row *catalogue.Row) {
		keys, lead := read.product(row)
		if in.images != nil {
			in.images.add(row, keys)
		}
		if ofNumbers != nil {
			in.number(keys[0], row, ofNumbers)
		}
		if ofTitle >= 0 {
			note(&in.titles, keys[:1], row.Cell(ofTitle))
		}
		if ofTags >= 0 {
			cell := row.Cell(ofTags)
			if marks.Add(&lists.OfTags, cell); lead || strings.TrimSpace(cell) != "" {
				read.tags = cell
			}
			note(&in.tags, keys[:], read.tags)
		}
		if brand := strings.TrimSpace(row.Cell(ofBrand)); brand != "" {
			spelt.Add(brand)
		}
	})
	if err != nil {
		return fmt.Errorf("[shop] export: %w", err)
	}
	in.form, in.fields = marks.Judge(&lists.OfTags), numbers
	for _, p := range spelt.Values(true) {
		if p.Key == p.Value {
			in.brands = append(in.brands, p.Value)
		}
	}
	s.inShop = in
	return nil
}

// number keeps the numbers of a row under the hash of its SKU, 0 for none: those of the first row that has it.
func (in *inShop) number(key uint64, row *catalogue.Row, cols []int) {
	if _, there := in.numbers[key]; there || key == 0 {
		return
	}
	if in.numbers == nil {
		in.numbers = make(map[uint64][]string)
	}
	cells := make([]string, len(cols))
	for n, col := range cols {
		cells[n] = strings.Clone(strings.TrimSpace(row.Cell(col)))
	}
	in.numbers[key] = cells
}

// numberOf returns what says which number the shop has in a field of an SKU; nil if nobody knows.
func (in *inShop) numberOf() steps.ShopNumber {
	if in == nil || in.numbers == nil {
		return nil
	}
	return func(sku string, f catalogue.Field) string {
		if cells := in.numbers[keyInShop(false, text.Typed(strings.TrimSpace(sku)))]; cells != nil {
			if n := slices.Index(in.fields, f); n >= 0 {
				return cells[n]
			}
		}
		return ""
	}
}

// A reader reads the shop's export.
type reader struct {
	table *sheet.Table
	keys  []int  // the columns of SKUs and slugs, -1 if there is none
	slug  string // of the row above
	tags  string // of the product
}

func (r *reader) column(f catalogue.Field, needed bool) int {
	if !needed {
		return -1
	}
	return r.table.Columns.First(f)
}

// product returns the hashes of the SKU and the slug of a row, 0 for none, and whether it begins a product.
func (r *reader) product(row *catalogue.Row) (keys [2]uint64, lead bool) {
	for i, col := range r.keys {
		if key := text.Typed(strings.TrimSpace(row.Cell(col))); key != "" {
			keys[i] = keyInShop(i == 1, key)
			if i == 1 {
				lead = key != r.slug
				r.slug = strings.Clone(key)
			}
		}
	}
	return keys, lead || r.keys[1] < 0
}

// keyInShop returns the hash of an SKU or a slug.
func keyInShop(slug bool, key string) uint64 {
	if slug {
		key = "\x00" + key
	}
	return xxhash.Sum64String(key)
}

// note keeps what stands in a cell under keys, the first for each.
func note(in *map[uint64]string, keys []uint64, cell string) {
	cell = strings.TrimSpace(cell)
	if *in == nil {
		*in = make(map[uint64]string)
	}
	kept := ""
	for _, key := range keys {
		if _, there := (*in)[key]; there || key == 0 || cell == "" {
			continue
		}
		if kept == "" {
			kept = strings.Clone(cell)
		}
		(*in)[key] = kept
	}
}

// Steps looks for titles by which an importer would not find the product again.
func (h *shopSection) Steps(s *Sheet) error {
	var titleInShop func(string) (string, bool)
	if s.inShop != nil && s.inShop.titles != nil {
		titleInShop = func(sku string) (string, bool) {
			title, there := s.inShop.titles[keyInShop(false, sku)]
			return title, there
		}
	}
	if step, ok := steps.Retitled(&s.Sheet, titleInShop, filepath.Base(h.rules.Export)); ok {
		s.Add(StageSanity, step)
	}
	return nil
}

// tagsOf returns the cell of the tags that the shop has for a product.
func (in *inShop) tagsOf(sku, slug string) string {
	for i, key := range []string{sku, slug} {
		if key = text.Typed(strings.TrimSpace(key)); key != "" {
			if cell, there := in.tags[keyInShop(i == 1, key)]; there {
				return cell
			}
		}
	}
	return ""
}
