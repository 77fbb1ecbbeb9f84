package sections

import (
	"fmt"
	"path/filepath"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// Shop says what the shop has: [shop].
type Shop struct {
	// Export is a sheet of the shop's present catalogue, which other sections refer to.
	Export string `toml:"export" json:"export,omitempty"`
}

// shopSection names the shop's present catalogue, once for all that need it.
type shopSection struct {
	plain
	rules  *Shop
	titles map[uint64]string // in the shop, by hashes of SKUs; nil without an export
}

func (*shopSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "shop", Line: "[shop]",
		Says: "What the shop has now.",
		Keys: []rulebook.Key{{
			Name: "export",
			Says: "A sheet of the shop's present catalogue, as the shop exports it. Where another section needs it, it says so with " +
				"the word shop. Where no link names go out, titles are compared with those of the shop.",
			Example: `export = "shop-export.csv"`,
		}},
	}}
}

func (s *shopSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "shop", Into: s.rules}}
}

func (s *shopSection) Files() []*string { return []*string{&s.rules.Export} }

// Open reads the titles of the shop, if it may matter that one is another.
func (h *shopSection) Open(s *Sheet) error {
	if h.rules.Export == "" || s.Columns.First(catalogue.Slug) >= 0 || s.Columns.First(catalogue.SKU) < 0 || s.Columns.First(catalogue.Title) < 0 {
		return nil
	}
	fields, hints := s.Book.Fields()
	table, err := sheet.Open(h.rules.Export, sheet.Options{Spool: s.Temp, Fields: fields, Hints: hints, AnyHeadings: true})
	if err != nil {
		return &ruleError{key: "export", error: fmt.Errorf("[shop] export: %w", err)}
	}
	defer table.Close()
	sku, title := table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.Title)
	if sku < 0 || title < 0 {
		return nil // it is for something else
	}
	return table.Each(func() { h.titles = make(map[uint64]string) }, func(row *catalogue.Row) {
		key, words := text.Typed(strings.TrimSpace(row.Cell(sku))), strings.TrimSpace(row.Cell(title))
		if _, there := h.titles[xxhash.Sum64String(key)]; !there && key != "" && words != "" {
			h.titles[xxhash.Sum64String(key)] = strings.Clone(words)
		}
	})
}

// Steps looks for titles by which an importer would not find the product again.
func (h *shopSection) Steps(s *Sheet) error {
	var inShop func(string) (string, bool)
	if h.titles != nil {
		inShop = func(sku string) (string, bool) {
			title, there := h.titles[xxhash.Sum64String(sku)]
			return title, there
		}
	}
	if step, ok := steps.Retitled(&s.Sheet, inShop, filepath.Base(h.rules.Export)); ok {
		s.Add(StageSanity, step)
	}
	return nil
}
