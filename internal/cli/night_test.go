package cli

import (
	"encoding/csv"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/demo"
	"zetanum/internal/outside"
)

// night lays out a folder of lists of what the shop's workshops make, in which all products are without codes, and one list that
// cannot be read; and the address of a register.
func night(t *testing.T) (dir, register string) {
	if _, err := exec.LookPath("sh"); err != nil {
		t.Skip("there is no shell")
	}
	host := strings.Fields(strings.TrimPrefix(outside.Postgres(t), "host="))[0]
	dir = filepath.Join(t.TempDir(), "lists")
	require.NoError(t, os.Mkdir(dir, 0o777))
	for _, name := range []string{"own-make", "oxenholme", "pikeley", "ravens"} {
		list := "SKU,Title,Size,Category,Price,Barcode,Slug\n"
		for _, product := range []string{"Soap with tar", "Soap with propolis", "Soap with heather"} {
			list += "," + product + " of " + name + ",100 g,Soap,4.90,,\n"
		}
		writeFile(t, filepath.Join(dir, name+".csv"), list)
	}
	writeFile(t, filepath.Join(dir, "empty.csv"), "")
	writeFile(t, filepath.Join(dir, "shop.toml"), "[[mint]]\ninto = \"sku\"\nfrom = \"LR-{category ascii letters upper first 3}-{counter 3}\"\n")
	return dir, "postgres://zetanum@/postgres?host=" + host
}

// issued returns the SKUs that are ready in the outputs of a folder.
func issued(t *testing.T, dir string) (codes []string) {
	t.Helper()
	outputs, err := filepath.Glob(filepath.Join(dir, "*.repaired", "ready.csv"))
	require.NoError(t, err)
	for _, path := range outputs {
		records, err := csv.NewReader(strings.NewReader(readFile(t, path))).ReadAll()
		require.NoError(t, err)
		for _, record := range records[1:] {
			codes = append(codes, record[0])
		}
	}
	return codes
}

// TestNight: two machines share a folder of lists and one register: each list is done once, none of the codes comes
// twice, what cannot be read is told and keeps nothing else from being done; begun again, only what is new is done.
func TestNight(t *testing.T) {
	dir, register := night(t)
	require.NoError(t, os.Rename(filepath.Join(dir, "ravens.csv"), filepath.Join(dir, "ravens and rooks.csv")))
	script, err := filepath.Abs("../../docs/night/night.sh")
	require.NoError(t, err)
	machine := func(part string) (says string, failed error) {
		cmd := exec.Command("sh", script, dir, part, "2")
		cmd.Env = append(os.Environ(), "ZETANUM="+program, "RULES="+filepath.Join(dir, "shop.toml"), "REGISTER="+register, "JOBS=2")
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	type said struct {
		text string
		err  error
	}
	second := make(chan said)
	go func() {
		text, err := machine("2")
		second <- said{text, err}
	}()
	text, failed := machine("1")
	other := <-second
	both := text + other.text
	assert.True(t, (failed != nil) != (other.err != nil), "one of them has the list that cannot be read: %s", both)
	for _, list := range []string{"0 " + dir + "/own-make.csv", "0 " + dir + "/ravens and rooks.csv", "0 " + dir + "/oxenholme.csv", "0 " + dir + "/pikeley.csv", "3 " + dir + "/empty.csv"} {
		assert.Equal(t, 1, strings.Count(both, list+"\n"), "%s in %s", list, both)
	}
	codes := issued(t, dir)
	assert.Len(t, codes, 12)
	assert.Len(t, slices.Compact(slices.Sorted(slices.Values(codes))), len(codes), "a code was issued twice: %v", codes)
	assert.Contains(t, readFile(t, filepath.Join(dir, "empty.log")), "empty")

	require.NoError(t, os.Remove(filepath.Join(dir, "empty.csv")))
	list := filepath.Join(dir, "pikeley.csv")
	writeFile(t, list, readFile(t, list)+",Soap with wax,100 g,Soap,5.40,,\n")
	require.NoError(t, os.Chtimes(list, time.Now(), time.Now().Add(time.Minute)))
	text, _ = machine("1")
	more, _ := machine("2")
	assert.Equal(t, "0 "+list+"\n", text+more, "only what is new")
}

// TestNightWithMake: make does the same on one machine.
func TestNightWithMake(t *testing.T) {
	dir, register := night(t)
	rules, err := filepath.Abs("../../docs/night/night.mk")
	require.NoError(t, err)
	run := func() (string, error) {
		out, err := exec.Command(outside.Program(t, "make"), "-k", "-j", "4", "-f", rules, "ZETANUM="+program, "LISTS="+dir,
			"RULES="+filepath.Join(dir, "shop.toml"), "REGISTER="+register).CombinedOutput()
		return string(out), err
	}
	text, failed := run()
	assert.Error(t, failed)
	assert.Equal(t, 4, strings.Count(text, "0 "+dir), text)
	assert.Contains(t, text, "3 "+dir+"/empty.csv\n")
	codes := issued(t, dir)
	assert.Len(t, codes, 12)
	assert.Len(t, slices.Compact(slices.Sorted(slices.Values(codes))), len(codes), "a code was issued twice: %v", codes)
	require.NoError(t, os.Remove(filepath.Join(dir, "empty.csv")))
	text, failed = run()
	require.NoError(t, failed, text)
	assert.Contains(t, text, "Nothing to be done")
}

// TestNightOnDemo: of the demo's lists each is repaired once, by whichever of the two; only the tree of categories is no list.
func TestNightOnDemo(t *testing.T) {
	if testing.Short() {
		t.Skip("it repairs all of the demo")
	}
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	cmd := exec.Command(outside.Program(t, "make"), "-k", "-j", "2", "-f", filepath.Join("..", "..", "docs", "night", "night.mk"), "ZETANUM="+program, "LISTS="+dir)
	out, err := cmd.CombinedOutput()
	assert.Error(t, err)
	done := regexp.MustCompile(`(?m)^([0-9]) .*/([^/]+)$`).FindAllStringSubmatch(string(out), -1)
	assert.Greater(t, len(done), 20)
	for _, list := range done {
		assert.Equal(t, list[2] == "heathgate-categories.csv", list[1] == "3", list[0])
	}
	cmd = exec.Command("sh", filepath.Join("..", "..", "docs", "night", "night.sh"), dir)
	cmd.Env = append(os.Environ(), "ZETANUM="+program)
	out, err = cmd.CombinedOutput()
	assert.Error(t, err)
	assert.Equal(t, "3 "+filepath.Join(dir, "heathgate-categories.csv")+"\n", string(out))
}
