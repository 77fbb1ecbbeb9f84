package steps

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/sheet"
)

// carried sends a file through a step, with the one that says what rows are before it, and returns
// what goes out without the headings, then the findings, each with how many cells it is about.
func carried(t *testing.T, file string, rules *products.Rules, add func(*Sheet) (line.Step, error)) string {
	t.Helper()
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(file), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	s := fitted(t, table, rules)
	step, err := add(s)
	require.NoError(t, err)
	pipeline := &line.Pipeline{Grouping: s.Key.Grouping(), Steps: []line.Step{Shape(s, false), step}, Claims: s.Claims, Lists: s.Lists}
	survey, err := line.Look(context.Background(), table, func() (*line.Pipeline, error) { return pipeline, nil }, line.Options{Workers: 1})
	require.NoError(t, err)
	run := line.Run{Options: line.Options{Workers: 1}, Table: table, Pipeline: pipeline, Survey: survey}
	report, finish, err := run.Do(context.Background(), dir)
	require.NoError(t, err)
	_, err = finish()
	require.NoError(t, err)
	content, err := os.ReadFile(filepath.Join(dir, "ready.csv"))
	require.NoError(t, err)
	_, out, _ := strings.Cut(strings.TrimSuffix(string(content), "\n"), "\n")
	for _, f := range report.Found {
		out += fmt.Sprintf("; %s %d", f.Code, f.Cells)
	}
	return out
}

// TestEach: a row is made of each value, with what belongs to each; where a code would be that of
// several, or an SKU would be there twice, nothing is made.
func TestEach(t *testing.T) {
	const head = "Slug,SKU,EAN,Title,Sizes,Size,Price\n"
	for name, test := range map[string]struct {
		rows, want string
		scope      condition.Scope
	}{
		"three sizes": {"suit,A,,Suit,\"S, M, L\",,5\n", "suit,A-S,,Suit,\"S, M, L\",S,5\nsuit,A-M,,,,M,5\nsuit,A-L,,,,L,5",
			condition.Scope{}},
		"one value": {"suit,A,,Suit,M,,5\n", "suit,A-M,,Suit,M,M,5", condition.Scope{}},
		"none, and one that has one": {"suit,A,,Suit,,,5\nveil,B,,Veil,\"S, M\",S,5\n", "suit,A,,Suit,,,5\nveil,B,,Veil,\"S, M\",S,5",
			condition.Scope{}},
		"a value twice":             {"suit,A,,Suit,\"S, s\",,5\n", "; each.twice 1", condition.Scope{}},
		"a barcode for two":         {"suit,A,9521234000013,Suit,\"S, M\",,5\n", "; each.barcode 1", condition.Scope{}},
		"an SKU that another makes": {"suit,A,,Suit,\"S, M\",,5\nveil,A,,Veil,M,,5\n", "; sku.duplicate 3", condition.Scope{}},
		"no SKU comes of it":        {"suit,,,Suit,\"S, M\",,5\n", "; each.sku 2", condition.Scope{}},
		"where it is not meant": {"suit,A,,Suit,\"S, M\",,5\n", "suit,A,,Suit,\"S, M\",,5",
			condition.Scope{Meant: condition.Meant{Where: map[string]any{"title": "Veil"}}}},
		"rows that are not meant": {"suit,A,,Suit,\"S, M\",,5\n", "suit,A,,Suit,\"S, M\",,5",
			condition.Scope{Meant: condition.Meant{Rows: catalogue.Rows(catalogue.ImageRow)}}},
	} {
		rule := &products.EachRule{From: "Sizes", Into: "Size", Set: map[string]string{"sku": "{sku}-{size}"}, Scope: test.scope}
		got := carried(t, head+test.rows, nil, func(s *Sheet) (line.Step, error) {
			step, ok, err := Each(s, rule)
			require.True(t, ok)
			return step, err
		})
		assert.Equal(t, test.want, got, name)
	}
}

// TestForAllStep: rows that are one but for a value become one row; what stands in the way is named.
func TestForAllStep(t *testing.T) {
	const head = "Slug,SKU,Title,Colour,Size,Price\n"
	for rows, want := range map[string]string{
		"suit,A,Suit,red,S,5\nsuit,A2,,red,M,5\nsuit,A3,,red,L,5\n":   "suit,A,Suit,red,\"S, M, L\",5",
		"suit,A,Suit,red,S,5\nsuit,A2,,red,M,6\n":                     "suit,A,Suit,red,S,5\nsuit,A2,,red,M,6; each.unlike 1",
		"suit,A,Suit,red,S,5\nsuit,A2,,blue,S,5\nsuit,A3,,blue,M,5\n": "suit,A,Suit,red,S,5\nsuit,A2,,blue,\"S, M\",5",
		"suit,A,Suit,red,\"S, M\",5\nsuit,A2,,red,L,5\n":              "suit,A,Suit,red,\"S, M\",5\nsuit,A2,,red,L,5",
		"suit,A,Suit,red,S,5\nveil,V,Veil,red,M,5\n":                  "suit,A,Suit,red,S,5\nveil,V,Veil,red,M,5",
	} {
		got := carried(t, head+rows, nil, func(s *Sheet) (line.Step, error) {
			step, ok, err := ForAll(s, &products.AllRule{From: "Size", Unlike: []string{"sku"}})
			require.True(t, ok)
			return step, err
		})
		assert.Equal(t, want, got, rows)
	}
}

// TestImages: images in rows of their own, in the lead row, numbered, and one for each variant.
func TestImages(t *testing.T) {
	const head = "Slug,SKU,Title,Colour,Image,Alt text,Image 2,Image order\n"
	const several = "box,B,Box,red,\"a.jpg, b.jpg\",\"one, two\",c.jpg,\n"
	const rows = "box,B,Box,red,a.jpg,,,\nbox,B2,,blue,,,,\nbox,,,,b.jpg,back,,\n"
	for _, test := range []struct {
		name, rows string
		rules      products.ImageRules
		pick       func(ImageSteps) line.Step
		want       string
	}{
		{"rows of their own", several, products.ImageRules{As: "rows", Columns: []string{"Image 2"}},
			func(s ImageSteps) line.Step { return s.Places[0] },
			"box,B,Box,red,\"a.jpg\",\"one, two\",,\nbox,,,,b.jpg,,,\nbox,,,,c.jpg,,,"},
		{"in one cell", rows, products.ImageRules{As: "cell", At: " | "}, func(s ImageSteps) line.Step { return s.Places[0] },
			"box,B,Box,red,a.jpg | b.jpg, | back,,\nbox,B2,,blue,,,,"},
		{"in columns", rows, products.ImageRules{As: "columns", Columns: []string{"Image 2"}},
			func(s ImageSteps) line.Step { return s.Again[0] },
			"box,B,Box,red,a.jpg,\",back\",b.jpg,\nbox,B2,,blue,,,,"},
		{"numbered", rows, products.ImageRules{Number: true}, func(s ImageSteps) line.Step { return s.Numbers[0] },
			"box,B,Box,red,a.jpg,,,1\nbox,B2,,blue,,,,\nbox,,,,b.jpg,back,,2"},
		{"one for each variant", rows, products.ImageRules{OfVariants: "Image 2"}, func(s ImageSteps) line.Step { return s.Variants[0] },
			"box,B,Box,red,a.jpg,,a.jpg,\nbox,B2,,blue,,,a.jpg,\nbox,,,,b.jpg,back,,"},
	} {
		got := carried(t, head+test.rows, nil, func(s *Sheet) (line.Step, error) {
			steps, err := Images(s, &test.rules, nil, nil, nil, nil)
			return test.pick(steps), err
		})
		assert.Equal(t, test.want, got, test.name)
	}
}

// TestRowsStep: which products are worked on is said of whole products.
func TestRowsStep(t *testing.T) {
	const file = "Slug,SKU,Title,Brand,Price\nbox,B1,Box,Wick,9\nbox,B2,,,12\nveil,V,Veil,Saltmarsh,5\nveil2,V,Veil,Saltmarsh,6\n"
	for name, test := range map[string]struct {
		rules []condition.RowRule
		want  string
	}{
		"kept": {[]condition.RowRule{{Keep: map[string]any{"brand": "Wick"}}}, "box,B1,Box,Wick,9\nbox,B2,,,12; row.not-wanted 2"},
		"one row is enough": {[]condition.RowRule{{Aside: map[string]any{"price": map[string]any{"above": int64(10)}}}},
			"veil,V,Veil,Saltmarsh,5\nveil2,V,Veil,Saltmarsh,6; row.not-wanted 2"},
		"one of those with an SKU": {[]condition.RowRule{{OnePer: "sku", Choose: "last"}},
			"box,B1,Box,Wick,9\nbox,B2,,,12\nveil2,V,Veil,Saltmarsh,6; row.passed-over-differs 1"},
	} {
		got := carried(t, file, nil, func(s *Sheet) (line.Step, error) { return Rows(s, test.rules) })
		assert.Equal(t, test.want, got, name)
	}
}

// TestLimits: what a field must be is held to.
func TestLimits(t *testing.T) {
	field := func(rule lists.FieldRule) Field { return Field{FieldRule: rule} }
	const file = "SKU,Title,Brand,Colour\nA,A very long title indeed,Wick,red\nB,Middling,,green\nC,Short,Wikc,red\n"
	for name, test := range map[string]struct {
		fields map[string]Field
		want   string
	}{
		"nothing": {nil, "A,A very long title indeed,Wick,red\nB,Middling,,green\nC,Short,Wikc,red"},
		"required": {map[string]Field{"brand": field(lists.FieldRule{Required: true})},
			"A,A very long title indeed,Wick,red\nC,Short,Wikc,red; value.missing 1"},
		"too long": {map[string]Field{"title": field(lists.FieldRule{Longest: 10})},
			"B,Middling,,green\nC,Short,Wikc,red; value.long 1"},
		"the same again": {map[string]Field{"colour": field(lists.FieldRule{Unique: true})}, "B,Middling,,green; value.twice 2"},
	} {
		got := carried(t, file, nil, func(s *Sheet) (line.Step, error) { return Limits(s, test.fields) })
		assert.Equal(t, test.want, got, name)
	}
}

// TestProductSteps: what is wrong with the rows of products is named, and what is ordered is put right.
func TestProductSteps(t *testing.T) {
	const head = "Slug,SKU,Parent SKU,Title,Brand,Colour\n"
	together := func(s *Sheet) (line.Step, error) {
		return Together(s, s.List(line.List{Name: "says-differently.csv"})), nil
	}
	parents := func(s *Sheet) (line.Step, error) { return Parents(s), nil }
	for _, test := range []struct {
		name, rows string
		rules      *products.Rules
		step       func(*Sheet) (line.Step, error)
		want       string
	}{
		{"whole", "box,B1,,Box,Wick,red\nbox,B2,,,,blue\n", nil, together, "box,B1,,Box,Wick,red\nbox,B2,,,,blue"},
		{"two brands", "box,B1,,Box,Wick,red\nbox,B2,,,Saltmarsh,blue\n", nil, together,
			"box,B1,,Box,Wick,red\nbox,B2,,,Saltmarsh,blue; product.differs 1"},
		{"two variants alike", "box,B1,,Box,Wick,red\nbox,B2,,,,red\n", nil, together,
			"box,B1,,Box,Wick,red\nbox,B2,,,,red; option.perhaps-alike 1"},
		{"apart", "box,B1,,Box,Wick,red\nveil,V,,Veil,,\nbox,B2,,,,blue\n", nil, together, "veil,V,,Veil,,; product.scattered 2"},
		{"a parent that is not there", ",P,,Box,,\n,C1,P,,,red\n,C2,Q,,,blue\n", nil, parents,
			",P,,Box,,\n,C1,P,,,red\n,C2,Q,,,blue; product.no-parent 1"},
		{"the lead row's brand", "box,B1,,Box,Wick,red\nbox,B2,,,Saltmarsh,blue\n", &products.Rules{Differ: "lead"},
			func(s *Sheet) (line.Step, error) { return OfOneProduct(s, &products.Rules{Differ: "lead"}) },
			"box,B1,,Box,Wick,red\nbox,B2,,,Wick,blue"},
		{"said once", "box,B1,,Box,Wick,red\nbox,B2,,Box,Wick,blue\n", &products.Rules{LeadOnly: []string{"title", "brand"}},
			func(s *Sheet) (line.Step, error) {
				return OfOneProduct(s, &products.Rules{LeadOnly: []string{"title", "brand"}})
			}, "box,B1,,Box,Wick,red\nbox,B2,,,,blue"},
	} {
		assert.Equal(t, test.want, carried(t, head+test.rows, test.rules, test.step), test.name)
	}
	rows := "A,Smoker,11\nB,Hive box,12\nC,Veil,13\nD,Bee brush,13\nE,Feeder,15\nF,Extractor,16"
	assert.Equal(t, rows+"; product.copied 1", carried(t, "SKU,Title,MPN\n"+rows+"\n", nil, func(s *Sheet) (line.Step, error) {
		return Copied(s), nil
	}), "a row that still has the part number of the one above")
}

// TestImagesDeclare: each step declares the columns that it writes itself, and none of the next.
func TestImagesDeclare(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("Slug,SKU,Title,Image,Own image\nbox,B,Box,a.jpg,\n"), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	steps, err := Images(fitted(t, table, nil), &products.ImageRules{As: "rows", OfVariants: "Own image"}, nil, nil, nil, nil)
	require.NoError(t, err)
	require.Len(t, steps.Places, 1)
	assert.Equal(t, []int{3}, steps.Places[0].Writes.List())
	assert.Equal(t, []int{4}, steps.Variants[0].Writes.List())
	assert.Equal(t, []int{3, 4}, steps.Variants[0].Reads.List())
}

// TestRefused: a rule that names what is not there, or may not be written, is refused with a reason.
func TestRefused(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("SKU,EAN,Size,Memo\nA,9521234000013,S,x\n"), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	s := fitted(t, table, nil)
	for part, fit := range map[string]func() error{
		"would say to which product": func() error {
			_, _, err := Each(s, &products.EachRule{From: "Memo", Into: "Size", Set: map[string]string{"sku": "{sku}"}})
			return err
		},
		"Sizes": func() error {
			_, _, err := ForAll(s, &products.AllRule{From: "Sizes"})
			return err
		},
		"no column has any": func() error {
			_, err := Images(s, &products.ImageRules{As: "cell"}, nil, nil, nil, nil)
			return err
		},
		"EAN": func() error { return Unreserved(&s.Columns, 1, Reserved, "[[build]] into", "EAN") },
		"Nose": func() error {
			_, err := Rows(s, []condition.RowRule{{Keep: map[string]any{"Nose": "x"}}})
			return err
		},
	} {
		assert.ErrorContains(t, fit(), part)
	}
	assert.NoError(t, Unreserved(&s.Columns, 3, Reserved, "[[build]] into", "Memo"))
	assert.True(t, slices.Contains(s.known(), columns.Find(&s.Columns, "sku")))
}
