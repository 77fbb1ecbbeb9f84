package cli

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func read(t *testing.T, path ...string) string {
	t.Helper()
	content, err := os.ReadFile(filepath.Join(path...))
	require.NoError(t, err)
	return string(content)
}

// TestAnswers: what is open is let go as was answered, it is listed what went out so, a no is
// not asked again, and a person is told what does help where an answer does not.
func TestAnswers(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "plants.csv"), "SKU,EAN,GTIN,Title,Price\nP1,9.52E+12,,Fern,3\nP2,9521234000012,,Moss,4\n"+
		"P3,TBC,,Ivy,5\nP4,9521234000020,40123400073,Box,6\nP5,9521234000037,9521234000044,Yew,\n")
	for _, test := range []struct {
		name  string
		args  []string
		ready string // the barcodes of what goes out
		held  int
		says  string
	}{
		{"nothing said", nil, "9521234000037", 4, `or let go: -answer barcode.rounded=EAN:blank, :keep, :aside`},
		{"empty", []string{"-answer", "barcode.rounded=EAN:blank"}, " 9521234000037", 3, "empty, as answered"},
		{"as it is", []string{"-answer", "barcode.check-digit:keep"}, "9521234000012 9521234000037", 3, "kept, as answered"},
		{"left out", []string{"-answer", "barcode.rounded:aside"}, "9521234000037", 3, "set aside, as was answered"},
		{"yes", []string{"-yes", "barcode.says-none", "-yes", "barcode.leading-zero=GTIN"}, " 9521234000020 9521234000037", 2, ""},
		{"a yes for another column", []string{"-yes", "barcode.leading-zero=EAN"}, "9521234000037", 4, "If yes: add -yes barcode.leading-zero=GTIN"},
		{"no", []string{"-no", "barcode.leading-zero"}, "9521234000037", 4, "answered: -no barcode.leading-zero"},
		{"the last of two", []string{"-answer", "barcode.rounded:blank", "-answer", "barcode.rounded:keep"}, "9.52E+12 9521234000037", 3, ""},
		{"held, for all that it holds nothing", []string{"-hold", "barcode.missing"}, "9521234000037", 4, ""},
	} {
		out := filepath.Join(dir, strings.ReplaceAll(test.name, " ", "-"))
		c := zetanum(t, dir, append([]string{"repair", "plants.csv", "-all", "-out", out}, test.args...)...)
		var codes []string
		for _, line := range strings.Split(strings.TrimSpace(read(t, out, "ready.csv")), "\n")[1:] {
			codes = append(codes, strings.Split(line, ",")[1])
		}
		assert.Equal(t, test.ready, strings.Join(codes, " "), test.name)
		assert.Equal(t, test.held, strings.Count(read(t, out, "held.csv"), "\n")-1, test.name)
		assert.Contains(t, c.stdout, test.says, test.name)
		if test.name == "no" {
			assert.NotContains(t, c.stdout, "Are these codes that lost their leading zeros?")
		}
		if test.name == "empty" {
			assert.Equal(t, "Row,Column,Cell,Answer,What is open,SKU,Title\n2,EAN,9.52E+12,blank,digits lost to scientific notation,P1,Fern\n",
				read(t, out, "answered.csv"))
		}
	}
	for _, test := range [][]string{
		{"-answer", "barcode.duplicate:blank", `barcode.duplicate does not take the answer "blank"; -answer barcode.duplicate:keep lets it go`},
		{"-answer", "barcode.rounded", "write it as FINDING:ANSWER or FINDING=HEADING:ANSWER"},
		{"-yes", "barcode.rounded", "barcode.rounded asks no question; -answer barcode.rounded:keep lets it go out as it is"},
		{"-no", "barcode.leading-zeros", `there is no finding "barcode.leading-zeros" (did you mean "barcode.leading-zero"?)`},
		{"-answer", "text.undecided=Title:klingon", `the answer to text.undecided names the encoding "klingon", and there is none of that name`},
		{"-answer", "text.unreadable=SKU:blank", `would write "SKU" empty, by which products are told apart`},
	} {
		c := zetanum(t, dir, "check", "plants.csv", test[0], test[1])
		assert.Equal(t, 2, c.status, test[1])
		assert.Contains(t, c.stderr, test[2])
	}
}

// TestRemember: answers are written into the rulebook, whose comments stay, and count in later
// runs; one that says something else takes their place.
func TestRemember(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Brand\nA,40123400073,x,Wick\nB,9.52E+12,y,Wax\n")
	c := zetanum(t, dir, "repair", "list.csv", "-yes", "barcode.leading-zero", "-answer", "barcode.rounded:blank", "-remember")
	assert.Equal(t, 0, c.status, c.stderr)
	assert.Contains(t, c.stdout, "remembered in zetanum.toml")
	assert.Equal(t, "[answers]\nblank = [\"barcode.rounded\"]\nyes = [\"barcode.leading-zero\"]\n", read(t, dir, "zetanum.toml"))
	c = zetanum(t, dir, "check", "list.csv")
	assert.Equal(t, 0, c.status)
	assert.Contains(t, c.stdout, "answered: -yes barcode.leading-zero, -answer barcode.rounded:blank")

	writeFile(t, filepath.Join(dir, "zetanum.toml"), "# ours\n[answers]\nyes = [\"barcode.leading-zero\"] # asked Jo\n\n[field.brand]\none_of = [\"Wick\"]\n"+
		"if_open = \"blank\"\n\n[barcode]\nif_open = \"keep\"\n")
	zetanum(t, dir, "repair", "list.csv", "-no", "barcode.leading-zero", "-remember")
	assert.Equal(t, "# ours\n[answers]\nno = [\"barcode.leading-zero\"]\nyes = [] # asked Jo\n\n[field.brand]\none_of = [\"Wick\"]\nif_open = \"blank\"\n\n"+
		"[barcode]\nif_open = \"keep\"\n", read(t, dir, "zetanum.toml"))
	assert.Equal(t, "SKU,EAN,Title,Brand\nB,9.52E+12,y,\n", read(t, dir, "list.repaired", "ready.csv"))
	assert.Equal(t, "3,EAN,9.52E+12,keep,digits lost to scientific notation,B,y\n3,Brand,Wax,blank,not in its list,B,y\n",
		strings.SplitAfterN(read(t, dir, "list.repaired", "answered.csv"), "\n", 2)[1])
	var j struct {
		Findings []struct {
			Code          string
			Kept, Blanked int
		}
	}
	require.NoError(t, json.Unmarshal([]byte(zetanum(t, dir, "check", "-json", "list.csv").stdout), &j))
	assert.Contains(t, j.Findings, struct {
		Code          string
		Kept, Blanked int
	}{"value.unlisted", 0, 1})

	for rules, says := range map[string]string{
		"[answers]\nyes = [\"barcode.rounded\"]\n":                    "line 2: the rulebook is wrong: [answers] yes: barcode.rounded asks no question",
		"[answers]\nother = [\"value.unlisted=Brand\"]\n":             "line 2: the rulebook is wrong: [answers] other: \"value.unlisted=Brand\": write it as",
		"[barcode]\nif_open = \"drop\"\n":                             `if_open: there is no "drop"; it can be hold, blank, keep`,
		"answers = { yes = [\"barcode.leading-zero\"] }\n[barcode]\n": "",
	} {
		writeFile(t, filepath.Join(dir, "zetanum.toml"), rules)
		c = zetanum(t, dir, "repair", "list.csv", "-no", "barcode.leading-zero", "-remember")
		if says != "" {
			assert.Equal(t, 2, c.status)
			assert.Contains(t, c.stderr, says)
			continue
		}
		assert.Equal(t, 3, c.status, "answers in another form are not written twice")
		assert.Contains(t, c.stderr, "zetanum.toml could not be changed")
		assert.Equal(t, rules, read(t, dir, "zetanum.toml"))
	}
	left, err := filepath.Glob(filepath.Join(dir, "zetanum-*"))
	assert.Empty(t, left, err)
}

// TestHoldSheet: what is wrong with a whole column holds all of it, if that is asked for.
func TestHoldSheet(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Title,Title\nA,x,one\nB,y,two\n")
	assert.Equal(t, 0, zetanum(t, dir, "check", "list.csv").status)
	c := zetanum(t, dir, "repair", "list.csv", "-hold", "column.twice")
	assert.Equal(t, 1, c.status, c.stderr)
	assert.Contains(t, c.stdout, "No row is ready to import")
	held, err := os.ReadFile(filepath.Join(dir, "list.repaired", "held.csv"))
	require.NoError(t, err)
	assert.Equal(t, 3, strings.Count(string(held), "\n"))
}
