package cli

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/internal/terminal"
)

// A jsonForm is what is said of a template as JSON.
type jsonForm struct {
	Template string           `json:"template"`
	Sheet    string           `json:"sheet,omitempty"`
	Headings int              `json:"headings"`
	First    int              `json:"first"`
	Samples  []int            `json:"samples,omitempty"`
	Columns  []jsonFormColumn `json:"columns"`
	Unused   []string         `json:"unused,omitempty"` // headings of the file that go nowhere
}

type jsonFormColumn struct {
	Heading  string   `json:"heading"`
	Required string   `json:"required"`
	Says     string   `json:"says,omitempty"`
	List     []string `json:"list,omitempty"`
	From     string   `json:"from,omitempty"`
	Nth      int      `json:"nth,omitempty"`
	Fixed    string   `json:"fixed,omitempty"`
	Ask      bool     `json:"ask,omitempty"`
}

// explain says what a template asks for, column by column, and what of a file would fill it.
func (o *inspectCommand) explain(s *session, files []string) (int, error) {
	if len(files) > 1 {
		return exitUsage, usagef("-template takes one file, and not %d", len(files))
	}
	path, learn := o.template, template.Learn
	if path == target.Self { // the file is a form that is filled in
		if len(files) == 0 || files[0] == "-" {
			return exitUsage, usagef("-template self is the file itself; name it")
		}
		path, learn = files[0], template.LearnOwn
	}
	form, err := learn(path)
	if err != nil {
		return exitFailed, err
	}
	var r *repair.Result
	var offers []template.Offer
	if len(files) == 1 {
		opt, err := o.options(s, files[0], "")
		if err != nil {
			return exitFailed, err
		}
		opt.AnyHeadings = true // what they mean the form may show
		if form.Own {
			opt.Book.Form = form // whose rows are no products
		}
		why, err := s.follow(&opt, false, func() (err error) {
			r, err = repair.Look(s.ctx, opt)
			return err
		})
		if err != nil {
			return exitFailed, err
		}
		r.NotFollowed = why
		offers = template.OffersOf(&r.Source.Columns, r.Sample)
	}
	matches := form.Match(offers)
	if o.json {
		return exitOK, s.encode(formJSON(form, offers, matches))
	}
	o.printForm(s, s.printer(), form, r, offers, matches)
	return exitOK, nil
}

func formJSON(form *template.Template, offers []template.Offer, matches []template.Match) *jsonForm {
	j := &jsonForm{Template: form.Path, Sheet: form.Sheet, Headings: form.Headings, First: form.First, Samples: form.Samples, Unused: unused(offers, matches)}
	for n := range form.Columns {
		c, m := &form.Columns[n], matches[n]
		one := jsonFormColumn{Heading: c.Heading, Required: c.Need.String(), Says: form.Says(n), List: c.List, Nth: m.Nth, Fixed: m.Fixed, Ask: m.Ask}
		if m.From >= 0 {
			one.From = offers[m.From].Heading
		}
		j.Columns = append(j.Columns, one)
	}
	return j
}

// unused returns the headings of a file that fill nothing.
func unused(offers []template.Offer, matches []template.Match) (list []string) {
	for i := range offers {
		if !slices.ContainsFunc(matches, func(m template.Match) bool { return m.From == i }) {
			list = append(list, offers[i].Heading)
		}
	}
	return list
}

func (o *inspectCommand) printForm(s *session, p *terminal.Printer, form *template.Template, r *repair.Result, offers []template.Offer, matches []template.Match) {
	sheet := ""
	if form.Sheet != "" {
		sheet = ", sheet " + form.Sheet
	}
	p.Line(p.Bold(form.Path), sheet)
	required := 0
	for n := range form.Columns {
		if form.Columns[n].Need == template.Required {
			required++
		}
	}
	p.WrapHanging("", "  ", fmt.Sprintf("%s, %s of which must be filled: %s. Products go in from row %d.", plural(len(form.Columns), "column", "columns"), thousands(required), form.Rows(), form.First))
	var most []string
	if form.MostRows > 0 {
		most = append(most, plural(form.MostRows, "row", "rows")+" of products")
	}
	if form.MostMegabytes > 0 {
		most = append(most, plural(form.MostMegabytes, "megabyte", "megabytes"))
	}
	if most != nil {
		p.WrapHanging("", "  ", "A file may have "+strings.Join(most, " and ")+".")
	}
	if ways := form.Ways.Words(); ways != nil {
		p.WrapHanging("", "  ", "It writes "+strings.Join(ways, ", ")+".")
	}
	if r != nil && r.NotFollowed != "" {
		p.WrapHanging("", "  ", p.Open(r.NotFollowed))
	}
	t := &terminal.Table{Headings: []string{"column", "must", "what goes in"}}
	if r != nil {
		t.Headings, t.Right = []string{"column", "must", "from", "filled", "example", "what goes in"}, []int{3}
	}
	var blank, hidden []string
	last := 0
	for n := 0; n < len(form.Columns); n = last + 1 {
		c, m := &form.Columns[n], matches[n]
		last = n
		if c.Hidden && !o.all {
			hidden = append(hidden, c.Name())
			continue
		}
		if r != nil && m.From < 0 && m.Fixed == "" && !m.Ask && !o.all {
			blank = append(blank, c.Name())
			continue
		}
		must := map[template.Need]string{template.Required: "yes", template.Recommended: "should", template.Conditional: "perhaps"}[c.Need]
		name, says := c.Name(), catalogue.Shorten(form.Says(n), 44)
		for m.Nth > 0 && last+1 < len(matches) && matches[last+1].From == m.From && matches[last+1].Ask == m.Ask && form.Columns[last+1].Need == c.Need && form.Says(last+1) == form.Says(n) {
			last++
		}
		if last > n {
			if name += " … " + form.Columns[last].Name(); form.Columns[last].Name() == c.Name() {
				name = fmt.Sprintf("%s (%d columns)", c.Name(), last-n+1)
			}
		}
		if r == nil {
			t.Rows = append(t.Rows, []string{catalogue.Shorten(name, 30), must, says})
			continue
		}
		from, filled, example := comesFrom(offers, m, matches[last].Nth), "", ""
		switch {
		case m.From >= 0:
			filled, example = percent(r.Fill[m.From].Filled, r.Survey.Rows), catalogue.Shorten(visible(offers[m.From].Example(), 16), 16)
		case m.Fixed != "":
			example = catalogue.Shorten(m.Fixed, 16)
		}
		t.Rows = append(t.Rows, []string{catalogue.Shorten(name, 26), must, from, filled, example, says})
	}
	p.Head("Columns")
	p.Table(t)
	if hidden != nil {
		p.WrapHanging("", "  ", p.Faint("Not shown in the template (-all has them): "+strings.Join(hidden, ", ")+"."))
	}
	if r == nil {
		p.Head("What of a file fills it")
		p.Line("  zetanum inspect FILE -template ", quoted(o.template))
		s.suggest("zetanum help jobs template")
		return
	}
	if blank != nil {
		p.WrapHanging("", "  ", p.Faint("Optional, and nothing in the file fills them (-all shows them): "+strings.Join(blank, ", ")+"."))
	}
	decide(p, form, offers, matches)
	if list := unused(offers, matches); list != nil {
		p.Head("Goes nowhere")
		p.WrapHanging("  ", "  ", strings.Join(list, ", "))
	}
	if o.template == target.Self {
		s.suggest("zetanum repair", quoted(r.Source.Path), "-template self")
		return
	}
	s.suggest("zetanum begin -ask", quoted(r.Source.Path), "-template", quoted(o.template))
}

// comesFrom says what fills a column; of several values in a cell those up to the last.
func comesFrom(offers []template.Offer, m template.Match, last int) string {
	sign := ""
	if m.Ask {
		sign = "? "
	}
	switch {
	case m.From >= 0 && last > m.Nth:
		return fmt.Sprintf("%s%s %d–%d", sign, catalogue.Shorten(offers[m.From].Heading, 16), m.Nth, last)
	case m.From >= 0 && m.Nth > 0:
		return fmt.Sprintf("%s%s %d", sign, catalogue.Shorten(offers[m.From].Heading, 16), m.Nth)
	case m.From >= 0:
		return sign + catalogue.Shorten(offers[m.From].Heading, 20)
	case m.Fixed != "":
		return "the same in all"
	case m.Ask:
		return "? nothing"
	}
	return "–"
}

// percent writes a share.
func percent(n, of int) string {
	if of == 0 {
		return ""
	}
	return fmt.Sprintf("%d %%", 100*n/of)
}

// decide lists what somebody has to decide: what is only likely, and what must be filled and is not.
func decide(p *terminal.Printer, form *template.Template, offers []template.Offer, matches []template.Match) {
	headed := false
	for n, m := range matches {
		if !m.Ask {
			continue
		}
		if !headed {
			p.Head("To decide")
			headed = true
		}
		c := &form.Columns[n]
		says := ""
		switch {
		case m.From < 0 && m.Next >= 0:
			says = fmt.Sprintf("must be filled, and no column of the file says so; perhaps “%s” (%s)?", offers[m.Next].Heading, visible(offers[m.Next].Example(), 30))
		case m.From < 0:
			says = "must be filled, and no column of the file seems to have it"
		case m.Next >= 0:
			says = fmt.Sprintf("“%s” (%s) or “%s” (%s)?", offers[m.From].Heading, visible(offers[m.From].Example(), 30), offers[m.Next].Heading, visible(offers[m.Next].Example(), 30))
		default:
			says = fmt.Sprintf("is it “%s” (%s)?", offers[m.From].Heading, visible(offers[m.From].Example(), 30))
		}
		p.WrapHanging("  ", "    ", p.Open(c.Name())+": "+says)
	}
}
