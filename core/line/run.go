package line

import (
	"context"
	"io"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A Run is a repair of one sheet.
type Run struct {
	Options
	Table  *sheet.Table
	Course *Course
	Survey *Survey
	Sample int // if not 0, how many products go out, the others being set aside
	Output Output
	Clash  [claimKinds]catalogue.Code // the findings when two products claim one value

	repairers []Repairer
	claims    *claims
}

// Do runs the line and returns the report. The outputs become files in dir;
// with dir "" nothing is written. temp is a folder for what is needed only
// while the line runs.
func (r *Run) Do(ctx context.Context, dir, temp string) (*Report, error) {
	r.Output.form, r.Output.count = &r.Table.Form, len(r.Table.Columns.Headings)
	for i := range r.Course.Steps {
		var lore Lore
		if r.Survey.Lore != nil {
			lore = r.Survey.Lore[i]
		}
		repairer, err := r.Course.Steps[i].New(lore)
		if err != nil {
			return nil, err
		}
		if repairer != nil {
			r.repairers = append(r.repairers, repairer)
		}
	}
	r.claims = newClaims(r.Survey.Rows)
	r.claims.sample.want = r.Sample
	first, err := r.newSpool(dir, temp, "")
	if err != nil {
		return nil, err
	}
	defer first.close()
	if err := r.pass(ctx, first); err != nil {
		return nil, err
	}
	last := first
	if late := r.claims.settle(); late != nil {
		if last, err = r.newSpool(dir, temp, ".again"); err != nil {
			return nil, err
		}
		defer last.close()
		if err := r.redo(ctx, late, first, last); err != nil {
			return nil, err
		}
	}
	if err := r.Table.CheckUnchanged(); err != nil {
		return nil, err
	}
	return last.finish(first)
}

// pass repairs every part and spools the results in order.
func (r *Run) pass(ctx context.Context, to *spool) error {
	workers := make([]*worker, r.Workers)
	for i := range workers {
		workers[i] = r.newWorker()
	}
	free := make(chan *result, 2*r.Workers+2)
	next, done := 0, int64(0)
	return ordered(ctx, r.Workers, func() (*PartIndex, error) {
		if next == len(r.Survey.Parts) {
			return nil, io.EOF
		}
		next++
		return &r.Survey.Parts[next-1], nil
	}, func(worker int, index *PartIndex) (*result, error) {
		var out *result
		select {
		case out = <-free:
		default:
			out = new(result)
		}
		return out, workers[worker].load(index, nil, out)
	}, func(out *result) error {
		r.claims.enter(out.marks)
		if err := to.add(out); err != nil {
			return err
		}
		done += int64(r.Survey.Parts[len(to.parts)-1].Size)
		r.progress(done, r.Table.Size)
		select {
		case free <- out:
		default:
		}
		return nil
	})
}

func (w *worker) load(index *PartIndex, late *settled, out *result) error {
	part := index.Part
	if err := w.run.Table.Load(&part); err != nil {
		return err
	}
	return w.repair(&part, index.Before, late, out)
}

// redo repairs the parts in which the look at the whole sheet changes the fate
// of rows once more, and takes all others over from the first pass.
func (r *Run) redo(ctx context.Context, late *settled, first, last *spool) error {
	dirty := make([]bool, len(r.Survey.Parts))
	for i := range dirty {
		dirty[i] = late.chosen != nil
	}
	for row := range late.fates {
		i, _ := slices.BinarySearchFunc(r.Survey.Parts, row, func(p PartIndex, row int) int {
			switch {
			case row <= p.Before:
				return 1
			case row > p.Before+p.Rows:
				return -1
			}
			return 0
		})
		dirty[i] = true
	}
	workers := make([]*worker, r.Workers)
	for i := range workers {
		workers[i] = r.newWorker()
	}
	next := 0
	err := ordered(ctx, r.Workers, func() (int, error) {
		if next == len(dirty) {
			return 0, io.EOF
		}
		next++
		return next - 1, nil
	}, func(worker, part int) (*result, error) {
		if !dirty[part] {
			return nil, nil
		}
		out := new(result)
		return out, workers[worker].load(&r.Survey.Parts[part], late, out)
	}, func(out *result) error {
		if out == nil {
			last.copyNext(first)
			return nil
		}
		return last.replaceNext(first, out)
	})
	if err != nil {
		return err
	}
	return last.copyDue(first)
}
