package cli

import (
	"cmp"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"time"

	"zetanum/core/mint"
	"zetanum/core/reference"
	"zetanum/core/register"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/internal/terminal"
)

type registerCommand struct {
	jsonFlag
	at   string
	out  string
	sure bool
	all  bool
}

func (*registerCommand) about() about {
	return about{
		name: "register", args: "VERB [CODE | FILE]",
		short: "look into the register of codes, correct it, move it",
		long: "The register remembers the codes that have been issued, and the barcodes that files had. list says how many, and shows the last codes " +
			"of them; show CODE says to which product it was given, and when, and takes an SKU, too; forget CODE lets it be issued again, or not be " +
			"given back; export writes all of it as CSV, and import FILE " +
			"takes over what another register has exported, so that a file moves to a server or back; verify looks whether it is whole, " +
			"and frees what runs that were killed had reserved. The register is that which -register names, or the rulebook in the " +
			"working folder.",
		examples: []string{"zetanum register list -register codes.register", "zetanum register export -register codes.register"},
	}
}

func (o *registerCommand) flags(f *flag.FlagSet) {
	o.jsonFlag.flags(f)
	f.StringVar(&o.at, "register", "", "the register: a `FILE`, or the address of a PostgreSQL server, postgres://… (default: that of zetanum.toml)")
	f.StringVar(&o.out, "out", "", "with export, write the `FILE` (default: to standard output)")
	f.BoolVar(&o.sure, "sure", false, "with forget: the code may be issued again, to another product")
	f.BoolVar(&o.all, "all", false, "with list, show all codes (default: the last ones)")
}

func (o *registerCommand) run(s *session, args []string) (int, error) {
	verbs := map[string]struct {
		args int
		do   func(*session, *register.Register, []string) (int, error)
	}{
		"list": {0, o.list}, "show": {1, o.show}, "forget": {1, o.forget}, "export": {0, o.export}, "import": {1, o.take}, "verify": {0, o.verify},
	}
	if len(args) == 0 {
		return exitUsage, usagef("say what to do: register list, show CODE, forget CODE, export, import FILE or verify")
	}
	verb, known := verbs[args[0]]
	switch {
	case !known:
		return exitUsage, usagef("register %s: it can list, show, forget, export, import and verify", args[0])
	case len(args)-1 != verb.args:
		return exitUsage, usagef("register %s takes %s", args[0], []string{"nothing more", "one code, or one file to import"}[verb.args])
	}
	at := o.at
	if at == "" {
		if path := sections.Find(rulebook.Name); path != "" {
			book, err := sections.Load(path)
			if err != nil {
				return exitUsage, usagef("%v", err)
			}
			at = book.Register.At
		}
	}
	if at == "" {
		return exitUsage, usagef("name the register with -register, or in the rulebook: [register] at = \"zetanum.register\"")
	}
	r, err := register.Open(s.ctx, at, args[0] == "import", s.now)
	if err != nil {
		return exitFailed, err
	}
	status, err := verb.do(s, r, args[1:])
	if !o.json && args[0] != "export" { // which is for another program
		next := "list"
		if args[0] == next {
			next = "verify"
		}
		words := []string{"zetanum register", next}
		if o.at != "" {
			words = append(words, "-register", quoted(o.at))
		}
		s.suggest(words...)
	}
	return status, errors.Join(err, r.Close())
}

// codesListed is how many codes list shows.
const codesListed = 20

func (o *registerCommand) list(s *session, r *register.Register, _ []string) (int, error) {
	sums, err := r.Sums(s.ctx)
	if err != nil {
		return exitFailed, err
	}
	seen, err := r.SeenSums(s.ctx)
	if err != nil {
		return exitFailed, err
	}
	links, opened, err := r.LinkSum(s.ctx)
	if err != nil {
		return exitFailed, err
	}
	var last []register.Entry
	err = r.Each(s.ctx, func(e *register.Entry) error {
		if last = append(last, *e); len(last) > 2*codesListed && !o.all {
			last = newest(last)
		}
		return nil
	})
	if !o.all {
		last = newest(last)
	}
	switch {
	case err != nil:
		return exitFailed, err
	case o.json:
		return exitOK, s.encode(map[string]any{"fields": sums, "codes": last, "remembered": seen, "links": links})
	}
	p := s.printer()
	if sums == nil {
		p.Line("No code has been issued yet.")
	} else {
		p.Table(sumTable(sums, "field", "codes", "last issued"))
		p.Line()
		p.Table(entryTable(last))
	}
	if seen != nil {
		p.Line()
		p.Table(sumTable(seen, "source", "barcodes remembered", "last one of"))
	}
	if links > 0 {
		p.Line()
		p.Line(plural(links, "link", "links") + " to images opened, the last on " + opened.UTC().Format(time.DateOnly) + "; zetanum links -fresh takes what came back.")
	}
	return exitOK, nil
}

func sumTable(sums []register.Sum, headings ...string) *terminal.Table {
	t := &terminal.Table{Headings: headings, Right: []int{1}}
	for _, sum := range sums {
		t.Rows = append(t.Rows, []string{visible(sum.Space, 40), thousands(sum.Issued), sum.Last})
	}
	return t
}

func entryTable(list []register.Entry) *terminal.Table {
	t := &terminal.Table{Headings: []string{"code", "field", "day", "product"}}
	for i := range list {
		e := &list[i]
		day := e.Day
		if e.Reserved {
			day = "reserved"
		}
		t.Rows = append(t.Rows, []string{visible(e.Code, 40), e.Space, day, visible(e.Product, 40)})
	}
	return t
}

func seenTable(list []register.Seen) *terminal.Table {
	t := &terminal.Table{Headings: []string{"barcode", "SKU", "source", "day", "title"}}
	for i := range list {
		e := &list[i]
		t.Rows = append(t.Rows, []string{e.Code.String(), visible(e.SKU, 40), visible(e.Source, 30), e.Day, visible(e.Title, 40)})
	}
	return t
}

// newest returns the last entries that were issued.
func newest(list []register.Entry) []register.Entry {
	slices.SortStableFunc(list, func(a, b register.Entry) int { return cmp.Or(cmp.Compare(b.Day, a.Day), cmp.Compare(b.Run, a.Run)) })
	return list[:min(len(list), codesListed)]
}

// find returns the entries of a code, and the barcodes that are remembered of it: as a barcode, or as an SKU.
func (o *registerCommand) find(s *session, r *register.Register, code string) (list []register.Entry, seen []register.Seen, err error) {
	list, err = r.Find(s.ctx, func(space string) uint64 { return mint.HashIn(space, code) })
	if err == nil {
		seen, err = r.FindSeen(s.ctx, code, func(source string) uint64 { return reference.MemoryKey(source, code) })
	}
	if err == nil && list == nil && seen == nil {
		err = usagef("%s is not in the register, nor is a code that reads like it", code)
	}
	return list, seen, err
}

func (o *registerCommand) show(s *session, r *register.Register, args []string) (int, error) {
	list, seen, err := o.find(s, r, args[0])
	switch {
	case err != nil:
		return exitUsage, err
	case o.json:
		return exitOK, s.encode(map[string]any{"codes": list, "barcodes": seen})
	}
	p := s.printer()
	if list != nil {
		p.Table(entryTable(list))
	}
	if list != nil && seen != nil {
		p.Line()
	}
	if seen != nil {
		p.Table(seenTable(seen))
	}
	return exitOK, nil
}

func (o *registerCommand) forget(s *session, r *register.Register, args []string) (int, error) {
	list, seen, err := o.find(s, r, args[0])
	if err != nil {
		return exitUsage, err
	}
	list = slices.DeleteFunc(list, func(e register.Entry) bool { return e.Code != args[0] })
	seen = slices.DeleteFunc(seen, func(e register.Seen) bool { return e.Code.String() != args[0] })
	switch {
	case len(list)+len(seen) == 0:
		return exitUsage, usagef("%s is not in the register as it is written here; forget takes the exact code, which show says", args[0])
	case !o.sure && len(list) > 0:
		return exitUsage, usagef("a code that is forgotten may be issued again, to another product. If that is meant: add -sure")
	case !o.sure:
		return exitUsage, usagef("a barcode that is forgotten is not given back to a file that has lost it. If that is meant: add -sure")
	}
	for i := range list {
		if err := r.Forget(s.ctx, &list[i]); err != nil {
			return exitFailed, err
		}
	}
	for i := range seen {
		if err := r.ForgetSeen(s.ctx, &seen[i]); err != nil {
			return exitFailed, err
		}
	}
	s.printer().Line(args[0] + " is forgotten.")
	return exitOK, nil
}

func (o *registerCommand) export(s *session, r *register.Register, _ []string) (int, error) {
	if o.out == "" || o.out == "-" {
		return exitOK, r.Export(s.ctx, terminal.Data(s.stdout))
	}
	f, err := os.OpenFile(o.out, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o666)
	if errors.Is(err, fs.ErrExist) {
		return exitUsage, usagef("%s is there already and is not overwritten; name another with -out", o.out)
	}
	if err == nil {
		err = errors.Join(r.Export(s.ctx, f), f.Close())
	}
	return exitOK, err
}

// keys say under which numbers codes and barcodes are in a register.
var keys = register.Keys{
	Code: func(space, code string) int64 { return register.Key(space, mint.HashIn(space, code)) },
	Seen: reference.MemoryKey,
}

func (o *registerCommand) take(s *session, r *register.Register, args []string) (int, error) {
	f, err := os.Open(args[0])
	if err != nil {
		return exitFailed, err
	}
	defer f.Close()
	taken, err := r.Import(s.ctx, f, keys)
	if err != nil {
		return exitFailed, fmt.Errorf("%s: %w", args[0], err)
	}
	s.printer().Line("Taken over: " + plural(taken.Codes, "code", "codes") + ", " + plural(taken.Counters, "counter", "counters") + ", " +
		plural(taken.Barcodes, "barcode", "barcodes") + " to remember.")
	return exitOK, nil
}

func (o *registerCommand) verify(s *session, r *register.Register, _ []string) (int, error) {
	check, err := r.Verify(s.ctx)
	if err == nil && check.Expired > 0 {
		err = r.Tidy(s.ctx)
	}
	switch {
	case err != nil:
		return exitFailed, err
	case o.json:
		err = s.encode(check)
	default:
		p := s.printer()
		p.Linef("%s, %s remembered, serial %d", plural(check.Codes, "code", "codes"), plural(check.Seen, "barcode", "barcodes"), check.Serial)
		if check.Running > 0 {
			p.Line(plural(check.Running, "run is", "runs are") + " reserving codes now")
		}
		if check.Expired > 0 {
			p.Line(plural(check.Expired, "run was", "runs were") + " killed; " + plural(check.Leaked, "code", "codes") + " that it had reserved can be issued again")
		}
		if check.Wrong == "" && check.Orphans == 0 {
			p.Line(p.Good("It is whole."))
		} else {
			p.Line(p.Open(fmt.Sprintf("It is damaged: %s; %s without a code.", cmp.Or(check.Wrong, "its tables do not fit one another"), plural(check.Orphans, "product", "products"))) +
				" Take it from a backup, and give it the codes since with register import.")
		}
	}
	if check.Wrong != "" || check.Orphans > 0 {
		return exitFailed, err
	}
	return exitOK, err
}
