package repair

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// someFiles gives files and rulebooks of all kinds: nasty ones, and made-up ones with rules
// about cells and about products.
func someFiles(t *testing.T, seeds uint64, do func(name string, opt Options)) {
	for seed := range seeds {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", string(nasty(seed, 60))), filepath.Join(dir, "out"))
		opt.Book.Barcode, opt.Temp = orders(seed), dir
		do(fmt.Sprintf("nasty/%d", seed), opt)
		do(fmt.Sprintf("any/%d", seed), anyFile(t, rand.New(rand.NewPCG(seed, 31))))
		do(fmt.Sprintf("products/%d", seed), anyProductsFile(t, rand.New(rand.NewPCG(seed, 32))))
		do(fmt.Sprintf("kin/%d", seed), kinFile(t, rand.New(rand.NewPCG(seed, 33))))
	}
}

// kinFile makes up a file of products that parents bring together, in which rows were copied
// and lost their SKUs, barcodes and letters since; a trusted sheet has them.
func kinFile(t *testing.T, r *rand.Rand) Options {
	var text, trusted strings.Builder
	text.WriteString("SKU,Parent SKU,Title,EAN,Price,MPN,Description,Image,Size,Gauge,Sizes,Supplier\n")
	trusted.WriteString("SKU,EAN,Title,Size\n")
	for i := range 30 {
		sku, parent, mpn := fmt.Sprintf("%dE%02d", 1+i, r.IntN(9)), fmt.Sprintf("P-%d", i/5), fmt.Sprintf("M%d", i)
		data := 952100000000 + uint64(r.IntN(500))
		code := barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13)
		title, size, gauge, sizes := fmt.Sprintf("Küche %d", i), fmt.Sprint(i%3), fmt.Sprint(i%2), ""
		fmt.Fprintf(&trusted, "%s,%s,%s,%s\n", sku, code, title, size)
		number, _ := barcode.Number(code)
		switch r.IntN(6) {
		case 0:
			code = fmt.Sprintf("%.5E", float64(number))
		case 1:
			title = strings.Replace(title, "ü", "\ufffd", 1)
		case 2:
			mpn = fmt.Sprintf("M%d", i-1)
		case 3:
			sizes, code = "S|M", ""
		case 4:
			sku = fmt.Sprintf("%d.00E+%02d", 1+i, r.IntN(9))
		}
		price := "5.50"
		if i%5 == 0 {
			sku, parent, price, code, gauge = parent, "", "", "", ""
		}
		if i%11 == 10 {
			parent = "P-gone"
		}
		fmt.Fprintln(&text, strings.Join([]string{sku, parent, title, code, price, mpn, "About " + mpn, fmt.Sprintf("%d.jpg", i), size,
			gauge, sizes, ""}, ","))
	}
	rules := "[products]\nparents = { \"Parent SKU\" = { empty = true } }\n[images]\nof_variants = \"Shown\"\nnumber = true\n"
	if r.IntN(2) == 0 {
		rules += "[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Cut\"\nset = { sku = \"{sku}-{Cut}\" }\n"
	}
	if r.IntN(2) == 0 {
		rules += "[[one_row_for_all]]\nfrom = \"Gauge\"\nunlike = [\"sku\", \"barcode\", \"mpn\", \"title\", \"description\", \"images\", \"size\", \"Shown\"]\n"
	}
	rules += "[title]\nlongest = 9\n[brand]\nrequired = true\n[columns]\nadd = { brand = \"B\" }\n[[build]]\ninto = \"Tag\"\nfrom = \"{title} {Gauge}\"\n"
	if r.IntN(2) == 0 {
		rules = ""
	}
	opt := madeUp(t, text.String(), rules, map[string]string{"trusted.csv": trusted.String()})
	opt.Trust = []string{filepath.Join(opt.Temp, "trusted.csv")}
	return opt
}

// TestStepsDoWhatTheySay: on files of all kinds no step does, notices or learns anything
// else when there is something else in the cells at which it says it does not look, and none
// writes a cell, or applies a rule, that it does not declare.
func TestStepsDoWhatTheySay(t *testing.T) {
	var mutex sync.Mutex
	failed := make(map[string]string)
	someFiles(t, 12, func(name string, opt Options) {
		opt.hold = func(c *line.Pipeline, width int) {
			c.Hold(width, func(step, what string) {
				mutex.Lock()
				defer mutex.Unlock()
				if failed[step] == "" {
					failed[step] = name + ": " + what
				}
			})
		}
		Run(t.Context(), opt) // what is refused is refused
	})
	for _, step := range slices.Sorted(maps.Keys(failed)) {
		assert.Fail(t, step, failed[step])
	}
}

// TestDeclarationsAreNeeded: without any of its declarations a step is caught.
func TestDeclarationsAreNeeded(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long, and nothing in it runs at once that does not elsewhere")
	}
	type mutation struct{ step, what string }
	remove := map[string]func(*line.Step) bool{ // report whether there is anything to remove
		"reads": func(s *line.Step) bool {
			some := !s.Reads.Without(s.Writes).Without(s.Glances).Empty()
			s.Reads = catalogue.ColumnSet{}
			return some
		},
		"writes": func(s *line.Step) bool {
			some := !s.Writes.Empty()
			s.Reads.AddAll(s.Writes)
			s.Writes = catalogue.ColumnSet{}
			return some
		},
		"learns": func(s *line.Step) bool { // the survey sees all the same
			some := !s.Learns.Empty()
			s.Learns = catalogue.ColumnSet{}
			return some
		},
		"rules": func(s *line.Step) bool {
			some := len(s.Rules) > 0
			s.Rules = nil
			return some
		},
	}
	caught := make(map[mutation]bool)
	var mutex sync.Mutex
	someFiles(t, 10, func(name string, opt Options) {
		for what, remove := range remove {
			opt.hold = func(c *line.Pipeline, width int) {
				if c.Whole != nil {
					c.GroupedBy = catalogue.FirstColumns(width)
				}
				for i := range c.Steps {
					if m := (mutation{c.Steps[i].Name, what}); remove(&c.Steps[i]) && !caught[m] {
						caught[m] = false
					}
				}
				c.Hold(width, func(step, _ string) {
					mutex.Lock()
					defer mutex.Unlock()
					caught[mutation{step, what}] = true
				})
			}
			Run(t.Context(), opt)
		}
	})
	for m, is := range caught {
		assert.True(t, is, "nobody notices that the step %q does not say what it %s", m.step, m.what)
	}
	assert.Greater(t, len(caught), 40)
}

// TestOrderOfSteps: where two steps of the line change places of which one needs what the
// other does, it is an error, or something else comes out.
func TestOrderOfSteps(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long, and nothing in it runs at once that does not elsewhere")
	}
	noticed := make(map[string]bool)
	someFiles(t, 6, func(name string, opt Options) {
		first, err := Run(t.Context(), opt)
		if err != nil {
			return
		}
		want := contents(t, first.Folder)
		delete(want, "run.json")
		for _, pair := range []string{
			"shape, barcodes", "shape, orders", "text, skus", "text, products", "text, orders", "text, limits", "text, together",
			"skus, barcodes", "skus, orders", "barcodes, orders", "barcodes, one row each", "products, orders",
			"one row each, limits", "one row each, image numbers", "image cells, orders", "image cells, together",
			"orders, limits", "orders, one row for all", "orders, together", "orders, rows", "one row for all, image numbers",
			"one row for all, together",
		} {
			if noticed[pair] {
				continue
			}
			early, late, _ := strings.Cut(pair, ", ")
			opt.hold = func(c *line.Pipeline, _ int) {
				of := func(name string) int {
					return slices.IndexFunc(c.Steps, func(s line.Step) bool { return s.Name == name })
				}
				if x, y := of(early), of(late); x >= 0 && y >= 0 {
					c.Steps[x], c.Steps[y] = c.Steps[y], c.Steps[x]
					noticed[pair] = c.Check() != nil
				}
			}
			opt.Target = filepath.Join(opt.Temp, "exchanged "+pair)
			other, err := Run(t.Context(), opt)
			if !noticed[pair] && err == nil {
				got := contents(t, other.Folder)
				delete(got, "run.json")
				noticed[pair] = !maps.Equal(want, got)
			}
		}
	})
	for pair, is := range noticed {
		assert.True(t, is, "nobody notices that these have changed places: %s", pair)
	}
}
