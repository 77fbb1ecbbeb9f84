package repair

import (
	"context"
	"encoding/csv"
	"fmt"
	"html"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"

	"zetanum/internal/brief"
)

const encodings = "testdata/encodings"

// records reads a list of the set, by heading.
func records(t *testing.T, name string) (list []map[string]string) {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(encodings, name))
	require.NoError(t, err)
	plain := strings.NewReplacer(`\t`, "\t", `\n`, "\n", `\\`, `\`)
	lines := strings.Split(strings.TrimSuffix(string(data), "\n"), "\n")
	for _, line := range lines[1:] {
		r := make(map[string]string)
		for i, cell := range strings.Split(line, "\t") {
			r[strings.Split(lines[0], "\t")[i]] = plain.Replace(cell)
		}
		list = append(list, r)
	}
	return list
}

// readyRows repairs a file and returns title and description of what is ready, by SKU.
func readyRows(t *testing.T, path string) map[string][2]string {
	t.Helper()
	out := filepath.Join(t.TempDir(), "out")
	r, err := Run(context.Background(), Options{Input: path, Target: out, Temp: t.TempDir(), Workers: 1})
	require.NoError(t, err, path)
	data, err := os.ReadFile(filepath.Join(out, "ready.csv"))
	require.NoError(t, err)
	in := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(data), "\ufeff")))
	in.Comma, in.LazyQuotes = rune(r.Source.Form.Separator), true
	rows, err := in.ReadAll()
	require.NoError(t, err, path)
	ready := make(map[string][2]string)
	for _, row := range rows[1:] {
		ready[row[0]] = [2]string{row[1], row[2]}
	}
	return ready
}

var (
	tags     = regexp.MustCompile(`<[^>]+>`)
	space    = regexp.MustCompile(`[\s\x{a0}]+`)
	dropped  = regexp.MustCompile("[\u0080-\u009f\ufffd\u00ad]")
	cedillas = strings.NewReplacer("ş", "ș", "ţ", "ț", "Ş", "Ș", "Ţ", "Ț")
)

// meant is a text without what does not count.
func meant(s string) string {
	if strings.HasPrefix(strings.TrimSpace(s), "<") {
		s = html.UnescapeString(tags.ReplaceAllString(s, ""))
	}
	return strings.TrimSpace(space.ReplaceAllString(cedillas.Replace(norm.NFC.String(s)), " "))
}

// left is meant for a text that was left as it was.
func left(s string) string { return meant(dropped.ReplaceAllString(meant(s), "")) }

// counts are how many there are of each kind and outcome.
type counts map[string]map[string]int

func (c counts) add(kind, outcome string) {
	if c[kind] == nil {
		c[kind] = make(map[string]int)
	}
	c[kind][outcome]++
}

func (c counts) log(t *testing.T) {
	t.Helper()
	for _, kind := range slices.Sorted(maps.Keys(c)) {
		t.Log(kind, c[kind])
	}
}

// TestEncodingsOfFiles: of the files of the set nearly all are read rightly, and of the
// others the rows that are open are held.
func TestEncodingsOfFiles(t *testing.T) {
	t.Parallel()
	pool := make(map[string]map[string][2]string)
	found := make(counts)
	right, files := 0, brief.Sample(records(t, "truth.tsv"), 6)
	for _, f := range files {
		lang := f["lang"]
		if pool[lang] == nil {
			pool[lang] = make(map[string][2]string)
			for _, r := range records(t, "pool/"+lang+".tsv") {
				pool[lang][r["sku"]] = [2]string{r["title"], r["description"]}
			}
		}
		ready := readyRows(t, filepath.Join(encodings, "files", f["file"]))
		outcome := "right"
		for _, sku := range strings.Fields(strings.TrimPrefix(f["skus"], "ALL:")) {
			want := pool[lang][sku]
			switch got, ok := ready[sku]; {
			case !ok:
				outcome = "asked"
			case meant(got[0]) != meant(want[0]) || meant(got[1]) != meant(want[1]):
				t.Errorf("%s %s: %q, not %q", f["file"], sku, got, want)
			}
		}
		if outcome == "right" || f["ask"] != "" {
			right++
		}
		found.add(f["level"], outcome)
	}
	found.log(t)
	assert.Greater(t, right*100, 97*len(files))
}

// TestEncodingsMixed: rows that were right stay so, and of the others none becomes
// something else than it was meant to be.
func TestEncodingsMixed(t *testing.T) {
	t.Parallel()
	files := make(map[string][]map[string]string)
	for _, r := range records(t, "mixed-truth.tsv") {
		files[r["file"]] = append(files[r["file"]], r)
	}
	found := make(counts)
	done, rows := 0, 0
	for _, name := range brief.Sample(slices.Sorted(maps.Keys(files)), 6) {
		list, ready := files[name], readyRows(t, filepath.Join(encodings, "mixed", name))
		for _, r := range list {
			got, ok := ready[r["sku"]]
			same, asLeft, cut := 0, 0, 0
			for i, field := range []string{"title", "description"} {
				switch {
				case meant(got[i]) == meant(r[field]):
					same++
				case slices.ContainsFunc(strings.Split(r["left_"+field], "␞"),
					func(s string) bool { return s != "" && left(s) == left(got[i]) }):
					asLeft++
				case strings.HasPrefix(meant(r[field]), strings.TrimSuffix(meant(got[i]), "\ufffd")):
					cut++
				}
			}
			outcome := "wrong"
			switch {
			case !ok:
				outcome = "held"
			case same == 2:
				outcome = "right"
			case r["state"] != "right" && same+asLeft == 2:
				outcome = "left"
			case r["state"] == "cut" && same+cut == 2:
				outcome = "cut"
			default:
				t.Errorf("%s %s (%s): %q, not %q", name, r["sku"], r["state"], got, r)
			}
			if rows++; outcome == "right" || outcome == "held" && r["state"] != "right" {
				done++
			}
			found.add(r["state"], outcome)
		}
	}
	found.log(t)
	assert.Greater(t, done*1000, 985*rows)
}

// through runs strings through a repair, as titles.
func through(t *testing.T, list []map[string]string, field string) map[string]string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "list.csv")
	file, err := os.Create(path)
	require.NoError(t, err)
	out := csv.NewWriter(file)
	require.NoError(t, out.Write([]string{"sku", "title", "description"}))
	for _, r := range list {
		require.NoError(t, out.Write([]string{r["id"], r[field], "One piece."}))
	}
	out.Flush()
	require.NoError(t, file.Close())
	became := make(map[string]string)
	for sku, row := range readyRows(t, path) {
		became[sku] = row[0]
	}
	return became
}

// TestStringsThatStay: no clean string is touched.
func TestStringsThatStay(t *testing.T) {
	t.Parallel()
	list := records(t, "clean.tsv")
	became := through(t, list, "text")
	for _, r := range list {
		assert.Equal(t, meant(r["text"]), meant(became[r["id"]]), r["id"])
	}
	t.Logf("%d clean strings, none changed", len(list))
}

// TestStringsGarbled: what was garbled without loss comes back, and of the rest nothing
// becomes what it was not.
func TestStringsGarbled(t *testing.T) {
	t.Parallel()
	list := records(t, "garbled.tsv")
	became := through(t, list, "broken")
	found := make(counts)
	for _, r := range list {
		got := became[r["id"]]
		outcome := "wrong"
		switch {
		case meant(got) == meant(r["truth"]):
			outcome = "right"
		case left(got) == left(r["broken"]), left(got) == left(html.UnescapeString(html.UnescapeString(r["broken"]))):
			outcome = "left"
		case inPart(r).MatchString(strings.TrimSpace(even(got))):
			outcome = "in part"
		default:
			t.Errorf("%s: %q became %q, not %q", r["id"], r["broken"], got, r["truth"])
		}
		found.add(fmt.Sprintf("%s, layers %s", r["class"], r["layers"]), outcome)
	}
	found.log(t)
	for layers, least := range map[string]int{"1": 98, "2": 95} {
		of := found["exact, layers "+layers]
		assert.Greater(t, of["right"]*100, least*(of["right"]+of["left"]+of["in part"]))
	}
}

func even(s string) string { return strings.ReplaceAll(norm.NFC.String(s), "\u00a0", " ") }

// inPart matches a string of which each character is mended or left.
func inPart(r map[string]string) *regexp.Regexp {
	broken, truth := []rune(r["broken"]), []rune(r["truth"])
	var b strings.Builder
	b.WriteString("^")
	at := 0
	for i, c := range truth {
		n, _ := strconv.ParseInt(r["pieces"][i:i+1], 36, 32)
		piece := string(broken[at : at+int(n)])
		at += int(n)
		other := []string{even(string(c)), even(piece), even(html.UnescapeString(html.UnescapeString(piece))),
			dropped.ReplaceAllString(even(piece), "")}
		if strings.HasPrefix(r["damage"], "cut") && i == len(truth)-1 {
			other = append(other, "", "\ufffd")
		}
		slices.SortFunc(other, func(a, b string) int { return len(b) - len(a) })
		for k := range other {
			other[k] = regexp.QuoteMeta(other[k])
		}
		if strings.TrimSpace(other[0]) == "" {
			b.WriteString(`\s*`)
		} else {
			b.WriteString("(?:" + strings.Join(other, "|") + ")")
		}
	}
	return regexp.MustCompile(b.String() + "$")
}
