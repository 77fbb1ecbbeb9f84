package register

import (
	"context"
	"database/sql"
	"slices"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"
)

// A LinkResult is what has come back of a link, as whoever opened it writes that.
type LinkResult struct {
	Link   string
	Opened time.Time
	Result []byte
}

// linkID is the number of a link.
func linkID(link string) int64 { return int64(xxhash.Sum64String(link)) }

// linksAtOnce is how many results are written with one statement.
const linksAtOnce = 500

// KeepLinks takes down what links have led to, in place of what is older. No code and no counter changes with it.
func (r *Register) KeepLinks(ctx context.Context, results []LinkResult) error {
	return r.tx(ctx, func(tx *sql.Tx) error {
		if err := r.alone(ctx, tx); err != nil {
			return err
		}
		for some := range slices.Chunk(results, linksAtOnce) {
			var args []any
			for _, one := range some {
				args = append(args, linkID(one.Link), one.Link, one.Opened.Unix(), string(one.Result))
			}
			statement := "insert into links (id, link, opened, result) values " + strings.TrimSuffix(strings.Repeat("(?, ?, ?, ?), ", len(some)), ", ") +
				" on conflict (id) do update set link = excluded.link, opened = excluded.opened, result = excluded.result where excluded.opened >= links.opened"
			if _, err := tx.ExecContext(ctx, r.bind(statement), args...); err != nil {
				return err
			}
		}
		return nil
	})
}

// LinkResults calls do with what is known of links since a time, in no order.
func (r *Register) LinkResults(ctx context.Context, links []string, since time.Time, do func(LinkResult)) error {
	asked := make(map[int64]string, len(links))
	ids := make([]int64, 0, len(links))
	for _, link := range links {
		id := linkID(link)
		asked[id], ids = link, append(ids, id)
	}
	slices.Sort(ids)
	return r.said(r.among(ctx, r.db, "select id, link, opened, result from links where id in @ids", slices.Compact(ids), func(rows *sql.Rows) error {
		var id, opened int64
		var one LinkResult
		var text string
		if err := rows.Scan(&id, &one.Link, &opened, &text); err != nil {
			return err
		}
		if one.Opened, one.Result = time.Unix(opened, 0), []byte(text); one.Link == asked[id] && !one.Opened.Before(since) {
			do(one)
		}
		return nil
	}))
}

// LinkSum returns of how many links it is known what they have led to, and when the last was opened; the zero time if none is.
func (r *Register) LinkSum(ctx context.Context) (links int, last time.Time, err error) {
	var opened sql.NullInt64
	if err = r.db.QueryRowContext(ctx, "select count(*), max(opened) from links").Scan(&links, &opened); err == nil && opened.Valid {
		last = time.Unix(opened.Int64, 0)
	}
	return links, last, r.said(err)
}
