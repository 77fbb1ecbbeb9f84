package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/present"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/target"
)

// inPresent says which product of the shop each row is, and what becomes of that.
type inPresent struct {
	steps.Known
	id     int // the column with the shop's own number, -1 if there is none
	action int // the column that says what the importer is to do, -1 if there is none
	rules  *target.Rules
}

// exportOptions say how the shop's export is read.
func (s *Sheet) exportOptions() sheet.Options {
	fields, hints := s.Book.Fields()
	opt := sheet.Options{Spool: s.Temp, Fields: fields, Hints: hints, AnyHeadings: true}
	if same(s.Book.Shop.Export, s.Input) {
		opt.Sheet = s.Table.Sheet
	}
	return opt
}

// Open opens the shop's export, if anything depends on which products it has.
func (t *targetSection) Open(s *Sheet) error {
	s.present = nil
	rules, shop := t.rules, &s.Book.Shop
	refers := shop.Export != "" && (rules.Refers(target.RefersSKU) || rules.Refers(target.RefersID) ||
		slices.ContainsFunc(s.Book.Targets, func(t target.Named) bool { return t.Refers(target.RefersSKU) || t.Refers(target.RefersID) }))
	if s.CodesOnly || !refers && !rules.AsksShop() && rules.Job == "" && rules.By == "" && (shop.ID == "" || shop.Export == "") {
		return nil
	}
	key := "job"
	switch {
	case rules.OnlyChanged:
		key = "only_changed"
	case rules.Split != "":
		key = "split"
	case rules.Action.Column != "":
		key = "action"
	}
	p := &inPresent{Known: steps.Known{Job: rules.Job, Split: rules.Split != "", By: -1, New: -1, Has: -1}, rules: rules}
	if shop.Export == "" {
		if rules.AsksShop() {
			return &ruleError{key: key, error: columns.Refuse("%s needs to know what the shop has: [shop] export names a sheet that it has exported", key)}
		}
		if rules.Job == target.JobNew && shop.ID == "" && rules.Action.Column == "" {
			return &ruleError{key: key, error: columns.Refuse("job = \"new\" does nothing here: [shop] export says which products the shop has already, and [shop] id names the column that is " +
				"to be empty for new ones")}
		}
		s.present = p
		return nil
	}
	opt := present.Options{Sheet: s.exportOptions(), Known: shop.KnownBy, ID: shop.ID, Own: &s.Columns}
	var err error
	if p.Catalogue, err = present.Open(shop.Export, opt); err != nil {
		return fmt.Errorf("[shop] export: %w", err)
	}
	s.Closes(p.Catalogue)
	s.present = p
	return nil
}

// OneWay returns that of which a second run would leave nothing.
func (t *targetSection) OneWay() (list []rulebook.Problem) {
	once := func(key, text string) {
		list = append(list, rulebook.Problem{Part: "target", Problem: catalogue.Problem{Key: key, Text: text}})
	}
	if t.rules.OnlyChanged && t.ofSelf {
		once("only_changed", "only_changed, against the file itself")
	}
	if t.rules.Empties != nil {
		once("empties", "empties, which writes a word for nothing")
	}
	return list
}

// Adds returns the columns that say which product of the shop a row is, and what is to be done with it.
func (t *targetSection) Adds(s *Sheet) (names []string, err error) {
	if s.present == nil {
		return nil, nil
	}
	if s.present.Catalogue != nil && s.Book.Shop.ID != "" {
		names = append(names, s.Book.Shop.ID)
	}
	if column := t.rules.Action.Column; column != "" {
		names = append(names, column)
	}
	return names, nil
}

// orderPresent orders that the shop's own numbers and what the importer is to do are written.
func (s *Sheet) orderPresent() error {
	p := s.present
	if p == nil || s.looking {
		return nil
	}
	var err error
	p.id, p.action, p.By, p.Keys = -1, -1, -1, nil
	if found := s.Find(s.Book.Shop.ID); s.Book.Shop.ID != "" && len(found) > 0 {
		p.id = found[0]
	}
	if found := s.Find(p.rules.Action.Column); p.rules.Action.Column != "" && len(found) > 0 {
		p.action = found[0]
	}
	if p.rules.By != "" {
		if p.By, err = s.NeedOne("[target] by", p.rules.By); err != nil {
			return &ruleError{key: "by", error: err}
		}
	}
	if err := s.keysOf(p); err != nil {
		return err
	}
	if p.Catalogue != nil {
		p.Has = s.Tally.Add("products that "+p.Catalogue.Name+" has", "named", 0)
		p.New = s.Tally.Add("products that "+p.Catalogue.Name+" does not have", "named", 0)
		if !p.rules.OnlyChanged { // otherwise it is read when it is known what goes out
			if err := p.Catalogue.Read(nil); err != nil {
				return fmt.Errorf("[shop] export: %w", err)
			}
		}
	}
	if p.id < 0 && p.action < 0 {
		return nil
	}
	one := steps.Order{Key: "target", Phase: steps.PhaseBorrow, Rules: []catalogue.Rule{catalogue.RuleShop}, Do: p.do}
	for _, col := range []int{p.id, p.action} {
		if col >= 0 {
			one.Writes = append(one.Writes, col)
		}
	}
	for _, col := range p.Keys {
		if col >= 0 && !slices.Contains(one.Writes, col) {
			one.Reads = append(one.Reads, col)
		}
	}
	return s.Orders.AddCounted(one, condition.Meant{}, -1)
}

// keysOf finds the columns of the sheet by which products are known.
func (s *Sheet) keysOf(p *inPresent) error {
	some := false
	if p.Catalogue == nil {
		if p.Keys = []int{p.id}; p.id < 0 {
			p.Keys[0] = s.Columns.First(catalogue.SKU)
		}
		if p.Keys[0] < 0 && p.Job == target.JobUpdate {
			return &ruleError{key: "job", error: columns.Refuse("job = \"update\" needs a column that says which product of the shop a row is: an SKU, or the shop's own number, whose column " +
				"[shop] id names")}
		}
		if p.Keys[0] < 0 {
			p.Keys = nil
		}
		return nil
	}
	for i := range p.Catalogue.Keys {
		col := -1
		if found := s.Find(p.Catalogue.Keys[i].Name); len(found) > 0 {
			col, some = found[0], true
		}
		p.Keys = append(p.Keys, col)
	}
	if !some {
		return &ruleError{part: "shop", key: "known_by", error: columns.NotThere(&s.Columns, "[shop] known_by", p.Catalogue.Keys[0].Name)}
	}
	return nil
}

// do writes the shop's own number into a row, and what the importer is to do with it.
func (p *inPresent) do(r *steps.RowAt) bool {
	found, own := p.Find(r.Row)
	known := found.Row >= 0
	if !own && r.Lead != nil { // it is of the product above
		lead, _ := p.Find(r.Lead)
		known = lead.Product >= 0
	}
	if p.Catalogue == nil {
		known = p.Job == target.JobUpdate
	}
	wrote := false
	set := func(col int, value, source string) {
		if col >= 0 && r.Cell(col) != value {
			r.Set(col, value, catalogue.RuleShop, catalogue.Ordered, source)
			wrote = true
		}
	}
	source := ""
	if p.Catalogue != nil && found.Row >= 0 {
		source = fmt.Sprintf("%s, row %d", p.Catalogue.Name, p.Catalogue.RowNumber(found.Row))
	}
	switch {
	case p.Catalogue == nil && p.Job == target.JobNew, p.Catalogue != nil && own && !known:
		set(p.id, "", "")
	case p.Catalogue != nil && found.Row >= 0:
		set(p.id, p.Catalogue.Number(found.Row), source)
	case p.Catalogue != nil && found.Product >= 0 && r.Lead == r.Row:
		set(p.id, p.Catalogue.Number(found.Product), source)
	}
	if !r.Blank() {
		action := p.rules.Action.New
		if known {
			action = p.rules.Action.Existing
		}
		set(p.action, action, source)
	}
	return wrote
}

// stepsPresent sets products aside for which the file is not, and says into which file the others go.
func (s *Sheet) stepsPresent() {
	if s.present != nil && !s.looking {
		s.Add(StageKnown, s.present.Known.Step(&s.Sheet))
	}
}

// leaveUnchanged leaves out what is as the shop has it. That is done when it is known which columns go out.
func (s *Sheet) leaveUnchanged() (*line.Narrowing, error) {
	p := s.present
	if p == nil || p.Catalogue == nil || !p.rules.OnlyChanged {
		return nil, nil
	}
	out, err := s.OutColumns()
	if err != nil {
		return nil, err
	}
	if out == nil {
		for col, h := range s.Columns.Headings[:s.Columns.Own()] {
			out = append(out, line.OutColumn{Col: col, Heading: h})
		}
	}
	step := &steps.Unchanged{Known: &p.Known, Clears: p.rules.Blank == "clears", Word: p.rules.Empty}
	for _, o := range out {
		if s.shape.empties(o.Col) {
			step.Empties.Add(o.Col)
		}
	}
	own := catalogue.Columns{}
	at := make([]int, len(out))
	for n, o := range out {
		step.Out = append(step.Out, o.Col)
		own.Headings, own.Fields = append(own.Headings, o.Heading), append(own.Fields, s.shape.fieldOut(o.Col))
		at[n] = o.Col
	}
	for _, col := range []int{p.id, p.action} {
		if col >= 0 {
			step.Apart = append(step.Apart, s.shape.formOut(col))
		}
	}
	for _, name := range p.rules.Compare {
		field, isField := catalogue.ParseField(name)
		if !slices.ContainsFunc(out, func(o line.OutColumn) bool {
			return isField && s.shape.fieldOut(o.Col) == field || columns.Same(o.Heading, name)
		}) {
			if s.AsLeft != nil {
				continue // nothing has changed in it
			}
			return nil, &ruleError{key: "compare", error: columns.NotThere(&s.Columns, "[target] compare", name)}
		}
	}
	counts := func(n int) bool { // whether a column counts
		return len(p.rules.Compare) == 0 || slices.ContainsFunc(p.rules.Compare, func(name string) bool {
			field, isField := catalogue.ParseField(name)
			return isField && own.Fields[n] == field || columns.Same(own.Headings[n], name)
		})
	}
	sides := [2]present.Side{{Columns: &own, Sample: s.sampleOut(out)}, {Columns: &p.Catalogue.Columns, Sample: p.Catalogue.Sample}}
	form := s.Book.Form
	if s.shape.cols == nil || len(s.Only) > 0 {
		form = nil
	}
	var pairs []present.Pair
	var alone []string
	for n, other := range present.PairColumns(sides, form) {
		switch {
		case !counts(n), other < 0 && s.shape.fixed(at[n]):
			step.Apart = append(step.Apart, at[n])
		case other >= 0:
			pair := present.NewPair(sides, [2]int{n, other}, yearOf(s.Date))
			pair.Cols[present.Ours] = at[n]
			pairs = append(pairs, pair)
		case !slices.Contains(step.Apart, at[n]) && strings.TrimSpace(out[n].Heading) != "":
			alone = append(alone, out[n].Heading)
		}
	}
	if alone != nil {
		s.Note("columns that %s does not have, so that whatever stands in them counts as changed: %s", p.Catalogue.Name, strings.Join(alone, ", "))
	}
	if err := p.Catalogue.Read(pairs); err != nil {
		return nil, fmt.Errorf("[shop] export: %w", err)
	}
	s.Add(StageChanged, step.Step(&s.Sheet))
	if s.shape.cols != nil || len(s.Only) > 0 || p.Job != target.JobUpdate || s.AsLeft != nil {
		return nil, nil // what we have left has been narrowed
	}
	narrow := &line.Narrowing{Code: catalogue.RowUnchanged, Facts: catalogue.Facts{Other: p.Catalogue.Name}}
	for _, col := range slices.Concat([]int{p.id, p.action}, p.Keys, s.Columns.All(catalogue.SKU), s.Columns.All(catalogue.Slug), s.Columns.All(catalogue.ParentSKU), s.Rules.Key) {
		if col >= 0 {
			narrow.Stay.Add(col)
		}
	}
	for i, col := range p.Keys {
		if col >= 0 && !p.Catalogue.Keys[i].OfProduct() {
			narrow.Tells.Add(col)
		}
	}
	return narrow, nil
}

// sampleOut returns samples of the columns that go out, as the source has them.
func (s *Sheet) sampleOut(out []line.OutColumn) (rows [][]string) {
	from := make([]int, len(out))
	for n, o := range out {
		from[n] = o.Col
		for i := range s.shape.cols {
			if s.shape.cols[i].col == o.Col && s.shape.cols[i].from >= 0 {
				from[n] = s.shape.cols[i].from
			}
		}
	}
	for _, cells := range s.Table.Sample {
		row := make([]string, len(out))
		for n, col := range from {
			if col < len(cells) {
				row[n] = cells[col]
			}
		}
		rows = append(rows, row)
	}
	return rows
}
