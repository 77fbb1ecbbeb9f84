package register

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver “pgx”
)

// serverDialect is that of PostgreSQL.
type serverDialect struct{}

// openServer reaches a server. What the address does not say comes from the environment and from the
// file of passwords, as with other programs (PGPASSWORD, PGPASSFILE).
func openServer(at string) (*sql.DB, error) { return sql.Open("pgx", at) }

// lockID is the advisory lock of a register: those that write take turns.
const lockID = 0x5a657452

func (serverDialect) bind(statement string) string {
	var b strings.Builder
	n := 0
	for _, c := range statement {
		if c == '?' {
			n++
			fmt.Fprintf(&b, "$%d", n)
		} else {
			b.WriteRune(c)
		}
	}
	return b.String()
}

func (serverDialect) steps() [][]string {
	return [][]string{{
		"create table meta (name text primary key, value text not null)",
		"create table runs (id bigint generated always as identity primary key, state integer not null, lease bigint not null, day text not null)",
		"create table codes (id bigint primary key, space text not null, code text not null, label text not null, run bigint not null)",
		"create table products (id bigint primary key, code bigint not null)",
		"create table heads (id bigint primary key, last bigint not null)",
		"create table holds (run bigint not null, head bigint not null, first bigint not null, last bigint not null)",
		"insert into meta values ('serial', '0')",
		"insert into meta values ('schema', '1')",
	}, {
		"alter table runs add column file bigint not null default 0",
		"create table sources (id bigint generated always as identity primary key, name text not null unique)",
		"create table seen (key bigint not null, number bigint not null, digits integer not null, source bigint not null, sku text not null, " +
			"title text not null, run bigint not null, primary key (key, number))",
		"create table numbers (number bigint not null, key bigint not null, primary key (number, key))",
		"create table stretches (id bigint primary key, run bigint not null)",
		"update meta set value = '2' where name = 'schema'",
	}, {
		"create table links (id bigint primary key, link text not null, opened bigint not null, result text not null)",
		"update meta set value = '3' where name = 'schema'",
	}}
}

// keep leaves copies to those who look after the server.
func (serverDialect) keep(context.Context, *Register, int) error { return nil }

func (serverDialect) version(ctx context.Context, q querier) (version int, err error) {
	// to_regclass would tell what the connection knew before it waited for its turn, when another program may have made the table.
	const known = "select exists (select 1 from pg_catalog.pg_tables where tablename = 'meta' and schemaname = any (current_schemas(false)))"
	var there bool
	if err := q.QueryRowContext(ctx, known).Scan(&there); err != nil || !there {
		return 0, err
	}
	err = q.QueryRowContext(ctx, "select value::int from meta where name = 'schema'").Scan(&version)
	if errors.Is(err, sql.ErrNoRows) {
		err = fmt.Errorf("%w: its table “meta” is of another program; name a schema of its own with ?search_path=…", ErrNone)
	}
	return version, err
}

func (serverDialect) alone(ctx context.Context, tx *sql.Tx) error {
	_, err := tx.ExecContext(ctx, fmt.Sprintf("set local lock_timeout = %d", Wait.Milliseconds()))
	if err == nil {
		_, err = tx.ExecContext(ctx, "select pg_advisory_xact_lock($1)", lockID)
	}
	return err
}

// atOnceServer is how many rows are sent to a server at once.
const atOnceServer = 50_000

func (serverDialect) insert(ctx context.Context, tx *sql.Tx, run int64, space string, b *Block, places []uint32) (entered int64, err error) {
	for some := range slices.Chunk(places, atOnceServer) {
		ids, texts, labels := make([]int64, len(some)), make([]string, len(some)), make([]string, len(some))
		for k, i := range some {
			ids[k] = b.IDs[i]
			texts[k], labels[k] = b.Text(int(i))
		}
		done, err := tx.ExecContext(ctx, "insert into codes (id, code, label, space, run) select *, $4::text, $5::bigint from "+
			"unnest($1::bigint[], $2::text[], $3::text[]) on conflict do nothing", ids, texts, labels, space, run)
		if err != nil {
			return entered, err
		}
		n, err := done.RowsAffected()
		if entered += n; err != nil {
			return entered, err
		}
	}
	return entered, nil
}

func (serverDialect) products(ctx context.Context, tx *sql.Tx, b *Block, places []uint32, renew bool) error {
	for some := range slices.Chunk(places, atOnceServer) {
		products, of := make([]int64, len(some)), make([]int64, len(some))
		for k, i := range some {
			products[k], of[k] = b.Products[i], b.IDs[i]
		}
		if _, err := tx.ExecContext(ctx, "insert into products (id, code) select * from unnest($1::bigint[], $2::bigint[]) on conflict (id) do "+
			onProduct(renew), products, of); err != nil {
			return err
		}
	}
	return nil
}

func (serverDialect) see(ctx context.Context, tx *sql.Tx, run int64, list []Seen, sources map[string]int64) (int64, error) {
	var keys, numbers, digits, of []int64
	var skus, titles []string
	for i := range list {
		s := &list[i]
		keys, numbers, digits = append(keys, int64(s.Key)), append(numbers, int64(s.Code.Key())), append(digits, int64(s.Code.Len()))
		of, skus, titles = append(of, sources[s.Source]), append(skus, s.SKU), append(titles, s.Title)
	}
	done, err := tx.ExecContext(ctx, "insert into seen (key, number, digits, source, sku, title, run) select *, $7::bigint from "+
		"unnest($1::bigint[], $2::bigint[], $3::int[], $4::bigint[], $5::text[], $6::text[]) on conflict do nothing", keys, numbers, digits, of, skus, titles, run)
	if err == nil {
		_, err = tx.ExecContext(ctx, "insert into numbers (number, key) select * from unnest($1::bigint[], $2::bigint[]) on conflict do nothing", numbers, keys)
	}
	if err != nil {
		return 0, err
	}
	return done.RowsAffected()
}

func (serverDialect) among(ctx context.Context, q querier, query string, ids []int64, row func(*sql.Rows) error) error {
	for part := range slices.Chunk(ids, atOnceServer) {
		if err := each(ctx, q, strings.Replace(query, "in @ids", "= any($1)", 1), []any{part}, row); err != nil {
			return err
		}
	}
	return nil
}

func (serverDialect) wrong(context.Context, querier) (string, error) { return "", nil }

func (serverDialect) said(err error) error {
	var e *pgconn.PgError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &e) && e.Code == "55P03":
		return fmt.Errorf("%w for more than %v. Nothing was written. Run again when it is done", ErrLocked, Wait)
	case errors.As(err, &e) && e.Code == "42501":
		return fmt.Errorf("the user has no right to it (%s)", e.Message)
	case errors.As(err, &e):
		return fmt.Errorf("the server says: %s (%s)", e.Message, e.Code)
	}
	var connect *pgconn.ConnectError
	var network *net.OpError
	switch {
	case errors.As(err, &connect):
		return fmt.Errorf("the server cannot be reached, or does not let you in: %w. Nothing was written", withoutPassword{err})
	case errors.As(err, &network), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF), errors.Is(err, driver.ErrBadConn), errors.Is(err, net.ErrClosed):
		return fmt.Errorf("%w (%w). Nothing was written, and what was reserved is given back, now or in %v. Run again", ErrBroken, err, Lease)
	}
	return err
}

// withoutPassword says an error without what stands in an address.
type withoutPassword struct{ error }

func (w withoutPassword) Error() string {
	var connect *pgconn.ConnectError
	if errors.As(w.error, &connect) && connect.Unwrap() != nil {
		return connect.Unwrap().Error()
	}
	return "no connection"
}
