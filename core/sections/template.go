package sections

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/pattern"
	"zetanum/core/quantity"
	"zetanum/core/reference"
	"zetanum/core/sheet"
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
	ask     bool              // nothing was said, and what fills it is only likely
	others  map[uint64]bool   // the SKUs of the file, where it refers to other products
	words   map[string]string // what the target calls our values, by these, folded
	grouped bool              // it belongs together with others
}

// A shape is that of a file that goes out: how it is written, its columns in their order and under their headings, what fills them, what stands
// above them, and what it may have at most. The rulebook says it, and the template that it names.
type shape struct {
	*Sheet
	name   string // of the target; "" for what is ready
	n      int    // which of [[targets]] it is, from 1; 0 for [target]
	rules  *target.Rules
	form   *template.Template   // nil if there is none
	cols   []formColumn         // of the template; nil if there is none
	out    []line.OutColumn     // what goes out; nil: all columns as they are
	groups []formGroup          // columns of the template that belong together
	lists  *formColumn          // that with the list of categories, where each product goes to the template that lists its own
	where  *condition.Condition // which products go there; nil: all
	fitter *target.Fitter       // to its encoding; nil if that has every character
}

// newShape returns the shape of what a target takes.
func (s *Sheet) newShape(name string, n int, rules *target.Rules, form *template.Template) *shape {
	return &shape{Sheet: s, name: name, n: n, rules: rules, form: form, fitter: target.NewFitter(rules)}
}

// wrong says that something of the target cannot be carried out.
func (s *shape) wrong(part, key string, err error) error {
	if s.n > 0 {
		return &ruleError{part: "targets", n: s.n, key: key, error: fmt.Errorf("%s: %w", s.name, err)}
	}
	return &ruleError{part: part, key: key, error: err}
}

// section returns the name of the table of the rulebook that says what fills the columns.
func (s *shape) section() string {
	if s.n > 0 {
		return "[targets.columns]"
	}
	return "[target.columns]"
}

// note takes down something about the columns of the target.
func (s *shape) note(format string, args ...any) {
	if s.name != "" {
		format, args = "%s: "+format, slices.Concat([]any{s.name}, args)
	}
	s.Note(format, args...)
}

// open reports whether nothing fills the column.
func (c *formColumn) open() bool { return c.from < 0 && c.pattern == nil && c.fill.Always == "" }

// inWords returns what the target calls a value.
func (c *formColumn) inWords(value string) string {
	if c.words != nil && value != "" {
		if word, ok := c.words[lists.Fold(value)]; ok {
			return word
		}
	}
	return value
}

// matchForm finds out what fills the columns of the template, and puts columns behind those of the sheet for what is not there as it stands.
func (s *shape) matchForm() error {
	form := s.form
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
	for _, name := range s.rules.Required {
		found := form.Find(name)
		if found == nil {
			return s.wrong("target", "required", s.noFormColumn(name))
		}
		for _, n := range found {
			list[n].need = true
		}
	}
	if rules := s.Sheet.Rules; s.n == 0 && len(rules.Keep)+len(rules.Order)+len(rules.Rename) > 0 {
		return &ruleError{part: "columns", error: columns.Refuse("keep, order and rename say which columns go out, and the template of [target] says so, too; take them out")}
	}
	if err := s.unfilled(list, matches); err != nil {
		return err
	}
	s.cols = list
	if err := s.bindGroups(); err != nil {
		return err
	}
	used := make(map[int]bool)
	for n := range s.cols {
		c := &s.cols[n]
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
				return s.wrong("target.columns", form.Columns[n].Name(), columns.Refuse("%q would be filled with %q in every row, and that %s", form.Columns[n].Name(), always, wrong.Says))
			}
			c.fill.Always = after
		}
		if c.from >= 0 && !c.need && !c.grouped && s.rules.Empties == nil && c.pattern == nil && c.words == nil && c.fill.Refers == "" && c.writer.Verbatim() && (s.n == 0 || s.fitter == nil) {
			c.col = c.from
		}
	}
	s.sayForm(used)
	s.tellFields()
	return nil
}

// tellFields takes down what fills columns of the template whose headings do not say it, so that the rules are followed in an output of ours, too.
func (s *shape) tellFields() {
	if s.n > 0 {
		return
	}
	for n := range s.cols {
		c, h := &s.cols[n], s.form.Columns[n].Heading
		if c.from < 0 || c.fill.Part > 0 {
			continue
		}
		if field := s.Columns.Fields[c.from]; field != catalogue.Unknown && heading.Field(h) != field {
			if s.Told.Fields == nil {
				s.Told.Fields = make(map[string]string)
			}
			s.Told.Fields[h] = field.String()
		}
	}
}

// saidFills returns what the rulebook says of the columns of the template.
func (s *shape) saidFills() (map[int]target.Fill, error) {
	said := make(map[int]target.Fill)
	for _, name := range s.rules.Besides {
		if s.inForm() == nil && len(s.Find(name)) == 0 {
			return nil, s.wrong("target", "besides", columns.NotThere(&s.Columns, "[target] besides", name))
		}
		for _, n := range s.form.Find(name) {
			said[n] = target.Fill{From: name}
		}
	}
	fills := s.rules.Fills()
	for _, heading := range slices.Sorted(maps.Keys(fills)) {
		found := s.form.Find(heading)
		if found == nil {
			return nil, s.wrong("target.columns", heading, s.noFormColumn(heading))
		}
		list := fills[heading]
		if len(list) > len(found) {
			return nil, s.wrong("target.columns", heading,
				columns.Refuse("%d things fill %q, and the template has %d columns with that heading", len(list), heading, len(found)))
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
func (s *shape) noFormColumn(name string) error {
	names := s.form.Names()
	return columns.Refuse("the template has no column %q%s; it has: %s", name, text.DidYouMean(name, names), strings.Join(names, ", "))
}

// inForm returns where the columns of the template stand in the file, -1 for those that do not, if the file is in its form: nil if it is not.
func (s *shape) inForm() []int {
	if !s.Table.InForm || s.n > 0 {
		return nil
	}
	at := make([]int, len(s.form.Columns))
	next := 0
	for n := range at {
		at[n] = -1
		for col := next; col < s.Columns.Own(); col++ {
			if strings.TrimSpace(s.Columns.Headings[col]) == strings.TrimSpace(s.form.Columns[n].Heading) {
				at[n], next = col, col+1
				break
			}
		}
	}
	return at
}

// bindFill finds the columns that fill a column of the template.
func (s *shape) bindFill(c *formColumn) error {
	heading := s.form.Columns[c.n].Name()
	at := func(err error) error { return s.wrong("target.columns", heading, err) }
	if err := s.bindWords(c); err != nil {
		return at(err)
	}
	switch {
	case c.fill.From == "":
		return nil
	case c.fill.IsPattern():
		p, cols, _, err := s.patternOf(s.section(), heading, c.fill.From, heading, -1, s.form.KindOf(c.n) == catalogue.HTMLKind)
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

// bindWords reads what the target calls our values.
func (s *shape) bindWords(c *formColumn) error {
	if c.fill.Words == nil {
		return nil
	}
	c.words = make(map[string]string)
	for ours, theirs := range c.fill.Words.Said {
		c.words[lists.Fold(ours)] = theirs
	}
	if file := c.fill.Words.File; file != "" {
		pairs, err := reference.ReadPairs(file, sheet.Options{Spool: s.Temp})
		if err != nil {
			return fmt.Errorf("words: %w", err)
		}
		for _, p := range pairs {
			key := lists.Fold(p.Key)
			if other, twice := c.words[key]; twice && other != p.Value {
				return columns.Refuse("%s, row %d: %q is %q there, and %q further up", file, p.Row, p.Key, p.Value, other)
			}
			c.words[key] = p.Value
		}
	}
	return nil
}

// own returns the columns of the source that fill those of the template.
func (s *shape) own() (cols []int) {
	for n := range s.cols {
		if from := s.cols[n].from; from >= 0 && from < s.Columns.Own() && !slices.Contains(cols, from) {
			cols = append(cols, from)
		}
	}
	return cols
}

// filledElse are fields that steps fill where nothing stands.
var filledElse = []catalogue.Field{catalogue.SKU, catalogue.ParentSKU, catalogue.Barcode, catalogue.Slug, catalogue.Brand, catalogue.Category, catalogue.Type, catalogue.Tags,
	catalogue.Description, catalogue.ShortDescription, catalogue.Images, catalogue.ImageAlt, catalogue.ImageOrder}

// mayFill reports whether something may be put into a column of the source in which nothing stands.
func (s *shape) mayFill(col int) bool {
	return s.Sheet.Sheet.Returned != nil || s.Orders.WrittenBy(col) != "" || slices.Contains(filledElse, s.Columns.Fields[col])
}

// ErrUnfilled begins errors about columns that a template demands, and that nothing fills.
var ErrUnfilled = errors.New("what the template demands is filled by")

// unfillable returns an error about columns that must be filled, and that no row fills: they are filled by columns in which nothing stands.
func (s *shape) unfillable() error {
	own := s.own()
	if s.Book.spread || s.inForm() != nil || !slices.ContainsFunc(own, s.Filled.Has) { // of several templates not each gets products
		return nil
	}
	var names []string
	for n := range s.cols {
		c := &s.cols[n]
		if !c.need || c.pattern != nil || !slices.Contains(own, c.from) || s.Filled.Has(c.from) || s.mayFill(c.from) {
			continue
		}
		names = append(names, fmt.Sprintf("%q from %q", s.form.Columns[n].Name(), s.Columns.Headings[c.from]))
	}
	if names == nil {
		return nil
	}
	return s.wrong("target", "template", columns.Refuse("%w columns in which nothing stands: %s. Say under %s what else fills it: another "+
		`column of the file, or { always = "…" }`, ErrUnfilled, strings.Join(names, "; "), s.section()))
}

// unfilled returns an error about columns that must be filled, and that nothing fills.
func (s *shape) unfilled(list []formColumn, matches []template.Match) error {
	var names []string
	form := s.form
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
	return s.wrong("target", "template", columns.Refuse("%w nothing: %s. Say under %s what fills it: a column "+
		`of the file, or { always = "…" }; begin -template proposes that section`, ErrUnfilled, strings.Join(names, "; "), s.section()))
}

// sayForm says what goes nowhere, and what stays empty.
func (s *shape) sayForm(used map[int]bool) {
	var gone, blank []string
	for col, h := range s.Columns.Headings {
		if !used[col] && !slices.Contains(s.Plan.Gone, col) {
			if s.n == 0 {
				s.Plan.Gone = append(s.Plan.Gone, col)
			}
			gone = append(gone, cmp.Or(h, "(no heading)"))
		}
	}
	if gone != nil {
		s.note("columns for which the template has no place: %s", strings.Join(gone, ", "))
	}
	for n := range s.cols {
		if s.cols[n].ask {
			blank = append(blank, s.form.Columns[n].Name())
		}
	}
	if blank != nil {
		s.note("columns of the template that stay empty, because it is not sure what fills them; %s says it: %s", s.section(), strings.Join(blank, ", "))
	}
}

// placeForm puts columns behind those of the sheet for what it does not have as the template wants it, and says which go out. That is done when
// the steps are known that work on columns of the sheet.
func (s *shape) placeForm() {
	form, base := s.form, &s.Columns
	s.out = nil
	for n := range s.cols {
		c := &s.cols[n]
		if c.col < 0 {
			c.col = len(base.Headings)
			base.Headings, base.Fields = append(base.Headings, form.Columns[n].Heading), append(base.Fields, catalogue.Unknown)
			base.Added++
			base.Declare(c.col, catalogue.Declared{Name: form.Columns[n].Name(), Kind: form.KindOf(n)})
		}
		s.out = append(s.out, line.OutColumn{Col: c.col, Heading: form.Columns[n].Heading})
	}
}

// orderForm orders that the columns of the template are filled, when all else is done.
func (s *shape) orderForm() error {
	s.placeForm()
	order := make([]*formColumn, len(s.cols))
	for n := range s.cols {
		order[n] = &s.cols[n]
	}
	depends := func(c *formColumn) int { return min(s.form.Columns[c.n].Depends, 1) }
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
		if at := s.form.Columns[c.n].Depends; at > 0 {
			one.Asks = []int{s.cols[at-1].col}
		}
		if one.Looks = c.col == c.from; one.Looks {
			one.Writes, one.Rules = nil, nil
		}
		if err := s.Orders.AddLast(s.n, one); err != nil {
			return err
		}
	}
	if err := s.orderGroups(); err != nil {
		return err
	}
	if err := s.orderEmpties(); err != nil {
		return err
	}
	var must []*formColumn
	one := steps.Order{Key: "target", Phase: steps.PhaseTarget, Looks: true, Do: func(r *steps.RowAt) bool { s.placeImage(must, r); return false }}
	for n := range s.cols {
		if c := &s.cols[n]; c.need {
			must, one.Reads = append(must, c), append(one.Reads, c.col)
		}
	}
	if must == nil {
		return nil
	}
	return s.Orders.AddLast(s.n, one)
}

// placeImage sets a row aside that has nothing but a further image, where the template demands more of each row.
func (s *shape) placeImage(must []*formColumn, r *steps.RowAt) {
	if r.Product.Role(r.Index)&catalogue.ImageRow == 0 {
		return
	}
	for _, c := range must {
		if strings.TrimSpace(r.Cell(c.col)) == "" {
			r.Log.Aside(r.Index, catalogue.RowNoPlace, catalogue.Facts{Other: s.form.Columns[c.n].Name()})
			return
		}
	}
}

// fixed reports whether a column that goes out has the same in every row.
func (s *shape) fixed(col int) bool {
	return slices.ContainsFunc(s.cols, func(c formColumn) bool { return c.col == col && c.fill.Always != "" })
}

// most returns how many characters the columns of the template take that a column of the sheet fills whole; 0 if they do not say it.
func (s *shape) most(col int) (most int) {
	for n := range s.cols {
		c := &s.cols[n]
		if length := s.form.Columns[n].MostLength; c.from == col && c.fill.Part == 0 && length > 0 && (most == 0 || length < most) {
			most = length
		}
	}
	return most
}

// findSamples is the step that looks for samples of the form in a file that is in the form: rows whose codes or names say that they are some.
func (s *shape) findSamples() line.Step {
	var cols []int
	for n := range s.cols {
		c := &s.cols[n]
		if field := s.fieldOut(c.col); c.col >= 0 && (field == catalogue.SKU || field == catalogue.Title || s.form.KindOf(n) == catalogue.CodeKind && field == catalogue.Unknown) {
			cols = append(cols, c.col)
		}
	}
	return line.Step{Name: steps.NameSamples, Reads: catalogue.ColumnsOf(cols...), New: steps.Always(func(p *catalogue.Product, log *line.Log) {
		for i, row := range p.Rows {
			if log.IsAside(i) {
				continue
			}
			for _, col := range cols {
				if cell := row.Cell(col); template.IsSample(cell) {
					log.Notice(catalogue.TargetSample, row, col, cell, catalogue.Facts{})
					break
				}
			}
		}
	})}
}

// readForms lets the survey see how the columns are written that fill the template.
func (s *shape) readForms() error {
	for n := range s.cols {
		c := &s.cols[n]
		if err := s.findOthers(c); err != nil {
			return err
		}
		if c.reading = new(template.Reading); c.from >= 0 && c.col < 0 {
			s.readForm(c)
		}
	}
	if cols := s.own(); cols != nil {
		s.Add(StageTemplate, steps.LearnFilled(cols))
	}
	return nil
}

// readForm lets the survey see how the column is written that fills one of the template.
func (s *shape) readForm(c *formColumn) {
	col := c.from
	var ok bool
	if c.reading.Several, ok = s.tagMark(col); !ok {
		c.reading.Several = template.Several(s.sample(col))
	}
	if c.reading.Dates = (quantity.DateForm{Year: yearOf(s.Date)}); col >= s.Columns.Own() {
		return
	}
	what := seeMarks | seeAnswers | seeOrders
	s.Orders.Learn(steps.Learner{Cols: []int{col}, New: func() steps.Learned { return &quantitySeen{col: col, what: what} }, Judge: func(l steps.Learned) error {
		seen := l.(*quantitySeen)
		c.reading.Numbers, c.reading.Answers, c.reading.Dates = seen.marks.Form(), seen.answer, seen.orders.Form(yearOf(s.Date))
		return nil
	}})
}

// last returns the step that fills the columns of the template. How rules have written what fills them is known when the sheet has been seen.
func (s *shape) last() line.Step {
	step := s.Orders.Last(s.n)
	fill := step.New
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		for n := range s.cols {
			c := &s.cols[n]
			if form, written := s.Forms[c.from]; written {
				c.reading.Numbers = form
			}
			if form, written := s.Dates[c.from]; written {
				c.reading.Dates = form
			}
		}
		return fill(learned)
	}
	return step
}

// fillForm fills a column of the template in a row, and looks whether it takes that.
func (s *shape) fillForm(c *formColumn, r *steps.RowAt) {
	form := &s.form.Columns[c.n]
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
	said := c.inWords(source)
	var missing []string
	if c.fill.Refers != "" && source != "" {
		said, missing = s.refer(c, said)
	}
	if said != "" && c.fill.Always == "" {
		parent := ""
		if form.Depends > 0 {
			parent = r.Cell(s.cols[form.Depends-1].col)
		}
		if after, left, wrong = c.writer.Write(said, parent, c.reading); c.col == c.from {
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
		if s.fitter != nil && !s.fitter.Has(after) {
			fit(r, c.col, after, s.Columns.Kind(c.col), s.fitter)
		}
	}
	facts := catalogue.Facts{Other: wrong.Says, Proposed: wrong.Proposed}
	switch {
	case missing != nil:
		s.Orders.Unknown(r, catalogue.TargetReference, c.col, source, catalogue.Facts{Other: strings.Join(missing, ", ")})
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
func (s *shape) takenFurther(c *formColumn) bool {
	return slices.ContainsFunc(s.cols, func(other formColumn) bool { return other.n != c.n && other.from == c.from })
}

// unlistedForm returns what somebody has said that goes out for a value that the list of the template does not have.
func (s *shape) unlistedForm(c *formColumn, r *steps.RowAt, cell string, wrong *template.Misfit) string {
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
	if at := s.form.Columns[c.n].Depends; at > 0 {
		parent = r.Cell(s.cols[at-1].col)
	}
	if after, _, still := c.writer.Write(value, parent, c.reading); still.Kind == template.Fits {
		*wrong = still
		return after
	}
	return cell
}

// FormFilled returns which columns of the template something fills, of that of a target by its number, 0 for [target]; nil if there is none.
func (s *Sheet) FormFilled(n int) (list []bool) {
	of := s.shape
	if n > 0 {
		of = s.targets[slices.IndexFunc(s.targets, func(t *shape) bool { return t.n == n })]
	}
	for i := range of.cols {
		list = append(list, !of.cols[i].open())
	}
	return list
}

// fieldOut returns what a column means that goes out: of one of the template, what fills it.
func (s *shape) fieldOut(col int) catalogue.Field {
	for n := range s.cols {
		if c := &s.cols[n]; c.col == col && c.from >= 0 {
			return s.Columns.Fields[c.from]
		}
	}
	return s.Columns.Fields[col]
}

// formOut returns the column of the template that a column of the sheet fills whole; the same column if there is none.
func (s *shape) formOut(col int) int {
	for n := range s.cols {
		if c := &s.cols[n]; c.from == col && c.fill.Part == 0 {
			return c.col
		}
	}
	return col
}
