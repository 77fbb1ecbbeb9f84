package target

import (
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/lazy"
)

// A Named is one of several targets: [[targets]]. What goes there is written besides what is ready.
type Named struct {
	// Name is that of the target, and stands in the names of its files: ready-NAME.csv.
	Name string `toml:"name" json:"name,omitempty"`
	// Where is a condition: only products go there of which a row fulfils it; all, if nothing is said.
	Where map[string]any `toml:"where" json:"where,omitempty"`
	Rules
}

var numbered = lazy.New(`-[0-9]+$`) // as the parts of a file are

var mayName = lazy.New(`^[a-z][a-z0-9]*(-[a-z0-9]+)*$`)

// Check returns what is wrong with the target.
func (n *Named) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	switch {
	case n.Name == "":
		wrong("name", `says what the target is called, in small letters, digits and dashes: name = "market"`)
	case !mayName.MatchString(n.Name), n.Name == "new", n.Name == "existing", numbered.MatchString(n.Name):
		wrong("name", "%q cannot stand in names of files; it is written in small letters, digits and dashes, neither new nor existing, and without a number behind its last dash", n.Name)
	}
	switch {
	case !n.HasForm():
		wrong("template", "names the form of the target, or a file that it has taken; without one its file would be ready.csv once more")
	case n.Template == Self:
		wrong("template", "%q is the file itself, and can be the template of [target] only", Self)
	}
	for key, said := range map[string]bool{"job": n.Job != "", "split": n.Split != "", "by": n.By != "", "only_changed": n.OnlyChanged, "compare": n.Compare != nil, "action": n.Action != (Action{}),
		"first_rows": n.FirstRows != "", "blank": n.Blank != "", "empty": n.Empty != "", "empties": n.Empties != nil} {
		if said {
			wrong(key, "can be said in [target] only")
		}
	}
	for _, p := range n.Rules.Check() {
		if n.HasForm() || p.Key != "columns" && p.Key != "required" && p.Key != "together" && p.Key != "besides" {
			problems = append(problems, p)
		}
	}
	return problems
}
