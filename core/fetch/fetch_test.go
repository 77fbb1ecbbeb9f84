package fetch

import (
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/network"
)

// here takes files from the servers that the tests start.
var here = Fetcher{Local: true}

// TestGet: a file comes with its name and its time, and what is none is refused with
// words that do not show a password.
func TestGet(t *testing.T) {
	changed := time.Date(2026, 11, 2, 3, 4, 5, 0, time.UTC)
	mux := http.NewServeMux()
	file := func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Last-Modified", changed.Format(http.TimeFormat))
		w.Write([]byte("SKU,Title\nA,x\n"))
	}
	mux.HandleFunc("/lists/prices.csv", file)
	mux.HandleFunc("/get", func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Disposition", `attachment; filename="..\\..\\new: list.csv"`)
		file(w, r)
	})
	mux.HandleFunc("/moved", func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "/lists/prices.csv", http.StatusFound)
	})
	mux.HandleFunc("/round", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/round", http.StatusFound) })
	mux.HandleFunc("/private", func(w http.ResponseWriter, r *http.Request) {
		if name, word, _ := r.BasicAuth(); name != "ada" || word != "secret" {
			w.WriteHeader(http.StatusUnauthorized)
			return
		}
		file(w, r)
	})
	mux.HandleFunc("/broken", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Length", "1000")
		w.Write([]byte("SKU"))
	})
	mux.HandleFunc("/huge", func(w http.ResponseWriter, _ *http.Request) { w.Header().Set("Content-Length", "9000000000") })
	mux.HandleFunc("/busy", func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusServiceUnavailable) })
	server := httptest.NewServer(mux)
	defer server.Close()
	for at, name := range map[string]string{"/lists/prices.csv": "prices.csv", "/lists/prices.csv?key=1": "prices.csv",
		"/moved": "prices.csv", "/get": "new- list.csv"} {
		dir := t.TempDir()
		f, err := here.Get(t.Context(), server.URL+at, dir)
		require.NoError(t, err, at)
		assert.Equal(t, name, f.Name)
		assert.Equal(t, filepath.Join(dir, Prefix+name), f.Path)
		assert.True(t, f.Changed.Equal(changed))
		assert.NotContains(t, f.Address, "key")
		content, err := os.ReadFile(f.Path)
		require.NoError(t, err)
		assert.Equal(t, "SKU,Title\nA,x\n", string(content))
	}
	with := "http://ada:secret@" + server.Listener.Addr().String()
	f, err := here.Get(t.Context(), with+"/private", t.TempDir())
	require.NoError(t, err)
	assert.NotContains(t, f.Address, "secret")
	for at, want := range map[string]struct {
		is   error
		says string
	}{
		"/private": {ErrAnswer, "wants a login"}, "/none": {ErrAnswer, "404"}, "/busy": {ErrAnswer, "503"},
		"/broken": {nil, "broke before the whole file"}, "/huge": {ErrLarge, ""}, "/round": {nil, "redirect"},
	} {
		_, err := here.Get(t.Context(), "http://ada:wrong@"+server.Listener.Addr().String()+at+"?key=1", t.TempDir())
		require.Error(t, err, at)
		if want.is != nil {
			assert.ErrorIs(t, err, want.is, at)
		}
		assert.Contains(t, err.Error(), want.says)
		assert.NotContains(t, err.Error(), "wrong")
		assert.NotContains(t, err.Error(), "key")
	}
	server.Close()
	_, err = here.Get(t.Context(), server.URL+"/lists/prices.csv", t.TempDir())
	assert.ErrorContains(t, err, "it cannot be fetched")
	_, err = here.Get(t.Context(), "https://", t.TempDir())
	assert.ErrorIs(t, err, ErrAddress)
	for address, want := range map[string]string{"https://a.example/con.csv?a": "file-con.csv", "https://a.example/a/": "a",
		"https://a.example": "file", "https://a.example/%2e%2e%2fa:b.csv": "a-b.csv"} {
		assert.Equal(t, want, NameOf(address), address)
	}
	for name, want := range map[string]bool{"https://a.example/x": true, "HTTP://a.example": true, "http:": false, "prices.csv": false,
		"-": false} {
		assert.Equal(t, want, IsAddress(name), name)
	}
}

// TestLocal: nothing is asked of this machine and its network, neither by its address nor
// by a name for it nor by way of another server, unless that is allowed.
func TestLocal(t *testing.T) {
	asked := 0
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { asked++; w.Write([]byte("SKU\n")) }))
	defer server.Close()
	port := server.URL[strings.LastIndexByte(server.URL, ':'):]
	for _, host := range []string{"127.0.0.1", "localhost", "[::1]", "[::ffff:127.0.0.1]", "0.0.0.0", "169.254.169.254", "10.1.2.3", "[fe80::1]"} {
		_, err := Fetcher{}.Get(t.Context(), "http://"+host+port+"/a.csv", t.TempDir())
		assert.ErrorIs(t, err, ErrLocal, host)
		assert.ErrorContains(t, err, "allow-local", host)
	}
	assert.Zero(t, asked)
	// A server that is reached by a proxy, as it is here, leads on to one that must not be.
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "http://127.1"+port+"/a.csv", http.StatusFound)
	}))
	defer proxy.Close()
	address, err := url.Parse(proxy.URL)
	require.NoError(t, err)
	transport := &http.Transport{Proxy: http.ProxyURL(address)}
	network.Guard(transport, &net.Dialer{})
	_, err = (&http.Client{Transport: transport}).Get("http://files.example/a.csv")
	assert.ErrorIs(t, err, ErrLocal)
	assert.Equal(t, ": it leads on to 127.1, which is within it", leads(err, &url.URL{Host: "files.example"}))
	assert.Zero(t, asked)
}

// TestRedirects: no server learns from where it was led to, and a password goes to the
// host only for which it was given.
func TestRedirects(t *testing.T) {
	var got http.Header
	second := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { got = r.Header; w.Write([]byte("SKU\n")) }))
	defer second.Close()
	to := strings.Replace(second.URL, "127.0.0.1", "localhost", 1)
	first := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, to+"/a.csv", http.StatusFound) }))
	defer first.Close()
	_, err := here.Get(t.Context(), "http://ada:secret@"+first.Listener.Addr().String()+"/lists/prices.csv?key=1", t.TempDir())
	require.NoError(t, err)
	assert.Empty(t, got.Get("Referer"))
	assert.Empty(t, got.Get("Authorization"))
}

// TestTotal: a server that sends a byte now and then does not hold a run for ever.
func TestTotal(t *testing.T) {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		for r.Context().Err() == nil {
			w.Write([]byte("S"))
			w.(http.Flusher).Flush()
			time.Sleep(5 * time.Millisecond)
		}
	}))
	defer server.Close()
	_, err := Fetcher{Local: true, Total: 100 * time.Millisecond}.Get(t.Context(), server.URL+"/a.csv", t.TempDir())
	assert.ErrorIs(t, err, ErrSlow)
	assert.ErrorContains(t, err, "bytes are there")
}
