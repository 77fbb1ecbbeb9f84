package line

import (
	"context"
	"errors"
	"io"

	"golang.org/x/sync/errgroup"
)

// ordered takes items from next until it returns [io.EOF], lets workers work on
// them and hands the results to sink in the order of the items. work is told
// which worker calls. If anything fails, the error that belongs to the first
// item is returned, whoever came upon it first.
func ordered[T, R any](ctx context.Context, workers int, next func() (T, error), work func(worker int, item T) (R, error),
	sink func(R) error) error {
	type outcome struct {
		result R
		err    error
	}
	type job struct {
		item T
		done chan outcome
	}
	group, ctx := errgroup.WithContext(ctx)
	jobs := make(chan job)
	queue := make(chan chan outcome, workers)
	group.Go(func() error {
		defer close(jobs)
		defer close(queue)
		for {
			item, err := next()
			if errors.Is(err, io.EOF) {
				return nil
			}
			j := job{item, make(chan outcome, 1)}
			if err != nil {
				j.done <- outcome{err: err}
			}
			select {
			case queue <- j.done:
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
		for done := range queue {
			select {
			case o := <-done:
				if o.err != nil {
					return o.err
				}
				if err := sink(o.result); err != nil {
					return err
				}
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		return nil
	})
	return group.Wait()
}
