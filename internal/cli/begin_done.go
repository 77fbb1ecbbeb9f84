package cli

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/redo"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/template"
	"zetanum/internal/terminal"
)

// A learnt is what was learnt of a file and of what was made of it.
type learnt struct {
	*redo.Learned
	after *redo.Table
}

// learn learns what somebody has made of a file by hand.
func (o *beginCommand) learn(file string) (l learnt, err error) {
	temp, err := folder.NewTemp()
	if err != nil {
		return l, err
	}
	defer temp.Remove()
	made := sheet.Options{Spool: temp.Dir}
	if o.template != "" {
		form, err := template.Learn(o.template)
		if err != nil {
			return l, err
		}
		made.Form = form.FormRows()
	}
	before, err := redo.Load(file, sheet.Options{Spool: temp.Dir, Sheet: o.sheet})
	if err != nil {
		return l, err
	}
	if l.after, err = redo.Load(o.done, made); err != nil {
		return l, err
	}
	l.Learned, err = redo.Learn(before, l.after)
	return l, err
}

// redo writes a rulebook that does again what somebody has made of a file by hand, and names the next command.
func (o *beginCommand) redo(s *session, file, path string) (int, error) {
	learnt, err := o.learn(file)
	if err != nil {
		return exitFailed, err
	}
	status, err := o.relearn(s, file, path, learnt)
	if status != exitOK || err != nil || path == "-" {
		return status, err
	}
	next := o.repairs(file, o.sheet)
	if o.out != "" {
		next += " -rules " + quoted(path)
	}
	s.suggest(next)
	return exitOK, nil
}

// relearn writes such a rulebook.
func (o *beginCommand) relearn(s *session, file, path string, learned learnt) (int, error) {
	form, err := rulebook.NameFrom(cmp.Or(o.template, o.done), filepath.Dir(path))
	if err != nil {
		return exitFailed, err
	}
	text, lists := sections.Redone(learned.Learned, file, form, strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)))
	text = terminal.Typed(text)
	if path == "-" {
		_, err := fmt.Fprint(terminal.Data(s.stdout), text)
		return exitOK, err
	}
	for _, list := range lists { // nothing is written if one of them cannot be
		if name := filepath.Join(filepath.Dir(path), list.Name); isThere(name) {
			return exitUsage, usagef("%s is there already and is not overwritten; name another rulebook with -out, after which its lists are called", name)
		}
	}
	if status, err := writeNew(path, text); err != nil {
		return status, err
	}
	p := s.printer()
	p.Linef("%s  written; look through it before it is used", p.Bold(path))
	for _, list := range lists {
		name := filepath.Join(filepath.Dir(path), list.Name)
		if status, err := writeNew(name, wordsOf(list.Words)); err != nil {
			return status, err
		}
		p.Linef("%s  written: what its values are called there", p.Bold(name))
	}
	explained, asked := 0, 0
	for i := range learned.Columns {
		switch learned.Columns[i].Kind {
		case redo.Unknown:
			asked++
		case redo.Empty:
		default:
			explained++
		}
	}
	p.Linef("%s of %s both have, by %s; %s explained, %d not", plural(learned.Paired, "row", "rows"), plural(learned.Paired+learned.Alone, "row", "rows"), learned.Keys[1],
		plural(explained, "column is", "columns are"), asked)
	if same, of, err := o.again(s, file, path, learned); err == nil && of > 0 {
		p.Linef("repaired by it, %d of %d cells of %s come out as they are there", same, of, filepath.Base(o.done))
	} else if err != nil {
		p.WrapHanging("", "", p.Open("it cannot be followed as it stands: ")+err.Error())
	}
	return exitOK, nil
}

// isThere reports whether there is something of that name.
func isThere(path string) bool {
	_, err := os.Lstat(path)
	return err == nil
}

// wordsOf writes a list of words.
func wordsOf(words []redo.Word) string {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"Ours", "Theirs"}) // into memory, which does not fail
	for _, word := range words {
		_ = w.Write([]string{word.Ours, word.Theirs})
	}
	w.Flush()
	return b.String()
}

// again repairs the file by the rulebook, and counts how many of the cells that were made by hand come out as they are.
func (o *beginCommand) again(s *session, file, path string, learned learnt) (same, of int, err error) {
	temp, err := folder.NewTemp()
	if err != nil {
		return 0, 0, err
	}
	defer temp.Remove()
	opt, err := o.options(s, file, path)
	if err != nil {
		return 0, 0, err
	}
	book, err := sections.Load(path)
	if err != nil {
		return 0, 0, err
	}
	opt.Book, opt.Target, opt.As = *book, filepath.Join(temp.Dir, "again"), []string{}
	var result *repair.Result
	if err := s.do(&opt, func() (err error) {
		result, err = repair.Run(s.ctx, opt)
		return err
	}); err != nil {
		return 0, 0, err
	}
	with, err := book.WithForm(file)
	if err != nil {
		return 0, 0, err
	}
	got, err := redo.Load(filepath.Join(result.Folder, line.FileNames[0]), sheet.Options{Spool: temp.Dir, Form: with.FormRows(), Reading: with.Target.Reading()})
	if err != nil {
		return 0, 0, err
	}
	same, of = redo.Agree(got, learned.after, learned.Keys[1])
	return same, of, nil
}
