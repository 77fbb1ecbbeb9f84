package repair

import (
	"bufio"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/cespare/xxhash/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/sections"
	"zetanum/demo"
)

var update = flag.Bool("update", false, "write the checksums of the outputs anew")

// outputSums has a line for each output of [TestOutputs]: the case, the file and its
// checksum.
const outputSums = "testdata/outputs.txt"

// TestOutputs holds every byte that a repair writes against the checksums of before: of
// the demo catalogue with its rulebooks, of nasty files, and of small files with rulebooks
// that are made up. What is meant to be different is seen in the diff of the list that
// “go test ./core/repair -run TestOutputs -update” writes.
func TestOutputs(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long, and nothing in it runs at once that does not elsewhere")
	}
	sums := make(map[string]string)
	take := func(name string, opt Options) {
		result, err := Run(t.Context(), opt)
		if err != nil {
			sums[name+" refused"] = "-"
			return
		}
		for file, content := range contents(t, result.Folder) {
			sums[name+" "+file] = fmt.Sprintf("%016x", xxhash.Sum64String(content))
		}
	}
	t.Run("demo", func(t *testing.T) { demoOutputs(t, take) })
	for seed := range uint64(20) {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", string(nasty(seed, 60+int(seed)*40))), filepath.Join(dir, "out"))
		opt.Book.Barcode, opt.Temp = orders(seed), dir
		take(fmt.Sprintf("nasty/%d", seed), opt)
	}
	for seed := range uint64(60) {
		take(fmt.Sprintf("any/%d", seed), anyFile(t, rand.New(rand.NewPCG(seed, 23))))
		take(fmt.Sprintf("products/%d", seed), anyProductsFile(t, rand.New(rand.NewPCG(seed, 73))))
	}
	if *update {
		var b strings.Builder
		for _, name := range slices.Sorted(maps.Keys(sums)) {
			fmt.Fprintln(&b, name, sums[name])
		}
		require.NoError(t, os.WriteFile(outputSums, []byte(b.String()), 0o666))
		return
	}
	file, err := os.Open(outputSums)
	require.NoError(t, err)
	defer file.Close()
	want := make(map[string]string)
	for sc := bufio.NewScanner(file); sc.Scan(); {
		at := strings.LastIndexByte(sc.Text(), ' ')
		want[sc.Text()[:at]] = sc.Text()[at+1:]
	}
	for _, name := range slices.Sorted(maps.Keys(want)) {
		assert.Equal(t, want[name], sums[name], name)
	}
	assert.Len(t, sums, len(want))
}

// demoOutputs repairs the demo catalogue: each file without a rulebook, some with the
// stock-take, and those that have a rulebook with it.
func demoOutputs(t *testing.T, take func(string, Options)) {
	dir := t.TempDir()
	names := demo.Names()
	for _, name := range names {
		content, err := demo.Read(name)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), content, 0o666))
	}
	for _, name := range names {
		ext := filepath.Ext(name)
		if ext == ".toml" {
			continue
		}
		path := filepath.Join(dir, name)
		for _, yes := range []bool{false, true} {
			opt := fixed(path, filepath.Join(t.TempDir(), "out"))
			opt.Temp = t.TempDir()
			if yes {
				opt.Trust = []string{filepath.Join(dir, "stock-take.xlsx")}
				opt.Said = everyYes()
				opt.As = []string{"tsv", "jsonl"}
			}
			take(fmt.Sprintf("%s %t", name, yes), opt)
		}
		book, err := sections.Load(strings.TrimSuffix(path, ext) + ".toml")
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		require.NoError(t, err)
		opt := fixed(path, filepath.Join(t.TempDir(), "out"))
		opt.Temp, opt.Book = t.TempDir(), *book
		take(name+" rulebook", opt)
	}
}

// everyYes answers every question that there is with yes.
func everyYes() (yes catalogue.Decisions) {
	for _, c := range catalogue.Codes() {
		if c.Entry().Ask != "" {
			yes = append(yes, catalogue.Decision{Finding: c})
		}
	}
	return yes
}
