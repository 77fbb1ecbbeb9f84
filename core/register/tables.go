package register

import (
	"context"
	"database/sql"
	"fmt"
)

// An Entry is a code in a register.
type Entry struct {
	Space   string `json:"field"` // the field whose codes must differ from it
	Code    string `json:"code"`
	Product string `json:"product,omitempty"` // how that begins by which the product is told from others
	Day     string `json:"day"`               // of the run that issued it
	Run     int64  `json:"run"`
	// Reserved says that it has not been issued, but belongs to a run that may still do so.
	Reserved bool `json:"reserved,omitempty"`

	ID, Of int64 `json:"-"` // its number, and that of the product that has it, 0 if none has
}

const entries = "select codes.id, codes.space, codes.code, codes.label, codes.run, runs.day, runs.state, coalesce(products.id, 0) from codes " +
	"join runs on runs.id = codes.run left join products on products.code = codes.id "

func scanEntry(rows *sql.Rows, e *Entry) error {
	state := 0
	err := rows.Scan(&e.ID, &e.Space, &e.Code, &e.Product, &e.Run, &e.Day, &state, &e.Of)
	e.Reserved = state == reserving
	return err
}

// Each calls do with the codes, ordered by field and code.
func (r *Register) Each(ctx context.Context, do func(*Entry) error) error {
	return r.said(each(ctx, r.db, entries+"order by codes.space, codes.code", nil, func(rows *sql.Rows) error {
		var e Entry
		if err := scanEntry(rows, &e); err != nil {
			return err
		}
		return do(&e)
	}))
}

// EachCounter calls do with the counters: what stands before one, as a number, and how far it has come.
func (r *Register) EachCounter(ctx context.Context, do func(head, last int64) error) error {
	return r.said(each(ctx, r.db, "select id, last from heads order by id", nil, func(rows *sql.Rows) error {
		var head, last int64
		if err := rows.Scan(&head, &last); err != nil {
			return err
		}
		return do(head, last)
	}))
}

// A Sum says how many codes of a field there are.
type Sum struct {
	Space  string `json:"field"`
	Issued int    `json:"issued"`
	Last   string `json:"last_issued,omitempty"` // the day
}

// Sums returns how many codes have been issued, by field.
func (r *Register) Sums(ctx context.Context) (list []Sum, err error) {
	err = each(ctx, r.db, "select codes.space, count(*), max(runs.day) from codes join runs on runs.id = codes.run where runs.state = 1 group by codes.space "+
		"order by codes.space", nil, func(rows *sql.Rows) error {
		var s Sum
		err := rows.Scan(&s.Space, &s.Issued, &s.Last)
		list = append(list, s)
		return err
	})
	return list, r.said(err)
}

// SeenSums returns of how many SKUs of a source barcodes are remembered.
func (r *Register) SeenSums(ctx context.Context) (list []Sum, err error) {
	err = each(ctx, r.db, "select sources.name, count(*), max(runs.day) from seen join runs on runs.id = seen.run join sources on sources.id = seen.source "+
		"where runs.state = 1 group by sources.name order by sources.name", nil, func(rows *sql.Rows) error {
		var s Sum
		err := rows.Scan(&s.Space, &s.Issued, &s.Last)
		list = append(list, s)
		return err
	})
	return list, r.said(err)
}

// Find returns the entries of a code: folded returns a hash of it as codes of a field are compared.
func (r *Register) Find(ctx context.Context, folded func(space string) uint64) (list []Entry, err error) {
	var ids []int64
	err = each(ctx, r.db, "select space from codes group by space", nil, func(rows *sql.Rows) error {
		var space string
		err := rows.Scan(&space)
		ids = append(ids, Key(space, folded(space)))
		return err
	})
	if err != nil {
		return nil, r.said(err)
	}
	return list, r.said(r.among(ctx, r.db, entries+"where codes.id in @ids", ids, func(rows *sql.Rows) error {
		var e Entry
		err := scanEntry(rows, &e)
		list = append(list, e)
		return err
	}))
}

// Forget forgets a code: it may be issued again.
func (r *Register) Forget(ctx context.Context, e *Entry) error {
	return r.change(ctx, func(tx *sql.Tx) error {
		for _, statement := range []string{"delete from products where code = ?", "delete from codes where id = ?"} {
			if _, err := tx.ExecContext(ctx, r.bind(statement), e.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// change changes a register, which gets another serial.
func (r *Register) change(ctx context.Context, do func(*sql.Tx) error) error {
	return r.tx(ctx, func(tx *sql.Tx) error {
		if err := r.alone(ctx, tx); err != nil {
			return err
		}
		if err := do(tx); err != nil {
			return err
		}
		serial, err := r.serial(ctx, tx)
		if err == nil {
			_, err = tx.ExecContext(ctx, r.bind("update meta set value = ? where name = 'serial'"), fmt.Sprint(serial+1))
		}
		return err
	})
}

// A Check says what state a register is in.
type Check struct {
	Serial  uint64 `json:"serial"`
	Codes   int    `json:"codes"`
	Seen    int    `json:"barcodes_remembered"`
	Running int    `json:"runs_that_reserve"`       // and are there still
	Expired int    `json:"runs_that_were_killed"`   // whose codes are free again with the next run
	Leaked  int    `json:"codes_of_killed_runs"`    // which these had reserved
	Orphans int    `json:"products_without_a_code"` // of which the code is gone
	Wrong   string `json:"damaged,omitempty"`       // what the database itself finds wrong
}

// Verify looks whether a register is whole.
func (r *Register) Verify(ctx context.Context) (c Check, err error) {
	if c.Serial, err = r.Serial(ctx); err != nil {
		return c, err
	}
	now := r.now().UnixMilli()
	for _, one := range []struct {
		into  *int
		query string
		args  []any
	}{
		{&c.Codes, "select count(*) from codes", nil},
		{&c.Seen, "select count(*) from seen join runs on runs.id = seen.run where runs.state = 1", nil},
		{&c.Running, "select count(*) from runs where state = 0 and lease >= ?", []any{now}},
		{&c.Expired, "select count(*) from runs where state = 0 and lease < ?", []any{now}},
		{&c.Leaked, "select count(*) from codes where run in (select id from runs where state = 0 and lease < ?)", []any{now}},
		{&c.Orphans, "select count(*) from products where not exists (select 1 from codes where codes.id = products.code)", nil},
	} {
		if err := r.db.QueryRowContext(ctx, r.bind(one.query), one.args...).Scan(one.into); err != nil {
			return c, r.said(err)
		}
	}
	c.Wrong, err = r.wrong(ctx, r.db)
	return c, r.said(err)
}

// Tidy frees what runs have reserved that were killed.
func (r *Register) Tidy(ctx context.Context) error {
	return r.tx(ctx, func(tx *sql.Tx) error {
		if err := r.alone(ctx, tx); err != nil {
			return err
		}
		return r.forgetExpired(ctx, tx)
	})
}
