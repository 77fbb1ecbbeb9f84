package cli

import (
	"errors"
	"fmt"
	"strings"

	"zetanum/core/repair"
	"zetanum/core/sheet"
	"zetanum/internal/clipboard"
)

// mostKept is how many rows are named that stay as they are.
const mostKept = 12

// clipboard repairs the cells on the clipboard.
func (o *repairCommand) clipboard(s *session, files []string) (int, error) {
	switch {
	case len(files) > 0:
		return exitUsage, usagef("-clip repairs what was copied; name no file with it")
	case o.out != "" || o.as != "" || o.look || o.proof || o.with != "" || o.sample > 0 || o.template != "" || o.only != "" || o.json || o.rehearse || o.keep:
		return exitUsage, usagef("-clip puts the same cells back on the clipboard; -out, -as, -look, -proof, -with, -sample, -template, -only, -json, -rehearse and -remember go without it")
	}
	cells, err := clipboard.Read(s.ctx)
	if err != nil {
		return exitFailed, err
	}
	if strings.TrimSpace(cells) == "" {
		return exitUsage, usagef("the clipboard has no text: copy the cells with their headings first")
	}
	opt, err := o.options(s, "-")
	if err != nil {
		return exitFailed, err
	}
	var result *repair.Result
	var repaired string
	var kept []repair.Kept
	why, err := s.follow(&opt, o.rules != "", func() (err error) {
		result, repaired, kept, err = repair.InPlace(s.ctx, opt, cells)
		return err
	})
	switch {
	case errors.Is(err, sheet.ErrHeadings):
		return exitUsage, usagef("%v\nCopy the cells with their headings; or say what they are with -no-headings and, for example, -field \"Column 1=barcode\".", err)
	case err != nil && wrongRules(err):
		return exitUsage, usagef("%v", err)
	case err != nil:
		return exitFailed, err
	}
	result.NotFollowed = why
	p := s.printer()
	summary{r: result, piped: true, all: o.all}.print(p)
	status := exitOK
	if len(kept) > 0 {
		status = exitHeld
		p.Head("Rows that stay as they were, counted from the first that was copied")
		for i, row := range kept {
			if i == mostKept && !o.all {
				p.Line("       ", p.Faint(fmt.Sprintf("%s more; -all shows them", thousands(len(kept)-i))))
				break
			}
			p.WrapHanging(fmt.Sprintf("%5d  ", row.Row), "       ", row.Reason)
		}
	}
	p.Line()
	if n := result.Report.Aside; n > 0 {
		p.Line(p.Faint(plural(n, "row that would be set aside stays, too.", "rows that would be set aside stay, too.")))
	}
	if columns := &result.Source.Columns; columns.Added > 0 {
		p.WrapHanging("", "", p.Open("Not among the cells that are pasted back, because they would stand over others: ")+strings.Join(columns.Headings[columns.Own():], ", ")+
			". Copy an empty column with that heading, too, or repair the file.")
	}
	if repaired == cells {
		p.Line("Nothing had to be repaired, and the clipboard is as it was.")
		return status, nil
	}
	if err := clipboard.Write(s.ctx, repaired); err != nil {
		return exitFailed, err
	}
	p.WrapHanging("", "", p.Good("The repaired cells are on the clipboard: paste them where they were copied."))
	p.WrapHanging("", "", p.Bold("Set those cells to text first")+", or paste as text: into others the spreadsheet program writes long codes in scientific notation again.")
	return status, nil
}
