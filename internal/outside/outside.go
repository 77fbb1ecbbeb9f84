// Package outside finds the programs of others that some tests need: a database server, a browser,
// an office suite, a reader of drawn barcodes; and runs them as they must be run, by root, too.
// Where one is missing the test is skipped and says so; where the environment variable ZETANUM_MUST
// names it (as in ZETANUM_MUST=postgres,chromium,office), the test fails.
package outside

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// commands are the commands of what tests need, and where they may lie besides the search path.
var commands = map[string][]string{
	"postgres": {"postgres", "/usr/lib/postgresql/*/bin/postgres"},
	"chromium": {"chromium", "chromium-browser"},
	"office":   {"soffice"},
	"zbar":     {"zbarimg"},
	"tmux":     {"tmux"},
	"zsh":      {"zsh"},
	"fish":     {"fish"},
	"man":      {"man"},
	"xvfb":     {"xvfb-run"},
	"xclip":    {"xclip"},
	"make":     {"make"},
}

// find returns the path of the command of what a test needs, or nothing.
func find(name string) string {
	for _, command := range commands[name] {
		if path, err := exec.LookPath(command); err == nil {
			return path
		}
		if found, _ := filepath.Glob(command); len(found) > 0 {
			return found[len(found)-1]
		}
	}
	return ""
}

// Program returns the path of the command of what the test needs. Without one the test is skipped,
// or fails where it must run.
func Program(t testing.TB, name string) string {
	t.Helper()
	path := find(name)
	switch {
	case path != "":
	case slices.Contains(strings.Split(os.Getenv("ZETANUM_MUST"), ","), name):
		t.Fatalf("%s is not installed (%s), and ZETANUM_MUST names it", name, commands[name][0])
	default:
		t.Skipf("%s is not installed (%s), which this test needs", name, commands[name][0])
	}
	return path
}

// run runs a command and returns what it prints.
func run(t testing.TB, cmd *exec.Cmd) string {
	t.Helper()
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	if err := cmd.Run(); err != nil {
		t.Fatalf("%s: %v\n%s%s", strings.Join(cmd.Args, " "), err, out.String(), errs.String())
	}
	return out.String()
}

// Convert lets an office suite open files and save them in a form (an extension, such as xlsx), and
// returns the folder where it saved them under their names with that extension.
func Convert(t testing.TB, form string, paths ...string) (dir string) {
	t.Helper()
	office, profile := Program(t, "office"), t.TempDir() // a profile of its own, so that several can run beside each other
	dir = t.TempDir()
	args := []string{"-env:UserInstallation=file://" + filepath.ToSlash(profile), "--headless", "--convert-to", form, "--outdir", dir}
	run(t, exec.Command(office, append(args, paths...)...))
	return dir
}

// Page lets a browser load a page and returns what is in it then, as HTML. Flags are more of those of the browser.
func Page(t testing.TB, address string, flags ...string) string {
	t.Helper()
	args := []string{"--headless", "--disable-gpu", "--disable-dev-shm-usage", "--user-data-dir=" + t.TempDir()}
	args = append(append(args, flags...), "--dump-dom", address)
	if os.Geteuid() == 0 {
		args = slices.Insert(args, 0, "--no-sandbox") // which refuses to be run by root
	}
	return run(t, exec.Command(Program(t, "chromium"), args...))
}
