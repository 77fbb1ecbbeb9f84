package line

import (
	"context"
	"errors"
	"io"

	"golang.org/x/sync/errgroup"
)

// ordered takes items from next until it returns [io.EOF], lets workers work on
// them and hands the results to sink in the order of the items. work is told
// which worker calls. The first error ends everything and is returned.
func ordered[T, R any](ctx context.Context, workers int, next func() (T, error), work func(worker int, item T) (R, error), sink func(R) error) error {
	type job struct {
		item T
		done chan R
	}
	group, ctx := errgroup.WithContext(ctx)
	jobs := make(chan job)
	queue := make(chan chan R, workers)
	group.Go(func() error {
		defer close(jobs)
		defer close(queue)
		for {
			item, err := next()
			if errors.Is(err, io.EOF) {
				return nil
			}
			if err != nil {
				return err
			}
			j := job{item, make(chan R, 1)}
			select {
			case queue <- j.done:
			case <-ctx.Done():
				return ctx.Err()
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
				if err != nil {
					return err
				}
				j.done <- result
			}
			return nil
		})
	}
	group.Go(func() error {
		for done := range queue {
			select {
			case result := <-done:
				if err := sink(result); err != nil {
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
