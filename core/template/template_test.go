package template

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zetanum/core/workbook"
)

// A formTruth is what is right of a form.
type formTruth struct {
	DataSheet    string `json:"data_sheet"`
	HeadingRows  []int  `json:"heading_rows"`
	GroupRows    []int  `json:"group_rows"`
	RuleRows     []int  `json:"rule_rows"`
	PreambleRows []int  `json:"preamble_rows"`
	PreambleAlso []string
	FirstDataRow int   `json:"first_data_row"`
	SampleRows   []int `json:"sample_rows"`
	Export       bool
	ColumnsCount int `json:"columns_count"`
	Ways         map[string]string
	WaysAlso     map[string][]string `json:"ways_also"`
	Columns      []struct {
		Col, Heading, Machine, Required, Limits string
		HeadingAlso                             []string `json:"heading_also"`
		RequiredAlso                            []string `json:"required_also"`
		List                                    []string
		ListAlso                                []string            `json:"list_also"`
		ListByParent                            map[string][]string `json:"list_by_parent"`
		LimitsAlso                              []string            `json:"limits_also"`
		DependsOn                               string              `json:"depends_on"`
		Hidden                                  bool
	}
	Seen map[string][]string `json:"values_seen"`
}

func numbers(list []int) string {
	var b []string
	for _, n := range list {
		b = append(b, strconv.Itoa(n))
	}
	return strings.Join(b, ",")
}

func sorted(list []string) string {
	return strings.Join(slices.Sorted(slices.Values(list)), " | ")
}

// limits writes limits as the truth does, with numbers that are the same written in the same way.
func (c *Column) limits() string {
	var list []string
	if c.MostLength > 0 {
		list = append(list, "maxlen="+strconv.Itoa(c.MostLength))
	}
	if c.Least != "" {
		list = append(list, "min="+c.Least)
	}
	if c.Most != "" {
		list = append(list, "max="+c.Most)
	}
	return strings.Join(list, ";")
}

func sameLimits(a, b string) bool {
	norm := func(s string) string {
		var list []string
		for part := range strings.SplitSeq(s, ";") {
			key, value, _ := strings.Cut(part, "=")
			if f, err := strconv.ParseFloat(value, 64); err == nil {
				value = strconv.FormatFloat(f, 'f', -1, 64)
			}
			list = append(list, key+"="+value)
		}
		return sorted(list)
	}
	return a == b || norm(a) == norm(b)
}

// TestForms: what is learnt of eight forms of different build, made by people who have not read the code.
func TestForms(t *testing.T) {
	t.Parallel()
	right, wrong := make(map[string]int), make(map[string]int)
	for n := 1; n <= 8; n++ {
		dir := filepath.Join("testdata", "t"+strconv.Itoa(n))
		data, err := os.ReadFile(filepath.Join(dir, "truth.json"))
		require.NoError(t, err)
		var truth formTruth
		require.NoError(t, json.Unmarshal(data, &truth))
		files, err := filepath.Glob(filepath.Join(dir, "template.*"))
		require.NoError(t, err)
		got, err := Learn(files[0])
		require.NoError(t, err)
		check := func(kind, what, have, want string, also ...string) {
			if have == want || slices.Contains(also, have) {
				right[kind]++
				return
			}
			wrong[kind]++
			t.Logf("t%d %s %s: %q, and it is %q", n, kind, what, have, want)
		}
		heads := []int{got.Headings}
		if got.Machine > 0 {
			heads = append(heads, got.Machine)
			slices.Sort(heads)
		}
		check("sheet", "", got.Sheet, truth.DataSheet)
		check("headings", "", numbers(heads), numbers(truth.HeadingRows))
		check("first", "", strconv.Itoa(got.First), strconv.Itoa(truth.FirstDataRow))
		check("samples", "", numbers(got.Samples), numbers(truth.SampleRows))
		check("export", "", fmt.Sprint(got.Export), fmt.Sprint(truth.Export))
		if !truth.Export {
			check("above", "", numbers(got.Preamble), numbers(truth.PreambleRows))
			check("rules", "", numbers(got.Rules), numbers(truth.RuleRows))
			check("groups", "", numbers(got.Groups), numbers(truth.GroupRows))
		}
		check("columns", "", strconv.Itoa(len(got.Columns)), strconv.Itoa(truth.ColumnsCount))
		ways := map[string]string{"yes": got.Ways.Yes, "no": got.Ways.No, "date": got.Ways.Date, "dec": got.Ways.Decimal, "sep": got.Ways.Separator}
		for way, want := range truth.Ways {
			check("ways", way, ways[way], want, truth.WaysAlso[way]...)
		}
		for i, want := range truth.Columns {
			if i >= len(got.Columns) {
				break
			}
			c := &got.Columns[i]
			check("name", want.Col, c.Heading, want.Heading, append(want.HeadingAlso, want.Machine)...)
			if seen := truth.Seen[want.Heading]; seen != nil {
				check("seen", want.Heading, sorted(c.Seen), sorted(seen))
			}
			check("hidden", want.Col, fmt.Sprint(c.Hidden), fmt.Sprint(want.Hidden))
			if truth.Export {
				continue
			}
			need := c.Need.String()
			if c.Need == Recommended {
				need = "no"
			}
			check("required", want.Col+" "+want.Heading, need, want.Required, want.RequiredAlso...)
			var also []string
			for _, list := range want.ListAlso {
				also = append(also, sorted(strings.Split(list, " | ")))
			}
			check("list", want.Col+" "+want.Heading, sorted(c.List), sorted(want.List), also...)
			if have := c.limits(); sameLimits(have, want.Limits) || slices.ContainsFunc(want.LimitsAlso, func(one string) bool { return sameLimits(have, one) }) {
				right["limits"]++
			} else {
				check("limits", want.Col+" "+want.Heading, have, want.Limits)
			}
			if want.DependsOn != "" {
				check("depends", want.Col, workbook.ColumnName(c.Depends-1), want.DependsOn)
				for parent, list := range want.ListByParent {
					check("depends", want.Col+" "+parent, sorted(c.ListBy[parent]), sorted(list))
				}
			}
		}
	}
	all, fine := 0, 0
	for kind, n := range right {
		all, fine = all+n+wrong[kind], fine+n
	}
	t.Logf("%d of %d are right: %v; wrong: %v", fine, all, right, wrong)
	assert.GreaterOrEqual(t, 1000*fine, 995*all)
}

// writeForm writes a form: rows of cells, and colours by their cells.
func writeForm(t *testing.T, rows map[string][][]string, colours map[string]map[string]string) string {
	book := excelize.NewFile()
	for _, name := range slices.Sorted(maps.Keys(rows)) {
		_, err := book.NewSheet(name)
		require.NoError(t, err)
		for r, row := range rows[name] {
			for c, cell := range row {
				at, err := excelize.CoordinatesToCellName(c+1, r+1)
				require.NoError(t, err)
				if cell != "" {
					require.NoError(t, book.SetCellStr(name, at, cell))
				}
			}
		}
		for at, colour := range colours[name] {
			style, err := book.NewStyle(&excelize.Style{Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{colour}}})
			require.NoError(t, err)
			require.NoError(t, book.SetCellStyle(name, at, at, style))
		}
	}
	require.NoError(t, book.DeleteSheet("Sheet1"))
	path := filepath.Join(t.TempDir(), "form.xlsx")
	require.NoError(t, book.SaveAs(path))
	return path
}

// TestOtherForms: forms of other trades and builds, and in other languages, than those of the set.
func TestOtherForms(t *testing.T) {
	t.Parallel()
	heads := []string{"Código", "Nombre", "Talla", "Precio", "Notas"}
	needs := func(form *Template) (list []string) {
		for _, c := range form.Columns {
			list = append(list, c.Need.String())
		}
		return list
	}
	for _, tt := range []struct {
		name    string
		rows    map[string][][]string
		colours map[string]map[string]string
		want    []string
		first   int
	}{
		{"a legend on another sheet says which may stay empty", map[string][][]string{"Guía": {{"", "opcional"}}, "Datos": {heads, {"M-1", "Muestra", "M", "9,50", ""}}},
			map[string]map[string]string{"Guía": {"A1": "CCFFCC"}, "Datos": {"C1": "CCFFCC", "E1": "CCFFCC"}}, []string{"yes", "yes", "no", "yes", "no"}, 2},
		{"a legend above says which must be filled", map[string][][]string{"Datos": {{"obligatorio", "opcional"}, heads}},
			map[string]map[string]string{"Datos": {"A1": "FF0000", "B1": "00FF00", "A2": "FF0000", "B2": "FF0000", "C2": "00FF00", "D2": "FF0000", "E2": "00FF00"}}, []string{"yes", "yes", "no", "yes", "no"}, 3},
		{"words in brackets", map[string][][]string{"Datos": {{"Código (obligatorio)", "Nombre (obligatorio)", "Talla", "Precio [obligatorio]", "Notas (opcional)"}}}, nil, []string{"yes", "yes", "no", "yes", "no"}, 2},
		{"a row of words under a row of rules", map[string][][]string{"Datos": {heads, {"máximo 20 caracteres", "máximo 80 caracteres", "uno de: S | M | L", "número con coma decimal", "máximo 500 caracteres"},
			{"obligatorio", "obligatorio", "opcional", "obligatorio", "recomendado"}, {"EJEMPLO", "Camisa de ejemplo", "M", "19,90", ""}}}, nil, []string{"yes", "yes", "no", "yes", "recommended"}, 4},
		{"nothing says so", map[string][][]string{"Datos": {heads}}, nil, []string{"no", "no", "no", "no", "no"}, 2},
	} {
		form, err := Learn(writeForm(t, tt.rows, tt.colours))
		require.NoError(t, err, tt.name)
		assert.Equal(t, tt.want, needs(form), tt.name)
		assert.Equal(t, tt.first, form.First, tt.name)
		assert.Equal(t, "Datos", form.Sheet, tt.name)
	}
	form, err := Learn(writeForm(t, map[string][][]string{"Datos": {heads, {"máximo 20 caracteres", "máximo 80 caracteres", "uno de: S | M | L", "número con coma decimal, 0,50 a 999", "máximo 500 caracteres"},
		{"EJEMPLO", "Camisa de ejemplo", "M", "19,90", ""}}}, nil))
	require.NoError(t, err)
	assert.Equal(t, []string{"a text, at most 20 characters", "a text, at most 80 characters", "one of 3: S, M, L", "a number from 0.50 to 999", "a text, at most 500 characters"},
		[]string{form.Says(0), form.Says(1), form.Says(2), form.Says(3), form.Says(4)})
	assert.Equal(t, ",", form.Ways.Decimal)
	for note, most := range map[string][2]int{"No más de 500 artículos por archivo": {500, 0}, "Not more than 500 articles, and at most 10 MB a file": {500, 10}, "Höchstens 1.000 Artikel, bis zu 5 Megabyte je Datei": {1000, 5},
		"Pictures: up to 2 MB a file": {}, "Maximum 20 MB": {}} {
		form, err := Learn(writeForm(t, map[string][][]string{"Datos": {{note}, heads, {"máximo 20 caracteres", "máximo 80 caracteres", "", "", ""}}}, nil))
		require.NoError(t, err)
		assert.Equal(t, most, [2]int{form.MostRows, form.MostMegabytes}, note)
	}
	path := writeForm(t, map[string][][]string{"Datos": {heads}}, nil)
	book, err := excelize.OpenFile(path)
	require.NoError(t, err)
	for col, blank := range map[string]bool{"A": false, "B": true, "D": false} {
		dv := excelize.NewDataValidation(blank)
		dv.Sqref = col + "2:" + col + "99"
		require.NoError(t, dv.SetRange(1, 40, excelize.DataValidationTypeTextLength, excelize.DataValidationOperatorBetween))
		require.NoError(t, book.AddDataValidation("Datos", dv))
	}
	require.NoError(t, book.Save())
	form, err = Learn(path)
	require.NoError(t, err)
	assert.Equal(t, []string{"yes", "no", "no", "yes", "no"}, needs(form), "by what may stay empty, where nothing else says so")
	typed := filepath.Join(t.TempDir(), "typed.csv")
	require.NoError(t, os.WriteFile(typed, []byte("Sellers' upload, version 3;;;;\n;;;;\nArtikelnr.*;Artikelname*;Preis*;Menge*;Aktiv\nstring(20);string(80);decimal;integer;boolean\nSKU123;Muster;19,90;5;ja\n"), 0o666))
	form, err = Learn(typed)
	require.NoError(t, err)
	assert.Equal(t, []string{"a text, at most 20 characters", "a text, at most 80 characters", "a number", "a whole number"}, []string{form.Says(0), form.Says(1), form.Says(2), form.Says(3)})
	assert.Equal(t, []int{3, 4, 5, 5}, []int{form.Headings, form.Rules[0], form.Samples[0], form.First})
	for _, bad := range []string{"", "\n\n\n", "just a word\n"} {
		path := filepath.Join(t.TempDir(), "bad.csv")
		require.NoError(t, os.WriteFile(path, []byte(bad), 0o666))
		_, err := Learn(path)
		assert.Error(t, err, "%q", bad)
	}
	_, err = Learn(filepath.Join(t.TempDir(), "none.csv"))
	assert.ErrorIs(t, err, os.ErrNotExist)
}
