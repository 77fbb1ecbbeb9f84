package line_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// shout writes titles in capitals, and holds products that have none.
type shout struct{ title int }

func (s shout) Repair(p *catalogue.Product, log *line.Log) {
	for _, row := range p.Rows {
		switch cell := row.Cell(s.title); {
		case cell == "":
			log.Notice(catalogue.ValueMissing, row, s.title, "", catalogue.Facts{})
		case cell != strings.ToUpper(cell):
			log.Set(row, s.title, strings.ToUpper(cell), catalogue.RuleReplace, catalogue.Ordered, "")
		}
	}
}

// A sheet is sent past one step: the survey cuts it into parts and lets steps learn, the run repairs
// the parts and sorts their rows into files.
func Example() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "list.csv")
	os.WriteFile(path, []byte("SKU,Title\nA,Smoker\nB,\nC,VEIL\n"), 0o666)
	table, err := sheet.Open(path, sheet.Options{Spool: dir})
	if err != nil {
		fmt.Println(err)
		return
	}
	defer table.Close()

	title := table.Columns.First(catalogue.Title)
	step := line.Step{
		Name: "shout", Reads: catalogue.ColumnsOf(title), Writes: catalogue.ColumnsOf(title), Rules: []catalogue.Rule{catalogue.RuleReplace},
		New: func(line.Aggregate) (line.Repairer, error) { return shout{title}, nil },
	}
	everyRow := func() func(*catalogue.Row) bool {
		return func(row *catalogue.Row) bool { return row != nil && row != sheet.Start }
	}
	pipeline := &line.Pipeline{Grouping: everyRow, Steps: []line.Step{step}}
	opt := line.Options{Workers: 2}
	survey, err := line.Look(context.Background(), table, func() (*line.Pipeline, error) { return pipeline, nil }, opt)
	if err != nil {
		fmt.Println(err)
		return
	}
	run := line.Run{Options: opt, Table: table, Pipeline: pipeline, Survey: survey}
	report, finish, err := run.Do(context.Background(), dir)
	if err != nil {
		fmt.Println(err)
		return
	}
	finish()
	fmt.Println(report.Ready, "ready,", report.Held, "held")
	ready, _ := os.ReadFile(filepath.Join(dir, line.FileNames[0]))
	fmt.Print(string(ready))
	// Output:
	// 2 ready, 1 held
	// SKU,Title
	// A,SMOKER
	// C,VEIL
}
