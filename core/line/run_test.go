package line

import (
	"context"
	"encoding/json"
	"fmt"
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
	"zetanum/core/sheet"
)

// The columns of the sheets of puppets.
const (
	slugCol = iota
	skuCol
	titleCol
	doCol
)

// A puppet does to each row what its last column says.
type puppet struct{}

func (puppet) Repair(p *catalogue.Product, log *Log) {
	for i := len(p.Rows) - 1; i >= 0; i-- {
		row := p.Rows[i]
		for _, order := range strings.Fields(row.Cell(doCol)) {
			what, with, _ := strings.Cut(order, "=")
			switch what {
			case "set":
				log.Set(row, titleCol, with, catalogue.RuleSpaces, catalogue.Certain, "")
			case "hold":
				log.Notice(catalogue.BarcodeRounded, row, titleCol, row.Cell(titleCol), catalogue.Facts{})
			case "note":
				log.Notice(catalogue.RowSplitNumber, row, titleCol, row.Cell(titleCol), catalogue.Facts{})
			case "aside":
				log.Aside(i, catalogue.RowNote, catalogue.Facts{})
			case "join":
				log.Join(i, catalogue.RuleForAll)
			case "insert":
				made := &catalogue.Row{Number: row.Number}
				made.Extend(4, 0)
				made.Set(slugCol, row.Cell(slugCol))
				made.Set(titleCol, with)
				log.Insert(i, made, catalogue.Variant, catalogue.RuleEach)
			case "claim":
				log.Claim(0, xxhash.Sum64String(with), i, skuCol)
			case "enter":
				log.Enter(0, i, row.Cell(skuCol), with)
			case "touch":
				log.Touch(0, i)
			}
		}
	}
}

// puppets is a pipeline of one puppet.
func puppets() *Pipeline {
	all := catalogue.FirstColumns(4)
	return &Pipeline{
		Grouping: func() func(*catalogue.Row) bool {
			last, known := "", false
			return func(row *catalogue.Row) bool {
				if row == nil || row == sheet.Start {
					last, known = "", row != nil
					return false
				}
				starts := known && (last == "" || row.Cell(slugCol) != last)
				last, known = strings.Clone(row.Cell(slugCol)), true
				return starts
			}
		},
		GroupedBy: catalogue.ColumnsOf(slugCol),
		Claims:    []Claim{{Clash: catalogue.SKUDuplicate}},
		Lists:     []List{{Name: "list.csv", Headings: []string{"SKU", "Why"}}},
		Steps: []Step{{
			Name: "puppet", Reads: all, Writes: all, Learns: all, Rules: []catalogue.Rule{catalogue.RuleSpaces},
			New: func(Aggregate) (Repairer, error) { return puppet{}, nil },
			Keys: func(p *catalogue.Product, add func(int, uint64)) {
				for i, row := range p.Rows {
					add(i, xxhash.Sum64String(row.Cell(slugCol))) // rows that are the same have the same there
					for _, order := range strings.Fields(row.Cell(doCol)) {
						if key, ok := strings.CutPrefix(order, "claim="); ok {
							add(i, xxhash.Sum64String(key))
						}
					}
				}
			},
		}},
	}
}

// driven runs the puppets over a file and returns the outputs by name.
func driven(t testing.TB, file string, opt Options, output Output, sample int) (map[string]string, *Report) {
	t.Helper()
	dir := t.TempDir()
	path := filepath.Join(dir, "source.csv")
	require.NoError(t, os.WriteFile(path, []byte(file), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	pipeline := puppets()
	survey, err := Look(context.Background(), table, func() (*Pipeline, error) { return pipeline, nil }, opt)
	require.NoError(t, err)
	run := Run{Options: opt, Table: table, Pipeline: pipeline, Survey: survey, Output: output, Sample: sample}
	report, finish, err := run.Do(context.Background(), dir)
	require.NoError(t, err)
	sums, err := finish()
	require.NoError(t, err)
	require.NoError(t, run.ReadBack(context.Background(), dir, report.Written))
	outputs := make(map[string]string)
	for name := range sums {
		content, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		outputs[name] = string(content)
	}
	return outputs, report
}

const puppetHead = "Slug,SKU,Title,Do\n"

// TestRun: what steps say of rows and products is what becomes of them, for any number of workers and
// however the source is cut.
func TestRun(t *testing.T) {
	for _, test := range []struct{ name, rows, ready, held, aside, list, changes string }{
		{name: "as it is", rows: "a,A,Smoker,\nb,B,Veil,\n", ready: "a,A,Smoker,\nb,B,Veil,\n"},
		{name: "written", rows: "a,A,Smoker,set=Bellows\n", ready: "a,A,Bellows,set=Bellows\n", changes: "2 Title Smoker>Bellows"},
		{name: "one row holds its product", rows: "a,A,Smoker,\na,A2,,hold\nb,B,Veil,\n", ready: "b,B,Veil,\n",
			held: "a,A,Smoker,\na,A2,,hold\n"},
		{name: "a note holds nothing", rows: "a,A,Smoker,note\n", ready: "a,A,Smoker,note\n"},
		{name: "a row alone is set aside", rows: "a,A,Smoker,\na,A2,,aside\n", ready: "a,A,Smoker,\n", aside: "a,A2,,aside\n"},
		{name: "joined", rows: "a,A,Smoker,\na,A2,,join\n", ready: "a,A,Smoker,\n",
			changes: "3 joined Slug a,3 joined SKU A2,3 joined Do join"},
		{name: "added behind it", rows: "a,A,Smoker,insert=One insert=Two\nb,B,Veil,\n",
			ready:   "a,A,Smoker,insert=One insert=Two\na,,Two,\na,,One,\nb,B,Veil,\n",
			changes: "2 added Slug >a,2 added Title >Two,2 added Slug >a,2 added Title >One"},
		{name: "two that claim the same", rows: "a,A,Smoker,claim=x\nb,B,Veil,\nc,C,Brush,claim=x\n", ready: "b,B,Veil,\n",
			held: "a,A,Smoker,claim=x\nc,C,Brush,claim=x\n"},
		{name: "rows of one product may claim the same", rows: "a,A,Smoker,claim=x\na,A2,,claim=x\n",
			ready: "a,A,Smoker,claim=x\na,A2,,claim=x\n"},
		{name: "who is aside claims nothing", rows: "a,A,Smoker,claim=x\nb,B,Veil,claim=x aside\n", ready: "a,A,Smoker,claim=x\n",
			aside: "b,B,Veil,claim=x aside\n"},
		{name: "the same twice", rows: "a,A,Smoker,\nb,B,Veil,\na,A,Smoker,\n", ready: "a,A,Smoker,\nb,B,Veil,\n", aside: "a,A,Smoker,\n"},
		{name: "the same once it is written", rows: "a,A,Smoker,set=x\na,A,Bellows,set=x\n", ready: "a,A,x,set=x\n",
			aside:   "a,A,Bellows,set=x\n",
			changes: "2 Title Smoker>x"},
		{name: "listed", rows: "a,A,Smoker,enter=lost\nb,B,Veil,enter=lost aside\n", ready: "a,A,Smoker,enter=lost\n",
			aside: "b,B,Veil,enter=lost aside\n", list: "A,lost\n"},
	} {
		for _, opt := range []Options{{Workers: 1}, {Workers: 3, PartSize: 1}, {Workers: 2, PartSize: 40}} {
			got, report := driven(t, puppetHead+test.rows, opt, Output{}, 0)
			name := fmt.Sprintf("%s, %d workers, parts of %d", test.name, opt.Workers, opt.PartSize)
			assert.Equal(t, puppetHead+test.ready, got["ready.csv"], name)
			for file, want := range map[string]string{"held.csv": test.held, "aside.csv": test.aside} {
				var rows strings.Builder
				for i, line := range strings.SplitAfter(got[file], "\n") {
					if cells := strings.Split(line, ","); i > 0 && len(cells) > 4 {
						rows.WriteString(strings.Join(cells[len(cells)-4:], ",")) // before them stand the row and the reason
					}
				}
				assert.Equal(t, want, rows.String(), "%s, %s", name, file)
			}
			_, list, _ := strings.Cut(got["list.csv"], "\n")
			assert.Equal(t, test.list, list, name)
			assert.Equal(t, test.changes, changesIn(t, got["changes.jsonl"]), name)
			assert.Equal(t, strings.Count(test.rows, "\n"), report.Rows, name)
			assert.Equal(t, report.Rows, report.Ready+report.Held+report.Aside, "%s: every row is accounted for",
				name)
		}
	}
}

// changesIn says in short what a log of changes says.
func changesIn(t *testing.T, log string) string {
	t.Helper()
	var said []string
	for line := range strings.Lines(log) {
		var c struct {
			Row                   int
			Added                 int
			Joined                bool
			Column, Before, After string
		}
		require.NoError(t, json.Unmarshal([]byte(line), &c), line)
		switch {
		case c.Joined:
			said = append(said, fmt.Sprintf("%d joined %s %s", c.Row, c.Column, c.Before))
		case c.Added > 0:
			said = append(said, fmt.Sprintf("%d added %s %s>%s", c.Row, c.Column, c.Before, c.After))
		default:
			said = append(said, fmt.Sprintf("%d %s %s>%s", c.Row, c.Column, c.Before, c.After))
		}
	}
	return strings.Join(said, ",")
}

// TestOutput: which columns go out, in which order and form, and which products when there are too many.
func TestOutput(t *testing.T) {
	const rows = "c,C,Veil,\na,A,Smoker,set=Bellows\na,A2,,\nb,B,Brush,hold\n"
	for name, test := range map[string]struct {
		output Output
		sample int
		want   string
	}{
		"columns, one renamed": {Output{Columns: []OutColumn{{Col: titleCol, Heading: "Name"}, {Col: skuCol, Heading: "SKU"}}}, 0,
			"Name,SKU\nVeil,C\nBellows,A\n,A2\n"},
		"a bare list":            {Output{Columns: []OutColumn{{Col: titleCol}}, Plain: true}, 0, "Veil\nBellows\n"},
		"sorted, whole products": {Output{SortBy: []int{slugCol}}, 0, "Slug,SKU,Title,Do\na,A,Bellows,set=Bellows\na,A2,,\nc,C,Veil,\n"},
		"otherwise written": {Output{Style: sheet.Style{Separator: ';', Quotes: sheet.QuotesEvery}, LineEnd: "\r\n"}, 0,
			"\"Slug\";\"SKU\";\"Title\";\"Do\"\r\n\"c\";\"C\";\"Veil\";\"\"\r\n\"a\";\"A\";\"Bellows\";\"set=Bellows\"\r\n\"a\";\"A2\";\"\";\"\"\r\n"},
		"a sample": {Output{}, 1, "Slug,SKU,Title,Do\nc,C,Veil,\n"},
	} {
		got, report := driven(t, puppetHead+rows, Options{Workers: 2, PartSize: 30}, test.output, test.sample)
		assert.Equal(t, test.want, got["ready.csv"], name)
		assert.Equal(t, 4, report.Ready+report.Held+report.Aside, name)
	}
}

// TestHostileRows: cells that are hard to write come out as they went in.
func TestHostileRows(t *testing.T) {
	for _, cell := range []string{`"a ""b"""`, "\"two\nlines\"", `"  spaces  "`, "'=1+1", "x\u2028y", strings.Repeat("long ", 5000)} {
		row := "a,A," + cell + ",touch\n"
		got, report := driven(t, puppetHead+row, Options{Workers: 1}, Output{}, 0)
		assert.Equal(t, puppetHead+row, got["ready.csv"])
		assert.Equal(t, []int{1}, report.Touched[:min(1, len(report.Touched))])
	}
	names := slices.Sorted(func(yield func(string) bool) {
		got, _ := driven(t, puppetHead+"a,A,x,hold\n", Options{Workers: 1}, Output{}, 0)
		for name := range got {
			if !yield(name) {
				return
			}
		}
	})
	assert.Equal(t, []string{"aside.csv", "changes.jsonl", "held.csv", "ready.csv"}, names)
}

// manyMoved is a product of so many rows, of which each third is put into another and each third makes two.
func manyMoved(rows int) string {
	var b strings.Builder
	for i := range rows {
		fmt.Fprintf(&b, "a,A%d,t%d,%s\n", i, i, []string{"set=x", "set=y join", "insert=one insert=two"}[i%3])
	}
	return puppetHead + b.String()
}

// TestManyMoved: in a product of many rows, too, what was made and joined is said with its own row.
func TestManyMoved(t *testing.T) {
	const rows = 3 * manyRows
	got, report := driven(t, manyMoved(rows), Options{Workers: 1}, Output{}, 0)
	var want []string
	for i := rows - 3; i >= 0; i -= 3 { // in the order in which they were made: the puppet begins below
		want = append(want, fmt.Sprintf("%d Title t%d>x", i+2, i))
	}
	for i := range rows {
		switch n := i + 2; i % 3 {
		case 1:
			want = append(want, fmt.Sprintf("%d joined Slug a,%d joined SKU A%d,%d joined Title t%d,%d joined Do set=y join", n, n, i, n, i,
				n))
		case 2:
			want = append(want, fmt.Sprintf("%d added Slug >a,%d added Title >two,%d added Slug >a,%d added Title >one", n, n, n, n))
		}
	}
	assert.Equal(t, strings.Split(strings.Join(want, ","), ","), strings.Split(changesIn(t, got["changes.jsonl"]), ","))
	assert.Equal(t, []int{rows, rows / 3, 2 * rows / 3}, []int{report.Ready, report.Joined, report.Added})
}

// TestBatches: a product that goes through the steps among others, small and large ones, becomes what it becomes alone in its part.
func TestBatches(t *testing.T) {
	does := []string{"", "set=x", "hold", "note", "aside", "join", "insert=one insert=two", "enter=lost", "set=y enter=found", "claim=c aside"}
	random := rand.New(rand.NewPCG(1, 2))
	var file strings.Builder
	file.WriteString(puppetHead)
	row := 0
	for product := range 500 {
		size := 1
		switch random.IntN(20) {
		case 0:
			size = batchRows + random.IntN(batchRows)
		case 1, 2, 3:
			size = 2 + random.IntN(5)
		}
		for range size {
			row++
			do := does[random.IntN(len(does))]
			if size > 5 && do == "hold" { // large ones go out, too
				do = ""
			}
			fmt.Fprintf(&file, "p%d,S%d,Title %d,%s\n", product, row, row, do)
		}
	}
	alone, _ := driven(t, file.String(), Options{Workers: 1, PartSize: 1}, Output{}, 0)
	together, report := driven(t, file.String(), Options{Workers: 1}, Output{}, 0)
	assert.Equal(t, alone, together)
	assert.Equal(t, row, report.Rows)
	for name, least := range map[string]int{"ready.csv": row / 2, "held.csv": 20, "aside.csv": row / 20, "list.csv": row / 20, "changes.jsonl": row / 2} {
		assert.Greater(t, strings.Count(together[name], "\n"), least, name)
	}
}

// BenchmarkManyMoved: the time for a row is the same however many its product has.
func BenchmarkManyMoved(b *testing.B) {
	for _, rows := range []int{3_000, 30_000} {
		file := manyMoved(rows)
		b.Run(fmt.Sprint(rows), func(b *testing.B) {
			for b.Loop() {
				driven(b, file, Options{Workers: 1}, Output{}, 0)
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*rows), "ns/row")
		})
	}
}
