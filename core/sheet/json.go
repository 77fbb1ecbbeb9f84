package sheet

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/workbook"
)

// looksJSON reports whether a file begins as JSON Lines do, or as a JSON array of
// objects.
func looksJSON(head []byte) bool {
	head = bytes.TrimLeft(bytes.TrimPrefix(head, []byte(charset.BOM)), " \t\r\n")
	if len(head) > 0 && head[0] == '[' {
		head = bytes.TrimLeft(head[1:], " \t\r\n")
	}
	if len(head) == 0 || head[0] != '{' {
		return false
	}
	head = bytes.TrimLeft(head[1:], " \t\r\n")
	return len(head) > 0 && (head[0] == '"' || head[0] == '}')
}

// A jsonCell is a value of an object, with the names that lead to it.
type jsonCell struct {
	name, text string
	numeric    bool
}

// openJSON spools the objects of a file of JSON: their names are the headings, in the
// order in which they are met.
func (t *Table) openJSON() error {
	source, done := t.giveUp()
	defer done()
	sum := xxhash.New()
	column := make(map[string]int)
	var headings []string
	objects := 0
	err := eachObject(io.TeeReader(io.NewSectionReader(source, 0, math.MaxInt64), sum), func(cells []jsonCell) error {
		objects++
		for i := range cells {
			if _, there := column[cells[i].name]; !there {
				column[cells[i].name] = len(headings)
				headings = append(headings, cells[i].name)
			}
		}
		if len(headings) > workbook.MostColumns {
			return fmt.Errorf("its objects have more than %d names", workbook.MostColumns)
		}
		return nil
	})
	if err == nil && len(headings) == 0 {
		return t.fail(ErrNoTable, "its objects are empty", "")
	}
	if err != nil {
		return t.failJSON(err, objects)
	}
	if t.Member == "" {
		t.BookSum = sum.Sum64()
	}
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	out := newSpoolWriter(spool)
	out.most = max(1<<30, mostRatio*t.Size)
	for _, h := range headings {
		out.cell(h, 0)
	}
	row := make([]jsonCell, len(headings))
	err = out.endRow()
	if err == nil {
		err = eachObject(io.NewSectionReader(source, 0, math.MaxInt64), func(cells []jsonCell) error {
			clear(row)
			for _, c := range cells {
				row[column[c.name]] = c
			}
			for i := range row {
				mark := catalogue.Mark(0)
				if row[i].numeric {
					mark = catalogue.Numeric
				}
				out.cell(row[i].text, mark)
			}
			return out.endRow()
		})
	}
	if err == nil {
		err = out.flush()
	}
	if err != nil {
		return t.failJSON(err, objects)
	}
	if t.Extent, err = spool.Seek(0, io.SeekCurrent); err != nil {
		return err
	}
	t.json = true
	return t.findSpooled()
}

func (t *Table) failJSON(err error, objects int) error {
	return t.fail(ErrJSON, fmt.Sprintf("behind %s: %v", objectsAre(objects), err),
		"Each line is an object, {\"sku\": \"A\", …}, or the whole is a list of objects.")
}

func objectsAre(n int) string {
	if n == 1 {
		return "1 object"
	}
	return fmt.Sprintf("%d objects", n)
}

// deepest is how deep objects may lie in one another.
const deepest = 20

// eachObject calls do with the values of each object.
func eachObject(r io.Reader, do func([]jsonCell) error) error {
	buf := make([]byte, len(charset.BOM))
	n, _ := io.ReadFull(r, buf)
	if buf = buf[:n]; string(buf) == charset.BOM {
		buf = nil
	}
	d := json.NewDecoder(io.MultiReader(bytes.NewReader(buf), r))
	d.UseNumber()
	inList := false
	var cells []jsonCell
	for {
		token, err := d.Token()
		switch {
		case errors.Is(err, io.EOF) && !inList:
			return nil
		case err != nil:
			return err
		case token == json.Delim('[') && !inList:
			inList = true
		case token == json.Delim(']') && inList:
			inList = false
		case token == json.Delim('{'):
			if cells, err = object(d, "", cells[:0], 1); err != nil {
				return err
			}
			if err := do(cells); err != nil {
				return err
			}
		default:
			return fmt.Errorf("there is %v where an object should begin", token)
		}
	}
}

// object appends the values of an object that has begun. Those of objects within have
// both names, with a dot between them.
func object(d *json.Decoder, before string, cells []jsonCell, depth int) ([]jsonCell, error) {
	for d.More() {
		token, err := d.Token()
		if err != nil {
			return nil, err
		}
		name, _ := token.(string)
		if cells, err = value(d, before+name, cells, depth); err != nil {
			return nil, err
		}
	}
	_, err := d.Token()
	return cells, err
}

// value appends what a name stands for: of a list, its values with | between them.
func value(d *json.Decoder, name string, cells []jsonCell, depth int) ([]jsonCell, error) {
	token, err := d.Token()
	if err != nil {
		return nil, err
	}
	if depth > deepest {
		return nil, fmt.Errorf("its objects lie in one another more than %d deep", deepest)
	}
	switch v := token.(type) {
	case json.Delim:
		if v == '{' {
			return object(d, name+".", cells, depth+1)
		}
		var list []string
		from := len(cells)
		for d.More() {
			if cells, err = value(d, name, cells[:from], depth+1); err != nil {
				return nil, err
			}
			var parts []string
			for _, c := range cells[from:] {
				if c.text != "" {
					parts = append(parts, c.text)
				}
			}
			list = append(list, strings.Join(parts, " "))
		}
		if _, err := d.Token(); err != nil {
			return nil, err
		}
		return append(cells[:from], jsonCell{name: name, text: strings.Join(list, "|")}), nil
	case json.Number:
		return append(cells, jsonCell{name, v.String(), true}), nil
	case string:
		return append(cells, jsonCell{name, v, false}), nil
	case bool:
		return append(cells, jsonCell{name, strings.ToUpper(fmt.Sprint(v)), false}), nil
	}
	return append(cells, jsonCell{name: name}), nil
}
