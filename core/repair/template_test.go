package repair

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/condition"
	"zetanum/core/export"
	"zetanum/core/rehearse"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/core/workbook"
	"zetanum/internal/brief"
)

// A rowTruth is how a row of a source comes out in a form.
type rowTruth struct {
	SourceRow   int `json:"source_row"`
	Verdict     string
	VerdictAlso []string `json:"verdict_also"`
	Cells       map[string]struct {
		Out, Kind string
		Also      []string
	}
}

// forms returns the sets of forms: the form, a source and what is right.
func formSets(t *testing.T, n int) (form, source string, mapping map[string]struct{ Answer string }, rows []rowTruth) {
	dir := filepath.Join("..", "template", "testdata", "t"+strconv.Itoa(n))
	data, err := os.ReadFile(filepath.Join(dir, "truth.json"))
	require.NoError(t, err)
	var truth struct {
		Mapping map[string]struct{ Answer string }
		Rows    []rowTruth
	}
	require.NoError(t, json.Unmarshal(data, &truth))
	forms, _ := filepath.Glob(filepath.Join(dir, "template.*"))
	sources, _ := filepath.Glob(filepath.Join(dir, "source.*"))
	return forms[0], sources[0], truth.Mapping, truth.Rows
}

// answered says of the columns of a form what a person would say who knows what is right, where somebody has to decide.
func answered(t *testing.T, path, source string, mapping map[string]struct{ Answer string }) target.Fills {
	form, err := template.Learn(path)
	require.NoError(t, err)
	table, err := sheet.Open(source, sheet.Options{Spool: t.TempDir()})
	require.NoError(t, err)
	defer table.Close()
	fills := target.Fills{}
	for n, m := range form.Match(template.OffersOf(&table.Columns, table.Sample)) {
		if !m.Ask {
			continue
		}
		c := &form.Columns[n]
		from, isColumn := strings.CutPrefix(mapping[workbook.ColumnName(n)].Answer, "src:")
		from, nth, several := strings.Cut(from, "#")
		switch {
		case isColumn && several:
			part, _ := strconv.Atoi(strings.TrimSuffix(nth, "+"))
			fills[c.Heading] = map[string]any{"from": from, "part": int64(part), "rest": strings.HasSuffix(nth, "+")}
		case isColumn:
			fills[c.Heading] = from
		case len(c.List) > 0:
			fills[c.Heading] = map[string]any{"always": c.List[0]}
		default:
			fills[c.Heading] = map[string]any{"always": "1"}
		}
	}
	return fills
}

// TestTemplates: catalogues come out in forms of different build as people who have not read the code say that they should.
func TestTemplates(t *testing.T) {
	t.Parallel()
	right, all, verdicts, rows := 0, 0, 0, 0
	for _, n := range brief.Sample([]int{1, 2, 3, 4, 5, 6, 7, 8}, 6) {
		form, source, mapping, want := formSets(t, n)
		opt := fixed(source, filepath.Join(t.TempDir(), "out"))
		opt.Book = sections.Book{Target: target.Rules{Template: form, Separator: "comma", Columns: answered(t, form, source, mapping)}}
		r := run(t, opt)
		learned, err := template.Learn(form)
		require.NoError(t, err)
		once, err := os.ReadFile(filepath.Join(r.Folder, "ready.csv"))
		require.NoError(t, err)
		for _, name := range []string{"ready.csv", "copy.csv"} { // as it was left, and where nothing tells that it is ours
			again := opt
			again.Input, again.Target = filepath.Join(t.TempDir(), name), filepath.Join(t.TempDir(), "again")
			require.NoError(t, os.WriteFile(again.Input, once, 0o666))
			twice, err := os.ReadFile(filepath.Join(run(t, again).Folder, "ready.csv"))
			require.NoError(t, err)
			assert.Equal(t, string(once), string(twice), "t%d %s", n, name)
		}
		got := writtenRows(t, r, learned)
		reasons := make(map[int]string)
		for _, row := range rowsIn(t, filepath.Join(r.Folder, "held.csv"), r.Source.Form) {
			number, _ := strconv.Atoi(row[0])
			reasons[number] = row[1]
		}
		for _, row := range want {
			cells, written := got[row.SourceRow]
			verdict := map[bool]string{true: "written", false: "held"}[written]
			if rows++; verdict == row.Verdict || slices.Contains(row.VerdictAlso, verdict) {
				verdicts++
			} else {
				t.Logf("t%d row %d is %s, and should be %s: %s", n, row.SourceRow, verdict, row.Verdict, reasons[row.SourceRow])
			}
			if !written {
				continue
			}
			for col := range learned.Columns {
				c, there := row.Cells[workbook.ColumnName(col)]
				if !there {
					continue
				}
				all++
				if rightCell(cells[col], c.Out, c.Kind, c.Also) {
					right++
				} else {
					t.Logf("t%d row %d %s (%s): %q, and it should be %q", n, row.SourceRow, learned.Columns[col].Heading, c.Kind, cells[col], c.Out)
				}
			}
		}
	}
	t.Logf("| cells | %d of %d |", right, all)
	t.Logf("| rows held and written | %d of %d |", verdicts, rows)
	assert.Equal(t, rows, verdicts)
	assert.GreaterOrEqual(t, 1000*right, 995*all)
}

// rightCell reports whether a cell is as it should be.
func rightCell(have, want, kind string, also []string) bool {
	if have == want || slices.Contains(also, have) || have == "" && slices.Contains(also, "?") { // it is proposed
		return true
	}
	for _, w := range append([]string{want}, also...) {
		if most, is := strings.CutPrefix(w, "len<="); is {
			limit, _ := strconv.Atoi(most)
			return utf8.RuneCountInString(have) <= limit
		}
	}
	trim := func(s string) string {
		if !strings.ContainsAny(s, ".,") {
			return s
		}
		return strings.TrimRight(strings.TrimRight(s, "0"), ".,")
	}
	return (kind == "number" || kind == "unit") && trim(have) == trim(want)
}

// writtenRows returns the rows that went out by their numbers in the source.
func writtenRows(t *testing.T, r *Result, form *template.Template) map[int][]string {
	gone := make(map[int]bool)
	for _, name := range []string{"held.csv", "aside.csv"} {
		for _, row := range rowsIn(t, filepath.Join(r.Folder, name), r.Source.Form) {
			if number, err := strconv.Atoi(row[0]); err == nil {
				gone[number] = true
			}
		}
	}
	data, err := os.ReadFile(filepath.Join(r.Folder, "ready.csv"))
	require.NoError(t, err)
	reader := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(data), "\ufeff")))
	reader.FieldsPerRecord, reader.LazyQuotes = -1, true
	ready, err := reader.ReadAll()
	require.NoError(t, err)
	_, above, below := form.Head(sheet.Style{}, "")
	ready = ready[above+below:]
	rows := make(map[int][]string)
	for number := r.Source.Heading + 1; len(ready) > 0; number++ {
		if !gone[number] {
			rows[number], ready = ready[0], ready[1:]
		}
		require.Less(t, number, 100000, fmt.Sprint(gone))
	}
	return rows
}

// anyForm returns a form of a plant nursery's platform, and a list that fills it more or less well, both written in any way.
func anyForm(r *rand.Rand) (form, list string, fills target.Fills) {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	kinds := []string{"Shrubs", "Trees", "Bulbs & Tubers", "Grasses"}
	yes, no := "J", "N"
	if r.IntN(2) == 0 {
		yes, no = "true", "false"
	}
	mark, date := pick("point", "comma"), pick("YYYY-MM-DD", "DD.MM.YYYY")
	star := func(must bool, name string) string {
		if must {
			return name + " *"
		}
		return name
	}
	must := func() bool { return r.IntN(2) == 0 }
	form = strings.Join([]string{
		"Verdure desk;;;;;;;;",
		strings.Join([]string{"Plant no. *", star(must(), "Name"), star(must(), "Kind"), "Barcode", star(must(), "Price"), star(must(), "Pieces"), star(must(), "Hardy"), star(must(), "Sold from"),
			star(must(), "Picture")}, ";"),
		"At most 12 characters, each once;At most 30 characters;One of: " + strings.Join(kinds, " | ") + ";13 digits with a check digit, or blank;Number with decimal " + mark + ", 0.10 to 500;Whole number, 0 to 999;" +
			yes + " or " + no + ";Date as " + date + ";File name ending in .jpg or .png", "",
	}, "\n")
	if mark == "comma" {
		form = strings.Replace(form, "0.10", "0,10", 1)
	}
	day := func(y, m, d int) string { return fmt.Sprintf("%04d-%02d-%02d", y, m, d) }
	if r.IntN(2) == 0 {
		day = func(y, m, d int) string { return fmt.Sprintf("%02d.%02d.%04d", d, m, y) }
	}
	price := func(cents int) string { return fmt.Sprintf("%d.%02d", cents/100, cents%100) }
	if r.IntN(2) == 0 {
		price = func(cents int) string { return fmt.Sprintf("%d,%02d €", cents/100, cents%100) }
	}
	answers := [][2]string{{"yes", "no"}, {"1", "0"}, {"ja", "nein"}, {"TRUE", "FALSE"}}[r.IntN(4)]
	var b strings.Builder
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"SKU", "Title", "Group", "EAN", "Price", "Stock", "Frost-proof", "From", "Images", "Handle"})
	for i := range 5 + r.IntN(40) {
		kind := pick(kinds...)
		switch r.IntN(12) {
		case 0:
			kind = strings.ToUpper(kind)
		case 1:
			kind = kind[:2] + kind[3:]
		case 2:
			kind = pick("", "Ferns")
		}
		cells := []string{fmt.Sprintf("VP-%d", i), pick("Fern", "Rose", "Ivy", "Box") + pick("", " of the valley", " with a very long name indeed, really"), kind, "", price(r.IntN(60000)), fmt.Sprint(r.IntN(1200)),
			answers[r.IntN(2)], day(2025+r.IntN(2), 1+r.IntN(12), 1+r.IntN(28)), fmt.Sprintf("p%d.%s", i, pick("jpg", "png", "jpg", "gif")), fmt.Sprintf("h%d", i)}
		if r.IntN(3) == 0 {
			data := uint64(952123400000) + uint64(i)
			cells[3] = barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13)
		}
		for n := 1; n < len(cells)-1; n++ {
			if r.IntN(25) == 0 {
				cells[n] = pick("", "?", "n/a", " ", "x;y")
			}
		}
		_ = w.Write(cells)
		if r.IntN(5) == 0 { // a variant, which says less
			more := slices.Clone(cells)
			more[0], more[3] = cells[0]+"b", ""
			for _, n := range r.Perm(8)[:3] {
				if n > 0 {
					more[n] = ""
				}
			}
			_ = w.Write(more)
		}
		if r.IntN(5) == 0 { // a further picture
			_ = w.Write([]string{"", "", "", "", "", "", "", "", fmt.Sprintf("q%d.jpg", i), fmt.Sprintf("h%d", i)})
		}
	}
	w.Flush()
	return form, b.String(), target.Fills{"Plant no.": "SKU", "Name": "Title", "Kind": "Group", "Barcode": "EAN", "Price": "Price", "Pieces": "Stock", "Hardy": "Frost-proof", "Sold from": "From",
		"Picture": map[string]any{"from": "Images", "part": int64(1)}}
}

// TestAnyTemplate: whatever goes into a form, every row that goes out is one that an importer takes which goes by its words; rows are accounted
// for, repaired again they are the same, and however the file is cut.
func TestAnyTemplate(t *testing.T) {
	t.Parallel()
	ready, rows := 0, 0
	for seed := range uint64(some(150)) {
		r := rand.New(rand.NewPCG(seed, 2323))
		form, list, fills := anyForm(r)
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		opt.Book = sections.Book{Target: target.Rules{Template: write(t, dir, "form.csv", form), Columns: fills}}
		learned, err := template.Learn(opt.Book.Target.Template)
		require.NoError(t, err)
		var group []int // columns that belong together
		for _, n := range r.Perm(len(learned.Columns)) {
			if learned.Columns[n].Need != template.Required && len(group) < 3 {
				group = append(group, n)
			}
		}
		if group = group[:len(group)/2*2]; len(group) > 0 {
			var names []string
			for _, n := range group {
				names = append(names, learned.Columns[n].Name())
			}
			opt.Book.Target.Together = [][]string{names}
		}
		got := run(t, opt)
		c := got.Counts()
		require.Equal(t, c.Read, c.Ready+c.Held+c.Aside, seed)
		once, err := os.ReadFile(filepath.Join(got.Folder, "ready.csv"))
		require.NoError(t, err)
		require.True(t, strings.HasPrefix(string(once), form), "%d: the lines of the form", seed)
		reader := csv.NewReader(strings.NewReader(string(once)))
		reader.Comma = ';'
		all, err := reader.ReadAll()
		require.NoError(t, err, seed)
		require.Empty(t, learned.Accepts(all), seed)
		judge := learned.NewJudge(-1)
		for _, row := range all[3:] {
			for _, wrong := range judge.Row(row) {
				t.Errorf("%d: %q under %s %s", seed, row[wrong.Column], learned.Columns[wrong.Column].Heading, wrong.Says)
			}
			filled := 0
			for _, n := range group {
				if row[n] != "" {
					filled++
				}
			}
			if filled != 0 && filled != len(group) {
				t.Errorf("%d: %q fills half of what belongs together", seed, row)
			}
		}
		rows, ready = rows+c.Read, ready+c.Ready
		for n, change := range []func(*Options){
			func(o *Options) { o.Input = write(t, dir, "again.csv", string(once)) },
			func(o *Options) { o.Workers, o.PartSize = 5, 200 },
		} {
			other := opt
			other.Target = filepath.Join(dir, fmt.Sprint("out", n))
			change(&other)
			twice, err := os.ReadFile(filepath.Join(run(t, other).Folder, "ready.csv"))
			require.NoError(t, err)
			require.Equal(t, string(once), string(twice), "%d, %d", seed, n)
		}
	}
	t.Logf("%d of %d rows ready", ready, rows)
	assert.Greater(t, ready, rows/4)
}

// TestCutByLimits: what is more than a file may have is cut between products, whatever sorts them, and put together again it is the whole.
func TestCutByLimits(t *testing.T) {
	t.Parallel()
	var b strings.Builder
	b.WriteString("Slug,SKU,Title,Size,EAN\n")
	for p := range 30 {
		for v := range 1 + p%4 {
			fmt.Fprintf(&b, "p%d,P%d-%d,%s,S%d,\n", p, p, v, map[bool]string{true: fmt.Sprint("Glove ", 30-p)}[v == 0], v)
		}
	}
	for _, rows := range []condition.SheetRules{{}, {SortBy: []string{"sku"}}} {
		for _, limits := range []target.Limits{{Rows: 7}, {Rows: 1000}, {Megabytes: 1}} {
			dir := t.TempDir()
			opt := fixed(write(t, dir, "list.csv", b.String()), filepath.Join(dir, "out"))
			opt.Book = sections.Book{Sheet: rows, Target: target.Rules{Limits: limits, Encoding: "utf-16le"}}
			r := run(t, opt)
			if limits.Rows != 7 {
				assert.Empty(t, r.Parts)
				continue
			}
			opt.Target, opt.Book.Target.Limits = filepath.Join(dir, "whole"), target.Limits{}
			alone := run(t, opt)
			whole, err := os.ReadFile(filepath.Join(alone.Folder, "ready.csv"))
			require.NoError(t, err)
			assert.NoFileExists(t, filepath.Join(r.Folder, "ready.csv"), "it is more than the importer takes")
			head := len(utf16le("\ufeffSlug,SKU,Title,Size,EAN\n"))
			joined, all := whole[:head:head], 0
			for _, part := range r.Parts {
				content, err := os.ReadFile(filepath.Join(r.Folder, part.Name))
				require.NoError(t, err)
				require.Equal(t, string(whole[:head]), string(content[:head]))
				joined, all = append(joined, content[head:]...), all+part.Rows
				assert.LessOrEqual(t, part.Rows, 7)
				assert.Contains(t, string(content[head:head+60]), string(utf16le("-0,Glove")), "it begins with the first row of a product")
			}
			assert.Equal(t, string(whole), string(joined))
			assert.Equal(t, r.Counts().Ready, all)

			// by the name of the whole the parts are read as one, by whatever reads it
			_, want, err := alone.Ready()
			require.NoError(t, err)
			_, got, err := r.Ready()
			require.NoError(t, err)
			assert.Equal(t, want, got)
			again := fixed(filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again"))
			again.Book = sections.Book{Target: target.Rules{Encoding: "utf-16le"}}
			assert.Equal(t, string(whole), contents(t, run(t, again).Folder)["ready.csv"], "and repaired again it is the same")
			again = fixed(filepath.Join(r.Folder, r.Parts[1].Name), filepath.Join(dir, "part"))
			again.Book = sections.Book{Target: target.Rules{Encoding: "utf-16le"}}
			part, err := os.ReadFile(again.Input)
			require.NoError(t, err)
			assert.Equal(t, string(part), contents(t, run(t, again).Folder)["ready.csv"], "so is a part")
			lent := fixed(filepath.Join(dir, "list.csv"), filepath.Join(dir, "lent"))
			lent.Trust = []string{r.Folder}
			run(t, lent)
			require.NoError(t, os.WriteFile(filepath.Join(r.Folder, r.Parts[1].Name), append(slices.Clone(whole[:head]), utf16le("p0,P9,Edited,,\n")...), 0o666))
			run(t, lent) // it is made anew, of its source
			require.NoError(t, os.Remove(filepath.Join(r.Folder, r.Parts[1].Name)))
			_, err = sheet.Open(filepath.Join(r.Folder, "ready.csv"), sheet.Options{})
			assert.ErrorContains(t, err, "one of them is missing")
		}
	}
	opt := fixed(write(t, t.TempDir(), "list.csv", b.String()), filepath.Join(t.TempDir(), "out"))
	opt.Book = sections.Book{Target: target.Rules{Limits: target.Limits{Rows: 3}}}
	_, err := Run(t.Context(), opt)
	assert.ErrorIs(t, err, export.ErrLimit)
	assert.NoDirExists(t, opt.Target)
}

// utf16le writes a text of ASCII, and a byte order mark, in that encoding.
func utf16le(s string) (b []byte) {
	for _, r := range s {
		b = append(b, byte(r), byte(r>>8))
	}
	return b
}

// TestTargets: what goes to several targets in one run is what goes to each of them alone.
func TestTargets(t *testing.T) {
	t.Parallel()
	rows := 0
	for seed := range uint64(some(60)) {
		r := rand.New(rand.NewPCG(seed, 2325))
		formA, list, fills := anyForm(r)
		dir := t.TempDir()
		path := write(t, dir, "list.csv", list)
		sorted := condition.SheetRules{}
		if seed%3 == 0 {
			sorted.SortBy = []string{"sku"}
		}
		named := []target.Named{
			{Name: "a", Rules: target.Rules{Template: write(t, dir, "a.csv", formA), Columns: fills, Limits: target.Limits{Rows: 3}}},
			{Name: "b", Rules: target.Rules{Template: write(t, dir, "b.csv", "SKU *,Title\n\"At most 20 characters\",\"At most 7 characters\"\nSAMPLE-1,Sample\n"), Encoding: "windows-1252"}},
		}
		if seed%2 == 0 {
			named[1].Where = map[string]any{"sku": map[string]any{"ends": "1"}}
		}
		opt := fixed(path, filepath.Join(dir, "all"))
		opt.Book = sections.Book{Targets: named, Sheet: sorted}
		all := run(t, opt)
		files := contents(t, all.Folder)
		for i, n := range named {
			report := all.Targets[i].Report
			require.Equal(t, report.Rows, report.Ready+report.Held+report.Aside, seed)
			require.Equal(t, all.Counts().Read, report.Rows, seed)
			alone := fixed(path, filepath.Join(dir, "alone-"+n.Name))
			alone.Book = sections.Book{Target: n.Rules, Sheet: sorted}
			if n.Where != nil {
				alone.Book.Rows = []condition.RowRule{{Keep: n.Where}}
			}
			one := run(t, alone)
			cells := func(text string) [][]string {
				reader := csv.NewReader(strings.NewReader(text))
				reader.Comma, reader.FieldsPerRecord = rune(";,"[i]), -1
				all, err := reader.ReadAll()
				require.NoError(t, err)
				return all
			}
			require.Equal(t, cells(ready(t, one)), cells(whole(t, all, "ready-"+n.Name+".csv")), "%d %s\n%s", seed, n.Name, list)
			require.Equal(t, [3]int{one.Counts().Ready, one.Counts().Held, one.Counts().Aside}, [3]int{report.Ready, report.Held, report.Aside}, "%d %s", seed, n.Name)
			require.Equal(t, contents(t, one.Folder)["held.csv"], files["held-"+n.Name+".csv"], "%d %s", seed, n.Name)
			for at, part := range one.Parts {
				require.Equal(t, contents(t, one.Folder)[part.Name], files[all.Targets[i].Parts[at].Name], seed)
			}
			rows += report.Ready
		}
		plain := fixed(path, filepath.Join(dir, "plain"))
		plain.Book = sections.Book{Sheet: sorted}
		require.Equal(t, ready(t, run(t, plain)), files["ready.csv"], "%d: what is ready is as without targets", seed)
		opt.Target, opt.Workers, opt.PartSize = filepath.Join(dir, "cut"), 5, 200
		again := contents(t, run(t, opt).Folder)
		for name, content := range files {
			if strings.HasSuffix(name, ".csv") {
				require.Equal(t, content, again[name], "%d %s", seed, name)
			}
		}
	}
	assert.Positive(t, rows)
}

// TestTextsFitTemplate: with short forms and the ends of blocks texts are made to fit what a template takes, of which nothing else is said.
func TestTextsFitTemplate(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	book, err := sections.Load(write(t, dir, "fit.toml", "[target]\ntemplate = \"form.csv\"\n[target.columns]\n\"Text\" = \"description\"\n[title]\nfit = true\n"+
		"shorten = [[\"stainless steel\", \"st. steel\"], [\"for beginners\", \"basic\"]]\n[description]\nclean = true\ncut = true\n"))
	require.NoError(t, err)
	const form = "Form;;\nCode *;Name *;Text\nAt most 20 characters;At most 25 characters;HTML, at most 60 characters\n"
	write(t, dir, "form.csv", form)
	opt := fixed(write(t, dir, "list.csv", "SKU,Title,Description\nA,Stainless steel hive tool for beginners,<p>The first block of this text.</p><p>The second block of it.</p>\nB,Tool,<p>x</p>\n"), filepath.Join(dir, "out"))
	opt.Book = *book
	once := run(t, opt)
	want := form + "A;St. steel hive tool basic;<p>The first block of this text.</p>\nB;Tool;<p>x</p>\n"
	assert.Equal(t, want, ready(t, once))
	opt.Input, opt.Target = filepath.Join(once.Folder, "ready.csv"), filepath.Join(dir, "again")
	again := run(t, opt)
	assert.Equal(t, want, ready(t, again), "its columns are called otherwise, and the rules are followed all the same")
	assert.Zero(t, again.Counts().Changed)
}

// TestReferences: what names other products is written with those that are there, or with the shop's own numbers of them.
func TestReferences(t *testing.T) {
	t.Parallel()
	const form = "Form;;\nCode *;Name *;Goes with\nAt most 20 characters;Text;Several values separated by comma\n"
	const list = "SKU,Title,Related\nA,Smoker,\"B, S-9\"\nB,Veil,A\nC,Glove,\"X, A\"\nD,Hive,\n"
	for refers, want := range map[string]string{
		"sku": "A;Smoker;B,S-9\nB;Veil;A\nC;Glove;A\nD;Hive;\n",
		"id":  "A;Smoker;77\nB;Veil;12\nC;Glove;12\nD;Hive;\n",
	} {
		dir := t.TempDir()
		write(t, dir, "form.csv", form)
		write(t, dir, "shop.csv", "Number,SKU\n12,A\n77,S-9\n")
		book, err := sections.Load(write(t, dir, "refer.toml", "[shop]\nexport = \"shop.csv\"\nid = \"Number\"\n[target]\ntemplate = \"form.csv\"\n[target.columns]\n"+
			"\"Goes with\" = { from = \"Related\", refers = \""+refers+"\" }\n"))
		require.NoError(t, err)
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		opt.Book = *book
		r := run(t, opt)
		assert.Equal(t, form+want, ready(t, r), refers)
		assert.Contains(t, contents(t, r.Folder)["unknown-values.csv"], "4,Goes with,\"X, A\"", refers)
		opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
		assert.Equal(t, form+want, ready(t, run(t, opt)), refers)
	}
	dir := t.TempDir()
	write(t, dir, "form.csv", form)
	book, err := sections.Load(write(t, dir, "refer.toml", "[target]\ntemplate = \"form.csv\"\n[target.columns]\n\"Goes with\" = { from = \"Related\", refers = \"id\" }\n"))
	require.NoError(t, err)
	opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
	opt.Book = *book
	_, err = Run(t.Context(), opt)
	assert.ErrorContains(t, err, "[shop] id the column with its numbers")
}

// TestXLSRows: an old binary workbook is cut where its sheets end.
func TestXLSRows(t *testing.T) {
	t.Parallel()
	var b strings.Builder
	b.WriteString("SKU,Title\n")
	for i := range workbook.MostXLSRows + 10 {
		fmt.Fprintf(&b, "S%d,x\n", i)
	}
	opt := fixed(write(t, t.TempDir(), "list.csv", b.String()), filepath.Join(t.TempDir(), "out"))
	opt.As = []string{"xls"}
	r := run(t, opt)
	require.Len(t, r.Parts, 2)
	assert.Equal(t, [2]int{workbook.MostXLSRows - 1, 11}, [2]int{r.Parts[0].Rows, r.Parts[1].Rows})
	for _, name := range []string{"ready-1.xls", "ready-2.xls"} {
		assert.FileExists(t, filepath.Join(r.Folder, name))
	}
	entries, err := os.ReadDir(r.Folder)
	require.NoError(t, err)
	for _, e := range entries {
		assert.False(t, strings.HasPrefix(e.Name(), "."), "%s is left", e.Name())
	}
}

// TestVariantsInForm: what a form demands in each row, and the source says once for a product, stands in the rows of all its variants, also of
// those that have been made, and nothing goes out that the form would not take.
func TestVariantsInForm(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	const form = "Form;;;\nCode *;Name *;Size;Picture\nAt most 20 characters;Text;Text;File name ending in .jpg\n"
	write(t, dir, "form.csv", form)
	book, err := sections.Load(write(t, dir, "v.toml", "[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Size}\" }\n[target]\ntemplate = \"form.csv\"\n"+
		"[[targets]]\nname = \"b\"\ntemplate = \"form.csv\"\n"))
	require.NoError(t, err)
	opt := fixed(write(t, dir, "list.csv", "Handle,SKU,Title,Size,Sizes,Image\nglove,G1,Glove,S,,g.jpg\nglove,G2,,M,,\nglove,,,,,g-2.jpg\napron,A,Apron,,S|M,a.jpg\n"), filepath.Join(dir, "out"))
	opt.Book = *book
	r := run(t, opt)
	const want = form + "G1;Glove;S;g.jpg\nG2;Glove;M;\nA-S;Apron;S;a.jpg\nA-M;Apron;M;\n"
	assert.Equal(t, want, ready(t, r))
	assert.Equal(t, want, contents(t, r.Folder)["ready-b.csv"])
	assert.Equal(t, 1, r.Counts().Aside, "the row of the second picture, which the form would not take")
	opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
	opt.Book.Each, opt.Book.Targets, opt.Book.Forms = nil, nil, nil
	assert.Equal(t, want, ready(t, run(t, opt)))
}

// TestLike: what goes out is as files that were taken before: their columns, one behind the other, and their ways of writing; nothing is refused.
func TestLike(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write(t, dir, "taken.csv", "Code;Name;Price\n0012;Smoker;12,50\n0013;Veil;9,00\n")
	write(t, dir, "more.csv", "Code,Sold from,Size\n0012,01.03.2026,10\n0013,13.04.2026,12\n")
	const list = "SKU,Title,Price,Sold from,Size\n0014,Glove,4.5,2026-05-31,M\n0015,Hive,99,2026-06-01,7\n"
	const want = "Code;Name;Price;Sold from;Size\n0014;Glove;4,5;31.05.2026;M\n0015;Hive;99;01.06.2026;7\n"
	book, err := sections.Load(write(t, dir, "like.toml", "[target]\nlike = [\"taken.csv\", \"more.csv\"]\n[[targets]]\nname = \"b\"\nlike = [\"taken.csv\"]\n"))
	require.NoError(t, err)
	opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
	opt.Book = *book
	r := run(t, opt)
	assert.Equal(t, want, ready(t, r))
	assert.Equal(t, "Code;Name;Price\n0014;Glove;4,5\n0015;Hive;99\n", contents(t, r.Folder)["ready-b.csv"])
	opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
	assert.Equal(t, want, ready(t, run(t, opt)))
	_, err = sections.Load(write(t, dir, "both.toml", "[target]\ntemplate = \"taken.csv\"\nlike = [\"more.csv\"]\n"))
	assert.ErrorContains(t, err, "take one of the two lines out")
}

// TestFormsInArchives: forms in an archive, one or several, are filled as those that lie in a folder are.
func TestFormsInArchives(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	pack := func(name string, files map[string]string) string {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, name := range slices.Sorted(maps.Keys(files)) {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = io.WriteString(w, files[name])
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return write(t, dir, name, b.String())
	}
	headings := map[string]string{"Kind": "category"}
	outputs := func(input string, rules target.Rules) map[string]string {
		opt := fixed(input, filepath.Join(dir, "out"))
		opt.Book = sections.Book{Target: rules, Headings: headings}
		files := contents(t, run(t, opt).Folder)
		delete(files, "run.json")
		require.NoError(t, os.RemoveAll(opt.Target))
		return files
	}

	const plates, mugs = "Our form\nCode *;Kind *\nAt most 20 characters;One of: Plates, Bowls\n", "Code *,Kind *,Name\nAt most 20 characters,\"One of: Mugs, Cups\",\n"
	write(t, dir, "forms/plates.csv", plates)
	write(t, dir, "forms/mugs.csv", mugs)
	write(t, dir, "forms/read me.pdf", "%PDF-1.4")
	list := write(t, dir, "list.csv", "SKU,Title,Kind\nA,Plate,Plates\nB,Mug,Mugs\nC,Rug,Rugs\n")
	want := outputs(list, target.Rules{Template: filepath.Join(dir, "forms")})
	assert.Equal(t, "Our form\nCode *;Kind *\nAt most 20 characters;One of: Plates, Bowls\nA;Plates\n", want["ready-plates.csv"])
	archive := pack("forms.zip", map[string]string{"spring/plates.csv": plates, "spring/mugs.csv": mugs, "guide.pdf": "%PDF-1.4", "read me.txt": "Fill in one of them.\n", "__MACOSX/._mugs.csv": "x"})
	assert.Equal(t, want, outputs(list, target.Rules{Template: archive}))
	assert.Equal(t, outputs(list, target.Rules{Template: filepath.Join(dir, "forms/mugs.csv")}), outputs(list, target.Rules{Template: archive + "/spring/mugs.csv"}))

	// a form into which no product can go, or none goes, has no file, and stops nothing
	few := write(t, dir, "few.csv", "SKU,Title,Kind,Note\nA,Plate,Plates,\n")
	for _, rules := range []target.Rules{{Template: archive}, {Template: archive, Columns: target.Fills{"Kind": "Kind"}}, {Template: archive, Columns: target.Fills{"Kind": "Kind", "Name": "Note"}, Required: []string{"Name"}}} {
		files := outputs(few, rules)
		assert.Equal(t, want["ready-plates.csv"], files["ready-plates.csv"])
		assert.NotContains(t, files, "ready-mugs.csv")
		assert.NotContains(t, files, "held-mugs.csv")
	}
	opt := fixed(write(t, dir, "none.csv", "SKU,Title,Kind\nA,Rug,Rugs\n"), filepath.Join(dir, "none"))
	opt.Book = sections.Book{Target: target.Rules{Template: archive}, Headings: headings}
	_, err := Run(t.Context(), opt)
	assert.ErrorContains(t, err, "mugs: what the template demands is filled by nothing")

	form, source, mapping, _ := formSets(t, 5)
	book, err := os.ReadFile(form)
	require.NoError(t, err)
	rules := target.Rules{Template: form, Columns: answered(t, form, source, mapping)}
	headings = nil
	filled := outputs(source, rules)
	assert.NotEmpty(t, filled["ready.ods"])
	rules.Template = pack("form.zip", map[string]string{"the form.ods": string(book), "guide.pdf": "x"})
	assert.Equal(t, filled, outputs(source, rules))

	for name, says := range map[string]string{
		archive + "/winter.csv":                             "there is no such file in the archive",
		filepath.Join(dir, "x.csv"):                         "Check the spelling",
		list + "/form.csv":                                  "it is no folder, and no archive",
		pack("guides.zip", map[string]string{"a.pdf": "x"}): "an archive without a workbook or text file",
		pack("nested.zip", map[string]string{"a.xlsx": contents(t, dir)["guides.zip"]}): "an archive in an archive",
	} {
		_, err := template.Learn(name)
		assert.ErrorContains(t, err, says)
	}
	_, err = template.Learn(archive)
	assert.ErrorContains(t, err, "forms.zip/spring/mugs.csv")
}

// TestTogether: of columns that belong together a row fills all or none; those that no row fills do not go out where the form lets that be.
func TestTogether(t *testing.T) {
	t.Parallel()
	for name, test := range map[string]struct{ form, rules, list, want, says string }{
		"half, whole, none, and what is the same in every row": {
			"Our form\nCode *;Length;Width;Unit\n", "together = [[\"Length\", \"Width\", \"Unit\"]]\n[target.columns]\nUnit = { always = \"cm\" }\n",
			"SKU,Length,Width\nA,20,12\nB,20,\nC,,\n", "Our form\nCode *;Length;Width;Unit\nA;20;12;cm\nB;;;\nC;;;\n", ""},
		"nothing fills one": {
			"Our form\nCode *;Length;Width;Depth of it\n", "together = [[\"Length\", \"Width\", \"Depth of it\"]]\n",
			"SKU,Length,Width\nA,20,12\n", "Our form\nCode *;Length;Width;Depth of it\nA;;;\n", "nothing fills Depth of it"},
		"no row fills any, and the form has lines of its own": {
			"Our form\nCode *;Length;Width\n", "together = [[\"Length\", \"Width\"]]\n", "SKU,Length,Width\nA,,\n", "Our form\nCode *;Length;Width\nA;;\n", ""},
		"and where it has none": {
			"Code *;Length;Width;Name\n", "together = [[\"Length\", \"Width\"]]\n", "SKU,Length,Width,Title\nA,,,Veil\n", "Code *;Name\nA;Veil\n", "no row fills them: Length, Width"},
		"where one row does": {
			"Code *;Length;Width;Name\n", "together = [[\"Length\", \"Width\"]]\n", "SKU,Length,Width,Title\nA,,,Veil\nB,2,3,Hive\n", "Code *;Length;Width;Name\nA;;;Veil\nB;2;3;Hive\n", ""},
	} {
		dir := t.TempDir()
		write(t, dir, "form.csv", test.form)
		book, err := sections.Load(write(t, dir, "book.toml", "[target]\ntemplate = \"form.csv\"\n"+test.rules))
		require.NoError(t, err, name)
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		opt.Book = *book
		r := run(t, opt)
		assert.Equal(t, test.want, strings.ReplaceAll(ready(t, r), "\r", ""), name)
		assert.Contains(t, strings.Join(r.Notes, "\n"), test.says, name)
		form, err := template.Learn(filepath.Join(dir, "form.csv"))
		require.NoError(t, err)
		taken, err := rehearse.Run(rehearse.Options{Ready: filepath.Join(r.Folder, "ready.csv"), Form: form, Groups: book.Target.Together, Temp: t.TempDir()})
		require.NoError(t, err)
		assert.Zero(t, taken.Refused, "%s: %s", name, taken.Form)
		opt.Input, opt.Target = write(t, dir, "copy.csv", ready(t, r)), filepath.Join(dir, "again")
		assert.Equal(t, test.want, ready(t, run(t, opt)), "%s, once more", name)

		targets, err := sections.Load(write(t, dir, "targets.toml", "[[targets]]\nname = \"b\"\ntemplate = \"form.csv\"\n"+strings.ReplaceAll(test.rules, "[target.", "[targets.")))
		require.NoError(t, err, name)
		opt = fixed(filepath.Join(dir, "list.csv"), filepath.Join(dir, "targets"))
		opt.Book = *targets
		assert.Equal(t, test.want, contents(t, run(t, opt).Folder)["ready-b.csv"], "%s, as a further target", name)
	}
	dir := t.TempDir()
	form := write(t, dir, "form.csv", "Code *;Length;Width\n")
	for says, rules := range map[string]target.Rules{
		"must be filled in each row": {Template: form, Together: [][]string{{"Code", "Width"}}},
		"Length, Width":              {Template: form, Together: [][]string{{"Length", "Height"}}},
		"stands there twice":         {Template: form, Together: [][]string{{"Length", "Width"}, {"Width", "Length"}}},
	} {
		opt := fixed(write(t, dir, "list.csv", "SKU,Length,Width\nA,20,12\n"), filepath.Join(dir, "out"))
		opt.Book = sections.Book{Target: rules}
		_, err := Run(t.Context(), opt)
		assert.ErrorContains(t, err, says)
	}
	opt := fixed(write(t, dir, "blank.csv", "SKU,Length,Width\nA,,12\nB,,14\n"), filepath.Join(dir, "out"))
	opt.Book = sections.Book{Target: target.Rules{Template: form, Required: []string{"Length"}, Columns: target.Fills{"Length": "Length"}}}
	_, err := Run(t.Context(), opt)
	assert.ErrorContains(t, err, `columns in which nothing stands: "Length" from "Length"`)
	assert.NoDirExists(t, opt.Target)
	_, err = sections.Load(write(t, dir, "bad.toml", "[target]\ntogether = [[\"Length\"]]\n"))
	assert.ErrorContains(t, err, "at least two columns")
}

// TestBesides: columns that the template does not have go out behind its own if that is said, and are known again; all else of it is as it was.
func TestBesides(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write(t, dir, "form.csv", "Our form, of 2026\r\nCode *;\"Name *\"\r\n\"at most 9 characters\";at most 20 characters\r\nSAMPLE-1;Sample\r\n")
	list := write(t, dir, "list.csv", "SKU,Weight,Title,Supplier,Note; x\nA,,Veil,Mill,a\nB,3,Hive,Barn,\"x;y\"\n")
	book, err := sections.Load(write(t, dir, "book.toml", "[target]\ntemplate = \"form.csv\"\nbesides = [\"Supplier\", \"Note; x\"]\n[[targets]]\nname = \"b\"\ntemplate = \"form.csv\"\nbesides = [\"Weight\"]\n"))
	require.NoError(t, err)
	opt := fixed(list, filepath.Join(dir, "out"))
	opt.Book = *book
	r := run(t, opt)
	assert.Equal(t, "Our form, of 2026\r\nCode *;\"Name *\";Supplier;\"Note; x\"\r\n\"at most 9 characters\";at most 20 characters\r\nA;Veil;Mill;a\r\nB;Hive;Barn;\"x;y\"\r\n", ready(t, r))
	assert.Contains(t, contents(t, r.Folder)["ready-b.csv"], "Code *;\"Name *\";Weight\r\n\"at most 9 characters\";at most 20 characters\r\nA;Veil;\r\nB;Hive;3\r\n")
	opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
	opt.Book.Targets = nil
	assert.Equal(t, ready(t, r), ready(t, run(t, opt)))

	form, _, _, _ := formSets(t, 5)
	for says, rules := range map[string]target.Rules{
		"it is a workbook":          {Template: form, Besides: []string{"Supplier"}},
		"it has such a column":      {Template: filepath.Join(dir, "form.csv"), Besides: []string{"Name"}},
		"besides names \"Nowhere\"": {Template: filepath.Join(dir, "form.csv"), Besides: []string{"Nowhere"}},
	} {
		opt := fixed(list, filepath.Join(dir, "wrong"))
		opt.Book = sections.Book{Target: rules}
		_, err := Run(t.Context(), opt)
		assert.ErrorContains(t, err, says)
	}
}
