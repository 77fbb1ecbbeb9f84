package cli

import (
	"encoding/json"
	"fmt"
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
	c := zetanum(t, dir, "links", "list.csv", "-allow-local")
	require.Equal(t, exitOK, c.status, c.stderr+c.stdout)
	assert.Contains(t, c.stdout, fmt.Sprintf("%d are known from an earlier run", known))
	again := 0
	for i := range 400 {
		asked := h.Asked(fmt.Sprintf("/p/%d-8x8.png", i))
		assert.NotZero(t, asked)
		again += asked - 1
	}
	assert.LessOrEqual(t, again, 2, "those that were being opened when it was killed")
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, entries, 2, "the list, and the folder")
	assert.Equal(t, 401, strings.Count(readFile(t, filepath.Join(dir, "list.links", "links.csv")), "\n"))
}
