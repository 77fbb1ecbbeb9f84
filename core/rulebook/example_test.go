package rulebook_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
)

// labels is a section of its own.
type labels struct {
	rules struct {
		Size int `toml:"size"`
	}
}

func (l *labels) Parts() []rulebook.Part {
	return []rulebook.Part{{Name: "labels", Line: "[labels]", Says: "Labels for shelves.",
		Keys: []rulebook.Key{{Name: "size", Says: "How wide, in millimetres.", Example: "size = 40"}}}}
}

func (l *labels) Tables() []rulebook.Table { return []rulebook.Table{{Name: "labels", Into: &l.rules}} }

func (l *labels) Check() (problems []rulebook.Problem) {
	if l.rules.Size < 10 {
		problems = append(problems, rulebook.Problem{Part: "labels", Problem: catalogue.Problem{Key: "size", Text: "is 10 or more"}})
	}
	return problems
}

// A rulebook is read into its sections; what is wrong in it is said with its place.
func Example() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "zetanum.toml")
	for _, text := range []string{"[labels]\nsize = 40\n", "# small ones\n[labels]\nsize = 4\n", "[labels]\nsise = 40\n"} {
		os.WriteFile(path, []byte(text), 0o666)
		section := new(labels)
		book, err := rulebook.Load(path, []rulebook.Section{section})
		if err == nil {
			err = book.Check()
		}
		fmt.Println(section.rules.Size, strings.ReplaceAll(fmt.Sprint(err), dir+string(filepath.Separator), ""))
	}
	// Output:
	// 40 <nil>
	// 4 zetanum.toml, line 3: the rulebook is wrong: [labels] size: is 10 or more
	// 0 zetanum.toml, line 2, column 1: the rulebook is wrong: there is no key "labels.sise" (did you mean "size"? For example: size = 40); the command ‹help jobs› shows how jobs are done
	// 1| [labels]
	// 2| sise = 40
	//  | ~~~~ unknown field
}
