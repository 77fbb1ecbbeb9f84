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

	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// offersOf returns the columns of a file, with its first rows.
func offersOf(t *testing.T, path string) []Offer {
	table, err := sheet.Open(path, sheet.Options{Spool: t.TempDir()})
	require.NoError(t, err)
	defer table.Close()
	return OffersOf(&table.Columns, table.Sample)
}

// TestMatches: what fills the columns of eight forms, made by people who have not read the code.
func TestMatches(t *testing.T) {
	t.Parallel()
	all, right, asked, wrong, sources, silent := 0, 0, 0, 0, 0, 0
	for n := 1; n <= 8; n++ {
		dir := filepath.Join("testdata", "t"+strconv.Itoa(n))
		data, err := os.ReadFile(filepath.Join(dir, "truth.json"))
		require.NoError(t, err)
		var truth struct {
			Mapping map[string]struct {
				Answer string
				Also   []string
			}
		}
		require.NoError(t, json.Unmarshal(data, &truth))
		forms, _ := filepath.Glob(filepath.Join(dir, "template.*"))
		files, _ := filepath.Glob(filepath.Join(dir, "source.*"))
		form, err := Learn(forms[0])
		require.NoError(t, err)
		offers := offersOf(t, files[0])
		for i, m := range form.Match(offers) {
			want := truth.Mapping[workbook.ColumnName(i)]
			have := "none"
			switch {
			case m.Ask:
				have = "ask"
			case m.From >= 0:
				if have = "src:" + offers[m.From].Heading; m.Nth > 0 {
					have += "#" + strconv.Itoa(m.Nth)
				}
			case m.Fixed != "":
				have = "fixed:" + m.Fixed
			}
			all++
			if strings.HasPrefix(want.Answer, "src:") {
				sources++
			}
			base, _, _ := strings.Cut(want.Answer, "#")
			switch {
			case have == want.Answer || slices.Contains(want.Also, have) || have == base:
				right++
				continue
			case have == "ask":
				asked++
			default:
				if wrong++; m.From >= 0 {
					silent++
				}
			}
			what := ""
			if m.From >= 0 {
				what = fmt.Sprintf(" (%s, %d", offers[m.From].Heading, m.Score)
				if m.Next >= 0 {
					what += ", next " + offers[m.Next].Heading
				}
				what += ")"
			}
			t.Logf("t%d %s %s: %s%s, and it is %s", n, workbook.ColumnName(i), form.Columns[i].Heading, have, what, want.Answer)
		}
	}
	t.Logf("of %d columns, %d of which have a source, %d are right, %d asked, %d wrong", all, sources, right, asked, wrong)
	assert.GreaterOrEqual(t, 100*(right+asked), 97*all)
	assert.LessOrEqual(t, 100*asked, 8*sources)
	assert.Zero(t, silent, "columns filled with what is not theirs, unasked")
}
