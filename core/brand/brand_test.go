package brand

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/lists"
)

// TestWithoutForm: legal forms are taken off the end of a name, and nothing else.
func TestWithoutForm(t *testing.T) {
	for name, want := range map[string]string{
		"Nørrebi GmbH & Co. KG": "Nørrebi", "NØRREBI GMBH": "NØRREBI", "Nørrebi, S.r.l.": "Nørrebi", "Nørrebi Sp. z o.o.": "Nørrebi",
		"Nørrebi Limited": "Nørrebi", "Nørrebi A.Ş.": "Nørrebi", "Nørrebi San. ve Tic. Ltd. Şti.": "Nørrebi", "Nørrebi S.p.A.": "Nørrebi",
		"Nørrebi B.V.": "Nørrebi", "Nørrebi e.K.": "Nørrebi", "Nørrebi SE": "Nørrebi", "Nørrebi Pty Ltd": "Nørrebi", "Nørrebi S. A.": "Nørrebi",
		"Bean & Sons": "Bean & Sons", "Bean & Co": "Bean & Co", "As it is": "As it is", "Made as": "Made as", "Ltd": "Ltd", "GmbH": "GmbH",
		"Unlimited": "Unlimited", "The Inc Company": "The Inc Company", "Kg": "Kg", "Casa": "Casa", "": "",
	} {
		assert.Equal(t, want, WithoutForm(name), name)
	}
}

// TestIsPlaceholder: what says that there is no brand is told from brands.
func TestIsPlaceholder(t *testing.T) {
	for _, name := range []string{"none", "N/A", "n.a.", "-", "--", "Ohne  Marke", "SENZA MARCA", "(unbranded)", "?", "Generic", "xx", "Bez marki", "n.v.t."} {
		assert.True(t, IsPlaceholder(name), name)
	}
	for _, name := range []string{"", "Generic Garden", "Nonesuch", "No", "X-Large", "Nørrebi", "Brand", "Unknown Pleasures", "Napis"} {
		assert.False(t, IsPlaceholder(name), name)
	}
}

// TestSet: columns of brands come out as they should, each as one file.
func TestSet(t *testing.T) {
	content, err := os.ReadFile("testdata/brands.tsv")
	require.NoError(t, err)
	groups := make(map[string][][]string)
	for n, line := range strings.Split(strings.TrimSuffix(string(content), "\n"), "\n") {
		if c := strings.Split(line, "\t"); n > 0 {
			groups[c[0]] = append(groups[c[0]], c)
		}
	}
	right, all, changed := 0, 0, 0
	for _, group := range groups {
		var o struct {
			Source, By, Placeholder, Empty string
			List                           []string
			LegalForms                     string `json:"legal_forms"`
		}
		require.NoError(t, json.Unmarshal([]byte(group[0][8]), &o))
		rules := &Rules{LegalForms: o.LegalForms, WithoutBy: o.By == "strip", FromTitle: o.Empty == "from title"}
		if o.Placeholder == "empty" {
			rules.Placeholders = Blank
		}
		spellings := &lists.Spellings{By: rules.Spelt(o.List)}
		for _, row := range group {
			if name := strings.TrimSpace(row[2]); rules.Counts(name) {
				spellings.Add(name)
			}
		}
		judged := spellings.Judge()
		known := Known(o.List)
		if known == nil {
			known = spellings.Values(true)
		}
		finder := NewFinder(known)
		apply := func(name, title string) string {
			if name = strings.TrimSpace(name); rules.Placeholders == Blank && IsPlaceholder(name) {
				name = ""
			}
			if name == "" && rules.FromTitle {
				name, _ = finder.In(title)
			}
			if as, is := judged[name]; is && as.Better != "" && !as.Slip {
				return as.Better
			}
			return name
		}
		for _, row := range group {
			got := apply(row[2], row[6])
			all++
			if got == row[3] || row[5] != "" && slices.Contains(strings.Split(row[5], "␟"), got) {
				right++
			} else {
				t.Logf("%s %s %q → %q, and not %q", row[1], row[7], row[2], got, row[3])
				if row[2] == row[3] {
					changed++
				}
			}
			assert.Equal(t, got, apply(got, row[6]), "%s again", row[1])
		}
	}
	t.Logf("%d of %d brands are right", right, all)
	assert.GreaterOrEqual(t, 100*right, 97*all)
	assert.Zero(t, changed)
}
