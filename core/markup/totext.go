package markup

import (
	_ "embed"
	"errors"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Text returns a description as plain text: paragraphs with an empty line between them, items of lists with a mark, rows of tables on a
// line each, with the sign | between cells, or a colon behind the name of what the row says. What is plain text stays as it is, but for
// entities.
func (c *Cleaner) Text(cell string, column *Shown) (after string, err error) {
	if after, err = c.text(cell, column); err != nil {
		return cell, err
	}
	if strings.ContainsAny(after, "<&") {
		if again, err := c.text(after, column); err != nil || again != after {
			return cell, ErrUnclear
		}
	}
	return after, nil
}

// ErrUnclear says that a description would be read otherwise if it were written as text.
var ErrUnclear = errors.New("as text it would have what looks like HTML")

func (c *Cleaner) text(cell string, column *Shown) (string, error) {
	if column.FormOf(cell, c.b.rules.Markdown) == FormPlain {
		return Unescape(cell), nil
	}
	if err := c.read(cell, column); err != nil {
		return cell, err
	}
	w := textWriter{document: &c.b.document, th: c.b.th}
	w.blocks(0, "")
	return w.b.String(), nil
}

// A textWriter writes a document as text.
type textWriter struct {
	*document
	th *known
	b  strings.Builder
}

// apart begins a new line, with an empty one before it, or none.
func (w *textWriter) apart(empty bool, indent string) {
	if w.b.Len() > 0 {
		w.b.WriteByte('\n')
		if empty {
			w.b.WriteByte('\n')
		}
	}
	w.b.WriteString(indent)
}

func (w *textWriter) blocks(in int, indent string) {
	for at := w.document.blocks[in].first; at != 0; at = w.document.blocks[at].next {
		b := &w.document.blocks[at]
		switch b.class {
		case paragraph, heading, verbatim:
			w.apart(true, indent)
			w.line(b, indent)
		case list:
			w.list(at, indent, in == 0 || w.document.blocks[in].class != item)
		case table:
			w.table(at, indent)
		case rule:
		default:
			w.blocks(at, indent)
		}
	}
}

func (w *textWriter) list(at int, indent string, apart bool) {
	n := 1
	for it := w.document.blocks[at].first; it != 0; it = w.document.blocks[it].next {
		w.apart(apart && n == 1, indent)
		mark := "- "
		if w.document.blocks[at].known.name == "ol" {
			mark = strconv.Itoa(n) + ". "
		}
		w.b.WriteString(mark)
		deeper := indent + strings.Repeat(" ", len(mark))
		first := w.document.blocks[it].first
		for kid := first; kid != 0; kid = w.document.blocks[kid].next {
			switch b := &w.document.blocks[kid]; b.class {
			case paragraph, heading, verbatim:
				if kid != first {
					w.apart(false, deeper)
				}
				w.line(b, deeper)
			case list:
				w.list(kid, deeper, false)
			case table:
				w.table(kid, deeper)
			default:
				w.blocks(kid, deeper)
			}
		}
		n++
	}
}

func (w *textWriter) table(at int, indent string) {
	first := true
	for group := w.document.blocks[at].first; group != 0; group = w.document.blocks[group].next {
		if w.document.blocks[group].class == caption {
			w.blocks(group, indent)
			continue
		}
		for r := w.document.blocks[group].first; r != 0; r = w.document.blocks[r].next {
			w.apart(first, indent)
			first = false
			w.row(r, indent)
		}
	}
}

// row writes the cells of a row on a line.
func (w *textWriter) row(r int, indent string) {
	n := 0
	for c := w.document.blocks[r].first; c != 0; c = w.document.blocks[c].next {
		if n > 0 {
			named := n == 1 && w.document.blocks[w.document.blocks[c].prev].known == w.th && w.document.blocks[c].known != w.th
			if between := " | "; named && w.document.blocks[c].next == 0 {
				w.b.WriteString(": ")
			} else {
				w.b.WriteString(between)
			}
		}
		n++
		in := textWriter{document: w.document, th: w.th}
		in.blocks(c, "")
		w.b.WriteString(strings.Join(strings.FieldsFunc(in.b.String(), func(r rune) bool { return r == '\n' }), ", "))
	}
}

// line writes the runs of a paragraph.
func (w *textWriter) line(b *block, indent string) {
	for _, r := range w.runs[b.from:b.to] {
		switch r.class {
		case lineBreak:
			w.b.WriteByte('\n')
			w.b.WriteString(indent)
		case inline:
			w.b.WriteString(strings.ReplaceAll(r.text, noBreak, " "))
		}
	}
}

// Beginning returns the beginning of a description as one line of plain text: the whole sentences that fit, or where not even one does,
// or the rules say so, as many words as fit, with … behind them. Headings, tables and pictures are left out, and lists where there is
// anything else.
func (c *Cleaner) Beginning(cell string, column *Shown, fits func(string) bool) (string, error) {
	if err := c.read(cell, column); err != nil {
		return "", err
	}
	texts := c.paragraphs(0, nil, false)
	if some := slices.DeleteFunc(slices.Clone(texts), isLabel); len(some) > 0 {
		texts = some
	}
	if texts == nil {
		texts = []string{strings.Join(c.paragraphs(0, nil, true), ", ")}
	}
	return beginning(texts, c.b.rules.End == Word, fits), nil
}

// isLabel reports whether a paragraph says what comes below it, and is no sentence.
func isLabel(s string) bool {
	last, _ := utf8.DecodeLastRuneInString(s)
	return utf8.RuneCountInString(s) <= longestHeading && !strings.ContainsRune(".!?…。！？)\"”", last)
}

// paragraphs appends the texts of paragraphs that are in none of a list; or in one, and only these.
func (c *Cleaner) paragraphs(in int, texts []string, lists bool) []string {
	w := textWriter{document: &c.b.document}
	for at := c.b.blocks[in].first; at != 0; at = c.b.blocks[at].next {
		switch b := &c.b.blocks[at]; b.class {
		case paragraph:
			w.b.Reset()
			if w.line(b, ""); w.b.Len() > 0 {
				texts = append(texts, strings.ReplaceAll(w.b.String(), "\n", " "))
			}
		case quote, division, item:
			texts = c.paragraphs(at, texts, lists)
		case list:
			if lists {
				texts = c.paragraphs(at, texts, lists)
			}
		}
	}
	return texts
}

// beginning returns what fits of the beginning of texts.
func beginning(texts []string, words bool, fits func(string) bool) string {
	whole := strings.Join(texts, " ")
	if fits(whole) {
		return whole
	}
	var ends []int // of sentences
	at := 0
	for _, t := range texts {
		for _, end := range sentences(t) {
			ends = append(ends, at+end)
		}
		at += len(t) + 1
	}
	sentence := ""
	for _, end := range ends {
		if !fits(whole[:end]) {
			break
		}
		sentence = whole[:end]
	}
	if sentence != "" && !words {
		return sentence
	}
	most, at := sentence, len(sentence)
	for i, r := range whole {
		if r != ' ' || i <= at {
			continue
		}
		cut := strings.TrimRight(whole[:i], " ,;:–-") + "…"
		if !fits(cut) {
			break
		}
		most, at = cut, i
	}
	return most
}

//go:embed abbreviations.txt
var abbreviationsText string

var abbreviations = func() map[string]bool {
	m := make(map[string]bool)
	for text := range strings.Lines(abbreviationsText) {
		if !strings.HasPrefix(text, "#") {
			for _, w := range strings.Fields(text) {
				m[w] = true
			}
		}
	}
	return m
}()

// sentences returns where the sentences of a text end. What may be an abbreviation ends none.
func sentences(s string) (ends []int) {
	for i, r := range s {
		if r != '.' && r != '!' && r != '?' && r != '…' && r != '。' && r != '！' && r != '？' {
			continue
		}
		end := i + utf8.RuneLen(r)
		for end < len(s) {
			next, n := utf8.DecodeRuneInString(s[end:])
			if !strings.ContainsRune(".!?…\"'”“’»«)", next) {
				break
			}
			end += n
		}
		if end >= len(s) {
			break
		}
		rest := s[end:]
		if r != '。' && r != '！' && r != '？' {
			n := spaceAt(rest)
			if n == 0 {
				continue
			}
			_, rest = trimLeft(rest)
			if next, _ := utf8.DecodeRuneInString(rest); r == '.' && (unicode.IsLower(next) || isAbbreviation(s[:i], next)) || unicode.IsLower(next) {
				continue
			}
		}
		if len(ends) == 0 || ends[len(ends)-1] < end {
			ends = append(ends, end)
		}
	}
	return append(ends, len(s))
}

// isAbbreviation reports whether a text ends with what may be an abbreviation or a number in order, given what comes behind the full stop.
func isAbbreviation(s string, next rune) bool {
	word := s[strings.LastIndexFunc(s, func(r rune) bool { return r == ' ' || r == '(' || r == '\u00a0' })+1:]
	before := strings.TrimRight(s[:len(s)-len(word)], " \u00a0")
	if utf8.RuneCountInString(word) < 2 && (word == "" || word[0] < '0' || word[0] > '9') {
		return before == "" || before[len(before)-1] < '0' || before[len(before)-1] > '9' // 5 l. ends one, and z. B. does not
	}
	if strings.Trim(word, "0123456789.,") == "" && strings.ContainsAny(word, ".,") {
		return false // a number
	}
	small := strings.ToLower(word)
	if abbreviations[small] {
		return true
	}
	if last := small[strings.LastIndexByte(small, '.')+1:]; last != small && utf8.RuneCountInString(last) < 3 {
		return true // z.B., t.ex.
	}
	digits := strings.Trim(word, "0123456789") == ""
	return digits && len(word) <= 2 && !unicode.IsDigit(next)
}
