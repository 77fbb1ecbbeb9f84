package sheet

import (
	"archive/zip"
	"encoding/xml"
	"io"
	"path"
	"strings"
)

// A colRange is a stretch of columns that a workbook does not show, counted
// from 1, ends included.
type colRange struct{ from, to int }

// mostXML is how many bytes of a part of a workbook are read for what is asked
// here, which stands before the cells.
const mostXML = 8 << 20

// hiddenColumns returns which columns of a sheet are not shown. The workbook
// library would take the whole sheet into memory to say so; here only what stands
// before the cells is read (ECMA-376, part 1, 18.3.1.13). What cannot be read is
// taken for visible: nothing depends on it but what is said to the user.
func hiddenColumns(book io.ReaderAt, size int64, sheet string) (hidden []colRange) {
	archive, err := zip.NewReader(book, size)
	if err != nil {
		return nil
	}
	var id, target string
	elements(archive, "xl/workbook.xml", func(e xml.StartElement) bool {
		if e.Name.Local == "sheet" && strings.EqualFold(attr(e, "name"), sheet) {
			id = attr(e, "id")
		}
		return id == ""
	})
	elements(archive, "xl/_rels/workbook.xml.rels", func(e xml.StartElement) bool {
		if e.Name.Local == "Relationship" && attr(e, "Id") == id {
			target = attr(e, "Target")
		}
		return target == ""
	})
	if id == "" || target == "" {
		return nil
	}
	if strings.HasPrefix(target, "/") {
		target = target[1:]
	} else {
		target = path.Join("xl", target)
	}
	elements(archive, target, func(e xml.StartElement) bool {
		if e.Name.Local == "col" {
			if h := attr(e, "hidden"); h == "1" || h == "true" {
				hidden = append(hidden, colRange{atoi(attr(e, "min")), atoi(attr(e, "max"))})
			}
		}
		return e.Name.Local != "sheetData"
	})
	return hidden
}

// elements calls do with the elements of a part of the archive until it returns
// false.
func elements(archive *zip.Reader, name string, do func(xml.StartElement) bool) {
	part, err := archive.Open(name)
	if err != nil {
		return
	}
	defer part.Close()
	d := xml.NewDecoder(io.LimitReader(part, mostXML))
	for {
		token, err := d.Token()
		if err != nil {
			return
		}
		if e, ok := token.(xml.StartElement); ok && !do(e) {
			return
		}
	}
}

func attr(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

func atoi(s string) (n int) {
	for _, c := range s {
		if c < '0' || c > '9' || n > 1<<20 {
			return n
		}
		n = n*10 + int(c-'0')
	}
	return n
}

// nameHidden takes down the headings of the columns that are not shown.
func (t *Table) nameHidden(hidden []colRange) {
	t.Hidden = nil
	for col, h := range t.Columns.Headings {
		for _, r := range hidden {
			if r.from <= col+1 && col+1 <= r.to && h != "" {
				t.Hidden = append(t.Hidden, h)
				break
			}
		}
	}
}
