package rulebook

import (
	"strings"
	"testing"

	"github.com/pelletier/go-toml/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAdd: an order is put where a person would, with its comment, and all that stood there stays.
func TestAdd(t *testing.T) {
	places := []string{"headings", "columns", "columns.fill", "mint", "title", "answers", "asked", "target", "target.columns"}
	one := func(table, key, value string) Order {
		return Order{Table: table, Lines: []Line{{Key: key, Value: value}}}
	}
	word := func(table, key, word string) Order {
		return Order{Table: table, Lines: []Line{{Key: key, Value: word, Word: true}}}
	}
	over := func(table, key, value string) Order {
		return Order{Table: table, Lines: []Line{{Key: key, Value: value, Over: true}}}
	}
	each := Order{Table: "mint", Each: true, Lines: []Line{{Key: "into", Value: `"sku"`}, {Key: "series", Value: "true"}}}
	for _, test := range []struct {
		what, before string
		order        Order
		says, after  string
	}{
		{"into an empty one", "", one("title", "case", `"x"`), "Why?", "[title]\n# Why?\ncase = \"x\"\n"},
		{"behind the head of the file", "# For list.csv.\n", one("title", "case", `"x"`), "", "# For list.csv.\n\n[title]\ncase = \"x\"\n"},
		{"before the tables that come later", "# Ours.\n\n# About targets\n[target]\nbom = true\n", one("title", "case", `"x"`), "Why?",
			"# Ours.\n\n[title]\n# Why?\ncase = \"x\"\n\n# About targets\n[target]\nbom = true\n"},
		{"into a table that is there", "[title]\nclean = true # so\n\n[target]\nbom = true\n", one("title", "case", `"x"`), "Why?",
			"[title]\nclean = true # so\n\n# Why?\ncase = \"x\"\n\n[target]\nbom = true\n"},
		{"without an end of line", "[title]\nclean = true", one("title", "case", `"x"`), "", "[title]\nclean = true\ncase = \"x\"\n"},
		{"a new one of a list, before the rest", "[title]\nclean = true\n", each, "Why?", "[[mint]]\n# Why?\ninto   = \"sku\"\nseries = true\n\n[title]\nclean = true\n"},
		{"behind others of the list", "[[mint]]\ninto = \"sku\"\n", each, "", "[[mint]]\ninto = \"sku\"\n\n[[mint]]\ninto   = \"sku\"\nseries = true\n"},
		{"a list within a table is not it", "[[columns.fill]]\nx = 1\n", one("columns", "y", "2"), "", "[columns]\ny = 2\n\n[[columns.fill]]\nx = 1\n"},
		{"a word into a new list", "[answers]\nno = [\"a\"]\n", word("answers", "yes", "b=C"), "Why?", "[answers]\nno = [\"a\"]\n\n# Why?\nyes = [\"b=C\"]\n"},
		{"a word into a list of several lines", "[answers]\nyes = [\n  \"a\", # first\n]\n", word("answers", "yes", "b"), "Why?", "[answers]\n# Why?\nyes = [\n  \"a\", \"b\", # first\n]\n"},
		{"a word that needs marks", "", word("answers", "no", "a=\x01\n\"B\"\\é"), "", "[answers]\nno = [\"a=\\u0001\\u000A\\\"B\\\"\\\\é\"]\n"},
		{"in place of a value", "[target.columns]\n\"Shelf\" = \"Group\"   # so\nX = 1\n", over("target.columns", `"Shelf"`, `{ from = "Group" }`), "Why?",
			"[target.columns]\n# Why?\n\"Shelf\" = { from = \"Group\" }   # so\nX = 1\n"},
		{"in place of a table in a line", "[target.columns]\nShelf = { from = \"a # } b\", words = { \"x\" = 'y]' } } # so\n", over("target.columns", "Shelf", "1"), "", "[target.columns]\nShelf = 1 # so\n"},
		{"in place of a list of lines", "[title]\nwords = [ # these\n  \"a]\",\n  [1, 2],\n]\nx = 1\n", over("title", "words", "[]"), "", "[title]\nwords = []\nx = 1\n"},
		{"in place of a long text", "[title]\nx = \"\"\"a\n\"q\" # b\n\"\"\"\ny = 1\n", over("title", "x", "2"), "", "[title]\nx = 2\ny = 1\n"},
		{"in place of a value at the end", "[title]\nx = true", over("title", "x", "false"), "", "[title]\nx = false"},
		{"with the ends of lines that are there", "[title]\r\nclean = true\r\n", one("title", "case", `"x"`), "Why?", "[title]\r\nclean = true\r\n\r\n# Why?\r\ncase = \"x\"\r\n"},
		{"a part of a table, behind it", "[target]\nbom = true\n", one("target.columns", `"A b"`, `"c"`), "", "[target]\nbom = true\n\n[target.columns]\n\"A b\" = \"c\"\n"},
	} {
		t.Run(test.what, func(t *testing.T) {
			assert.Equal(t, test.after, string(Add([]byte(test.before), test.order, test.says, places)))
			var read map[string]any
			assert.NoError(t, toml.Unmarshal([]byte(test.after), &read))
			assert.True(t, Has([]byte(test.after), test.order), "it says it now")
			assert.False(t, Has([]byte(test.before), test.order))
		})
	}
	assert.True(t, Has([]byte("[title]\ncase = \"other\"\n"), one("title", "case", `"x"`)), "something else in its place")
	assert.False(t, Has([]byte("[[mint]]\ninto = \"barcode\"\nseries = true\n"), each))
	assert.True(t, Has([]byte("[[mint]]\ninto = \"sku\"\ncount = 3\nseries = true\n"), each), "and more")
}

// FuzzAdd: whatever stands in a rulebook that can be read, it can be read with an order in it, says that, and has every line that it had.
func FuzzAdd(f *testing.F) {
	for _, s := range []string{"", "# a\n", "[title]\nx = 1\n", "a = 1\n[title]\n\n#b\n[[mint]]\nx = [\n1,\n]\n", "[title]\r\nx = '''\n[target]\n'''\r\n[target]\n"} {
		f.Add(s)
	}
	order := Order{Table: "title", Lines: []Line{{Key: "added", Value: `"here"`}}}
	f.Fuzz(func(t *testing.T, before string) {
		var was map[string]any
		if toml.Unmarshal([]byte(before), &was) != nil || Has([]byte(before), order) || strings.Contains(before, "\r") && !strings.Contains(before, "\r\n") {
			t.Skip()
		}
		if table, ok := was["title"]; ok && !strings.Contains("\n"+strings.ReplaceAll(before, " ", ""), "\n[title]") {
			t.Skip(table) // in a line, or in keys with dots, which cannot be added to
		}
		after := Add([]byte(before), order, "Why?", []string{"mint", "title", "target"})
		var is map[string]any
		if toml.Unmarshal(after, &is) != nil {
			t.Skip() // a table in another way of writing; whoever adds tries it
		}
		title, _ := is["title"].(map[string]any)
		require.NotNil(t, title)
		require.Equal(t, "here", title["added"])
		delete(title, "added")
		if len(title) == 0 && was["title"] == nil {
			delete(is, "title")
		}
		assert.Equal(t, was, is)
	})
}
