package line

import (
	"context"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A Survey is what the first reading of a sheet taught.
type Survey struct {
	Learned  []Aggregate // one for each step, nil where it has nothing to learn
	Parts    []PartIndex
	Rows     int // below the headings
	Products int
	Sum      uint64 // checksum of the whole source

	suspects suspects
}

// PartIndex says where a part lies.
type PartIndex struct {
	sheet.Part
	Rows   int // how many rows it has
	Before int // the number of the row above it
}

// Options say how the line runs.
type Options struct {
	Workers  int // at least 1
	PartSize int // [sheet.PartSize] if 0
	Progress func(done, total int64)
	LookOnly bool // the survey is all there will be
	Examples int  // how many are kept of each kind of change and finding; 0: a few
}

func (o *Options) progress(done, total int64) {
	if o.Progress != nil {
		o.Progress(done, total)
	}
}

// Look reads the sheet for the first time. If the sheet turns out to be in
// another form than its beginning promised, it is read again in that form, and
// the pipeline is asked for again, because its columns may be others.
func Look(ctx context.Context, table *sheet.Table, pipeline func() (*Pipeline, error), opt Options) (*Survey, error) {
	for {
		c, err := pipeline()
		if err != nil {
			return nil, err
		}
		survey, err := look(ctx, table, c, opt)
		surprise, ok := err.(*sheet.Surprise)
		if !ok {
			return survey, err
		}
		if err := table.Adopt(surprise); err != nil {
			return nil, err
		}
	}
}

func newAggregate(steps []Step) []Aggregate {
	aggregate := make([]Aggregate, len(steps))
	for i := range steps {
		if steps[i].Learn != nil {
			aggregate[i] = steps[i].Learn()
		}
	}
	return aggregate
}

func mergeAggregate(into, next []Aggregate) {
	for i := range into {
		if into[i] != nil {
			into[i].Merge(next[i])
		}
	}
}

func partSize(p *sheet.Part) int { return p.Size }

func look(ctx context.Context, table *sheet.Table, pipeline *Pipeline, opt Options) (*Survey, error) {
	if opt.PartSize == 0 {
		opt.PartSize = sheet.PartSize
	}
	split, err := table.Split(pipeline.cutter(), opt.PartSize)
	if err != nil {
		return nil, err
	}
	survey := &Survey{Learned: newAggregate(pipeline.Steps)}
	keyed := !opt.LookOnly
	var keys []func(*catalogue.Product, func(int, uint64)) // of the steps that have some
	for i := range pipeline.Steps {
		if of := pipeline.Steps[i].Keys; of != nil && keyed {
			keys = append(keys, of)
		}
	}
	type learned struct {
		aggregate []Aggregate
		keys      []rowKey
		PartIndex
		products int
	}
	readers := make([]*products, opt.Workers)
	newReader := func() *products {
		p := newProducts(&table.Form, pipeline)
		if p.whole = pipeline.Whole; p.whole != nil {
			learned := pipeline.learned()
			p.scanner.Prefix, p.scanner.Doubled, p.scanner.Undoubled = learned.Last()+2, true, learned
		}
		return p
	}
	for i := range readers {
		readers[i] = newReader()
	}
	done, used := int64(0), make(chan []rowKey, opt.Workers+2) // for the keys of further parts
	err = ordered(ctx, opt.Workers, split.Next, partSize, func(worker int, part *sheet.Part) (learned, error) {
		part.Read(&table.Form)
		result := learned{aggregate: newAggregate(pipeline.Steps), PartIndex: PartIndex{Part: *part}}
		if err := part.Verify(table.Form); err != nil {
			return result, err
		}
		select {
		case result.keys = <-used:
		default:
		}
		reader := readers[worker]
		p := new(catalogue.Product)
		add := func(i int, key uint64) {
			result.keys = append(result.keys, rowKey{key, uint32(p.Rows[i].Number)})
		}
		learning := slices.DeleteFunc(slices.Clone(result.aggregate), func(a Aggregate) bool { return a == nil })
		taught := teacher{ignore: pipeline.Ignore}
		reader.open(part, 0)
		for ; reader.next(p); reader.giveBack(len(p.Rows)) {
			result.Rows += len(p.Rows)
			if p := taught.of(p); len(p.Rows) > 0 {
				result.products++
				for _, l := range learning {
					l.Learn(p)
				}
			}
			for _, of := range keys {
				of(p, add)
			}
		}
		if part.Size > largePart {
			readers[worker] = newReader() // the old one has the whole product
		}
		return result, nil
	}, func(l learned) error {
		l.Before = table.Heading + survey.Rows
		for _, aggregate := range l.aggregate {
			if p, ok := aggregate.(Placer); ok && !table.Form.Numbered {
				p.Place(l.Before)
			}
		}
		mergeAggregate(survey.Learned, l.aggregate)
		if survey.suspects.tables == nil {
			survey.suspects.expect(expectedKeys(table, &l.Part, different(l.keys)))
		}
		if survey.suspects.anywhere = table.Form.Numbered; table.Form.Numbered {
			survey.suspects.enter(l.keys, 0)
		} else {
			survey.suspects.enter(l.keys, l.Before)
		}
		l.Release()
		select {
		case used <- l.keys[:0]:
		default:
		}
		survey.Parts = append(survey.Parts, l.PartIndex)
		survey.Rows += l.Rows
		survey.Products += l.products
		done += int64(l.Size)
		opt.progress(done, table.Extent)
		return nil
	})
	if err != nil {
		return nil, err
	}
	survey.Sum = split.Sum()
	for _, aggregate := range survey.Learned {
		if asks, ok := aggregate.(Inquirer); ok && keyed && survey.suspects.tables != nil {
			err := asks.Inquire(survey.Sum, func(row int, key uint64) { survey.suspects.enterOne(key, uint32(row)) })
			if err != nil {
				return nil, err
			}
		}
	}
	survey.suspects.tables = nil
	return survey, nil
}

// A teacher leaves out the rows of products that teach nothing.
type teacher struct {
	ignore func(*catalogue.Row) bool
	rest   catalogue.Product
}

func (t *teacher) of(p *catalogue.Product) *catalogue.Product {
	if t.ignore == nil || !slices.ContainsFunc(p.Rows, t.ignore) {
		return p
	}
	t.rest.Rows = append(t.rest.Rows[:0], p.Rows...)
	t.rest.Rows = slices.DeleteFunc(t.rest.Rows, t.ignore)
	return &t.rest
}
