// Command importer takes files as the Combley Market does, the made-up platform of the demo, and writes what became of each row beside them.
package main

import (
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"zetanum/demo/market"
)

func main() {
	if len(os.Args) < 2 {
		fmt.Fprintln(os.Stderr, "importer FILE …: which of the rows of each the Combley Market would take")
		os.Exit(2)
	}
	for _, path := range os.Args[1:] {
		if err := take(path); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
	}
}

func take(path string) error {
	content, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	result, err := market.Import(filepath.Base(path), content)
	if err != nil {
		return err
	}
	if result.Refused != "" {
		fmt.Printf("%s: not taken: %s\n", filepath.Base(path), result.Refused)
		return nil
	}
	fmt.Printf("%s: %d of %d rows taken\n", filepath.Base(path), result.Taken(), len(result.Rows))
	out, err := os.Create(strings.TrimSuffix(path, filepath.Ext(path)) + ".taken.csv")
	if err != nil {
		return err
	}
	w := csv.NewWriter(out)
	err = w.Write([]string{"Row", "Article code", "Verdict"})
	for _, v := range result.Rows {
		says := v.Refused
		if says == "" {
			says = "taken"
		}
		if err == nil {
			err = w.Write([]string{strconv.Itoa(v.Row), v.Code, says})
		}
	}
	w.Flush()
	if err == nil {
		err = w.Error()
	}
	if closed := out.Close(); err == nil {
		err = closed
	}
	return err
}
