// Command zetanum repairs product spreadsheets before they are imported into a
// shop.
package main

import (
	"os"

	"zetanum/internal/cli"
)

func main() {
	os.Exit(cli.Main())
}
