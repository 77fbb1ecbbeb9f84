package workbook

import "strings"

// A Demand is what a workbook asks of cells when somebody types into them: a list to choose from, a length, a number between two others.
// Its formulas are written as ECMA-376 has them (18.3.1.32): 'Lists'!$A$2:$A$9, "red,blue", 12.
type Demand struct {
	Areas         []Area
	Kind          string // list, whole, decimal, date, time, textLength, custom
	Op            string // between, notBetween, equal, notEqual, lessThan, lessThanOrEqual, greaterThan, greaterThanOrEqual; "" of a list
	First, Second string // formulas
	Blank         bool   // the cell may be empty
	Prompt        string // what is shown beside the cell
}

// mostDemands is how many demands of a sheet are read; of each so many areas.
const (
	mostDemands = 10_000
	mostAreas   = 10_000
)

// Demands returns what a sheet asks of its cells, in no particular order.
func (b *Book) Demands(s *Sheet) ([]Demand, error) {
	switch {
	case b.stream != nil:
		return b.binaryDemands(s)
	case b.ods:
		return b.openDemands(s)
	case s.lost != nil:
		return nil, nil
	}
	var list []Demand
	var texts [3][]byte // of the two formulas, and of the areas where they are elements
	at := -1
	err := b.tokens(s.part, func(t *token) error {
		switch {
		case t.kind == someText:
			if at >= 0 {
				texts[at] = unescape(texts[at], t.text)
			}
		case t.kind == endTag && (t.is("dataValidation")):
			d := &list[len(list)-1]
			d.First, d.Second = strings.TrimSpace(string(texts[0])), strings.TrimSpace(string(texts[1]))
			if len(texts[2]) > 0 {
				d.Areas = areasOf(string(texts[2]))
			}
			at = -1
		case t.kind == endTag && (t.is("formula1") || t.is("formula2") || t.is("sqref")):
			at = -1
		case t.kind != startTag:
		case t.is("dataValidation"):
			if len(list) == mostDemands {
				return errEnough
			}
			d := Demand{Kind: t.attr("type"), Op: t.attr("operator"), Blank: isTrue(t.attr("allowBlank")), Prompt: t.attr("prompt"), Areas: areasOf(t.attr("sqref"))}
			if d.Op == "" && d.Kind != "list" {
				d.Op = "between"
			}
			texts = [3][]byte{}
			if list = append(list, d); t.empty {
				at = -1
			}
		case len(list) > 0 && !t.empty:
			switch string(t.name) {
			case "formula1":
				at = 0
			case "formula2":
				at = 1
			case "sqref":
				at = 2
			}
		}
		return nil
	})
	return list, err
}

// areasOf reads areas: "B4:B604 D4".
func areasOf(text string) (list []Area) {
	for ref := range strings.FieldsSeq(text) {
		if a, ok := ParseArea(ref); ok && len(list) < mostAreas {
			list = append(list, a)
		}
	}
	return list
}

// ParseArea reads an area of a sheet, with or without marks that it does not move: $A$2:$A$9, B4. A whole column goes to the last row.
func ParseArea(ref string) (a Area, ok bool) {
	from, to, two := strings.Cut(strings.ReplaceAll(ref, "$", ""), ":")
	if !two {
		to = from
	}
	a.Col, a.Row = place([]byte(from))
	a.ToCol, a.ToRow = place([]byte(to))
	if two && a.Row == 0 && a.ToRow == 0 {
		a.Row, a.ToRow = 1, MostRows
	}
	return a, a.Col > 0 && a.Row > 0 && a.ToCol >= a.Col && a.ToRow >= a.Row
}

// Names returns what names of a workbook stand for, in small letters, as formulas: 'Lists'!$A$2:$A$9. Of names that several sheets have of their
// own it is the first.
func (b *Book) Names() (map[string]string, error) {
	switch {
	case b.stream != nil:
		return b.binaryNames()
	case b.ods:
		return b.openNames()
	}
	names := make(map[string]string)
	name := ""
	var text []byte
	err := b.tokens(b.main, func(t *token) error {
		switch {
		case t.kind == startTag && t.is("definedName") && !t.empty:
			name, text = strings.ToLower(t.attr("name")), nil
		case t.kind == someText && name != "":
			text = unescape(text, t.text)
		case t.kind == endTag && t.is("definedName"):
			if _, there := names[name]; !there && len(names) < mostDemands {
				names[name] = strings.TrimSpace(string(text))
			}
			name = ""
		}
		return nil
	})
	return names, err
}
