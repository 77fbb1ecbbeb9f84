package cli

import (
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/core/watch"
	"zetanum/internal/proof"
	"zetanum/internal/terminal"
)

type watchCommand struct {
	sourceFlags
	rules string
	every time.Duration
	once  bool
}

func (*watchCommand) about() about {
	return about{
		name: "watch", args: "FOLDER",
		short: "repair what is dropped into a folder",
		long: "Looks into a folder again and again, and repairs each table that comes there, as soon as it has been written to its end: into NAME.repaired beside it, by the " +
			"rulebook zetanum.toml that lies there. It prints a line for each. Each file is done once: " + watch.ListName + " in the folder has the checksums, so that nothing is done twice, " +
			"whatever has stopped the program. To stop it, press Ctrl and C.",
		examples: []string{"zetanum watch from-suppliers -once"},
	}
}

func (o *watchCommand) flags(f *flag.FlagSet) {
	f.StringVar(&o.rules, "rules", "", "follow the rulebook `FILE` (default: zetanum.toml in the folder, or in the working folder)")
	f.DurationVar(&o.every, "every", 5*time.Second, "look again after this `TIME`, such as 2s or 1m")
	f.BoolVar(&o.once, "once", false, "repair what lies there now, and stop")
	o.sourceFlags.flags(f)
}

func (o *watchCommand) run(s *session, names []string) (int, error) {
	if len(names) != 1 {
		return exitUsage, usagef("name one folder")
	}
	if o.every < 10*time.Millisecond {
		return exitUsage, usagef("-every %s: a time such as 2s or 1m", o.every)
	}
	dir, p := names[0], s.printer()
	if _, err := os.Stat(dir); errors.Is(err, fs.ErrNotExist) {
		if err := os.MkdirAll(dir, 0o777); err != nil {
			return exitFailed, err
		}
		p.Linef("There was no folder %s; it is there now.", p.Bold(dir))
	}
	w, err := watch.Open(dir)
	if err != nil {
		return exitFailed, err
	}
	if !o.once {
		p.Linef("Watching %s; to stop it, press Ctrl and C.", p.Bold(dir))
	}
	status := exitOK
	rules := o.stamp(dir)
	var waiting []string // files that could not be worked on, perhaps because of the rulebook
	for looks := 0; ; looks++ {
		if now := o.stamp(dir); now != rules {
			for _, name := range waiting {
				w.Again(name)
			}
			rules, waiting = now, nil
		}
		complete, err := w.Look()
		if err != nil {
			return exitFailed, err
		}
		for _, name := range complete {
			one, wait, err := o.take(s, p, w, dir, name)
			if err != nil {
				return o.stopped(s, status, err)
			}
			if wait {
				waiting = append(waiting, name)
			}
			status = max(status, one)
		}
		if o.once && looks > 0 {
			if s.next == "" {
				s.suggest("zetanum watch", quoted(dir), "-once")
			}
			return status, nil
		}
		wait := o.every
		if o.once {
			wait = min(wait, time.Second)
		}
		select {
		case <-s.ctx.Done():
			return o.stopped(s, status, nil)
		case <-time.After(wait):
		}
	}
}

// stopped is the end of a watch: to be stopped is how it ends, and no failure.
func (o *watchCommand) stopped(s *session, status int, err error) (int, error) {
	if s.ctx.Err() != nil && !o.once {
		return exitOK, nil
	}
	if err != nil {
		return exitFailed, err
	}
	return status, nil
}

// stamp says which rulebook is followed, and of when it is.
func (o *watchCommand) stamp(dir string) string {
	path := o.rulebook(dir)
	info, err := os.Stat(path)
	if err != nil {
		return ""
	}
	return fmt.Sprint(path, info.Size(), info.ModTime().UnixNano())
}

func (o *watchCommand) rulebook(dir string) string {
	if o.rules != "" {
		return o.rules
	}
	return sections.Find(filepath.Join(dir, watch.ListName))
}

// mostSaid is how many characters are said of why a file could not be repaired.
const mostSaid = 200

// take repairs a file if nothing of its content has been repaired yet, and prints a line; wait is true if it could not be, and another rulebook may help.
func (o *watchCommand) take(s *session, p *terminal.Printer, w *watch.Folder, dir, name string) (status int, wait bool, err error) {
	says := func(text string) {
		p.WrapHanging(p.Faint(s.now().Format("15:04:05"))+"  ", "          ", p.Bold(name)+"  "+text)
	}
	before, sum, done, err := w.Done(name)
	if err != nil {
		says(p.Open("could not be read: ") + terminal.Typed(err.Error()))
		return exitFailed, false, nil
	}
	if done {
		if before.Name != name {
			says("has the same content as " + before.Name + ", and that is done")
		}
		return exitOK, false, nil
	}
	path := filepath.Join(dir, name)
	entry := watch.Entry{Sum: sum, Name: name, Date: s.now().Format(time.DateOnly)}
	opt, err := o.options(s, path, o.rulebook(dir))
	if target := opt.Folder(); err == nil {
		if of, c, ok := repair.CameOf(target); ok && of == sum { // it was stopped before it could take that down
			entry.Ready, entry.Held, entry.Aside, entry.Folder = c.Ready, c.Held, c.Aside, filepath.Base(target)
			says("has been repaired already; in " + entry.Folder)
			return exitOK, false, w.Note(entry)
		}
		opt.Target, opt.Review = target, proof.Review
	}
	var result *repair.Result
	if err == nil {
		result, err = repair.Run(s.ctx, opt)
	}
	switch {
	case s.ctx.Err() != nil:
		return exitFailed, false, s.ctx.Err()
	case err != nil && (wrongRules(err) || isUsage(err)):
		says(p.Open("waits until the rulebook is mended: ") + terminal.Typed(catalogue.Shorten(err.Error(), mostSaid)))
		return exitUsage, true, nil
	case err != nil:
		says(p.Open("could not be repaired: ") + terminal.Typed(catalogue.Shorten(err.Error(), mostSaid)))
		s.suggest("zetanum", quoted(path))
		return exitFailed, true, nil
	}
	c := result.Counts()
	entry.Ready, entry.Held, entry.Aside, entry.Folder = c.Ready, c.Held, c.Aside, filepath.Base(result.Folder)
	text := fmt.Sprintf("%s of %s ready", p.Good(thousands(c.Ready)), plural(c.Read, "row", "rows"))
	if c.Held > 0 {
		text += ", " + p.Open(catalogue.Thousands(uint64(c.Held))+" held")
		status = exitHeld
		s.suggest("zetanum begin -ask", quoted(path))
	}
	if c.Aside > 0 {
		text += ", " + thousands(c.Aside) + " set aside"
	}
	says(text + "; in " + entry.Folder)
	return status, false, w.Note(entry)
}
