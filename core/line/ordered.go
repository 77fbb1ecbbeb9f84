package line

import (
	"context"
	"errors"
	"io"
	"runtime"

	"golang.org/x/sync/errgroup"
	"golang.org/x/sync/semaphore"

	"zetanum/core/sheet"
)

// inWork is how many bytes are worked on at a time, at least, and largePart from what size on
// nothing of a part waits to be collected.
const (
	inWork    = 32 << 20
	largePart = 4 << 20
)

// ordered takes items from next until it returns [io.EOF], lets workers work on
// them and hands the results to sink in the order of the items. work is told
// which worker calls. If anything fails, the error that belongs to the first
// item is returned, whoever came upon it first. Where weight is not nil, items of no more than
// [inWork] are worked on at a time, but one always is.
func ordered[T, R any](ctx context.Context, workers int, next func() (T, error), weight func(T) int, work func(worker int, item T) (R, error),
	sink func(R) error) error {
	type outcome struct {
		result R
		err    error
	}
	most := int64(max(inWork, 8*workers*sheet.PartSize))
	var none R
	room := semaphore.NewWeighted(most)
	type job struct {
		item T
		done chan outcome
	}
	type waiting struct {
		done   chan outcome
		weight int64
	}
	group, ctx := errgroup.WithContext(ctx)
	jobs := make(chan job)
	queue := make(chan waiting, workers)
	group.Go(func() error {
		defer close(jobs)
		defer close(queue)
		for {
			item, err := next()
			if errors.Is(err, io.EOF) {
				return nil
			}
			j := job{item, make(chan outcome, 1)}
			w := waiting{done: j.done}
			if err != nil {
				j.done <- outcome{err: err}
			} else if weight != nil {
				w.weight = min(int64(weight(item)), most)
				if err := room.Acquire(ctx, w.weight); err != nil {
					return err
				}
			}
			select {
			case queue <- w:
			case <-ctx.Done():
				return ctx.Err()
			}
			if err != nil {
				return nil // it is returned in its turn
			}
			select {
			case jobs <- j:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
	})
	for worker := range workers {
		group.Go(func() error {
			for j := range jobs {
				result, err := work(worker, j.item)
				j.done <- outcome{result, err}
			}
			return nil
		})
	}
	group.Go(func() error {
		for w := range queue {
			select {
			case o := <-w.done:
				if o.err != nil {
					return o.err
				}
				if err := sink(o.result); err != nil {
					return err
				}
				o.result = none
				if w.weight > largePart {
					runtime.GC() // or the next comes beside it
				}
				room.Release(w.weight)
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		return nil
	})
	return group.Wait()
}
