package wording_test

import (
	"fmt"

	"zetanum/core/wording"
)

// Words are replaced as whole words; in HTML the tags stay as they are.
func ExampleReplacer() {
	r, err := wording.NewReplacer(&wording.ReplaceRule{Find: "class", With: "grade"})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(r.Apply("First Class honey, classic"))
	fmt.Println(r.ApplyHTML(`<p class="class">first class</p>`))
	// Output:
	// First grade honey, classic true
	// <p class="class">first grade</p> true
}
