package cli

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWindow: in a window that closes with the program, what was found can be read, and
// is repaired if that is wanted.
func TestWindow(t *testing.T) {
	const list = "SKU,EAN,Title\nA1,9.521234000013E+12,Smoker\n"
	for _, test := range []struct {
		what, args, typed string
		status            int
		says              []string
		made              []string // folders
	}{
		{"dropped, and repaired", "a list.csv", "\n\n", exitOK, []string{"1 row, 1 product, 3 columns", "Press Enter to repair this file",
			"9.521234000013E+12 → 9521234000013", "Enter alone closes"}, []string{"a list.repaired"}},
		{"dropped, and left", "a list.csv", "n\n\n", exitOK, []string{"Press Enter to repair"}, nil},
		{"dropped, and closed", "a list.csv", "", exitOK, []string{"Press Enter to repair"}, nil},
		{"two are dropped", "a list.csv|b.csv", "\n\n", exitOK, []string{"repair these files"}, []string{"a list.repaired", "b.repaired"}},
		{"one of two cannot be read", "none.csv|b.csv", "\n\n", exitFailed, []string{"none.csv: file does not exist", "repair these files"},
			[]string{"b.repaired"}},
		{"a click, and a name is typed", "", "a list.csv\n\n\n", exitOK, []string{"Drag a file into this window"}, []string{"a list.repaired"}},
		{"a click, and files are dragged", "", "\"a list.csv\" b.csv\n\n\n", exitOK, nil, []string{"a list.repaired", "b.repaired"}},
		{"a click, and nothing", "", "\n", exitOK, []string{"closes the window"}, nil},
		{"repaired again with settings", "a list.csv", "\n-only sku -out \"only here\"\n\n", exitOK, []string{"Written to only here"},
			[]string{"a list.repaired", "only here"}},
		{"another one after it", "a list.csv", "n\nb.csv\n\n\n", exitOK, nil, []string{"b.repaired"}},
		{"a command is typed", "", "zetanum check b.csv\n\n", exitOK, []string{"this was a check"}, nil},
		{"a command", "check|b.csv", "\n", exitOK, []string{"this was a check", "Press Enter to close"}, nil},
		{"asked first, and by that repaired", "c.csv", "q\nn\nb\ny\n\n\n\n", exitOK, []string{"Q and Enter first asks", "Take it out? [y/n/show/why/later]", "by your answers", "rulebook: zetanum.toml"},
			[]string{"c.repaired"}},
		{"the folder is opened", "a list.csv", "\no\n\n", exitOK, []string{"O and Enter opens the folder", "opened: a list.repaired"}, []string{"a list.repaired"}},
		{"not there", "none.csv", "\n", exitFailed, []string{"none.csv: file does not exist", "Another file"}, nil},
	} {
		t.Run(test.what, func(t *testing.T) {
			dir := t.TempDir()
			t.Chdir(dir)
			bin := t.TempDir()
			require.NoError(t, os.WriteFile(filepath.Join(bin, "xdg-open"), []byte("#!/bin/sh\necho \"opened: $1\" > "+filepath.Join(bin, "opened")+"\n"), 0o777))
			t.Setenv("PATH", bin+string(os.PathListSeparator)+os.Getenv("PATH"))
			writeFile(t, "a list.csv", list)
			writeFile(t, "b.csv", list)
			writeFile(t, "c.csv", "SKU,Title\nA1,*** NEW *** Smoker of tin\n")
			var out bytes.Buffer
			s := &session{ctx: t.Context(), stdin: strings.NewReader(test.typed), stdout: &out, stderr: &out, now: time.Now, plain: true}
			var args []string
			if test.args != "" {
				args = strings.Split(test.args, "|")
			}
			assert.Equal(t, test.status, s.inWindow(args), out.String())
			opened, _ := os.ReadFile(filepath.Join(bin, "opened"))
			said := strings.Join(strings.Fields(out.String()+string(opened)), " ")
			for _, want := range test.says {
				assert.Contains(t, said, want)
			}
			assert.NotContains(t, said, "Next zetanum repair", "it is offered instead")
			entries, err := os.ReadDir(".")
			require.NoError(t, err)
			var made []string
			for _, e := range entries {
				if e.IsDir() {
					made = append(made, e.Name())
				}
			}
			assert.Equal(t, test.made, made)
		})
	}
}

// TestNamed: a pattern stands for the files that it fits, as it does in most shells.
func TestNamed(t *testing.T) {
	dir := t.TempDir()
	for _, name := range []string{"b.csv", "a.csv", "~$c.csv", ".d.csv", "a[1].csv", "list.txt"} {
		writeFile(t, filepath.Join(dir, name), small)
	}
	for args, want := range map[string]string{
		"*.csv": "a.csv,a[1].csv,b.csv", "?.csv list.txt": "a.csv,b.csv,list.txt", "a[*": "a[1].csv", "a[1].csv": "a[1].csv",
		"*.xlsx": "*.xlsx: no file of this folder fits", "none/*.csv": "there is no folder none/", "*/a.csv": "",
	} {
		c := zetanum(t, dir, append([]string{"inspect", "-json"}, strings.Fields(args)...)...)
		if strings.Contains(want, " ") || want == "" {
			assert.NotEqual(t, exitOK, c.status, args)
			assert.Contains(t, c.stderr, want)
			continue
		}
		require.Equal(t, exitOK, c.status, c.stderr)
		for name := range strings.SplitSeq(want, ",") {
			assert.Contains(t, c.stdout, `"file": "`+name+`"`, args)
		}
		assert.Equal(t, len(strings.Split(want, ",")), strings.Count(c.stdout, `"file":`), args)
	}
}
