package text_test

import (
	"fmt"

	"zetanum/core/text"
)

// Stray spaces and invisible characters are taken out; what is shown of a text says what cannot be seen.
func Example() {
	cell := " Hive\u00a0 tool\u200b, stainless "
	out, spaces, invisible := text.Tidy(cell, text.Edges)
	fmt.Printf("%q %v %v\n", out, spaces, invisible)
	fmt.Println(text.Visible(cell))
	fmt.Println(text.Nearest("Smokr", []string{"Smoker", "Veil"}))
	at, _ := text.FindList(text.ValueMarks, "S, M, L")
	fmt.Printf("%q\n", at.Values("S, M, L"))
	// Output:
	// "Hive\u00a0 tool, stainless" true true
	// ␣Hive⍽ tool<200B>, stainless␣
	// Smoker
	// ["S" "M" "L"]
}
