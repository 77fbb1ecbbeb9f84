package workbook_test

import (
	"bytes"
	"fmt"

	"zetanum/core/workbook"
)

// All cells that are written are text, so that no program makes numbers of codes.
func Example() {
	var file bytes.Buffer
	w, _ := workbook.NewWriter(&file, workbook.Layout{Name: "Products", Heads: 1}, workbook.Layout{Name: "Notes"})
	w.Row([]string{"SKU", "EAN"})
	w.Row([]string{"007", "0952123400001"})
	w.Next()
	w.RowStyled([]string{"made for the shop"}, 0, workbook.Title, -1, workbook.Plain)
	fmt.Println(w.Close())

	book, err := workbook.Open(bytes.NewReader(file.Bytes()), int64(file.Len()))
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, sheet := range book.Sheets {
		book.Rows(sheet, func(row *workbook.Row) error {
			for _, cell := range row.Cells {
				fmt.Printf("%s %s%d %q\n", sheet.Name, workbook.ColumnName(cell.Col-1), row.Number, cell.Text)
			}
			return nil
		})
	}
	// Output:
	// <nil>
	// Products A1 "SKU"
	// Products B1 "EAN"
	// Products A2 "007"
	// Products B2 "0952123400001"
	// Notes A1 "made for the shop"
}
