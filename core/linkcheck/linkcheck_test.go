package linkcheck

import (
	"context"
	"fmt"
	"io"
	"log"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/picture"
	"zetanum/demo/host"
)

// quickly are options for tests: on this machine, and without pauses.
func quickly() Options {
	return Options{Local: true, Headers: time.Minute, Total: 2 * time.Minute, Pause: time.Millisecond, MostPause: time.Millisecond}
}

func serve(t testing.TB) (*host.Host, string) {
	h := &host.Host{Late: 100 * time.Millisecond}
	s := httptest.NewServer(h)
	t.Cleanup(func() {
		s.CloseClientConnections()
		s.Close()
	})
	return h, s.URL
}

// TestCheck: every fault of the stand-in host ends, and is called by its name.
func TestCheck(t *testing.T) {
	_, at := serve(t)
	jpg := picture.Info{Type: picture.JPEG, Width: 640, Height: 480, Colours: picture.RGB}
	for _, c := range []struct {
		path string
		want Result
	}{
		{"/p/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg}},
		{"/p/chair-30x20.png", Result{State: Good, Status: 206, Served: "image/png", Info: picture.Info{Type: picture.PNG, Width: 30, Height: 20, Colours: picture.Palette}}},
		{"/moved/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg, Redirects: 1, Final: "/p/chair.jpg", Permanent: true}},
		{"/found/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg, Redirects: 1, Final: "/p/chair.jpg"}},
		{"/gone/a.jpg", Result{State: Dead, Reason: NotFound, Status: 410, Says: "This picture has been taken down", Served: "text/html"}},
		{"/missing/a.jpg", Result{State: Dead, Reason: NotFound, Status: 404, Says: "No such picture", Served: "text/html"}},
		{"/members/a.jpg", Result{State: Closed, Reason: Refused, Status: 403, Says: "hotlinking is not allowed", Served: "text/plain"}},
		{"/login/a.jpg", Result{State: Closed, Reason: Login, Status: 200, Says: "Sign in", Served: "text/html", Redirects: 1, Final: "/login/form"}},
		{"/view/chair", Result{State: Dead, Reason: Page, Status: 200, Says: "Shared: chair", Served: "text/html", Info: jpg, Instead: "/p/chair.jpg"}},
		{"/page/chair", Result{State: Dead, Reason: Page, Status: 200, Says: "Our catalogue", Served: "text/html"}},
		{"/busy/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg, Tries: 3}},
		{"/trouble/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg, Tries: 2}},
		{"/broken/chair.jpg", Result{State: Silent, Reason: Failing, Status: 500, Says: "Something went wrong", Served: "text/html", Tries: 3}},
		{"/nohead/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg}},
		{"/norange/chair.jpg", Result{State: Good, Status: 200, Served: "image/jpeg", Info: jpg}},
		{"/late/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: jpg}},
		{"/verylate/chair.jpg", Result{State: Good, Reason: TooFar, Status: 200, Served: "image/jpeg", Info: picture.Info{Type: picture.JPEG}}},
		{"/print/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: picture.Info{Type: picture.JPEG, Width: 640, Height: 480, Colours: picture.CMYK}}},
		{"/frames/chair.gif", Result{State: Good, Status: 206, Served: "image/gif", Info: picture.Info{Type: picture.GIF, Width: 640, Height: 480, Colours: picture.Palette, Animated: true}}},
		{"/named/chair.jpg", Result{State: Good, Status: 206, Served: "image/jpeg", Info: picture.Info{Type: picture.PNG, Width: 640, Height: 480, Colours: picture.Palette}}},
		{"/round/0", Result{State: Dead, Reason: Circle, Status: 302}},
		{"/slow/chair.jpg", Result{State: Silent, Reason: Slow, Status: 200, Served: "text/plain"}},
		{"/never/chair.jpg", Result{State: Silent, Reason: Slow, Says: "no answer in time"}},
		{"/endless/chair.jpg", Result{State: Good, Reason: TooFar, Status: 200, Served: "image/jpeg", Info: picture.Info{Type: picture.JPEG}}},
		{"/bomb/chair.png", Result{State: Dead, Reason: Other, Status: 200, Served: "image/png"}},
		{"/headers/chair.jpg", Result{State: Silent, Reason: Garbled, Says: "its headers are longer than 64 kB", Tries: 3}},
		{"/chunks/chair.jpg", Result{State: Silent, Reason: Garbled, Status: 200, Served: "image/jpeg", Says: "invalid byte in chunk length", Tries: 3}},
		{"/cut/chair.jpg", Result{State: Silent, Reason: NoAnswer, Status: 200, Served: "image/jpeg", Says: "it stops in between", Tries: 3}},
		{"/empty/chair.jpg", Result{State: Dead, Reason: Empty, Status: 200, Served: "image/jpeg"}},
		{"/words/chair.jpg", Result{State: Dead, Reason: Other, Status: 200, Served: "image/jpeg"}},
	} {
		t.Run(c.path, func(t *testing.T) {
			t.Parallel()
			o := quickly()
			if strings.HasPrefix(c.path, "/slow") || strings.HasPrefix(c.path, "/never") {
				o.Headers, o.Total = time.Second, 2*time.Second
			}
			checker := New(o)
			defer checker.Close()
			got, err := checker.Check(context.Background(), at+c.path, nil)
			require.NoError(t, err)
			got.Time, got.Size, got.Sum, got.Link = time.Time{}, 0, "", ""
			got.Final, got.Instead = strings.TrimPrefix(got.Final, at), strings.TrimPrefix(got.Instead, at)
			assert.Equal(t, c.want, got)
		})
	}
}

// TestLocal: nothing within one's own network is opened, by whatever way one gets there.
func TestLocal(t *testing.T) {
	h, at := serve(t)
	o := quickly()
	o.Local = false
	checker := New(o)
	defer checker.Close()
	_, port, _ := strings.Cut(strings.TrimPrefix(at, "http://"), ":")
	for _, link := range []string{at + "/p/a.jpg", "http://localhost:" + port + "/p/a.jpg", "http://127.1:" + port + "/p/a.jpg", "http://[::ffff:127.0.0.1]:" + port + "/p/a.jpg",
		"http://169.254.169.254/latest/", "http://0x7f000001:" + port + "/p/a.jpg"} {
		got, err := checker.Check(context.Background(), link, nil)
		require.NoError(t, err)
		assert.Equal(t, Local, got.Reason, "%s: %+v", link, got)
	}
	assert.Zero(t, h.Asked("/p/a.jpg"))

	checker = New(quickly()) // which may go to this machine, and then there is no further wall
	got, err := checker.Check(context.Background(), "file:///etc/passwd", nil)
	require.NoError(t, err)
	assert.Equal(t, NoAddress, got.Reason)
}

// TestAsks: what servers are told and asked for.
func TestAsks(t *testing.T) {
	var got http.Header
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		got = r.Header
		http.SetCookie(w, &http.Cookie{Name: "a", Value: "b"})
		_, _ = w.Write(host.Draw("a.png"))
	}))
	defer s.Close()
	checker := New(quickly())
	for range 2 {
		_, err := checker.Check(context.Background(), strings.Replace(s.URL, "http://", "http://anna:secret@", 1)+"/a.png", nil)
		require.NoError(t, err)
		assert.Contains(t, got.Get("User-Agent"), "zetanum")
		assert.Equal(t, "bytes=0-65535", got.Get("Range"))
		assert.Empty(t, got.Get("Authorization"))
		assert.Empty(t, got.Get("Cookie"))
		assert.Empty(t, got.Get("Referer"))
	}
}

// TestWhole: read to its end, a picture of one colour is seen, and the same picture under two links.
func TestWhole(t *testing.T) {
	_, at := serve(t)
	o := quickly()
	o.Whole = true
	kept := map[string]int{}
	o.Keep = func(r *Result, content []byte) error { kept[r.Link] = len(content); return nil }
	checker := New(o)
	sums := map[string]string{}
	for path, oneHue := range map[string]bool{"/plain/a.png": true, "/p/a.png": false, "/same/1.jpg": false, "/same/2.jpg": false} {
		got, err := checker.Check(context.Background(), at+path, nil)
		require.NoError(t, err)
		assert.Equal(t, Good, got.State, "%+v", got)
		assert.Equal(t, oneHue, got.OneHue, path)
		assert.Equal(t, int(got.Size), kept[at+path])
		sums[path] = got.Sum
	}
	assert.Equal(t, sums["/same/1.jpg"], sums["/same/2.jpg"])
	assert.NotEqual(t, sums["/p/a.png"], sums["/same/2.jpg"])
}

// TestQuick: only asked whether something is there, a host that does not say is asked for the picture.
func TestQuick(t *testing.T) {
	h, at := serve(t)
	o := quickly()
	o.Quick = true
	checker := New(o)
	for path, want := range map[string]Reason{"/p/q.jpg": "", "/nohead/q.jpg": "", "/missing/q.jpg": NotFound, "/page/q": Page} {
		got, err := checker.Check(context.Background(), at+path, nil)
		require.NoError(t, err)
		assert.Equal(t, want, got.Reason, "%s: %+v", path, got)
	}
	assert.Equal(t, []int{1, 2}, []int{h.Asked("/p/q.jpg"), h.Asked("/nohead/q.jpg")})
}

// TestCertificate: a host whose certificate is not good is named so.
func TestCertificate(t *testing.T) {
	s := httptest.NewUnstartedServer(&host.Host{})
	s.Config.ErrorLog = log.New(io.Discard, "", 0)
	s.StartTLS()
	defer s.Close()
	got, err := New(quickly()).Check(context.Background(), s.URL+"/p/a.jpg", nil)
	require.NoError(t, err)
	assert.Equal(t, Untrusted, got.Reason)
	assert.NotEmpty(t, got.Says)
	got, err = New(quickly()).Check(context.Background(), strings.Replace(s.URL, "https", "http", 1)+"/p/a.jpg", nil)
	require.NoError(t, err)
	assert.NotEqual(t, Good, got.State)
}

// TestMemory: a packed answer of gigabytes is left when enough of it has come.
func TestMemory(t *testing.T) {
	_, at := serve(t)
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	checker := New(quickly())
	for range 5 {
		_, err := checker.Check(context.Background(), at+"/bomb/a.png", nil)
		require.NoError(t, err)
	}
	runtime.ReadMemStats(&after)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(64<<20))
}

// TestAll: many links are opened once each, no host is asked for more at once than it may be, and one that asks for a pause gets it.
func TestAll(t *testing.T) {
	var mu sync.Mutex
	active, most := 0, 0
	h := &host.Host{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mu.Lock()
		active++
		most = max(most, active)
		mu.Unlock()
		h.ServeHTTP(w, r)
		mu.Lock()
		active--
		mu.Unlock()
	}))
	defer s.Close()
	var links []string
	for i := range 200 {
		links = append(links, fmt.Sprintf("%s/p/%d-8x8.png", s.URL, i))
	}
	links = append(links, s.URL+"/busy/1-8x8.png", s.URL+"/missing/x.jpg", "http://nowhere.invalid/a.jpg")
	seen := make(map[int]Reason)
	err := New(quickly()).All(context.Background(), links, Politeness{PerHost: 3, InAll: 9}, func(i int, r Result) error {
		assert.Equal(t, links[i], r.Link)
		assert.NotContains(t, seen, i)
		seen[i] = r.Reason
		return nil
	})
	require.NoError(t, err)
	assert.Len(t, seen, len(links))
	assert.LessOrEqual(t, most, 3)
	assert.Equal(t, []Reason{"", NotFound}, []Reason{seen[200], seen[201]})
	assert.NotEmpty(t, seen[202])

	stopped, cancel := context.WithCancel(context.Background())
	n := 0
	err = New(quickly()).All(stopped, links, UsualPoliteness, func(int, Result) error {
		if n++; n == 20 {
			cancel()
		}
		return nil
	})
	assert.ErrorIs(t, err, context.Canceled)
	assert.Less(t, n, 50)
}

// TestJournal: what was opened is known again, and a line that was cut off is not.
func TestJournal(t *testing.T) {
	path := filepath.Join(t.TempDir(), "journal")
	for n := range 3 {
		j, before, err := OpenJournal(path)
		require.NoError(t, err)
		assert.Len(t, before, n)
		require.NoError(t, j.Add(&Result{Link: fmt.Sprintf("https://cdn.shop.example/%d.jpg", n), State: Good, Time: time.Unix(int64(n), 0).UTC()}))
		_, err = j.file.WriteString(`{"link":"https://cdn.shop.ex`)
		require.NoError(t, err)
		require.NoError(t, j.Close())
	}
	j, before, err := OpenJournal(path)
	require.NoError(t, err)
	assert.Equal(t, "https://cdn.shop.example/2.jpg", before[2].Link)
	require.NoError(t, j.Remove())
	assert.NoFileExists(t, path)
}

func BenchmarkAll(b *testing.B) {
	_, at := serve(b)
	var links []string
	for i := range 1000 {
		links = append(links, fmt.Sprintf("%s/p/%d-40x30.jpg", at, i))
	}
	checker := New(quickly())
	for b.Loop() {
		_ = checker.All(context.Background(), links, Politeness{PerHost: 64, InAll: 64}, func(int, Result) error { return nil })
	}
	b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N), "ms/1000")
}
