package rulebook

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// A Part describes a table of a rulebook.
type Part struct {
	Name   string // "columns.fill"
	Line   string // how it is written: "[[columns.fill]]"
	Named  bool   // it is one of several that the user names: [field.NAME]
	Says   string
	Shared []string // which of the keys it has that rules share: [Cells], [Scope], [Meant]
	Keys   []Key
	Also   []Key // which it has, too, and which are described elsewhere
}

// A Key is one key of a table.
type Key struct {
	Name    string
	Says    string
	Example string // TOML, without the line of its table
	Line    string // of its table, if it is not the usual one
}

// The keys that rules share.
var (
	Meant = []string{"where", "rows"}
	Scope = []string{"where", "rows", "count"}
	Cells = []string{"in", "where", "rows", "count"}
)

// shared are these keys.
var shared = func() []Key {
	const rule = "[[replace]]\nfind = \"st. steel\"\nwith = \"stainless steel\""
	list := []Key{
		{
			Name: "in", Says: "The fields or headings in whose cells the rule works.",
			Example: `in = ["title", "description"]`,
		},
		{
			Name: "where", Says: "A condition, as below: only rows that fulfil it are meant.",
			Example: `where = { category = "Hives" }`,
		},
		{
			Name: "rows",
			Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, those to which what is " +
				"written or asked for belongs: a title to the lead row, a price to each variant.",
			Example: `rows = "variants"`,
		},
		{
			Name: "count", Says: "How many rows must be changed; with another number nothing is written.",
			Example: `count = 12`,
		},
		{
			Name:    "once",
			Says:    "Says that the rule may change its own result again. It is applied, and refused on a file that is an output of ours.",
			Example: `once = true`,
		},
	}
	for i := range list {
		if list[i].Line = rule; list[i].Name != "in" {
			list[i].Line += "\nin   = [\"title\"]"
		}
	}
	return list
}()

func (p *Part) names() (names []string) {
	for _, k := range slices.Concat(p.Keys, p.Also) {
		names = append(names, k.Name)
	}
	return append(names, p.Shared...)
}

// key returns the description of a key, nil if there is none.
func (p *Part) key(name string) *Key {
	for _, keys := range [][]Key{p.Keys, p.Also} {
		for i := range keys {
			if keys[i].Name == name {
				return &keys[i]
			}
		}
	}
	if slices.Contains(p.Shared, name) {
		return &shared[slices.IndexFunc(shared, func(k Key) bool { return k.Name == name })]
	}
	return nil
}

// Reference writes the reference of sections, in their order, as Markdown.
func Reference(sections []Section) string {
	var b strings.Builder
	b.WriteString("# The rulebook\n\nWritten by `the command ‹help rulebook›`; do not edit by hand.\n\n" +
		"A rulebook says how a shop wants its catalogue. It is a TOML file, `zetanum.toml` beside the file or in the working folder, or " +
		"the one named with `the setting ‹rules›`. " +
		"It is strict: a key that is not known, or a value of the wrong kind, is an error that says where it stands. Names of files are " +
		"relative to the rulebook. " +
		"Without a rulebook only what is proved is written.\n")
	for _, s := range sections {
		for _, p := range s.Parts() {
			p.write(&b)
		}
	}
	b.WriteString("\n## Keys that rules share\n\nWhere a part above names them, they are these.\n")
	for _, k := range shared {
		k.write(&b, k.Line)
	}
	b.WriteString(conditions)
	return b.String()
}

func (p *Part) write(b *strings.Builder) {
	fmt.Fprintf(b, "\n## `%s`\n\n%s\n", p.Line, p.Says)
	if len(p.Shared) > 0 {
		fmt.Fprintf(b, "\nIt has the keys `%s`, [which rules share](#keys-that-rules-share).\n", strings.Join(p.Shared, "`, `"))
	}
	for _, k := range p.Keys {
		k.write(b, cmp.Or(k.Line, p.Line))
	}
}

func (k *Key) write(b *strings.Builder, line string) {
	name := "`" + k.Name + "`"
	if k.Name == "*" {
		name = "a heading"
	}
	fmt.Fprintf(b, "\n### %s\n\n%s\n\n```toml\n%s\n%s\n```\n", name, k.Says, line, k.Example)
}

const conditions = "\n## Conditions\n\n" +
	"A condition is a table in words. The name before it is a field or a heading; several in one table must all be fulfilled. " +
	"Case and spaces at the ends do not count, unless `exact = true` stands with the test.\n\n" +
	"| test | fulfilled if the cell |\n|---|---|\n" +
	"| `sku = \"LRA-0007\"`, `is` | is that text |\n| `is_not` | is another |\n| `one_of = [\"A\", \"B\"]` | is one of these |\n" +
	"| `contains`, `starts`, `ends` | has the text in it, at its beginning, at its end |\n" +
	"| `listed = \"codes.csv\"` | is in the list in that file: a sheet with one column, below a heading |\n" +
	"| `matches = \"^LRA-[0-9]+$\"` | fits the pattern (RE2; case counts) |\n| `empty = true` | is empty, or with false is not |\n" +
	"| `above = 10`, `below = 10` | is a number above, below |\n| `longer = 70` | has more characters |\n\n" +
	"`all = [ {…}, {…} ]`, `any = [ {…}, {…} ]` and `not = {…}` bring conditions together.\n"
