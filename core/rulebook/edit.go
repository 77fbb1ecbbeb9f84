package rulebook

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/pelletier/go-toml/v2/unstable"
)

// A List names a list of texts in a table of a rulebook.
type List struct{ Table, Key string }

// Put returns the text of a rulebook with a word at the end of a list, and in none of those in
// which no longer stands what it says; all other text stays as it is, comments included. Lists
// that are not there are made. A list that is written in another way than as
//
//	[table]
//	key = ["a word", "another"]
//
// is not found, so that the text has it twice then: whoever writes it must read it first.
func Put(content []byte, list List, word string, outOf []List) []byte {
	for _, other := range outOf {
		if at, ok := find(content, other); ok {
			content = at.without(content, word)
		}
	}
	quoted := quote(word)
	if at, ok := find(content, list); ok {
		if slices.ContainsFunc(at.words, func(w span) bool { return unquote(content[w.from:w.to]) == word }) {
			return content
		}
		if n := len(at.words); n > 0 {
			return spliced(content, at.words[n-1].to, at.words[n-1].to, ", "+quoted)
		}
		return spliced(content, at.from, at.from, quoted)
	}
	end := "\n"
	if bytes.Contains(content, []byte("\r\n")) {
		end = "\r\n"
	}
	line := list.Key + " = [" + quoted + "]" + end
	if behind, ok := tableEnd(content, list.Table); ok {
		if content[behind-1] != '\n' {
			line = end + line
		}
		return spliced(content, behind, behind, line)
	}
	before := ""
	switch {
	case len(content) > 0 && content[len(content)-1] != '\n':
		before = end + end
	case len(content) > 0:
		before = end
	}
	return spliced(content, len(content), len(content), before+"["+list.Table+"]"+end+line)
}

// A span is a stretch of bytes.
type span struct{ from, to int }

// A found list is where the inside of one stands, and its words with their quotation marks.
type found struct {
	span
	words []span
}

// without returns the text without a word of the list, and the comma that goes with it.
func (f *found) without(content []byte, word string) []byte {
	for i, w := range f.words {
		if unquote(content[w.from:w.to]) != word {
			continue
		}
		switch {
		case i+1 < len(f.words):
			return spliced(content, w.from, f.words[i+1].from, "")
		case i > 0:
			return spliced(content, f.words[i-1].to, w.to, "")
		}
		return spliced(content, w.from, w.to, "")
	}
	return content
}

func spliced(content []byte, from, to int, text string) []byte {
	return slices.Concat(content[:from], []byte(text), content[to:])
}

// quote writes a word as a text of TOML.
func quote(word string) string {
	if !strings.ContainsAny(word, "'\n\r\t") && strings.ContainsAny(word, `"\`) {
		return "'" + word + "'"
	}
	return Quoted(word)
}

// Quoted writes a text as TOML does, in quotation marks.
func Quoted(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r < ' ' || r == 0x7f:
			fmt.Fprintf(&b, `\u%04X`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('"')
	return b.String()
}

// unquote reads it.
func unquote(text []byte) string {
	if len(text) > 1 && text[0] == '\'' {
		return string(text[1 : len(text)-1])
	}
	word, err := strconv.Unquote(string(text))
	if err != nil {
		return string(text)
	}
	return word
}

// find looks for a list.
func find(content []byte, list List) (at found, ok bool) {
	key := keyAt(content, list)
	if key < 0 {
		return at, false
	}
	open := key + bytes.IndexByte(content[key:], '=') + 1
	for open < len(content) && (content[open] == ' ' || content[open] == '\t') {
		open++
	}
	if open == len(content) || content[open] != '[' {
		return at, false
	}
	at.from = open + 1
	for i := at.from; i < len(content); i++ {
		switch c := content[i]; c {
		case ']':
			at.to = i
			return at, true
		case '#':
			if n := bytes.IndexByte(content[i:], '\n'); n >= 0 {
				i += n
			}
		case '"', '\'':
			from := i
			for i++; i < len(content) && content[i] != c; i++ {
				if c == '"' && content[i] == '\\' {
					i++
				}
			}
			at.words = append(at.words, span{from, i + 1})
		}
	}
	return at, false
}

// keyAt returns where a key of a table stands, -1 if it is not there.
func keyAt(content []byte, list List) int {
	at := -1
	eachLine(content, func(table string, key []string, from int) {
		if table == list.Table && len(key) == 1 && key[0] == list.Key {
			at = from
		}
	})
	return at
}

// tableEnd returns where the line behind the head of a table begins, and whether there is one.
func tableEnd(content []byte, name string) (behind int, ok bool) {
	eachLine(content, func(table string, key []string, from int) {
		if key != nil || table != name {
			return
		}
		behind, ok = len(content), true
		if n := bytes.IndexByte(content[from:], '\n'); n >= 0 {
			behind = from + n + 1
		}
	})
	return behind, ok
}

// eachLine calls do for the head of each table, without a key, and for each of its keys. The name of a table of a list has a bracket before it.
func eachLine(content []byte, do func(table string, key []string, from int)) {
	var p unstable.Parser
	p.Reset(content)
	table := ""
	for p.NextExpression() {
		node := p.Expression()
		from := -1
		var names []string
		for it := node.Key(); it.Next(); {
			if from < 0 {
				from = int(it.Node().Raw.Offset)
			}
			names = append(names, string(it.Node().Data))
		}
		switch node.Kind {
		case unstable.Table:
			table = strings.Join(names, ".")
			do(table, nil, from)
		case unstable.ArrayTable:
			table = "[" + strings.Join(names, ".")
			do(table, nil, from)
		case unstable.KeyValue:
			do(table, names, from)
		}
	}
}
