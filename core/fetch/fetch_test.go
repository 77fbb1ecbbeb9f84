package fetch

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

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
		f, err := Get(t.Context(), server.URL+at, dir)
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
	f, err := Get(t.Context(), with+"/private", t.TempDir())
	require.NoError(t, err)
	assert.NotContains(t, f.Address, "secret")
	for at, want := range map[string]struct {
		is   error
		says string
	}{
		"/private": {ErrAnswer, "wants a login"}, "/none": {ErrAnswer, "404"}, "/busy": {ErrAnswer, "503"},
		"/broken": {nil, "broke before the whole file"}, "/huge": {ErrLarge, ""}, "/round": {nil, "redirect"},
	} {
		_, err := Get(t.Context(), "http://ada:wrong@"+server.Listener.Addr().String()+at+"?key=1", t.TempDir())
		require.Error(t, err, at)
		if want.is != nil {
			assert.ErrorIs(t, err, want.is, at)
		}
		assert.Contains(t, err.Error(), want.says)
		assert.NotContains(t, err.Error(), "wrong")
		assert.NotContains(t, err.Error(), "key")
	}
	server.Close()
	_, err = Get(t.Context(), server.URL+"/lists/prices.csv", t.TempDir())
	assert.ErrorContains(t, err, "it cannot be fetched")
	_, err = Get(t.Context(), "https://", t.TempDir())
	assert.ErrorIs(t, err, ErrAddress)
	for name, want := range map[string]bool{"https://a.example/x": true, "HTTP://a.example": true, "http:": false, "prices.csv": false,
		"-": false} {
		assert.Equal(t, want, IsAddress(name), name)
	}
}
