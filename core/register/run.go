package register

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync/atomic"
	"time"
)

// The states of a run.
const (
	reserving = 0 // its codes are its own while its lease lasts
	issued    = 1
)

// A Block is codes that are reserved at once. It has no texts itself, so that a million of them take little room.
type Block struct {
	IDs      []int64                          // of the codes, see [Key]; 0: there is none at that place
	Products []int64                          // of the products that have them, 0 where nothing tells one apart
	Text     func(i int) (code, label string) // label says of which product it is, for people
}

// ordered returns places of codes of the block in the order of numbers, but for those where it is 0.
func ordered(numbers []int64, places []uint32) []uint32 {
	list := make([]uint32, 0, len(places))
	for _, i := range places {
		if numbers[i] != 0 {
			list = append(list, i)
		}
	}
	slices.SortFunc(list, func(a, b uint32) int { return cmp.Compare(numbers[a], numbers[b]) })
	return list
}

// all returns all places up to a number.
func all(n int) []uint32 {
	list := make([]uint32, n)
	for i := range list {
		list[i] = uint32(i)
	}
	return list
}

func compare(a, b int64) int { return cmp.Compare(a, b) }

// A Run reserves codes, and issues them in the end.
type Run struct {
	*Register
	Before uint64 // the serial when it began
	Noted  int    // how many barcodes are to be remembered that were not before

	id       int64
	day      string
	try      bool // nothing is reserved
	reserved int
	entered  bool // codes, even if they have been given back since
	noted    bool // something is to be remembered
	lost     atomic.Bool
	stop     chan struct{}
	stopped  chan struct{}
}

// Begin begins a run. day is that of the run, as YYYY-MM-DD, and file the checksum of the file; one that is only
// tried reserves nothing.
func (r *Register) Begin(ctx context.Context, day string, file uint64, try bool) (*Run, error) {
	run := &Run{Register: r, day: day, try: try}
	var err error
	if run.Before, err = r.Serial(ctx); err != nil || try {
		return run, err
	}
	err = r.tx(ctx, func(tx *sql.Tx) error {
		if err := r.alone(ctx, tx); err != nil {
			return err
		}
		if err := r.forgetExpired(ctx, tx); err != nil {
			return err
		}
		return tx.QueryRowContext(ctx, r.bind("insert into runs (state, lease, day, file) values (?, ?, ?, ?) returning id"), reserving, r.until(), day, int64(file)).Scan(&run.id)
	})
	if err != nil {
		return nil, err
	}
	run.stop, run.stopped = make(chan struct{}), make(chan struct{})
	go run.renew()
	return run, nil
}

// until returns when a lease ends that begins now.
func (r *Register) until() int64 { return r.now().Add(Lease).UnixMilli() }

// renew renews the lease until the run is over.
func (run *Run) renew() {
	defer close(run.stopped)
	for {
		select {
		case <-run.stop:
			return
		case <-time.After(Lease / 4):
		}
		ctx, cancel := context.WithTimeout(context.Background(), Wait)
		n, err := run.touch(ctx, run.db)
		cancel()
		if err == nil && n == 0 {
			run.lost.Store(true)
			return
		}
	}
}

// touch renews the lease if it has not run out, and returns 0 if it has.
func (run *Run) touch(ctx context.Context, q querier) (int64, error) {
	done, err := q.ExecContext(ctx, run.bind("update runs set lease = ? where id = ? and state = ? and lease >= ?"), run.until(), run.id, reserving,
		run.now().UnixMilli())
	if err != nil {
		return 0, err
	}
	return done.RowsAffected()
}

// forgetExpired frees what was reserved for runs that are no more.
func (r *Register) forgetExpired(ctx context.Context, tx *sql.Tx) error {
	var runs []int64
	err := each(ctx, tx, r.bind("select id from runs where state = ? and lease < ? order by id desc"), []any{reserving, r.now().UnixMilli()}, func(rows *sql.Rows) error {
		var id int64
		err := rows.Scan(&id)
		runs = append(runs, id)
		return err
	})
	for _, id := range runs {
		if err == nil {
			err = r.forgetRun(ctx, tx, id, true, true)
		}
	}
	return err
}

// forgetRun frees what was reserved for a run: its codes, and the numbers of counters that nobody has gone
// on from since; and what it wanted to be remembered.
func (r *Register) forgetRun(ctx context.Context, tx *sql.Tx, id int64, codes, seen bool) error {
	var list []string
	if codes {
		list = append(list, "delete from products where code in (select id from codes where run = ?)", "delete from codes where run = ?")
	}
	if seen { // what another run found there it has not taken down itself
		list = append(list, "delete from stretches where exists (select 1 from seen where run = ?)", "delete from stretches where run = ?",
			"delete from numbers where exists (select 1 from seen where seen.key = numbers.key and seen.number = numbers.number and seen.run = ?)",
			"delete from seen where run = ?")
	}
	for _, statement := range append(list, "update heads set last = (select min(first) - 1 from holds where run = ? and head = heads.id) where id in "+
		"(select head from holds where run = ?) and last = (select max(last) from holds where run = ? and head = heads.id)",
		"delete from holds where run = ?", "delete from runs where id = ?") {
		args := slices.Repeat([]any{id}, strings.Count(statement, "?"))
		if _, err := tx.ExecContext(ctx, r.bind(statement), args...); err != nil {
			return err
		}
	}
	return nil
}

// Known returns the codes that products have been issued, by their place; those that are only reserved for
// another run are none. The products are told by their numbers, see [Key].
func (run *Run) Known(ctx context.Context, products []int64) (map[int]string, error) {
	known := make(map[int]string)
	var some bool
	if err := run.db.QueryRowContext(ctx, "select exists (select 1 from runs where state = 1)").Scan(&some); err != nil || !some {
		return known, run.said(err)
	}
	order := ordered(products, all(len(products)))
	ids := make([]int64, len(order))
	for at, i := range order {
		ids[at] = products[i]
	}
	err := run.among(ctx, run.db, "select products.id, codes.code from products join codes on codes.id = products.code join runs on runs.id = codes.run "+
		"where runs.state = 1 and products.id in @ids", slices.Compact(slices.Clone(ids)), func(rows *sql.Rows) error {
		var id int64
		var code string
		err := rows.Scan(&id, &code)
		for at, _ := slices.BinarySearch(ids, id); at < len(ids) && ids[at] == id; at++ {
			known[int(order[at])] = code
		}
		return err
	})
	return known, run.said(err)
}

// Reserve reserves codes of a space in one transaction. issue gives them, when it is told how far the
// counters of heads have come, and may be asked again: in the places that it is told, of which others have
// the codes, it gives others. It returns how far it has come with each counter.
func (run *Run) Reserve(ctx context.Context, space string, heads []uint64, renew bool, issue func(last map[uint64]uint64, taken []uint32) (*Block, map[uint64]uint64, error)) error {
	if run.lost.Load() {
		return ErrLease
	}
	return run.tx(ctx, func(tx *sql.Tx) error {
		if !run.try {
			if err := run.alone(ctx, tx); err != nil {
				return err
			}
		}
		last, err := run.last(ctx, tx, space, heads)
		if err != nil {
			return err
		}
		began := maps.Clone(last)
		var reached map[uint64]uint64
		var taken []uint32
		for {
			var block *Block
			if block, reached, err = issue(last, taken); err != nil {
				return err
			}
			if taken == nil {
				taken = all(len(block.IDs))
			}
			if taken, err = run.enter(ctx, tx, space, block, taken, renew); err != nil || len(taken) == 0 {
				break
			}
		}
		if err != nil || run.try {
			return err
		}
		if n, err := run.touch(ctx, tx); err != nil || n == 0 {
			return cmp.Or(err, error(ErrLease))
		}
		return run.count(ctx, tx, space, began, reached)
	})
}

// Release gives back codes that the run has reserved, and returns how many; those that it found issued before stay.
func (run *Run) Release(ctx context.Context, space string, folded []uint64) (given int, err error) {
	if run.try {
		return len(folded), nil
	}
	ids := make([]int64, 0, len(folded))
	for _, f := range folded {
		ids = append(ids, Key(space, f))
	}
	slices.Sort(ids)
	return given, run.tx(ctx, func(tx *sql.Tx) error {
		if err := run.alone(ctx, tx); err != nil {
			return err
		}
		for part := range slices.Chunk(ids, atOnce) {
			var own []int64
			err := run.among(ctx, tx, fmt.Sprintf("select id from codes where run = %d and id in @ids", run.id), part, func(rows *sql.Rows) error {
				var id int64
				err := rows.Scan(&id)
				own = append(own, id)
				return err
			})
			for _, id := range own {
				for _, statement := range []string{"delete from products where code = ?", "delete from codes where id = ?"} {
					if err == nil {
						_, err = tx.ExecContext(ctx, run.bind(statement), id)
					}
				}
			}
			if err != nil {
				return err
			}
			run.reserved -= len(own)
			given += len(own)
		}
		return nil
	})
}

// Reached returns how far counters have come, by the hashes of what stands before them; those that have not
// begun are not among them.
func (run *Run) Reached(ctx context.Context, space string, heads []uint64) (map[uint64]uint64, error) {
	last, err := run.last(ctx, run.db, space, heads)
	return last, run.said(err)
}

// last returns how far counters have come.
func (run *Run) last(ctx context.Context, q querier, space string, heads []uint64) (map[uint64]uint64, error) {
	last, of := make(map[uint64]uint64), make(map[int64]uint64)
	var ids []int64
	for _, head := range heads {
		id := Key(space, head)
		of[id] = head
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return last, run.among(ctx, q, "select id, last from heads where id in @ids", ids, func(rows *sql.Rows) error {
		var id, n int64
		err := rows.Scan(&id, &n)
		last[of[id]] = uint64(n)
		return err
	})
}

// enter enters the codes in places of a block, and returns those places of which others have the code.
func (run *Run) enter(ctx context.Context, tx *sql.Tx, space string, b *Block, places []uint32, renew bool) (taken []uint32, err error) {
	order := ordered(b.IDs, places)
	if !run.try {
		told := make(chan []uint32, 1)
		go func() { told <- b.told(places) }() // meanwhile
		n, err := run.insert(ctx, tx, run.id, space, b, order)
		list := <-told
		if err != nil {
			return nil, err
		}
		run.reserved, run.entered = run.reserved+int(n), true
		if n == int64(len(order)) {
			return nil, run.products(ctx, tx, b, list, renew)
		}
	}
	ids := make([]int64, 0, len(order))
	for _, i := range order {
		ids = append(ids, b.IDs[i])
	}
	err = run.among(ctx, tx, fmt.Sprintf("select id from codes where run <> %d and id in @ids", run.id), ids, func(rows *sql.Rows) error {
		var id int64
		err := rows.Scan(&id)
		if at, found := slices.BinarySearch(ids, id); found {
			taken = append(taken, order[at])
		}
		return err
	})
	slices.Sort(taken)
	if err != nil || run.try {
		return taken, err
	}
	rest := slices.DeleteFunc(slices.Clone(places), func(i uint32) bool {
		_, others := slices.BinarySearch(taken, i)
		return others
	})
	return taken, run.products(ctx, tx, b, b.told(rest), renew)
}

// told returns those places, in the order of the products, at which it is told for which product the code is; of
// several of one product the first.
func (b *Block) told(places []uint32) []uint32 {
	list := ordered(b.Products, places)
	list = slices.DeleteFunc(list, func(i uint32) bool { return b.IDs[i] == 0 })
	return slices.CompactFunc(list, func(i, k uint32) bool { return b.Products[i] == b.Products[k] })
}

// count takes down how far counters have come, and which numbers are only reserved.
func (run *Run) count(ctx context.Context, tx *sql.Tx, space string, began, reached map[uint64]uint64) error {
	for _, head := range sortedKeys(reached) {
		n, before := reached[head], began[head]
		if n <= before {
			continue
		}
		id := Key(space, head)
		if _, err := tx.ExecContext(ctx, run.bind("insert into heads (id, last) values (?, ?) on conflict (id) do update set last = excluded.last"), id, int64(n)); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, run.bind("insert into holds (run, head, first, last) values (?, ?, ?, ?)"), run.id, id, int64(before+1), int64(n)); err != nil {
			return err
		}
	}
	return nil
}

func sortedKeys(m map[uint64]uint64) []uint64 {
	keys := make([]uint64, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// Commit issues what was reserved, all of it or nothing, and returns the serial after that.
func (run *Run) Commit(ctx context.Context) (serial uint64, err error) {
	if run.try {
		return run.Before, nil
	}
	run.end()
	err = run.tx(ctx, func(tx *sql.Tx) error {
		if err := run.alone(ctx, tx); err != nil {
			return err
		}
		if run.reserved == 0 && !run.noted {
			serial = run.Before
			return run.forgetRun(ctx, tx, run.id, false, false)
		}
		done, err := tx.ExecContext(ctx, run.bind("update runs set state = ? where id = ? and state = ? and lease >= ?"), issued, run.id, reserving, run.now().UnixMilli())
		if err != nil {
			return err
		}
		if n, err := done.RowsAffected(); err != nil || n == 0 {
			return cmp.Or(err, fmt.Errorf("%w. Nothing was written; run again", ErrLease))
		}
		if _, err = tx.ExecContext(ctx, run.bind("delete from holds where run = ?"), run.id); err != nil {
			return err
		}
		if serial, err = run.serial(ctx, tx); err != nil || run.reserved+run.Noted == 0 {
			return err
		}
		serial++
		_, err = tx.ExecContext(ctx, run.bind("update meta set value = ? where name = 'serial'"), fmt.Sprint(serial))
		return err
	})
	if err != nil {
		return 0, errors.Join(err, run.free())
	}
	return serial, nil
}

// end stops renewing the lease.
func (run *Run) end() {
	if run.stop != nil {
		close(run.stop)
		<-run.stopped
		run.stop = nil
	}
}

// Rollback gives back what was reserved, if the run is not over.
func (run *Run) Rollback() error {
	if run == nil || run.try || run.stop == nil {
		return nil
	}
	run.end()
	return run.free()
}

// free gives back what was reserved.
func (run *Run) free() error {
	ctx, cancel := context.WithTimeout(context.Background(), Wait)
	defer cancel()
	return run.tx(ctx, func(tx *sql.Tx) error {
		if err := run.alone(ctx, tx); err != nil {
			return err
		}
		return run.forgetRun(ctx, tx, run.id, run.entered, run.noted)
	})
}
