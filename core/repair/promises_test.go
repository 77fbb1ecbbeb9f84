package repair

import (
	"context"
	"encoding/csv"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/cespare/xxhash/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/rescue"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/demo"
	"zetanum/internal/brief"
)

func fixed(input, target string) Options {
	return Options{Input: input, Target: target, Workers: 2, Date: "2026-11-24", Version: "test", PartSize: 3000}
}

// orders are rules for every third generated file.
func orders(seed uint64) rescue.Rules {
	switch seed % 12 {
	case 2:
		return rescue.Rules{WriteAs: "gtin-14", Second: "Notes"}
	case 5:
		return rescue.Rules{WriteAs: "ean-13", AddCheckDigit: true}
	case 8:
		return rescue.Rules{WriteAs: "shortest"}
	case 11:
		return rescue.Rules{Accept: []string{"ean-13", "isbn-10", "issn", "sscc-18", "upc-e"}}
	}
	return rescue.Rules{}
}

func run(t *testing.T, opt Options) *Result {
	t.Helper()
	opt.Temp = t.TempDir()
	r, err := Run(context.Background(), opt)
	require.NoError(t, err)
	return r
}

// thorough says that tests by chance take all their rounds, as they do before a release: ZETANUM_THOROUGH=1 go test ./core/repair.
var thorough = os.Getenv("ZETANUM_THOROUGH") != ""

// some returns a number of rounds: a third of them unless the tests are to be thorough, and fewer where they are to be short, as with the race
// detector each takes ten times as long.
func some(rounds int) int {
	if thorough {
		return rounds
	}
	return max(1, rounds/brief.Of(3, 8))
}

// cuts returns with how many workers, and which sizes of parts, files are gone through that must come out the same each time.
func cuts() (list [][2]int) {
	for _, workers := range []int{1, 2, 5} {
		for _, size := range []int{1, 700, 1 << 20} {
			if thorough || workers == 5 && size == 700 || workers == 2 && size == 1 || !testing.Short() && workers == 1 && size == 700 {
				list = append(list, [2]int{workers, size})
			}
		}
	}
	return list
}

// contents returns the files of a folder by name.
func contents(t *testing.T, dir string) map[string]string {
	t.Helper()
	files := make(map[string]string)
	require.NoError(t, fs.WalkDir(os.DirFS(dir), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(filepath.Join(dir, name))
		files[name] = string(b)
		return err
	}))
	return files
}

// rowsIn reads an output of ours back and returns its rows, headings included.
func rowsIn(t *testing.T, path string, form sheet.Form) (rows [][]string) {
	t.Helper()
	form.Lenient = false
	if filepath.Base(path) == "ready.csv" {
		form.CR = false // hardly any importer takes a carriage return alone
	}
	table, err := sheet.Reopen(path, form)
	require.NoError(t, err)
	defer table.Close()
	require.NoError(t, table.Each(func() { rows = nil }, func(r *catalogue.Row) {
		var cells []string
		for _, c := range r.Cells {
			cells = append(cells, strings.Clone(c))
		}
		rows = append(rows, cells)
	}))
	return rows
}

// eachFile runs a test on the files of the demo catalogue and on generated ones.
func eachFile(t *testing.T, test func(t *testing.T, path string, seed uint64)) {
	for _, name := range []string{"hollowbrook-prices.csv", "odds-and-ends.csv", "saltmarsh-export.csv", "wick-and-wax.xlsx"} {
		t.Run(name, func(t *testing.T) {
			content, err := demo.Read(name)
			require.NoError(t, err)
			path := filepath.Join(t.TempDir(), name)
			require.NoError(t, os.WriteFile(path, content, 0o666))
			test(t, path, 1)
		})
	}
	eachNasty(t, test)
}

// eachNasty runs a test on files of many kinds.
func eachNasty(t *testing.T, test func(t *testing.T, path string, seed uint64)) {
	for seed := range uint64(some(27)) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			path := filepath.Join(t.TempDir(), "list.csv")
			require.NoError(t, os.WriteFile(path, nasty(seed, 60+int(seed)*40), 0o666))
			test(t, path, seed)
		})
	}
}

// TestEveryRowAccountedFor: the source is not touched, and each of its rows is
// in exactly one output, those held and set aside with all their cells.
func TestEveryRowAccountedFor(t *testing.T) {
	eachFile(t, func(t *testing.T, path string, seed uint64) {
		before, err := os.ReadFile(path)
		require.NoError(t, err)
		opt := fixed(path, Target(path))
		opt.Book.Barcode = orders(seed)
		r := run(t, opt)
		after, err := os.ReadFile(path)
		require.NoError(t, err)
		require.True(t, string(before) == string(after), "the source was touched")

		c := r.Counts()
		require.Equal(t, c.Read, c.Ready+c.Held+c.Aside)
		require.NotZero(t, c.Ready*c.Held*c.Aside, "the file is too tame: %+v", c)
		var source []string
		table, err := sheet.Open(path, sheet.Options{Spool: t.TempDir()})
		require.NoError(t, err)
		defer table.Close()
		require.NoError(t, table.Each(func() { source = nil }, func(r *catalogue.Row) {
			source = append(source, strings.Join(r.Cells, "\x1f"))
		}))
		require.Equal(t, c.Read, len(source))
		seen := make(map[string]bool)
		for _, name := range []string{"held.csv", "aside.csv"} {
			rows := rowsIn(t, filepath.Join(r.Folder, name), r.Source.Form)
			for _, row := range rows[1:] {
				var number int
				_, err := fmt.Sscan(row[0], &number)
				require.NoError(t, err)
				require.NotEmpty(t, row[1], "%s row %d has no reason", name, number)
				require.False(t, seen[row[0]], "row %d is there twice", number)
				seen[row[0]] = true
				want, got := source[number-r.Source.Heading-1], strings.Join(row[2:], "\x1f")
				if r.Source.Form.Spooled { // a workbook leaves out empty cells at the end
					want, got = strings.TrimRight(want, "\x1f"), strings.TrimRight(got, "\x1f")
				}
				require.Equal(t, want, got, "row %d", number)
			}
		}
		ready := rowsIn(t, filepath.Join(r.Folder, "ready.csv"), r.Source.Form)
		require.Equal(t, c.Ready, len(ready)-1)
		require.Equal(t, c.Held+c.Aside, len(seen))
		for _, row := range ready {
			require.Equal(t, len(r.Source.Columns.Headings), len(row))
		}
	})
}

// TestRepairingTheRepaired: a repaired file comes out of a second repair byte
// for byte, also when rows are taken out of it at random.
func TestRepairingTheRepaired(t *testing.T) {
	eachFile(t, func(t *testing.T, path string, seed uint64) {
		opt := fixed(path, Target(path))
		opt.Book.Barcode = orders(seed)
		first := run(t, opt)
		ready := filepath.Join(first.Folder, "ready.csv")
		text, err := os.ReadFile(ready)
		require.NoError(t, err)
		again := func(name, content string) {
			path := filepath.Join(t.TempDir(), name)
			require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
			opt := fixed(path, Target(path))
			opt.Book.Barcode = orders(seed)
			r := run(t, opt)
			require.Zero(t, r.Counts().Changed, "%+v", r.Report.Repaired)
			require.Zero(t, r.Counts().Held+r.Counts().Aside, "%+v", r.Report.Found)
			out, err := os.ReadFile(filepath.Join(r.Folder, "ready.csv"))
			require.NoError(t, err)
			require.True(t, content == string(out), "%s: not the same bytes", name)
		}
		again("again.csv", string(text))
		r := rand.New(rand.NewPCG(seed, 1))
		for _, keep := range []int{90, 50, 8} {
			again("fewer.csv", dropRows(r, string(text), first.Source.Form, keep))
		}
	})
}

// dropRows keeps the headings and about keep in a hundred of the rows.
func dropRows(r *rand.Rand, text string, form sheet.Form, keep int) string {
	form.Spooled, form.Lenient = false, false
	var b strings.Builder
	sc := form.Scanner(text)
	var row catalogue.Row
	start, slug, last, kept := 0, -1, "", true
	for sc.Next(&row) {
		if sc.Row == 1 {
			slug = slices.Index(row.Cells, "Slug")
		}
		if same := last != "" && row.Cell(slug) == last; !same { // a product goes as a whole
			kept = sc.Row <= 2 || r.IntN(100) < keep
		}
		if kept {
			b.WriteString(text[start:sc.Pos()])
		}
		last, start = row.Cell(slug), sc.Pos()
	}
	return b.String()
}

// TestSameBytes: nothing that is written depends on the number of workers or
// on how the sheet is cut into parts.
func TestSameBytes(t *testing.T) {
	eachFile(t, func(t *testing.T, path string, _ uint64) {
		want := contents(t, run(t, fixed(path, Target(path))).Folder)
		for _, cut := range cuts() {
			opt := fixed(path, Target(path))
			opt.Workers, opt.PartSize = cut[0], cut[1]
			got := contents(t, run(t, opt).Folder)
			require.Equal(t, keys(want), keys(got))
			for name := range want {
				require.True(t, want[name] == got[name], "%s differs with %d workers and parts of %d bytes", name, cut[0], cut[1])
			}
		}
	})
}

func keys(m map[string]string) []string { return slices.Sorted(maps.Keys(m)) }

// TestSample: a sample has as many products as asked for, all of them ready,
// and the other rows are set aside.
func TestSample(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, nasty(4, 700), 0o666))
	opt := fixed(path, Target(path))
	opt.Sample = 12
	r := run(t, opt)
	c := r.Counts()
	assert.Equal(t, c.Read, c.Ready+c.Aside)
	changes, err := os.ReadFile(filepath.Join(r.Folder, "changes.jsonl"))
	require.NoError(t, err)
	assert.Equal(t, c.Changed, strings.Count(string(changes), "\n"))
	assert.LessOrEqual(t, c.Changed, c.Ready*7, "only changes in rows that go out count")
	assert.GreaterOrEqual(t, c.Ready, 12)
	assert.Less(t, c.Ready, 60)
	assert.Equal(t, 12, c.Products)
}

// TestOnly: an update file has the key and the named columns.
func TestOnly(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, nasty(1, 200), 0o666))
	opt := fixed(path, Target(path))
	opt.Only = []string{"barcode", "Notes"}
	r := run(t, opt)
	rows := rowsIn(t, filepath.Join(r.Folder, "ready.csv"), r.Source.Form)
	assert.Equal(t, []string{"SKU", "EAN", "Notes", "Slug", "UPC"}, rows[0])
	assert.Equal(t, r.Counts().Ready, len(rows)-1)
	opt.Only = []string{"colour"}
	_, err := Run(context.Background(), opt)
	assert.ErrorIs(t, err, sections.ErrOnly)
}

// TestFolderNotReplaced: a folder in which a person has typed survives, and so
// does one that belongs to another source.
func TestFolderNotReplaced(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, nasty(1, 100), 0o666))
	first := run(t, fixed(path, Target(path)))
	again := run(t, fixed(path, Target(path)))
	require.Equal(t, first.Folder, again.Folder, "an untouched folder is replaced")

	held := filepath.Join(first.Folder, "held.csv")
	require.NoError(t, os.WriteFile(held, []byte("my notes"), 0o666))
	second := run(t, fixed(path, Target(path)))
	assert.Equal(t, first.Folder+"-2", second.Folder)
	assert.Equal(t, []string{held}, second.Edited)
	note, err := os.ReadFile(held)
	require.NoError(t, err)
	assert.Equal(t, "my notes", string(note))

	other := filepath.Join(dir, "list.tsv")
	require.NoError(t, os.WriteFile(other, nasty(2, 100), 0o666))
	assert.Equal(t, first.Folder+"-3", run(t, fixed(other, Target(other))).Folder)
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, entries, 5, "nothing else is left behind: %v", entries)
}

// TestNothingAppears: a run that fails leaves no trace.
func TestNothingAppears(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	for name, content := range map[string]string{"empty": "", "binary": "\x00\x01\x02\x03\x04\x05\x06\x07\x08\x00\x00\x01",
		"no headings": "a,b\n"} {
		require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
		_, err := Run(context.Background(), fixed(path, Target(path)))
		require.Error(t, err, name)
		entries, err := os.ReadDir(dir)
		require.NoError(t, err)
		require.Len(t, entries, 1, name)
	}
	require.NoError(t, os.WriteFile(path, nasty(1, 100), 0o666))
	job, err := folder.Begin(Target(path))
	require.NoError(t, err)
	_, err = Run(context.Background(), fixed(path, Target(path)))
	assert.ErrorIs(t, err, folder.ErrBusy)
	require.NoError(t, job.Abort())
}

// TestSourceChangedMeanwhile: if the source is saved by somebody else between
// the two readings, the run fails and nothing appears.
func TestSourceChangedMeanwhile(t *testing.T) {
	for name, change := range map[string]func(text string) string{
		"a digit": func(text string) string { return strings.Replace(text, "9521", "9522", 1) },
		"a row":   func(text string) string { return text + "S1,,,,,,\n" },
		"cut off": func(text string) string { return text[:len(text)/2] },
	} {
		dir := t.TempDir()
		path := filepath.Join(dir, "list.csv")
		text := string(nasty(12, 300))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		opt := fixed(path, Target(path))
		opt.Progress = func(stage string, done, total int64) {
			if stage == "reading" {
				require.NoError(t, os.WriteFile(path, []byte(change(text)), 0o666))
				opt.Progress = nil
			}
		}
		_, err := Run(context.Background(), opt)
		assert.ErrorIs(t, err, sheet.ErrChanged, name)
		assert.ErrorContains(t, err, "list.csv", name)
		entries, err := os.ReadDir(dir)
		require.NoError(t, err)
		assert.Len(t, entries, 1, name)
	}
}

// TestReadByOthers: ready.csv is a file that the standard reader takes.
func TestReadByOthers(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, nasty(12, 300), 0o666))
	r := run(t, fixed(path, Target(path)))
	f, err := os.Open(filepath.Join(r.Folder, "ready.csv"))
	require.NoError(t, err)
	defer f.Close()
	reader := csv.NewReader(f)
	reader.Comma = rune(r.Source.Form.Separator)
	rows, err := reader.ReadAll()
	require.NoError(t, err)
	assert.Equal(t, r.Counts().Ready+1, len(rows))
}

// TestWorkbookIsNamedByItsFile: the manifest holds the checksum of the workbook
// itself, not of what was spooled from it, and the progress ends where it should.
func TestWorkbookIsNamedByItsFile(t *testing.T) {
	content, err := demo.Read("wick-and-wax.xlsx")
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "list.xlsx")
	require.NoError(t, os.WriteFile(path, content, 0o666))
	opt := fixed(path, Target(path))
	last, total := int64(0), int64(-1)
	opt.Progress = func(_ string, done, of int64) {
		assert.LessOrEqual(t, done, of)
		assert.GreaterOrEqual(t, done, last)
		last, total = done, of
	}
	r := run(t, opt)
	assert.InDelta(t, total, last, float64(total)/20, "but for the headings, all has been gone through")
	assert.Equal(t, folder.FormatSum(xxhash.Sum64(content)), r.Source.Sum)
	manifest, err := folder.ReadManifest(r.Folder)
	require.NoError(t, err)
	assert.Contains(t, string(manifest.Run), r.Source.Sum)
	assert.Len(t, manifest.Files, 5)
}
