package steps_test

import (
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// The step for texts puts a cell in order by what kind of cell it is: in a code every character counts.
func ExampleTexts() {
	texts := steps.Texts{Rules: text.Rules{}}
	for _, kind := range []catalogue.Kind{catalogue.LineKind, catalogue.CodeKind} {
		fmt.Printf("%q\n", texts.Clean(" Hive\u00a0tool,  GlÃ¤ser\u200b ", kind))
	}
	// Output:
	// "Hive tool, Gläser"
	// " Hive\u00a0tool,  GlÃ¤ser\u200b "
}
