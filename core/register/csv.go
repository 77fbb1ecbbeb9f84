package register

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/barcode"
)

// exported are the headings of what is exported: codes, how far counters have come, and barcodes that are remembered.
var exported = []string{"What", "Code", "Field", "Product", "Day", "Number", "Number of product", "Source", "SKU"}

// What a line of it is.
const (
	lineCode    = "code"
	lineCounter = "counter"
	lineBarcode = "barcode"
)

// ErrNotExported says that a file is not what [Register.Export] writes.
var ErrNotExported = errors.New("this is not what “zetanum register export” writes")

// Export writes all that has been issued and is remembered, as CSV.
func (r *Register) Export(ctx context.Context, w io.Writer) error {
	out := csv.NewWriter(w)
	out.Write(exported)
	number := func(n int64) string { return strconv.FormatUint(uint64(n), 16) }
	err := r.Each(ctx, func(e *Entry) error {
		if e.Reserved {
			return nil
		}
		return out.Write([]string{lineCode, e.Code, e.Space, e.Product, e.Day, number(e.ID), number(e.Of), "", ""})
	})
	if err == nil {
		err = r.EachCounter(ctx, func(head, last int64) error {
			return out.Write([]string{lineCounter, strconv.FormatInt(last, 10), "", "", "", number(head), "", "", ""})
		})
	}
	if err == nil {
		err = r.EachSeen(ctx, func(s *Seen) error {
			return out.Write([]string{lineBarcode, s.Code.String(), "", s.Title, s.Day, number(int64(s.Key)), "", s.Source, s.SKU})
		})
	}
	out.Flush()
	return cmp.Or(err, out.Error())
}

// Taken is what was taken over from another register.
type Taken struct{ Codes, Counters, Barcodes int } // those that were new, and all counters

// Keys say what the numbers of codes and barcodes in an export are, so that none is taken over that is of
// something else.
type Keys struct {
	Code func(space, code string) int64
	Seen func(source, sku string) uint64
}

// Import takes over what another register has exported, all of it or nothing. What is there stays.
func (r *Register) Import(ctx context.Context, from io.Reader, keys Keys) (taken Taken, err error) {
	in := csv.NewReader(from)
	in.ReuseRecord = true
	if head, err := in.Read(); err != nil || !slices.Equal(head, exported) {
		return taken, fmt.Errorf("%w: its first line reads %s", ErrNotExported, strings.Join(exported, ","))
	}
	err = r.change(ctx, func(tx *sql.Tx) error {
		m := importing{Register: r, tx: tx, runs: make(map[string]int64), codes: make(map[kind][]entry), seen: make(map[string][]Seen)}
		for line := 2; ; line++ {
			record, err := in.Read()
			if errors.Is(err, io.EOF) {
				break
			}
			if err == nil {
				err = m.take(ctx, record, &keys)
			}
			if errors.Is(err, ErrNotExported) {
				err = fmt.Errorf("line %d: %w; nothing was taken over", line, err)
			}
			if err != nil {
				return err
			}
		}
		err := m.flush(ctx, 1)
		taken = m.Taken
		return err
	})
	return taken, err
}

// importing gathers what is taken over, so that it is entered in blocks.
type importing struct {
	*Register
	Taken
	tx    *sql.Tx
	runs  map[string]int64 // by day
	codes map[kind][]entry
	seen  map[string][]Seen // by day
}

// entry is a code with its numbers in the register.
type entry struct {
	id, product int64
	code, label string
}

// kind is what codes have in common that are entered at once.
type kind struct{ space, day string }

func (m *importing) take(ctx context.Context, record []string, keys *Keys) error {
	id, err := strconv.ParseUint(record[5], 16, 64)
	if err != nil {
		return ErrNotExported
	}
	code, field, product, day := strings.Clone(record[1]), strings.Clone(record[2]), strings.Clone(record[3]), strings.Clone(record[4])
	switch record[0] {
	case lineCounter:
		last, err := strconv.ParseInt(code, 10, 64)
		if err != nil {
			return ErrNotExported
		}
		m.Counters++
		_, err = m.tx.ExecContext(ctx, m.bind("insert into heads (id, last) values (?, ?) on conflict (id) do update set last = "+
			"case when heads.last < excluded.last then excluded.last else heads.last end"), int64(id), last)
		return err
	case lineCode:
		of, err := strconv.ParseUint(record[6], 16, 64)
		if err != nil || int64(id) != keys.Code(field, code) {
			return ErrNotExported
		}
		k := kind{field, day}
		m.codes[k] = append(m.codes[k], entry{id: int64(id), product: int64(of), code: code, label: product})
		if len(m.codes[k]) < importBlock {
			return nil
		}
	case lineBarcode:
		s := Seen{Source: strings.Clone(record[7]), SKU: strings.Clone(record[8]), Title: product, Key: id}
		n, err := strconv.ParseUint(code, 10, 64)
		if err == nil {
			s.Code, err = barcode.FromNumber(n, len(code))
		}
		if err != nil || id != keys.Seen(s.Source, s.SKU) {
			return ErrNotExported
		}
		m.seen[day] = append(m.seen[day], s)
		if len(m.seen[day]) < importBlock {
			return nil
		}
	default:
		return ErrNotExported
	}
	return m.flush(ctx, importBlock)
}

// importBlock is how many codes of a kind are entered at once.
const importBlock = 20 * atOnce

// flush enters what has been gathered, where it is at least so much.
func (m *importing) flush(ctx context.Context, least int) error {
	for k, list := range m.codes {
		if len(list) < least {
			continue
		}
		run, err := m.run(ctx, k.day)
		if err != nil {
			return err
		}
		b, places := &Block{Text: func(i int) (code, label string) { return list[i].code, list[i].label }}, all(len(list))
		for i := range list {
			b.IDs, b.Products = append(b.IDs, list[i].id), append(b.Products, list[i].product)
		}
		n, err := m.insert(ctx, m.tx, run, k.space, b, ordered(b.IDs, places))
		if err != nil {
			return err
		}
		m.Codes += int(n)
		m.codes[k] = list[:0]
		if err := m.products(ctx, m.tx, b, b.told(places), false); err != nil {
			return err
		}
	}
	for day, list := range m.seen {
		if len(list) < least {
			continue
		}
		sortSeen(list)
		run, err := m.run(ctx, day)
		if err != nil {
			return err
		}
		sources, err := m.sourcesOf(ctx, m.tx, list)
		if err != nil {
			return err
		}
		n, err := m.see(ctx, m.tx, run, list, sources)
		if err != nil {
			return err
		}
		m.Barcodes += int(n)
		m.seen[day] = list[:0]
	}
	return nil
}

// run returns the run of a day to which what is taken over belongs.
func (m *importing) run(ctx context.Context, day string) (run int64, err error) {
	run, there := m.runs[day]
	if !there {
		err = m.tx.QueryRowContext(ctx, m.bind("insert into runs (state, lease, day) values (?, ?, ?) returning id"), issued, 0, day).Scan(&run)
		m.runs[day] = run
	}
	return run, err
}
