package cli

import (
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"net"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"zetanum/core/linkcheck"
	"zetanum/core/repair"
	"zetanum/internal/terminal"
)

type linksCommand struct {
	sourceFlags
	jsonFlag
	rules    string
	out      string
	fresh    string
	perHost  int
	inAll    int
	patience int
	whole    bool
	quick    bool
	save     string
	saveAs   string
	register string
	all      bool
	at       hostsFlag
}

// A hostsFlag says where hosts are: HOST=ADDRESS, several times.
type hostsFlag map[string]string

func (*hostsFlag) String() string { return "" }

func (h *hostsFlag) Set(v string) error {
	host, address, ok := strings.Cut(v, "=")
	if _, _, err := net.SplitHostPort(address); !ok || err != nil || host == "" || strings.ContainsAny(host, "/:") {
		return errors.New(`it must read "HOST=ADDRESS:PORT", for example "cdn.shop.example=127.0.0.1:8080"`)
	}
	if *h == nil {
		*h = make(hostsFlag)
	}
	(*h)[strings.ToLower(host)] = address
	return nil
}

func (*linksCommand) about() about {
	return about{
		name: "links", args: "FILE…",
		short: "open every link to an image, and say what came back",
		long: "Opens the links to images of a file, each once. It says which lead to a picture, of what type and size it really is, and " +
			"otherwise what is there instead. Nothing but the first bytes of a picture is read. The folder NAME.links has the " +
			"products with dead links, with the answers of the hosts, and all results. It is stopped and goes on where it was. " +
			"The exit status is 1 if a link leads to no picture.",
		examples: []string{"zetanum links saltmarsh-export.csv -quick -patience 1"},
	}
}

func (o *linksCommand) flags(f *flag.FlagSet) {
	o.sourceFlags.flags(f)
	o.jsonFlag.flags(f)
	f.StringVar(&o.rules, "rules", "", "follow the rulebook `FILE` (default: zetanum.toml beside the input or in the working folder)")
	f.StringVar(&o.out, "out", "", "write the folder `DIR` (default: NAME.links beside the file)")
	f.StringVar(&o.fresh, "fresh", "", "take results of the folder, and of the register, that are not older than a `TIME`, such as 7d or 12h, and open only the other links")
	f.IntVar(&o.perHost, "per-host", linkcheck.UsualPoliteness.PerHost, "open `N` links of one host at once; 0 as many as of all")
	f.IntVar(&o.inAll, "in-all", linkcheck.UsualPoliteness.InAll, "open `N` links at once")
	f.IntVar(&o.patience, "patience", 60, "wait for a link no longer than so many `SECONDS`")
	f.BoolVar(&o.whole, "whole", false, "read pictures to their end: one that has a single colour is seen, and one that breaks off")
	f.BoolVar(&o.quick, "quick", false, "only ask whether something is there, not how large it is")
	f.StringVar(&o.save, "save", "", "keep the pictures in the folder `DIR`, read to their end")
	f.StringVar(&o.saveAs, "save-as", "", "the names of what is kept, as a `PATTERN` such as \"{sku lower}-{number}\" (default: as in the links)")
	f.StringVar(&o.register, "register", "", "keep results in a register, too: a `FILE`, or a PostgreSQL server, postgres://…, so that -fresh takes those of other "+
		"lists and of colleagues (default: what the rulebook says)")
	f.Var(&o.at, "host", "ask another address for the links of a host, as `HOST=ADDRESS:PORT`, such as a trial server before the name leads to it; "+
		"may be given several times")
	f.BoolVar(&o.all, "all", false, "show all hosts (default: what fits on a screen)")
}

func (o *linksCommand) run(s *session, files []string) (int, error) {
	switch {
	case len(files) == 0:
		return exitUsage, usagef("name a file with links to images")
	case len(files) > 1 && o.out != "":
		return exitUsage, usagef("-out names the folder of one file")
	case o.perHost < 0 || o.inAll < 1 || o.inAll > 1000 || o.perHost > 1000:
		return exitUsage, usagef("-per-host and -in-all are numbers up to 1000, and -in-all is at least 1")
	case o.patience < 1 || o.patience > 3600:
		return exitUsage, usagef("-patience %d: a number of seconds from 1 to 3600", o.patience)
	case o.save != "" && o.quick:
		return exitUsage, usagef("-save reads pictures to their end, and -quick does not read them; leave one out")
	case o.saveAs != "" && o.save == "":
		return exitUsage, usagef("-save-as names what -save keeps, and that names no folder")
	case o.save != "" && len(files) > 1:
		return exitUsage, usagef("-save keeps the pictures of one file; name one file, or leave it out")
	case o.whole && o.quick:
		return exitUsage, usagef("-whole reads pictures to their end, and -quick does not read them; leave one out")
	}
	fresh, err := parseAge(o.fresh)
	if err != nil {
		return exitUsage, err
	}
	worst := exitOK
	var failed error
	var all []any
	for i, file := range files {
		if i > 0 && !o.json {
			s.printer().Line()
		}
		r, err := o.open(s, file, fresh)
		if err != nil {
			if wrongRules(err) {
				return exitUsage, usagef("%v", err)
			}
			failed = errors.Join(failed, err)
			continue
		}
		if r.Bad() > 0 {
			worst = exitHeld
		}
		if o.json {
			all = append(all, linksJSON(r))
			continue
		}
		o.print(s, file, r)
	}
	if failed != nil {
		return exitFailed, failed
	}
	if o.json {
		if len(all) == 1 {
			return worst, s.encode(all[0])
		}
		return worst, s.encode(all)
	}
	return worst, nil
}

// open opens the links of one file.
func (o *linksCommand) open(s *session, file string, fresh time.Duration) (*repair.LinkReport, error) {
	opt, err := o.options(s, file, o.rules)
	if err != nil {
		return nil, err
	}
	opt.Register = o.register
	opt.Target = filepath.Clean(cmp.Or(o.out, repair.LinksFolder(file)))
	total := time.Duration(o.patience) * time.Second
	bar := terminal.NewBar(s.stderr)
	bar.Counts()
	defer bar.Stop()
	r, err := repair.Links(s.ctx, repair.LinkOptions{
		Options: opt, Fresh: fresh, Save: o.save, SaveAs: o.saveAs,
		Check: linkcheck.Options{Local: o.local, Whole: o.whole, Quick: o.quick, At: o.at, Total: total, Connect: min(total, 10*time.Second),
			Headers: min(total, 20*time.Second), Now: s.now},
		Polite: linkcheck.Politeness{PerHost: cmp.Or(o.perHost, o.inAll), InAll: o.inAll},
		Opened: func(done, all, bad int) {
			stage := "opening"
			if bad > 0 {
				stage = plural(bad, "is", "are") + " dead"
			}
			bar.Update(stage, int64(done), int64(all))
		},
	})
	if errors.Is(err, context.Canceled) {
		return nil, errors.New("stopped; what was opened is kept, and the same command goes on from there")
	}
	return r, err
}

// parseAge reads how old something may be: 7d, 12h, 30m.
func parseAge(s string) (time.Duration, error) {
	if s == "" {
		return 0, nil
	}
	if days, ok := strings.CutSuffix(s, "d"); ok {
		if n, err := strconv.Atoi(days); err == nil && n > 0 && n < 10000 {
			return time.Duration(n) * 24 * time.Hour, nil
		}
	} else if d, err := time.ParseDuration(s); err == nil && d > 0 {
		return d, nil
	}
	return 0, usagef("-fresh %s: a number of days or hours, such as 7d or 12h", s)
}

// reasonWords say what reasons mean.
var reasonWords = map[linkcheck.Reason]string{
	"": "a picture", linkcheck.TooFar: "a picture whose size stands too far back", linkcheck.NotFound: "the host has nothing there",
	linkcheck.Refused: "the host refuses it", linkcheck.Login: "a page that asks for a password", linkcheck.Page: "a page",
	linkcheck.Other: "something that is no picture", linkcheck.Empty: "nothing", linkcheck.Broken: "a broken picture",
	linkcheck.Failing: "the host is in trouble", linkcheck.Busy: "the host is asked too often", linkcheck.NoHost: "no such host",
	linkcheck.NoAnswer: "no answer, or it breaks off", linkcheck.Slow: "it takes too long", linkcheck.Untrusted: "the certificate is not good",
	linkcheck.Circle: "it leads on and on", linkcheck.Local: "it leads into your own network", linkcheck.NoAddress: "no address of the web",
	linkcheck.Garbled: "what came is broken",
}

// stateWords say what states mean for an import.
var stateWords = map[linkcheck.State]string{
	linkcheck.Good: "good", linkcheck.Dead: "dead", linkcheck.Closed: "closed", linkcheck.Silent: "no answer",
}

// hostsShown is how many hosts are shown if not all are.
const hostsShown = 8

func (o *linksCommand) print(s *session, file string, r *repair.LinkReport) {
	p := s.printer()
	where := strings.Join(r.Columns, ", ")
	p.Line(p.Bold(r.Source), p.Faint("  "+plural(r.Places, "link", "links")+" in "+plural(r.Rows, "row", "rows")+", under "+where))
	if r.Left > 0 {
		p.Line(plural(r.Left, "is no address", "are no addresses") + " that could be opened, such as names of files; zetanum check names them.")
	}
	if r.Links == 0 {
		return
	}
	p.Line()
	switch bad := r.Bad(); {
	case bad == 0 && r.Links == 1:
		p.Line(p.Good("The link leads to a picture."))
	case bad == 0:
		p.Line(p.Good("All " + plural(r.Links, "link leads", "different links lead") + " to a picture."))
	default:
		p.Line(p.Open(fmt.Sprintf("%d of %s to no picture.", bad, plural(r.Links, "link leads", "different links lead"))))
	}
	if r.Reused > 0 {
		p.Line(plural(r.Reused, "is known from an earlier run, and was", "are known from an earlier run, and were") + " not opened again.")
	}
	p.Head("What came back")
	t := &terminal.Table{Headings: []string{"links", "result", "what is there", "for example"}, Right: []int{0}}
	for _, c := range r.Reasons {
		t.Rows = append(t.Rows, []string{strconv.Itoa(c.Links), stateWords[c.State], reasonWords[c.Reason], c.Example})
	}
	p.Table(t)
	if len(r.Hosts) > 1 {
		p.Head("By host")
		t = &terminal.Table{Headings: []string{"links", "good", "dead", "host"}, Right: []int{0, 1, 2}}
		for i, h := range r.Hosts {
			if i == hostsShown && !o.all {
				t.Rows = append(t.Rows, []string{"", "", "", fmt.Sprintf("and %d more; -all shows them", len(r.Hosts)-i)})
				break
			}
			t.Rows = append(t.Rows, []string{strconv.Itoa(h.Links), strconv.Itoa(h.Good), strconv.Itoa(h.Dead), h.Host})
		}
		p.Table(t)
	}
	printKinds(p, r)
	p.Line()
	p.Line("Written to ", p.Bold(filepath.ToSlash(r.Place.Folder)))
	var rows [][]string
	if r.Dead > 0 {
		rows = append(rows, []string{repair.DeadLinksName, plural(r.Dead, "row", "rows") + " with a link that leads to no picture, and what its host says"})
	}
	if r.Moved > 0 {
		rows = append(rows, []string{repair.MovedLinksName, plural(r.Moved, "link", "links") + " in whose place another address may be written"})
	}
	if r.Same > 0 {
		rows = append(rows, []string{repair.SameLinksName, plural(r.Same, "picture", "pictures") + " to which several links lead"})
	}
	rows = append(rows, []string{repair.LinksName, "every link once, with what came back"}, []string{repair.ResultsName, "the same for programs"})
	p.List(rows)
	if r.Saved > 0 {
		p.Line(plural(r.Saved, "picture is", "pictures are")+" kept in ", p.Bold(filepath.ToSlash(o.save)))
	}
	if r.Dead > 0 && file != "-" && !strings.Contains(filepath.ToSlash(file), ".repaired/") {
		words := []string{"zetanum repair", quoted(filepath.ToSlash(file))}
		if o.rules != "" {
			words = append(words, "-rules", quoted(filepath.ToSlash(o.rules)))
		}
		s.suggest(append(words, "-links", quoted(filepath.ToSlash(r.Place.Folder)), "-links-drop")...)
	} else if file != "-" {
		s.suggest("zetanum repair", quoted(filepath.ToSlash(file)))
	}
	for _, edited := range r.Place.Edited {
		p.WrapHanging("", "  ", filepath.ToSlash(edited)+" has been edited since it was written, so that its folder was left alone.")
	}
}

// printKinds shows of what types and sizes the pictures are.
func printKinds(p *terminal.Printer, r *repair.LinkReport) {
	t := &terminal.Table{Headings: []string{"links", "type", "smallest", "largest", "besides"}, Right: []int{0}}
	size := func(s [2]int) string {
		if s[0] == 0 {
			return ""
		}
		return fmt.Sprintf("%d × %d", s[0], s[1])
	}
	for _, k := range r.Kinds {
		var besides []string
		for _, b := range []struct {
			n    int
			says string
		}{{k.Print, "in colours for print"}, {k.Animated, "moving"}, {k.Turned, "turned by their data"}, {k.OneHued, "of one colour"}} {
			if b.n > 0 {
				besides = append(besides, fmt.Sprintf("%d %s", b.n, b.says))
			}
		}
		t.Rows = append(t.Rows, []string{strconv.Itoa(k.Links), cmp.Or(k.Type, "not looked at"), size(k.Smallest), size(k.Largest), strings.Join(besides, ", ")})
	}
	if len(t.Rows) > 0 {
		p.Head("Pictures")
		p.Table(t)
	}
}

// linksJSON is a report for programs.
func linksJSON(r *repair.LinkReport) any {
	type reason struct {
		State  linkcheck.State  `json:"state"`
		Reason linkcheck.Reason `json:"reason,omitempty"`
		Links  int              `json:"links"`
	}
	var reasons []reason
	for _, c := range r.Reasons {
		reasons = append(reasons, reason{c.State, c.Reason, c.Links})
	}
	hosts := map[string]any{}
	for _, h := range r.Hosts {
		hosts[h.Host] = map[string]int{"links": h.Links, "good": h.Good, "not": h.Dead}
	}
	return map[string]any{"file": r.Source, "columns": r.Columns, "rows": r.Rows, "places": r.Places, "no_addresses": r.Left, "links": r.Links, "known": r.Reused,
		"not_good": r.Bad(), "results": reasons, "hosts": hosts, "rows_with_dead_links": r.Dead, "moved": r.Moved, "same_pictures": r.Same, "saved": r.Saved, "folder": filepath.ToSlash(r.Place.Folder)}
}
