package cli

import (
	"context"
	"os"
	"strings"
	"time"
)

// A command line is carried out and comes to an exit status.
func Example() {
	s := &session{ctx: context.Background(), stdin: strings.NewReader(""), stdout: os.Stdout, stderr: os.Stdout, now: time.Now, plain: true}
	s.run([]string{"barcode", "9521357000174"})
	s.run([]string{"repiar", "list.csv"})
	// Output:
	// 9521357000174
	//   valid  EAN-13, the check digit fits; as 14 digits 09521357000174
	//   first digits: for demonstrations and examples; no real product has it
	//
	// Next
	//   zetanum help jobs barcode
	// zetanum: there is no command and no file "repiar"
	// Did you mean “zetanum repair”? “zetanum help” lists the commands.
}
