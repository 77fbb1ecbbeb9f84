package linkcheck

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"sync"
	"time"
)

// Politeness says how many links are opened at once.
type Politeness struct {
	PerHost int // of one host
	InAll   int
}

// UsualPoliteness is that of a visitor with a browser.
var UsualPoliteness = Politeness{PerHost: 4, InAll: 16}

// All opens links, each once, and gives done what came back, in any order and one at a time. An error that done returns ends it.
func (c *Checker) All(ctx context.Context, links []string, polite Politeness, done func(index int, r Result) error) error {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	q := newQueue(links, polite.PerHost)
	defer context.AfterFunc(ctx, q.stop)()
	var wg sync.WaitGroup
	var mu sync.Mutex
	for range min(polite.InAll, len(links)) {
		wg.Go(func() {
			for {
				index, ok := q.next()
				if !ok {
					return
				}
				r, err := c.Check(ctx, links[index], q.pause)
				q.done(index)
				if err != nil {
					return
				}
				mu.Lock()
				if ctx.Err() == nil {
					err = done(index, r)
				}
				mu.Unlock()
				if err != nil {
					cancel(err)
					return
				}
			}
		})
	}
	wg.Wait()
	return context.Cause(ctx)
}

// A queue gives out links so that no host is asked for too many at once.
type queue struct {
	perHost int
	mu      sync.Mutex
	changed *sync.Cond
	hosts   []*hostQueue // that have links which wait
	of      []*hostQueue // by link
	names   map[string]*hostQueue
	turn    int
	stopped bool
}

type hostQueue struct {
	waiting []int
	active  int
	until   time.Time // nothing is asked before
}

func newQueue(links []string, perHost int) *queue {
	q := &queue{perHost: perHost, of: make([]*hostQueue, len(links)), names: make(map[string]*hostQueue)}
	q.changed = sync.NewCond(&q.mu)
	for i, link := range links {
		name := HostOf(link)
		h := q.names[name]
		if h == nil {
			h = new(hostQueue)
			q.names[name], q.hosts = h, append(q.hosts, h)
		}
		h.waiting, q.of[i] = append(h.waiting, i), h
	}
	return q
}

// next returns the next link that may be opened, when there is one; ok is false if there are no more.
func (q *queue) next() (index int, ok bool) {
	q.mu.Lock()
	defer q.mu.Unlock()
	for !q.stopped && len(q.hosts) > 0 {
		now := time.Now()
		var soon time.Time
		for range q.hosts {
			q.turn = (q.turn + 1) % len(q.hosts)
			h := q.hosts[q.turn]
			switch {
			case h.active >= q.perHost:
			case h.until.After(now):
				if soon.IsZero() || h.until.Before(soon) {
					soon = h.until
				}
			default:
				index, h.waiting = h.waiting[0], h.waiting[1:]
				h.active++
				if len(h.waiting) == 0 {
					last := len(q.hosts) - 1
					q.hosts[q.turn], q.hosts = q.hosts[last], q.hosts[:last]
				}
				return index, true
			}
		}
		if !soon.IsZero() {
			time.AfterFunc(soon.Sub(now), q.changed.Broadcast)
		}
		q.changed.Wait()
	}
	return 0, false
}

func (q *queue) done(index int) {
	q.mu.Lock()
	q.of[index].active--
	q.mu.Unlock()
	q.changed.Broadcast()
}

// pause lets a host be.
func (q *queue) pause(host string, d time.Duration) {
	q.mu.Lock()
	if h := q.names[host]; h != nil {
		h.until = time.Now().Add(d)
	}
	q.mu.Unlock()
}

func (q *queue) stop() {
	q.mu.Lock()
	q.stopped = true
	q.mu.Unlock()
	q.changed.Broadcast()
}

// A Journal keeps results as they come, so that what was opened is known when a run that was stopped goes on.
type Journal struct{ file *os.File }

// OpenJournal opens a journal, which it makes if there is none, and returns what is in it. A line that was cut off is left out.
func OpenJournal(path string) (*Journal, []Result, error) {
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o666)
	if err != nil {
		return nil, nil, err
	}
	results, at, err := readResults(f)
	if err == nil {
		err = f.Truncate(at)
	}
	if err == nil {
		_, err = f.Seek(at, io.SeekStart)
	}
	if err != nil {
		f.Close()
		return nil, nil, err
	}
	return &Journal{f}, results, nil
}

// Add writes a result down.
func (j *Journal) Add(r *Result) error {
	b, err := json.Marshal(r)
	if err == nil {
		_, err = j.file.Write(append(b, '\n'))
	}
	return err
}

// Close closes the journal; Remove removes it, too, when its results stand elsewhere.
func (j *Journal) Close() error { return j.file.Close() }

// Remove closes and removes the journal.
func (j *Journal) Remove() error { return errors.Join(j.file.Close(), os.Remove(j.file.Name())) }

// ReadResults reads results, one as JSON on each line.
func ReadResults(r io.Reader) ([]Result, error) {
	results, _, err := readResults(r)
	return results, err
}

func readResults(r io.Reader) (results []Result, at int64, err error) {
	in := bufio.NewReaderSize(r, 1<<16)
	for {
		line, err := in.ReadBytes('\n')
		if errors.Is(err, io.EOF) {
			return results, at, nil
		}
		if err != nil {
			return nil, 0, err
		}
		var one Result
		if json.Unmarshal(line, &one) == nil && one.Link != "" {
			results = append(results, one)
		}
		at += int64(len(line))
	}
}
