package repair

import (
	"cmp"
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"zetanum/core/catalogue"
	"zetanum/core/register"
)

// issuing is what a run has to do with the register: codes are reserved when rows ask for them, and issued
// when all is written.
type issuing struct {
	*register.Register
	ctx context.Context
	day string
	sum uint64 // of the file, once it is known
	try bool
	run *register.Run // nil until something is asked
}

// A RegisterState says, in the manifest, which register a run went by.
type RegisterState struct {
	At     string `json:"at"`
	Before uint64 `json:"serial_before"`
	After  uint64 `json:"serial_after"`
	// Noted is how many barcodes are remembered that were not before, and Other of how many of them the SKU had another.
	Noted int `json:"barcodes_noted,omitempty"`
	Other int `json:"other_barcodes_before,omitempty"`
}

// openRegister opens the register that the settings or the rulebook name; nil if there is none. A run that
// writes nothing issues nothing, and makes no register.
func (r *runner) openRegister(ctx context.Context) error {
	at := cmp.Or(r.opt.Register, r.opt.Book.Register.At)
	if at == "" {
		return nil
	}
	now := r.opt.Now
	if now == nil {
		now = time.Now
	}
	opened, err := register.Open(ctx, at, r.opt.writes(), now)
	if err != nil {
		if !r.opt.writes() && register.IsMissing(err) {
			return nil // it would be made
		}
		return err
	}
	r.issuing = &issuing{Register: opened, ctx: ctx, day: r.opt.Date, try: !r.opt.writes()}
	state := &RegisterState{At: at}
	if !register.IsServer(at) {
		state.At = filepath.Base(at)
	}
	state.At = register.Shown(state.At)
	state.Before, err = opened.Serial(ctx)
	state.After, r.result.Register = state.Before, state
	return err
}

// writes reports whether a run writes anything.
func (o *Options) writes() bool { return o.Target != "" || o.Stdout != nil }

// begin begins the run in the register.
func (i *issuing) begin() (err error) {
	if i.run == nil {
		i.run, err = i.Begin(i.ctx, i.day, i.sum, i.try)
	}
	return err
}

// Known returns the codes that products have been issued.
func (i *issuing) Known(products []int64) (map[int]string, error) {
	if err := i.begin(); err != nil {
		return nil, err
	}
	return i.run.Known(i.ctx, products)
}

// Reached returns how far counters have come.
func (i *issuing) Reached(space string, heads []uint64) (map[uint64]uint64, error) {
	if err := i.begin(); err != nil {
		return nil, err
	}
	return i.run.Reached(i.ctx, space, heads)
}

// Reserve reserves codes of a space.
func (i *issuing) Reserve(space string, heads []uint64, renew bool, issue func(map[uint64]uint64, []uint32) (*register.Block, map[uint64]uint64, error)) error {
	if err := i.begin(); err != nil {
		return err
	}
	return i.run.Reserve(i.ctx, space, heads, renew, issue)
}

// Release gives back codes of a space that were reserved.
func (i *issuing) Release(space string, folded []uint64) (int, error) {
	if i.run == nil {
		return 0, nil
	}
	return i.run.Release(i.ctx, space, folded)
}

// issue issues what was reserved, and has remembered what went out.
func (r *runner) issue(ctx context.Context) (err error) {
	if m := r.remembering; m != nil {
		if err := m.end(); err != nil {
			return err
		}
		r.differ(m.differing)
	}
	if r.issuing == nil || r.issuing.run == nil {
		return nil
	}
	r.result.Register.Noted = r.issuing.run.Noted
	r.result.Register.After, err = r.issuing.run.Commit(ctx)
	return err
}

// differ says of which SKUs another barcode was remembered.
func (r *runner) differ(list []register.Differing) {
	r.result.Register.Other = len(list)
	if len(list) == 0 {
		return
	}
	slices.SortFunc(list, func(a, b register.Differing) int {
		return cmp.Or(cmp.Compare(a.Now.SKU, b.Now.SKU), cmp.Compare(a.Now.Key, b.Now.Key))
	})
	var b strings.Builder
	for i, d := range list[:min(len(list), 3)] {
		if i > 0 {
			b.WriteString("; ")
		}
		fmt.Fprintf(&b, "%s has %s, and %s had %s", catalogue.Shorten(d.Now.SKU, 40), d.Now.Code, d.Was.Day, d.Was.Code)
	}
	if len(list) > 3 {
		b.WriteString("; …")
	}
	of := "one SKU"
	if len(list) > 1 {
		of = catalogue.Thousands(uint64(len(list))) + " SKUs"
	}
	r.result.Notes = append(r.result.Notes, fmt.Sprintf("of %s the register remembers another barcode, so that it will give neither back: %s", of, &b))
}

// closeRegister gives back what was not issued.
func (r *runner) closeRegister() error {
	if r.issuing == nil {
		return nil
	}
	r.remembering.stop() // what went wrong has been said
	return cmp.Or(r.issuing.run.Rollback(), r.issuing.Close())
}
