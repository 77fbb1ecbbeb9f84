package sections

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
)

// TestWordRules: what is wrong with a rule about words is said under its key.
func TestWordRules(t *testing.T) {
	path := filepath.Join(t.TempDir(), rulebook.Name)
	for text, want := range map[string]string{
		"[tags]\nbetween = \" \"\n":                                                   "[tags] between: is what stands between two tags",
		"[tags]\nbetween = '\"'\n":                                                    "cannot have a quotation mark",
		"[tags]\ncase = \"upper\"\n":                                                  `[tags] case: is one of "as-is", "lower"`,
		"[tags]\ninside = \"drop\"\n":                                                 `[tags] inside: is one of "hold", "quote", "replace"`,
		"[tags]\ninside_as = \"+\"\n":                                                 `goes with inside = "replace"`,
		"[tags]\nbetween = \",\"\ninside = \"replace\"\ninside_as = \", \"\n":         "has what stands between the tags in it",
		"[tags]\norder = \"size\"\n":                                                  `[tags] order: is one of "written"`,
		"[tags]\ncommon_from = \"a.csv\"\n":                                           `goes with order = "common"`,
		"[tags]\nmost = -1\n":                                                         "most and longest_tag are numbers",
		"[tags]\naliases = { a = \"b\", b = \"c\" }\n":                                `"a" is to be "b", and that is to be "c"; a second run`,
		"[tags]\naliases = { a = \"b\", A = \"c\" }\n":                                "is to be both",
		"[tags]\npair = \":\"\n":                                                      "no attributes are named",
		"[tags]\nmode = \"keep\"\n":                                                   `[tags] mode: is one of "replace", "add", "remove"`,
		"[tags]\nlanguage = \"xx\"\n":                                                 "[tags] language: is one of",
		"[tags]\n[[tags.when]]\nwhere = { title = \"a\" }\n":                          "each [[tags.when]] has add",
		"[tags]\n[[tags.when]]\nadd = [\"a\"]\ncount = -1\n":                          "[[tags.when]] count: is a number of rows",
		"[tags]\nclean = true\n":                                                      `there is no key "tags.clean"`,
		"[brand]\nlegal_forms = \"drop\"\n":                                           `[brand] legal_forms: is "ignore" or "keep"`,
		"[brand]\nplaceholders = \"drop\"\n":                                          `[brand] placeholders: is "blank" or "keep"`,
		"[category]\nbetween = \" \"\n":                                               "[category] between: is what stands between two levels",
		"[category]\nbetween = \"/\"\nseveral = \"/\"\n":                              "cannot be what stands between two levels, too",
		"[category]\nsheet = \"A\"\n":                                                 "[category] list: names the workbook",
		"[title]\ncase = \"lower\"\n":                                                 `[title] case: is "as-is", "shouting"`,
		"[title]\nshouting_as = \"title\"\n":                                          `goes with case = "shouting"`,
		"[title]\nunits = { \"1\" = \"one\" }\n":                                      `"1" is no unit`,
		"[title]\nunits = { btl = \"fl\", fl = \"x\" }\n":                             "a second run would change it again",
		"[title]\ncut = true\n":                                                       "[title] fit: fit = true makes titles fit",
		"[field.title]\nclean = true\n":                                               "what is done to the words of titles stands under [title]",
		"[field.price]\ncase = \"title\"\n":                                           "[field.price] case: does not go with a field of type price",
		"[field.colour]\ncase = \"loud\"\n":                                           "[field.colour] case: is",
		"[[derive]]\ninto = \"a\"\nfrom = [\"b\"]\nlist = \"c\"\nchoose = \"last\"\n": "[[derive]] choose: is \"first-in-list\"",
	} {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		_, err := Load(path)
		require.ErrorIs(t, err, rulebook.ErrWrong, text)
		assert.ErrorContains(t, err, want, text)
	}
}

// TestBeginWords: a rulebook to begin with has the orders about words that would have something to do, as comments with their counts,
// and can be read.
func TestBeginWords(t *testing.T) {
	seen := &Seen{File: "list.csv"}
	for heading, f := range map[string]catalogue.Field{"Name": catalogue.Title, "Maker": catalogue.Brand, "Group": catalogue.Category, "Words": catalogue.Tags, "Season": catalogue.Unknown,
		"Text": catalogue.Description} {
		seen.Columns = append(seen.Columns, SeenColumn{Heading: heading, Field: f, Filled: 9})
	}
	for code, column := range map[catalogue.Code]string{catalogue.TitleClutter: "Name", catalogue.TitleShouts: "Name", catalogue.TagsUntidy: "Words",
		catalogue.BrandPlaceholder: "Maker", catalogue.BrandInTitle: "Maker", catalogue.CategoryUntidy: "Group",
		catalogue.DescriptionUntidy: "Text"} {
		seen.Found = append(seen.Found, SeenFinding{Code: code, Column: column, Cells: 7})
	}
	for _, column := range []string{"Maker", "Group", "Season"} {
		seen.Found = append(seen.Found, SeenFinding{Code: catalogue.ValueSpelling, Column: column, Cells: 3})
	}
	seen.Columns = append(seen.Columns, SeenColumn{Heading: "Teaser", Field: catalogue.ShortDescription, Filled: 2})
	seen.Phrases = []Phrase{{`A "phrase".`, 8, 9}}
	text := Begin(seen)
	for _, line := range []string{"# clean    = true              # 7 titles: what does not belong there\n", "# case     = \"shouting\"        # 7 titles: words that shout\n",
		"# between = \", \"               # 7 cells with several separators", "# placeholders = \"blank\"       # 7 cells", "# from_title   = true          # 7 empty cells",
		"# unify        = true          # 3 cells spelt otherwise", "# between = \" > \"              # 7 cells",
		"# [description]                 # 7 descriptions could be tidier\n# clean   = true ", "# Stands in 8 of 9 descriptions:\n# [[replace]]\n# in   = [\"description\"]\n# find = \"A \\\"phrase\\\".\"\n# with = \"\"\n", "# [short_description]           # 7 empty cells\n# from    = \"description\"", "# [field.\"Season\"]\n# type  = \"text\"\n# unify = true\n"} {
		assert.Contains(t, text, line)
	}
	assert.NotContains(t, text, "measures", "what would have nothing to do is not there")
	assert.NotContains(t, text, "[field.brand]", "it stands in the section of its own")
	path := filepath.Join(t.TempDir(), rulebook.Name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
	_, err := Load(path)
	require.NoError(t, err)
}
