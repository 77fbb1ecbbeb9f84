package cli

import (
	"encoding/csv"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/mint"
	"zetanum/internal/brief"
	"zetanum/internal/outside"
)

// registers are one in a file and one on a server; the file lies in the folder.
func registers(t *testing.T, test func(t *testing.T, dir, at string)) {
	t.Run("file", func(t *testing.T) { test(t, t.TempDir(), "codes.register") })
	t.Run("server", func(t *testing.T) {
		host := strings.Fields(strings.TrimPrefix(outside.Postgres(t), "host="))[0]
		test(t, t.TempDir(), "postgres://zetanum:not-asked-for@/postgres?host="+host)
	})
}

// mintedIn returns the codes in the first column of what is ready.
func mintedIn(t *testing.T, path string) (codes []string) {
	t.Helper()
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	records, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	for _, record := range records[1:] {
		codes = append(codes, record[0])
	}
	return codes
}

// TestMintAtOnce: many that make codes at the same moment, of whom a third is killed half-way and begins
// again, never make the same.
func TestMintAtOnce(t *testing.T) {
	processes, rows := brief.Of(16, 6), brief.Of(10_000, 1000)
	registers(t, func(t *testing.T, dir, at string) {
		for p := range processes {
			var b strings.Builder
			b.WriteString("SKU,Title\n")
			for i := range rows {
				fmt.Fprintf(&b, ",Part %d of maker %d\n", i, p)
			}
			writeFile(t, filepath.Join(dir, fmt.Sprintf("list-%d.csv", p)), b.String())
		}
		// The register is there before: all of them would make it at once otherwise.
		writeFile(t, filepath.Join(dir, "first.csv"), "SKU,Title\n,First\n")
		args := func(file string) []string {
			return []string{"mint", file, "-pattern", "KE-{counter 7}", "-register", at}
		}
		require.Equal(t, exitOK, zetanum(t, dir, args("first.csv")...).status)
		var wait sync.WaitGroup
		for p := range processes {
			wait.Add(1)
			go func() {
				defer wait.Done()
				file := fmt.Sprintf("list-%d.csv", p)
				if p%3 == 0 {
					cmd := exec.Command(program, args(file)...)
					cmd.Dir, cmd.Stdout, cmd.Stderr = dir, io.Discard, io.Discard
					if assert.NoError(t, cmd.Start()) {
						time.Sleep(time.Duration(100+rand.IntN(900)) * time.Millisecond)
						cmd.Process.Kill()
						cmd.Wait()
					}
				}
				c := &call{dir: dir}
				c.run(t, args(file)...)
				assert.Equal(t, exitOK, c.status, c.stderr)
			}()
		}
		wait.Wait()
		seen := make(map[string]string)
		for p := range processes {
			file := fmt.Sprintf("list-%d", p)
			codes := mintedIn(t, filepath.Join(dir, file+".repaired", "ready.csv"))
			require.Len(t, codes, rows)
			for _, code := range codes {
				require.Empty(t, seen[mint.Fold(code)], "%s in %s", code, file)
				seen[mint.Fold(code)] = file
			}
		}
		c := zetanum(t, dir, "register", "verify", "-register", at)
		assert.Contains(t, c.stdout, "It is whole.")
		assert.NotContains(t, readFile(t, filepath.Join(dir, "list-1.repaired", "run.json")), "not-asked-for", "a password")
	})
}

// TestConnectionBreaks: where the connection to a server breaks while codes are reserved, nothing is written, what was
// reserved is given back, and the next run gets the codes.
func TestConnectionBreaks(t *testing.T) {
	host := strings.Fields(strings.TrimPrefix(outside.Postgres(t), "host="))[0]
	dir := t.TempDir()
	var b strings.Builder
	b.WriteString("SKU,Title\n")
	for i := range 20_000 {
		fmt.Fprintf(&b, ",Part number %d of the list\n", i)
	}
	writeFile(t, filepath.Join(dir, "list.csv"), b.String())
	// Between the two stands somebody who hangs up once, when so much has been sent.
	between, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer between.Close()
	var hungUp atomic.Bool
	go func() {
		for {
			client, err := between.Accept()
			if err != nil {
				return
			}
			server, err := net.Dial("unix", filepath.Join(host, ".s.PGSQL.5432"))
			if err != nil {
				client.Close()
				continue
			}
			go func() {
				io.Copy(client, server)
				client.Close()
			}()
			go func() {
				if n, _ := io.CopyN(server, client, 200_000); n == 200_000 && hungUp.CompareAndSwap(false, true) {
					client.Close()
				} else {
					io.Copy(server, client)
				}
				server.Close()
			}()
		}
	}()
	at := "postgres://zetanum@" + between.Addr().String() + "/postgres?sslmode=disable"
	c := zetanum(t, dir, "mint", "list.csv", "-pattern", "KE-{counter 7}", "-register", at)
	assert.Equal(t, exitFailed, c.status, c.stdout)
	assert.Contains(t, c.stderr, "the connection to the server of the register is broken")
	assert.True(t, hungUp.Load())
	assert.NoDirExists(t, filepath.Join(dir, "list.repaired"))
	direct := "postgres://zetanum@/postgres?host=" + host
	c = zetanum(t, dir, "register", "verify", "-register", direct)
	assert.Contains(t, c.stdout, "0 codes, 0 barcodes remembered, serial 0")
	assert.NotContains(t, c.stdout, "reserving")
	require.Equal(t, exitOK, zetanum(t, dir, "mint", "list.csv", "-pattern", "KE-{counter 7}", "-register", at).status)
	codes := mintedIn(t, filepath.Join(dir, "list.repaired", "ready.csv"))
	assert.Equal(t, "KE-0000001", slices.Min(codes))
	assert.Equal(t, "KE-0020000", slices.Max(codes))
}

// TestRegister: products keep their codes from file to file, whatever else there is in them; trials issue nothing,
// what fails gives back, and the register can be looked into, corrected and moved.
func TestRegister(t *testing.T) {
	registers(t, func(t *testing.T, dir, at string) {
		const rules = "[[mint]]\ninto = \"sku\"\nfrom = \"{Make upper first 2}-{counter 3}\"\n"
		writeFile(t, filepath.Join(dir, "rules.toml"), rules)
		writeFile(t, filepath.Join(dir, "may.csv"), "SKU,Title,Make\nKE-004,Lamp,Kestrel\n,Bell,Kestrel\n,Grip,Kestrel\n")
		writeFile(t, filepath.Join(dir, "june.csv"), "SKU,Title,Make\n,Axle,Kestrel\n,Grip,Kestrel\n,Bell,Kestrel\n")
		mint := func(verb, file string, more ...string) *call {
			return zetanum(t, dir, append([]string{verb, file, "-rules", "rules.toml", "-register", at}, more...)...)
		}
		ready := func(name string) string { return readFile(t, filepath.Join(dir, name+".repaired", "ready.csv")) }
		require.Equal(t, exitOK, mint("check", "may.csv").status)
		assert.NoFileExists(t, filepath.Join(dir, "codes.register"), "a trial makes no register")
		require.Equal(t, exitOK, mint("repair", "may.csv").status)
		assert.Equal(t, "SKU,Title,Make\nKE-004,Lamp,Kestrel\nKE-005,Bell,Kestrel\nKE-006,Grip,Kestrel\n", ready("may"))
		c := mint("check", "june.csv")
		assert.Contains(t, c.stdout, "KE-007")
		c = mint("repair", "june.csv")
		require.Equal(t, exitOK, c.status, c.stderr)
		assert.Equal(t, "SKU,Title,Make\nKE-007,Axle,Kestrel\nKE-006,Grip,Kestrel\nKE-005,Bell,Kestrel\n", ready("june"), "Lamp's is not issued again")
		assert.Contains(t, c.stdout, "2 are what the register has for the product")
		first := ready("may")
		require.Equal(t, exitOK, mint("repair", "may.csv").status)
		assert.Equal(t, first, ready("may"), "the same once more")
		manifest := readFile(t, filepath.Join(dir, "june.repaired", "run.json"))
		assert.Contains(t, manifest, `"serial_before": 1,`)
		assert.Contains(t, manifest, `"serial_after": 2`)

		writeFile(t, filepath.Join(dir, "fails.csv"), "SKU,Title,Make\n,Spoke,Kestrel\n")
		writeFile(t, filepath.Join(dir, "count.toml"), rules+"count = 7\n")
		c = zetanum(t, dir, "repair", "fails.csv", "-rules", "count.toml", "-register", at)
		assert.Equal(t, exitHeld, c.status, c.stderr)
		require.Equal(t, exitOK, mint("repair", "fails.csv").status)
		assert.Contains(t, ready("fails"), "KE-008,Spoke", "what failed has given its code back")

		writeFile(t, filepath.Join(dir, "own.toml"), "[register]\nat = \""+at+"\"\n"+rules)
		c = zetanum(t, dir, "repair", "may.csv", "-rules", "own.toml", "-out", "own")
		require.Equal(t, exitOK, c.status, c.stderr)
		assert.Equal(t, first, readFile(t, filepath.Join(dir, "own", "ready.csv")))
		assert.NotContains(t, readFile(t, filepath.Join(dir, "own", "run.json"))+c.stdout, "not-asked-for", "a password")
		// A product that is held for what is made of its code has not used it up.
		writeFile(t, filepath.Join(dir, "label.toml"), rules+"[[build]]\ninto = \"material\"\nfrom = \"{sku} {title}\"\n[field.material]\nlongest = 12\n")
		writeFile(t, filepath.Join(dir, "label.csv"), "SKU,Title,Make\n,A very long title,Kestrel\n,Wheel,Kestrel\n")
		c = zetanum(t, dir, "repair", "label.csv", "-rules", "label.toml", "-register", at)
		require.Equal(t, exitHeld, c.status, c.stderr)
		assert.Contains(t, ready("label"), "Wheel")
		assert.NotContains(t, zetanum(t, dir, "register", "list", "-register", at).stdout, "very long")

		register := func(args ...string) *call {
			return zetanum(t, dir, append([]string{"register", "-register", at}, args...)...)
		}
		assert.Contains(t, register("list").stdout, "KE-008")
		assert.Contains(t, register("show", "ke-oo5").stdout, "bell")
		c = register("forget", "ke-005")
		assert.Equal(t, exitUsage, c.status)
		assert.Contains(t, c.stderr, "the exact code")
		c = register("forget", "KE-005")
		assert.Equal(t, exitUsage, c.status)
		assert.Contains(t, c.stderr, "-sure")
		require.Equal(t, exitOK, register("forget", "KE-005", "-sure").status)
		assert.Equal(t, exitUsage, register("show", "KE-005").status)

		// Barcodes that a file had come back when the next has lost them, until they are forgotten.
		writeFile(t, filepath.Join(dir, "list-7.csv"), "SKU,EAN,Title\nKE-004,9521234000013,Lamp\nKE-006,9521234000020,Grip\nKE-007,9521234000037,Axle\n")
		writeFile(t, filepath.Join(dir, "list-8.csv"), "SKU,EAN,Title\nKE-004,9.52123E+12,Lamp\nKE-006,9.52123E+12,Grip\nKE-007,9521234000044,Axle\n")
		c = zetanum(t, dir, "repair", "list-7.csv", "-register", at)
		require.Equal(t, exitOK, c.status, c.stderr)
		assert.Contains(t, c.stdout, "which remembers 3 barcodes more")
		assert.Contains(t, register("show", "9521234000020").stdout, "KE-006")
		assert.Contains(t, register("show", "KE-006").stdout, "9521234000020")
		assert.Contains(t, register("list").stdout, "list")
		require.Equal(t, exitOK, register("forget", "9521234000020", "-sure").status)
		c = zetanum(t, dir, "repair", "list-8.csv", "-register", at)
		require.Equal(t, exitHeld, c.status, c.stderr)
		assert.Equal(t, "SKU,EAN,Title\nKE-004,9521234000013,Lamp\nKE-007,9521234000044,Axle\n", ready("list-8"))
		assert.Contains(t, strings.Join(strings.Fields(c.stdout), " "), "of one SKU the register remembers another barcode")
		require.Equal(t, exitOK, register("forget", "9521234000044", "-sure").status)
		require.Equal(t, exitOK, register("export", "-out", "codes.csv").status)
		c = zetanum(t, dir, "register", "import", "codes.csv", "-register", "other.register")
		require.Equal(t, exitOK, c.status, c.stderr)
		assert.Contains(t, c.stdout, "Taken over: 4 codes, 1 counter, 2 barcodes to remember.")
		assert.Equal(t, readFile(t, filepath.Join(dir, "codes.csv")), zetanum(t, dir, "register", "export", "-register", "other.register").stdout)
		c = zetanum(t, dir, "register", "import", "may.csv", "-register", "other.register")
		assert.Equal(t, exitFailed, c.status)
		assert.Contains(t, c.stderr, "is not what")
		for _, wrong := range [][]string{{"say what to do"}, {"it can list", "look"}, {"takes one code", "show"}, {"takes nothing more", "list", "x"}} {
			c = register(wrong[1:]...)
			assert.Equal(t, exitUsage, c.status)
			assert.Contains(t, c.stderr, wrong[0])
		}
	})
	dir := t.TempDir()
	c := zetanum(t, dir, "register", "list")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, "name the register")
	writeFile(t, filepath.Join(dir, "text.csv"), "SKU,Title\n,x\n")
	c = zetanum(t, dir, "mint", "text.csv", "-pattern", "A{counter 3}", "-register", "text.csv")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "this is no register")
	assert.NoDirExists(t, filepath.Join(dir, "text.repaired"))
	assert.Equal(t, "SKU,Title\n,x\n", readFile(t, filepath.Join(dir, "text.csv")))
}
