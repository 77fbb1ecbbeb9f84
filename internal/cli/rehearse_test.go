package cli

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/rehearse"
	"zetanum/demo"
	"zetanum/demo/market"
)

// TestRehearse: what is ready of the demo is played through against what the platform has: three numbers first, what changes from what to
// what, what is odd, and the way back; another number than was expected is an error.
func TestRehearse(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	layDemo(t, dir)
	rules := filepath.Join("zetanum-demo", "combley.toml")
	zetanum(t, dir, "repair", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-rules", rules, "-out", "combley")
	ready, now := filepath.Join("combley", "ready.csv"), filepath.Join("zetanum-demo", "combley-now.csv")
	c := zetanum(t, dir, "rehearse", ready, "-rules", rules, "-present", now)
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"17 products would be made, 31 changed, 140 left as they are; 0 rows are refused.", "On hand *\n          row 9, WW-0105: 35 → 23",
		"1  barcode that goes from one product of the shop to another\n          row 43, 9521202003046: WW-0140 → WW-0141", "row 61, WW-0161: 159.50 → 15.95",
		"20 products of the shop are not in the file. An import does not delete them", "overwrite those that are", "way-back.csv"} {
		assert.Contains(t, c.stdout, said)
	}
	for _, name := range []string{"way-back.csv", "way-back.xlsx"} { // in the form of the platform, whose importer takes it
		result, err := market.Import(name, []byte(readFile(t, filepath.Join(dir, "combley.rehearsed", name))))
		require.NoError(t, err, name)
		assert.Equal(t, []int{31, 31}, []int{len(result.Rows), result.Taken()}, name)
	}
	c = zetanum(t, dir, "rehearse", filepath.Join("combley.rehearsed", "way-back.csv"), "-rules", rules, "-present", now, "-expect-updated", "0", "-expect-created", "0")
	assert.Equal(t, exitOK, c.status, c.stdout)
	zetanum(t, dir, "repair", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-rules", filepath.Join("zetanum-demo", "combley-changes.toml"), "-out", "changes")
	c = zetanum(t, dir, "rehearse", filepath.Join("changes", "ready.csv"), "-rules", filepath.Join("zetanum-demo", "combley-changes.toml"))
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, readFile(t, filepath.Join(dir, "changes.rehearsed", "way-back.csv")), "Article code,Name,Barcode,Price,Pieces\n", "without a form, what changes")

	c = zetanum(t, dir, "rehearse", ready, "-rules", rules, "-present", now, "-expect-created", "17", "-expect-updated", "30")
	assert.Equal(t, exitHeld, c.status)
	assert.Contains(t, c.stdout, "31 would be changed, and 30 were expected")
	c = zetanum(t, dir, "rehearse", ready, "-rules", rules, "-present", now, "-json", "-out", "lists")
	var r rehearse.Report
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &r))
	assert.Equal(t, []int{188, 17, 31, 140}, []int{r.Rows, r.Created, r.Updated, r.Unchanged})
	assert.FileExists(t, filepath.Join(dir, "lists", "left-in-shop.csv"))

	c = zetanum(t, dir, "rehearse", filepath.Join("zetanum-demo", "saltmarsh-export.csv"), "-template", filepath.Join("zetanum-demo", "shop-form.xlsx"))
	assert.Equal(t, exitHeld, c.status)
	assert.Contains(t, c.stdout, "would refuse the whole file: it does not have the headings of the template")
	c = zetanum(t, dir, "rehearse", ready, "-template", filepath.Join("zetanum-demo", "shop-form.xlsx"))
	assert.Equal(t, exitOK, c.status)
	assert.Contains(t, c.stdout, "188 rows would be taken, 0 refused")
	assert.Contains(t, c.stdout, "-present EXPORT")

	writeFile(t, filepath.Join(dir, "blank.csv"), "SKU,Title,Price\nA,Plate,\nB,Bowl,2\n")
	writeFile(t, filepath.Join(dir, "now.csv"), "SKU,Title,Price\nA,Plate,3.00\nB,Bowl,2.00\n")
	c = zetanum(t, dir, "rehearse", "blank.csv", "-present", "now.csv")
	assert.Contains(t, c.stdout, "nobody has said")
	assert.Contains(t, c.stdout, "0 changed, 2 left as they are")
	c = zetanum(t, dir, "rehearse", "blank.csv", "-present", "now.csv", "-blank", "clears")
	assert.Contains(t, c.stdout, "1 changed, 1 left as they are")

	for want, args := range map[string][]string{
		"-present EXPORT":      {"rehearse", "blank.csv"},
		"name one file":        {"rehearse"},
		"-blank sometimes":     {"rehearse", "blank.csv", "-present", "now.csv", "-blank", "sometimes"},
		"-expect-created many": {"rehearse", "blank.csv", "-present", "now.csv", "-expect-created", "many"},
		"none.csv":             {"rehearse", "blank.csv", "-present", "none.csv"},
		"is not there":         {"rehearse", "blank.csv", "-present", "now.csv", "-key", "Colour"},
		"nothing tells which":  {"rehearse", "blank.csv", "-present", rules},
	} {
		if want == "nothing tells which" {
			writeFile(t, filepath.Join(dir, "else.csv"), "Colour,Finish\nred,matt\n")
			args[3] = "else.csv"
		}
		c = zetanum(t, dir, args...)
		assert.Contains(t, []int{exitUsage, exitFailed}, c.status, want)
		assert.Contains(t, c.stderr, want)
	}
	c = zetanum(t, dir, "rehearse", "now.csv", "-present", "now.csv")
	assert.Equal(t, exitOK, c.status)
	assert.Contains(t, c.stdout, "the import can be left out")
	assert.NoDirExists(t, filepath.Join(dir, "now.rehearsed"), "there is nothing to list")
}

// TestMarket: of a list that was copied into the form by hand the importer of the platform takes a third, of what a repair makes of it all rows;
// the rehearsal has said so of each.
func TestMarket(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	layDemo(t, dir)
	at := func(name string) string { return filepath.Join("zetanum-demo", name) }
	taken := func(path string) [2]int {
		content, err := os.ReadFile(filepath.Join(dir, path))
		require.NoError(t, err)
		result, err := market.Import(filepath.Base(path), content)
		require.NoError(t, err)
		require.Empty(t, result.Refused)
		return [2]int{result.Taken(), len(result.Rows)}
	}
	assert.Equal(t, [2]int{63, 201}, taken(at("combley-by-hand.csv")))
	c := zetanum(t, dir, "rehearse", at("combley-by-hand.csv"), "-template", at("shop-form.xlsx"))
	assert.Contains(t, c.stdout, "63 rows would be taken, 138 refused")

	zetanum(t, dir, "repair", at("wick-and-wax.xlsx"), "-rules", at("combley.toml"), "-trust", at("combley-now.csv"), "-out", "combley")
	zetanum(t, dir, "repair", at("wick-and-wax.xlsx"), "-rules", at("fairs.toml"), "-out", "fairs")
	for path, rows := range map[string]int{filepath.Join("combley", "ready.csv"): 199, filepath.Join("combley", "ready.xlsx"): 199,
		filepath.Join("fairs", "ready-combley.csv"): 126, filepath.Join("fairs", "ready-combley.xlsx"): 126} {
		assert.Equal(t, [2]int{rows, rows}, taken(path), path)
		if filepath.Ext(path) == ".csv" {
			c = zetanum(t, dir, "rehearse", path, "-template", at("shop-form.xlsx"))
			assert.Contains(t, c.stdout, fmt.Sprintf("%d rows would be taken, 0 refused", rows))
		}
	}
	c = zetanum(t, dir, "begin", at("wick-and-wax.xlsx"), "-done", at("combley-now.csv"), "-out", "again.toml")
	assert.Contains(t, c.stdout, "repaired by it, 1337 of 1368 cells of combley-now.csv come out as they are there")
	for _, raw := range []string{"saltmarsh-export.csv", "hollowbrook-autumn.csv"} {
		if content, err := os.ReadFile(filepath.Join(dir, at(raw))); assert.NoError(t, err) {
			if result, err := market.Import(raw, content); err == nil {
				assert.NotEmpty(t, result.Refused, raw)
			}
		}
	}
}

// layDemo lays the files of the demo out as the command does, without repairing any.
func layDemo(t *testing.T, dir string) {
	t.Helper()
	require.NoError(t, demo.Lay(filepath.Join(dir, "zetanum-demo")))
}
