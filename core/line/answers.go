package line

import (
	"strconv"

	"zetanum/core/catalogue"
)

// Answers say what becomes of what is found, where a person has said so: nothing else of a run
// depends on who asked.
type Answers struct {
	// Of returns what has been said to a finding, and on which ground: a person's or the
	// rulebook's. It is asked when something is found.
	Of func(f *catalogue.Finding, row *catalogue.Row) (catalogue.Answer, catalogue.Ground)
	// Codes are the findings of which it knows anything.
	Codes [catalogue.MostCodes]bool
	// List is the number of the list of cells that go out although they are not settled.
	List int
}

// A pending answer is one that is carried out when the step that found something is done.
type pending struct {
	code   catalogue.Code
	row    *catalogue.Row
	col    int
	answer catalogue.Answer
	ground catalogue.Ground
}

// ask asks what has been said to a finding.
func (l *Log) ask(f *catalogue.Finding, row *catalogue.Row) {
	a := l.answers
	if a == nil || !a.Codes[f.Code] {
		return
	}
	var ground catalogue.Ground
	if f.Answer, ground = a.Of(f, row); f.Answer.Frees() {
		l.pending = append(l.pending, pending{f.Code, row, f.Col, f.Answer, ground})
	}
}

// carryOut does what has been answered to what was found since.
func (l *Log) carryOut() {
	if len(l.pending) == 0 {
		return
	}
	for _, p := range l.pending {
		if !l.Has(p.code, p.row, p.col) {
			continue // settled by the same step
		}
		if p.answer == catalogue.LeaveOut {
			l.leaveOut(p.code)
			continue
		}
		l.enterOpen(&p)
		if p.answer == catalogue.Blank && p.row.Cells[p.col] != "" {
			l.Set(p.row, p.col, "", catalogue.RuleBlanked, p.ground, "")
		}
	}
	l.pending = l.pending[:0]
}

// leaveOut sets the whole product aside, with what has been put into other rows of it.
func (l *Log) leaveOut(code catalogue.Code) {
	for i := range l.product.Rows {
		if l.joined[i] {
			l.aside[i], l.joined[i] = false, false
		}
		l.Aside(i, catalogue.RowLeftOut, catalogue.Facts{Other: code.Entry().Title})
	}
}

// enterOpen lists a cell that goes out although it is not settled.
func (l *Log) enterOpen(p *pending) {
	if p.col < 0 || l.judging {
		return
	}
	for i, row := range l.product.Rows {
		if row != p.row {
			continue
		}
		l.Enter(l.answers.List, i, strconv.Itoa(row.Number), l.headings[p.col], row.Cells[p.col], p.answer.String(), p.code.Entry().Title)
		return
	}
}
