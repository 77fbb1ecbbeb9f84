//go:build unix

package cli

import (
	"archive/zip"
	"bufio"
	"fmt"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"strings"
	"syscall"
	"testing"

	"zetanum/core/barcode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mostMemory is what the program may take in a sheet that is made to take much, in
// kilobytes.
const mostMemory = 300 << 10

// TestMemory: blank rows, rows that repeat one, codes that several products have, rows of one
// product, and the texts that cells of a workbook share need no memory each.
func TestMemory(t *testing.T) {
	t.Parallel()
	if testing.Short() || runtime.GOOS != "linux" {
		t.Skip("large files, and how much memory a process had is counted in kilobytes")
	}
	rows := 1_000_000
	for name, write := range map[string]func(path string, out io.Writer){
		"blank lines": func(_ string, out io.Writer) {
			fmt.Fprint(out, "SKU,EAN\nA,9521234000013\n", strings.Repeat("\n", rows), "B,9521234000020\n")
		},
		"blank rows": func(_ string, out io.Writer) {
			fmt.Fprint(out, "Slug,SKU,EAN\ns,A,9521234000013\n", strings.Repeat(",,\n", rows), "t,B,9521234000020\n")
		},
		"one row again and again": func(_ string, out io.Writer) {
			fmt.Fprint(out, "SKU,EAN\n", strings.Repeat("A,9521234000013\n", rows))
		},
		"codes that two products have": func(_ string, out io.Writer) {
			for i := range 500_000 {
				if i == 0 {
					fmt.Fprint(out, "SKU,EAN,Title\n")
				}
				n := uint64(952_000_000_000 + i%250_000)
				fmt.Fprintf(out, "S%d,%d%d,T%d\n", n, n, barcode.CheckDigit(n), i)
			}
		},
		"one product": func(_ string, out io.Writer) {
			fmt.Fprint(out, "Slug,SKU,Title\n")
			for i := range 500_000 {
				fmt.Fprintf(out, "s,S%d,T%d\n", i, i)
			}
		},
		"a row as large as they may be": func(_ string, out io.Writer) {
			fmt.Fprint(out, "SKU,EAN,Description\nA,9521234000013,\"", strings.Repeat("Ã¼ber \"\"x\"\" ", 900_000), "\"\nB,9521234000020,ä\n")
		},
		"many columns": func(_ string, out io.Writer) {
			fmt.Fprint(out, "SKU", strings.Repeat(",column", 16_000), "\n")
			for i := range 200 {
				fmt.Fprint(out, i, strings.Repeat(",x", 16_000), "\n")
			}
		},
	} {
		dir := t.TempDir()
		path := filepath.Join(dir, "list.csv")
		file, err := os.Create(path)
		require.NoError(t, err)
		out := bufio.NewWriter(file)
		write(path, out)
		require.NoError(t, out.Flush())
		require.NoError(t, file.Close())
		for _, command := range []string{"inspect", "repair"} {
			memory, said := memoryOf(t, dir, command, "list.csv")
			for range 3 { // how much garbage there is at most is a matter of when it is collected
				if memory >= mostMemory {
					memory, said = memoryOf(t, dir, command, "list.csv")
				}
			}
			assert.Less(t, memory, int64(mostMemory), "%s, %s: %s", name, command, said)
		}
	}
	dir := t.TempDir()
	sharedTexts(t, filepath.Join(dir, "list.xlsx"))
	memory, said := memoryOf(t, dir, "inspect", "list.xlsx")
	assert.Less(t, memory, int64(mostMemory), "shared texts: %s", said)
	assert.Contains(t, said, "the texts that cells share have more than")
}

// TestGuardMemory: the program knows how much memory it may have, and what it does is the same where that is less than it would take.
func TestGuardMemory(t *testing.T) {
	before := debug.SetMemoryLimit(-1)
	defer debug.SetMemoryLimit(before)
	guardMemory()
	limit := debug.SetMemoryLimit(-1)
	assert.Less(t, limit, int64(math.MaxInt64))
	assert.Greater(t, limit, int64(16<<20))

	dir := t.TempDir()
	var rows strings.Builder
	rows.WriteString("SKU,EAN,Title\n")
	for i := range 60_000 {
		n := 952123400000 + uint64(i)
		fmt.Fprintf(&rows, "HG-%05d,%d%d,\"Smoker %d,  large\"\n", i, n, barcode.CheckDigit(n), i)
	}
	for _, name := range []string{"free.csv", "tight.csv"} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(rows.String()), 0o666))
		cmd := exec.Command(program, "repair", name)
		cmd.Dir = dir
		if cmd.Env = os.Environ(); name == "tight.csv" {
			cmd.Env = append(cmd.Env, "GOMEMLIMIT=24MiB")
		}
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	free, err := os.ReadFile(filepath.Join(dir, "free.repaired", "ready.csv"))
	require.NoError(t, err)
	tight, err := os.ReadFile(filepath.Join(dir, "tight.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, string(free), string(tight))
}

// memoryOf runs the program and returns the most memory that it had, in kilobytes.
func memoryOf(t *testing.T, dir string, args ...string) (kilobytes int64, said string) {
	t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Dir = dir
	out, _ := cmd.CombinedOutput()
	return cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss, string(out[:min(len(out), 300)])
}

// sharedTexts writes a workbook that shares hundreds of megabytes of texts.
func sharedTexts(t *testing.T, path string) {
	t.Helper()
	file, err := os.Create(path)
	require.NoError(t, err)
	z := zip.NewWriter(file)
	for name, content := range map[string]string{
		"_rels/.rels":                `<Relationships><Relationship Id="r" Type="x/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<workbook><sheets><sheet name="S" r:id="s"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="s" Type="x/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="t" Type="x/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml":   `<worksheet><sheetData><row r="1"><c t="s"><v>0</v></c></row></sheetData></worksheet>`,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, content)
		require.NoError(t, err)
	}
	w, err := z.Create("xl/sharedStrings.xml")
	require.NoError(t, err)
	block := strings.Repeat("<si><t>"+strings.Repeat("a long text ", 80)+"</t></si>", 1000)
	fmt.Fprint(w, "<sst>")
	for range 300 {
		fmt.Fprint(w, block)
	}
	fmt.Fprint(w, "</sst>")
	require.NoError(t, z.Close())
	require.NoError(t, file.Close())
}
