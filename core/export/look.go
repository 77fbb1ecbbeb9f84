package export

import (
	"bufio"
	"errors"
	"path/filepath"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// LookName is the workbook to look at what is ready.
const LookName = "look.xlsx"

var lineBreaks = strings.NewReplacer("\r\n", " ⏎ ", "\n", " ⏎ ", "\r", " ⏎ ")

// Look writes the workbook to look at what is ready beside it, from the rows that were kept for it.
// Every cell that was changed has a colour.
func (r *Ready) Look() (err error) {
	dir := filepath.Dir(r.Path)
	table, err := sheet.OpenSpooled(filepath.Join(dir, line.LookName))
	if err != nil {
		return err
	}
	defer table.Close()
	prices, count, err := PriceChanges(dir)
	if err != nil {
		return err
	}
	sheets := []workbook.Layout{{Name: "Only to look at", Heads: 2, Date: r.Date, Widths: append([]int{7}, r.widths()...)}}
	if count > 0 {
		sheets = append(sheets, workbook.Layout{Name: "Prices", Heads: 1, Widths: PriceWidths})
	}
	var w *workbook.Writer
	done, err := create(filepath.Join(dir, LookName), func(b *bufio.Writer) (err error) {
		if w, err = workbook.NewWriter(b, sheets...); err != nil {
			return err
		}
		headings := []string{"Row"}
		for n := range r.Output.Count() {
			headings = append(headings, r.Output.Heading(n, r.Columns))
		}
		return errors.Join(w.Row([]string{"To look at only, not for import: that is what " + line.FileNames[0] + " is for. What was changed has a colour; Row is the row of " + r.Source + "."}), w.Row(headings))
	})
	if err != nil {
		return err
	}
	rows := 2
	var failed error
	err = table.Each(func() {}, func(row *catalogue.Row) {
		if rows++; failed != nil || rows > workbook.MostRows {
			return
		}
		var marked []int
		for _, place := range strings.Fields(row.Cells[2]) {
			at, _ := strconv.Atoi(place)
			marked = append(marked, at+1)
		}
		cells := append(row.Cells[:1], row.Cells[3:]...)
		for i := range cells {
			if strings.ContainsAny(cells[i], "\r\n") { // so that rows are not high
				cells[i] = lineBreaks.Replace(cells[i])
			}
			cells[i] = catalogue.Shorten(cells[i], workbook.MostText)
		}
		if rows == workbook.MostRows {
			cells, marked = []string{"There are more rows than a workbook can show."}, nil
		}
		failed = w.RowMarked(cells, marked)
	})
	if count > 0 && failed == nil {
		failed = errors.Join(w.Next(), w.Row(PriceHeadings))
		for i := range prices {
			failed = errors.Join(failed, w.Row(prices[i].Cells()))
		}
	}
	return done(errors.Join(err, failed, w.Close()))
}
