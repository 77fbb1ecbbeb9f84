package sections

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/folder"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/markup"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/returned"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/target"
	"zetanum/core/text"
)

// ErrOnly says that a name given with Only is neither a field nor a heading of
// the sheet.
var ErrOnly = errors.New("no such column")

// Settings say, besides the rulebook, how a table is fitted.
type Settings struct {
	Input   string              // the file, to see whether a rule names it
	Temp    string              // a folder for what is needed for a while
	Into    string              // the folder of the run, while it is in the making; "" if none appears
	Said    catalogue.Decisions // what a person has said besides the rulebook; the columns that it names must be there
	Only    []string            // fields or headings to write, besides the SKU; none: all
	Plain   bool                // with Only: without the SKU
	Trusted reference.Sheets    // sheets that are trusted for codes
	Backed  map[reference.TextPlace]steps.BackedText
	// Returned are rows that people have mended in tables that came back.
	Returned *returned.Rows
	// Date is that of the run, as YYYY-MM-DD.
	Date string
	// ReplaceCodes says once more that codes are replaced which are in use.
	ReplaceCodes bool
	// CodesOnly makes codes and writes nothing else.
	CodesOnly bool
	// Register remembers codes that have been issued; nil if nothing does.
	Register steps.Register
	// Memory remembers the barcodes of earlier files; nil if nothing does.
	Memory steps.Memory
	// AsLeft is what was told of the source, if the file is an output of ours as it was left; nil otherwise.
	AsLeft *Told
	// Opened is what links to images have led to; nil if they have not been opened.
	Opened *steps.Opened
	// Ours are headings of columns that a repair has written for people; they do not go out.
	Ours []string
}

// Told is what a file says of its words by itself. Rows that are held do not go out, so that an output may say something else.
type Told struct {
	Languages map[string]string `json:"languages,omitempty"` // of texts, by field or heading
	Brands    []string          `json:"brands,omitempty"`    // that keep their writing in titles
	Loud      []string          `json:"loud,omitempty"`      // columns of which most titles shout
	Between   map[string]string `json:"between,omitempty"`   // what has been written between values, by field
	// Written is in which unit measures are written, and in which form dates, by field.
	Written map[string]string `json:"written,omitempty"`
	// Exchanged are the pairs of columns of which somebody has said that their cells are exchanged where they look swapped, by their fields.
	Exchanged []string `json:"exchanged,omitempty"`
	// Fields are what fills columns of a template whose headings do not say it.
	Fields map[string]string `json:"fields,omitempty"`
	// Markup is what columns of descriptions have shown, by field.
	Markup map[string]markup.Shown `json:"markup,omitempty"`
}

// wrote reports whether a column of an output of ours is written with a mark between its values, as it is to be, and takes that down.
func (s *Sheet) wrote(col int, mark text.List) bool {
	name := s.Columns.Name(col)
	if s.Told.Between == nil {
		s.Told.Between = make(map[string]string)
	}
	s.Told.Between[name] = string(mark)
	return s.AsLeft != nil && s.AsLeft.Between[name] == string(mark)
}

// A Sheet is a table with the rulebook that is fitted to it, and all that its sections
// share.
type Sheet struct {
	steps.Sheet
	Settings
	Book *Book

	// Plan says which columns go out and what fills them.
	Plan   *columns.Plan
	Orders *steps.Orders
	Fields map[string]steps.Field // what the rulebook says of fields, with their lists
	Loans  []*Loan                // what is borrowed from other sheets
	Notes  []string               // about rules that found nothing to do
	// Phrases stand in many descriptions, once the survey has seen them.
	Phrases []Phrase

	// Told is what the file says of its words, and Attributes how full columns are that say properties of products.
	Told       Told
	Attributes []*Attribute

	// Allotments are those of codes that are made; SettlesTwice says that others are made of them.
	Allotments   []line.Allotment
	SettlesTwice bool

	// Filled are the columns of images that have anything in them, once the survey has seen them.
	Filled catalogue.ColumnSet
	// Prepared makes copies of photos; nil if none are ordered.
	Prepared *steps.Preparing

	shape   *shape                  // of what is ready
	targets []*shape                // of what goes to further targets
	looking bool                    // nothing goes out
	present *inPresent              // which product of the shop each row is; nil if nobody asks
	inShop  *inShop                 // what the shop has; nil if nothing says so
	asked   map[int]*askedColumn    // columns of which the survey sees how they are written
	amounts map[int]*quantityColumn // columns whose numbers are written
	margins int                     // the list of what is left above costs, -1 if there is none
	spoken  map[string][]lists.Pair // words that stand for numbers, by field
	settled map[int]bool            // columns whose spellings a section of their own sees to
	brands  []lists.Pair            // of the file or of its list, by their spellings, when it has been read
	levels  map[int]*levelReader    // of categories that are put in order
	built   map[int][]builtBy       // columns that are built
	texts   map[int]*textColumn     // in which words are changed
	tags    map[int]*tagsColumn     // that are put in order
	shown   map[int]*markup.Shown   // what columns of descriptions are
	marked  map[int]bool            // those of which it is ordered how they are written
	// picturesMoved says that descriptions may put pictures behind the images of products.
	picturesMoved bool
	needed        *needed // nil if what has to be there before the import is not listed
	closes        []io.Closer
	sections      []Section
	early         []string // notes of when the sections were opened
	placed        [numStages][]line.Step
	differ        int // the list of what rows of a product say differently
}

// Open fits a table to a rulebook as far as that can be done once, and reads the files that
// it names. The sheet must be closed.
func Open(table *sheet.Table, book *Book, set Settings) (*Sheet, error) {
	read, err := book.WithLists(func(file string) ([]string, error) {
		return reference.ReadValues(file, "", sheet.Options{Spool: set.Temp})
	})
	if err != nil {
		return nil, fmt.Errorf("%s in a condition: %w", condition.Listed, err)
	}
	if set.CodesOnly {
		read = read.codesOnly()
	}
	s := &Sheet{Settings: set, Book: &read, sections: read.Sections()}
	s.Sheet = steps.Sheet{Table: table, Rules: &read.Columns, Decisions: append(read.Answers.Decisions(), set.Said...), Returned: set.Returned, Together: -1}
	read.Columns.Meant = catalogue.ParseFields(read.Headings)
	err = s.each(Section.Open)
	s.early, s.Notes = s.Notes, nil
	if err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// Close lets go what was opened.
func (s *Sheet) Close() {
	for _, l := range s.Loans {
		l.Close()
	}
	for _, c := range s.closes {
		c.Close() // which was only read
	}
	s.closes = nil
}

// Closes says what is closed with the sheet.
func (s *Sheet) Closes(c io.Closer) { s.closes = append(s.closes, c) }

// Note takes down something that is no finding about a cell.
func (s *Sheet) Note(format string, args ...any) {
	s.Notes = append(s.Notes, fmt.Sprintf(format, args...))
}

// each lets all sections do something, and says of an error where in the rulebook the rule
// stands that cannot be carried out.
func (s *Sheet) each(do func(Section, *Sheet) error) error {
	for _, section := range s.sections {
		if err := do(section, s); err != nil {
			return s.fits(section, err)
		}
	}
	return nil
}

// A ruleError is an error about one of several rules.
type ruleError struct {
	part string // "" for the first of the section
	n    int    // from 1, 0 if there can be only one
	key  string
	error
}

func (e *ruleError) Unwrap() error { return e.error }

// nth says that an error is about the rule at that index of several.
func nth(i int, err error) error {
	if err == nil {
		return nil
	}
	return &ruleError{n: i + 1, error: err}
}

// misfits are the errors that say that rules cannot be carried out on a sheet; others are
// about files that cannot be read.
var misfits = []error{columns.ErrWrong, columns.ErrRefused, condition.ErrWrong, lists.ErrList, pattern.ErrWrong, target.ErrWrong,
	ErrOnly}

// Misfit says where in the rulebook the rule stands, if an error is about one that cannot be carried
// out on the sheet after all.
func (s *Sheet) Misfit(err error) error { return s.fits(&mintSection{}, err) }

func (s *Sheet) fits(section Section, err error) error {
	var known *rulebook.Error
	if errors.As(err, &known) || !slices.ContainsFunc(misfits, func(wrong error) bool { return errors.Is(err, wrong) }) {
		return err
	}
	e := &rulebook.Error{Problem: rulebook.Problem{Part: section.Parts()[0].Name}}
	var rule *ruleError
	if errors.As(err, &rule) {
		e.N, e.Key = rule.n, rule.key
		if rule.part != "" {
			e.Part = rule.part
		}
	}
	e = s.Book.read.At(e.Problem)
	e.Sheet, e.Err = s.Table.Name, err
	return e
}

// Regroup brings rows of a product together that stand apart, if the rulebook wants that,
// and returns how many have been moved.
func (s *Sheet) Regroup() (moved int, err error) {
	if !s.Book.Products.Regroup {
		return 0, nil
	}
	if err := s.findTogether(); err != nil {
		return 0, err
	}
	return s.Table.Regroup(s.newKey().Members())
}

// newKey returns what says which rows are one product, with the columns of options that the
// rulebook names.
func (s *Sheet) newKey() *products.Key {
	key, book := products.NewKey(&s.Columns, s.Together, s.Kin), s.Book
	names := slices.Clone(book.Products.ToldApartBy)
	names = append(names, book.Products.OptionOfTitles)
	for _, each := range book.Each {
		names = append(names, each.Into)
	}
	for _, all := range book.ForAll {
		names = append(names, all.From)
	}
	for _, o := range book.Options {
		names = append(append(names, o.From, o.Into), o.Names...)
	}
	for _, name := range names {
		if name != "" {
			key.TellApart(columns.FindAll(&s.Columns, name)...)
		}
	}
	for name, t := range book.Field {
		if _, ok := s.InRows(t.Languages, columns.FindAll(&s.Columns, name)); ok {
			key.Apart = true
		}
	}
	return key
}

// Line makes the line for the columns that the table has, anew each time: a reading may
// show that they are others. To look only, it has the steps from which is seen what the
// columns hold.
func (s *Sheet) Line(look bool) (*line.Pipeline, error) {
	s.looking = look
	if err := s.reset(); err != nil {
		return nil, err
	}
	if err := s.plan(); err != nil {
		return nil, err
	}
	var err error
	if s.Products, err = s.Book.Products.For(&s.Columns, s.Rules); err != nil {
		return nil, s.fits(&productsSection{}, err)
	}
	s.Orders = steps.NewOrders(&s.Sheet, s.List(s.unknownList()))
	s.differ = s.List(s.differList())
	if err := s.each(Section.Order); err != nil {
		return nil, err
	}
	soon, telling, rest, err := s.Orders.Steps()
	if err != nil {
		return nil, s.fits(&columnsSection{}, err)
	}
	s.Written.AddAll(rest.Writes)
	s.Written.AddAll(telling.Writes)
	s.Ordered.AddAll(s.Written)
	s.Made = s.Orders.OnlyMade()
	s.Written.Add(s.Columns.All(catalogue.Barcode)...)
	if s.Codes.Source != nil {
		s.Written.Add(s.Columns.All(catalogue.SKU)...)
	}
	s.Add(StageBorrow, soon)
	s.Add(StageOptions, telling)
	s.Add(StageOrders, rest)
	if err := s.each(Section.Steps); err != nil {
		return nil, err
	}
	if s.shape.cols != nil {
		if err := s.shape.orderForm(); err != nil {
			return nil, s.fits(&targetSection{}, err)
		}
		s.Add(StageTemplate, s.shape.last())
		if s.Table.InForm {
			s.Add(StageTemplate, s.shape.findSamples())
		}
	}
	if err := s.orderTargets(); err != nil {
		return nil, s.fits(&targetsSection{}, err)
	}
	var narrow *line.Narrowing
	if !look {
		if narrow, err = s.leaveUnchanged(); err != nil {
			return nil, s.fits(&targetSection{}, err)
		}
	}
	c := &line.Pipeline{
		Narrow:   narrow,
		Grouping: s.Key.Grouping(), GroupedBy: s.Key.Names(), Leans: s.Key.Leans,
		Prepare: s.Table.Rejoin(), Ignore: steps.NoProduct(s.Table, look),
		Claims: s.Claims, Lists: s.Lists, Repeats: repeats(&s.Book.Sheet),
	}
	if s.Sheet.Returned != nil {
		s.Add(StageReturned, steps.Returned(&s.Sheet))
	}
	if look {
		c.Steps = append(s.placed[StageBarcodes], steps.Fill(&s.Sheet))
		return c, nil
	}
	if c.Answers, err = s.answers(); err != nil {
		return nil, s.fits(&answersSection{}, err)
	}
	c.Lists = s.Lists
	for i := range c.Lists {
		name := c.Lists[i].Name
		c.Lists[i].Off = s.CodesOnly && name != RenewedName && name != SupplierCodesName && name != AnsweredName
	}
	for _, said := range s.LeftOut {
		s.Note("%s", said)
	}
	c.Allotments, c.SettlesTwice = s.Allotments, s.SettlesTwice
	c.Steps, c.Whole = slices.Concat(s.placed[:]...), steps.NeedsAll(&s.Columns, s.Key)
	var wrong *line.OrderError
	if err := c.Check(); errors.As(err, &wrong) {
		return nil, s.fits(s.sectionOf(wrong.Early), columns.Refuse("its rules read the column %q, into which [%s] writes when they "+
			"have been carried out; take it out of them, or leave that out", s.Columns.Headings[wrong.Col],
			stages[s.stageOf(wrong.Late)].section))
	}
	return c, nil
}

// stageOf returns the stage at which a step is taken first.
func (s *Sheet) stageOf(step string) Stage {
	for stage := range s.placed {
		if slices.ContainsFunc(s.placed[stage], func(p line.Step) bool { return p.Name == step }) {
			return Stage(stage)
		}
	}
	return StageOrders
}

// sectionOf returns the section of a step.
func (s *Sheet) sectionOf(step string) Section {
	name := stages[s.stageOf(step)].section
	return s.sections[slices.IndexFunc(s.sections, func(section Section) bool { return section.Parts()[0].Name == name })]
}

// reset takes back what was fitted to the columns before.
func (s *Sheet) reset() error {
	base := &s.Columns
	base.Headings, base.Fields, base.Added, base.Declared = base.Headings[:base.Own()], base.Fields[:base.Own()], 0, nil
	s.placed, s.Claims, s.Lists, s.Tally, s.Notes, s.Written = [numStages][]line.Step{}, steps.Claims(), nil, steps.Tally{}, nil,
		catalogue.ColumnSet{}
	s.Ordered, s.LeftOut, s.Allotments, s.SettlesTwice = catalogue.ColumnSet{}, nil, nil, false
	s.Told, s.brands, s.asked, s.amounts, s.Forms, s.Dates = Told{}, nil, nil, nil, nil, nil
	s.built, s.texts = make(map[int][]builtBy), make(map[int]*textColumn)
	s.settled, s.levels, s.tags = make(map[int]bool), make(map[int]*levelReader), make(map[int]*tagsColumn)
	s.Phrases, s.needed = nil, nil
	s.shown, s.marked, s.picturesMoved = make(map[int]*markup.Shown), make(map[int]bool), false
	if err := s.findTogether(); err != nil {
		return err
	}
	s.Key = s.newKey()
	for col, h := range base.Headings {
		if d, ok := s.Book.Declared(h); ok {
			base.Declare(col, d)
		}
	}
	return nil
}

// plan finds out which columns go out, and adds those that rules fill.
func (s *Sheet) plan() error {
	base := &s.Columns
	s.Rules.Key = products.KeyColumns(base, s.Table.Sample, s.Together)
	s.dropHidden()
	var targets []string
	if err := s.each(func(section Section, s *Sheet) error {
		names, err := section.Adds(s)
		targets = append(targets, names...)
		return err
	}); err != nil {
		return err
	}
	said := s.Notes
	plan, err := s.Rules.For(base, targets, s.Book.Declared)
	if err != nil {
		return s.fits(&columnsSection{}, err)
	}
	s.Plan, s.Notes = plan, slices.Concat(plan.Notes, said, s.early)
	if s.Mark != "" && s.Heading > 0 {
		s.Note("the file begins with what is left of a byte order mark, read as text; it does not go out")
	}
	s.margins = -1
	s.Codes = &steps.Codes{Lost: s.List(s.lostList()), Missing: s.List(s.missingList())}
	s.Texts = &steps.Texts{Rules: s.Book.Text, Encoding: s.Form.Encoding, Fitter: target.NewFitter(&s.Book.Target), Backed: s.Backed}
	base.Headings, base.Fields = append(base.Headings, plan.Added.Headings...), append(base.Fields, plan.Added.Fields...)
	base.Added = len(plan.Added.Headings)
	for i, d := range plan.Added.Declared {
		if d.Name != "" {
			base.Declare(base.Own()+i, d)
		}
	}
	s.sayAdded()
	s.shape, s.targets = s.newShape("", 0, &s.Book.Target, s.Book.Form), nil
	if s.Book.Form != nil && !s.looking && !s.CodesOnly {
		if err := s.shape.matchForm(); err != nil {
			return s.fits(&targetSection{}, err)
		}
	}
	if err := s.planTargets(); err != nil {
		return s.fits(&targetsSection{}, err)
	}
	s.Out = nil
	if s.shape.cols != nil {
		for n := range s.shape.cols { // of the others it is seen to when they are written
			if col := s.shape.cols[n].col; col >= 0 {
				s.Out = append(s.Out, col)
			}
		}
		return nil
	}
	out, err := s.OutColumns()
	if err != nil {
		return err
	}
	if out == nil {
		for col := range base.Own() {
			s.Out = append(s.Out, col)
		}
	}
	for _, o := range out {
		s.Out = append(s.Out, o.Col)
	}
	return nil
}

// sayAdded names the columns that are added, and those of the file that look like one of them.
func (s *Sheet) sayAdded() {
	var names []string
	for col := s.Columns.Own(); col < len(s.Columns.Headings); col++ {
		name := s.Columns.Headings[col]
		if alike := s.looksLike(col); alike != nil {
			name = fmt.Sprintf("%s (beside %q; if that is meant, say so under [headings])", name, alike[0])
		}
		names = append(names, name)
	}
	if names != nil {
		s.Note("columns that are added: %s", strings.Join(names, ", "))
	}
}

// dropHidden orders that columns which the workbook does not show are dropped, if the
// rulebook wants that, and those that are ours.
func (s *Sheet) dropHidden() {
	rules, all := s.Rules, &s.Columns
	for _, h := range s.Ours {
		if !slices.Contains(rules.Drop, h) {
			rules.Drop = append(slices.Clone(rules.Drop), h)
		}
	}
	for _, h := range s.Hidden {
		key := slices.ContainsFunc(rules.Key, func(col int) bool { return all.Headings[col] == h })
		if s.Book.Sheet.HiddenColumns == "drop" && !key && !slices.Contains(rules.Drop, h) {
			rules.Drop = append(slices.Clone(rules.Drop), h)
		}
	}
}

// OutColumns returns the columns to write, those of the rulebook: the SKU and those
// named with Only, in their order; nil for all as they are.
func (s *Sheet) OutColumns() ([]line.OutColumn, error) {
	var out []line.OutColumn
	if out = slices.Clone(s.shape.out); s.shape.cols == nil {
		for _, o := range s.Plan.Out {
			out = append(out, line.OutColumn(o))
		}
	}
	if len(s.Only) == 0 {
		return out, nil
	}
	if out == nil {
		for col, h := range s.Columns.Headings {
			out = append(out, line.OutColumn{Col: col, Heading: h})
		}
	}
	chosen := make(map[int]bool)
	if !s.Plain {
		for _, col := range slices.Concat(s.Columns.All(catalogue.SKU), s.Rules.Key) {
			chosen[s.shape.formOut(col)] = true
		}
	}
	for _, name := range s.Only {
		found := false
		field, isField := catalogue.ParseField(name)
		for _, o := range out {
			if isField && s.shape.fieldOut(o.Col) == field || heading.Key(o.Heading) == heading.Key(name) {
				chosen[o.Col], found = true, true
			}
		}
		if !found {
			return nil, fmt.Errorf("the setting ‹only› %s: %w; the headings are: %s", name, ErrOnly, strings.Join(s.Columns.Headings, ", "))
		}
	}
	return slices.DeleteFunc(out, func(o line.OutColumn) bool { return !chosen[o.Col] }), nil
}

// Output says what is written for the importer.
func (s *Sheet) Output() (line.Output, error) {
	out, err := s.OutColumns()
	if err != nil {
		return line.Output{}, err
	}
	o := line.Output{
		Columns: out, Plain: s.Plain, BOM: s.Form.BOM,
		Bare: s.Heading == 0 && out == nil, // with other columns its reader needs their names
	}
	if out != nil {
		o.Away = s.away(out)
	}
	if s.CodesOnly {
		o.Away, o.Leave = s.besideCodes()
	}
	return o, s.each(func(section Section, s *Sheet) error { return section.Output(s, &o) })
}

// besideCodes returns, where nothing but codes is written, the columns of which no code is made, and
// those that go out as they are.
func (s *Sheet) besideCodes() (away, leave catalogue.ColumnSet) {
	var made catalogue.ColumnSet
	for _, m := range s.Orders.Minted {
		made.Add(m.Col)
	}
	from := s.Orders.MadeOf(made)
	for col := range s.Columns.Headings {
		if !from.Has(col) {
			away.Add(col)
		}
		if !made.Has(col) {
			leave.Add(col)
		}
	}
	return away, leave
}

// away returns the columns that do not go out, nor what is made of them.
func (s *Sheet) away(out []line.OutColumn) (away catalogue.ColumnSet) {
	going := catalogue.ColumnsOf(slices.Concat(s.Columns.All(catalogue.SKU), s.Rules.Key)...)
	for _, o := range out {
		going.Add(o.Col)
	}
	for known := -1; known < len(going.List()); {
		known = len(going.List())
		going = s.Orders.MadeOf(going)
		for _, placed := range s.placed {
			for i := range placed {
				if !placed[i].Writes.Both(going).Empty() {
					going.AddAll(placed[i].Sources)
				}
			}
		}
	}
	for col := range s.Columns.Headings {
		if !going.Has(col) {
			away.Add(col)
		}
	}
	return away
}

// KindOf returns the nature of a field or heading.
func (s *Sheet) KindOf(name string) catalogue.Kind {
	if d, ok := s.Book.Declared(name); ok {
		return d.Kind
	}
	if f, ok := catalogue.ParseField(name); ok {
		return f.Kind()
	}
	return heading.Field(name).Kind()
}

// knownBy returns the headings of the columns by which somebody knows a product.
func (s *Sheet) knownBy() []string { return s.headingsOf(steps.KnownBy(&s.Columns)) }

// The lists that are written if anything is in them: of the codes that somebody has to be
// asked for, of the values that the lists of the rulebook do not have, of what rows of a
// product say differently of it, and of cells that go out although they are open, because it was
// answered so. MissingName is that of the products without a barcode; what
// makes files for people turns it into the workbook ScanName, so that codes can be scanned into it.
const (
	LostName     = "lost-barcodes.csv"
	UnknownName  = "unknown-values.csv"
	DifferName   = "disagreeing.csv"
	AnsweredName = "answered.csv"
	MissingName  = folder.Temporary + "no-barcode.csv"
	ScanName     = "scan-list.xlsx"
)

func (s *Sheet) lostList() line.List {
	return line.List{Name: LostName, Known: steps.KnownBy(&s.Columns), Headings: slices.Concat(s.knownBy(), []string{"Barcode", "What is known"})}
}

func (s *Sheet) missingList() line.List {
	return line.List{Name: MissingName, Known: steps.KnownBy(&s.Columns), Headings: slices.Concat(s.knownBy(), []string{"Barcode"})}
}

func (s *Sheet) unknownList() line.List {
	return line.List{Name: UnknownName, At: 4, Known: steps.KnownBy(&s.Columns), Headings: slices.Concat([]string{"Row", "Column", "Value", "What is open"}, s.knownBy())}
}

func (s *Sheet) differList() line.List {
	return line.List{Name: DifferName, At: 5, Known: steps.KnownBy(&s.Columns), Headings: slices.Concat([]string{"Row", "Column", "Here", "Lead row", "There"}, s.knownBy())}
}
