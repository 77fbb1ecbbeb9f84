package steps

import (
	"encoding"
	"encoding/binary"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// Learned is what an order learns from products in the survey, an ordered monoid: see [line.Aggregate].
type Learned interface {
	Learn(*catalogue.Product)
	Merge(next Learned)
	encoding.BinaryAppender
}

// A Learner says what an order has to know of a whole sheet before it is carried out: of which columns it learns, in what, and what
// takes it when all has been seen.
type Learner struct {
	Cols  []int
	New   func() Learned
	Judge func(Learned) error
}

// Learn lets the survey learn something for an order.
func (o *Orders) Learn(l Learner) { o.learners = append(o.learners, l) }

// learnedAggregate is what all orders learn.
type learnedAggregate struct {
	of   []Learner
	seen []Learned
}

func newLearnedAggregate(of []Learner) *learnedAggregate {
	l := &learnedAggregate{of: of, seen: make([]Learned, len(of))}
	for i := range of {
		l.seen[i] = of[i].New()
	}
	return l
}

func (l *learnedAggregate) Learn(p *catalogue.Product) {
	for _, one := range l.seen {
		one.Learn(p)
	}
}

func (l *learnedAggregate) Merge(next line.Aggregate) {
	for i := range l.seen {
		l.seen[i].Merge(next.(*learnedAggregate).seen[i])
	}
}

func (l *learnedAggregate) AppendBinary(b []byte) (_ []byte, err error) {
	for i, one := range l.seen {
		for _, col := range l.of[i].Cols {
			b = binary.AppendUvarint(b, uint64(col))
		}
		if b, err = one.AppendBinary(b); err != nil {
			return nil, err
		}
	}
	return b, nil
}
