package rulebook

import (
	"fmt"
	"strings"
)

// A Key is one key of a rulebook, as its reference describes it.
type Key struct {
	Part    string // the table in which it stands: "barcode"
	Name    string
	Says    string
	Example string // TOML, without the line of its table
}

// Keys returns every key in the order in which the reference lists them.
func Keys() []Key { return keys }

func find(path []string) *Key {
	if len(path) < 2 {
		return nil
	}
	last := len(path) - 1
	part := strings.Join(path[:last], ".")
	for i := range keys {
		if keys[i].Part == part && keys[i].Name == path[last] {
			return &keys[i]
		}
	}
	return nil
}

// parts are the tables of a rulebook, with what they are for.
var parts = []struct{ name, line, says string }{
	{"headings", "[headings]", "What headings mean that are not recognised by themselves: a heading, and the field that it is."},
	{"columns", "[columns]", "Which columns go out. Columns are named by heading or by field. What is filled is filled down to the last row, and only where it is empty."},
	{"columns.split", "[[columns.split]]", "One column taken apart into several, where these are empty. A cell that has not as many parts is left and named."},
	{"columns.join", "[[columns.join]]", "Several columns put together in one, where that is empty. Empty parts vanish with their separator."},
	{"rows", "[[rows]]", "Which rows are worked on; there may be several. Whole products are kept or set aside: one row that fulfils the condition is enough. Rows set aside are in aside.csv, with the rule."},
	{"replace", "[[replace]]", "Texts put in place of others, in the order of the file; there may be several. Whole words are found, whatever their case, unless the rule says otherwise; in HTML only the text between tags. What already stands with its replacement around it is left, and a cell that the rules would change each time anew is held."},
	{"around", "[[around]]", "Words put before or after a text, with exactly one space; there may be several, and they come after [[replace]]. Words that are there already, whatever their case, are not put there again."},
	{"barcode", "[barcode]", "What the shop wants of its barcodes."},
}

var keys = []Key{
	{"headings", "*", "Any heading of the file, in quotation marks if it has more than letters.", "\"Art. no.\" = \"sku\""},

	{"columns", "drop", "Columns that do not go out.", `drop = ["Int. memo"]`},
	{"columns", "keep", "The only columns that go out.", `keep = ["sku", "price"]`},
	{"columns", "drop_key", "Says that the SKU may be left out, by which the shop matches products.", `drop_key = true`},
	{"columns", "order", "Columns that go out first, in this order.", `order = ["sku", "title"]`},
	{"columns", "rename", "Other headings for columns that go out.", `rename = { "Art. no." = "SKU" }`},
	{"columns", "add", "A fixed value for a column, which is added if it is not there.", `add = { "Language" = "en" }`},
	{"columns", "copy", "A column that is filled from another, and added if it is not there.", `copy = { "MPN" = "sku" }`},

	{"columns.split", "from", "The column to take apart.", "from = \"Colour / size\"\nat   = \"/\"\ninto = [\"Colour\", \"Size\"]"},
	{"columns.split", "at", "The text between the parts.", "from = \"Dimensions\"\nat   = \"x\"\ninto = [\"Length\", \"Width\", \"Height\"]"},
	{"columns.split", "into", "The columns of the parts, which are added if they are not there.", "from = \"Name\"\nat   = \",\"\ninto = [\"Title\", \"Size\"]"},

	{"columns.join", "from", "The columns to put together.", "from = [\"brand\", \"title\"]\nwith = \" \"\ninto = \"Full title\""},
	{"columns.join", "with", "What stands between the parts.", "from = [\"category\", \"type\"]\nwith = \" > \"\ninto = \"Category path\""},
	{"columns.join", "into", "The column for the whole, which is added if it is not there.", "from = [\"colour\", \"size\"]\nwith = \", \"\ninto = \"Option\""},

	{"rows", "keep", "A condition: products of which no row fulfils it are set aside.", `keep = { sku = { starts = "LRA-" } }`},
	{"rows", "aside", "A condition: products of which a row fulfils it are set aside.", `aside = { any = [ { price = { below = 1 } }, { title = { contains = "sample" } } ] }`},
	{"rows", "count", "How many rows must be kept, or set aside; with another number nothing is written.", "keep = { brand = \"Hollowbrook Joinery\" }\ncount = 85"},

	{"replace", "in", "The fields or headings in whose cells the text is replaced. Codes are left alone.", "in   = [\"title\", \"description\"]\nfind = \"st. steel\"\nwith = \"stainless steel\""},
	{"replace", "find", "The text to look for.", "in   = [\"title\"]\nfind = \"ltd ed\"\nwith = \"limited edition\""},
	{"replace", "pattern", "An RE2 pattern to look for instead of a text. Case counts in it.", "in      = [\"title\"]\npattern = \"([0-9]+) ?mm\"\nwith    = \"$1 mm\""},
	{"replace", "with", "What takes its place; nothing, if it is left out. Behind a pattern $1 is its first group.", "in   = [\"title\"]\nfind = \"(new!)\""},
	{"replace", "inside_words", "Finds the text inside longer words, too.", "in   = [\"title\"]\nfind = \"bee-hive\"\nwith = \"beehive\"\ninside_words = true"},
	{"replace", "match_case", "Finds the text only in the same case.", "in   = [\"title\"]\nfind = \"US\"\nwith = \"United States\"\nmatch_case = true"},
	{"replace", "first_only", "Replaces only the first one in a cell.", "in   = [\"title\"]\nfind = \",\"\nwith = \" –\"\nfirst_only = true"},
	{"replace", "where", "A condition: only rows that fulfil it are changed.", "in   = [\"title\"]\nfind = \"large\"\nwith = \"L\"\nwhere = { category = \"Protection\" }"},
	{"replace", "count", "How many rows must be changed; with another number nothing is written.", "in   = [\"title\"]\nfind = \"large\"\nwith = \"L\"\ncount = 12"},

	{"around", "in", "The fields or headings whose texts get the words. Codes and HTML are left alone.", "in     = [\"title\"]\nbefore = \"Hollowbrook\""},
	{"around", "before", "The words before.", "in     = [\"title\"]\nbefore = \"Beech\""},
	{"around", "after", "The words after.", "in    = [\"title\"]\nafter = \"(pair)\""},
	{"around", "where", "A condition: only rows that fulfil it are changed.", "in     = [\"title\"]\nbefore = \"Cedar\"\nwhere  = { category = \"Hives\" }"},
	{"around", "count", "How many rows must be changed; with another number nothing is written.", "in     = [\"title\"]\nbefore = \"Beech\"\ncount  = 7"},

	{"barcode", "accept", "The kinds of code that the shop takes: ean-8, upc-e, upc-a, ean-13 (which includes isbn-13), isbn-13, gtin-14, isbn-10, issn, sscc-18. Without it, all that a till reads.", `accept = ["ean-13", "upc-a"]`},
	{"barcode", "trusted", "Sheets, or output folders of earlier runs, that have whole codes; like -trust.", `trusted = ["stock-take.xlsx"]`},
	{"barcode", "write_as", "The form in which codes are written: as-is, ean-13, gtin-14 or shortest.", `write_as = "ean-13"`},
	{"barcode", "add_check_digit", "Appends the check digit where a column has left it off.", `add_check_digit = true`},
	{"barcode", "second", "The heading of the column that takes the second of two codes in one cell.", `second = "EAN 2"`},
	{"barcode", "fill", "Columns that take the code of another barcode column, where they are empty, with the form: ean-13 or gtin-14.", `fill = { "GTIN" = "gtin-14" }`},
}

// Reference writes the reference of the whole rulebook as Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("# The rulebook\n\nWritten by `zetanum help rulebook`; do not edit by hand.\n\n" +
		"A rulebook says how a shop wants its catalogue. It is a TOML file, `zetanum.toml` beside the file or in the working folder, or the one named with `-rules`. " +
		"It is strict: a key that is not known, or a value of the wrong kind, is an error that says where it stands. Names of files are relative to the rulebook. " +
		"Without a rulebook only what is proved is written.\n")
	for _, p := range parts {
		fmt.Fprintf(&b, "\n## `%s`\n\n%s\n", p.line, p.says)
		for _, k := range keys {
			if k.Part == p.name {
				name := k.Name
				if name == "*" {
					name = "a heading"
				} else {
					name = "`" + name + "`"
				}
				fmt.Fprintf(&b, "\n### %s\n\n%s\n\n```toml\n%s\n%s\n```\n", name, k.Says, p.line, k.Example)
			}
		}
	}
	b.WriteString("\n## Conditions\n\n" +
		"A condition is a table in words. The name before it is a field or a heading; several in one table must all be fulfilled. " +
		"Case and spaces at the ends do not count, unless `exact = true` stands with the test.\n\n" +
		"| test | fulfilled if the cell |\n|---|---|\n" +
		"| `sku = \"LRA-0007\"`, `is` | is that text |\n| `is_not` | is another |\n| `one_of = [\"A\", \"B\"]` | is one of these |\n| `contains`, `starts`, `ends` | has the text in it, at its beginning, at its end |\n" +
		"| `matches = \"^LRA-[0-9]+$\"` | fits the pattern (RE2; case counts) |\n| `empty = true` | is empty, or with false is not |\n| `above = 10`, `below = 10` | is a number above, below |\n| `longer = 70` | has more characters |\n\n" +
		"`all = [ {…}, {…} ]`, `any = [ {…}, {…} ]` and `not = {…}` bring conditions together.\n")
	return b.String()
}
