package template

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestJudge: rows with planted faults are taken and refused as people who have not read the code say that an importer of the form does.
func TestJudge(t *testing.T) {
	t.Parallel()
	data, err := os.ReadFile(filepath.Join("testdata", "importer", "truth.json"))
	require.NoError(t, err)
	var truth struct {
		Catalogues map[string]struct {
			File string
			Rows map[string]json.RawMessage
		}
	}
	require.NoError(t, json.Unmarshal(data, &truth))
	form, err := Learn(filepath.Join("testdata", "t1", "template.csv"))
	require.NoError(t, err)
	names := map[string]Reason{"key-twice": ReasonTwice, "yesno": ReasonAnswer}
	agreed, all := 0, 0
	for name, want := range truth.Catalogues {
		file, err := os.Open(filepath.Join("testdata", "importer", name+".csv"))
		require.NoError(t, err)
		rows, err := csv.NewReader(file).ReadAll()
		require.NoError(t, err)
		require.NoError(t, file.Close())
		all++
		if verdict := form.Accepts(rows); (verdict == "") == (want.File == "taken") {
			agreed++
		} else {
			t.Logf("%s: %s, and it is %s", name, verdict, want.File)
		}
		if want.File != "taken" {
			continue
		}
		judge := form.NewJudge(-1)
		for i := form.head(); i < len(rows); i++ {
			var reasons []string
			for _, w := range judge.Row(rows[i]) {
				reasons = append(reasons, string(w.Reason))
			}
			slices.Sort(reasons)
			var right struct{ Reasons []string }
			raw := want.Rows[strconv.Itoa(i+1)]
			_ = json.Unmarshal(raw, &right) // of a row that is taken it is a text
			for k, reason := range right.Reasons {
				if other, is := names[reason]; is {
					right.Reasons[k] = string(other)
				}
			}
			slices.Sort(right.Reasons)
			all++
			if slices.Equal(slices.Compact(reasons), slices.Compact(right.Reasons)) {
				agreed++
			} else {
				t.Logf("%s row %d: %s, and it is %s", name, i+1, strings.Join(reasons, ", "), raw)
			}
		}
	}
	t.Logf("| verdicts of an importer | %d of %d |", agreed, all)
	assert.Equal(t, all, agreed)
}
