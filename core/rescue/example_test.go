package rescue_test

import (
	"fmt"

	"zetanum/core/rescue"
)

// What one cell cannot tell its column can: 9.521357000174E+12 has all its digits; of 9.52136E+12 a
// million codes may have been the source.
func Example() {
	cells := []string{"9521357000563", "9.521357000174E+12", "9.52136E+12", "9521357000562"}
	var column rescue.Model
	for _, cell := range cells {
		column.Add(rescue.Read(cell, false))
	}
	evidence := column.Weigh(rescue.Rules{})
	for _, cell := range cells {
		verdict := evidence.Decide(rescue.Read(cell, false))
		fmt.Printf("%s: %q %q %q\n", cell, verdict.Code.String(), verdict.Ground, verdict.Finding)
	}
	// Output:
	// 9521357000563: "9521357000563" "certain" ""
	// 9.521357000174E+12: "9521357000174" "certain" ""
	// 9.52136E+12: "" "" "barcode.rounded"
	// 9521357000562: "" "" "barcode.check-digit"
}
