package rulebook

import (
	"bytes"
	"reflect"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/pelletier/go-toml/v2"
	"github.com/pelletier/go-toml/v2/unstable"
)

// An Order is what is put into a rulebook: keys of one of its tables, with a comment above them.
type Order struct {
	// Table is the name of the table, "title" or "target.columns". With Each it is the name of a list of tables, and the order
	// is a new one at its end: [[mint]].
	Table string
	Each  bool
	Lines []Line
}

// A Line of an order is a key with its value as TOML writes it. With Word the value is one text, as it is, for the end of a list; with Over it
// takes the place of the value that the key has.
type Line struct {
	Key, Value string
	Word, Over bool
}

// Has reports whether a rulebook says already what an order would say, or something else in its place: its keys, or for the end of a list
// that word; for a new table of a list one that says the same, and perhaps more.
func Has(content []byte, o Order) bool {
	if o.Each {
		return hasEach(content, o)
	}
	return slices.ContainsFunc(o.Lines, func(l Line) bool {
		list := List{o.Table, plainKey(l.Key)}
		switch key := keyAt(content, list); {
		case l.Over && key >= 0:
			from, to, ok := valueAt(content, key)
			return ok && string(content[from:to]) == l.Value
		case !l.Word:
			return key >= 0
		}
		at, ok := find(content, list)
		return ok && slices.ContainsFunc(at.words, func(w span) bool { return unquote(content[w.from:w.to]) == l.Value })
	})
}

// hasEach reports whether a list has a table that says all that an order would say.
func hasEach(content []byte, o Order) bool {
	var all, one map[string]any
	var b strings.Builder
	for _, l := range o.Lines {
		b.WriteString(l.Key + " = " + l.Value + "\n")
	}
	if toml.Unmarshal(content, &all) != nil || toml.Unmarshal([]byte(b.String()), &one) != nil {
		return false
	}
	names := strings.Split(o.Table, ".")
	for _, name := range names[:len(names)-1] {
		all, _ = all[name].(map[string]any)
	}
	tables, _ := all[names[len(names)-1]].([]any)
	return slices.ContainsFunc(tables, func(table any) bool {
		said, _ := table.(map[string]any)
		for key, value := range one {
			if !reflect.DeepEqual(said[key], value) {
				return false
			}
		}
		return true
	})
}

// Add returns the text of a rulebook with an order in it, and a comment above that; all other text stays as it is. A table that is not there
// is put before the first that comes behind it in places, the names of all tables in their order.
func Add(content []byte, o Order, comment string, places []string) []byte {
	end := "\n"
	if bytes.Contains(content, []byte("\r\n")) {
		end = "\r\n"
	}
	var b strings.Builder
	for _, line := range Wrapped(strings.Fields(comment), 98) {
		b.WriteString("# " + line + end)
	}
	widest := 0
	for _, l := range o.Lines {
		widest = max(widest, len(l.Key))
	}
	said := b.String()
	for _, l := range o.Lines {
		if at := keyAt(content, List{o.Table, plainKey(l.Key)}); l.Over && at >= 0 {
			if from, to, ok := valueAt(content, at); ok {
				content = spliced(content, from, to, l.Value)
				at = lineStart(content, at)
				content = spliced(content, at, at, said)
				said = ""
				b.Reset()
				continue
			}
		}
		if l.Word {
			list := List{o.Table, l.Key}
			if at := keyAt(content, list); at >= 0 {
				content = Put(content, list, l.Value, nil)
				at = lineStart(content, at)
				content = spliced(content, at, at, said)
				said = ""
				b.Reset()
				continue
			}
			b.WriteString(l.Key + " = [" + quote(l.Value) + "]" + end)
			continue
		}
		b.WriteString(l.Key + strings.Repeat(" ", widest-len(l.Key)) + " = " + l.Value + end)
	}
	text := b.String()
	if text == "" {
		return content
	}
	if !o.Each {
		if at, ok := endOf(content, o.Table); ok {
			if at > 0 && content[at-1] != '\n' {
				text = end + text
			}
			if headed := lineStart(content, at-1); said != "" && headed < len(content) && content[headed] != '[' {
				text = end + text // a comment of its own stands apart
			}
			return spliced(content, at, at, text)
		}
	}
	head := "[" + o.Table + "]"
	if o.Each {
		head = "[[" + o.Table + "]]"
	}
	text = head + end + text
	at := placeFor(content, o.Table, places)
	if at == len(content) {
		if at > 0 && content[at-1] != '\n' {
			text = end + text
		}
		if at > 0 {
			text = end + text
		}
		return spliced(content, at, at, text)
	}
	return spliced(content, at, at, text+end)
}

// valueAt returns where the value of a key stands.
func valueAt(content []byte, key int) (from, to int, ok bool) {
	p := unstable.Parser{}
	p.Reset(content[key:])
	if !p.NextExpression() || p.Expression().Kind != unstable.KeyValue { // what stands before the end of the value
		return 0, 0, false
	}
	var keyEnd int
	for it := p.Expression().Key(); it.Next(); {
		raw := it.Node().Raw
		keyEnd = int(raw.Offset + raw.Length)
	}
	from = key + keyEnd + bytes.IndexByte(content[key+keyEnd:], '=') + 1
	for from < len(content) && (content[from] == ' ' || content[from] == '\t') {
		from++
	}
	depth := 0
	for to = from; to < len(content); to++ {
		switch c := content[to]; c {
		case '[', '{':
			depth++
		case ']', '}':
			if depth--; depth == 0 {
				return from, to + 1, true
			}
		case '"', '\'':
			if to = textEnd(content, to); depth == 0 {
				return from, to + 1, true
			}
		case '#', '\r', '\n':
			if depth == 0 {
				return from, from + len(bytes.TrimRight(content[from:to], " \t")), true
			}
			if n := bytes.IndexByte(content[to:], '\n'); c == '#' && n >= 0 {
				to += n
			}
		}
	}
	return from, len(bytes.TrimRight(content, " \t\r\n")), depth == 0
}

// textEnd returns where the last quotation mark of a text stands whose first one stands at from.
func textEnd(content []byte, from int) int {
	mark := content[from : from+1]
	if long := bytes.Repeat(mark, 3); bytes.HasPrefix(content[from:], long) {
		mark = long
	}
	for i := from + len(mark); i < len(content); i++ {
		switch {
		case content[i] == '\\' && mark[0] == '"':
			i++
		case bytes.HasPrefix(content[i:], mark):
			return i + len(mark) - 1
		}
	}
	return len(content) - 1
}

// plainKey returns a key without its quotation marks.
func plainKey(key string) string {
	if len(key) > 1 && (key[0] == '"' || key[0] == '\'') {
		return unquote([]byte(key))
	}
	return key
}

// lineStart returns where the line begins in which a byte stands.
func lineStart(content []byte, at int) int {
	return bytes.LastIndexByte(content[:max(at, 0)], '\n') + 1
}

// A headed table is where its head begins, with the comment that belongs to it, and where the next one does.
type headed struct {
	name     string
	each     bool // it is one of a list
	from, to int
}

// tablesOf returns the tables of a rulebook in their order.
func tablesOf(content []byte) (list []headed) {
	eachLine(content, func(table string, key []string, from int) {
		if key != nil {
			return
		}
		at := lineStart(content, from)
		for at > 0 { // the comment right above
			above := lineStart(content, at-1)
			if content[above] != '#' {
				break
			}
			at = above
		}
		if len(list) == 0 && at == 0 { // the head of the whole file
			at = lineStart(content, from)
		}
		if n := len(list); n > 0 {
			list[n-1].to = at
		}
		name, each := strings.CutPrefix(table, "[")
		list = append(list, headed{name, each, at, len(content)})
	})
	return list
}

// endOf returns where the lines of a table end, without what is empty behind them.
func endOf(content []byte, name string) (at int, ok bool) {
	for _, t := range tablesOf(content) {
		if t.name == name && !t.each {
			at, ok = t.to, true
		}
	}
	for ok && at > 0 {
		above := lineStart(content, at-1)
		if len(bytes.TrimSpace(content[above:at])) > 0 {
			break
		}
		at = above
	}
	return at, ok
}

// placeFor returns where a new table belongs.
func placeFor(content []byte, name string, places []string) int {
	place := func(name string) int {
		if i := slices.Index(places, name); i >= 0 {
			return i
		}
		first, _, _ := strings.Cut(name, ".")
		return slices.Index(places, first)
	}
	own := place(name)
	for _, t := range tablesOf(content) {
		if place(t.name) > own {
			return t.from
		}
	}
	return len(content)
}

// Wrapped puts words together in lines of at most so many characters.
func Wrapped(words []string, width int) (lines []string) {
	for _, word := range words {
		n := len(lines)
		if n == 0 || utf8.RuneCountInString(lines[n-1])+1+utf8.RuneCountInString(word) > width {
			lines = append(lines, word)
			continue
		}
		lines[n-1] += " " + word
	}
	return lines
}
