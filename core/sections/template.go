package sections

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/pattern"
	"zetanum/core/quantity"
	"zetanum/core/steps"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/core/text"
)

// A formColumn is a column of the template, and what fills it.
type formColumn struct {
	n       int // in the template
	fill    target.Fill
	from    int // the column of the sheet that fills it, -1 for none
	cols    []int
	pattern *pattern.Pattern
	col     int // the column that goes out
	need    bool
	writer  *template.Writer
	reading *template.Reading
	ask     bool // nothing was said, and what fills it is only likely
}

// open reports whether nothing fills the column.
func (c *formColumn) open() bool { return c.from < 0 && c.pattern == nil && c.fill.Always == "" }

// matchForm finds out what fills the columns of the template, and puts columns behind those of the sheet for what is not there as it stands.
func (s *Sheet) matchForm() error {
	form := s.Book.Form
	list := make([]formColumn, len(form.Columns))
	said, err := s.saidFills()
	if err != nil {
		return err
	}
	inForm := s.inForm()
	var matches []template.Match
	if inForm == nil {
		matches = form.Match(template.OffersOf(&s.Columns, s.Table.Sample))
	}
	for n := range list {
		c := &list[n]
		*c = formColumn{n: n, from: -1, col: -1, need: form.Columns[n].Need == template.Required}
		fill, is := said[n]
		switch {
		case inForm != nil && inForm[n] >= 0 && fill.Always == "": // a fixed value is ordered whatever stands there
			c.from = inForm[n]
		case is:
			c.fill = fill
			if err := s.bindFill(c); err != nil {
				return err
			}
		case inForm != nil:
		case matches[n].Fixed != "":
			c.fill.Always = matches[n].Fixed
		case matches[n].Ask:
			c.ask = true
		case matches[n].From >= 0:
			c.from, c.fill.Part, c.fill.Rest = matches[n].From, matches[n].Nth, matches[n].Rest
		}
	}
	for _, name := range s.Book.Target.Required {
		found := form.Find(name)
		if found == nil {
			return &ruleError{part: "target", key: "required", error: s.noFormColumn(name)}
		}
		for _, n := range found {
			list[n].need = true
		}
	}
	if rules := s.Rules; len(rules.Keep)+len(rules.Order)+len(rules.Rename) > 0 {
		return &ruleError{part: "columns", error: columns.Refuse("keep, order and rename say which columns go out, and the template of [target] says so, too; take them out")}
	}
	if err := s.unfilled(list, matches); err != nil {
		return err
	}
	s.form = list
	used := make(map[int]bool)
	for n := range s.form {
		c := &s.form[n]
		from := ""
		if c.from >= 0 {
			from = s.Columns.Headings[c.from]
			used[c.from] = true
		}
		for _, col := range c.cols {
			used[col] = true
		}
		c.writer = form.Writer(n, from, c.fill.Part, c.fill.Rest)
		if always := c.fill.Always; always != "" && form.Columns[n].Depends == 0 {
			after, _, wrong := c.writer.Write(always, "", new(template.Reading))
			if wrong.Kind != template.Fits {
				return &ruleError{part: "target.columns", key: form.Columns[n].Name(), error: columns.Refuse("%q would be filled with %q in every row, and that %s", form.Columns[n].Name(), always, wrong.Says)}
			}
			c.fill.Always = after
		}
		if c.from >= 0 && c.pattern == nil && c.writer.Verbatim() {
			c.col = c.from
		}
	}
	s.sayForm(used)
	return nil
}

// saidFills returns what the rulebook says of the columns of the template.
func (s *Sheet) saidFills() (map[int]target.Fill, error) {
	said := make(map[int]target.Fill)
	fills := s.Book.Target.Fills()
	for _, heading := range slices.Sorted(maps.Keys(fills)) {
		found := s.Book.Form.Find(heading)
		if found == nil {
			return nil, &ruleError{part: "target.columns", key: heading, error: s.noFormColumn(heading)}
		}
		list := fills[heading]
		if len(list) > len(found) {
			return nil, &ruleError{part: "target.columns", key: heading,
				error: columns.Refuse("%d things fill %q, and the template has %d columns with that heading", len(list), heading, len(found))}
		}
		for i, n := range found {
			switch {
			case i < len(list):
				said[n] = list[i]
			case len(list) == 1 && list[0].Part > 0: // the next ones of several
				next := list[0]
				next.Part += i
				said[n] = next
			case list[0] != target.Fill{Always: list[0].Always} || len(list) > 1:
				said[n] = target.Fill{}
			default:
				said[n] = list[0] // the same in all
			}
		}
	}
	return said, nil
}

// noFormColumn says that the template has no column of that name.
func (s *Sheet) noFormColumn(name string) error {
	names := s.Book.Form.Names()
	return columns.Refuse("the template has no column %q%s; it has: %s", name, text.DidYouMean(name, names), strings.Join(names, ", "))
}

// inForm returns where the columns of the template stand in the file, -1 for those that do not, if the file is in its form: nil if it is not.
func (s *Sheet) inForm() []int {
	if !s.Table.InForm {
		return nil
	}
	at := make([]int, len(s.Book.Form.Columns))
	next := 0
	for n := range at {
		at[n] = -1
		for col := next; col < s.Columns.Own(); col++ {
			if strings.TrimSpace(s.Columns.Headings[col]) == strings.TrimSpace(s.Book.Form.Columns[n].Heading) {
				at[n], next = col, col+1
				break
			}
		}
	}
	return at
}

// bindFill finds the columns that fill a column of the template.
func (s *Sheet) bindFill(c *formColumn) error {
	heading := s.Book.Form.Columns[c.n].Name()
	at := func(err error) error { return &ruleError{part: "target.columns", key: heading, error: err} }
	switch {
	case c.fill.From == "":
		return nil
	case c.fill.IsPattern():
		p, cols, _, err := s.patternOf("[target.columns]", heading, c.fill.From, heading, -1, s.Book.Form.KindOf(c.n) == catalogue.HTMLKind)
		if err != nil {
			return at(err)
		}
		c.pattern, c.cols = p, cols
		return nil
	}
	found := s.Find(c.fill.From)
	if len(found) == 0 {
		if cols := s.Columns.Headings; !slices.ContainsFunc(cols, func(h string) bool { return columns.Same(h, c.fill.From) }) {
			return at(fmt.Errorf("%w; a fixed value is written { always = %q }", s.notThere(fmt.Sprintf("%q is filled from %q", heading, c.fill.From), c.fill.From), c.fill.From))
		}
		return nil
	}
	c.from = found[0]
	return nil
}

// unfilled returns an error about columns that must be filled, and that nothing fills.
func (s *Sheet) unfilled(list []formColumn, matches []template.Match) error {
	var names []string
	form := s.Book.Form
	for n := range list {
		if c := &list[n]; !c.need || !c.open() {
			continue
		}
		name := fmt.Sprintf("%q", form.Columns[n].Name())
		if matches != nil {
			m := matches[n]
			var perhaps []string
			for _, i := range []int{m.From, m.Next} {
				if i < 0 {
					continue
				}
				example := ""
				for _, cell := range s.sample(i) {
					if cell = strings.TrimSpace(cell); cell != "" {
						example = " (" + catalogue.Shorten(cell, 30) + ")"
						break
					}
				}
				perhaps = append(perhaps, fmt.Sprintf("%q%s", s.Columns.Headings[i], example))
			}
			if perhaps != nil {
				name += ", perhaps from " + strings.Join(perhaps, " or ")
			} else if says := form.Says(n); says != "" {
				name += ", " + says
			}
		}
		names = append(names, name)
	}
	if names == nil {
		return nil
	}
	return &ruleError{part: "target", key: "template", error: columns.Refuse("what the template demands is filled by nothing: %s. Say under [target.columns] what fills it: a column "+
		`of the file, or { always = "…" }; begin -template proposes that section`, strings.Join(names, "; "))}
}

// sayForm says what goes nowhere, and what stays empty.
func (s *Sheet) sayForm(used map[int]bool) {
	var gone, blank []string
	for col, h := range s.Columns.Headings {
		if !used[col] && !slices.Contains(s.Plan.Gone, col) {
			s.Plan.Gone = append(s.Plan.Gone, col)
			gone = append(gone, cmp.Or(h, "(no heading)"))
		}
	}
	if gone != nil {
		s.Note("columns for which the template has no place: %s", strings.Join(gone, ", "))
	}
	for n := range s.form {
		if s.form[n].ask {
			blank = append(blank, s.Book.Form.Columns[n].Name())
		}
	}
	if blank != nil {
		s.Note("columns of the template that stay empty, because it is not sure what fills them; [target.columns] says it: %s", strings.Join(blank, ", "))
	}
}

// placeForm puts columns behind those of the sheet for what it does not have as the template wants it, and says which go out. That is done when
// the steps are known that work on columns of the sheet.
func (s *Sheet) placeForm() {
	form, base := s.Book.Form, &s.Columns
	s.Plan.Out = nil
	for n := range s.form {
		c := &s.form[n]
		if c.col < 0 {
			c.col = len(base.Headings)
			base.Headings, base.Fields = append(base.Headings, form.Columns[n].Heading), append(base.Fields, catalogue.Unknown)
			base.Added++
			base.Declare(c.col, catalogue.Declared{Name: form.Columns[n].Name(), Kind: form.KindOf(n)})
		}
		s.Plan.Out = append(s.Plan.Out, columns.Out{Col: c.col, Heading: form.Columns[n].Heading})
	}
}

// orderForm orders that the columns of the template are filled, when all else is done.
func (s *Sheet) orderForm() error {
	s.placeForm()
	order := make([]*formColumn, len(s.form))
	for n := range s.form {
		order[n] = &s.form[n]
	}
	depends := func(c *formColumn) int { return min(s.Book.Form.Columns[c.n].Depends, 1) }
	slices.SortStableFunc(order, func(a, b *formColumn) int { return depends(a) - depends(b) })
	for _, c := range order {
		one := steps.Order{Key: "target", Phase: steps.PhaseTarget, Writes: []int{c.col}, Rules: []catalogue.Rule{catalogue.RuleTemplate, catalogue.RuleStandIn}, Rests: true,
			Do: func(r *steps.RowAt) bool { s.fillForm(c, r); return false }}
		switch {
		case c.pattern != nil:
			one.Reads = c.cols
		case c.from >= 0:
			one.Reads = []int{c.from}
		}
		if at := s.Book.Form.Columns[c.n].Depends; at > 0 {
			one.Asks = []int{s.form[at-1].col}
		}
		if one.Looks = c.col == c.from; one.Looks {
			one.Writes, one.Rules = nil, nil
		}
		if err := s.Orders.AddLast(one); err != nil {
			return err
		}
	}
	s.Add(StageTemplate, s.Orders.Last())
	return nil
}

// readForms lets the survey see how the columns are written that fill the template.
func (s *Sheet) readForms() {
	for n := range s.form {
		c := &s.form[n]
		if c.reading = new(template.Reading); c.from >= 0 && c.col < 0 {
			s.readForm(c)
		}
	}
}

// readForm lets the survey see how the column is written that fills one of the template.
func (s *Sheet) readForm(c *formColumn) {
	col := c.from
	settle := func() {
		if form, written := s.Forms[col]; written {
			c.reading.Numbers = form
		}
		if form, written := s.Dates[col]; written {
			c.reading.Dates = form
		}
	}
	var ok bool
	if c.reading.Several, ok = s.tagMark(col); !ok {
		c.reading.Several = template.Several(s.sample(col))
	}
	if c.reading.Dates = (quantity.DateForm{Year: yearOf(s.Date)}); col >= s.Columns.Own() {
		settle()
		return
	}
	what := seeMarks | seeAnswers | seeOrders
	s.Orders.Learn(steps.Learner{Cols: []int{col}, New: func() steps.Learned { return &quantitySeen{col: col, what: what} }, Judge: func(l steps.Learned) error {
		seen := l.(*quantitySeen)
		c.reading.Numbers, c.reading.Answers, c.reading.Dates = seen.marks.Form(), seen.answer, seen.orders.Form(yearOf(s.Date))
		settle()
		return nil
	}})
}

// fillForm fills a column of the template in a row, and looks whether it takes that.
func (s *Sheet) fillForm(c *formColumn, r *steps.RowAt) {
	form := &s.Book.Form.Columns[c.n]
	image := r.Product.Role(r.Index)&catalogue.ImageRow != 0
	source, after := "", ""
	var left int
	var wrong template.Misfit
	switch {
	case c.fill.Always != "":
		if !image {
			after, source = c.fill.Always, c.fill.Always
		}
	case c.pattern != nil:
		if !image {
			source, _ = c.pattern.Text(r.View())
		}
	case c.from >= 0:
		if source = r.Cell(c.from); source == "" && c.need && !image {
			source = r.View().Cell(c.from)
		}
	}
	if source != "" && c.fill.Always == "" {
		parent := ""
		if form.Depends > 0 {
			parent = r.Cell(s.form[form.Depends-1].col)
		}
		if after, left, wrong = c.writer.Write(source, parent, c.reading); c.col == c.from {
			after = source
		}
	}
	if wrong.Kind == template.Unlisted {
		after = s.unlistedForm(c, r, after, &wrong)
	}
	cell := after
	if !c.need && (wrong.Kind == template.Unlisted || wrong.Kind == template.Unfit) {
		after = ""
	}
	if c.col != c.from {
		r.Put(c.col, after, source, catalogue.RuleTemplate)
		if fitter := s.Texts.Fitter; fitter != nil && !fitter.Has(after) {
			fit(r, c.col, after, s.Columns.Kind(c.col), fitter)
		}
	}
	facts := catalogue.Facts{Other: wrong.Says, Proposed: wrong.Proposed}
	switch {
	case wrong.Kind != template.Fits && c.from >= 0 && r.Log.Holds(r.Row, c.from): // which says it better
	case wrong.Kind != template.Fits && wrong.Kind != template.TooLong && !c.need:
		s.Orders.Unknown(r, catalogue.TargetLeftEmpty, c.col, cell, facts)
	case wrong.Kind == template.Unlisted:
		s.Orders.Unknown(r, catalogue.TargetUnlisted, c.col, cell, facts)
	case wrong.Kind != template.Fits:
		r.Find(catalogue.TargetUnfit, c.col, cell, facts)
	case strings.TrimSpace(after) == "" && c.need && !image:
		r.Find(catalogue.TargetRequired, c.col, "", catalogue.Facts{Other: form.Name()})
	case left > 0 && !s.takenFurther(c):
		r.Find(catalogue.TargetNoRoom, c.col, source, catalogue.Facts{Digits: left})
	}
}

// takenFurther reports whether other columns take further values of the cells that fill one.
func (s *Sheet) takenFurther(c *formColumn) bool {
	return slices.ContainsFunc(s.form, func(other formColumn) bool { return other.n != c.n && other.from == c.from })
}

// unlistedForm returns what somebody has said that goes out for a value that the list of the template does not have.
func (s *Sheet) unlistedForm(c *formColumn, r *steps.RowAt, cell string, wrong *template.Misfit) string {
	code := catalogue.TargetUnlisted
	if !c.need {
		code = catalogue.TargetLeftEmpty
	}
	said := s.Decisions.In(s.Columns.Headings[c.col]).On(code)
	if len(said) == 0 {
		return cell
	}
	decision, taken := said.For(code, "", r.Cell(s.Columns.First(catalogue.SKU)), cell)
	value := cmp.Or(decision.Value, wrong.Proposed)
	if !taken || value == "" {
		return cell
	}
	parent := ""
	if at := s.Book.Form.Columns[c.n].Depends; at > 0 {
		parent = r.Cell(s.form[at-1].col)
	}
	if after, _, still := c.writer.Write(value, parent, c.reading); still.Kind == template.Fits {
		*wrong = still
		return after
	}
	return cell
}

// FormFilled returns which columns of the template something fills; nil if there is none.
func (s *Sheet) FormFilled() (list []bool) {
	for n := range s.form {
		list = append(list, !s.form[n].open())
	}
	return list
}

// fieldOut returns what a column means that goes out: of one of the template, what fills it.
func (s *Sheet) fieldOut(col int) catalogue.Field {
	for n := range s.form {
		if c := &s.form[n]; c.col == col && c.from >= 0 {
			return s.Columns.Fields[c.from]
		}
	}
	return s.Columns.Fields[col]
}

// formOut returns the column of the template that a column of the sheet fills whole; the same column if there is none.
func (s *Sheet) formOut(col int) int {
	for n := range s.form {
		if c := &s.form[n]; c.from == col && c.fill.Part == 0 {
			return c.col
		}
	}
	return col
}
