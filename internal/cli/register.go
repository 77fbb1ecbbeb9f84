package cli

import (
	"cmp"
	"encoding/csv"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/mint"
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
		long: "The register remembers the codes that have been issued. list says how many, and shows the last of them; show CODE says to " +
			"which product it was given, and when; forget CODE lets it be issued again; export writes all of it as CSV, and import FILE " +
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
	return status, errors.Join(err, r.Close())
}

// codesListed is how many codes list shows.
const codesListed = 20

func (o *registerCommand) list(s *session, r *register.Register, _ []string) (int, error) {
	sums, err := r.Sums(s.ctx)
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
		return exitOK, s.encode(map[string]any{"fields": sums, "codes": last})
	}
	p := s.printer()
	if sums == nil {
		p.Line("No code has been issued yet.")
		return exitOK, nil
	}
	var rows [][]string
	for _, sum := range sums {
		rows = append(rows, []string{sum.Space, thousands(sum.Issued), sum.Last})
	}
	p.Table(&terminal.Table{Headings: []string{"field", "codes", "last issued"}, Right: []int{1}, Rows: rows})
	rows = nil
	for _, e := range last {
		rows = append(rows, row(&e))
	}
	p.Line()
	p.Table(&terminal.Table{Headings: []string{"code", "field", "day", "product"}, Rows: rows})
	return exitOK, nil
}

// newest returns the last entries that were issued.
func newest(list []register.Entry) []register.Entry {
	slices.SortStableFunc(list, func(a, b register.Entry) int { return cmp.Or(cmp.Compare(b.Day, a.Day), cmp.Compare(b.Run, a.Run)) })
	return list[:min(len(list), codesListed)]
}

func row(e *register.Entry) []string {
	day := e.Day
	if e.Reserved {
		day = "reserved"
	}
	return []string{visible(e.Code, 40), e.Space, day, visible(e.Product, 40)}
}

// find returns the entries of a code.
func (o *registerCommand) find(s *session, r *register.Register, code string) ([]register.Entry, error) {
	list, err := r.Find(s.ctx, func(space string) uint64 { return mint.HashIn(space, code) })
	if err == nil && list == nil {
		err = usagef("%s is not in the register, nor is one that reads like it", code)
	}
	return list, err
}

func (o *registerCommand) show(s *session, r *register.Register, args []string) (int, error) {
	list, err := o.find(s, r, args[0])
	switch {
	case err != nil:
		return exitUsage, err
	case o.json:
		return exitOK, s.encode(list)
	}
	var rows [][]string
	for i := range list {
		rows = append(rows, row(&list[i]))
	}
	s.printer().Table(&terminal.Table{Headings: []string{"code", "field", "day", "product"}, Rows: rows})
	return exitOK, nil
}

func (o *registerCommand) forget(s *session, r *register.Register, args []string) (int, error) {
	list, err := o.find(s, r, args[0])
	if err != nil {
		return exitUsage, err
	}
	list = slices.DeleteFunc(list, func(e register.Entry) bool { return e.Code != args[0] })
	switch {
	case len(list) == 0:
		return exitUsage, usagef("%s is not in the register as it is written here; forget takes the exact code, which show says", args[0])
	case !o.sure:
		return exitUsage, usagef("a code that is forgotten may be issued again, to another product. If that is meant: add -sure")
	}
	for i := range list {
		if err := r.Forget(s.ctx, &list[i]); err != nil {
			return exitFailed, err
		}
	}
	s.printer().Line(args[0] + " is forgotten.")
	return exitOK, nil
}

// exported are the headings of what is exported: codes, and how far counters have come.
var exported = []string{"What", "Code", "Field", "Product", "Day", "Number", "Number of product"}

func (o *registerCommand) export(s *session, r *register.Register, _ []string) (int, error) {
	write := func(w io.Writer) error {
		out := csv.NewWriter(w)
		out.Write(exported)
		number := func(n int64) string { return strconv.FormatUint(uint64(n), 16) }
		err := r.Each(s.ctx, func(e *register.Entry) error {
			if e.Reserved {
				return nil
			}
			return out.Write([]string{"code", e.Code, e.Space, e.Product, e.Day, number(e.ID), number(e.Of)})
		})
		if err == nil {
			err = r.EachCounter(s.ctx, func(head, last int64) error {
				return out.Write([]string{"counter", strconv.FormatInt(last, 10), "", "", "", number(head), ""})
			})
		}
		out.Flush()
		return cmp.Or(err, out.Error())
	}
	if o.out == "" || o.out == "-" {
		return exitOK, write(terminal.Data(s.stdout))
	}
	f, err := os.OpenFile(o.out, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o666)
	if errors.Is(err, fs.ErrExist) {
		return exitUsage, usagef("%s is there already and is not overwritten; name another with -out", o.out)
	}
	if err == nil {
		err = errors.Join(write(f), f.Close())
	}
	return exitOK, err
}

// errNotExported says that a file is not what register export writes.
var errNotExported = errors.New("this is not what “zetanum register export” writes")

func (o *registerCommand) take(s *session, r *register.Register, args []string) (int, error) {
	f, err := os.Open(args[0])
	if err != nil {
		return exitFailed, err
	}
	defer f.Close()
	in := csv.NewReader(f)
	in.ReuseRecord = true
	if head, err := in.Read(); err != nil || !slices.Equal(head, exported) {
		return exitFailed, fmt.Errorf("%s: %w: its first line reads %s", args[0], errNotExported, strings.Join(exported, ","))
	}
	counters := make(map[int64]int64)
	line := 1
	added, err := r.Import(s.ctx, func() (*register.Entry, error) {
		for {
			record, err := in.Read()
			if errors.Is(err, io.EOF) {
				return nil, nil
			}
			line++
			if err != nil {
				return nil, fmt.Errorf("%s: %w", args[0], err)
			}
			id, err1 := strconv.ParseUint(record[5], 16, 64)
			switch {
			case record[0] == "counter":
				last, err2 := strconv.ParseInt(record[1], 10, 64)
				if err1 == nil && err2 == nil {
					counters[int64(id)] = last
					continue
				}
			case record[0] == "code":
				of, err2 := strconv.ParseUint(record[6], 16, 64)
				if err1 == nil && err2 == nil && id == uint64(register.Key(record[2], mint.HashIn(record[2], record[1]))) {
					return &register.Entry{Code: strings.Clone(record[1]), Space: strings.Clone(record[2]), Product: strings.Clone(record[3]), Day: strings.Clone(record[4]), ID: int64(id), Of: int64(of)}, nil
				}
			}
			return nil, fmt.Errorf("%s, line %d: %w; nothing was taken over", args[0], line, errNotExported)
		}
	}, counters)
	if err != nil {
		return exitFailed, err
	}
	s.printer().Line(plural(added, "code", "codes") + " taken over, and " + plural(len(counters), "counter", "counters") + ".")
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
		p.Linef("%s, serial %d", plural(check.Codes, "code", "codes"), check.Serial)
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
