package rehearse

import (
	"runtime"
	"slices"
	"sync"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// batchRows is how many rows are handed to a worker at once.
const batchRows = 256

// inBatches reads a table: workers make something of some rows at a time, and merge is told of it in the order of the rows, those that are not
// blank. reset is called before the first, and again if the table turns out to be in another form. Rows and their cells may be used until merge
// returns.
func inBatches[T any](t *sheet.Table, reset func(), work func(rows []catalogue.Row) T, merge func(rows []catalogue.Row, made T)) error {
	type batch struct {
		rows  []catalogue.Row
		cells []string
		made  T
		done  chan struct{}
		reset bool
	}
	workers := max(1, runtime.GOMAXPROCS(0))
	free := sync.Pool{New: func() any { return new(batch) }}
	jobs, queue := make(chan *batch, workers), make(chan *batch, 2*workers)
	var working, merging sync.WaitGroup
	for range workers {
		working.Go(func() {
			for b := range jobs {
				b.made = work(b.rows)
				close(b.done)
			}
		})
	}
	merging.Go(func() {
		for b := range queue {
			if b.reset {
				reset()
				continue
			}
			<-b.done
			merge(b.rows, b.made)
			var none T
			b.rows, b.cells, b.made = b.rows[:0], b.cells[:0], none
			free.Put(b)
		}
	})
	now := free.Get().(*batch)
	hand := func() {
		if len(now.rows) > 0 {
			now.done = make(chan struct{})
			queue <- now
			jobs <- now
			now = free.Get().(*batch)
		}
	}
	err := t.EachProduct(func() {
		now.rows, now.cells = now.rows[:0], now.cells[:0]
		queue <- &batch{reset: true}
	}, func(row *catalogue.Row) {
		if row.Blank() {
			return
		}
		if len(now.cells)+len(row.Cells) > cap(now.cells) { // those that are handed on stay where they are
			if len(now.rows) > 0 {
				hand()
			}
			if cap(now.cells) < len(row.Cells) {
				now.cells = make([]string, 0, batchRows*len(row.Cells))
			}
		}
		from := len(now.cells)
		now.cells = append(now.cells, row.Cells...)
		now.rows = append(now.rows, catalogue.Row{Number: row.Number, Cells: slices.Clip(now.cells[from:])})
		if len(now.rows) == batchRows {
			hand()
		}
	})
	hand()
	close(jobs)
	close(queue)
	working.Wait()
	merging.Wait()
	return err
}

// chunked is a list of numbers, some for each row, that grows without being copied.
type chunked struct {
	width  int
	chunks [][]uint32
}

const chunkRows = 1 << 14

// add adds those of rows.
func (c *chunked) add(sums []uint32) {
	for len(sums) > 0 {
		last := len(c.chunks) - 1
		if last < 0 || len(c.chunks[last]) == chunkRows*c.width {
			c.chunks = append(c.chunks, make([]uint32, 0, chunkRows*c.width))
			last++
		}
		n := min(len(sums), chunkRows*c.width-len(c.chunks[last]))
		c.chunks[last], sums = append(c.chunks[last], sums[:n]...), sums[n:]
	}
}

// of returns those of a row.
func (c *chunked) of(row int) []uint32 {
	from := row % chunkRows * c.width
	return c.chunks[row/chunkRows][from : from+c.width]
}
