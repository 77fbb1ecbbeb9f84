package rulebook

import (
	"bytes"
	"fmt"
	"strings"

	"github.com/pelletier/go-toml/v2/unstable"
)

// linesOf returns the lines on which the tables and keys of a rulebook stand, by their
// [place]. Of what cannot be parsed it has what stands above.
func linesOf(content []byte) map[string]int {
	lines, counts := make(map[string]int), make(map[string]int)
	var p unstable.Parser
	p.Reset(content)
	table, n := "", 1
	at, passed := 1, 0 // the line of a byte
	for p.NextExpression() {
		node := p.Expression()
		var names []string
		line := 0
		for it := node.Key(); it.Next(); {
			if from := int(it.Node().Raw.Offset); line == 0 {
				at, passed = at+bytes.Count(content[passed:from], []byte{'\n'}), from
				line = at
			}
			names = append(names, string(it.Node().Data))
		}
		path := strings.Join(names, ".")
		switch node.Kind {
		case unstable.Table:
			table, n = path, 1
			lines[place(table, 1, "")] = line
		case unstable.ArrayTable:
			counts[path]++
			table, n = path, counts[path]
			lines[place(table, n, "")] = line
		case unstable.KeyValue:
			if table == "" { // written as a table in one line
				lines[place(names[0], 1, "")] = line
			}
			lines[place(table, n, path)] = line
		}
	}
	return lines
}

// place names a key in the nth table of a name, or with no key the table itself.
func place(table string, n int, key string) string {
	return fmt.Sprintf("%s\x00%d\x00%s", table, n, key)
}
