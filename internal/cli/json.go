package cli

import (
	"encoding/json"
	"slices"

	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/core/steps"
	"zetanum/internal/terminal"
)

// jsonResult is the form of a result for programs.
type jsonResult struct {
	File       string             `json:"file"`
	Kind       string             `json:"kind"`
	Evidence   string             `json:"encoding_because,omitempty"`
	Doubt      string             `json:"encoding_doubt,omitempty"`
	Sheet      string             `json:"sheet,omitempty"`
	Bytes      int64              `json:"bytes"`
	Heading    int                `json:"heading_row"`
	Others     []string           `json:"other_sheets,omitempty"`
	Beside     []string           `json:"other_files,omitempty"`
	Above      int                `json:"rows_above_headings,omitempty"`
	Beneath    []jsonBeneath      `json:"no_products_beneath_headings,omitempty"`
	Hidden     []string           `json:"hidden_columns,omitempty"`
	HiddenRows int                `json:"hidden_rows,omitempty"`
	Filtered   bool               `json:"filtered,omitempty"`
	Blank      int                `json:"blank_rows_left_out,omitempty"`
	Merged     int                `json:"merged_areas,omitempty"`
	Unlike     []jsonUnlike       `json:"not_what_headings_say,omitempty"`
	Columns    []jsonColumn       `json:"columns"`
	Folder     string             `json:"folder,omitempty"`
	Edited     []string           `json:"edited,omitempty"`
	Open       []string           `json:"open_elsewhere,omitempty"`
	Counts     *repair.Counts     `json:"counts,omitempty"`
	Rows       int                `json:"rows"`
	Products   int                `json:"products"`
	Variants   int                `json:"variants,omitempty"`
	KeyLike    string             `json:"perhaps_together_by,omitempty"`
	Keys       []string           `json:"perhaps_sku,omitempty"`
	ImageRows  int                `json:"image_rows,omitempty"`
	Repaired   []jsonRepair       `json:"repaired,omitempty"`
	Mended     int                `json:"mended_cells,omitempty"` // in what came back
	Shop       map[string]int     `json:"shop,omitempty"`         // rows of the shop's result, by what it says
	Found      []jsonFinding      `json:"findings,omitempty"`
	Targets    []jsonTarget       `json:"targets,omitempty"`
	Asked      []jsonQuestion     `json:"questions,omitempty"`
	Lost       int                `json:"lost_barcodes,omitempty"`
	Missing    int                `json:"products_without_barcode,omitempty"`
	Own        string             `json:"copy_of,omitempty"`
	Rulebook   string             `json:"rulebook,omitempty"`
	Notes      []string           `json:"notes,omitempty"`
	Attributes []repair.Attribute `json:"attributes,omitempty"`
	Unfollowed string             `json:"rulebook_not_followed,omitempty"` // and why
	RowRules   []repair.RowCount  `json:"row_rules,omitempty"`
	Borrowed   []repair.Borrowed  `json:"borrowed,omitempty"`
	Minted     []steps.Minted     `json:"minted,omitempty"`
	Codes      []jsonCodes        `json:"barcodes,omitempty"`
	Next       string             `json:"next,omitempty"`
}

// A jsonTarget is what became of what goes to a further target, in rows.
type jsonTarget struct {
	Name  string        `json:"name"`
	Read  int           `json:"read"`
	Ready int           `json:"ready"`
	Held  int           `json:"held"`
	Aside int           `json:"aside"`
	Found []jsonFinding `json:"findings,omitempty"`
}

// foundIn returns what was found, as a report counts it.
func foundIn(r *repair.Result, report *line.Report) (list []jsonFinding) {
	for _, f := range report.Found {
		list = append(list, jsonFinding{f.Code.String(), f.Severity.String(), r.Heading(f.Col), f.Cells, f.Kept, f.Blanked, f.Holds,
			f.Unlocks, f.Examples})
	}
	return list
}

// A jsonBeneath is a row under the headings that is no product.
type jsonBeneath struct {
	Row  int    `json:"row"`
	What string `json:"what"`
}

// A jsonUnlike is a column that holds something else than its heading says.
type jsonUnlike struct {
	Column string `json:"column"`
	What   string `json:"what"`
}

type jsonColumn struct {
	Heading  string   `json:"heading"`
	Field    string   `json:"field,omitempty"`
	Why      string   `json:"because,omitempty"` // heading or cells
	Filled   *int     `json:"filled,omitempty"`
	Lead     *int     `json:"filled_in_lead_rows,omitempty"`
	Distinct int      `json:"distinct,omitempty"`
	About    bool     `json:"distinct_is_near,omitempty"`
	Examples []string `json:"examples,omitempty"`
	Misread  int      `json:"decoded_wrongly,omitempty"` // cells
}

type jsonRepair struct {
	Rule     string         `json:"rule"`
	Ground   string         `json:"ground"`
	Column   string         `json:"column"`
	Cells    int            `json:"cells"`
	Examples []line.Example `json:"examples"`
}

type jsonFinding struct {
	Code     string         `json:"code"`
	Severity string         `json:"severity"`
	Column   string         `json:"column"`
	Cells    int            `json:"cells"`
	Kept     int            `json:"kept,omitempty"`    // as was answered
	Blanked  int            `json:"blanked,omitempty"` // as was answered
	Holds    int            `json:"holds_rows"`
	Unlocks  int            `json:"unlocks_rows"`
	Examples []line.Example `json:"examples"`
}

// A jsonQuestion is what is likely for a whole column.
type jsonQuestion struct {
	Yes      string         `json:"yes"` // what to name with -yes
	Column   string         `json:"column"`
	Question string         `json:"question"`
	Codes    int            `json:"codes"`
	Unlocks  int            `json:"unlocks_rows"`
	Examples []line.Example `json:"examples"`
}

type jsonCodes struct {
	Column string   `json:"column"`
	Seen   []string `json:"seen"`
}

func newJSONResult(r *repair.Result) *jsonResult {
	src := &r.Source
	j := &jsonResult{
		File: src.Path, Kind: src.Kind, Evidence: src.Evidence, Doubt: terminal.Typed(src.Doubt), Sheet: src.Sheet, Bytes: src.Size,
		Heading: src.Heading,
		Folder:  r.Folder, Edited: r.Edited, Open: r.Open, Rows: r.Survey.Rows, Products: r.Survey.Products, Variants: r.Variants, KeyLike: r.KeyLike,
		ImageRows: r.ImageRows,
	}
	j.Others, j.Beside, j.Above, j.Hidden, j.HiddenRows, j.Filtered, j.Merged = src.Others, src.Beside, len(src.Preamble), src.Hidden,
		src.HiddenRows, src.Filtered, src.Merged
	j.Blank = src.Blank
	for _, k := range r.Keys {
		j.Keys = append(j.Keys, src.Columns.Headings[k.Col])
	}
	for _, b := range src.Beneath {
		j.Beneath = append(j.Beneath, jsonBeneath{b.Row, b.Code.Entry().Title})
	}
	for _, u := range r.Unlike {
		j.Unlike = append(j.Unlike, jsonUnlike{src.Columns.Headings[u.Col], u.Sentence()})
	}
	for i, h := range src.Columns.Headings[:src.Columns.Own()] {
		c := jsonColumn{Heading: h, Field: src.Columns.Fields[i].String()}
		switch {
		case slices.Contains(src.ByCells, i):
			c.Why = "cells"
		case c.Field != "":
			c.Why = "heading"
		}
		if r.Fill != nil {
			f := &r.Fill[i]
			if r.Further > 0 {
				c.Lead = &f.Lead
			}
			c.Filled, c.Distinct, c.About, c.Examples, c.Misread = &f.Filled, f.Distinct, f.About, f.Examples, f.Misread
		}
		j.Columns = append(j.Columns, c)
	}
	if r.Report == nil {
		return j
	}
	counts := r.Counts()
	j.Counts, j.Minted = &counts, r.Minted
	for _, c := range r.Report.Repaired {
		j.Repaired = append(j.Repaired, jsonRepair{c.Rule.String(), c.Ground.String(), r.Heading(c.Col), c.Cells, c.Examples})
	}
	j.Found = foundIn(r, r.Report)
	for i := range r.Targets {
		t := &r.Targets[i]
		j.Targets = append(j.Targets, jsonTarget{t.Name, t.Report.Rows, t.Report.Ready, t.Report.Held, t.Report.Aside, foundIn(r, t.Report)})
	}
	for _, q := range r.Questions() {
		j.Asked = append(j.Asked, jsonQuestion{answerTo(r, q.FindingCount), r.Heading(q.Col), q.Ask, q.Proposed, q.Unlocks, q.Likely()})
	}
	if r.Returned != nil {
		j.Mended, j.Shop = r.Returned.Cells(), make(map[string]int)
		for _, n := range r.Returned.Told() {
			j.Shop[r.Returned.Said(n).Outcome.String()]++
		}
	}
	j.Lost, j.Missing, j.Own, j.Rulebook = r.Listed(sections.LostName), r.Listed(sections.MissingName), r.Own, r.Rulebook
	j.Unfollowed = r.NotFollowed
	j.Notes, j.RowRules, j.Borrowed, j.Attributes = r.Notes, r.Rows, r.Borrowed, r.Attributes
	return j
}

// printJSON prints one document: an object for one file, a list for several.
func (s *session) printJSON(results []*repair.Result, files int) error {
	list := make([]*jsonResult, 0, len(results))
	for _, r := range results {
		list = append(list, newJSONResult(r))
	}
	return s.encodeEach(list, files)
}

// encodeEach prints what came of files: that of one by itself, that of more as a list,
// even if all but one could not be read.
func (s *session) encodeEach(list []*jsonResult, files int) error {
	if len(list) == 1 && files == 1 {
		return s.encode(list[0])
	}
	return s.encode(list)
}

func (s *session) encode(v any) error {
	e := json.NewEncoder(terminal.JSON(s.stdout))
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(v)
}
