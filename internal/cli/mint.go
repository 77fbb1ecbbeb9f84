package cli

import (
	"errors"
	"flag"
	"fmt"
	"math"
	"path/filepath"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/mint"
	"zetanum/core/pattern"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/internal/proof"
	"zetanum/internal/terminal"
)

type mintCommand struct {
	repairFlags
	out     string
	pattern string
	into    string
	by      string
	avoid   string
	count   int
	take    int
	over    bool
	check   bool
}

func (*mintCommand) about() about {
	return about{
		name: "mint", args: "FILE",
		short: "make codes where there are none, and nothing else",
		long: "Makes codes that nobody has, such as SKUs, where there are none, by the pattern that -pattern says or the rulebook has, and " +
			"writes a folder as repair does; no other cell is changed. The same product gets the same code whatever the order of the rows. " +
			"Without a pattern it proposes three for the file, with ten codes of each; -take 1 makes those of the first and writes the " +
			"pattern into the rulebook. With -count and -pattern, and without a file, it prints codes, one a line.",
		examples: []string{"zetanum mint own-make.csv",
			`zetanum mint own-make.csv -pattern "{category ascii letters upper first 2}-{counter 4}" -check`,
			`zetanum mint own-make.csv -pattern "LR-{counter 5}" -register codes.register`,
			`zetanum mint -count 5 -pattern "LR-{random digits 4}{check 37-2}"`},
	}
}

func (o *mintCommand) flags(f *flag.FlagSet) {
	o.sourceFlags.flags(f)
	o.jsonFlag.flags(f)
	f.StringVar(&o.rules, "rules", "", "follow the rulebook `FILE` (default: zetanum.toml beside the input or in the working folder)")
	f.StringVar(&o.pattern, "pattern", "", "make codes of this `PATTERN` (default: those that the rulebook orders)")
	f.StringVar(&o.into, "into", "sku", "make codes for this `FIELD`, with -pattern")
	f.StringVar(&o.by, "by", "", "tell products apart by these columns, `FIELD,…` (default: title and options)")
	f.StringVar(&o.avoid, "avoid", "", "issue no code that the sheets in these files have, `FILE,…`")
	f.BoolVar(&o.over, "over", false, "replace codes that are there, too; -check shows old and new")
	f.BoolVar(&o.replace, "replace-codes", false, "say once more that codes which are in use are replaced")
	o.registerFlag(f)
	f.IntVar(&o.take, "take", 0, "make codes of the `N`th pattern that is proposed, and write it into the rulebook")
	f.IntVar(&o.count, "count", 0, "print `N` codes of -pattern, without a file")
	f.BoolVar(&o.check, "check", false, "show the first codes, and how many there can be, and write nothing")
	f.Var(&answerFlag{catalogue.Unanswered, &o.said}, "answer", "let what is open go: `FINDING[=HEADING]:ANSWER`, as with repair")
	f.BoolVar(&o.all, "all", false, "show all that is open or was noticed (default: what fits on a screen)")
	f.StringVar(&o.date, "date", "", "take this date, `YYYY-MM-DD`, for that of the run (default: today)")
	f.StringVar(&o.out, "out", "", "write the folder `DIR`, or ready.csv alone to standard output with -out -")
}

func (o *mintCommand) run(s *session, files []string) (int, error) {
	switch {
	case o.count > 0 && len(files) > 0:
		return exitUsage, usagef("-count prints codes without a file; for those of a file leave it out")
	case o.count != 0:
		return o.print(s)
	case len(files) != 1:
		return exitUsage, usagef("name one file, or a -count and a -pattern to print codes")
	case o.take != 0 && o.pattern != "":
		return exitUsage, usagef("-take takes one of the patterns that are proposed, and -pattern says another")
	case o.take < 0 || o.take > proposals:
		return exitUsage, usagef("-take %d: %d patterns are proposed", o.take, proposals)
	}
	if o.pattern != "" {
		if _, err := pattern.ParseCode(o.pattern); err != nil {
			return exitUsage, usagef("-pattern: %v", err)
		}
	}
	opt, err := o.options(s, files[0])
	if err != nil {
		return exitFailed, err
	}
	if o.pattern == "" && len(opt.Book.Mint) == 0 {
		return o.propose(s, files[0], opt)
	}
	return o.mint(s, files, o.pattern)
}

// mint makes codes for a file, of a pattern or of those of the rulebook.
func (o *mintCommand) mint(s *session, files []string, pattern string) (int, error) {
	if o.over && !o.replace {
		return o.old(s, files[0], pattern)
	}
	return o.each(s, files, func(opt *repair.Options) {
		o.aim(opt, pattern)
		switch {
		case o.check:
		case o.out == "-":
			opt.Stdout = terminal.Data(s.stdout)
		case o.out != "":
			opt.Target = filepath.Clean(o.out)
		default:
			opt.Target = opt.Folder()
		}
		opt.Review = proof.Review
	})
}

// old shows which codes would become which, and how that is ordered.
func (o *mintCommand) old(s *session, file, pattern string) (int, error) {
	opt, err := o.options(s, file)
	if err != nil {
		return exitFailed, err
	}
	o.aim(&opt, pattern)
	opt.ReplaceCodes = true
	var list [][]string
	err = s.do(&opt, func() (err error) {
		list, err = repair.Renewals(s.ctx, opt)
		return err
	})
	switch {
	case err != nil && wrongRules(err):
		return exitUsage, usagef("%v", err)
	case err != nil:
		return exitFailed, err
	case o.json:
		return exitOK, s.encode(map[string]any{"would_replace": list})
	}
	s.suggest("zetanum help mint")
	p := s.printer()
	p.Line(plural(len(list), "code", "codes") + " would be replaced:")
	shown := list
	if len(list) > renewalsShown && !o.all {
		shown = list[:renewalsShown]
	}
	rows := make([][]string, 0, len(shown))
	for _, r := range shown {
		rows = append(rows, []string{r[0], visible(r[1], 40), "→", visible(r[2], 40)})
	}
	p.Table(&terminal.Table{Headings: []string{"row", "old", "", "new"}, Right: []int{0}, Rows: rows})
	if len(shown) < len(list) {
		p.Line("  " + p.Faint("-all shows all "+thousands(len(list))))
	}
	p.WrapHanging("", "", p.Open("Nothing was written: orders, links and labels that have the old codes would no longer be found.")+
		" To replace them all the same, and to get old-to-new.csv: add "+p.Bold("-replace-codes"))
	return exitOK, nil
}

// renewalsShown is how many codes that would be replaced are shown.
const renewalsShown = 20

// aim says which codes are made.
func (o *mintCommand) aim(opt *repair.Options, pattern string) {
	opt.CodesOnly = true
	if pattern != "" {
		opt.Book.Mint = []mint.Rule{{Into: o.into, From: pattern, Over: o.over, By: splitList(o.by), Avoid: splitList(o.avoid)}}
	}
	opt.ReplaceCodes = o.replace
}

// proposals is how many patterns are proposed at most.
const proposals = 3

// propose shows patterns that fit a file, each with its first codes, or takes one of them.
func (o *mintCommand) propose(s *session, file string, opt repair.Options) (int, error) {
	opt.CodesOnly = true
	var look *repair.Result
	err := s.do(&opt, func() (err error) {
		look, err = repair.Look(s.ctx, opt)
		return err
	})
	if err != nil {
		return exitFailed, err
	}
	list := look.Patterns
	if o.take > len(list) {
		return exitUsage, usagef("-take %d: %s proposed", o.take, plural(len(list), "pattern is", "patterns are"))
	}
	if o.take > 0 {
		status, err := o.mint(s, []string{file}, list[o.take-1].From)
		if err == nil && !o.check {
			err = o.write(s, file, list[o.take-1].From)
		}
		return status, err
	}
	p := s.printer()
	p.Line("No pattern is said. These fit " + p.Bold(terminal.Typed(look.Source.Name)) + ":")
	for i, proposal := range list {
		tried := opt
		o.aim(&tried, proposal.From)
		var result *repair.Result
		err := s.do(&tried, func() (err error) {
			result, err = repair.Run(s.ctx, tried)
			return err
		})
		p.Line()
		p.Linef("%s  %s", p.Bold(fmt.Sprint(i+1)), p.Bold(terminal.Typed(proposal.From)))
		p.WrapHanging("   ", "   ", p.Faint(proposal.Says))
		switch {
		case err != nil:
			p.WrapHanging("   ", "   ", p.Open(terminal.Typed(strings.TrimSpace(err.Error()))))
		case len(result.Minted) > 0 && result.Minted[0].Issued > 0:
			p.WrapHanging("   ", "   ", strings.Join(result.Minted[0].Codes, "  "))
			p.WrapHanging("   ", "   ", minted(result))
		default:
			p.Line("   " + minted(result))
		}
	}
	p.Line()
	p.WrapHanging("", "", "To make them, and to write the pattern into the rulebook, so that the next file gets its codes by it:")
	s.suggest("zetanum mint", strings.Join(o.source(file, o.sheet), " "), "-take 1")
	return exitOK, nil
}

// minted says how many rows get a code, and how many do not.
func minted(r *repair.Result) string {
	var m struct{ issued, most uint64 }
	for i := range r.Minted {
		m.issued += uint64(r.Minted[i].Issued)
		m.most = max(m.most, r.Minted[i].Most)
	}
	text := plural(int(m.issued), "code", "codes")
	if m.issued == 0 {
		text = "no row of this file gets one"
	} else if m.most == math.MaxUint64 {
		text += "; there is no end to them"
	} else {
		text += "; up to " + catalogue.Thousands(m.most) + " can be made for one beginning"
	}
	if n := r.Report.Held; n > 0 {
		text += "; " + plural(n, "row would be held", "rows would be held")
	}
	return text
}

// write writes a pattern into the rulebook of a file.
func (o *mintCommand) write(s *session, file, pattern string) error {
	path, err := sections.RememberMint(o.rulebook(file), mint.Rule{Into: o.into, From: pattern, By: splitList(o.by)})
	if err == nil && !o.json {
		s.printer().Line("The pattern stands in " + terminal.Typed(path) + " now.")
	}
	return err
}

// print prints codes.
func (o *mintCommand) print(s *session) (int, error) {
	switch {
	case o.count < 0 || o.count > mostPrinted:
		return exitUsage, usagef("-count %d: a number from 1 to %s", o.count, thousands(mostPrinted))
	case o.pattern == "":
		return exitUsage, usagef("-count goes with -pattern, which says of what the codes are made")
	}
	p, err := pattern.ParseCode(o.pattern)
	if err != nil {
		return exitUsage, usagef("-pattern: %v", err)
	}
	if names := p.Names(); names != nil {
		return exitUsage, usagef("-pattern: {%s} is a column of a file, and with -count there is none", names[0])
	}
	day := o.date
	if day == "" {
		day = s.now().Format("2006-01-02")
	}
	year, _, _ := strings.Cut(day, "-")
	p.In(year)
	taken, err := sections.Avoided(splitList(o.avoid), o.into, p)
	if err != nil {
		return exitFailed, err
	}
	issuer := mint.NewIssuer(taken, o.count)
	draft, _ := p.Draft(new(catalogue.Row))
	var codes []string
	for n := range o.count {
		code, err := issuer.Issue(draft, uint64(n))
		switch {
		case errors.Is(err, mint.ErrExhausted), errors.Is(err, mint.ErrTaken):
			return exitUsage, usagef("-pattern: of %s there can be %s, and %s are wanted; let it count further", mint.Shown(draft),
				thousands(len(codes)), thousands(o.count))
		case err != nil:
			return exitUsage, usagef("-pattern: %v over %s", err, mint.Shown(draft))
		}
		codes = append(codes, code)
	}
	if o.json {
		return exitOK, s.encode(map[string]any{"pattern": o.pattern, "codes": codes})
	}
	_, err = fmt.Fprintln(terminal.Data(s.stdout), strings.Join(codes, "\n"))
	return exitOK, err
}

// mostPrinted is how many codes are printed at most.
const mostPrinted = 1_000_000
