// Package register remembers which codes have been issued, so that none is issued twice: not next
// month, and not by a colleague at the same moment; the barcodes of earlier files; and what links to images have led to. It is a file ([SQLite]) or a database on a server
// (PostgreSQL), behind database/sql.
//
// A run reserves codes in blocks, and they are issued when it is over ([Run.Commit]). Until then they are
// its own for as long as its lease lasts, which it renews; of a run that was killed they are free again
// when that has passed. What says that a run is over is one row, so that a million codes are issued at
// once or not at all.
//
// [SQLite]: https://sqlite.org/
package register

import (
	"context"
	"database/sql"
	"encoding/binary"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"
)

// Errors of a register.
var (
	// ErrNone says that something is no register.
	ErrNone = errors.New("this is no register")
	// ErrNewer says that a register was written by a newer version of the program.
	ErrNewer = errors.New("the register is of a newer version of this program")
	// ErrDamaged says that a register cannot be read.
	ErrDamaged = errors.New("the register is damaged")
	// ErrLocked says that another program keeps a register locked.
	ErrLocked = errors.New("the register is locked by another program")
	// ErrBroken says that a server does not answer any more.
	ErrBroken = errors.New("the connection to the server of the register is broken")
	// ErrLease says that a run lost its right to what it has reserved.
	ErrLease = errors.New("the run took longer than its codes were reserved, perhaps because the machine slept")
)

// schema is the version of the tables.
const schema = 3

// Lease is how long codes stay reserved for a run that does not say that it is still there.
const Lease = 10 * time.Minute

// Wait is how long a register that is locked is waited for.
var Wait = 20 * time.Second

// A Register remembers codes. It is safe for concurrent use.
type Register struct {
	db *sql.DB
	dialect
	at  string // as it may be shown
	now func() time.Time
}

// IsServer reports whether the name of a register is that of a database on a server.
func IsServer(at string) bool {
	return strings.HasPrefix(at, "postgres://") || strings.HasPrefix(at, "postgresql://")
}

// Shown returns the name of a register without a password.
func Shown(at string) string {
	if !IsServer(at) {
		return at
	}
	u, err := url.Parse(at)
	if err != nil {
		return "postgres://…"
	}
	u.User, u.RawQuery = url.User(u.User.Username()), ""
	if u.User.Username() == "" {
		u.User = nil
	}
	return u.String()
}

// Open opens a register; a file is made if there is none and make says so. now is the clock, by which
// leases run out.
func Open(ctx context.Context, at string, make bool, now func() time.Time) (r *Register, err error) {
	r = &Register{at: Shown(at), now: now}
	defer func() {
		if err != nil {
			err = fmt.Errorf("%s: %w", r.at, r.said(err))
			r.Close()
			r = nil
		}
	}()
	if IsServer(at) {
		r.dialect = serverDialect{}
		r.db, err = openServer(at)
	} else {
		r.dialect = fileDialect{}
		r.db, err = openFile(at, make)
	}
	if err != nil {
		return r, err
	}
	return r, r.prepare(ctx)
}

// IsMissing reports whether an error says that there is no register yet, where one could be made.
func IsMissing(err error) bool { return errors.Is(err, errMissing) }

// errMissing says that a file is not there, and that it could be made.
var errMissing = fmt.Errorf("there is no register yet: %w", fs.ErrNotExist)

// Close closes it.
func (r *Register) Close() error {
	if r == nil || r.db == nil {
		return nil
	}
	return r.db.Close()
}

// prepare makes the tables if there are none, and brings those of an older version forward.
func (r *Register) prepare(ctx context.Context) error {
	version, err := r.version(ctx, r.db)
	if err != nil || version == schema {
		return err
	}
	if version > schema {
		return fmt.Errorf("%w (%d, this one knows %d). Use the newer program", ErrNewer, version, schema)
	}
	return r.tx(ctx, func(tx *sql.Tx) error {
		if err := r.alone(ctx, tx); err != nil {
			return err
		}
		if version, err = r.version(ctx, tx); err != nil || version == schema {
			return err // another program was faster
		}
		if version > 0 {
			if err := r.keep(ctx, r, version); err != nil {
				return fmt.Errorf("it is of an older version (%d), and no copy could be made of it before it is brought forward: %w", version, err)
			}
		}
		for _, statement := range slices.Concat(r.steps()[version:]...) {
			if _, err := tx.ExecContext(ctx, statement); err != nil {
				return err
			}
		}
		return nil
	})
}

// querier is a database or a transaction.
type querier interface {
	QueryContext(context.Context, string, ...any) (*sql.Rows, error)
	QueryRowContext(context.Context, string, ...any) *sql.Row
	ExecContext(context.Context, string, ...any) (sql.Result, error)
}

// tx does something in a transaction.
func (r *Register) tx(ctx context.Context, do func(*sql.Tx) error) error {
	tx, err := r.db.BeginTx(ctx, nil)
	if err != nil {
		return r.said(err)
	}
	if err := do(tx); err != nil {
		return errors.Join(r.said(err), rolledBack(tx.Rollback()))
	}
	return r.said(tx.Commit())
}

// rolledBack leaves out that a transaction is over already, with its connection.
func rolledBack(err error) error {
	if errors.Is(err, sql.ErrTxDone) || err != nil && strings.Contains(err.Error(), "conn closed") {
		return nil
	}
	return err
}

// Serial returns how often something was issued: a register with the same serial has the same codes.
func (r *Register) Serial(ctx context.Context) (uint64, error) {
	n, err := r.serial(ctx, r.db)
	return n, r.said(err)
}

func (r *Register) serial(ctx context.Context, q querier) (n uint64, err error) {
	var text string
	if err = q.QueryRowContext(ctx, "select value from meta where name = 'serial'").Scan(&text); err != nil {
		return 0, err
	}
	return strconv.ParseUint(text, 10, 64)
}

// Key returns the number of a code in the register: codes of a space that are compared as equal have the
// same. folded is a hash of the code as it is compared.
func Key(space string, folded uint64) int64 {
	var b [8]byte
	binary.BigEndian.PutUint64(b[:], folded)
	d := xxhash.NewWithSeed(xxhash.Sum64String(space))
	d.Write(b[:])
	return int64(d.Sum64())
}
