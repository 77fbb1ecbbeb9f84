package line

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strconv"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/disk"
	"zetanum/core/sheet"
)

// A Branch is a further target: what goes there is written besides what is ready, when all has been done to the products.
type Branch struct {
	Name   string
	Wants  func(*catalogue.Product, *Log) bool // says which products go there; nil: all
	Step   Step                                // what is done for it; it writes into columns of its own
	Output Output

	// What became of it, after [Run.Do].
	Report   Report
	HeadSize int64  // of what the file begins with
	Cuts     []Cut  // what each product takes that follows, if that is wanted
	Sum      uint64 // of the bytes of the file

	repairer Repairer
}

// ReadyName returns the name of the file of what goes to the target.
func (b *Branch) ReadyName() string { return "ready-" + b.Name + ".csv" }

// HeldName returns the name of the file of what is ready, or held for another target, and held for this one.
func (b *Branch) HeldName() string { return "held-" + b.Name + ".csv" }

// A branchResult is what a worker makes of a part for a branch.
type branchResult struct {
	ready, held []byte
	report      Report
	cuts        []Cut
	keys        []sortKey
}

func (r *branchResult) reset() {
	r.ready, r.held, r.report, r.cuts, r.keys = r.ready[:0], r.held[:0], Report{}, r.cuts[:0], nil
}

// branches writes a product for each branch, when it has been written for the importer.
func (w *worker) branches(part *sheet.Part, p *catalogue.Product, out *result) {
	if len(w.run.Branches) == 0 {
		return
	}
	for len(out.branches) < len(w.run.Branches) {
		out.branches = append(out.branches, branchResult{})
	}
	changes, findings, touched := len(w.log.Changes), len(w.log.Findings), len(w.log.touched)
	w.asideWas = append(w.asideWas[:0], w.log.aside...)
	for i := range w.run.Branches {
		w.log.entries = w.log.entries[:0]
		w.branch(i, changes, part, p, &out.branches[i])
		w.writeEntries(out)
		w.log.Changes, w.log.Findings, w.log.touched = w.log.Changes[:changes], w.log.Findings[:findings], w.log.touched[:touched]
		copy(w.log.aside, w.asideWas) // an answer may set rows aside for one target
	}
}

// branch writes a product for a branch.
func (w *worker) branch(n, from int, part *sheet.Part, p *catalogue.Product, out *branchResult) {
	b := &w.run.Branches[n]
	wanted := !w.log.stopped && slices.Contains(w.log.aside, false) && (b.Wants == nil || b.Wants(p, w.log))
	if wanted && b.repairer != nil {
		b.repairer.Repair(p, w.log)
		w.log.carryOut()
	}
	w.findings, w.changed = byRow{}, byRow{}
	w.output = &b.Output
	defer func() { w.output = &w.run.Output }()
	holding := 0
	if wanted {
		out.report.Products++
		if holding = w.count(&out.report); holding > 0 {
			out.report.HeldProducts++
		}
	}
	before, rows := len(out.ready), 0
	for i, row := range p.Rows {
		aside := w.log.aside[i] && !w.log.joined[i] || !wanted
		if !w.log.made[i] {
			out.report.Rows++
		}
		switch {
		case aside && !w.log.made[i]:
			out.report.Aside++
		case aside:
		case holding > 0 && !w.log.made[i]:
			out.report.Held++
			reason := w.reason(row, catalogue.Error)
			if reason == "" {
				reason = "Held with row " + strconv.Itoa(holding) + ", which is the same product."
			}
			out.held = w.appendBack(out.held, part, row, reason)
		case holding > 0:
		case w.log.joined[i]:
			out.report.Ready++
			out.report.Joined++
		default:
			if out.report.Ready++; w.log.made[i] {
				out.report.Ready--
				out.report.Added++
			}
			at := len(out.ready)
			out.ready = b.Output.appendReady(out.ready, part, row)
			if len(out.ready) > at {
				rows++
				codes := &w.branched[n]
				out.report.Written.Rows++
				out.report.Written.add(codes, func(n int) string { return row.Cell(codes.cols[n]) })
			}
		}
	}
	size := len(out.ready) - before
	if b.Output.Encode != nil && size > 0 {
		w.scratch = append(w.scratch[:0], out.ready[before:]...)
		encoded, err := b.Output.Encode(out.ready[:before], w.scratch)
		out.ready = encoded
		w.fail(err)
		size = len(out.ready) - before
	}
	if size == 0 {
		return
	}
	if w.sorter != nil {
		key := w.sorter.key(p.Rows[slices.Index(w.log.aside, false)], size)
		key.rows = make([]int32, rows)
		out.keys = append(out.keys, key)
	} else if b.Output.Cuts {
		out.cuts = append(out.cuts, Cut{Bytes: size, Rows: rows})
	}
	if holding > 0 {
		return
	}
	for i := range w.log.Changes[from:] {
		if c := &w.log.Changes[from+i]; !w.isAside(c.Row) {
			out.report.addChange(c)
		}
	}
}

// branchFiles are the files of a branch while they are written.
type branchFiles struct {
	branch      *Branch
	ready, held *os.File
	sums        [2]*xxhash.Digest
	sorting     *sorting // nil if the products go out as they come
}

// newBranchFiles creates the files of the branches; without a folder nothing is written.
func (r *Run) newBranchFiles(dir string) (list []branchFiles, err error) {
	for i := range r.Branches {
		b := &r.Branches[i]
		f := branchFiles{branch: b, sums: [2]*xxhash.Digest{xxhash.New(), xxhash.New()}}
		if dir == "" {
			list = append(list, f)
			continue
		}
		if f.ready, err = os.Create(filepath.Join(dir, b.ReadyName())); err != nil {
			return list, err
		}
		list = append(list, f)
		at := &list[len(list)-1]
		if at.held, err = os.Create(filepath.Join(dir, b.HeldName())); err != nil {
			return list, err
		}
		head := []byte(b.Output.head(r.Table))
		if b.Output.Encode != nil {
			if head, err = b.Output.Encode(nil, head); err != nil {
				return list, err
			}
		}
		b.HeadSize = int64(len(head))
		if err = at.write(0, head); err == nil {
			err = at.write(1, []byte(r.head(held)))
		}
		if err == nil && b.Output.SortBy != nil {
			at.sorting, err = newSorting(dir, unsortedName+"-"+b.Name)
		}
		if err != nil {
			return list, err
		}
	}
	return list, nil
}

func (f *branchFiles) write(which int, bytes []byte) error {
	f.sums[which].Write(bytes) // does not fail
	_, err := []*os.File{f.ready, f.held}[which].Write(bytes)
	return err
}

// add writes what is ready and held of the next part.
func (f *branchFiles) add(out *branchResult) error {
	f.branch.Report.Merge(&out.report)
	f.branch.Cuts = append(f.branch.Cuts, out.cuts...)
	if f.ready == nil {
		return nil
	}
	if err := f.write(1, out.held); err != nil {
		return err
	}
	if f.sorting != nil {
		return f.sorting.add(out.ready, out.keys)
	}
	return f.write(0, out.ready)
}

// sort writes what goes out in order.
func (f *branchFiles) sort() error {
	if f.sorting == nil {
		return nil
	}
	err := f.sorting.write(func(b []byte) error { return f.write(0, b) }, func(k *sortKey) error {
		if f.branch.Output.Cuts {
			f.branch.Cuts = append(f.branch.Cuts, Cut{Bytes: k.bytes, Rows: len(k.rows)})
		}
		return nil
	})
	f.sorting = nil
	return err
}

// close lets the files go; it may be called more than once. With sums they are brought to the disk, and their checksums are entered.
func (f *branchFiles) close(sums map[string]uint64) (err error) {
	if f.sorting != nil {
		err = f.sorting.close()
		f.sorting = nil
	}
	for i, file := range []**os.File{&f.ready, &f.held} {
		if *file == nil {
			continue
		}
		if sums != nil {
			err = errors.Join(err, disk.Flush(*file))
			sums[filepath.Base((*file).Name())] = f.sums[i].Sum64()
		}
		err = errors.Join(err, (*file).Close())
		*file = nil
	}
	return err
}
