package cli

import (
	"flag"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
	"zetanum/internal/terminal"
)

// TestWordsTold: without orders it is told what they would do, with an example of each; what begin writes is taken up as it stands,
// and the list of categories that have no place in the shop is filled in and used.
func TestWordsTold(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Title,Brand,Category,Tags,Colour\nA,!!! NEW !!! BEE BRUSH OF HORSEHAIR,Nørrebi,Tools/Brushes,Bees;Brush;,red\n"+
		"B,Smoker 500ML by Nørrebi,,Tools/Smokers,Bees; bees,\nC,Veil for guests,n/a,Clothes/Veils,Bees;Veil,blue\n")
	c := zetanum(t, dir, "check", "list.csv")
	for _, part := range []string{"What buyers search by, filled: Brand 66 %, Colour 66 %", "Orders that would have something to do",
		"Title: [title] clean = true\n       row 2: !!! NEW !!! BEE BRUSH OF HORSEHAIR → BEE BRUSH OF HORSEHAIR", `Title: [title] case = "shouting"`,
		"Title: [title] measures = true\n       row 3: Smoker 500ML by Nørrebi → Smoker 500 ml by Nørrebi", "Tags: [tags] between", "Brand: [brand] from_title = true\n       row 3: (empty) → Nørrebi",
		"Brand: [brand] placeholders = \"blank\"\n       row 4: n/a → (empty)"} {
		assert.Contains(t, c.stdout, part)
	}
	assert.Contains(t, zetanum(t, dir, "check", "list.csv", "-json").stdout, `"attributes"`)
	book := zetanum(t, dir, "begin", "list.csv", "-out", "-").stdout
	var lines []string
	for _, line := range strings.Split(book, "\n") {
		for _, order := range []string{"[title]", "clean ", "case ", "measures", "[tags]", "between = \", ", "[brand]", "placeholders", "from_title", "[category]", "list "} {
			if strings.HasPrefix(line, "# "+order) {
				line = strings.TrimPrefix(line, "# ")
				break
			}
		}
		lines = append(lines, line)
	}
	writeFile(t, filepath.Join(dir, "zetanum.toml"), strings.Join(lines, "\n"))
	writeFile(t, filepath.Join(dir, "categories.csv"), "Theirs,Ours,Shelf\n")
	c = zetanum(t, dir, "repair", "list.csv", "-out", "one")
	assert.Equal(t, exitOK, c.status, c.stdout+c.stderr)
	assert.Contains(t, c.stdout, "unmapped-categories.csv  3 categories that the list does not have")
	assert.Equal(t, "SKU,Title,Brand,Category,Tags,Colour,Shelf\nA,Bee Brush of Horsehair,Nørrebi,Tools > Brushes,\"Bees, Brush\",red,\n"+
		"B,Smoker 500 ml by Nørrebi,Nørrebi,Tools > Smokers,Bees,,\nC,Veil for guests,,Clothes > Veils,\"Bees, Veil\",blue,\n", read(t, dir, "one", "ready.csv"))
	list := read(t, dir, "one", "unmapped-categories.csv")
	assert.Equal(t, "Theirs,Ours,Shelf,Rows with it\nClothes > Veils,,,1\nTools > Brushes,,,1\nTools > Smokers,,,1\n", list)
	list = strings.NewReplacer("Veils,,", "Veils,Clothing,C1", "Brushes,,", "Brushes,Brushes,B1", "Smokers,,", "Smokers,Smokers,").Replace(list)
	writeFile(t, filepath.Join(dir, "categories.csv"), list)
	c = zetanum(t, dir, "repair", "list.csv", "-out", "two")
	assert.Equal(t, exitOK, c.status, c.stdout+c.stderr)
	assert.NotContains(t, c.stdout, "unmapped")
	assert.Contains(t, read(t, dir, "two", "ready.csv"), "Clothing,\"Bees, Veil\",blue,C1\n")
	assert.Equal(t, read(t, dir, "two", "ready.csv"), func() string {
		again := zetanum(t, dir, "repair", filepath.Join("two", "ready.csv"), "-rules", "zetanum.toml", "-out", "three")
		assert.Equal(t, exitOK, again.status, again.stdout+again.stderr)
		return read(t, dir, "three", "ready.csv")
	}(), "twice is once")
}

// sentenceEnd is where a sentence ends, or a part of one that stands by itself.
var sentenceEnd = regexp.MustCompile(`[.:;?!]\s`)

// TestSentences: nothing that is said on the screen of findings, questions, commands and their settings has a sentence of more than thirty words.
func TestSentences(t *testing.T) {
	most := 30
	says := func(where, text string) {
		for _, sentence := range sentenceEnd.Split(terminal.Typed(text)+" ", -1) {
			assert.LessOrEqual(t, len(strings.Fields(sentence)), most, "%s: %s", where, sentence)
		}
	}
	for _, c := range catalogue.Codes() {
		e := c.Entry()
		for what, text := range map[string]string{"title": e.Title, "sentence": e.Sentence, "do": e.Do, "ask": e.Ask} {
			says(e.Name+", "+what, text)
		}
	}
	for _, c := range commands() {
		says("help "+c.about().name, c.about().long)
		newFlags(c).VisitAll(func(f *flag.Flag) {
			_, usage := flag.UnquoteUsage(f)
			says("-"+f.Name, usage)
		})
	}
}
