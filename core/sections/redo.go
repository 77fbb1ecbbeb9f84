package sections

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/redo"
)

// mostWordsInline is how many words stand in the rulebook itself; more are a list beside it.
const mostWordsInline = 8

// A WordList is a list that goes beside a rulebook: what a target calls our values.
type WordList struct {
	Name  string
	Words []redo.Word
}

// Redone writes the rulebook that does again what somebody has done by hand, and the lists that go beside it, whose names begin with stem. file
// is the one that was made by hand, as the rulebook calls it.
func Redone(l *redo.Learned, raw, file, stem string) (text string, lists []WordList) {
	b := new(Draft)
	b.line("# How %s became %s, learnt of %s that both have, by %s and %s.", filepath.Base(raw), filepath.Base(file), plural(l.Paired, "row"), quoted(l.Keys[0]), quoted(l.Keys[1]))
	if l.Alone > 0 {
		b.line("# Of %s of %s nothing was learnt, because the other file does not have them.", plural(l.Alone, "row"), filepath.Base(file))
	}
	b.line("# Look through it before it is used: what is true in few rows, and its exceptions.\n")
	b.line("[target]\ntemplate = %s\n\n[target.columns]", quoted(file))
	var open, reckoned []string
	for i := range l.Columns {
		c := &l.Columns[i]
		value := ""
		switch c.Kind {
		case redo.Unknown:
			open = append(open, fmt.Sprintf("# %s = \"\"  # for example %s", quoted(c.Heading), clean(catalogue.Shorten(c.Example, 60))))
			continue
		case redo.Empty:
			value = "false"
		case redo.Constant:
			value = fmt.Sprintf("{ always = %s }", quoted(c.Value))
		case redo.Part:
			value = fmt.Sprintf("{ from = %s, part = %d }", quoted(c.From), c.Part)
		case redo.Pattern:
			value = quoted(c.Value)
		case redo.Factor:
			name := c.Heading + ", reckoned"
			value = quoted(name)
			lines := fmt.Sprintf("\n[field.%s]\ntype  = \"price\"\nfrom  = %s\ntimes = %s", quoted(name), quoted(c.From), c.Times)
			if c.EndIn != "" {
				lines += "\nend_in = " + c.EndIn
			}
			reckoned = append(reckoned, lines)
		case redo.Copy:
			value = quoted(c.From)
			if c.Words == nil {
				break
			}
			if len(c.Words) > mostWordsInline {
				list := WordList{fmt.Sprintf("%s-words-%d.csv", stem, len(lists)+1), c.Words}
				lists = append(lists, list)
				value = fmt.Sprintf("{ from = %s, words = %s }", quoted(c.From), quoted(list.Name))
				break
			}
			var words []string
			for _, w := range c.Words {
				words = append(words, fmt.Sprintf("%s = %s", quoted(w.Ours), quoted(w.Theirs)))
			}
			value = fmt.Sprintf("{ from = %s, words = { %s } }", quoted(c.From), strings.Join(words, ", "))
		}
		says := ""
		if c.Kind != redo.Empty {
			says = fmt.Sprintf("  # true in %d of %s", c.True, plural(c.Of, "row"))
		} else {
			says = "  # nothing stands there"
		}
		b.line("%s = %s%s", quoted(c.Heading), value, says)
		for _, e := range c.Exceptions {
			b.line("#   not in row %d: %s stands there, and it would be %s", e.Row, shown(e.Stands), shown(e.Were))
		}
	}
	if open != nil {
		b.line("\n# Nothing of the file explains these columns:\n%s", strings.Join(open, "\n"))
	}
	b.line("%s", strings.Join(reckoned, "\n"))
	return b.String(), slices.Clip(lists)
}

func shown(cell string) string {
	if cell == "" {
		return "nothing"
	}
	return quoted(clean(catalogue.Shorten(cell, 50)))
}
