package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/target"
	"zetanum/core/template"
)

// targetsSection says what goes to further targets.
type targetsSection struct {
	plain
	rules *[]target.Named
}

func (*targetsSection) Parts() []rulebook.Part {
	const line = "[[targets]]"
	return []rulebook.Part{{
		Name: "targets", Line: line,
		Says: "Further targets, from the same products in the same run: ready-NAME.csv has what goes there, in the form of its template, and held-NAME.csv " +
			"what its template does not take. It has the keys of [target], [targets.columns] and [targets.limits] in place of [target.columns] " +
			"and [target.limits]; but job, split, by, only_changed, compare, action, blank, empty and first_rows stand in [target] only.",
		Keys: []rulebook.Key{
			{
				Name:    "name",
				Says:    "What the target is called: small letters, digits and dashes.",
				Example: "name     = \"combley\"\ntemplate = \"shop-form.xlsx\"",
			},
			{
				Name:    "where",
				Says:    "A condition: products go there of which a row fulfils it; all, if nothing is said.",
				Example: "name     = \"combley\"\ntemplate = \"shop-form.xlsx\"\nwhere    = { category = \"Candles\" }",
			},
		},
	}}
}

func (s *targetsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "targets", Into: s.rules}}
}

func (s *targetsSection) Files() (names []*string) {
	for i := range *s.rules {
		names = append(names, filesOf(&(*s.rules)[i].Rules)...)
	}
	return names
}

func (s *targetsSection) Check() (problems []rulebook.Problem) {
	seen := make(map[string]bool)
	for i := range *s.rules {
		t := &(*s.rules)[i]
		problems = append(problems, rulebook.In("targets", i+1, t.Check())...)
		problems = append(problems, rulebook.In("targets", i+1, t.Columns.Check())...)
		if seen[t.Name] && t.Name != "" {
			problems = append(problems, rulebook.In("targets", i+1, []catalogue.Problem{{Key: "name", Text: fmt.Sprintf("%q is the name of another target, too", t.Name)}})...)
		}
		seen[t.Name] = true
	}
	return problems
}

// Open refuses what cannot be told apart by the names of files.
func (t *targetsSection) Open(s *Sheet) error {
	if rules := &s.Book.Target; len(*t.rules) > 0 && rules.By != "" {
		return &ruleError{n: 1, error: columns.Refuse("by = %q of [target] makes files that may be called like those of a target; take one of the two out", rules.By)}
	}
	return nil
}

// Order lets the survey see how the columns are written that fill the templates of the targets.
func (*targetsSection) Order(s *Sheet) error {
	for _, shape := range s.targets {
		if err := shape.readForms(); err != nil {
			return err
		}
	}
	return nil
}

// planTargets finds out what fills the columns of the templates of the targets.
func (s *Sheet) planTargets() error {
	if s.looking || s.CodesOnly || len(s.Only) > 0 {
		return nil
	}
	var left []error
	for i := range s.Book.Targets {
		t := &s.Book.Targets[i]
		shape := s.newShape(t.Name, i+1, &t.Rules, s.Book.Forms[i])
		notes := len(s.Notes)
		err := shape.matchForm()
		if err == nil && s.Book.spread {
			if shape.lists = shape.ofCategory(); shape.lists == nil {
				err = &ruleError{part: "target", key: "template", error: columns.Refuse("%s has no list of categories that a column of the file fills, so that nothing says "+
					"which products go there; name each template under [[targets]], with where", shape.form.Path)}
			}
		}
		switch {
		case err != nil && !s.Book.spread:
			return err
		case err != nil: // no product can go there, which is as it is with forms for other trades
			s.Notes, left = s.Notes[:notes], append(left, err)
		default:
			s.targets = append(s.targets, shape)
		}
	}
	if len(s.targets) == 0 && left != nil {
		return left[0]
	}
	for _, err := range left {
		s.Note("a template into which no product goes: %v", err)
	}
	return nil
}

// TargetAt returns the place in the rulebook of the target for a branch.
func (s *Sheet) TargetAt(branch int) int { return s.targets[branch].n - 1 }

// orderTargets orders that the columns of the templates of the targets are filled.
func (s *Sheet) orderTargets() error {
	for _, shape := range s.targets {
		where, _, err := s.Where(s.Book.Targets[shape.n-1].Where)
		if err != nil {
			return &ruleError{n: shape.n, key: "where", error: err}
		}
		shape.where = where
		if err := shape.orderForm(); err != nil {
			return err
		}
	}
	if s.Book.spread && len(s.targets) > 0 {
		s.Add(StageTemplate, s.findTemplates())
	}
	return nil
}

// ofCategory returns the column of the template with the list of its categories; nil if there is none.
func (s *shape) ofCategory() *formColumn {
	for _, field := range []catalogue.Field{catalogue.Category, catalogue.Type} {
		for n := range s.cols {
			c, form := &s.cols[n], &s.form.Columns[n]
			if c.from >= 0 && s.Columns.Fields[c.from] == field && c.fill.Part == 0 && len(form.List)+len(form.ListBy) > 0 && form.Depends == 0 {
				return c
			}
		}
	}
	return nil
}

// listsCategory reports whether the template lists the category of a product.
func (s *shape) listsCategory(p *catalogue.Product, log *line.Log) bool {
	for i, row := range p.Rows {
		if log.IsAside(i) || strings.TrimSpace(row.Cell(s.lists.from)) == "" {
			continue
		}
		_, _, wrong := s.lists.writer.Write(s.lists.inWords(row.Cell(s.lists.from)), "", s.lists.reading)
		return wrong.Kind == template.Fits
	}
	return false
}

// NowhereName is the file of products that go to none of several templates.
const NowhereName = "no-template.csv"

// findTemplates names products whose category none of the templates lists, or several.
func (s *Sheet) findTemplates() line.Step {
	known := steps.KnownBy(&s.Columns)
	list := s.List(line.List{Name: NowhereName, Headings: append(s.knownBy(), "Category", "What is known")})
	var reads catalogue.ColumnSet
	for _, shape := range s.targets {
		reads.Add(shape.lists.from)
	}
	return line.Step{Name: steps.NameTargets, Reads: reads, Glances: catalogue.ColumnsOf(known...), New: steps.Always(func(p *catalogue.Product, log *line.Log) {
		lead := -1
		for i := range p.Rows {
			if !log.IsAside(i) {
				lead = i
				break
			}
		}
		if lead < 0 {
			return
		}
		var names []string
		for _, shape := range s.targets {
			if shape.listsCategory(p, log) {
				names = append(names, shape.name)
			}
		}
		if len(names) == 1 {
			return
		}
		col, row := s.targets[0].lists.from, p.Rows[lead]
		says := "no template lists it"
		if len(names) > 1 {
			says = "several templates list it: " + strings.Join(names, ", ")
		}
		if !log.Judging() {
			cells := make([]string, 0, 8)
			for _, k := range known {
				cells = append(cells, row.Cell(k))
			}
			log.Enter(list, lead, append(cells, row.Cell(col), says)...)
		}
		log.Notice(catalogue.TargetNowhere, row, col, row.Cell(col), catalogue.Facts{Other: says})
	})}
}

// Branches returns how what goes to further targets is written.
func (s *Sheet) Branches() ([]line.Branch, error) {
	var list []line.Branch
	for _, shape := range s.targets {
		b := line.Branch{Name: shape.name, Step: shape.last(), Wants: shape.wants()}
		b.Output = line.Output{Columns: shape.out, BOM: s.Form.BOM}
		b.Output.Away = s.away(shape.out)
		err := (&sheetSection{rules: &s.Book.Sheet}).Output(s, &b.Output)
		if err == nil {
			err = shape.output(&b.Output)
		}
		if err != nil {
			return nil, s.fits(&targetsSection{}, &ruleError{n: shape.n, error: err})
		}
		list = append(list, b)
	}
	return list, nil
}

// wants returns what says whether a product goes to the target; nil if all do.
func (s *shape) wants() func(*catalogue.Product, *line.Log) bool {
	if s.lists != nil {
		return func(p *catalogue.Product, log *line.Log) bool {
			if !s.listsCategory(p, log) {
				return false
			}
			return !slices.ContainsFunc(s.targets, func(other *shape) bool { return other.n != s.n && other.listsCategory(p, log) })
		}
	}
	if s.where == nil {
		return nil
	}
	where := s.where
	return func(p *catalogue.Product, log *line.Log) bool {
		for i, row := range p.Rows {
			if !log.IsAside(i) && where.Holds(row) {
				return true
			}
		}
		return false
	}
}
