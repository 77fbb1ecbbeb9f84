package cli

import (
	"bufio"
	"fmt"
	"io"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/demo"
	"zetanum/internal/outside"
)

// A person answers what the program asks, as it asks it.
type person struct {
	t   *testing.T
	cmd *exec.Cmd
	in  io.WriteCloser
	out *bufio.Reader
	all strings.Builder
}

// ask starts the program, in a folder.
func ask(t *testing.T, dir string, args ...string) *person {
	t.Helper()
	p := &person{t: t, cmd: exec.Command(program, append([]string{"begin", "-ask"}, args...)...)}
	p.cmd.Dir = dir
	var err error
	p.in, err = p.cmd.StdinPipe()
	require.NoError(t, err)
	out, err := p.cmd.StdoutPipe()
	require.NoError(t, err)
	p.cmd.Stderr = p.cmd.Stdout
	p.out = bufio.NewReader(out)
	require.NoError(t, p.cmd.Start())
	t.Cleanup(func() { p.cmd.Process.Kill() })
	return p
}

var prompts = regexp.MustCompile(`\[[^\]\n]*/[^\]\n]*\] $|\nType [^\n]*: $`)

// reads reads up to the next question, and returns what was said; all is said at the end.
func (p *person) reads() (said string, asked bool) {
	var b strings.Builder
	for {
		c, err := p.out.ReadByte()
		if err != nil {
			return b.String(), false
		}
		b.WriteByte(c)
		p.all.WriteByte(c)
		if c == ' ' && prompts.MatchString(b.String()) {
			return b.String(), true
		}
	}
}

func (p *person) types(answer string) {
	_, err := io.WriteString(p.in, answer+"\n")
	require.NoError(p.t, err)
}

// ends reads the rest, and returns the exit status.
func (p *person) ends() int {
	p.in.Close()
	for {
		if _, asked := p.reads(); !asked {
			break
		}
	}
	p.cmd.Wait()
	return p.cmd.ProcessState.ExitCode()
}

// TestAsk: over a pipe, from the file as it came to one that is ready; left in the middle, it goes on there.
func TestAsk(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	p := ask(t, dir, "saltmarsh-export.csv")
	said, _ := p.reads()
	assert.Contains(t, said, "158 of 310 rows are ready to import, 147 held")
	assert.Regexp(t, `(?s)1/\d+ +300 descriptions could be tidier.*row \d+  .* → .*Tidy them\? \[y/n/show/why/later\] $`, said)
	p.types("why")
	said, _ = p.reads()
	assert.Contains(t, said, "description.untidy")
	p.types("s")
	said, _ = p.reads()
	assert.Len(t, regexp.MustCompile(`row \d+  `).FindAllString(said, -1), 10)
	p.types("what?")
	said, _ = p.reads()
	assert.Contains(t, said, "Answer with one of the letters or numbers in brackets")
	p.types("b")
	said, _ = p.reads()
	assert.Contains(t, said, "This is the first one.")
	p.types("y")
	p.reads()
	p.types("n")
	p.reads()
	p.types("b")
	said, _ = p.reads()
	assert.Contains(t, said, "2/")
	p.types("no")
	p.reads()
	p.types("q")
	assert.Equal(t, exitOK, p.ends())
	assert.Contains(t, p.all.String(), "Stopped. The same command goes on with what is not answered yet.")
	first := readFile(t, filepath.Join(dir, "zetanum.toml"))
	assert.Contains(t, first, "[description]\n# 300 descriptions could be tidier")

	p = ask(t, dir, "saltmarsh-export.csv")
	for {
		said, asked := p.reads()
		if !asked {
			break
		}
		assert.NotContains(t, said, "could be tidier")
		assert.NotContains(t, said, "hives & others” stands in 109", "it was answered with no")
		p.types("1")
	}
	assert.Equal(t, exitOK, p.ends())
	assert.Regexp(t, `By them \d+ of 310 rows are ready to import, \d+ set aside\.`, p.all.String())
	c := zetanum(t, dir, "repair", "saltmarsh-export.csv")
	assert.Equal(t, exitOK, c.status, c.stdout)
	assert.Contains(t, c.stdout, "held 0")
	p = ask(t, dir, "saltmarsh-export.csv")
	assert.Equal(t, exitOK, p.ends())
	assert.Contains(t, p.all.String(), "Nothing is left to ask.")
}

// TestAskWrong: what cannot be asked about is said, and what is piped in and is no answers ends it.
func TestAskWrong(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	for _, test := range []struct {
		args, stdin string
		status      int
		says        string
	}{
		{"", "", exitUsage, "-ask asks about one file"}, {"-", "", exitUsage, "standard input has the answers"},
		{"woods.csv -from shop-brands.csv", "", exitUsage, "-present"}, {"woods.csv -out -", "", exitUsage, "name a file with -out"},
		{"gone.csv", "", exitFailed, "gone.csv"}, {"saltmarsh-export.csv", strings.Repeat("maybe\n", 1000), exitOK, "These are no answers."},
		{"saltmarsh-export.csv", "", exitOK, "Stopped."}, {"wick-and-wax.xlsx -done combley-now.csv -out d.toml", "", exitOK, "8 columns are explained, 0 not"},
		{"combley-by-hand.csv -template self -out s.toml", "", exitOK, "rows are ready to import"},
		{"hollowbrook-prices.csv -template shop-form.xlsx -out f.toml", strings.Repeat("n\n", 20), exitHeld, "No file in the form of the template can be made yet"},
	} {
		c := &call{dir: dir, stdin: test.stdin}
		c.run(t, append([]string{"begin", "-ask"}, strings.Fields(test.args)...)...)
		assert.Equal(t, test.status, c.status, "%s\n%s%s", test.args, c.stdout, c.stderr)
		assert.Contains(t, c.stdout+c.stderr, test.says, test.args)
	}
	assert.NoFileExists(t, filepath.Join(dir, "zetanum.toml"), "nothing was answered")
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[title]\ncasing = 1\n")
	c := zetanum(t, dir, "begin", "-ask", "saltmarsh-export.csv")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, `there is no key "title.casing"`)
}

// TestAskInTerminal: the same at a keyboard, in a terminal of 80 columns.
func TestAskInTerminal(t *testing.T) {
	t.Parallel()
	tmux := outside.Program(t, "tmux")
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	socket := filepath.Join(t.TempDir(), "s")
	run := func(args ...string) string {
		out, err := exec.Command(tmux, append([]string{"-S", socket}, args...)...).CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	run("-f", "/dev/null", "new-session", "-d", "-x", "80", "-y", "50", "-c", dir, "-s", "a", "sh")
	t.Cleanup(func() { exec.Command(tmux, "-S", socket, "kill-server").Run() })
	shows := func(want string) (screen string) {
		require.Eventually(t, func() bool {
			screen = run("capture-pane", "-p", "-t", "a")
			return strings.Contains(screen, want)
		}, 30*time.Second, 50*time.Millisecond, want)
		return screen
	}
	run("send-keys", "-t", "a", program+" begin -ask own-make-2.csv -out a.toml", "Enter")
	shows("[y/n/show/why/later]")
	run("send-keys", "-t", "a", "y", "Enter")
	screen := shows("Make them?")
	assert.Contains(t, screen, "later] y\n", "it is seen once")
	run("send-keys", "-t", "a", "2", "Enter")
	shows("What is to become of them?")
	run("send-keys", "-t", "a", "b", "Enter")
	require.Eventually(t, func() bool { return strings.Count(run("capture-pane", "-p", "-t", "a"), "Make them?") == 2 }, 30*time.Second, 50*time.Millisecond)
	run("send-keys", "-t", "a", "q", "Enter")
	shows("zetanum repair own-make-2.csv -rules a.toml")
	assert.Contains(t, readFile(t, filepath.Join(dir, "a.toml")), "trusted = [\"own-make.csv\"]")
	assert.NotContains(t, readFile(t, filepath.Join(dir, "a.toml")), "[[mint]]", "it was taken back")
	run("send-keys", "-t", "a", "clear", "Enter")
	require.Eventually(t, func() bool { return !strings.Contains(run("capture-pane", "-p", "-t", "a"), "Make them?") }, 30*time.Second, 50*time.Millisecond)
	run("send-keys", "-t", "a", program+" begin -ask own-make-2.csv -out a.toml", "Enter")
	shows("Make them?")
	run("send-keys", "-t", "a", "C-c")
	shows("Stopped. The same command goes on")
}

// TestDemandedStays: no answer writes a cell empty that the template demands: its row would be refused by the importer.
func TestDemandedStays(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	writeFile(t, filepath.Join(dir, "form.toml"), "[target]\ntemplate = \"shop-form.xlsx\"\n\n[target.columns]\n\"Main picture\" = { always = \"https://pictures.example/a.jpg\" }\n"+
		"\"Way of dispatch\" = { always = \"Parcel\" }\n")
	c := zetanum(t, dir, "check", "hollowbrook-prices.csv", "-rules", "form.toml")
	assert.Contains(t, c.stdout, "40 of 121 rows are ready to import. 80 are held")
	assert.NotContains(t, c.stdout, `"target.unlisted=Shelf *:blank"`)
	c = zetanum(t, dir, "check", "hollowbrook-prices.csv", "-rules", "form.toml", "-answer", "target.unlisted:blank")
	assert.Contains(t, c.stdout, "40 of 121 rows are ready to import. 80 are held")
	c = zetanum(t, dir, "check", "hollowbrook-prices.csv", "-rules", "form.toml", "-answer", "target.unlisted=Shelf *:blank")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, `would write "Shelf *" empty, which the template demands`)
}

// TestAskDone: what nothing of the file explains in the one that was made by hand is asked; stopped, it is asked the next time.
func TestAskDone(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	raw, made := "Part,Item,Cost\n", "Code,Title,Shelf\n"
	for i := range 20 {
		raw += fmt.Sprintf("%05d,Disc %d,%d.40\n", 700+i, i, 10+i)
		made += fmt.Sprintf("%05d,Disc %d,R%d\n", 700+i, i, (7*i*i+3)%11)
	}
	writeFile(t, filepath.Join(dir, "parts.csv"), raw)
	writeFile(t, filepath.Join(dir, "upload.csv"), made)
	for _, typed := range []string{"q\n", "2\nR0\n", "q\n"} {
		c := &call{dir: dir, stdin: typed}
		c.run(t, "begin", "-ask", "parts.csv", "-done", "upload.csv")
		assert.Equal(t, exitOK, c.status, c.stdout+c.stderr)
		asks := strings.Contains(c.stdout, `Nothing of the file explains what stands under "Shelf" in the one that was made by hand`)
		assert.Equal(t, !strings.Contains(readFile(t, filepath.Join(dir, "zetanum.toml")), "R0") || typed == "2\nR0\n", asks, c.stdout)
	}
	assert.Contains(t, readFile(t, filepath.Join(dir, "zetanum.toml")), `"Shelf" = { always = "R0" }`)
}
