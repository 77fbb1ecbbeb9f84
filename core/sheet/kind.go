package sheet

import (
	"fmt"
	"path/filepath"
	"strings"

	"zetanum/core/charset"
)

// Kind says in words what kind of file this is, and that it is one of this kind whatever
// its name says.
func (t *Table) Kind() string {
	if t.was != "" {
		return t.was
	}
	kind := t.kind()
	name := t.Name
	if t.Member != "" {
		kind, name = t.Member+" in an archive; "+kind, t.Member
	}
	ending := strings.ToLower(filepath.Ext(name))
	if of, known := endings[ending]; known && !strings.HasPrefix(t.kind(), of) {
		kind += ", to judge by its contents, although its name ends in " + ending
	}
	return kind
}

// endings are how the names of files end, and what their kinds begin with.
var endings = map[string]string{
	".csv": "CSV", ".tsv": "CSV", ".xlsx": "workbook", ".xlsm": "workbook", ".xls": "workbook", ".ods": "workbook", ".json": "JSON",
	".jsonl": "JSON", ".htm": "web page", ".html": "web page",
}

func (t *Table) kind() string {
	if t.flavour.quote != 0 {
		in := t.written.Charset
		if t.Transcoded != charset.UTF8 {
			in = t.Transcoded
		}
		return fmt.Sprintf("CSV, %s, separator %s, %s", in, byteName(t.flavour.separator), t.flavour.said())
	}
	if t.json {
		return "JSON"
	}
	if t.page != "" {
		return t.page
	}
	if t.Form.Spooled {
		return fmt.Sprintf("workbook, sheet %q", t.Sheet)
	}
	ends := map[string]string{"\r": "CR", "\n": "LF", "\r\n": "CRLF"}[t.Form.LineEnd]
	mark := ""
	if t.Form.BOM {
		mark = " with a byte order mark"
	}
	in := t.Form.Charset
	if t.Transcoded != charset.UTF8 {
		in = t.Transcoded
	}
	return fmt.Sprintf("CSV, %s%s, separator %s, rows end with %s", in, mark, t.Form.SeparatorName(), ends)
}
