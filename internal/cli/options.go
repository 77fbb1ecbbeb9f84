package cli

import (
	"cmp"
	"errors"
	"flag"
	"fmt"
	"maps"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/folder"
	"zetanum/core/reference"
	"zetanum/core/repair"
	"zetanum/core/returned"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/internal/terminal"
)

// A listFlag can be given several times.
type listFlag []string

func (l *listFlag) String() string     { return strings.Join(*l, ",") }
func (l *listFlag) Set(v string) error { *l = append(*l, v); return nil }

// An answerFlag is one of several that take down answers, in the order in which they stand.
type answerFlag struct {
	answer catalogue.Answer
	said   *catalogue.Decisions
}

func (*answerFlag) String() string { return "" }

func (a *answerFlag) Set(v string) error {
	d, err := sections.ParseAnswer(a.answer, v)
	if err != nil {
		return errors.New(terminal.Typed(err.Error()))
	}
	*a.said = append(*a.said, d)
	return nil
}

// A setFlag says what is written into columns: HEADING = VALUE, several times.
type setFlag []sections.Setting

func (*setFlag) String() string { return "" }

func (f *setFlag) Set(v string) error {
	set, err := sections.ParseSetting(v)
	if err == nil {
		*f = append(*f, set)
	}
	return err
}

// A fieldFlag says what headings mean: HEADING=FIELD, several times.
type fieldFlag map[string]catalogue.Field

func (f *fieldFlag) String() string { return "" }

func (f *fieldFlag) Set(v string) error {
	i := strings.LastIndexByte(v, '=')
	if i < 1 {
		return fmt.Errorf(`it must read "HEADING=FIELD", for example "Art. no.=sku"`)
	}
	field, ok := catalogue.ParseField(strings.TrimSpace(v[i+1:]))
	if !ok {
		return fmt.Errorf("there is no field %q; the fields are: %s", v[i+1:], strings.Join(catalogue.FieldNames(), " "))
	}
	if *f == nil {
		*f = make(fieldFlag)
	}
	(*f)[strings.TrimSpace(v[:i])] = field
	return nil
}

// sourceFlags say how a file is to be read.
type sourceFlags struct {
	sheet   string
	member  string
	reading sheet.Reading
	fields  fieldFlag
	local   bool
	workers int
}

func (o *sourceFlags) flags(f *flag.FlagSet) {
	f.StringVar(&o.sheet, "sheet", "", "read the sheet `NAME` of a workbook (default: the first visible one with a table); inspect "+
		"takes all, too")
	f.StringVar(&o.member, "member", "", "read the file `NAME` of a zip archive (default: the only one with a table)")
	f.StringVar(&o.reading.Encoding, "encoding", "", "read a CSV file in this encoding, `NAME` (default: that in which its text "+
		"makes best sense)")
	f.StringVar(&o.reading.Separator, "separator", "", "read a CSV file whose cells are separated by this `CHARACTER`, or comma, "+
		"semicolon, tab, pipe (default: that with which the headings are known)")
	f.StringVar(&o.reading.Quote, "quote", "", "read a CSV file that has this `CHARACTER` around its cells (default: the quotation "+
		"mark, or what stands around most)")
	f.IntVar(&o.reading.HeadingRow, "heading-row", 0, "take row `N` for the headings (default: that with most known headings)")
	f.BoolVar(&o.reading.NoHeadings, "no-headings", false, "read a table without headings; its columns are called Column 1, Column 2, …")
	f.Var(&o.fields, "field", "say what a heading means, as `HEADING=FIELD`; may be given several times")
	f.BoolVar(&o.local, "allow-local", false, "fetch from addresses of this machine and its own network, too (default: from the open "+
		"web only)")
	f.IntVar(&o.workers, "workers", max(2, runtime.GOMAXPROCS(0)), "let `N` workers share the file; the result is the same for any number")
}

// repairs is the command that repairs a file that was read in this way.
func (o *sourceFlags) repairs(file, sheet string) string {
	return "zetanum repair " + strings.Join(o.source(file, sheet), " ")
}

// source returns the words that say which file is read, and how.
func (o *sourceFlags) source(file, sheet string) []string {
	words := []string{quoted(file)}
	if sheet != "" {
		words = append(words, "-sheet", quoted(sheet))
	}
	for _, said := range [][2]string{{"member", o.member}, {"encoding", o.reading.Encoding}, {"separator", o.reading.Separator},
		{"quote", o.reading.Quote}} {
		if said[1] != "" {
			words = append(words, "-"+said[0], quoted(said[1]))
		}
	}
	if n := o.reading.HeadingRow; n > 0 {
		words = append(words, "-heading-row", strconv.Itoa(n))
	}
	for _, said := range []struct {
		name string
		is   bool
	}{{"-no-headings", o.reading.NoHeadings}, {"-allow-local", o.local}} {
		if said.is {
			words = append(words, said.name)
		}
	}
	for _, h := range slices.Sorted(maps.Keys(o.fields)) {
		words = append(words, "-field", quoted(h+"="+o.fields[h].String()))
	}
	return words
}

// jsonFlag asks for a document for programs.
type jsonFlag struct{ json bool }

func (o *jsonFlag) flags(f *flag.FlagSet) {
	f.BoolVar(&o.json, "json", false, "print one JSON document for programs")
}

// repairFlags say how a file is to be repaired.
type repairFlags struct {
	sourceFlags
	jsonFlag
	rules    string
	trust    listFlag
	said     catalogue.Decisions
	set      setFlag
	keep     bool // the answers
	borrow   string
	by       string
	take     string
	alike    string
	lent     string // the sheet of the workbook that is borrowed from
	only     string
	template string
	plain    bool
	sample   int
	date     string
	all      bool
	with     string
	shop     returned.Declared

	links     string // the folder of their results
	linksHold bool
	linksDrop bool
	linksMove bool

	then func(s *session, file string, result *repair.Result) (int, error) // what is done when a file has been repaired; nil: nothing

	replace  bool // codes that are in use
	register string
}

func (o *repairFlags) flags(f *flag.FlagSet) {
	o.sourceFlags.flags(f)
	o.jsonFlag.flags(f)
	f.StringVar(&o.rules, "rules", "", "follow the rulebook `FILE` (default: zetanum.toml beside the input or in the working folder)")
	f.Var(&o.trust, "trust", "take lost barcodes from the sheet in `FILE`, where it proves them, by SKU or by title and options; or "+
		"from the output folder of an earlier run; may be given several times")
	f.Var(&answerFlag{catalogue.Yes, &o.said}, "yes", "answer the question of a `FINDING[=HEADING]` with yes, for the column or for all; "+
		"may be given several times, as those that follow")
	f.Var(&answerFlag{catalogue.No, &o.said}, "no", "answer it with no: the cells stay held, and it is not asked again, `FINDING[=HEADING]`")
	f.Var(&answerFlag{catalogue.Unanswered, &o.said}, "answer", "let what is open go: `FINDING[=HEADING]:ANSWER`; keep writes it as it is, "+
		"blank writes it empty, aside sets its products aside; or what the finding says that it may be")
	f.Var(&answerFlag{catalogue.Hold, &o.said}, "hold", "hold products back for a `FINDING[=HEADING]` that holds nothing by itself")
	f.Var(&o.set, "set", "write into every row of a column, as `HEADING = VALUE`: a fixed value, another column (\"MPN = sku\"), a pattern (\"Label = {brand} {title}\") "+
		"or an amount (\"Min price = cost + 15%\"); may be given several times; the lines that would keep it are printed")
	f.StringVar(&o.borrow, "borrow", "", "take values from the sheet in `FILE`, with -by and -take")
	f.StringVar(&o.lent, "from-sheet", "", "with -borrow, take them from the sheet `NAME` of a workbook, which may be that which is repaired")
	f.StringVar(&o.by, "by", "", "the `FIELD,…` that both sheets are matched by, with -borrow")
	f.StringVar(&o.take, "take", "", "the `FIELD,…` to take with -borrow, into cells that are empty")
	f.StringVar(&o.alike, "alike", "", "what need not be the same in keys with -borrow, `WHAT,…`: case, spaces, dashes, zeros")
	f.StringVar(&o.with, "with", "", "take what comes back, such as held.csv in which rows were mended, together with the output folder `DIR` "+
		"of which it is: the source is repaired again with it, into DIR-2")
	f.StringVar(&o.shop.Outcome, "outcome", "", "with -with, the `HEADING` under which a result of the shop says whether it took a row "+
		"(default: the column that says so)")
	f.StringVar(&o.shop.Remark, "remark", "", "with -with, the `HEADING` under which it says why")
	f.StringVar(&o.links, "links", "", "look at links to images by what the command links has written into the folder `DIR`")
	f.BoolVar(&o.linksHold, "links-hold", false, "with -links, hold products of which a link leads to no picture")
	f.BoolVar(&o.linksDrop, "links-drop", false, "with -links, take links out that lead to no picture; a product whose first one does is held")
	f.BoolVar(&o.linksMove, "links-move", false, "with -links, write the address in place of a link that has moved for good, or of a page that names its picture")
	f.StringVar(&o.template, "template", "", "write what is ready into the columns of an import template, `FORM`, or self, if the file is one that is filled in; begin -template proposes what fills them")
	f.StringVar(&o.only, "only", "", "write only what products are known by, such as the SKU, and these columns, `FIELD,…` (fields or headings)")
	f.BoolVar(&o.plain, "plain", false, "with -only, write a bare list: no SKU, no headings, no empty lines")
	f.BoolVar(&o.replace, "replace-codes", false, "say once more that codes which are in use are replaced, where [[mint]] has over = true")
	o.registerFlag(f)
	f.IntVar(&o.sample, "sample", 0, "write a small trial of `N` products, chosen to differ, and set the others aside")
	f.BoolVar(&o.all, "all", false, "show all that was repaired, is open or was noticed (default: what fits on a screen)")
	f.StringVar(&o.date, "date", "", "record this date, `YYYY-MM-DD`, in place of today")
}

func (o *repairFlags) registerFlag(f *flag.FlagSet) {
	f.StringVar(&o.register, "register", "", "remember the codes that are made in a `FILE`, or on a PostgreSQL server, postgres://…, so that none is "+
		"issued twice (default: what the rulebook says)")
}

// options returns what the reading of a file needs, with the rulebook of that path, or the one
// that belongs to it.
func (o *sourceFlags) options(s *session, file, rules string) (repair.Options, error) {
	if problems := o.reading.Check(); len(problems) > 0 {
		return repair.Options{}, usagef("-%s: %s", problems[0].Key, problems[0].Text)
	}
	if o.workers < 1 || o.workers > 1024 {
		return repair.Options{}, usagef("-workers %d: a number from 1 to 1024", o.workers)
	}
	opt := repair.Options{
		Input: file, Stdin: s.stdin, Sheet: o.sheet, Member: o.member, Reading: o.reading, Fields: o.fields,
		AllowLocal: o.local, Workers: o.workers, Now: s.now, Date: s.now().Format(time.DateOnly), Version: Version,
	}
	if rules == "" {
		rules = sections.Find(file)
	}
	if rules == "" {
		return opt, nil
	}
	book, err := sections.Load(rules)
	if errors.Is(err, rulebook.ErrWrong) {
		return opt, usagef("%v", err)
	}
	if err == nil {
		opt.Book = *book
	}
	return opt, err
}

// options returns what the repair of a file needs.
func (o *repairFlags) options(s *session, file string) (repair.Options, error) {
	if o.with != "" {
		return o.resumed(s, file)
	}
	opt, err := o.sourceFlags.options(s, file, o.rules)
	if err != nil {
		return opt, err
	}
	return opt, o.complete(&opt)
}

// resumed returns what the repair of a source needs with which a file comes back.
func (o *repairFlags) resumed(s *session, file string) (opt repair.Options, err error) {
	if file == "-" {
		return opt, usagef("-with takes a file that comes back, not standard input")
	}
	before, err := repair.Resume(o.with)
	if err != nil {
		return opt, err
	}
	opt, err = o.sourceFlags.options(s, before.Source, cmp.Or(o.rules, before.Rules))
	if err == nil {
		err = o.complete(&opt)
	}
	if err == nil {
		before.Fill(&opt, file)
		opt.Declared = o.shop
	}
	return opt, err
}

// complete puts into options what the flags of a repair say.
func (o *repairFlags) complete(opt *repair.Options) error {
	if o.date != "" {
		if _, err := time.Parse(time.DateOnly, o.date); err != nil {
			return usagef("-date %s: a date is written YYYY-MM-DD", o.date)
		}
		opt.Date = o.date
	}
	switch {
	case o.sample < 0:
		return usagef("-sample %d: the number of products must be 1 or more", o.sample)
	case o.with == "" && o.shop != (returned.Declared{}):
		return usagef("-outcome and -remark go with -with, which names the output folder that the shop was given")
	case o.links == "" && (o.linksHold || o.linksDrop || o.linksMove):
		return usagef("-links-hold, -links-drop and -links-move go with -links, which names the folder that zetanum links has written")
	case o.keep && len(o.said)+len(o.set) == 0:
		return usagef("-remember goes with answers: -yes, -no, -answer or -hold; or with -set")
	case o.plain && o.only == "":
		return usagef("-plain goes with -only, which says what the list is of")
	}
	opt.Links, opt.LinksHold, opt.LinksDrop, opt.LinksMove = o.links, o.linksHold, o.linksDrop, o.linksMove
	opt.Set = o.set
	opt.Trust, opt.Only, opt.Plain, opt.Sample, opt.Said, opt.ReplaceCodes, opt.Register = o.trust, splitList(o.only), o.plain, o.sample, o.said, o.replace, o.register
	if o.template != "" {
		opt.Book.Target.Template, opt.Book.Target.Like = o.template, nil
	}
	return o.addLoan(&opt.Book, &opt.Lent)
}

// addLoan adds what -borrow says to the rulebook.
func (o *repairFlags) addLoan(book *sections.Book, lent *int) error {
	if o.borrow == "" {
		if o.by+o.take+o.alike+o.lent != "" {
			return usagef("-by, -take, -alike and -from-sheet go with -borrow, which names the sheet")
		}
		return nil
	}
	rule := reference.BorrowRule{From: o.borrow, Sheet: o.lent, By: splitList(o.by), Take: splitList(o.take), Alike: splitList(o.alike)}
	if problems := rule.Check(); len(problems) > 0 {
		return usagef("-borrow %s: %s; write it so: -borrow stock-take.xlsx -by sku -take barcode,weight", o.borrow, problems[0].Text)
	}
	book.Borrow = append(slices.Clone(book.Borrow), rule)
	*lent++
	return nil
}

// follow does work with the rulebook that belongs to a file. One that was only found beside it, and does not fit
// the columns of the file, is left out, and why is returned: it may have been made for another one.
func (s *session) follow(opt *repair.Options, named bool, work func() error) (notFollowed string, err error) {
	err = s.do(opt, work)
	var misfit *rulebook.Error
	lacks := errors.Is(err, columns.ErrWrong) || errors.Is(err, sections.ErrOnly) || errors.Is(err, condition.ErrNoColumn)
	if named || opt.Book.Path == "" || !lacks || !errors.As(err, &misfit) {
		return "", err
	}
	misfit.Sheet = ""
	why := fmt.Sprintf("%s, which was found for this file, does not fit it and was not followed: %s. To insist: -rules %s",
		opt.Book.Path, strings.TrimRight(strings.TrimPrefix(misfit.Error(), opt.Book.Path+", "), "."), quoted(opt.Book.Path))
	loans := opt.Book.Borrow[len(opt.Book.Borrow)-opt.Lent:]
	opt.Book = sections.Book{Borrow: loans}
	return why, s.do(opt, work)
}

// wrongRules reports whether an error says that the rulebook, or a flag that does
// the same, does not fit the file.
func wrongRules(err error) bool {
	return errors.Is(err, rulebook.ErrWrong) || errors.Is(err, sections.ErrOnly) || errors.Is(err, sections.ErrSet)
}

// do does work on a file: it gives it a folder for what is needed for a while,
// unless the output folder will do, and lets a progress bar show.
func (s *session) do(opt *repair.Options, work func() error) error {
	if opt.Target == "" {
		temp, err := folder.NewTemp()
		if err != nil {
			return err
		}
		defer temp.Remove()
		opt.Temp = temp.Dir
	}
	bar := terminal.NewBar(s.stderr)
	opt.Progress = bar.Update
	defer bar.Stop()
	return work()
}
