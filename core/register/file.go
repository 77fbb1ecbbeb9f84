package register

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"
)

// A dialect is what differs between the kinds of databases.
type dialect interface {
	// steps are the statements that bring the tables from each version to the next.
	steps() [][]string
	// keep keeps a copy of the register as a version has it, before it is changed.
	keep(ctx context.Context, r *Register, version int) error
	version(ctx context.Context, q querier) (int, error)
	// alone keeps other programs from writing until the transaction is over.
	alone(ctx context.Context, tx *sql.Tx) error
	// insert enters codes at places of a block that are not there, and returns how many.
	insert(ctx context.Context, tx *sql.Tx, run int64, space string, b *Block, places []uint32) (n int64, err error)
	// products enters which products have them; with renew in place of those that they had.
	products(ctx context.Context, tx *sql.Tx, b *Block, places []uint32, renew bool) error
	// see enters barcodes that are to be remembered, and returns how many were new.
	see(ctx context.Context, tx *sql.Tx, run int64, list []Seen, sources map[string]int64) (n int64, err error)
	// among returns pairs of two columns of a table, of the rows with those numbers.
	among(ctx context.Context, q querier, query string, ids []int64, row func(*sql.Rows) error) error
	// wrong returns what the database itself finds wrong with its tables, "" if nothing.
	wrong(ctx context.Context, q querier) (string, error)
	// said says what an error means.
	said(err error) error
	// bind writes a statement with the marks for arguments as the database has them.
	bind(statement string) string
}

// fileDialect is that of files.
type fileDialect struct{}

// applicationID is what marks a file as a register: "ZetR".
const applicationID = 0x5a657452

// cacheKB is how much of a file is kept in memory at most.
const cacheKB = 6 << 10

// openFile opens a file; one that is not there is made if make says so.
func openFile(path string, make bool) (*sql.DB, error) {
	switch info, err := os.Stat(path); {
	case errors.Is(err, fs.ErrNotExist):
		if _, err := os.Stat(filepath.Dir(path)); err != nil {
			return nil, fmt.Errorf("its folder is not there (%w). Make it, or name a register elsewhere", err)
		}
		if !make {
			return nil, errMissing
		}
	case err != nil:
		return nil, err
	case info.IsDir():
		return nil, fmt.Errorf("%w, but a folder", ErrNone)
	default:
		if err := looksLikeOne(path, info.Size()); err != nil {
			return nil, err
		}
	}
	absolute, err := filepath.Abs(path)
	if err != nil {
		return nil, err
	}
	if err := onThisMachine(absolute); err != nil {
		return nil, err
	}
	if absolute = filepath.ToSlash(absolute); !strings.HasPrefix(absolute, "/") {
		absolute = "/" + absolute // of Windows
	}
	pragmas := url.Values{"_txlock": {"immediate"}, "_pragma": {
		fmt.Sprintf("busy_timeout(%d)", Wait.Milliseconds()), "page_size(8192)", "journal_mode(WAL)", "synchronous(FULL)", fmt.Sprintf("cache_size(-%d)", cacheKB),
		"wal_autocheckpoint(16000)",
	}}
	db, err := sql.Open("sqlite", (&url.URL{Scheme: "file", Path: absolute, RawQuery: pragmas.Encode()}).String())
	if err == nil {
		db.SetMaxOpenConns(2) // one of them renews leases
	}
	return db, err
}

// looksLikeOne looks whether a file begins as a database does, and as one of ours.
func looksLikeOne(path string, size int64) error {
	if size == 0 {
		return nil // which another program is making
	}
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	head := make([]byte, 100)
	n, err := io.ReadFull(f, head)
	switch {
	case err != nil && !errors.Is(err, io.ErrUnexpectedEOF):
		return err
	case n < len(head) || string(head[:16]) != "SQLite format 3\x00":
		return fmt.Errorf("%w: it does not begin as one does", ErrNone)
	}
	if id := uint32(head[68])<<24 | uint32(head[69])<<16 | uint32(head[70])<<8 | uint32(head[71]); id != applicationID && id != 0 {
		return fmt.Errorf("%w: it is a database of another program", ErrNone)
	}
	return nil
}

func (fileDialect) bind(statement string) string { return statement }

func (fileDialect) steps() [][]string {
	return [][]string{{
		fmt.Sprintf("pragma application_id = %d", applicationID),
		"create table meta (name text primary key, value text not null) without rowid",
		"create table runs (id integer primary key autoincrement, state integer not null, lease integer not null, day text not null)",
		"create table codes (id integer primary key, space text not null, code text not null, label text not null, run integer not null)",
		"create table products (id integer primary key, code integer not null)",
		"create table heads (id integer primary key, last integer not null)",
		"create table holds (run integer not null, head integer not null, first integer not null, last integer not null)",
		"insert into meta values ('serial', '0')",
		"pragma user_version = 1",
	}, {
		"alter table runs add column file integer not null default 0",
		"create table sources (id integer primary key, name text not null unique)",
		"create table seen (key integer not null, number integer not null, digits integer not null, source integer not null, sku text not null, " +
			"title text not null, run integer not null, primary key (key, number)) without rowid",
		"create table numbers (number integer not null, key integer not null, primary key (number, key)) without rowid",
		"create table stretches (id integer primary key, run integer not null)",
		"pragma user_version = 2",
	}, {
		"create table links (id integer primary key, link text not null, opened integer not null, result text not null)",
		"pragma user_version = 3",
	}}
}

func (fileDialect) keep(ctx context.Context, r *Register, version int) error {
	for n := 1; ; n++ {
		copied := fmt.Sprintf("%s.version-%d", r.at, version)
		if n > 1 {
			copied = fmt.Sprintf("%s-%d", copied, n)
		}
		if _, err := os.Lstat(copied); errors.Is(err, fs.ErrNotExist) {
			_, err := r.db.ExecContext(ctx, "vacuum into ?", copied)
			return err
		} else if err != nil {
			return err
		}
	}
}

func (fileDialect) version(ctx context.Context, q querier) (version int, err error) {
	var id, tables int
	for query, into := range map[string]*int{"pragma user_version": &version, "pragma application_id": &id, "select count(*) from sqlite_master": &tables} {
		if err := q.QueryRowContext(ctx, query).Scan(into); err != nil {
			return 0, err
		}
	}
	if id != applicationID && (tables > 0 || version > 0) {
		return 0, fmt.Errorf("%w: it is a database of another program", ErrNone)
	}
	return version, nil
}

func (fileDialect) alone(context.Context, *sql.Tx) error { return nil } // transactions begin so

// atOnce is how many rows a statement enters or looks for.
const atOnce = 500

func (fileDialect) insert(ctx context.Context, tx *sql.Tx, run int64, space string, b *Block, places []uint32) (int64, error) {
	return enterRows(ctx, tx, "insert into codes (id, space, code, label, run) values ", fmt.Sprintf("(?,'%s',?,?,%d),", strings.ReplaceAll(space, "'", "''"), run),
		" on conflict do nothing", len(places), func(args []any, i int) []any {
			code, label := b.Text(int(places[i]))
			return append(args, b.IDs[places[i]], code, label)
		})
}

func (fileDialect) products(ctx context.Context, tx *sql.Tx, b *Block, places []uint32, renew bool) error {
	_, err := enterRows(ctx, tx, "insert into products (id, code) values ", "(?,?),", " on conflict (id) do "+onProduct(renew), len(places),
		func(args []any, i int) []any { return append(args, b.Products[places[i]], b.IDs[places[i]]) })
	return err
}

func (fileDialect) see(ctx context.Context, tx *sql.Tx, run int64, list []Seen, sources map[string]int64) (int64, error) {
	order := make(chan []uint32, 1)
	go func() { order <- byNumber(list) }() // meanwhile
	n, err := enterRows(ctx, tx, "insert into seen (key, number, digits, source, sku, title, run) values ", fmt.Sprintf("(?,?,?,?,?,?,%d),", run), " on conflict do nothing", len(list),
		func(args []any, i int) []any {
			s := &list[i]
			return append(args, int64(s.Key), int64(s.Code.Key()), s.Code.Len(), sources[s.Source], s.SKU, s.Title)
		})
	numbers := <-order
	if err == nil {
		_, err = enterRows(ctx, tx, "insert into numbers (number, key) values ", "(?,?),", " on conflict do nothing", len(list), func(args []any, i int) []any {
			s := &list[numbers[i]]
			return append(args, int64(s.Code.Key()), int64(s.Key))
		})
	}
	return n, err
}

// byNumber returns the order of barcodes by their numbers: entered so, a table is gone through once.
func byNumber(list []Seen) []uint32 {
	order := all(len(list))
	slices.SortFunc(order, func(a, b uint32) int { return cmp.Compare(list[a].Code.Key(), list[b].Code.Key()) })
	return order
}

// enterRows enters rows, many with each statement, and returns how many were entered.
func enterRows(ctx context.Context, tx *sql.Tx, begin, one, end string, count int, row func(args []any, i int) []any) (entered int64, err error) {
	var many *sql.Stmt
	stop := make(chan struct{})
	lists, used := rowsAhead(count, row, stop)
	defer func() {
		close(stop)
		for range lists { // until nobody asks for rows any more
		}
	}()
	for from := 0; from < count; from += atOnce {
		n, args := min(atOnce, count-from), <-lists
		var done sql.Result
		statement := ""
		if n < atOnce || many == nil {
			statement = begin + strings.TrimSuffix(strings.Repeat(one, n), ",") + end
		}
		if n < atOnce {
			done, err = tx.ExecContext(ctx, statement, args...)
		} else {
			if many == nil {
				if many, err = tx.PrepareContext(ctx, statement); err != nil {
					return entered, err
				}
				defer many.Close()
			}
			done, err = many.ExecContext(ctx, args...)
		}
		if err != nil {
			return entered, err
		}
		rows, err := done.RowsAffected()
		if err != nil {
			return entered, err
		}
		entered += rows
		used <- args
	}
	return entered, nil
}

// rowsAhead puts together what a statement enters while the one before is carried out. Lists that have been used come
// back.
func rowsAhead(count int, row func(args []any, i int) []any, stop <-chan struct{}) (lists <-chan []any, used chan<- []any) {
	full, free := make(chan []any), make(chan []any, 3)
	free <- nil
	free <- nil
	go func() {
		defer close(full)
		for from := 0; from < count; from += atOnce {
			var args []any
			select {
			case args = <-free:
			case <-stop:
				return
			}
			args = args[:0]
			for i := from; i < min(count, from+atOnce); i++ {
				args = row(args, i)
			}
			select {
			case full <- args:
			case <-stop:
				return
			}
		}
	}()
	return full, free
}

func (fileDialect) among(ctx context.Context, q querier, query string, ids []int64, row func(*sql.Rows) error) error {
	for part := range slices.Chunk(ids, atOnce) {
		args := make([]any, 0, len(part))
		for _, id := range part {
			args = append(args, id)
		}
		marks := strings.TrimSuffix(strings.Repeat("?,", len(part)), ",")
		if err := each(ctx, q, strings.Replace(query, "@ids", "("+marks+")", 1), args, row); err != nil {
			return err
		}
	}
	return nil
}

// onProduct says what becomes of a product that has a code.
func onProduct(renew bool) string {
	if renew {
		return "update set code = excluded.code"
	}
	return "nothing"
}

// each calls row with the rows of a query.
func each(ctx context.Context, q querier, query string, args []any, row func(*sql.Rows) error) error {
	rows, err := q.QueryContext(ctx, query, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := row(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}

func (fileDialect) wrong(ctx context.Context, q querier) (string, error) {
	var said string
	if err := q.QueryRowContext(ctx, "pragma quick_check(1)").Scan(&said); err != nil || said == "ok" {
		return "", err
	}
	return said, nil
}

func (fileDialect) said(err error) error {
	var e *sqlite.Error
	if !errors.As(err, &e) {
		return err
	}
	switch e.Code() & 0xff {
	case lib.SQLITE_BUSY, lib.SQLITE_LOCKED:
		return fmt.Errorf("%w for more than %v. Nothing was written. Run again when it is done", ErrLocked, Wait)
	case lib.SQLITE_CORRUPT, lib.SQLITE_NOTADB:
		return fmt.Errorf("%w (%w). It is not made anew, because codes would be issued twice. Take it from a backup, and give it the codes since "+
			"with “zetanum register import”", ErrDamaged, err)
	case lib.SQLITE_READONLY, lib.SQLITE_PERM, lib.SQLITE_CANTOPEN:
		return fmt.Errorf("%w: there is no right to write it or beside it (%v). Nothing was written. Get the right from whoever looks after it, or leave the register out",
			fs.ErrPermission, err)
	case lib.SQLITE_FULL:
		return fmt.Errorf("the disk is full: %w", err)
	}
	return err
}
