package rulebook_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/rulebook"
)

// shelves is a section of several tables, whose rules say which rows they mean.
type shelves struct {
	rules []shelf
	named map[string]*struct {
		Deep bool `toml:"deep"`
	}
}

type shelf struct {
	Name string `toml:"name"`
	condition.Scope
}

func (s *shelves) Parts() []rulebook.Part {
	return []rulebook.Part{
		{Name: "shelf", Line: "[[shelf]]", Says: "A shelf.", Shared: rulebook.Scope,
			Keys: []rulebook.Key{{Name: "name", Says: "What it is called.", Example: `name = "North"`}}},
		{Name: "kind", Line: "[kind.NAME]", Named: true, Says: "A kind of shelf.",
			Keys: []rulebook.Key{{Name: "deep", Says: "Whether it is deep.", Example: "deep = true"}}},
	}
}

func (s *shelves) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "shelf", Into: &s.rules}, {Name: "kind", Into: &s.named}}
}

func (s *shelves) Check() (problems []rulebook.Problem) {
	for i := range s.rules {
		list := s.rules[i].Scope.Check()
		if s.rules[i].Name == "" {
			list = append(list, catalogue.Problem{Key: "name", Text: "is not empty"})
		}
		problems = append(problems, rulebook.In("shelf", i+1, list)...)
	}
	return problems
}

// TestLoad: every error, of form as of value, says the file, the line, the section and which of several.
func TestLoad(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, rulebook.Name)
	for text, want := range map[string]string{
		"[[shelf]]\nname = \"North\"\nwhere = { sku = \"A\" }\ncount = 3\n[kind.low]\ndeep = true\n": "",
		"[labels]\nsize = 40\n\n[[shelf]]\nname = \"\"\n":                                            "line 5: the rulebook is wrong: [[shelf]] name: is not empty",
		"[[shelf]]\nname = \"North\"\n\n[[shelf]]\ncount = -1\nname = \"South\"\n":                   "line 5: the rulebook is wrong: [[shelf]] no. 2 count",
		"[[shelf]]\nname = 3\n":           "line 2",
		"[[shelf]]\nnmae = \"x\"\n":       `did you mean "name"?`,
		"[[shelves]]\nname = \"x\"\n":     "shelves",
		"[kind.low]\ndepe = true\n":       `did you mean "deep"?`,
		"[labels]\nsize = \n":             "line 2",
		"[labels]\nsize = 4\n[[shelf]]\n": "[labels] size: is 10 or more",
		"\xff\xfe[\x00l\x00":              "rulebook is wrong",
	} {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		label, shelf := new(labels), new(shelves)
		label.rules.Size = 10
		book, err := rulebook.Load(path, []rulebook.Section{label, shelf})
		if err == nil {
			err = book.Check()
		}
		if want == "" {
			require.NoError(t, err)
			assert.Equal(t, 3, shelf.rules[0].Count)
			assert.True(t, shelf.named["low"].Deep)
			assert.True(t, book.Has("shelf"))
			assert.False(t, book.Has("labels"))
			continue
		}
		require.ErrorIs(t, err, rulebook.ErrWrong, text)
		assert.ErrorContains(t, err, path, text)
		assert.ErrorContains(t, err, want, text)
	}
	_, err := rulebook.Load(filepath.Join(dir, "none.toml"), nil)
	require.ErrorIs(t, err, os.ErrNotExist)
	assert.NotErrorIs(t, err, rulebook.ErrWrong, "a file that cannot be read is not a wrong one")
}

// TestReference: the page has every key, and refers to those that rules share.
func TestReference(t *testing.T) {
	page := rulebook.Reference([]rulebook.Section{new(labels), new(shelves)})
	for _, part := range []string{"[labels]", "size = 40", "[[shelf]]", "[kind.NAME]", "What it is called."} {
		assert.Contains(t, page, part)
	}
	assert.Contains(t, page, "`where`")
}
