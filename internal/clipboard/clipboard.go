// Package clipboard reads and writes the clipboard of the system by the system's own programs. Of what was copied it sees the plain text alone: cells
// of a spreadsheet program with tabs between them.
package clipboard

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"runtime"
	"slices"
	"strings"
	"time"
	"unicode/utf16"
)

// ErrNone says that there is no program by which the clipboard could be reached.
var ErrNone = errors.New("no program is there by which the clipboard can be reached")

// patience is how long a program may take: one that waits for a screen that is not there would wait for ever.
const patience = 20 * time.Second

// A way is the commands that read and write the clipboard.
type way struct {
	read, write []string
	where       func() bool // nil: on any screen
	encode      func(string) []byte
}

func hasEnv(name string) func() bool { return func() bool { return os.Getenv(name) != "" } }

// ways are those of each system, in the order in which they are tried.
var ways = map[string][]way{
	"windows": {{
		read:   []string{"powershell", "-NoProfile", "-NonInteractive", "-Command", "[Console]::OutputEncoding=[Text.Encoding]::UTF8;Get-Clipboard -Raw"},
		write:  []string{"clip"},
		encode: asUTF16,
	}},
	"darwin": {{read: []string{"pbpaste"}, write: []string{"pbcopy"}}},
	"": {
		{read: []string{"wl-paste", "--no-newline"}, write: []string{"wl-copy", "--type", "text/plain;charset=utf-8"}, where: hasEnv("WAYLAND_DISPLAY")},
		{read: []string{"xclip", "-selection", "clipboard", "-out"}, write: []string{"xclip", "-selection", "clipboard", "-in"}, where: hasEnv("DISPLAY")},
		{read: []string{"xsel", "--clipboard", "--output"}, write: []string{"xsel", "--clipboard", "--input"}, where: hasEnv("DISPLAY")},
	},
}

// find returns the first way whose programs are there.
func find() (way, error) {
	of, ok := ways[runtime.GOOS]
	if !ok {
		of = ways[""]
	}
	var names []string
	for _, w := range of {
		names = append(names, w.read[0])
		if w.where != nil && !w.where() {
			continue
		}
		_, errRead := exec.LookPath(w.read[0])
		if _, err := exec.LookPath(w.write[0]); err == nil && errRead == nil {
			return w, nil
		}
	}
	return way{}, fmt.Errorf("%w; install one of %s, and start zetanum in a window of the desktop", ErrNone, strings.Join(names, ", "))
}

// nothing is what programs say where nothing was copied, or no text.
var nothing = []string{"not available", "nothing is copied", "no selection", "no suitable type"}

// Read returns the text on the clipboard, "" if there is none.
func Read(ctx context.Context) (string, error) {
	w, err := find()
	if err != nil {
		return "", err
	}
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	var out, errs bytes.Buffer
	cmd := exec.CommandContext(ctx, w.read[0], w.read[1:]...)
	cmd.Env = append(os.Environ(), "LC_CTYPE=UTF-8")
	cmd.Stdout, cmd.Stderr = &out, &errs
	if err := cmd.Run(); err != nil {
		said := strings.ToLower(errs.String())
		if slices.ContainsFunc(nothing, func(words string) bool { return strings.Contains(said, words) }) {
			return "", nil
		}
		return "", fmt.Errorf("the clipboard could not be read by %s: %w %s", w.read[0], err, strings.TrimSpace(errs.String()))
	}
	return strings.TrimPrefix(out.String(), "\ufeff"), nil
}

// Write puts a text on the clipboard.
func Write(ctx context.Context, text string) error {
	w, err := find()
	if err != nil {
		return err
	}
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	content := []byte(text)
	if w.encode != nil {
		content = w.encode(text)
	}
	cmd := exec.CommandContext(ctx, w.write[0], w.write[1:]...)
	cmd.Env = append(os.Environ(), "LC_CTYPE=UTF-8")
	cmd.Stdin = bytes.NewReader(content)
	if err := cmd.Run(); err != nil { // what it prints is left alone: a child of it keeps the clipboard, and would keep a pipe open
		return fmt.Errorf("the clipboard could not be written by %s: %w", w.write[0], err)
	}
	return nil
}

// asUTF16 writes a text as the program of Windows reads it: in UTF-16 with a byte order mark.
func asUTF16(text string) []byte {
	b := []byte{0xff, 0xfe}
	for _, unit := range utf16.Encode([]rune(text)) {
		b = append(b, byte(unit), byte(unit>>8))
	}
	return b
}
