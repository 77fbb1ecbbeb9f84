package imagelink

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// table reads a file of testdata: columns between tabs, with \t, \n, \r and \\ for what they stand for.
func table(t *testing.T, name string) []map[string]string { return tableOf(t, name) }

func tableOf(t testing.TB, name string) (rows []map[string]string) {
	data, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	lines := strings.Split(strings.TrimRight(string(data), "\n"), "\n")
	headings := strings.Split(lines[0], "\t")
	real := strings.NewReplacer(`\t`, "\t", `\n`, "\n", `\r`, "\r", `\\`, `\`)
	for _, line := range lines[1:] {
		row := make(map[string]string)
		for i, cell := range strings.Split(line, "\t") {
			row[headings[i]] = real.Replace(cell)
		}
		rows = append(rows, row)
	}
	return rows
}

// ordered returns the rules that a row of the tables asks for.
func ordered(t *testing.T, options string) *Rules {
	var o struct {
		HTTPS, Tracking, Fragments bool
		SizeParams                 []string          `json:"size_params"`
		Hosts                      map[string]string `json:"hosts"`
		BaseURL                    string            `json:"base_url"`
		Case                       string
	}
	require.NoError(t, json.Unmarshal([]byte(options), &o))
	r := &Rules{Repair: true, HTTPS: o.HTTPS, DropTracking: o.Tracking, DropFragments: o.Fragments, DropParameters: o.SizeParams,
		Hosts: o.Hosts, BaseURL: o.BaseURL, NameCase: o.Case}
	require.Empty(t, r.Check())
	return r
}

// TestSet reads cases that were made without looking at the code, with their right answers. All that are right already come back byte for
// byte.
func TestSet(t *testing.T) {
	right, all, wrong := 0, 0, 0
	for _, row := range table(t, "links.tsv") {
		r := ordered(t, row["options"])
		var also []string
		if row["also"] != "" {
			require.NoError(t, json.Unmarshal([]byte(row["also"]), &also))
		}
		got := r.Read(nil, row["in"])
		all++
		if len(got) == 1 && (got[0].Out == row["out"] || slices.Contains(also, got[0].Out)) {
			right++
		} else {
			if len(got) != 1 || got[0].Out != strings.TrimSpace(row["in"]) {
				wrong++
			}
			t.Logf("%s %s %s: %q\n got  %q\n want %q", row["id"], row["kind"], row["options"], row["in"], got, row["out"])
		}
		if len(got) == 1 {
			if open, is := strings.CutPrefix(row["verdict"], "open:"); is && open != strings.ReplaceAll(got[0].Is.String(), " ", "-") {
				t.Logf("%s %s is %s", row["id"], row["verdict"], got[0].Is)
			} else if !is && got[0].Is != Picture {
				t.Logf("%s %s %s is %s", row["id"], row["in"], row["verdict"], got[0].Is)
			}
		}
	}
	t.Logf("links: %d of %d right, %d changed into something else", right, all, wrong)
	assert.GreaterOrEqual(t, right, 97*all/100)
	assert.Zero(t, wrong, "a link became that of another picture")

	right, all = 0, 0
	for _, row := range table(t, "link-cells.tsv") {
		r := ordered(t, row["options"])
		var want []string
		var also [][]string
		require.NoError(t, json.Unmarshal([]byte(row["out"]), &want))
		if row["also"] != "" {
			require.NoError(t, json.Unmarshal([]byte(row["also"]), &also))
		}
		var got []string
		for _, l := range kept(r, row["in"]) {
			got = append(got, l.Out)
		}
		all++
		if slices.Equal(got, want) || slices.ContainsFunc(also, func(a []string) bool { return slices.Equal(a, got) }) {
			right++
		} else {
			t.Logf("%s %s %s: %q\n got  %q\n want %q", row["id"], row["kind"], row["options"], row["in"], got, want)
		}
	}
	t.Logf("cells: %d of %d right", right, all)
	assert.GreaterOrEqual(t, right, 97*all/100)

	data, err := os.ReadFile("testdata/links-right.txt")
	require.NoError(t, err)
	notPlain := 0
	for line := range strings.Lines(string(data)) {
		line = strings.TrimSuffix(line, "\n")
		if !plain(line) {
			notPlain++
		}
		got := Read(nil, line)
		if len(got) != 1 || got[0].Out != line {
			t.Errorf("%q got %q", line, got)
		} else if got[0].Is != Picture {
			t.Logf("%q is %s", line, got[0].Is)
		}
	}
	t.Logf("%d of the right ones are not plain", notPlain)
}
