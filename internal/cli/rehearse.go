package cli

import (
	"cmp"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/folder"
	"zetanum/core/rehearse"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/internal/terminal"
)

type rehearseCommand struct {
	jsonFlag
	rules    string
	present  string
	template string
	key      string
	blank    string
	out      string
	all      bool
	expect   [3]string // created, updated, refused
}

func (*rehearseCommand) about() about {
	return about{
		name: "rehearse", args: "READY",
		short: "play the import through without the shop",
		long: "Says what an import of READY would do: which rows make products and which change some, in which columns, from what to what; " +
			"which are refused, by the words of the template, and why; which products of the shop are not in the file; and what is odd. " +
			"-present names a file that the shop has exported just now. The folder NAME.rehearsed has the lists, and the way back: " +
			"way-back.csv has what the shop has now in all that would change. The exit status is 1 if a row is refused, or a number is not " +
			"the one that was expected.",
		examples: []string{"zetanum rehearse saltmarsh-export.csv -present wick-in-shop.csv", "zetanum rehearse saltmarsh-export.csv -template shop-form.xlsx"},
	}
}

func (o *rehearseCommand) flags(f *flag.FlagSet) {
	o.jsonFlag.flags(f)
	f.StringVar(&o.present, "present", "", "compare with what the shop has now, a `FILE` that it has exported (default: the export of [shop] in the rulebook)")
	f.StringVar(&o.template, "template", "", "take and refuse rows by the words of the import template `FORM` (default: that of [target] in the rulebook)")
	f.StringVar(&o.rules, "rules", "", "take these from the rulebook `FILE` (default: zetanum.toml beside the file or in the working folder)")
	f.StringVar(&o.key, "key", "", "know products by this `COLUMN` (a field or a heading; default: the SKU, or else the slug, or the barcode)")
	f.StringVar(&o.blank, "blank", "", "what the importer makes of an empty cell where the shop has something: `WHAT` is keeps, clears or unknown (default: as [target] blank says)")
	f.StringVar(&o.expect[0], "expect-created", "", "fail if not `N` products would be made")
	f.StringVar(&o.expect[1], "expect-updated", "", "fail if not `N` would be changed")
	f.StringVar(&o.expect[2], "expect-refused", "", "fail if not `N` rows would be refused")
	f.StringVar(&o.out, "out", "", "write the lists into the folder `DIR` (default: NAME.rehearsed beside the file, or beside the output folder in which it lies)")
	f.BoolVar(&o.all, "all", false, "show ten examples of each thing (default: two)")
}

func (o *rehearseCommand) run(s *session, files []string) (int, error) {
	if len(files) != 1 || files[0] == "-" {
		return exitUsage, usagef("name one file that is to be imported")
	}
	opt, err := o.options(s, files[0])
	if err != nil {
		return exitFailed, err
	}
	var expected [3]int
	for i, text := range o.expect {
		if expected[i] = -1; text != "" {
			if expected[i], err = strconv.Atoi(text); err != nil || expected[i] < 0 {
				return exitUsage, usagef("-expect-%s %s: a number of rows", expectNames[i], text)
			}
		}
	}
	temp, err := folder.NewTemp()
	if err != nil {
		return exitFailed, err
	}
	defer temp.Remove()
	opt.Temp = temp.Dir
	job, err := folder.Begin(filepath.Clean(cmp.Or(o.out, rehearsalOf(files[0]))))
	if err != nil {
		return exitFailed, err
	}
	opt.Dir = job.Dir()
	r, err := rehearse.Run(*opt)
	if err != nil {
		return exitFailed, errors.Join(err, job.Abort())
	}
	at := ""
	if len(r.Lists) > 0 {
		place, err := job.Commit(struct {
			Rehearsal string `json:"rehearsal"`
		}{filepath.Base(files[0])})
		if err != nil {
			return exitFailed, err
		}
		at = place.Folder
	} else if err := job.Abort(); err != nil {
		return exitFailed, err
	}
	status := exitOK
	if r.Refused > 0 || r.Form != "" {
		status = exitHeld
	}
	var missed []string
	for i, got := range []int{r.Created, r.Updated, r.Refused} {
		switch {
		case expected[i] < 0:
		case expected[i] != got:
			missed = append(missed, fmt.Sprintf("%s %s, and %s were expected", thousands(got), expectWords[i], thousands(expected[i])))
			status = exitHeld
		case i == 2 && r.Form == "" && missed == nil: // as many refused as were expected
			status = exitOK
		}
	}
	if o.json {
		return status, s.encode(r)
	}
	o.print(s, s.printer(), opt, r, missed, at)
	return status, nil
}

// rehearsalOf returns the folder for the lists about a file: beside it, or, if it lies in an output folder of ours, beside that, which the next run
// replaces.
func rehearsalOf(file string) string {
	stem := strings.TrimSuffix(file, filepath.Ext(file))
	dir := filepath.Dir(file)
	if !repair.IsOutput(dir) {
		return stem + ".rehearsed"
	}
	if whole, err := filepath.Abs(dir); err == nil && dir == "." {
		dir = filepath.Join("..", filepath.Base(whole))
	}
	name := strings.TrimSuffix(dir, ".repaired")
	if of := strings.TrimPrefix(filepath.Base(stem), "ready"); of != "" {
		name += "-" + strings.TrimPrefix(of, "-")
	}
	return name + ".rehearsed"
}

var (
	expectNames = [...]string{"created", "updated", "refused"}
	expectWords = [...]string{"products would be made", "would be changed", "rows would be refused"}
)

// options puts together what the flags and the rulebook say.
func (o *rehearseCommand) options(s *session, file string) (*rehearse.Options, error) {
	opt := &rehearse.Options{Ready: file, Present: o.present, Key: o.key, Year: s.now().Year(), Blank: rehearse.Blank(o.blank)}
	if o.rules == "" {
		o.rules = sections.Find(file)
	}
	book := new(sections.Book)
	if o.rules != "" {
		var err error
		book, err = sections.Load(o.rules)
		if errors.Is(err, rulebook.ErrWrong) {
			return nil, usagef("%v", err)
		}
		if err != nil {
			return nil, err
		}
	}
	stem := strings.TrimSuffix(file, filepath.Ext(file))
	of := func(book *sections.Book) int { // what goes to one of several targets is called by its name, and perhaps by a number
		return slices.IndexFunc(book.Targets, func(t target.Named) bool {
			name, part := "ready-"+t.Name, strings.TrimRight(filepath.Base(stem), "0123456789")
			return filepath.Base(stem) == name || part == name+"-"
		})
	}
	if i := of(book); i >= 0 {
		book.Target = book.Targets[i].Rules
	}
	if o.template != "" {
		book.Target.Template, book.Target.Like = o.template, nil
	}
	with, err := book.WithForm(file)
	if err != nil {
		return nil, err
	}
	if i := of(&with); with.Spreads() && i >= 0 {
		with.Form, with.Target = with.Forms[i], with.Targets[i].Rules
	}
	opt.Form, opt.Reading, opt.Groups = with.Form, with.Target.Reading(), with.Target.Together
	opt.Empty, opt.Moves = with.Target.Empty, book.PriceMoves()
	opt.Rows, opt.Bytes = with.Target.Limits.Rows, int64(with.Target.Limits.Megabytes)*1_000_000
	opt.Cut = with.Target.Limits
	if _, err := os.Stat(stem + "-1" + filepath.Ext(file)); err == nil {
		opt.Rows, opt.Bytes = -1, 0 // it goes in the parts that lie beside it
	}
	if opt.Present = cmp.Or(opt.Present, book.Shop.Export); opt.Present == target.Self {
		if opt.Present, err = repair.SourceOf(file); err != nil {
			return nil, err
		}
	}
	if known := book.Shop.KnownBy; opt.Key == "" && len(known) > 0 {
		opt.Key = known[0]
	}
	opt.Blank = cmp.Or(opt.Blank, rehearse.Blank(book.Target.Blank))
	if opt.Blank = cmp.Or(opt.Blank, rehearse.BlankUnknown); !slices.Contains([]rehearse.Blank{rehearse.BlankKeeps, rehearse.BlankClears, rehearse.BlankUnknown}, opt.Blank) {
		return nil, usagef("-blank %s: it is keeps, clears or unknown", o.blank)
	}
	if opt.Form == nil && opt.Present == "" {
		return nil, usagef("a rehearsal needs to know what the shop has, -present EXPORT, or what it takes, -template FORM, or both")
	}
	return opt, nil
}

// reasons say in words why rows are refused.
var rehearseReasons = map[string]string{
	"required": "must be filled, and is empty", "list": "is not in the list", "length": "is too long", "twice": "stands in an earlier row, too", "code": "is no whole barcode",
	"picture": "is no picture that is taken", "answer": "is neither of the words for yes and no", "date": "is no date as the template has them", "number": "is no number that is taken",
	"twice in the shop": "is in the shop twice: which of the two is meant nobody knows",
}

func (o *rehearseCommand) print(s *session, p *terminal.Printer, opt *rehearse.Options, r *rehearse.Report, missed []string, at string) {
	against := ""
	if opt.Present != "" {
		against = fmt.Sprintf(" against %s, %s by %s", opt.Present, plural(r.Shop, "row", "rows"), r.ShopKey)
	}
	p.WrapHanging("", "  ", p.Bold(opt.Ready)+against)
	if r.Form != "" {
		p.WrapHanging("", "  ", p.Open("The importer would refuse the whole file: "+r.Form+"."))
	}
	by := "its own words"
	if opt.Form != nil && !opt.Form.Own {
		by = "the words of " + opt.Form.Path
	}
	switch {
	case opt.Present == "":
		p.WrapHanging("", "  ", fmt.Sprintf("%s would be taken, %s refused, by %s.", plural(r.Rows-r.Refused, "row", "rows"), thousands(r.Refused), by))
	default:
		p.WrapHanging("", "  ", p.Bold(fmt.Sprintf("%s would be made, %s changed, %s left as they are; %s refused.", plural(r.Created, "product", "products"), thousands(r.Updated),
			thousands(r.Unchanged), plural(r.Refused, "row is", "rows are"))))
	}
	if r.Keyless > 0 {
		p.WrapHanging("", "  ", fmt.Sprintf("%s nothing under %s: they go with the products above them, and are not compared.", plural(r.Keyless, "row has", "rows have"), r.Key))
	}
	for _, m := range missed {
		p.WrapHanging("", "  ", p.Open(m+"."))
	}
	shown := 2
	if o.all {
		shown = 10
	}
	counts := func(head string, list []rehearse.Count, line func(c *rehearse.Count) string) {
		if len(list) == 0 {
			return
		}
		p.Head(head)
		for i := range list {
			c := &list[i]
			if i == 8 && !o.all {
				p.Line("  ", p.Faint(fmt.Sprintf("and %d more; -all shows them", len(list)-i)))
				break
			}
			p.WrapHanging("", "        ", fmt.Sprintf("%6s  %s", thousands(c.Cells), line(c)))
			for _, e := range c.Examples[:min(shown, len(c.Examples))] {
				p.WrapHanging("          ", "            ", exampleOf(&e))
			}
		}
	}
	counts("Refused", r.Refusals, func(c *rehearse.Count) string { return c.Column + ": " + cmp.Or(rehearseReasons[c.What], c.What) })
	leap := [2]string{" that becomes less than half, or more than twice, of what it is", " that become less than half, or more than twice, of what they are"}
	if opt.Moves > 0 {
		leap = [2]string{fmt.Sprintf(" that changes by more than %g %%", 100*opt.Moves), fmt.Sprintf(" that change by more than %g %%", 100*opt.Moves)}
	}
	var odd []rehearse.Count
	for _, c := range []struct {
		rehearse.Count
		one, many string
	}{
		{r.Twins, "new product whose barcode the shop has at another one: is it that, with another key?", "new products whose barcodes the shop has at others: are they those, with other keys?"},
		{r.Moved, "barcode that goes from one product of the shop to another", "barcodes that go from one product of the shop to another"},
		{r.Prices, "price" + leap[0], "prices" + leap[1]},
		{r.Titles, "title that changes: an importer that makes the link name of it, and knows products by that, would make a new one", "titles that change: an importer that makes link names of them, and knows products by these, would make new ones"},
		{r.Halves, "row of the shop that the file does not have, of a product that it has: the product may become incomplete", "rows of the shop that the file does not have, of products that it has: these may become incomplete"},
	} {
		if c.What = c.many; c.Cells == 1 {
			c.What = c.one
		}
		if c.Cells > 0 {
			odd = append(odd, c.Count)
		}
	}
	for _, c := range r.Unseen {
		column := c.Column
		c.Column, c.What = "", fmt.Sprintf("%s: %s, which the shop does not have so far", column, visible(c.What, 40))
		odd = append(odd, c)
	}
	counts("Odd", odd, func(c *rehearse.Count) string { return c.What })
	counts("What changes", r.Changes, func(c *rehearse.Count) string { return c.Column })
	if r.News.Cells > 0 {
		counts("New products", []rehearse.Count{r.News}, func(*rehearse.Count) string { return "not in the shop so far" })
	}
	o.blanks(p, opt, r, counts)
	if r.Left > 0 {
		p.Head("Left alone")
		p.WrapHanging("  ", "  ", fmt.Sprintf("%s of the shop %s not in the file. An import does not delete them: %s lists them, for whoever wants them gone.", plural(r.Left, "product", "products"),
			map[bool]string{true: "is", false: "are"}[r.Left == 1], rehearse.LeftName))
	}
	if len(r.Unpaired) > 0 {
		p.Head("Not compared")
		p.WrapHanging("  ", "  ", p.Faint("The shop's file does not have: "+strings.Join(r.Unpaired, ", ")+"."))
	}
	if opt.Present != "" {
		p.Head("In the importer")
		p.WrapHanging("  ", "  ", settingsFor(r))
	}
	if at != "" {
		p.Head("Written to " + at)
		for _, name := range r.Lists {
			p.Line("  ", fmt.Sprintf("%-18s  %s", name, listSays(name)))
		}
		if r.Unfit > 0 {
			p.WrapHanging("  ", "  ", p.Open(fmt.Sprintf("%s what the template does not take; the way back leaves them as the file has them, and %s says what they were.",
				plural(r.Unfit, "cell has now", "cells have now"), rehearse.ByHandName)))
		}
		if r.NoWay > 0 {
			p.WrapHanging("  ", "  ", p.Open(fmt.Sprintf("%s empty in the shop, and the way back leaves them so: an importer that keeps what it has would not empty them again. If it has a word for "+
				"that, say empty under [target].", plural(r.NoWay, "cell was", "cells were"))))
		}
	}
	s.suggest("zetanum inspect", quoted(opt.Ready))
	if source, err := repair.SourceOf(opt.Ready); err == nil && r.Refused > 0 {
		s.suggest("zetanum begin -ask", quoted(source))
	}
	if opt.Present == "" {
		p.Head("What would change")
		p.WrapHanging("  ", "  ", "Which rows are new and what changes is seen beside what the shop has: let it export its products as CSV, and then")
		by, name := "-rules", o.rules
		if o.template != "" || name == "" {
			by, name = "-template", formName(opt.Form)
		}
		p.Line("  zetanum rehearse ", quoted(opt.Ready), " ", by, " ", quoted(name), " -present EXPORT")
	}
}

// formName is how a template is called in a command.
func formName(form *template.Template) string {
	if form.Own {
		return target.Self
	}
	return form.Path
}

// blanks says what becomes of cells that are empty in the file.
func (o *rehearseCommand) blanks(p *terminal.Printer, opt *rehearse.Options, r *rehearse.Report, counts func(string, []rehearse.Count, func(*rehearse.Count) string)) {
	says := map[rehearse.Blank]string{
		rehearse.BlankKeeps: "Empty in the file: the shop keeps what it has", rehearse.BlankClears: "Emptied in the shop, because they are empty in the file",
		rehearse.BlankUnknown: "Empty in the file, filled in the shop",
	}
	counts(says[opt.Blank], r.Blanks, func(c *rehearse.Count) string { return c.Column })
	if len(r.Blanks) > 0 && opt.Blank == rehearse.BlankUnknown {
		p.WrapHanging("  ", "  ", p.Open("What the importer makes of an empty cell nobody has said: try it with one product, and say -blank keeps or -blank clears, or blank under [target]."))
	}
}

// settingsFor says which settings of an importer go with the file.
func settingsFor(r *rehearse.Report) string {
	switch {
	case r.Created > 0 && r.Updated > 0:
		return "Make products that are not there, and overwrite those that are."
	case r.Created > 0:
		return "Make products that are not there; nothing has to be overwritten, so that it may as well be forbidden."
	case r.Updated > 0:
		return "Overwrite products that are there; none has to be made, so that it may as well be forbidden."
	}
	return "Nothing would be done; the import can be left out."
}

// rehearseLists say what the lists are.
var rehearseLists = map[string]string{
	rehearse.ClearedName: "cells that would be emptied, with what the shop has in them",
	rehearse.LeftName:    "products of the shop that are not in the file", rehearse.NewName: "products that would be made", rehearse.RefusedName: "rows that would be refused",
	rehearse.WayBackName: "the way back: what the shop has now in all that would change", rehearse.ByHandName: "what the way back cannot put back",
}

// listSays says what a list is.
func listSays(name string) string {
	part := strings.HasPrefix(name, "way-back-")
	switch {
	case filepath.Ext(name) != ".csv":
		return "the same in the form"
	case part:
		return "the way back, of which the importer takes so much at a time"
	}
	return rehearseLists[name]
}

// exampleOf writes an example on one line.
func exampleOf(e *rehearse.Example) string {
	var parts []string
	if e.Row > 0 {
		parts = append(parts, "row "+thousands(e.Row))
	}
	if e.Key != "" {
		parts = append(parts, visible(e.Key, 30))
	}
	head := strings.Join(parts, ", ")
	switch {
	case e.Before != "" || e.After != "" && e.Before != "":
		return fmt.Sprintf("%s: %s → %s", head, visible(e.Before, 40), visible(e.After, 40))
	case e.After != "":
		return head + ": " + visible(e.After, 70)
	}
	return head
}
