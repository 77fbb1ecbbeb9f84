package template

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
