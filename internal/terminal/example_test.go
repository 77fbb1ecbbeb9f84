package terminal_test

import (
	"fmt"
	"os"

	"zetanum/internal/terminal"
)

// Messages of the computation name settings and commands; here they become what to type.
func Example() {
	fmt.Println(terminal.Typed("Name a sheet that has it with the setting ‹trust›; the command ‹begin› writes a rulebook."))
	p := terminal.NewPrinter(os.Stdout, true)
	p.Table(&terminal.Table{Headings: []string{"file", "rows"}, Right: []int{1}, Rows: [][]string{{"ready.csv", "253"}, {"held.csv", "52"}}})
	// Output:
	// Name a sheet that has it with -trust; “zetanum begin” writes a rulebook.
	//   file       rows
	//   ready.csv   253
	//   held.csv     52
}
