package cli

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/demo"
)

// program is the built program.
var program string

// tags returns those with which the tests were built; the program is built with them, too.
func tags() string {
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, s := range info.Settings {
			if s.Key == "-tags" {
				return s.Value
			}
		}
	}
	return ""
}

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "zetanum-test-*")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "zetanum")
	if runtime.GOOS == "windows" {
		program += ".exe"
	}
	build := exec.Command("go", "build", "-pgo=off", "-tags="+tags(), "-o", program, "zetanum/cmd/zetanum") // which takes half as long to make
	if cover := os.Getenv("ZETANUM_COVER"); cover != "" {                                                   // a folder for what of the code the program ran
		build.Args = slices.Insert(build.Args, 2, "-cover", "-covermode=atomic", "-coverpkg=zetanum/...")
		os.Setenv("GOCOVERDIR", cover)
	}
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

// A call is one run of the built program.
type call struct {
	dir    string
	stdin  string
	status int
	stdout string
	stderr string
}

func (c *call) run(t *testing.T, args ...string) {
	t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Dir, cmd.Stdin = c.dir, strings.NewReader(c.stdin)
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		require.NoError(t, err)
	}
	c.status, c.stdout, c.stderr = cmd.ProcessState.ExitCode(), out.String(), errs.String()
}

func zetanum(t *testing.T, dir string, args ...string) *call {
	t.Helper()
	c := &call{dir: dir}
	c.run(t, args...)
	return c
}

func writeFile(t *testing.T, path, content string) {
	t.Helper()
	require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
}

func readFile(t *testing.T, path string) string {
	t.Helper()
	content, err := os.ReadFile(path)
	require.NoError(t, err)
	return string(content)
}

const small = "SKU,EAN,Title\nA1,9521234000013,Smoker\nA2,9.52124E+12,Hive  tool\n"

// TestCommandLine: what comes back for command lines right and wrong.
func TestCommandLine(t *testing.T) {
	for _, test := range []struct {
		args   string
		status int
		stdout string // a part of it
		stderr string
	}{
		{"check list.csv -heading-row 0", exitUsage, "", "-heading-row 0 says nothing"},
		{"check list.csv -sample 0", exitUsage, "", "-sample 0 says nothing"},
		{"check list.csv -sheet Prices", exitFailed, "", "it is no workbook, and has no sheets. Leave out -sheet."},
		{"", 0, "zetanum repair stock.csv", ""},
		{"help", 0, "Commands", ""},
		{"help jobs zero price", 0, "### Clear sale prices of 0", ""},
		{"help jobs xyzzy", 2, "", "no job has “xyzzy”"},
		{"help", 0, "zetanum demo", ""},
		{"help repair", 0, "-trust FILE", ""},
		{"repair -h", 0, "-trust FILE", ""},
		{"help repiar", 2, "", "Did you mean “zetanum repair”"},
		{"version", 0, "zetanum " + Version, ""},
		{"--version", 0, "zetanum " + Version, ""},
		{"repiar list.csv", 2, "", "Did you mean “zetanum repair”"},
		{"list.csv", 0, "zetanum begin -ask list.csv", ""},
		{"inspect list.csv", 0, "zetanum repair list.csv", ""},
		{"inspect -json list.csv", 0, `"next": "zetanum repair list.csv"`, ""},
		{"inspect list.csv -field Title=brand", 0, `-field Title=brand`, ""},
		{"inspect", 2, "", "name a file"},
		{"nothing.csv", 3, "", "nothing.csv: file does not exist"},
		{"inspect .", 3, "", "a folder, not a file"},
		{"check list.csv", 1, "1 of 2 rows is ready", ""},
		{"check -json list.csv", 1, `"held": 1`, ""},
		{"check -workers 0 list.csv", 2, "", "-workers 0"},
		{"check -sample -3 list.csv", 2, "", "-sample -3"},
		{"check -date yesterday list.csv", 2, "", "YYYY-MM-DD"},
		{"check -only nonsense list.csv", 2, "", "the headings are: SKU, EAN, Title"},
		{"check -field Title list.csv", 2, "", "HEADING=FIELD"},
		{"check -field Title=titel list.csv", 2, "", "there is no field"},
		{"check -nonsense list.csv", 2, "", "help check"},
		{"check -trust nothing.xlsx list.csv", 3, "", "nothing.xlsx"},
		{"check -trust names.csv list.csv", 3, "", "no barcode column was recognised"},
		{"repair -out - -json list.csv", 2, "", "standard output"},
		{"repair -out . list.csv", 2, "", "not a folder that a repair has written"},
		{"repair -out x list.csv names.csv", 2, "", "-out names the output of one file"},
		{"check nothing.csv list.csv", 3, "1 of 2 rows is ready", "nothing.csv"},
		{"barcode 9521234000013", 0, "EAN-13, the check digit fits", ""},
		{"barcode 9521234000012", 1, "the last would be 3", ""},
		{"barcode 9.52123E+12", 1, "one of 1,000,000 possible codes", ""},
		{"barcode -json 952123400001", 1, `"right_check_digit"`, ""},
		{"finding barcode.rounded", 0, "-trust", ""},
		{"finding barcode.ronded", 2, "", "Did you mean barcode.rounded?"},
		{"finding", 0, "row.split-number", ""},
	} {
		dir := t.TempDir()
		writeFile(t, filepath.Join(dir, "list.csv"), small)
		writeFile(t, filepath.Join(dir, "names.csv"), "SKU,Title\nA1,Smoker\n")
		c := zetanum(t, dir, strings.Fields(test.args)...)
		assert.Equal(t, test.status, c.status, "%s\n%s%s", test.args, c.stdout, c.stderr)
		assert.Contains(t, c.stdout, test.stdout, test.args)
		assert.Contains(t, c.stderr, test.stderr, test.args)
		assert.Equal(t, test.stderr == "", c.stderr == "", "%s: %s", test.args, c.stderr)
		assert.NotContains(t, c.stdout, "\x1b", "colour that nobody asked for")
		entries, err := os.ReadDir(dir)
		require.NoError(t, err)
		assert.Len(t, entries, 2, "%s left something behind", test.args)
	}
}

// TestStreams: standard input and output.
func TestStreams(t *testing.T) {
	dir := t.TempDir()
	c := &call{dir: dir, stdin: small}
	c.run(t, "repair", "-", "-out", "-")
	assert.Equal(t, exitHeld, c.status)
	assert.Equal(t, "SKU,EAN,Title\nA1,9521234000013,Smoker\n", c.stdout)
	assert.Contains(t, c.stderr, "1 of 2 rows is ready")
	c.run(t, "repair", "-", "-only", "barcode", "-out", "-")
	assert.Equal(t, "SKU,EAN\nA1,9521234000013\n", c.stdout)
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, entries)

	c.run(t, "repair", "-")
	assert.FileExists(t, filepath.Join(dir, "standard-input.repaired", "ready.csv"))
	c.stdin = "9521234000013\r\n\n9521234000012\n"
	c.run(t, "barcode")
	assert.Equal(t, exitHeld, c.status)
	assert.Equal(t, 1, strings.Count(c.stdout, "valid  EAN-13"))
	c.stdin = ""
	c.run(t, "inspect", "-")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "standard input: the file is empty")
}

// TestRepair: the folder, what is in it, and the JSON that tells of it.
func TestRepair(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), small)
	writeFile(t, filepath.Join(dir, "counted.csv"), "SKU;EAN\nA2;9521239000018\n")
	c := zetanum(t, dir, "repair", "list.csv", "-trust", "counted.csv", "-json", "-date", "2026-01-02")
	require.Equal(t, exitOK, c.status, c.stderr)
	var doc struct {
		Folder   string
		Counts   map[string]int
		Repaired []struct{ Rule, Ground string }
	}
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &doc))
	assert.Equal(t, "list.repaired", doc.Folder)
	assert.Equal(t, 2, doc.Counts["ready"])
	assert.Len(t, doc.Repaired, 2)
	read := func(name string) string {
		b, err := os.ReadFile(filepath.Join(dir, "list.repaired", name))
		require.NoError(t, err)
		return string(b)
	}
	assert.Equal(t, "SKU,EAN,Title\nA1,9521234000013,Smoker\nA2,9521239000018,Hive tool\n", read("ready.csv"))
	assert.Equal(t, "Row,Reason,SKU,EAN,Title\n", read("held.csv"))
	assert.Contains(t, read("run.json"), `"date": "2026-01-02"`)
	assert.Contains(t, read("changes.jsonl"),
		`{"row":3,"column":"EAN","field":"barcode","before":"9.52124E+12","after":"9521239000018","rule":"repair.trusted","ground":"backed","source":"counted.csv, row 2, says 9521239000018"}`)
	book, err := excelize.OpenFile(filepath.Join(dir, "list.repaired", "review.xlsx"))
	require.NoError(t, err)
	defer book.Close()
	assert.Equal(t, []string{"Summary", "Held"}, book.GetSheetList())
}

// TestReviewKeepsCodesAsText: no program that opens the review workbook may
// take a code in it for a number, and a cell that is too long says so.
func TestReviewKeepsCodesAsText(t *testing.T) {
	dir := t.TempDir()
	long := strings.Repeat("long ", 8000)
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Description\n007,9521234000012,Smoker,"+long+"\n")
	require.Equal(t, exitHeld, zetanum(t, dir, "repair", "list.csv").status)
	book, err := excelize.OpenFile(filepath.Join(dir, "list.repaired", "review.xlsx"))
	require.NoError(t, err)
	defer book.Close()
	for cell, want := range map[string]string{"A2": "2", "C2": "007", "D2": "9521234000012"} {
		kind, err := book.GetCellType("Held", cell)
		require.NoError(t, err)
		assert.Contains(t, []excelize.CellType{excelize.CellTypeInlineString, excelize.CellTypeSharedString}, kind, cell)
		value, err := book.GetCellValue("Held", cell)
		require.NoError(t, err)
		assert.Equal(t, want, value)
	}
	value, err := book.GetCellValue("Held", "F2")
	require.NoError(t, err)
	assert.Contains(t, value, "[shortened; 40000 bytes in the source]")
}

// TestEditedReviewSurvives: what a person has typed into the review workbook
// is there after the next run, which says where its own output is.
func TestEditedReviewSurvives(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), small)
	zetanum(t, dir, "repair", "list.csv")
	review := filepath.Join(dir, "list.repaired", "review.xlsx")
	book, err := excelize.OpenFile(review)
	require.NoError(t, err)
	require.NoError(t, book.SetCellStr("Held", "B5", "asked the supplier"))
	require.NoError(t, book.Save())
	require.NoError(t, book.Close())
	c := zetanum(t, dir, "repair", "list.csv")
	assert.Contains(t, c.stdout, "Written to list.repaired-2")
	assert.Contains(t, c.stdout, filepath.Join("list.repaired", "review.xlsx"))
	book, err = excelize.OpenFile(review)
	require.NoError(t, err)
	defer book.Close()
	value, err := book.GetCellValue("Held", "B5")
	require.NoError(t, err)
	assert.Equal(t, "asked the supplier", value)
}

// TestKilled kills the program at random moments; what is there afterwards is
// the old folder or the new one, whole.
func TestKilled(t *testing.T) {
	if testing.Short() {
		t.Skip("kills the program thirty times")
	}
	dir := t.TempDir()
	source := filepath.Join(dir, "list.csv")
	version := func(n int) {
		var b strings.Builder
		b.WriteString("SKU,EAN,Title\n")
		for i := range 40000 {
			fmt.Fprintf(&b, "A%d,9.5212%dE+12,Version %d of tool %d\n", i, i%10, n, i)
		}
		writeFile(t, source, b.String())
	}
	version(0)
	start := time.Now()
	require.Equal(t, exitHeld, zetanum(t, dir, "repair", "list.csv").status)
	took := time.Since(start)
	target := filepath.Join(dir, "list.repaired")
	state := func() string {
		edited, err := folder.Edited(target)
		require.NoError(t, err)
		require.Empty(t, edited, "the folder is not whole")
		b, err := os.ReadFile(filepath.Join(target, folder.ManifestName))
		require.NoError(t, err, "the folder is gone")
		return string(b)
	}
	before := state()
	replaced := 0
	for n := range 30 {
		version(n + 1)
		cmd := exec.Command(program, "repair", "list.csv")
		cmd.Dir, cmd.Stdout, cmd.Stderr = dir, io.Discard, io.Discard
		require.NoError(t, cmd.Start())
		// Most of the moments lie near the end, where the folders change places.
		part := 0.75 + rand.Float64()*0.45
		if n%5 == 0 {
			part = rand.Float64()
		}
		time.Sleep(time.Duration(float64(took) * part))
		cmd.Process.Kill()
		cmd.Wait()
		next, err := folder.Begin(target) // the next run finds what the killed one has left
		require.NoError(t, err)
		require.NoError(t, next.Abort())
		if after := state(); after != before {
			before = after
			replaced++
		}
		entries, err := os.ReadDir(dir)
		require.NoError(t, err)
		require.Len(t, entries, 2, "something is left behind: %v", entries)
	}
	t.Logf("%d of 30 runs had finished", replaced)
}

// TestDemo: the demo runs, says what it should, and leaves a folder alone that
// holds something else.
func TestDemo(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	c := zetanum(t, dir, "demo")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "$ zetanum repair zetanum-demo/saltmarsh-export.csv -trust zetanum-demo/stock-take.xlsx")
	assert.Contains(t, c.stdout, "What to look at next")
	again := zetanum(t, dir, "demo")
	assert.Equal(t, exitOK, again.status, again.stderr)
	writeFile(t, filepath.Join(dir, "zetanum-demo", "mine.txt"), "mine")
	refused := zetanum(t, dir, "demo")
	assert.Equal(t, exitUsage, refused.status)
	assert.Contains(t, refused.stderr, "mine.txt")
}

// TestMessagesSayWhere: whatever is open or was repaired in the demo is told with
// the row, the heading of the column, the reason and what to do, and the sums of
// all runs add up.
func TestMessagesSayWhere(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	c := zetanum(t, dir, "demo")
	require.Equal(t, exitOK, c.status)
	sums := regexp.MustCompile(`(?m)^read (\S+) = ready (\S+) \+ held (\S+) \+ set aside (\S+)$`).FindAllStringSubmatch(c.stdout, -1)
	require.Len(t, sums, 16)
	for _, sum := range sums {
		var n [4]int
		for i := range n {
			_, err := fmt.Sscan(strings.ReplaceAll(sum[i+1], ",", ""), &n[i])
			require.NoError(t, err)
		}
		assert.Equal(t, n[0], n[1]+n[2]+n[3], sum[0])
	}
	all := ""
	for _, name := range []string{"saltmarsh-export.csv", "odds-and-ends.csv", "hollowbrook-prices.csv", "wick-garbled.csv"} {
		path := filepath.Join("zetanum-demo", name)
		short, whole := zetanum(t, dir, "repair", path).stdout, zetanum(t, dir, "repair", path, "-all").stdout
		assert.LessOrEqual(t, strings.Count(short, "\n"), 50+20, "a screen, and the rows of a small file")
		if len(short) < len(whole) {
			assert.Contains(t, short, "-all shows")
		}
		assert.NotContains(t, whole, "-all shows")
		all += whole
	}
	lines := strings.Split(all, "\n")
	entry := regexp.MustCompile(`^ *[\d,]+  (Barcode|Product name|SKU|EAN|GTIN|Designation): `)
	section, entries := "", 0
	for i, line := range lines {
		switch {
		case strings.HasPrefix(line, "Repaired in"), strings.HasPrefix(line, "Open, "):
			section = line[:4]
		case line == "":
			section = ""
		case section != "" && entry.MatchString(line):
			entries++
			code := line[strings.LastIndexByte(line, ' ')+1:]
			if section == "Open" {
				_, known := catalogue.FindCode(code)
				assert.True(t, known, line)
			}
			assert.Regexp(t, `^ +row \d+: .`, lines[i+1])
			if section == "Open" {
				advice := false
				for _, l := range lines[i+1 : min(i+8, len(lines))] {
					advice = advice || strings.HasPrefix(strings.TrimSpace(l), "→ ")
				}
				assert.True(t, advice, "nothing says what to do: %s", line)
			}
		}
	}
	assert.Greater(t, entries, 25)
}

// TestSeveralFiles: each file is a run of its own, the exit status is the worst,
// and JSON is one document.
func TestSeveralFiles(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "good.csv"), "SKU,EAN,Title\nA1,9521234000013,Smoker\n")
	writeFile(t, filepath.Join(dir, "list.csv"), small)
	assert.Equal(t, exitOK, zetanum(t, dir, "repair", "good.csv").status)
	c := zetanum(t, dir, "repair", "good.csv", "list.csv", "-sample", "1")
	assert.Equal(t, exitOK, c.status, "a sample holds nothing")
	assert.Equal(t, 2, strings.Count(c.stdout, "A sample of 1 product with 1 row is ready"))
	c = zetanum(t, dir, "check", "-json", "good.csv", "list.csv")
	assert.Equal(t, exitHeld, c.status)
	var docs []struct {
		File   string
		Counts map[string]int
	}
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &docs))
	require.Len(t, docs, 2)
	assert.Equal(t, "list.csv", docs[1].File)
	assert.Equal(t, map[string]int{"read": 2, "ready": 1, "held": 1, "set_aside": 0, "products": 2, "cells_changed": 0, "changes": 0}, docs[1].Counts)
	c = zetanum(t, dir, "inspect", "-json", "good.csv", "list.csv")
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &docs))
	assert.Len(t, docs, 2)
}

// TestReferencePages: the reference pages are those that the program writes, and every finding is
// explained.
func TestReferencePages(t *testing.T) {
	for page, args := range map[string][]string{"findings.md": {"finding", "-all"}, "rulebook.md": {"help", "rulebook"}, "jobs.md": {"help", "jobs"}} {
		kept, err := os.ReadFile(filepath.Join("..", "..", "docs", page))
		require.NoError(t, err)
		assert.True(t, zetanum(t, ".", args...).stdout == string(kept), "run: go run ./cmd/zetanum %s > docs/%s", strings.Join(args, " "),
			page)
	}
	for _, c := range catalogue.Codes() {
		e := c.Entry()
		assert.NotEmpty(t, e.Name, "finding %d", c)
		assert.NotEmpty(t, e.Title, e.Name)
		assert.NotEmpty(t, e.Sentence, e.Name)
		assert.NotEmpty(t, e.Do, e.Name)
		assert.NotEmpty(t, e.Example, e.Name)
	}
}

// TestWhereDocsLead: what the pages show and link to is there, and so is the heading.
func TestWhereDocsLead(t *testing.T) {
	root := filepath.Join("..", "..")
	pages, err := filepath.Glob(filepath.Join(root, "docs", "*.md"))
	require.NoError(t, err)
	leads := 0
	for _, page := range append(pages, filepath.Join(root, "README.md"), filepath.Join(root, "CHANGELOG.md"), filepath.Join(root, "CONTRIBUTING.md")) {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		for _, m := range regexp.MustCompile(`\]\(([^)\s]+)\)`).FindAllStringSubmatch(regexp.MustCompile("(?s)```.*?```|`[^`]*`").ReplaceAllString(string(text), ""), -1) {
			to, heading, _ := strings.Cut(m[1], "#")
			if strings.Contains(to, "://") {
				continue
			}
			leads++
			at := page
			if to != "" {
				at = filepath.Join(filepath.Dir(page), filepath.FromSlash(to))
			}
			info, err := os.Stat(at)
			if !assert.NoError(t, err, "%s leads to %s", page, m[1]) || heading == "" || info.IsDir() {
				continue
			}
			there, err := os.ReadFile(at)
			require.NoError(t, err)
			headed := false
			for _, h := range regexp.MustCompile(`(?m)^#+ (.*)$`).FindAllStringSubmatch(string(there), -1) {
				name := regexp.MustCompile(`[^\pL\pN _-]`).ReplaceAllString(strings.ToLower(h[1]), "")
				headed = headed || strings.ReplaceAll(name, " ", "-") == heading
			}
			assert.True(t, headed, "%s leads to %s, and there is no such heading", page, m[1])
		}
	}
	assert.Greater(t, leads, 40)
}

// TestCommandsInDocs runs every command line that the README and the pages
// under docs show, in the order in which they stand.
func TestCommandsInDocs(t *testing.T) {
	root, err := filepath.Abs(filepath.Join("..", ".."))
	require.NoError(t, err)
	pages, err := filepath.Glob(filepath.Join(root, "docs", "*.md"))
	require.NoError(t, err)
	if testing.Short() {
		t.Skip("runs all that the pages show")
	}
	block := regexp.MustCompile("(?s)```sh\n(.*?)```")
	laid := t.TempDir()
	require.Equal(t, exitOK, zetanum(t, laid, "demo").status)
	for _, page := range append([]string{filepath.Join(root, "README.md")}, pages...) {
		t.Run(filepath.Base(page), func(t *testing.T) {
			t.Parallel()
			text, err := os.ReadFile(page)
			require.NoError(t, err)
			dir := t.TempDir()
			require.NoError(t, os.CopyFS(dir, os.DirFS(laid)))
			for _, m := range block.FindAllStringSubmatch(string(text), -1) {
				for line := range strings.Lines(m[1]) {
					line = strings.TrimSpace(line)
					if strings.HasPrefix(line, "go run ./cmd/zetanum") {
						line = strings.Replace(line, "go run ./cmd/zetanum", "zetanum", 1)
					}
					words := splitLine(line)
					if line == "" || words[0] != "zetanum" {
						assert.Contains(t, []string{"", "go test ./...", "go run ./bench", "go build ./cmd/zetanum"}, line,
							"%s shows a command that no test runs", page)
						continue
					}
					c := zetanum(t, dir, words[1:]...)
					assert.LessOrEqual(t, c.status, exitHeld, "%s: %s\n%s", page, line, c.stderr)
				}
			}
		})
	}
}

// TestExamples runs what the help of each command gives as examples, as it stands, in the folder of
// the demo, and holds the help to having at least one that names each command.
func TestExamples(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "demo")
	require.NoError(t, demo.Lay(dir))
	for _, c := range commands() {
		about := c.about()
		require.NotEmpty(t, about.examples, about.name)
		shown := zetanum(t, dir, "help", about.name).stdout
		for _, line := range about.examples {
			assert.Contains(t, shown, line)
			words := splitLine(line)
			require.Equal(t, []string{"zetanum", about.name}, words[:2], line)
			ran := zetanum(t, dir, words[1:]...)
			assert.LessOrEqual(t, ran.status, exitHeld, "%s\n%s", line, ran.stderr)
			assert.NotEmpty(t, ran.stdout, line)
			// The last line is the next command, and it goes as it stands.
			if isData(words[1:]) {
				continue
			}
			lines := strings.Split(strings.TrimSuffix(ran.stdout, "\n"), "\n")
			next := lines[len(lines)-1]
			if !assert.True(t, strings.HasPrefix(next, "  zetanum "), "%s ends with %q", line, next) {
				continue
			}
			followed := zetanum(t, dir, splitLine(strings.TrimSpace(next))[1:]...)
			assert.LessOrEqual(t, followed.status, exitHeld, "%s\n%s\n%s", line, next, followed.stderr)
		}
	}
}

// isData reports whether what a command prints is for programs, or a page, and has no further command below it.
func isData(words []string) bool {
	is := func(names ...string) bool {
		return slices.ContainsFunc(names, func(name string) bool { return slices.Contains(words, name) })
	}
	return words[0] == "version" || words[0] == "completion" || is("-json", "-draw", "-count", "-complete", "-find", "-cell", "export") || len(words) == 2 && words[0] == "help" && is("jobs", "rulebook", "man")
}

// splitLine splits a command line into words; double quotes keep a word
// together.
func splitLine(line string) []string {
	quoted := false
	words := strings.FieldsFunc(line, func(r rune) bool {
		if r == '"' {
			quoted = !quoted
		}
		return r == ' ' && !quoted
	})
	for i := range words {
		words[i] = strings.ReplaceAll(words[i], `"`, "")
	}
	return words
}

// TestFindAndCell: a column is found by what it means, and a cell is shown in full.
func TestFindAndCell(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,VK-Preis,Empty,Note\nA,9.50,,\"long"+strings.Repeat(" text", 40)+
		"\nwith  two\"\nB,8,,x\n")
	c := zetanum(t, dir, "inspect", "list.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "Empty, and left out here (-all shows them): Empty.")
	assert.NotContains(t, zetanum(t, dir, "inspect", "list.csv", "-all").stdout, "left out here")
	for _, word := range []string{"price", "preis", "9.5"} {
		c = zetanum(t, dir, "inspect", "list.csv", "-find", word)
		assert.Contains(t, c.stdout, "VK-Preis  price", word)
		assert.Contains(t, c.stdout, "column 2 (B)", word)
		assert.NotContains(t, c.stdout, "Note", word)
	}
	assert.Contains(t, zetanum(t, dir, "inspect", "list.csv", "-find", "weight").stdout, "none")
	c = zetanum(t, dir, "inspect", "list.csv", "-cell", "2,note")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "Row 2, Note, 214 characters\nlong"+strings.Repeat(" text", 40)+"\nwith  two\n")
	assert.Contains(t, c.stdout, "text⏎with␣␣two")
	assert.Equal(t, "9.50", field(t, zetanum(t, dir, "inspect", "list.csv", "-cell", "2,price", "-json").stdout, "cell"))
	for cell, says := range map[string]string{"9,Note": "its rows are 2 to 3", "2,Colour": "the headings are: SKU", "x": "-cell 12,Title",
		"x,Note": "-cell 12,Title"} {
		c = zetanum(t, dir, "inspect", "list.csv", "-cell", cell)
		assert.NotEqual(t, exitOK, c.status)
		assert.Contains(t, c.stderr, says)
	}
}

func field(t *testing.T, document, name string) any {
	var all map[string]any
	require.NoError(t, json.Unmarshal([]byte(document), &all))
	return all[name]
}

// TestInspectAnything: a table of which no heading is known is shown with what its columns
// hold, and the command that is printed says what they mean; where no column is the SKU, those
// that could be are named.
func TestInspectAnything(t *testing.T) {
	const bikes = "ZX-100,Stadtrad Linden,Stahl,499.00\nZX-101,Stadtrad Ulme,Alu,599.00\nZX-102,Reiserad Fjord,Stahl,899.00\n"
	for _, test := range []struct {
		name, list string
		says       []string
		next       string
	}{
		{"unknown", "Zkr,Modell,Rahmen,Lvp\n" + bikes, []string{"None of the headings is known.", "Zkr (3 different of 3) could be", "Lvp     numbers"},
			"zetanum inspect list.csv -field Zkr=sku -field Modell=title"},
		{"none", bikes, []string{"None of the headings is known.", "no headings"},
			`zetanum inspect list.csv -no-headings -field "Column 1=sku" -field "Column 2=title"`},
		{"no key", "Lot,Maker ref,Title,Price\nL-1,M1,Cup,5.50\nL-2,M2,Jug,6.50\nL-3,M3,Plate,7.50\n",
			[]string{"No column is known as the SKU. Lot (3 different of 3) or Maker ref (3 different of 3) could be: -field Lot=sku says so"}, "zetanum repair list.csv"},
		{"descriptions that are titles, and whether any are there", "SKU,Description,In stock\nA,Red cup,yes\nB,Blue cup,no\nC,Jug,yes\n",
			[]string{`column "Description" is taken for title, to judge by its cells`, "In stock in_stock"}, "zetanum repair list.csv"},
	} {
		dir := t.TempDir()
		writeFile(t, filepath.Join(dir, "list.csv"), test.list)
		c := zetanum(t, dir, "inspect", "list.csv")
		require.Equal(t, exitOK, c.status, "%s: %s", test.name, c.stderr)
		said := strings.Join(strings.Fields(c.stdout), " ")
		for _, s := range test.says {
			assert.Contains(t, said, strings.Join(strings.Fields(s), " "), test.name)
		}
		lines := strings.Split(strings.TrimSpace(c.stdout), "\n")
		assert.Equal(t, test.next, strings.TrimSpace(lines[len(lines)-1]), test.name)
		if args := strings.TrimPrefix(test.next, "zetanum inspect "); args != test.next {
			args := strings.Split(strings.ReplaceAll(args, `"`, ""), " -field ")
			with := []string{"inspect"}
			for i, a := range args {
				if i > 0 {
					with = append(with, "-field", a)
				} else {
					with = append(with, strings.Fields(a)...)
				}
			}
			c := zetanum(t, dir, with...)
			require.Equal(t, exitOK, c.status, c.stderr)
			assert.NotContains(t, c.stdout, "None of the headings", test.name)
		}
	}
}

// TestReading: what is said about how a file is to be read is obeyed, also when the run is
// done again for its codes; a table without headings goes out without any.
func TestReading(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "A%9521234000013%Smoker  x\nB%9521234000020%Tool\n")
	c := zetanum(t, dir, "repair", "list.csv")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "-no-headings")
	flags := []string{"-separator", "%", "-no-headings", "-field", "Column 1=sku", "-field", "Column 3=title"}
	c = zetanum(t, dir, append([]string{"inspect", "list.csv"}, flags...)...)
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "zetanum repair list.csv -separator % -no-headings -field")
	c = zetanum(t, dir, append([]string{"repair", "list.csv"}, flags...)...)
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "separator %, rows end with LF; no headings")
	ready := filepath.Join(dir, "list.repaired", "ready.csv")
	content, err := os.ReadFile(ready)
	require.NoError(t, err)
	assert.Equal(t, "A%9521234000013%Smoker x\nB%9521234000020%Tool\n", string(content))
	writeFile(t, ready, "spoilt")
	writeFile(t, filepath.Join(dir, "later.csv"), "SKU,EAN\nA,9.52E+12\n")
	c = zetanum(t, dir, "check", "later.csv", "-trust", "list.repaired")
	assert.Equal(t, exitFailed, c.status, "made anew, it has no headings: %s", c.stderr)
	for flag, value := range map[string]string{"-separator": "ab", "-quote": "xy", "-heading-row": "-1"} {
		c = zetanum(t, dir, "check", "later.csv", flag, value)
		assert.Equal(t, exitUsage, c.status, flag)
		assert.Contains(t, c.stderr, flag+":")
	}
}

// TestEncoding: the encoding is found or named, and said; a file in it comes out in
// UTF-8, whatever else is wrong with its texts.
func TestEncoding(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU;Title\nA;R\xeakawice \xbf\xf3\xb3te i kr\xf3tkie, \x9crednie\nB;Pude\xb3ko na mi\xf3d, du\xbfe\n")
	c := zetanum(t, dir, "repair", "list.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "CSV, Windows-1250, separator semicolon")
	ready, err := os.ReadFile(filepath.Join(dir, "list.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU;Title\nA;Rękawice żółte i krótkie, średnie\nB;Pudełko na miód, duże\n", string(ready))
	c = zetanum(t, dir, "check", "list.csv", "-encoding", "cp1252")
	assert.Contains(t, c.stdout, "CSV, Windows-1252")
	c = zetanum(t, dir, "check", "list.csv", "-encoding", "utf-7")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, "those that can be read are: UTF-8, UTF-16LE, UTF-16BE, UTF-32LE")
	writeFile(t, filepath.Join(dir, "wrong.csv"), "SKU,Title\nA,KÃ¼che\nB,\"Königs CafÃ© voilÃ \"\nC,BÃ¶gen voilÃ\n")
	c = zetanum(t, dir, "repair", "wrong.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "a text that had been decoded wrongly mended")
	assert.Contains(t, c.stdout, "perhaps decoded wrongly")
	c = zetanum(t, dir, "repair", "wrong.csv", "-yes", "text.misread")
	assert.Contains(t, c.stdout, "decided")

	writeFile(t, filepath.Join(dir, "pasted.csv"), "SKU,Title\nA,Küche\nB,Größe\nC,Łódź\nD,K\xe4se\nE,Bеeswax\n")
	c = zetanum(t, dir, "inspect", "pasted.csv", "wrong.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "what stood there cannot be told.")
	assert.Contains(t, c.stdout, "Title: 2 cells were decoded wrongly on the way, such as KÃ¼che, which was Küche")
	writeFile(t, filepath.Join(dir, "western.toml"), "[target]\nencoding = \"windows-1252\"\n")
	c = zetanum(t, dir, "repair", "pasted.csv", "-rules", "western.toml", "-yes", "text.look-alike")
	require.Equal(t, exitHeld, c.status, c.stderr)
	assert.Contains(t, c.stdout, "Then 1 text is known")
	c = zetanum(t, dir, "repair", "pasted.csv", "-rules", "western.toml", "-yes", "text.look-alike", "-yes", "text.unreadable")
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"row 5: K<E4>se → Käse", "B<0435>eswax → Beeswax", "Łódź → Lódz", "rows for the importer, in Windows-1252"} {
		assert.Contains(t, c.stdout, said)
	}
	ready, err = os.ReadFile(filepath.Join(dir, "pasted.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU,Title\nA,K\xfcche\nB,Gr\xf6\xdfe\nC,L\xf3dz\nD,K\xe4se\nE,Beeswax\n", string(ready))
	c = zetanum(t, dir, "repair", filepath.Join("pasted.repaired", "ready.csv"), "-rules", "western.toml", "-out", "-")
	assert.Equal(t, string(ready), c.stdout, c.stderr)
	c = zetanum(t, dir, "check", "pasted.csv", "-rules", "western.toml", "-yes", "text.unreadable")
	assert.Contains(t, c.stdout, "The encoding of the target has no е (U+0435)")
}

// TestTrustWithoutBarcodes: a file without a column of barcodes cannot get any back; the command
// that brings them in is said, and does.
func TestTrustWithoutBarcodes(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Title,Price\nA,Cup,5\nB,Jug,6\n")
	writeFile(t, filepath.Join(dir, "counted.csv"), "SKU,EAN,Title\nA,9521234000013,Cup\nB,,Jug\n")
	c := zetanum(t, dir, "repair", "list.csv", "-trust", "counted.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	const brings = "-borrow counted.csv -by sku -take barcode"
	assert.Contains(t, strings.Join(strings.Fields(c.stdout), " "), "this brings them in: "+brings)
	c = zetanum(t, dir, append([]string{"repair", "list.csv"}, strings.Fields(brings)...)...)
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.NotContains(t, c.stdout, "this brings them in")
	content, err := os.ReadFile(filepath.Join(dir, "list.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU,Title,Price,EAN\nA,Cup,5,9521234000013\nB,Jug,6,\n", string(content))
}

// TestUpdateFile: where rows are held for cells that need not go out, an update file of prices
// and stock is offered, and has as many rows as was said.
func TestUpdateFile(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Price,Stock level\nA,9.52123E+12,Blue cup,5.00,1\nB,9521234000020,Red cup,6.00,2\n"+
		"C,9521234000021,Green cup,7.00,3\nD,red,Black cup,#REF!,4\nB,9521234000037,Pink cup,9.00,5\n")
	c := zetanum(t, dir, "repair", "list.csv")
	require.Equal(t, exitHeld, c.status, c.stderr)
	assert.Contains(t, c.stdout, "3 rows are free in an update file that has these columns alone:\n  add -only \"Stock level\"\n")
	c = zetanum(t, dir, "repair", "list.csv", "-only", "Stock level")
	require.Equal(t, exitHeld, c.status, c.stderr)
	assert.NotContains(t, c.stdout, "update file")
	content, err := os.ReadFile(filepath.Join(dir, "list.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU,Stock level\nA,1\nC,3\nD,4\n", string(content))

	// What the rulebook asks of a column that does not go out holds nothing either; a row with an SKU
	// and a price of its own is a product, title or none.
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Price\nA,9521234000013,Blue cup,5.00\nB,9521234000020,,6.00\n")
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[title]\nrequired = true\n")
	c = zetanum(t, dir, "check", "list.csv")
	assert.Contains(t, c.stdout, "1 of 2 rows is ready to import. 1 is held")
	assert.Contains(t, c.stdout, "2 products, 1 of them held")
	assert.Contains(t, c.stdout, "1 row is free in an update file that has these columns alone:\n  add -only Price\n")
	c = zetanum(t, dir, "check", "list.csv", "-only", "price")
	assert.Equal(t, exitOK, c.status, c.stdout)
}
