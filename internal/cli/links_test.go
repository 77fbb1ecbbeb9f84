package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/demo/host"
)

// TestLinks: what the links of a file lead to, in words, in tables, and for programs.
func TestLinks(t *testing.T) {
	h := new(host.Host)
	server := httptest.NewServer(h)
	defer server.Close()
	dir := t.TempDir()
	list := strings.ReplaceAll("SKU,Title,Image\nA,Smoker,@/p/smoker.jpg\nB,Veil,\"@/moved/veil.jpg, @/p/veil.jpg\"\nC,Hive,@/missing/hive.jpg\n"+
		"D,Feeder,@/view/feeder\nE,Tool,@/members/tool.jpg\nF,Brush,@/p/brush-300x200.png\nG,Wax,@/print/wax.jpg\nH,Jar,@/same/1.jpg\nI,Lid,@/same/2.jpg\n"+
		"J,Box,box.jpg\nK,Smoker again,@/p/smoker.jpg\n", "@", server.URL)
	writeFile(t, filepath.Join(dir, "list.csv"), list)

	c := zetanum(t, dir, "links", "list.csv", "-allow-local")
	assert.Equal(t, exitHeld, c.status, c.stderr)
	for _, says := range []string{"list.csv  12 links in 11 rows, under Image", "1 is no address that could be opened", "3 of 10 different links lead to no picture.",
		"the host has nothing there", "the host refuses it", "1 in colours for print", "300 × 200", "3 rows with a link", "2 links in whose place", "1 picture to which several"} {
		assert.Contains(t, c.stdout, says)
	}
	in := filepath.Join(dir, "list.links")
	assert.Equal(t, strings.ReplaceAll("Row,SKU,Title,Column,Image,Link,Result,Reason,Said,Instead\n4,C,Hive,Image,1,@/missing/hive.jpg,dead,not-found,No such picture,\n"+
		"5,D,Feeder,Image,1,@/view/feeder,dead,page,Shared: feeder,@/p/feeder.jpg\n6,E,Tool,Image,1,@/members/tool.jpg,closed,refused,hotlinking is not allowed,\n", "@", server.URL),
		readFile(t, filepath.Join(in, "dead-links.csv")))
	assert.Contains(t, readFile(t, filepath.Join(in, "moved-links.csv")), server.URL+"/moved/veil.jpg,"+server.URL+"/p/veil.jpg,")
	assert.Equal(t, 1, h.Asked("/p/smoker.jpg"), "each link is opened once")
	assert.Equal(t, list, readFile(t, filepath.Join(dir, "list.csv")))
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, entries, 2, "the list, and the folder")

	c = zetanum(t, dir, "links", "list.csv", "-allow-local", "-fresh", "1d", "-json")
	assert.Equal(t, exitHeld, c.status, c.stderr)
	var got map[string]any
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &got), c.stdout)
	assert.EqualValues(t, []any{10.0, 10.0, 3.0}, []any{got["links"], got["known"], got["not_good"]})
	assert.Equal(t, 1, h.Asked("/p/smoker.jpg"), "and not again")

	c = zetanum(t, dir, "links", "list.csv")
	assert.Equal(t, exitHeld, c.status, c.stderr)
	assert.Contains(t, c.stdout, "10 of 10 different links lead to no picture.")
	assert.Contains(t, c.stdout, "it leads into your own network")

	c = zetanum(t, dir, "links", "list.csv", "-allow-local", "-quick", "-out", "elsewhere")
	assert.Contains(t, c.stdout, "not looked at")
	assert.FileExists(t, filepath.Join(dir, "elsewhere", "links.csv"))
	c = zetanum(t, dir, "links", "list.csv", "-allow-local", "-fresh", "1d", "-out", "elsewhere")
	assert.Contains(t, c.stdout, "3 are known from an earlier run", "of those that were only asked for nobody knows how large they are")
	assert.Contains(t, c.stdout, "300 × 200")

	writeFile(t, filepath.Join(dir, "good.csv"), strings.ReplaceAll("SKU,Title,Image\nA,Smoker,@/p/smoker.jpg\n", "@", server.URL))
	c = zetanum(t, dir, "links", "good.csv", "-allow-local")
	assert.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "The link leads to a picture.")

	writeFile(t, filepath.Join(dir, "none.csv"), "SKU,Title\nA,Smoker\n")
	for args, says := range map[string]string{"none.csv": "no column of it has links to images; say which with -field", "list.csv -fresh soon": "-fresh soon", "list.csv -whole -quick": "leave one out",
		"": "name a file", "list.csv -per-host -1": "-per-host", "list.csv none.csv -out x": "-out", "list.csv -patience 0": "-patience"} {
		c := zetanum(t, dir, append([]string{"links"}, strings.Fields(args)...)...)
		assert.Contains(t, []int{exitUsage, exitFailed}, c.status, args)
		assert.Contains(t, c.stderr, says, args)
	}
}

// TestLinksRegister: what a link has led to is known for other lists, too, through the register.
func TestLinksRegister(t *testing.T) {
	h := new(host.Host)
	server := httptest.NewServer(h)
	defer server.Close()
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "one.csv"), strings.ReplaceAll("SKU,Title,Image\nA,Smoker,@/p/smoker.jpg\nB,Hive,@/missing/hive.jpg\n", "@", server.URL))
	writeFile(t, filepath.Join(dir, "two.csv"), strings.ReplaceAll("SKU,Title,Image\nX,Smoker,@/p/smoker.jpg\nY,Cup,@/p/cup.jpg\nZ,Hive,@/missing/hive.jpg\n", "@", server.URL))
	c := zetanum(t, dir, "links", "one.csv", "-allow-local", "-register", "shop.register")
	require.Equal(t, exitHeld, c.status, c.stderr)
	c = zetanum(t, dir, "links", "two.csv", "-allow-local", "-register", "shop.register", "-fresh", "7d")
	require.Equal(t, exitHeld, c.status, c.stderr)
	assert.Contains(t, c.stdout, "2 are known from an earlier run")
	assert.Contains(t, readFile(t, filepath.Join(dir, "two.links", "dead-links.csv")), "No such picture", "with what the host said")
	assert.Equal(t, []int{1, 1, 1}, []int{h.Asked("/p/smoker.jpg"), h.Asked("/p/cup.jpg"), h.Asked("/missing/hive.jpg")})
	assert.Contains(t, zetanum(t, dir, "register", "list", "-register", "shop.register").stdout, "3 links to images opened")
	c = zetanum(t, dir, "links", "two.csv", "-allow-local", "-register", "two.csv", "-out", "x")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "this is no register")
}

// TestLinksSave: pictures are kept under names that say whose they are, each whole; nothing of somebody else is written over, and a second run
// asks only for what is not there.
func TestLinksSave(t *testing.T) {
	h := new(host.Host)
	server := httptest.NewServer(h)
	defer server.Close()
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), strings.ReplaceAll("Slug,SKU,Title,Image\na,A 1,Smoker,\"@/p/smoker.jpg, @/named/back.jpg\"\na,,,@/p/side.jpg\n"+
		"b,B/2,Veil,@/moved/veil.gif\nc,C,Hive,@/missing/hive.jpg\nd,D,Feeder,@/view/feeder\ne,E,Cup,@/p/smoker.jpg\n", "@", server.URL))
	files := func(in string) (names []string) {
		entries, err := os.ReadDir(filepath.Join(dir, in))
		require.NoError(t, err)
		for _, e := range entries {
			names = append(names, e.Name())
		}
		return names
	}
	args := []string{"links", "list.csv", "-allow-local", "-save", "kept", "-save-as", "{sku lower}-{number 2}", "-fresh", "1d"}
	c := zetanum(t, dir, args...)
	assert.Equal(t, exitHeld, c.status, c.stderr)
	assert.Contains(t, c.stdout, "4 pictures are kept in kept")
	want := []string{"a-1-01.jpg", "a-1-02.png", "a-1-03.jpg", "b-2-01.gif"}
	assert.Equal(t, want, files("kept"))
	sum := func(name string) string { return readFile(t, filepath.Join(dir, "kept", name)) }
	response, err := http.Get(server.URL + "/p/smoker.jpg")
	require.NoError(t, err)
	defer response.Body.Close()
	whole, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	assert.Equal(t, string(whole), sum("a-1-01.jpg"))
	assert.Contains(t, readFile(t, filepath.Join(dir, "list.links", "links.csv")), ",a-1-02.png\n")

	asked := h.Asked("/p/side.jpg")
	require.NoError(t, os.Remove(filepath.Join(dir, "kept", "a-1-03.jpg")))
	c = zetanum(t, dir, args...)
	assert.Contains(t, c.stdout, "5 are known from an earlier run")
	assert.Equal(t, asked+1, h.Asked("/p/side.jpg"))
	assert.Equal(t, want, files("kept"))

	require.NoError(t, os.Mkdir(filepath.Join(dir, "mine"), 0o777))
	writeFile(t, filepath.Join(dir, "mine", "smoker.jpg"), "mine")
	c = zetanum(t, dir, "links", "list.csv", "-allow-local", "-save", "mine", "-out", "again")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "smoker.jpg: there is a file of this name already")
	assert.Contains(t, c.stderr, "-save")
	assert.Equal(t, "mine", readFile(t, filepath.Join(dir, "mine", "smoker.jpg")))

	for args, says := range map[string]string{"-save x -save-as {sku}": "{number}", "-save x -save-as {colour}-{number}": "{colour}", "-save x -quick": "leave one out", "-save-as {sku}{number}": "names no folder"} {
		c := zetanum(t, dir, append([]string{"links", "list.csv"}, strings.Fields(args)...)...)
		assert.Contains(t, []int{exitUsage, exitFailed}, c.status, args)
		assert.Contains(t, c.stderr, says, args)
		assert.NoDirExists(t, filepath.Join(dir, "x"))
	}
}

// TestLinksGoOn: a run that is killed goes on where it was, and leaves nothing behind.
func TestLinksGoOn(t *testing.T) {
	h := new(host.Host)
	var slow atomic.Bool
	slow.Store(true)
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if slow.Load() {
			time.Sleep(10 * time.Millisecond)
		}
		h.ServeHTTP(w, r)
	}))
	defer server.Close()
	dir := t.TempDir()
	var b strings.Builder
	b.WriteString("SKU,Title,Image\n")
	for i := range 400 {
		fmt.Fprintf(&b, "S%d,Thing %d,%s/p/%d-8x8.png\n", i, i, server.URL, i)
	}
	writeFile(t, filepath.Join(dir, "list.csv"), b.String())
	journal := filepath.Join(dir, "list.links-journal.jsonl")
	cmd := exec.Command(program, "links", "list.csv", "-allow-local", "-per-host", "2")
	cmd.Dir = dir
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		text, _ := os.ReadFile(journal)
		return strings.Count(string(text), "\n") > 40
	}, time.Minute, 5*time.Millisecond)
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	known := strings.Count(readFile(t, journal), "\n")
	assert.NoDirExists(t, filepath.Join(dir, "list.links"))

	slow.Store(false)
	register := filepath.Join(t.TempDir(), "shop.register")
	c := zetanum(t, dir, "links", "list.csv", "-allow-local", "-register", register)
	require.Equal(t, exitOK, c.status, c.stderr+c.stdout)
	assert.Contains(t, c.stdout, fmt.Sprintf("%d are known from an earlier run", known))
	again := 0
	for i := range 400 {
		asked := h.Asked(fmt.Sprintf("/p/%d-8x8.png", i))
		assert.NotZero(t, asked)
		again += asked - 1
	}
	assert.LessOrEqual(t, again, 2, "those that were being opened when it was killed")
	assert.Contains(t, zetanum(t, dir, "register", "list", "-register", register).stdout, "400 links to images opened", "also those that were opened before it was killed")
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, entries, 2, "the list, and the folder")
	assert.Equal(t, 401, strings.Count(readFile(t, filepath.Join(dir, "list.links", "links.csv")), "\n"))
}
