package register

import (
	"cmp"
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/barcode"
)

// A Seen is a barcode that stood whole in a file and went out with it: what is remembered of it. Codes that
// have been brought back, made or borrowed are none.
type Seen struct {
	Source string       `json:"source"` // the supplier, or whose list it was
	SKU    string       `json:"sku"`
	Title  string       `json:"title,omitempty"`
	Code   barcode.Code `json:"barcode"`
	Day    string       `json:"day"` // of the run
	Key    uint64       `json:"-"`   // of source and SKU

	// Elsewhere is another SKU of the source of which the same code is remembered.
	Elsewhere string `json:"-"`
}

// Recall returns what is remembered of keys, ordered by key and code; but nothing that a run of the file with
// that checksum has taken down, so that a file which is repaired again is answered as it was the first time.
func (r *Register) Recall(ctx context.Context, keys []uint64, but uint64) (list []Seen, err error) {
	if some, err := r.remembers(ctx); err != nil || !some {
		return nil, err
	}
	ids := make([]int64, 0, len(keys))
	for _, k := range keys {
		ids = append(ids, int64(k))
	}
	slices.Sort(ids)
	ids = slices.Compact(ids)
	err = r.among(ctx, r.db, fmt.Sprintf(seenColumns+"where runs.state = 1 and runs.file <> %d and seen.key in @ids", int64(but)), ids, func(rows *sql.Rows) error {
		s, err := scanSeen(rows)
		list = append(list, s)
		return err
	})
	if err != nil {
		return nil, r.said(err)
	}
	sortSeen(list)
	return list, r.said(r.elsewhere(ctx, list, but))
}

// sortSeen puts barcodes in the order of the table.
func sortSeen(list []Seen) {
	slices.SortFunc(list, func(a, b Seen) int {
		return cmp.Or(compare(int64(a.Key), int64(b.Key)), cmp.Compare(a.Code.Key(), b.Code.Key()))
	})
}

// sameSeen reports whether two say the same barcode of the same SKU.
func sameSeen(a, b Seen) bool { return a.Key == b.Key && a.Code.Key() == b.Code.Key() }

// remembers reports whether any barcode is remembered.
func (r *Register) remembers(ctx context.Context) (some bool, err error) {
	err = r.db.QueryRowContext(ctx, "select exists (select 1 from seen)").Scan(&some)
	return some, r.said(err)
}

const (
	seenFields  = "select seen.key, seen.number, seen.digits, sources.name, seen.sku, seen.title, runs.day from "
	seenJoins   = "join runs on runs.id = seen.run join sources on sources.id = seen.source "
	seenColumns = seenFields + "seen " + seenJoins
	seenNumbers = seenFields + "numbers join seen on seen.key = numbers.key and seen.number = numbers.number " + seenJoins
)

func scanSeen(rows *sql.Rows) (s Seen, err error) {
	var key, number int64
	digits := 0
	if err = rows.Scan(&key, &number, &digits, &s.Source, &s.SKU, &s.Title, &s.Day); err != nil {
		return s, err
	}
	s.Key = uint64(key)
	if s.Code, err = barcode.FromNumber(uint64(number), digits); err != nil {
		err = fmt.Errorf("%w: it remembers the barcode %w", ErrDamaged, err)
	}
	return s, err
}

// elsewhere says of which barcodes another SKU of the same source is remembered, too.
func (r *Register) elsewhere(ctx context.Context, list []Seen, but uint64) error {
	of := make(map[int64][]int, len(list))
	numbers := make([]int64, 0, len(list))
	for i := range list {
		n := int64(list[i].Code.Key())
		of[n] = append(of[n], i)
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	return r.among(ctx, r.db, fmt.Sprintf(seenNumbers+"where runs.state = 1 and runs.file <> %d and numbers.number in @ids", int64(but)), slices.Compact(numbers), func(rows *sql.Rows) error {
		s, err := scanSeen(rows)
		for _, i := range of[int64(s.Code.Key())] {
			if s.Key != list[i].Key && strings.EqualFold(s.Source, list[i].Source) && (list[i].Elsewhere == "" || s.SKU < list[i].Elsewhere) {
				list[i].Elsewhere = s.SKU
			}
		}
		return err
	})
}

// Stretches returns the checksums of stretches of barcodes that are remembered already.
func (r *Register) Stretches(ctx context.Context) (known map[uint64]bool, err error) {
	known = make(map[uint64]bool)
	return known, r.said(each(ctx, r.db, "select stretches.id from stretches join runs on runs.id = stretches.run where runs.state = 1", nil, func(rows *sql.Rows) error {
		var id int64
		err := rows.Scan(&id)
		known[uint64(id)] = true
		return err
	}))
}

// A Differing is a barcode that is not the one which was remembered of the SKU.
type Differing struct{ Now, Was Seen }

// Remember takes down barcodes for when the run is over, and the checksums of the stretches that they are.
// It returns those of which another code was remembered: from now on both are, and neither is given back.
func (run *Run) Remember(ctx context.Context, list []Seen, stretches []uint64) (differing []Differing, err error) {
	if run.try || len(list) == 0 {
		return nil, nil
	}
	if run.lost.Load() {
		return nil, ErrLease
	}
	sortSeen(list)
	list = slices.CompactFunc(list, sameSeen)
	if list, differing, err = run.unknown(ctx, list); err != nil {
		return nil, run.said(err)
	}
	return differing, run.tx(ctx, func(tx *sql.Tx) error {
		if err := run.alone(ctx, tx); err != nil {
			return err
		}
		sources, err := run.sourcesOf(ctx, tx, list)
		if err != nil {
			return err
		}
		n, err := run.see(ctx, tx, run.id, list, sources)
		if err != nil {
			return err
		}
		run.Noted, run.noted = run.Noted+int(n), true
		for _, s := range stretches {
			if _, err := tx.ExecContext(ctx, run.bind("insert into stretches (id, run) values (?, ?) on conflict do nothing"), int64(s), run.id); err != nil {
				return err
			}
		}
		if n, err := run.touch(ctx, tx); err != nil || n == 0 {
			return cmp.Or(err, error(ErrLease))
		}
		return nil
	})
}

// unknown returns what is not remembered yet, and what is in another way.
func (run *Run) unknown(ctx context.Context, list []Seen) (news []Seen, differing []Differing, err error) {
	if some, err := run.remembers(ctx); err != nil || !some {
		return list, nil, err
	}
	ids := make([]int64, 0, len(list))
	for i := range list {
		ids = append(ids, int64(list[i].Key))
	}
	known := make(map[uint64][]Seen)
	err = run.among(ctx, run.db, seenColumns+"where runs.state = 1 and seen.key in @ids", slices.Compact(ids), func(rows *sql.Rows) error {
		s, err := scanSeen(rows)
		known[s.Key] = append(known[s.Key], s)
		return err
	})
	for i := range list {
		was, seen := known[list[i].Key]
		switch {
		case !seen:
			news = append(news, list[i])
		case !slices.ContainsFunc(was, func(s Seen) bool { return s.Code.Key() == list[i].Code.Key() }):
			news = append(news, list[i])
			differing = append(differing, Differing{list[i], was[0]})
		}
	}
	return news, differing, err
}

// sourcesOf returns the numbers of sources, which get one if they have none.
func (r *Register) sourcesOf(ctx context.Context, tx *sql.Tx, list []Seen) (map[string]int64, error) {
	sources := make(map[string]int64)
	for i := range list {
		name := list[i].Source
		if _, there := sources[name]; there {
			continue
		}
		var id int64
		err := tx.QueryRowContext(ctx, r.bind("insert into sources (name) values (?) on conflict (name) do update set name = excluded.name returning id"), name).Scan(&id)
		if err != nil {
			return nil, err
		}
		sources[strings.Clone(name)] = id
	}
	return sources, nil
}

// EachSeen calls do with the barcodes that are remembered, ordered by source and SKU.
func (r *Register) EachSeen(ctx context.Context, do func(*Seen) error) error {
	return r.said(each(ctx, r.db, seenColumns+"where runs.state = 1 order by sources.name, seen.sku, seen.number", nil, func(rows *sql.Rows) error {
		s, err := scanSeen(rows)
		if err != nil {
			return err
		}
		return do(&s)
	}))
}

// FindSeen returns what is remembered of a barcode, or of an SKU.
func (r *Register) FindSeen(ctx context.Context, text string, keys func(source string) uint64) (list []Seen, err error) {
	var ids []int64
	err = each(ctx, r.db, "select name from sources", nil, func(rows *sql.Rows) error {
		var name string
		err := rows.Scan(&name)
		ids = append(ids, int64(keys(name)))
		return err
	})
	if err != nil {
		return nil, r.said(err)
	}
	slices.Sort(ids)
	add := func(rows *sql.Rows) error {
		s, err := scanSeen(rows)
		list = append(list, s)
		return err
	}
	err = r.among(ctx, r.db, seenColumns+"where runs.state = 1 and seen.key in @ids", slices.Compact(ids), add)
	if code, parsed := barcode.Parse(text); parsed == nil && err == nil {
		err = r.among(ctx, r.db, seenNumbers+"where runs.state = 1 and numbers.number in @ids", []int64{int64(code.Key())}, add)
	}
	slices.SortFunc(list, func(a, b Seen) int {
		return cmp.Or(cmp.Compare(a.Source, b.Source), cmp.Compare(a.SKU, b.SKU), cmp.Compare(a.Code.Key(), b.Code.Key()))
	})
	return slices.CompactFunc(list, sameSeen), r.said(err)
}

// ForgetSeen forgets that an SKU had a barcode.
func (r *Register) ForgetSeen(ctx context.Context, s *Seen) error {
	return r.change(ctx, func(tx *sql.Tx) error {
		// Files that had it are looked through again.
		if _, err := tx.ExecContext(ctx, "delete from stretches"); err != nil {
			return err
		}
		for _, table := range []string{"seen", "numbers"} {
			if _, err := tx.ExecContext(ctx, r.bind("delete from "+table+" where key = ? and number = ?"), int64(s.Key), int64(s.Code.Key())); err != nil {
				return err
			}
		}
		return nil
	})
}
