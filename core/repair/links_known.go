package repair

import (
	"cmp"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"time"

	"zetanum/core/linkcheck"
	"zetanum/core/register"
)

// earlier returns the results of an earlier run that are young enough.
func (l *linkRun) earlier() (young []linkcheck.Result) {
	f, err := os.Open(filepath.Join(l.opt.Target, ResultsName))
	if err != nil {
		return nil
	}
	defer f.Close()
	results, err := linkcheck.ReadResults(f)
	if err != nil {
		return nil
	}
	since := l.opt.Now().Add(-l.opt.Fresh)
	return slices.DeleteFunc(results, func(r linkcheck.Result) bool { return r.Time.Before(since) })
}

// openLinkRegister opens the register that the settings or the rulebook name; nil if there is none. One in which other addresses were asked
// in place of hosts, such as those of a trial server, is of no use to others.
func (l *linkRun) openLinkRegister(ctx context.Context) (*register.Register, error) {
	at := cmp.Or(l.runner.opt.Register, l.opt.Book.Register.At)
	if at == "" || len(l.opt.Check.At) > 0 {
		return nil, nil
	}
	now := l.opt.Now
	if now == nil {
		now = time.Now
	}
	return register.Open(ctx, at, true, now)
}

// remembered returns the results that the register has, and that are young enough.
func (l *linkRun) remembered(ctx context.Context) (known []linkcheck.Result, err error) {
	if l.register == nil {
		return nil, nil
	}
	err = l.register.LinkResults(ctx, l.links, l.opt.Now().Add(-l.opt.Fresh), func(one register.LinkResult) {
		var r linkcheck.Result
		if json.Unmarshal(one.Result, &r) == nil && r.Link == one.Link {
			known = append(known, r)
		}
	})
	return known, err
}

// remember takes down in the register what links have led to, but for what may pass.
func (l *linkRun) remember(ctx context.Context) error {
	if l.register == nil {
		return nil
	}
	var list []register.LinkResult
	for i := range l.results { // also those of a run that was killed; what the register has that is newer stays
		r := &l.results[i]
		if r.State == linkcheck.Silent {
			continue
		}
		b, err := json.Marshal(r)
		if err != nil {
			return err
		}
		list = append(list, register.LinkResult{Link: r.Link, Opened: r.Time, Result: b})
	}
	return l.register.KeepLinks(ctx, list)
}
