package steps

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/line"
	"zetanum/core/linkcheck"
)

// Opened is what links have led to when they were opened, and what becomes of those that lead to no picture.
type Opened struct {
	Results map[string]*linkcheck.Result
	Drop    bool // further ones are taken out; the first of a product stays, and is named
	Move    bool // addresses are written in place of links that have moved for good
}

// opened returns the step that looks at links by what they have led to.
func (m *imageShaper) opened(s *Sheet, o *Opened) line.Step {
	l := m.linksOf()
	d := &openedLinks{imageLinks: l, Opened: o}
	step := line.Step{Name: NameImageOpened, Reads: s.everyColumn(), Before: writing, New: Always(d.repair)}
	if o.Drop || o.Move {
		step.Writes = catalogue.ColumnsOf(append([]int{m.of.Alt}, l.all...)...)
		step.Rules = []catalogue.Rule{catalogue.RuleImageDead, catalogue.RuleImageMoved}
	}
	return step
}

type openedLinks struct {
	*imageLinks
	*Opened
}

func (d *openedLinks) repair(p *catalogue.Product, log *line.Log) {
	b := buffer(log)
	first := true // the next link is the first of the product
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		dropped, left := false, false
		for _, col := range d.all {
			cell := row.Cell(col)
			if cell == "" || damaged(row, col, log) {
				continue
			}
			b.Keys = b.Keys[:0]
			b.Read(&certain, cell)
			out := d.cell(row, col, b, &first, log)
			dropped, left = dropped || out != cell && out == "", left || out != ""
		}
		if dropped && left {
			d.closeUp(row, catalogue.RuleImageDead, log)
		}
		if dropped && !left && p.Role(i) == catalogue.ImageRow && !d.more(row, p.Rows[0]) {
			log.Join(i, catalogue.RuleImageDead)
		}
	}
}

// cell looks at the links of one cell, and returns what it has become.
func (d *openedLinks) cell(row *catalogue.Row, col int, b *linkBuffer, first *bool, log *line.Log) string {
	cell := row.Cell(col)
	var kept []string
	var gone []int
	var rule catalogue.Rule
	for n, link := range b.Links {
		out := link.As
		r := d.Results[link.Out]
		if r != nil {
			to := moved(r)
			switch {
			case to != "" && d.Move:
				out, rule = to, catalogue.RuleImageMoved
			case r.State == linkcheck.Dead || r.State == linkcheck.Closed:
				if d.Drop && !*first {
					gone, rule = append(gone, n), catalogue.RuleImageDead
					continue
				}
				log.Notice(catalogue.ImageDead, row, col, cell, catalogue.Facts{Other: said(link.As, r), Proposed: to})
			case to != "":
				log.Notice(catalogue.ImageMoved, row, col, cell, catalogue.Facts{Other: to, Proposed: to})
			case r.State == linkcheck.Silent:
				log.Notice(catalogue.ImageSilent, row, col, cell, catalogue.Facts{Other: said(link.As, r)})
			}
			if r.State == linkcheck.Good && r.Info.Type != "" {
				note := func(code catalogue.Code, facts catalogue.Facts) {
					if !log.Has(code, row, col) {
						log.Notice(code, row, col, cell, facts)
					}
				}
				if lookAtPicture(d.rules, Seen{Name: link.As, Info: r.Info, Size: r.Size}, note); r.OneHue {
					note(catalogue.ImageStandIn, catalogue.Facts{Other: "it is the same colour all over"})
				}
			}
		}
		if link.Is.IsAddress() || link.Is == imagelink.FileName {
			*first = false
		}
		kept = append(kept, out)
	}
	if rule == catalogue.NoRule {
		return cell
	}
	if gone != nil && col == d.of.Image {
		d.dropTexts(row, len(b.Links), gone, log)
	}
	after := strings.Join(kept, b.Mark())
	d.set(row, col, after, rule, log)
	return after
}

// moved returns the address that may be written in place of a link, "" if there is none.
func moved(r *linkcheck.Result) string {
	switch {
	case r.Instead != "":
		return r.Instead
	case r.Permanent && r.State == linkcheck.Good:
		return r.Final
	}
	return ""
}

// said says in words what has come of a link.
func said(link string, r *linkcheck.Result) string {
	says := strings.ReplaceAll(string(r.Reason), "-", " ")
	if r.Says != "" {
		says += ": " + r.Says
	}
	return link + " (" + says + ")"
}
