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
	"zetanum/core/markup"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// descriptionSection puts descriptions in order, and all fields of type html.
type descriptionSection struct {
	plain
	book    *Book
	field   *FieldTable         // of descriptions, while it is read
	mention map[string][]string // what must not be mentioned, by field
}

func (*descriptionSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "description", Line: "[description]", Also: alsoOfHTML(),
		Says: "Descriptions: safe, tidy HTML that renders the same everywhere, of whatever HTML, text or Markdown they are. Nothing is done to them " +
			"without an order. The same keys go with [short_description] and with any field of type html. More under [descriptions](descriptions.md).",
		Keys: []rulebook.Key{
			{
				Name: "clean",
				Says: "Writes descriptions as safe and tidy HTML: scripts, styles, classes, comments and what else does not belong there goes, marks " +
					"become lists, empty paragraphs go, all tags are closed, plain text becomes paragraphs.",
				Example: `clean = true`,
			},
			{
				Name: "keep",
				Says: "Elements that are kept besides p br h2 h3 h4 ul ol li strong em table thead tbody tr th td caption a img blockquote sup sub hr, and " +
					`attributes of elements, such as "a target". Others are taken off, and their text stays.`,
				Example: `clean = true
keep  = ["s", "div", "img width"]`,
			},
			{
				Name: "styles",
				Says: "CSS properties that are kept in style attributes, such as text-align; never anything that loads or moves.",
				Example: `clean  = true
styles = ["text-align"]`,
			},
			{
				Name: "links",
				Says: `What becomes of links: "keep", as when nothing is said; "text" leaves their text, "drop" takes that, too, and "same-shop" keeps ` +
					"those that stay in the shop, whose hosts [shop] names, and of others the text.",
				Example: `clean = true
links = "same-shop"`,
			},
			{
				Name: "rel",
				Says: "What links to other hosts say of that in their attribute rel.",
				Example: `clean = true
rel   = "nofollow noopener"`,
			},
			{
				Name: "images",
				Says: `What becomes of pictures: "keep", as when nothing is said; "drop"; "to-images" moves them into the images of the product, ` +
					"in their order, unless they are there already. Pictures that nobody sees go in any case.",
				Example: `clean  = true
images = "to-images"`,
			},
			{
				Name: "headings_from",
				Says: "The level of the highest headings; those below follow.",
				Example: `clean = true
headings_from = 3`,
			},
			{
				Name: "bold_headings",
				Says: "Makes headings of paragraphs that are bold and nothing else.",
				Example: `clean = true
bold_headings = true`,
			},
			{
				Name: "text_headings",
				Says: "Makes headings of lines of plain text in capitals, or with a colon at the end.",
				Example: `clean = true
text_headings = true`,
			},
			{
				Name: "named_lines",
				Says: `What lines such as “Height: 12 cm” become, where there are several: "table" or "list".`,
				Example: `clean = true
named_lines = "table"`,
			},
			{
				Name: "link_addresses",
				Says: "Makes links of addresses of the web and of mail in texts.",
				Example: `clean = true
link_addresses = true`,
			},
			{
				Name: "markdown",
				Says: "Reads texts as simple Markdown, where the column shows that they are.",
				Example: `clean = true
markdown = true`,
			},
			{
				Name: "layout",
				Says: `How blocks are put on lines: "one-line", "blocks" (each on a line) or "lines" (each item of a list, too). If nothing is said, as in ` +
					"most descriptions of the file. It makes no difference to what a browser shows.",
				Example: `clean  = true
layout = "one-line"`,
			},
			{
				Name:    "write_as",
				Says:    `"text" writes plain text for importers that take no HTML; "html", as when nothing is said.`,
				Example: `write_as = "text"`,
			},
			{
				Name: "from",
				Says: "A field or heading of whose text empty cells get the beginning: the whole sentences that fit into longest, or where not even one " +
					"does, the words.",
				Example: `from    = "description"
longest = 160`,
				Line: "[short_description]",
			},
			{
				Name: "end",
				Says: `With from: "word" takes as many words as fit, and not only sentences.`,
				Example: `from    = "description"
longest = 160
end     = "word"`,
				Line: "[short_description]",
			},
			{
				Name:    "no_mention",
				Says:    "Words, names or parts of addresses that must not be there, whatever their case. Descriptions that have one are named.",
				Example: `no_mention = ["Anderswo Handel", "anderswo.example"]`,
			},
			{
				Name:    "no_mention_from",
				Says:    "The same from the first column of a sheet.",
				Example: `no_mention_from = "other-shops.csv"`,
			},
			{
				Name:    "common_phrase",
				Says:    "From which part of all descriptions on a sentence that stands in them is named, with its count; 0.3 if nothing is said.",
				Example: `common_phrase = 0.5`,
			},
			{
				Name: "cut",
				Says: "Leaves blocks out at the end of what is longer than longest; all tags stay closed. What cannot be cut so is held, as all is that is " +
					"too long when nothing is said.",
				Example: `clean   = true
longest = 4000
cut     = true`,
			},
		},
	}}
}

// alsoOfHTML are the keys of fields that a field of type html has besides.
func alsoOfHTML() (keys []rulebook.Key) {
	own := []string{"clean", "case", "shouting_as", "measures"}
	for _, key := range fieldKeys() {
		if !slices.Contains(own, key.Name) {
			keys = append(keys, key)
		}
	}
	return keys
}

func (d *descriptionSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "description", Into: d.field}}
}

func (d *descriptionSection) Files() (names []*string) {
	for _, name := range slices.Sorted(maps.Keys(d.book.Field)) {
		names = append(names, &d.book.Field[name].NoMentionFrom)
	}
	return names
}

// Open reads what must not be mentioned.
func (d *descriptionSection) Open(s *Sheet) error {
	d.mention = make(map[string][]string)
	for name, table := range d.book.Field {
		words := table.NoMention
		if from := table.NoMentionFrom; from != "" {
			more, err := reference.ReadValues(from, "", sheet.Options{Spool: s.Temp})
			if err != nil {
				return &ruleError{part: d.part(name), key: "no_mention_from", error: fmt.Errorf("[%s] no_mention_from: %w", d.part(name), err)}
			}
			words = slices.Concat(words, more)
		}
		if len(words) > 0 {
			d.mention[name] = words
		}
	}
	return nil
}

// part returns the table in which a field stands.
func (d *descriptionSection) part(name string) string {
	return (&fieldSection{rules: &d.book.Field, book: d.book}).part(name)
}

// A descriptionColumn are the descriptions, or other HTML, of one column.
type descriptionColumn struct {
	sheet    *Sheet
	rules    *markup.Rules
	cleaners *markup.Pool
	col      int
	number   int
	shown    *markup.Shown
	limit    text.Limit // Most is 0 if they need not fit
	from     int        // the column of which empty cells get the beginning, -1 for none
	of       *markup.Shown
	pictures []int // columns of images, if pictures are moved there; the first takes them
	at       string
}

// each calls do with what is ordered for each field of type html.
func (d *descriptionSection) each(s *Sheet, do func(name string, table *FieldTable, rules *markup.Rules) error) error {
	if s.CodesOnly {
		return nil
	}
	for _, name := range slices.Sorted(maps.Keys(d.book.Field)) {
		table := d.book.Field[name]
		rules := table.markup(name)
		if rules == nil || rules.Idle() {
			continue
		}
		if err := do(name, table, rules); err != nil {
			return &ruleError{part: d.part(name), error: err}
		}
	}
	return nil
}

// Adds returns the columns that are filled: those of beginnings, and of pictures.
func (d *descriptionSection) Adds(s *Sheet) (names []string, err error) {
	err = d.each(s, func(name string, _ *FieldTable, rules *markup.Rules) error {
		if rules.From != "" {
			names = append(names, name)
		}
		if rules.Images == markup.ToImages {
			names = append(names, catalogue.Images.String())
		}
		return nil
	})
	return names, err
}

// Order orders that descriptions are put in order.
func (d *descriptionSection) Order(s *Sheet) error {
	if err := d.order(s); err != nil || s.CodesOnly || !steps.Compares(s.Table) {
		return err
	}
	for col := range s.Columns.Own() {
		if s.Columns.Kind(col) == catalogue.HTMLKind && !s.marked[col] {
			s.lookAtDescriptions(col)
		}
	}
	return nil
}

func (d *descriptionSection) order(s *Sheet) error {
	return d.each(s, func(name string, table *FieldTable, rules *markup.Rules) error {
		cols, err := s.Need("["+name+"]", name)
		if err != nil {
			return err
		}
		if rules.Links == markup.SameShop && len(s.Book.Shop.Hosts) == 0 {
			s.Note("[%s] links = %q: nothing says which pages are the shop's, so that only links without a host stay; name its hosts with "+
				"hosts under [shop]", name, rules.Links)
		}
		number := s.Tally.Add(name+": "+rules.String(), steps.Changed, 0)
		for _, col := range cols {
			s.marked[col] = s.marked[col] || rules.Clean || rules.WriteAs == markup.PlainText
			c := &descriptionColumn{sheet: s, rules: rules, cleaners: markup.NewPool(rules, s.Book.Shop.Hosts), col: col, number: number,
				shown: s.shownOf(col, rules.Clean), limit: text.Limit{Most: cmp.Or(table.Longest, s.shape.most(col)), In: table.CountIn}, from: -1}
			one := steps.Order{Key: name, Phase: steps.PhaseTitles, Writes: []int{col}, Do: c.do, Rests: true,
				Rules: []catalogue.Rule{catalogue.RuleMarkup}}
			if rules.WriteAs == markup.PlainText {
				one.Rules[0] = catalogue.RuleAsText
			}
			if rules.From != "" {
				if c.from, err = s.NeedOne("["+name+"] from", rules.From); err != nil {
					return err
				}
				if c.from == col {
					return columns.Refuse("[%s] from names the field itself", name)
				}
				c.of = s.shownOf(c.from, false)
				one.Reads, one.Rules = append(one.Reads, c.from), append(one.Rules, catalogue.RuleBeginning)
			}
			if into := s.Columns.First(catalogue.Images); rules.Images == markup.ToImages && into >= 0 && into != col {
				c.pictures, c.at = []int{into}, cmp.Or(s.Book.Images.At, ",")
				for _, name := range s.Book.Images.Columns {
					c.pictures = append(c.pictures, s.Find(name)...)
				}
				one.Writes, one.Reads = append(one.Writes, into), append(one.Reads, c.pictures[1:]...)
				one.Rules = append(one.Rules, catalogue.RulePictures)
				s.picturesMoved = true
			}
			if err := s.Orders.AddCounted(one, table.Meant, -1); err != nil {
				return err
			}
		}
		return nil
	})
}

// shownOf returns what a column of descriptions is, when the survey has learned it. wrote says that it goes out as HTML.
func (s *Sheet) shownOf(col int, wrote bool) *markup.Shown {
	if shown := s.shown[col]; shown != nil {
		return shown
	}
	shown := &markup.Shown{HTML: wrote, Layout: markup.Lines}
	s.shown[col] = shown
	name := s.Columns.Name(col)
	if col < s.Columns.Own() {
		s.Orders.Learn(steps.Learner{Cols: s.sampling().cols(col), New: func() steps.Learned { return &shownCells{col: col, of: s.sampling()} },
			Judge: func(l steps.Learned) error {
				*shown = l.(*shownCells).Shown()
				if s.AsLeft != nil {
					if told, is := s.AsLeft.Markup[name]; is {
						*shown = told
					}
				}
				s.tellShown(name, *shown)
				return nil
			}})
	}
	return shown
}

// tellShown tells a later run what a column is when it has been put in order: HTML as it is to be, on lines as most of the file.
func (s *Sheet) tellShown(name string, shown markup.Shown) {
	if s.Told.Markup == nil {
		s.Told.Markup = make(map[string]markup.Shown)
	}
	s.Told.Markup[name] = shown
}

// shownCells learns what the cells of a column are.
type shownCells struct {
	markup.Column
	col int
	of  rowSample
}

func (l *shownCells) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := row.Cell(l.col); cell != "" && l.of.takes(row) {
			l.Add(cell)
		}
	}
}

func (l *shownCells) Merge(next steps.Learned) { l.Column.Merge(&next.(*shownCells).Column) }

// do puts a description in order.
func (c *descriptionColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	if strings.TrimSpace(cell) == "" {
		c.begin(r)
		return false
	}
	if r.Damaged(c.col) {
		return false
	}
	after, pictures, code := c.written(cell)
	if code != catalogue.NoFinding {
		r.Find(code, c.col, cell, catalogue.Facts{})
		return false
	}
	if after != cell {
		rule := catalogue.RuleMarkup
		if c.rules.WriteAs == markup.PlainText {
			rule = catalogue.RuleAsText
		}
		r.Touch(c.number, c.col)
		r.Set(c.col, after, rule, catalogue.Ordered, "")
	}
	c.move(r, pictures)
	return false
}

// written returns how a description is written, and the pictures that are moved out of it; code says what is wrong if it cannot be.
func (c *descriptionColumn) written(cell string) (after string, pictures []string, code catalogue.Code) {
	cleaner := c.cleaners.Get()
	defer c.cleaners.Put(cleaner)
	var err error
	switch {
	case c.rules.WriteAs == markup.PlainText:
		after, err = cleaner.Text(cell, c.shown)
	case c.rules.Cut && c.limit.Most > 0:
		var fits bool
		if after, fits, err = cleaner.Cut(cell, c.shown, c.limit.Fits); !fits && err == nil {
			after, err = cleaner.Clean(cell, c.shown) // which is held, because it is too long
		}
	case c.rules.Clean:
		after, err = cleaner.Clean(cell, c.shown)
	default:
		return cell, nil, catalogue.NoFinding
	}
	switch {
	case errors.Is(err, markup.ErrDeep):
		return cell, nil, catalogue.DescriptionDeep
	case err != nil:
		return cell, nil, catalogue.DescriptionUnclear
	}
	return after, slices.Clone(cleaner.Images()), catalogue.NoFinding
}

// begin fills an empty cell with the beginning of another, if that is ordered.
func (c *descriptionColumn) begin(r *steps.RowAt) {
	if c.from < 0 || !r.Belongs(c.col) || r.Damaged(c.from) {
		return
	}
	text := r.View().Cell(c.from)
	if strings.TrimSpace(text) == "" || markup.Placeholder(text) != "" {
		return
	}
	cleaner := c.cleaners.Get()
	defer c.cleaners.Put(cleaner)
	fits := c.limit.Fits
	if c.rules.Clean && c.rules.WriteAs != markup.PlainText {
		fits = func(text string) bool {
			html, _, _ := c.written(markup.Escape(text))
			return c.limit.Fits(html)
		}
	}
	beginning, err := cleaner.Beginning(text, c.of, fits)
	if err != nil || beginning == "" {
		return
	}
	if c.rules.Clean && c.rules.WriteAs != markup.PlainText {
		beginning, _, _ = c.written(markup.Escape(beginning))
	} else if c.rules.WriteAs != markup.PlainText && strings.IndexByte(beginning, '<') >= 0 {
		beginning = markup.Escape(beginning) // which is no tag
	}
	r.Touch(c.number, c.col)
	r.Set(c.col, beginning, catalogue.RuleBeginning, catalogue.Ordered, c.sheet.Columns.Headings[c.from])
}

// move puts pictures behind the images of the product, those that are not among them.
func (c *descriptionColumn) move(r *steps.RowAt, pictures []string) {
	if len(pictures) == 0 || c.pictures == nil {
		return
	}
	has := func(link string) bool {
		for _, row := range r.Product.Rows {
			for _, col := range c.pictures {
				if cell := row.Cell(col); strings.Contains(cell, link) && slices.Contains(links(cell), link) {
					return true
				}
			}
		}
		return false
	}
	cell := r.Cell(c.pictures[0])
	for _, link := range pictures {
		if has(link) {
			continue
		}
		if cell != "" {
			cell += c.at
		}
		cell += link
	}
	r.Set(c.pictures[0], cell, catalogue.RulePictures, catalogue.Ordered, "")
}

// links returns the links of a cell.
func links(cell string) []string {
	return strings.FieldsFunc(cell, func(r rune) bool {
		return r == ',' || r == ';' || r == '|' || r == ' ' || r == '\n' || r == '\r' || r == '\t'
	})
}
