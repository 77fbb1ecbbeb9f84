package workbook

import (
	"slices"
	"strings"

	"zetanum/core/lazy"
)

// An openCell is a cell of a sheet in OpenDocument, or several beside one another and below that are the same.
type openCell struct {
	Area
	*token
}

// openCells calls cell with the cells of a sheet in OpenDocument, those without anything in them, too, and before with what stands before the
// sheets: styles, and what is asked of cells.
func (b *Book) openCells(s *Sheet, before func(*token), cell func(openCell) error) error {
	row, high, col, ours, depth := 0, 0, 0, false, 0
	return b.tokens(s.part, func(t *token) error {
		times := func(attr string, room int) int { return max(0, min(room, max(1, number([]byte(t.attr(attr)))))) }
		switch {
		case t.is("table") && t.kind == endTag:
			if depth--; ours && depth == 0 {
				return errEnough
			}
		case t.is("table") && t.kind == startTag:
			if t.empty {
				return nil
			}
			if depth++; depth == 1 {
				ours = t.attr("name") == s.Name
			}
		case depth == 0:
			before(t)
		case !ours || depth != 1 || t.kind != startTag:
		case t.is("table-row"):
			row += high
			high, col = times("number-rows-repeated", MostRows-row), 0
		case t.is("table-cell"), t.is("covered-table-cell"):
			wide := times("number-columns-repeated", MostColumns-col)
			col += wide
			return cell(openCell{Area{col - wide + 1, row + 1, col, row + high}, t})
		}
		return nil
	})
}

// openDemands returns what a sheet in OpenDocument asks of its cells (Part 3, 9.4.5 and 19.604).
func (b *Book) openDemands(s *Sheet) (list []Demand, err error) {
	byName := make(map[string]int)
	prompt := -1
	err = b.openCells(s, func(t *token) {
		switch {
		case t.kind == someText:
			if prompt >= 0 {
				list[prompt].Prompt += string(unescape(nil, t.text))
			}
		case t.is("content-validation") && t.kind == startTag:
			if len(list) == mostDemands {
				return
			}
			d := openDemand(t.attr("condition"))
			d.Blank = t.attr("allow-empty-cell") != "false"
			byName[t.attr("name")] = len(list)
			list = append(list, d)
		case t.is("help-message"):
			if prompt = -1; t.kind == startTag && !t.empty && len(list) > 0 {
				prompt = len(list) - 1
			}
		}
	}, func(c openCell) error {
		if at, known := byName[c.attr("content-validation-name")]; known {
			list[at].add(c.Area)
		}
		return nil
	})
	return slices.DeleteFunc(list, func(d Demand) bool { return d.Areas == nil }), err // those of other sheets
}

// add adds an area, to one that ends above it if there is any.
func (d *Demand) add(a Area) {
	for i := range d.Areas {
		if of := &d.Areas[i]; of.Col == a.Col && of.ToCol == a.ToCol && of.ToRow == a.Row-1 {
			of.ToRow = a.ToRow
			return
		}
	}
	if len(d.Areas) < mostAreas {
		d.Areas = append(d.Areas, a)
	}
}

// The conditions of OpenDocument.
var (
	openList    = lazy.New(`^cell-content-is-in-list\((.*)\)$`)
	openBetween = lazy.New(`^cell-content(-text-length)?-is(-not)?-between\((.*),(.*)\)$`)
	openCompare = lazy.New(`^cell-content(-text-length)?\(\)(<=|>=|!=|<|>|=)(.*)$`)
	openRef     = lazy.New(`\[([^\]]*)\]`)
)

var openOps = map[string]string{"<=": "lessThanOrEqual", ">=": "greaterThanOrEqual", "!=": "notEqual", "<": "lessThan", ">": "greaterThan", "=": "equal"}

// openDemand reads a condition: of:cell-content-is-whole-number() and cell-content-is-between(0,9999).
func openDemand(condition string) (d Demand) {
	_, condition, _ = strings.Cut(condition, ":")
	d.Kind = "custom"
	for first, of := range map[string]string{"is-decimal-number": "decimal", "is-whole-number": "whole", "is-date": "date", "is-time": "time"} {
		if rest, cut := strings.CutPrefix(condition, "cell-content-"+first+"()"); cut {
			d.Kind, condition = of, strings.TrimPrefix(rest, " and ")
		}
	}
	if m := openList.FindStringSubmatch(condition); m != nil {
		d.Kind = "list"
		if d.First = openFormula(m[1]); strings.HasPrefix(d.First, `"`) { // each value in its own marks
			d.First = strings.ReplaceAll(d.First, `";"`, ",")
		}
		return d
	}
	if m := openBetween.FindStringSubmatch(condition); m != nil {
		if d.Op = "between"; m[2] != "" {
			d.Op = "notBetween"
		}
		d.measures(m[1])
		d.First, d.Second = openFormula(m[3]), openFormula(m[4])
		return d
	}
	if m := openCompare.FindStringSubmatch(condition); m != nil {
		d.measures(m[1])
		d.Op, d.First = openOps[m[2]], openFormula(m[3])
		return d
	}
	d.First = openFormula(condition)
	return d
}

func (d *Demand) measures(length string) {
	if length != "" {
		d.Kind = "textLength"
	}
}

// openFormula writes references as ECMA-376 has them: [$Lists.$A$2:.$A$9] is 'Lists'!$A$2:$A$9.
func openFormula(text string) string {
	return openRef.ReplaceAllStringFunc(strings.TrimSpace(text), func(ref string) string { return openArea(ref[1 : len(ref)-1]) })
}

func openArea(ref string) string {
	from, to, two := strings.Cut(ref, ":")
	sheet, first := "", from
	if at := strings.LastIndexByte(from, '.'); at >= 0 {
		sheet, first = strings.Trim(strings.TrimPrefix(from[:at], "$"), "'"), from[at+1:]
	}
	if at := strings.LastIndexByte(to, '.'); at >= 0 {
		to = to[at+1:]
	}
	if two {
		first += ":" + to
	}
	if sheet != "" {
		return "'" + sheet + "'!" + first
	}
	return first
}

// openNames returns what names stand for.
func (b *Book) openNames() (map[string]string, error) {
	names := make(map[string]string)
	err := b.tags("content.xml", func(t *token) error {
		name := strings.ToLower(t.attr("name"))
		if _, there := names[name]; there || len(names) >= mostDemands {
			return nil
		}
		switch string(t.name) {
		case "named-range":
			names[name] = openArea(t.attr("cell-range-address"))
		case "named-expression":
			_, of, _ := strings.Cut(t.attr("expression"), ":")
			names[name] = openFormula(strings.TrimPrefix(of, "="))
		}
		return nil
	})
	return names, err
}
