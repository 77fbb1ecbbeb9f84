package sections

import (
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"

	"zetanum/core/brand"
	"zetanum/core/catalogue"
	"zetanum/core/category"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/fetch"
	"zetanum/core/heading"
	"zetanum/core/lists"
	"zetanum/core/mint"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/tags"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/core/text"
	"zetanum/core/title"
	"zetanum/core/wording"
)

// A Book is a rulebook: what its sections say, in the order in which the reference has
// them. The zero Book orders nothing.
type Book struct {
	Path     string                 `toml:"-" json:"-"`
	Headings map[string]string      `toml:"headings" json:"headings,omitempty"` // fields, by heading
	Columns  columns.Rules          `toml:"columns" json:"columns,omitzero"`
	Sheet    condition.SheetRules   `toml:"sheet" json:"sheet,omitzero"`
	Products products.Rules         `toml:"products" json:"products,omitzero"`
	Images   products.ImageRules    `toml:"images" json:"images,omitzero"`
	Each     []products.EachRule    `toml:"one_row_each" json:"one_row_each,omitempty"`
	ForAll   []products.AllRule     `toml:"one_row_for_all" json:"one_row_for_all,omitempty"`
	Options  []products.OptionsRule `toml:"options" json:"options,omitempty"`
	Rows     []condition.RowRule    `toml:"rows" json:"rows,omitempty"`
	Borrow   []reference.BorrowRule `toml:"borrow" json:"borrow,omitempty"`
	Build    []pattern.BuildRule    `toml:"build" json:"build,omitempty"`
	Mint     []mint.Rule            `toml:"mint" json:"mint,omitempty"`
	Derive   []lists.DeriveRule     `toml:"derive" json:"derive,omitempty"`
	Expand   []lists.ExpandRule     `toml:"expand" json:"expand,omitempty"`
	Field    map[string]*FieldTable `toml:"field" json:"field,omitempty"`
	Replace  []wording.ReplaceRule  `toml:"replace" json:"replace,omitempty"`
	Around   []wording.AroundRule   `toml:"around" json:"around,omitempty"`
	Closing  []wording.ClosingRule  `toml:"closing" json:"closing,omitempty"`
	Title    title.Rules            `toml:"title" json:"title,omitzero"`
	Tags     tags.Rules             `toml:"tags" json:"tags,omitzero"`
	Brand    brand.Rules            `toml:"brand" json:"brand,omitzero"`
	Category category.Rules         `toml:"category" json:"category,omitzero"`
	Text     text.Rules             `toml:"text" json:"text,omitzero"`
	Barcode  rescue.Rules           `toml:"barcode" json:"barcode,omitzero"`
	Answers  Answers                `toml:"answers" json:"answers,omitzero"`
	Asked    Asked                  `toml:"asked" json:"-"`
	Register Register               `toml:"register" json:"register,omitzero"`
	Shop     Shop                   `toml:"shop" json:"shop,omitzero"`
	Target   target.Rules           `toml:"target" json:"target,omitzero"`

	// Targets are further ones, to which products go in the same run.
	Targets []target.Named `toml:"targets" json:"targets,omitempty"`

	Form  *template.Template   `toml:"-" json:"-"` // the template of [target], once it has been learnt
	Forms []*template.Template `toml:"-" json:"-"` // those of [[targets]]

	ofSelf bool // the shop's export is the file itself that is repaired
	spread bool // the template of [target] is a folder of them: each product goes to the one that lists its category

	read  *rulebook.Rulebook     // from which it comes; nil if it comes of none
	short map[string]*FieldTable // fields that are written the short way, while it is read
}

// WithForm returns the rulebook with what the template says that it names. input is the file that is repaired.
func (b *Book) WithForm(input string) (Book, error) {
	with := *b
	onDisk := input != "-" && !fetch.IsAddress(input)
	if b.Shop.Export == target.Self {
		if with.Shop.Export, with.ofSelf = input, true; !onDisk {
			return with, fmt.Errorf("[shop] export = %q means the file itself, and that must lie on the disk", target.Self)
		}
	}
	path, learn := b.Target.Template, template.Learn
	if path != "" && path != target.Self {
		forms, several, err := template.FormsIn(path)
		if err == nil && several {
			err = with.spreadOver(forms)
		}
		if err != nil {
			return with, fmt.Errorf("the templates of [target]: %w", err)
		}
		if several {
			path = ""
		}
	}
	if err := with.withForms(); err != nil {
		return with, err
	}
	if like := b.Target.Like; path == "" && len(like) > 0 && !with.spread {
		path, learn = like[0], func(string) (*template.Template, error) { return template.LearnLike(like...) }
	}
	switch {
	case path == "":
		return with, nil
	case path == target.Self && !onDisk:
		return with, fmt.Errorf("template = %q means the file itself, and that must lie on the disk", target.Self)
	case path == target.Self:
		path, learn = input, template.LearnOwn
	}
	if with.Form == nil || with.Form.Path != path {
		form, err := learn(path)
		if err == nil {
			with.Form, err = form.With(b.Target.Besides)
		}
		if err != nil {
			return with, fmt.Errorf("the template of [target]: %w", err)
		}
	}
	with.Target = b.Target.In(with.Form)
	return with, nil
}

// spreadOver makes a target of each template in the folder or archive that [target] names.
func (b *Book) spreadOver(forms []string) error {
	in := b.Target.Template
	switch {
	case len(b.Targets) > 0:
		return fmt.Errorf("each template in %s is a target; [[targets]] cannot stand beside it", in)
	case len(forms) == 0:
		return fmt.Errorf("there is none in %s", in)
	}
	placed := make(map[string]bool)
	b.Forms, b.Targets, b.spread = nil, nil, true
	for _, path := range forms {
		form, err := template.Learn(path)
		if err == nil {
			form, err = form.With(b.Target.Besides)
		}
		if err != nil {
			return err
		}
		name := text.Slug(strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)))
		if name == "" || slices.ContainsFunc(b.Targets, func(t target.Named) bool { return t.Name == name }) {
			name = strings.Trim(fmt.Sprintf("%s-%d", name, len(b.Targets)+1), "-")
		}
		rules := b.Target
		rules.Template, rules.Columns, rules.Required, rules.Together = path, nil, nil, nil
		for heading, said := range b.Target.Columns {
			if form.Find(heading) != nil {
				if rules.Columns == nil {
					rules.Columns = make(target.Fills)
				}
				rules.Columns[heading], placed[heading] = said, true
			}
		}
		for _, heading := range b.Target.Required {
			if form.Find(heading) != nil {
				rules.Required, placed[heading] = append(rules.Required, heading), true
			}
		}
		for _, group := range b.Target.Together {
			if !slices.ContainsFunc(group, func(heading string) bool { return form.Find(heading) == nil }) {
				rules.Together = append(rules.Together, group)
				for _, heading := range group {
					placed[heading] = true
				}
			}
		}
		b.Forms, b.Targets = append(b.Forms, form), append(b.Targets, target.Named{Name: name, Rules: rules.In(form)})
	}
	for _, heading := range slices.Concat(slices.Sorted(maps.Keys(b.Target.Columns)), b.Target.Required, slices.Concat(b.Target.Together...)) {
		if !placed[heading] {
			return fmt.Errorf("none in %s has a column %q, which [target] names, or not with those that belong to it", in, heading)
		}
	}
	b.Target.Columns, b.Target.Required, b.Target.Together, b.Target.Limits = nil, nil, nil, target.Limits{}
	return nil
}

// withForms learns the templates of further targets.
func (b *Book) withForms() error {
	if len(b.Forms) == len(b.Targets) {
		return nil
	}
	b.Forms, b.Targets = make([]*template.Template, len(b.Targets)), slices.Clone(b.Targets)
	for i := range b.Targets {
		t := &b.Targets[i]
		learn := func() (*template.Template, error) { return template.Learn(t.Template) }
		if len(t.Like) > 0 {
			learn = func() (*template.Template, error) { return template.LearnLike(t.Like...) }
		}
		form, err := learn()
		if err == nil {
			form, err = form.With(t.Besides)
		}
		if err != nil {
			return fmt.Errorf("the template of %q in [[targets]]: %w", t.Name, err)
		}
		b.Forms[i], t.Rules = form, t.In(form)
	}
	return nil
}

// Recorded returns a rulebook with its templates as it is recorded in a manifest: as it was given, but for how what goes out is written.
func (b *Book) Recorded(given *Book) Book {
	record := *b
	record.Shop, record.Targets, record.Forms = given.Shop, given.Targets, nil
	if b.spread {
		record.Target = given.Target
	}
	return record
}

// PriceMoves returns the share by which the rulebook lets a price become more or less, 0 if it does not say.
func (b *Book) PriceMoves() float64 {
	table := b.Field[catalogue.Price.String()]
	if table == nil {
		return 0
	}
	switch most := table.ChangeAtMost.(type) {
	case float64:
		return most
	case int64:
		return float64(most)
	}
	return 0
}

// Spreads reports whether the template of [target] is several, each of which takes the products whose category it lists.
func (b *Book) Spreads() bool { return b.spread }

// FormRows returns the rows of the template, by which a file in its form is known; nil if there is none.
func (b *Book) FormRows() *sheet.FormRows {
	if b.Form == nil {
		return nil
	}
	return b.Form.FormRows()
}

// codesOnly returns what of a rulebook is needed to make codes: how the file is read and written, what
// its columns and products are, what the fields must be, and what was answered.
func (b *Book) codesOnly() Book {
	return Book{Path: b.Path, Headings: b.Headings, Products: products.Rules{TogetherBy: b.Products.TogetherBy, ToldApartBy: b.Products.ToldApartBy,
		VariantFields: b.Products.VariantFields, ProductFields: b.Products.ProductFields}, Mint: b.Mint, Field: b.Field, Barcode: b.Barcode,
		Answers: b.Answers, Register: b.Register, Shop: b.Shop, Target: b.Target, read: b.read}
}

// Sections returns the sections of a rulebook in the order of the work. They are made anew
// each time, and belong to whoever asked for them.
func (b *Book) Sections() []Section {
	return []Section{
		&headingsSection{book: b},
		&shopSection{rules: &b.Shop},
		&textSection{rules: &b.Text},
		&barcodeSection{rules: &b.Barcode, field: b.shortRule("barcode")},
		&borrowSection{rules: &b.Borrow},
		&eachSection{rules: &b.Each},
		&productsSection{rules: &b.Products},
		&sheetSection{rules: &b.Sheet},
		&imagesSection{rules: &b.Images, field: b.shortRule("images")},
		&optionsSection{rules: &b.Options},
		&columnsSection{rules: &b.Columns},
		&buildSection{rules: &b.Build},
		&registerSection{rules: &b.Register},
		&mintSection{rules: &b.Mint},
		&deriveSection{rules: &b.Derive},
		&expandSection{rules: &b.Expand},
		&wordsSection{replace: &b.Replace, around: &b.Around, closing: &b.Closing},
		&brandSection{rules: &b.Brand, field: b.short["brand"]},
		&categorySection{rules: &b.Category, field: b.short["category"]},
		&tagsSection{rules: &b.Tags, field: b.shortRule("tags")},
		&fieldSection{rules: &b.Field, book: b},
		&descriptionSection{book: b, field: b.short["description"]},
		&titleSection{rules: &b.Title, field: b.shortRule("title")},
		&forAllSection{rules: &b.ForAll},
		&rowsSection{rules: &b.Rows},
		&answersSection{rules: &b.Answers},
		&askedSection{rules: &b.Asked},
		&targetSection{rules: &b.Target, ofSelf: b.ofSelf || b.Shop.Export == target.Self},
		&targetsSection{rules: &b.Targets},
	}
}

// shortRule returns what a section that is called like a field says of that, while it is read; nil later.
func (b *Book) shortRule(name string) *lists.FieldRule {
	if table := b.short[name]; table != nil {
		return &table.FieldRule
	}
	return nil
}

// reading returns the sections in the order in which a person reads about them.
func (b *Book) reading() []Section {
	place := make(map[string]int)
	fields := reflect.TypeFor[Book]()
	for i := range fields.NumField() {
		place[fields.Field(i).Tag.Get("toml")] = i
	}
	// What fields must be comes behind what rules make of them, and texts behind codes.
	place["field"], place["text"] = place["closing"], place["shop"]
	place["description"] = place["category"] // which is a field, and behind the other words
	list := b.Sections()
	slices.SortStableFunc(list, func(x, y Section) int { return place[x.Parts()[0].Name] - place[y.Parts()[0].Name] })
	return list
}

// readable returns them as far as reading goes.
func (b *Book) readable() (list []rulebook.Section) {
	for _, s := range b.reading() {
		list = append(list, s)
	}
	return list
}

// Reference writes the reference of the whole rulebook as Markdown.
func Reference() string { return rulebook.Reference(new(Book).readable()) }

// Find returns the rulebook that belongs to an input: zetanum.toml beside it or
// in the working folder; "" if there is none.
func Find(input string) string {
	places := []string{rulebook.Name}
	if input != "-" && !fetch.IsAddress(input) {
		places = []string{filepath.Join(filepath.Dir(input), rulebook.Name), rulebook.Name}
	}
	for _, p := range places {
		if info, err := os.Stat(p); err == nil && info.Mode().IsRegular() {
			return p
		}
	}
	return ""
}

// Load reads a rulebook and checks what it says.
func Load(path string) (*Book, error) {
	return load(path, func(sections []rulebook.Section) (*rulebook.Rulebook, error) { return rulebook.Load(path, sections) })
}

// Parse is [Load] for a text that need not stand in the file yet.
func Parse(path string, content []byte) (*Book, error) {
	return load(path, func(sections []rulebook.Section) (*rulebook.Rulebook, error) {
		return rulebook.Parse(path, content, sections)
	})
}

func load(path string, from func([]rulebook.Section) (*rulebook.Rulebook, error)) (*Book, error) {
	book := &Book{Path: path, Barcode: rescue.Rules{}.Default(), short: make(map[string]*FieldTable)}
	for _, name := range catalogue.FieldNames() {
		book.short[name] = new(FieldTable)
	}
	read, err := from(book.readable())
	if err != nil {
		return nil, err
	}
	book.read = read
	if err := book.settleFields(); err != nil {
		return nil, err
	}
	if err := read.Check(); err != nil {
		return nil, err
	}
	here := book.WithFiles(func(name string) string {
		if filepath.IsAbs(name) || name != "" && os.IsPathSeparator(name[0]) { // on some systems that is a path of the current drive
			return name
		}
		return filepath.Join(filepath.Dir(path), name)
	})
	return &here, nil
}

// Declared returns the field of the shop's own that has a name or a heading.
func (b *Book) Declared(name string) (catalogue.Declared, bool) {
	for h, field := range b.Headings {
		if columns.Same(h, name) {
			name = field
		}
	}
	for own, f := range b.Field {
		if _, known := catalogue.ParseField(own); !known && heading.Key(own) == heading.Key(name) {
			kind, _ := catalogue.ParseKind(f.Type)
			return catalogue.Declared{Name: own, Kind: kind}, true
		}
	}
	return catalogue.Declared{}, false
}

// Fields returns the fields of [headings]: those of headings that must be there,
// and those of headings that the rulebook itself renames or leaves out, which a file that has
// been through it does not have any more.
func (b *Book) Fields() (fields, gone map[string]catalogue.Field) {
	fields, gone = make(map[string]catalogue.Field, len(b.Headings)), make(map[string]catalogue.Field)
	leaving := slices.Concat(slices.Collect(maps.Keys(b.Columns.Rename)), b.Columns.Drop)
	for i := range b.Mint {
		leaving = append(leaving, b.Mint[i].InsteadOf)
	}
	for h, name := range b.Headings {
		f, ok := catalogue.ParseField(name)
		if !ok {
			continue
		}
		fields[h] = f
		for _, from := range leaving {
			if columns.Same(from, h) || from == name {
				delete(fields, h)
				gone[h] = f
			}
		}
	}
	return fields, gone
}

// ErrOnce says that a rule which is applied once would be applied again.
var ErrOnce = errors.New("this is an output of ours")

// HasOneWay reports whether there is a rule that must not be applied to its own result.
func (b *Book) HasOneWay() bool {
	return slices.ContainsFunc(b.Sections(), func(s Section) bool { return len(s.OneWay()) > 0 })
}

// RefuseAgain returns an error if a rule must not be applied to its own result; sheet is the
// name of an output of ours.
func (b *Book) RefuseAgain(sheet string) error {
	for _, s := range b.Sections() {
		for _, rule := range s.OneWay() {
			e := b.read.At(rule)
			e.Sheet = sheet
			e.Err = fmt.Errorf("%w, and the rule %q is one that is applied once; leave it out, or repair the source again", ErrOnce,
				rule.Text)
			return e
		}
	}
	return nil
}

// WithFiles returns the rulebook with other names for the files that it names.
func (b *Book) WithFiles(change func(name string) string) Book {
	c := b.withConditions(func(name string) (any, error) { return change(name), nil })
	c.book.Target.Columns = c.book.Target.Columns.WithFiles(change)
	for i := range c.book.Targets {
		c.book.Targets[i].Columns = c.book.Targets[i].Columns.WithFiles(change)
	}
	for _, s := range c.book.Sections() {
		for _, name := range s.Files() {
			if *name != "" {
				*name = change(*name)
			}
		}
	}
	return c.book
}
