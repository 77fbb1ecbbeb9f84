package cli

import (
	"flag"
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/internal/outside"
)

// completions are what shells complete: the words as they stand when the Tab key is pressed, and some of what they offer, or must not.
var completions = []struct {
	line, offers, not string
}{
	{"zetanum rep", "repair", "rehearse"},
	{"zetanum ", "begin", "-trust"},
	{"zetanum repair -tr", "-trust", "-rules"},
	{"zetanum repair list.csv -trust cou", "counted.csv", "repair"},
	{"zetanum repair -only barc", "barcode", "barcode.rounded"},
	{"zetanum repair -yes barcode.last", "barcode.last-zero", "barcode.rounded"},
	{"zetanum finding barcode.rou", "barcode.rounded", "barcode.kind"},
	{"zetanum help ma", "man", "repair"},
	{"zetanum completion f", "fish", "bash"},
	{"zetanum repair -set lis", "", "list.csv"},
	{"zetanum check lis", "list.csv", "counted.csv"},
}

// TestCompletion: the shells read their scripts, and complete commands, settings, fields, findings and files by them.
func TestCompletion(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), small)
	writeFile(t, filepath.Join(dir, "counted.csv"), small)
	for _, shell := range []string{"bash", "fish", "zsh", "powershell"} {
		writeFile(t, filepath.Join(dir, "with."+shell), zetanum(t, dir, "completion", shell).stdout)
	}
	complete := map[string]func(t *testing.T, line string) string{
		"bash": func(t *testing.T, line string) string {
			words := strings.Split(line, " ")
			for i := range words {
				words[i] = "'" + words[i] + "'"
			}
			script := fmt.Sprintf("source ./with.bash; COMP_WORDS=(%s); COMP_CWORD=%d; _zetanum; printf '%%s\\n' \"${COMPREPLY[@]}\"", strings.Join(words, " "), len(words)-1)
			cmd := exec.Command("bash", "--norc", "-c", script)
			cmd.Dir = dir
			out, err := cmd.CombinedOutput()
			require.NoError(t, err, "%s", out)
			return string(out)
		},
		"fish": func(t *testing.T, line string) string {
			cmd := exec.Command(outside.Program(t, "fish"), "--no-config", "-c", "source ./with.fish; complete -C '"+line+"'")
			cmd.Dir = dir
			out, err := cmd.CombinedOutput()
			require.NoError(t, err, "%s", out)
			return string(out)
		},
	}
	for shell, of := range complete {
		t.Run(shell, func(t *testing.T) {
			for _, test := range completions {
				var offered []string
				for line := range strings.Lines(of(t, test.line)) {
					word, _, _ := strings.Cut(strings.TrimSuffix(line, "\n"), "\t")
					offered = append(offered, word)
				}
				if test.offers != "" {
					assert.Contains(t, offered, test.offers, test.line)
				}
				assert.NotContains(t, offered, test.not, test.line)
			}
		})
	}
	t.Run("zsh", func(t *testing.T) { // which completes at a keyboard alone
		zsh, tmux := outside.Program(t, "zsh"), outside.Program(t, "tmux")
		socket := filepath.Join(t.TempDir(), "s")
		run := func(args ...string) string {
			out, err := exec.Command(tmux, append([]string{"-S", socket}, args...)...).CombinedOutput()
			require.NoError(t, err, "%s", out)
			return string(out)
		}
		run("-f", "/dev/null", "new-session", "-d", "-x", "100", "-y", "40", "-c", dir, "-s", "a", zsh, "-f")
		t.Cleanup(func() { exec.Command(tmux, "-S", socket, "kill-server").Run() })
		keys := func(keys ...string) { run(append([]string{"send-keys", "-t", "a"}, keys...)...) }
		shows := func(want string) {
			require.Eventually(t, func() bool { return strings.Contains(run("capture-pane", "-p", "-t", "a"), want) }, 20*time.Second, 50*time.Millisecond, want)
		}
		keys("PS1='> '; autoload -Uz compinit; compinit -u -d ./dump; source ./with.zsh; echo read${PS1}it", "Enter")
		shows("read> it")
		for _, test := range completions[:9] {
			if test.line == "zetanum " {
				continue
			}
			keys(test.line, "Tab")
			shows(test.line[:strings.LastIndex(test.line, " ")+1] + test.offers)
			keys("C-u", "clear", "Enter")
			require.Eventually(t, func() bool { return !strings.Contains(run("capture-pane", "-p", "-t", "a"), "zetanum") }, 20*time.Second, 20*time.Millisecond)
		}
	})
	assert.Equal(t, exitUsage, zetanum(t, dir, "completion").status)
	assert.Equal(t, exitUsage, zetanum(t, dir, "completion", "cmd").status)
	script := readFile(t, filepath.Join(dir, "with.powershell")) // there is no such shell to try it by: what it has, and that its brackets go up
	for _, pair := range []string{"{}", "()", "[]"} {
		assert.Equal(t, strings.Count(script, pair[:1]), strings.Count(script, pair[1:]), pair)
	}
	assert.Zero(t, strings.Count(script, "'")%2)
	for _, c := range commands() {
		assert.Contains(t, script, "'"+c.about().name+"' = @{ ")
	}
}

// TestManPage: the real man formats the page without a warning, and every command and flag is in it.
func TestManPage(t *testing.T) {
	t.Parallel()
	man := outside.Program(t, "man")
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "zetanum.1"), zetanum(t, dir, "help", "man").stdout)
	cmd := exec.Command(man, "--warnings", "--no-justification", "-l", "./zetanum.1")
	cmd.Dir, cmd.Env = dir, []string{"MANWIDTH=200", "LC_ALL=C.UTF-8", "PATH=/usr/bin:/bin", "MANPAGER=cat", "TERM=dumb"}
	var errs strings.Builder
	cmd.Stderr = &errs
	out, err := cmd.Output()
	require.NoError(t, err)
	assert.Empty(t, errs.String())
	page := string(out)
	for _, c := range commands() {
		a := c.about()
		assert.Contains(t, page, "zetanum "+a.name)
		assert.Contains(t, strings.Join(strings.Fields(page), " "), strings.Join(strings.Fields(strings.ReplaceAll(a.examples[0], "…", "...")), " "))
		newFlagsEach(c, func(name string) { assert.Contains(t, page, "-"+name) })
	}
	assert.Contains(t, page, "EXIT STATUS")
}

func newFlagsEach(c command, do func(name string)) {
	newFlags(c).VisitAll(func(f *flag.Flag) { do(f.Name) })
}
