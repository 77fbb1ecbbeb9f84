package line

import (
	"cmp"
	"context"
	"io"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A Run is a repair of one sheet.
type Run struct {
	Options
	Table    *sheet.Table
	Pipeline *Pipeline
	Survey   *Survey
	Sample   int // if not 0, how many products go out, the others being set aside
	// Holding is what is wrong with the whole sheet and holds every product of it.
	Holding []catalogue.Finding
	Output  Output
	// Branches are further targets.
	Branches []Branch
	Temp     string // a folder for what is needed for a while; "": that of the system

	cuts        []Cut   // of what goes out, by product, if they are wanted
	headSize    int64   // of what the file for the importer begins with
	readySum    uint64  // of all its bytes
	pieces      []piece // of it, in order
	proves      bool    // each row of it is read back where it is written
	repairers   []Repairer
	begins      []int // rows with which a product begins, in order
	allotted    *allotted
	done, total int64 // bytes, for the progress
}

// Do runs the line and returns the report. The outputs become files in dir;
// with dir "" nothing is written. They can be read at once, but finish must be
// called before they are moved: it waits until all of them is on the disk, closes
// them and returns their checksums by name.
func (r *Run) Do(ctx context.Context, dir string) (report *Report, finish func() (map[string]uint64, error), err error) {
	r.Output.begin(&r.Table.Form, r.Table.Columns.Own())
	r.proves = dir != "" && r.Output.proves()
	for i := range r.Branches {
		b := &r.Branches[i]
		b.Output.begin(&r.Table.Form, r.Table.Columns.Own())
		if b.repairer, err = b.Step.New(nil); err != nil {
			return nil, nil, err
		}
	}
	for i := range r.Pipeline.Steps {
		repairer, err := r.Pipeline.Steps[i].New(r.Survey.Learned[i])
		if err != nil {
			return nil, nil, err
		}
		if repairer != nil {
			r.repairers = append(r.repairers, repairer)
		}
		if p, ok := r.Survey.Learned[i].(Parter); ok {
			r.begins = append(r.begins, p.Begins()...)
		}
	}
	slices.Sort(r.begins)
	suspect := r.suspectParts()
	for i := range suspect {
		r.total += int64(suspect[i].Size)
	}
	r.total += r.Table.Extent
	late, err := r.judge(ctx, suspect)
	defer func() { err = cmp.Or(err, late.close()) }()
	if err != nil {
		return nil, nil, err
	}
	files, err := r.newFiles(dir)
	if err != nil {
		return nil, nil, err
	}
	report = &Report{examples: r.Examples}
	err = r.pass(ctx, r.Survey.Parts, func(w *worker, part *sheet.Part, before int, out *result) {
		w.repair(part, before, late, out)
	}, func(out *result) error {
		report.Merge(&out.report)
		if len(out.memos) > 0 && r.Pipeline.Remember != nil {
			if err := r.Pipeline.Remember(out.memos); err != nil {
				return err
			}
		}
		return files.add(out)
	})
	if err == nil {
		err = files.sort()
	}
	if err == nil {
		err = files.rest(report)
	}
	if err == nil {
		err = r.Table.CheckUnchanged()
	}
	if err != nil {
		files.close()
		return nil, nil, err
	}
	r.cuts, r.pieces = files.cuts, files.pieces
	if files.sums[ready] != nil {
		r.readySum = files.sums[ready].Sum64()
	}
	for i := range files.branches {
		r.Branches[i].Sum = files.branches[i].sums[0].Sum64()
	}
	return report, files.finish, nil
}

// Cuts returns how many bytes the file for the importer begins with, and how much of it each product takes that follows.
func (r *Run) Cuts() (head int64, cuts []Cut) { return r.headSize, r.cuts }

// asksAll reports whether more is asked of products than what becomes of suspects: of all, how they look or what they are to be given.
func (r *Run) asksAll() bool {
	return r.Sample > 0 || len(r.Pipeline.Allotments) > 0 || r.Pipeline.Narrow != nil
}

// suspectParts returns the parts in which suspects lie; all where all are asked.
func (r *Run) suspectParts() []PartIndex {
	var parts []PartIndex
	for i := range r.Survey.Parts {
		if r.asksAll() || r.Survey.suspects.any(&r.Survey.Parts[i]) {
			parts = append(parts, r.Survey.Parts[i])
		}
	}
	return parts
}

// judge repairs parts for what their suspects claim, and says what becomes of
// rows because of others.
func (r *Run) judge(ctx context.Context, parts []PartIndex) (*settled, error) {
	var late *settled
	for round := 0; ; round++ {
		claims := newClaims(r.Temp, r.Sample, r.Pipeline.Claims)
		claims.keeps = r.Pipeline.Repeats == RepeatsKept
		asks, held := new(askList), rowSet{}
		var differ catalogue.ColumnSet
		err := r.pass(ctx, parts, func(w *worker, part *sheet.Part, before int, out *result) {
			w.judge(part, before, late, out)
		}, func(out *result) error {
			asks.add(out.asks)
			differ.AddAll(out.differs)
			for _, product := range out.held {
				held.add(product)
			}
			for _, k := range out.kept {
				r.Pipeline.Allotments[k.kind].Keep(k.text)
			}
			return claims.enter(out.marks)
		})
		now, failed := claims.settle()
		if err = cmp.Or(err, failed); late == nil {
			late = now
		} else { // which rows repeat another was seen before they were given anything
			err = cmp.Or(err, late.clashes.Close(), now.passed.Close(), now.differ.Close())
			late.clashes, late.held = now.clashes, now.held
		}
		rounds := r.rounds()
		narrow := func() {
			if n := r.Pipeline.Narrow; n != nil {
				r.Output.narrow(differ, n.Stay, r.Table.Columns.Headings)
			}
		}
		if err != nil || rounds == 0 {
			narrow()
			return late, err
		}
		if round == rounds {
			narrow()
			return late, r.allotted.release(func(product uint32) bool { return held.has(product) || late.held.has(product) })
		}
		if r.allotted == nil {
			r.allotted = &allotted{kinds: r.Pipeline.Allotments}
		}
		if err := r.allotted.settle(asks, late); err != nil {
			return late, err
		}
		if round+1 == rounds && !r.Pipeline.SettlesTwice {
			narrow()
			return late, nil
		}
	}
}

// rounds returns in how many rounds is allotted.
func (r *Run) rounds() (n int) {
	for i := range r.Pipeline.Allotments {
		n = max(n, r.Pipeline.Allotments[i].Round+1)
	}
	return n
}

// largeResult is how many bytes of a result are kept for others at most, and perRow about how
// many a row takes besides its own while it is worked on.
const (
	largeResult = 8 << 20
	perRow      = 128
)

func weightOf(index *PartIndex) int { return index.Size + perRow*index.Rows }

// pass lets workers work on parts and takes the results in order.
func (r *Run) pass(ctx context.Context, parts []PartIndex, work func(*worker, *sheet.Part, int, *result), sink func(*result) error) error {
	workers := make([]*worker, r.Workers)
	for i := range workers {
		workers[i] = r.newWorker()
	}
	free := make(chan *result, 2*r.Workers+2)
	next := 0
	return ordered(ctx, r.Workers, func() (*PartIndex, error) {
		if next == len(parts) {
			return nil, io.EOF
		}
		next++
		return &parts[next-1], nil
	}, weightOf, func(worker int, index *PartIndex) (*result, error) {
		var out *result
		select {
		case out = <-free:
			out.reset()
		default:
			out = new(result)
		}
		out.report.examples = r.Examples
		part := index.Part
		if err := r.Table.Load(&part); err != nil {
			return nil, err
		}
		out.part = part
		work(workers[worker], &part, index.Before, out)
		if weightOf(index) > largePart {
			workers[worker] = r.newWorker() // the old one has the whole product
		}
		return out, out.err
	}, func(out *result) error {
		if err := sink(out); err != nil {
			return err
		}
		out.part.Release()
		r.done += int64(out.part.Size)
		r.progress(r.done, r.total)
		if out.room() > largeResult {
			return nil // a large product; what it needed goes
		}
		select {
		case free <- out:
		default:
		}
		return nil
	})
}
