// Package fetch brings a file from an address of the web to the disk:
//
//	file, err := fetch.Fetcher{}.Get(ctx, "https://files.example/prices.csv", dir)
//
// It follows redirects, waits only so long, and takes only so much. What comes back is
// taken only if the server says that all is well. An address may come from somebody
// else's file: so nothing is asked of this machine and its own network unless that is
// allowed, and no server is told from where one was sent to it.
package fetch

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net"
	"net/http"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"zetanum/core/folder"
	"zetanum/core/network"
)

// The limits.
const (
	// MostBytes is how large a file may be, Most how long it may take.
	MostBytes = 4 << 30
	Most      = time.Hour
	// Connect is how long a server may take to answer, Pause how long it may send
	// nothing.
	Connect = 30 * time.Second
	Pause   = 60 * time.Second
)

// What can go wrong; the errors that wrap these say more.
var (
	ErrAddress = errors.New("this is no address of a file on the web")
	ErrAnswer  = errors.New("the server does not give the file")
	ErrLarge   = fmt.Errorf("the file has more than %d gigabytes", MostBytes>>30)
	ErrSilent  = errors.New("the server has stopped sending")
	ErrSlow    = errors.New("the file takes too long to come")
	ErrLocal   = network.ErrLocal
)

// Prefix begins the names of files that have been fetched.
const Prefix = "fetched-"

// A File is a file that has been fetched.
type File struct {
	Path    string    // where it is now
	Name    string    // as the server or the address calls it
	Address string    // from which it came, without a password or key
	Changed time.Time // when it changed last, if the server says so
}

// IsAddress reports whether the name of a file is an address of the web.
func IsAddress(name string) bool {
	for _, scheme := range []string{"http://", "https://"} {
		if len(name) > len(scheme) && strings.EqualFold(name[:len(scheme)], scheme) {
			return true
		}
	}
	return false
}

// NameOf returns the name that an address gives its file.
func NameOf(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return safe("")
	}
	return safe(path.Base(u.Path))
}

// shown returns an address as it may be shown: without a password, and without what
// stands behind a question mark, which often is a key.
func shown(u *url.URL) string {
	open := *u
	open.RawQuery, open.ForceQuery, open.Fragment = "", false, ""
	if u.RawQuery != "" {
		return open.Redacted() + "?…"
	}
	return open.Redacted()
}

// safe returns a name that any system takes for a file of its own folder.
func safe(name string) string {
	name = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '-'
		}
		return r
	}, name)
	if name = strings.Trim(name, ". "); name == "" || name == "-" {
		return "file"
	}
	if folder.IsDevice(name) {
		name = "file-" + name
	}
	if r := []rune(name); len(r) > 100 {
		name = string(r[len(r)-100:]) // with its ending
	}
	return name
}

// A Fetcher fetches files. Its zero value takes them from the open web only.
type Fetcher struct {
	// Local says that files may come from this machine and its own network, too.
	Local bool
	// Total is how long a file may take; 0 is [Most].
	Total time.Duration
}

// client returns what asks servers, for one file.
func (f Fetcher) client() *http.Client {
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.ResponseHeaderTimeout = Connect
	transport.TLSHandshakeTimeout = Connect
	if dialer := (&net.Dialer{Timeout: Connect}); f.Local {
		transport.DialContext = dialer.DialContext
	} else {
		network.Guard(transport, dialer)
	}
	return &http.Client{Transport: transport, CheckRedirect: func(next *http.Request, before []*http.Request) error {
		next.Header.Del("Referer") // which may hold a key
		if next.URL.Scheme != "https" && before[0].URL.Scheme == "https" {
			next.Header.Del("Authorization")
		}
		if len(before) == mostRedirects {
			return fmt.Errorf("it leads on to another address more than %d times (a redirect)", mostRedirects)
		}
		return nil
	}}
}

const mostRedirects = 10

// Get fetches the file at an address into a folder, under its name with [Prefix] before
// it.
func (f Fetcher) Get(ctx context.Context, address, dir string) (file *File, err error) {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" {
		return nil, fmt.Errorf("%s: %w. It is written so: https://files.example/prices.csv", address, ErrAddress)
	}
	shown := shown(u)
	ctx, done := context.WithTimeoutCause(ctx, cmp.Or(f.Total, Most), ErrSlow)
	defer done()
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, u.String(), nil)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", shown, ErrAddress)
	}
	request.Header.Set("User-Agent", "zetanum")
	client := f.client()
	defer client.CloseIdleConnections()
	answer, err := client.Do(request)
	switch {
	case errors.Is(err, ErrLocal):
		return nil, fmt.Errorf("%s: %w%s. If you know it and trust it, say so with the setting ‹allow-local›", shown, ErrLocal, leads(err, u))
	case err != nil && errors.Is(context.Cause(ctx), ErrSlow):
		return nil, fmt.Errorf("%s: %w. Try again later, or save the file by hand", shown, ErrSlow)
	case err != nil:
		var wrapped *url.Error
		if errors.As(err, &wrapped) {
			err = wrapped.Err // whose message does not show the address again
		}
		return nil, fmt.Errorf("%s: it cannot be fetched: %w. Check the address and the connection, or save the file by hand and name it",
			shown, err)
	}
	defer answer.Body.Close()
	switch code := answer.StatusCode; {
	case code == http.StatusUnauthorized || code == http.StatusForbidden:
		return nil, fmt.Errorf("%s: %w: %s. It wants a login; put it into the address, https://NAME:PASSWORD@…, or save the file by hand",
			shown, ErrAnswer, answer.Status)
	case code == http.StatusNotFound || code == http.StatusGone:
		return nil, fmt.Errorf("%s: %w: %s. Ask for the new address", shown, ErrAnswer, answer.Status)
	case code != http.StatusOK:
		return nil, fmt.Errorf("%s: %w: %s. Try again later, or save the file by hand", shown, ErrAnswer, answer.Status)
	case answer.ContentLength > MostBytes:
		return nil, fmt.Errorf("%s: %w", shown, ErrLarge)
	}
	file = &File{Name: nameFrom(answer), Address: shown}
	if file.Changed, err = http.ParseTime(answer.Header.Get("Last-Modified")); err != nil {
		file.Changed = time.Time{}
	}
	file.Path = filepath.Join(dir, Prefix+file.Name)
	return file, file.save(ctx, answer.Body, shown, cancel)
}

// leads says to where a refused address has led, if that is not itself.
func leads(err error, from *url.URL) string {
	var to *network.LocalError
	if !errors.As(err, &to) || to.Host == from.Hostname() {
		return ""
	}
	return fmt.Sprintf(": it leads on to %s, which is within it", to.Host)
}

// nameFrom returns the name that an answer gives its file: what the server says (RFC
// 6266), or that of the address from which it came in the end.
func nameFrom(answer *http.Response) string {
	if _, said, err := mime.ParseMediaType(answer.Header.Get("Content-Disposition")); err == nil && said["filename"] != "" {
		return safe(path.Base(strings.ReplaceAll(said["filename"], `\`, "/")))
	}
	return NameOf(answer.Request.URL.String())
}

// save writes down what comes.
func (f *File) save(ctx context.Context, body io.Reader, shown string, cancel context.CancelCauseFunc) (err error) {
	out, err := os.Create(f.Path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, out.Close()) }()
	timer := time.AfterFunc(Pause, func() { cancel(ErrSilent) })
	defer timer.Stop()
	in := io.TeeReader(io.LimitReader(body, MostBytes+1), writer(func([]byte) { timer.Reset(Pause) }))
	n, err := io.Copy(out, in)
	switch cause := context.Cause(ctx); {
	case err != nil && (errors.Is(cause, ErrSilent) || errors.Is(cause, ErrSlow)):
		return fmt.Errorf("%s: %w (%d bytes are there). Try again later, or save the file by hand", shown, cause, n)
	case errors.Is(err, io.ErrUnexpectedEOF):
		return fmt.Errorf("%s: the connection broke before the whole file was there (%d bytes). Try again", shown, n)
	case err != nil:
		return fmt.Errorf("%s: it cannot be fetched: %w", shown, err)
	case n > MostBytes:
		return fmt.Errorf("%s: %w", shown, ErrLarge)
	}
	return nil
}

type writer func([]byte)

func (w writer) Write(b []byte) (int, error) { w(b); return len(b), nil }
