package cli

import (
	"fmt"
	"os"
	"strings"

	"zetanum/internal/terminal"
)

// inWindow runs the program in a window that was opened for it and closes with it, as
// when files were dropped on it or it was started by a double click: it looks at the
// files and says what it found, offers to repair them, and waits to be read.
func (s *session) inWindow(args []string) int {
	s.offers = true
	w := &window{session: s}
	if len(args) > 0 && (findCommand(args[0]) != nil || strings.HasPrefix(args[0], "-")) {
		status := s.run(args)
		w.ask("Press Enter to close this window.")
		return status
	}
	if len(args) == 0 {
		w.say("Zetanum repairs product spreadsheets before they are imported into a shop: barcodes that a spreadsheet program has spoilt, " +
			"text encoding, columns and more. No file of yours is ever changed; what it makes goes into a folder beside the file.")
		args = w.words("Drag a file into this window, or type its name, and press Enter. Enter alone closes the window.")
	}
	status := exitOK
	for len(args) > 0 {
		if args[0] == "zetanum" {
			args = args[1:]
		}
		if len(args) > 0 && findCommand(args[0]) != nil {
			status, args = s.run(args), w.words(more)
			continue
		}
		status, args = w.files(args)
	}
	return status
}

const more = "Another file, dragged here or typed, is the next. Enter alone closes the window."

// A window is one that closes when the program ends.
type window struct{ *session }

// files looks at files and repairs them if that is wanted, and returns what was typed then.
func (w *window) files(files []string) (status int, next []string) {
	if status = w.run(files); status != exitOK && len(files) == 1 {
		return status, w.words(more)
	}
	what, asks := "this file", "Q and Enter first asks how, question by question. "
	if len(files) > 1 {
		what, asks = "these files", ""
	}
	repair := "Press Enter to repair " + what + " into a folder beside it; the file itself stays as it is. " + asks + "N and Enter leaves it at that."
	line, ok := w.ask(repair)
	for ok && strings.EqualFold(line, "q") && len(files) == 1 {
		w.say("")
		status = w.run([]string{"begin", "-ask", files[0]})
		line, ok = w.ask("Press Enter to repair " + what + " by your answers, into a folder beside it. N and Enter leaves it at that.")
	}
	if !ok {
		return status, nil
	}
	for line == "" || strings.HasPrefix(line, "-") {
		w.say("")
		w.made = ""
		status = w.run(append(append([]string{"repair"}, files...), split(line)...))
		again := "What was named above, such as -yes …, and Enter repairs it again with that. "
		if w.made != "" {
			again = "O and Enter opens the folder with what was written. " + again
		}
		line, ok = w.ask(again + more)
		for ok && w.made != "" && strings.EqualFold(line, "o") {
			if err := showFolder(w.made); err != nil {
				w.say(fmt.Sprintf("The folder could not be opened by the file manager (%v); it is %s.", err, w.made))
			}
			line, ok = w.ask(again + more)
		}
		if !ok || line == "" {
			return status, nil
		}
	}
	if strings.EqualFold(line, "n") {
		return status, w.words(more)
	}
	return status, split(line)
}

func (w *window) say(text string) { w.printer().Wrap("", text) }

// ask puts a question, and returns the line that is typed; ok is false at the end of
// what can be typed.
func (w *window) ask(question string) (line string, ok bool) {
	w.say("")
	w.printer().Wrap("", w.printer().Bold(question))
	fmt.Fprint(terminal.Messages(w.stdout), "> ")
	return w.line()
}

// words puts a question, and returns the words of the line that is typed.
func (w *window) words(question string) []string {
	line, _ := w.ask(question)
	return split(line)
}

// split returns the words of a line; what stands in quotation marks is one, as a window
// writes the name of a file that is dragged into it. A line that is the name of a file as
// a whole is one word, too.
func split(line string) (words []string) {
	if _, err := os.Stat(line); err == nil {
		return []string{line}
	}
	var word strings.Builder
	inQuotes, some := false, false
	end := func() {
		if some {
			words = append(words, word.String())
			word.Reset()
			some = false
		}
	}
	for _, r := range line {
		switch {
		case r == '"':
			inQuotes, some = !inQuotes, true
		case r == ' ' && !inQuotes:
			end()
		default:
			word.WriteRune(r)
			some = true
		}
	}
	end()
	return words
}
