package repair

import (
	"cmp"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
)

var writeDocs = flag.Bool("write", false, "write the tables in docs anew instead of comparing them")

const sealed = "testdata/sealed"

// A tally is what came of the cells of one class.
type tally struct {
	cells, expected   int // expected to come out with their code
	right, wrong      int // that came out
	held, passedWrong int // passedWrong: codes that were wrong from the start, and went out
}

// TestSealed repairs lists that a real office suite has damaged and holds what
// comes out against what they once held. No barcode may be wrong, all that can be
// known must be, and what cannot must be held.
func TestSealed(t *testing.T) {
	checkSeal(t)
	truths, err := filepath.Glob(filepath.Join(sealed, "*.truth.csv"))
	require.NoError(t, err)
	require.Greater(t, len(truths), 40)
	tallies := make(map[string]*tally)
	files := 0
	for _, truth := range truths {
		name := strings.TrimSuffix(truth, ".truth.csv")
		for _, ext := range []string{".csv", ".xlsx", ".ods", ".xls"} {
			if _, err := os.Stat(name + ext); err != nil {
				continue
			}
			opt := fixed(copyTo(t, t.TempDir(), name+ext), "")
			opt.Target = Target(opt.Input)
			opt.Temp = t.TempDir()
			if _, err := os.Stat(name + ".trust.csv"); err == nil {
				opt.Trust = []string{name + ".trust.csv"}
			}
			r, err := Run(t.Context(), opt)
			require.NoError(t, err, name+ext)
			files++
			weighSealed(t, name+ext, readTruth(t, truth), r, tallies)
		}
	}
	var b strings.Builder
	b.WriteString("| class | cells | could be known | came back | wrong | precision | recall |\n|---|---:|---:|---:|---:|---:|---:|\n")
	for _, class := range slices.SortedFunc(keysOf(tallies), strings.Compare) {
		a := tallies[class]
		fmt.Fprintf(&b, "| %s | %d | %d | %d | %d | %s | %s |\n", class, a.cells, a.expected, a.right, a.wrong,
			share(a.right, a.right+a.wrong), share(min(a.right, a.expected), a.expected))
		assert.Zero(t, a.wrong, "%s: wrong barcodes", class)
		assert.Zero(t, a.passedWrong, "%s: codes that were wrong from the start went out", class)
		assert.GreaterOrEqual(t, a.right, a.expected, "%s: not all came back", class)
	}
	t.Logf("%d files read\n%s", files, b.String())
	inDocs(t, "../../docs/barcodes.md", "sealed", b.String())
}

func keysOf(m map[string]*tally) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

func share(n, of int) string {
	if of == 0 {
		return "–"
	}
	return fmt.Sprintf("%.1f%%", 100*float64(n)/float64(of))
}

type truthRow struct{ title, sku, code, class, expect string }

func readTruth(t *testing.T, path string) (rows []truthRow) {
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	all, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	for _, r := range all[1:] {
		rows = append(rows, truthRow{r[0], r[1], r[2], r[3], r[4]})
	}
	return rows
}

// weighSealed compares what came out of a list with the truth.
func weighSealed(t *testing.T, name string, truth []truthRow, r *Result, tallies map[string]*tally) {
	out := make(map[string][]string)
	for _, row := range rowsIn(t, filepath.Join(r.Folder, "ready.csv"), r.Source.Form)[1:] {
		out[row[2]] = row
	}
	require.GreaterOrEqual(t, r.Counts().Read, len(truth), name) // the suite adds blank rows to some
	for _, want := range truth {
		if filepath.Ext(name) != ".csv" && slices.Contains([]string{"sci-rounded", "sci-whole", "grouped", "untouched", "stored-whole"},
			want.class) {
			// Whatever a workbook shows, it stores the whole number.
			want.class = "stored in a workbook"
			want.expect = "intact"
			if _, err := barcode.Parse(want.code); err != nil {
				want.expect = "wrong"
			}
		}
		a := tallies[want.class]
		if a == nil {
			a = new(tally)
			tallies[want.class] = a
		}
		a.cells++
		row, isReady := out[want.title]
		if want.expect == "back" || want.expect == "intact" {
			a.expected++
		}
		switch number, _ := barcode.Number(want.code); {
		case !isReady:
			a.held++
			if want.expect == "back" || want.expect == "intact" {
				t.Errorf("%s: %s is held, but was %s", name, want.title, want.code)
			}
		case want.expect == "wrong":
			a.passedWrong++
		default:
			if got, _ := barcode.Number(row[1]); got == number && number > 0 &&
				(row[0] == want.sku || !strings.Contains(name, "by-title")) {
				a.right++
				if want.expect == "open" {
					a.expected++
				}
			} else {
				a.wrong++
				t.Errorf("%s: %s came out as %q %q, but was %s %s", name, want.title, row[0], row[1], want.sku, want.code)
			}
		}
	}
}

func copyTo(t *testing.T, dir, path string) string {
	b, err := os.ReadFile(path)
	require.NoError(t, err)
	to := filepath.Join(dir, filepath.Base(path))
	require.NoError(t, os.WriteFile(to, b, 0o666))
	return to
}

// checkSeal holds every file of the set against its checksum.
func checkSeal(t *testing.T) {
	seal, err := os.ReadFile(filepath.Join(sealed, "seal"))
	require.NoError(t, err)
	for line := range strings.Lines(string(seal)) {
		want, name, _ := strings.Cut(strings.TrimSpace(line), "  ")
		b, err := os.ReadFile(filepath.Join(sealed, name))
		require.NoError(t, err)
		sum := sha256.Sum256(b)
		require.Equal(t, want, hex.EncodeToString(sum[:]), "the seal of %s is broken", name)
	}
}

// inDocs compares a table with the one between two marks of a page, or with
// -write puts it there.
func inDocs(t *testing.T, path, mark, table string) {
	t.Helper()
	page, err := os.ReadFile(path)
	require.NoError(t, err)
	begin, end := "<!-- "+mark+" -->\n", "<!-- end -->"
	from := strings.Index(string(page), begin)
	require.NotEqual(t, -1, from, "%s has no place for the table %s", path, mark)
	from += len(begin)
	to := from + strings.Index(string(page[from:]), end)
	if *writeDocs {
		text := string(page[:from]) + table + string(page[to:])
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		return
	}
	assert.Equal(t, table, string(page[from:to]), "run go test with -write in %s", cmp.Or(t.Name(), path))
}
