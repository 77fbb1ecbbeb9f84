package linkcheck

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"image"
	"image/color"
	"io"
	"mime"
	"net"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	_ "image/gif"  // which are decoded
	_ "image/jpeg" // when they are read whole
	_ "image/png"

	_ "golang.org/x/image/bmp"
	_ "golang.org/x/image/tiff"
	_ "golang.org/x/image/webp"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/network"
	"zetanum/core/picture"
)

// How much of a picture is asked for at first, and in all, to see how large it is.
const (
	chunk    = 64 << 10
	mostRead = 1 << 20
)

// further is how much is asked for the second and the third time.
var further = [...]int64{256 << 10, mostRead - 320<<10}

// get asks for an address, and follows where it leads. The body of what comes is to be closed. If there is no answer, the reason why is taken
// down, and it returns nil.
func (c *Checker) get(ctx context.Context, a *answer, method string, address *url.URL, from, size int64) (*http.Response, *url.URL) {
	permanent, hops := true, 0
	for seen := map[string]bool{}; ; hops++ {
		if seen[address.String()] || hops > mostRedirects {
			a.failed(Circle, "")
			return nil, nil
		}
		seen[address.String()] = true
		request, err := http.NewRequestWithContext(ctx, method, address.String(), nil)
		if err != nil {
			a.failed(NoAddress, "")
			return nil, nil
		}
		request.Header.Set("User-Agent", c.UserAgent)
		request.Header.Set("Accept", "image/*,*/*;q=0.5")
		request.Header.Set("Accept-Encoding", "identity")
		if method == http.MethodGet && !c.Whole {
			request.Header.Set("Range", fmt.Sprintf("bytes=%d-%d", from, from+size-1))
		}
		answer, err := c.transport.RoundTrip(request)
		if err != nil {
			reason, says := why(ctx, err)
			a.failed(reason, says)
			return nil, nil
		}
		a.Status = answer.StatusCode
		next := answer.Header.Get("Location")
		if answer.StatusCode < 300 || answer.StatusCode > 399 || next == "" || answer.StatusCode == http.StatusNotModified {
			if hops > 0 && from == 0 {
				a.Redirects, a.Final, a.Permanent = hops, address.String(), permanent
			}
			return answer, address
		}
		answer.Body.Close()
		permanent = permanent && (answer.StatusCode == http.StatusMovedPermanently || answer.StatusCode == http.StatusPermanentRedirect)
		to, err := address.Parse(next)
		if err != nil || to.Scheme != "http" && to.Scheme != "https" || to.Host == "" {
			a.failed(NoAddress, "it leads on to "+next)
			return nil, nil
		}
		if !c.Local && network.IsLocalName(to.Hostname()) {
			a.failed(Local, "it leads on to "+to.Host)
			return nil, nil
		}
		to.User, to.Fragment = nil, ""
		address = to
	}
}

// why says why there is no answer.
func why(ctx context.Context, err error) (Reason, string) {
	var local *network.LocalError
	var dns *net.DNSError
	var unknown x509.UnknownAuthorityError
	var invalid x509.CertificateInvalidError
	var host x509.HostnameError
	var alert tls.AlertError
	var verification *tls.CertificateVerificationError
	var record tls.RecordHeaderError
	var timeout net.Error
	switch {
	case errors.As(err, &local):
		return Local, local.Host + " is at " + local.At
	case errors.Is(context.Cause(ctx), errSlow):
		return Slow, ""
	case errors.As(err, &dns):
		if dns.IsNotFound {
			return NoHost, dns.Name
		}
		return NoAnswer, "the name of the host cannot be looked up now"
	case errors.As(err, &unknown), errors.As(err, &invalid), errors.As(err, &host), errors.As(err, &verification):
		return Untrusted, tidy(err)
	case errors.As(err, &alert), errors.As(err, &record):
		return Untrusted, "the host does not speak TLS as it should: " + tidy(err)
	case errors.As(err, &timeout) && timeout.Timeout():
		return Slow, "no answer in time"
	case strings.Contains(err.Error(), "server response headers exceeded"):
		return Garbled, "its headers are longer than 64 kB"
	case strings.Contains(err.Error(), "malformed HTTP"), strings.Contains(err.Error(), "malformed chunked"), strings.Contains(err.Error(), "invalid byte in chunk"):
		return Garbled, tidy(err)
	}
	return NoAnswer, tidy(err)
}

// tidy returns the last part of an error, which says what happened.
func tidy(err error) string {
	s := err.Error()
	for _, prefix := range []string{"tls: failed to verify certificate: ", "x509: ", "net/http: ", "http: "} {
		if at := strings.LastIndex(s, prefix); at >= 0 {
			s = s[at+len(prefix):]
		}
	}
	return s
}

// quick asks only whether something is there.
func (c *Checker) quick(ctx context.Context, a *answer, address *url.URL) {
	response, _ := c.get(ctx, a, http.MethodHead, address, 0, 0)
	if response == nil {
		return
	}
	response.Body.Close()
	kind := typeOf(response)
	if response.StatusCode != http.StatusOK || kind == "" || kind == "application/octet-stream" {
		a.Result = Result{Link: a.Link, State: Good} // it does not give HEAD, or says nothing
		c.open(ctx, a, address)
		return
	}
	a.Served, a.Size = kind, max(0, response.ContentLength)
	if !strings.HasPrefix(kind, "image/") {
		a.failed(Other, "")
		if strings.HasPrefix(kind, "text/html") {
			a.failed(Page, "")
		}
	}
}

func typeOf(r *http.Response) string {
	kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type"))
	return kind
}

// open asks for the beginning of what is at an address, and looks at it.
func (c *Checker) open(ctx context.Context, a *answer, address *url.URL) {
	response, at := c.get(ctx, a, http.MethodGet, address, 0, chunk)
	if response == nil {
		return
	}
	defer response.Body.Close()
	a.Served = typeOf(response)
	body := c.body(a, response)
	if body == nil {
		return
	}
	if !c.good(a, response, body) {
		return
	}
	f := &far{c: c, ctx: ctx, a: a, address: at, body: body, total: totalOf(response), parts: response.StatusCode == http.StatusPartialContent}
	a.Size = max(0, f.total)
	if c.Whole {
		c.whole(ctx, a, f)
		return
	}
	first := make([]byte, chunk)
	n, err := f.ReadAt(first, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		reason, says := f.why(err)
		a.failed(reason, says)
		return
	}
	first = first[:n]
	if f.total < 0 && n < chunk {
		a.Size = int64(n)
	}
	c.look(ctx, a, f, first)
	a.Sum = sum(first, a.Size)
}

// sum returns the sum of what was read, and of how much there is.
func sum(b []byte, size int64) string {
	h := xxhash.New()
	_, _ = h.Write(b)
	_, _ = h.WriteString(strconv.FormatInt(size, 10))
	return fmt.Sprintf("%016x", h.Sum64())
}

// body returns what comes, decoded where the server has packed it although nobody asked for that. It returns nil if it cannot be read.
func (c *Checker) body(a *answer, r *http.Response) io.Reader {
	switch packed := strings.ToLower(strings.TrimSpace(r.Header.Get("Content-Encoding"))); packed {
	case "", "identity":
		return r.Body
	case "gzip", "x-gzip":
		unpacked, err := gzip.NewReader(r.Body)
		if err != nil {
			a.failed(Garbled, "it is said to be packed, and is not")
			return nil
		}
		r.ContentLength = -1
		return unpacked
	default:
		a.failed(Garbled, "it is packed as "+packed)
		return nil
	}
}

// good reports whether an answer has what was asked for; otherwise it takes down why not.
func (c *Checker) good(a *answer, r *http.Response, body io.Reader) bool {
	code := r.StatusCode
	if code == http.StatusOK || code == http.StatusPartialContent {
		return true
	}
	said, _ := io.ReadAll(io.LimitReader(body, 4<<10))
	says := ""
	if kind := typeOf(r); strings.HasPrefix(kind, "text/html") {
		says = titleOf(said)
	} else if strings.HasPrefix(kind, "text/") || strings.HasSuffix(kind, "json") {
		says = string(said)
	}
	if says = oneLine(says); says == "" {
		says = strconv.Itoa(code) + " " + http.StatusText(code)
	}
	switch {
	case code == http.StatusRequestedRangeNotSatisfiable:
		a.failed(Empty, "")
	case code == http.StatusNotFound || code == http.StatusGone:
		a.failed(NotFound, says)
	case code == http.StatusUnauthorized || code == http.StatusForbidden || code == http.StatusProxyAuthRequired || code == http.StatusUnavailableForLegalReasons:
		a.failed(Refused, says)
	case code == http.StatusTooManyRequests:
		a.failed(Busy, says)
	case code >= 500:
		a.failed(Failing, says)
	default:
		a.failed(NotFound, says)
	}
	if pause := r.Header.Get("Retry-After"); pause != "" {
		if seconds, err := strconv.Atoi(strings.TrimSpace(pause)); err == nil && seconds >= 0 {
			a.after = time.Duration(seconds) * time.Second
		} else if at, err := http.ParseTime(pause); err == nil {
			a.after = max(0, at.Sub(c.Now()))
		}
	}
	return false
}

// totalOf returns how many bytes there are, -1 if the server does not say.
func totalOf(r *http.Response) int64 {
	if r.StatusCode != http.StatusPartialContent {
		return r.ContentLength
	}
	_, total, _ := strings.Cut(r.Header.Get("Content-Range"), "/")
	n, err := strconv.ParseInt(strings.TrimSpace(total), 10, 64)
	if err != nil || n < 0 {
		return -1
	}
	return n
}

// look looks at what has come.
func (c *Checker) look(ctx context.Context, a *answer, f *far, first []byte) {
	if len(first) == 0 {
		a.failed(Empty, "")
		return
	}
	info, err := picture.Look(f, f.total)
	a.Info = info
	switch {
	case err == nil:
	case errors.Is(err, picture.ErrNone):
		c.instead(ctx, a, f, first)
	case errors.Is(err, picture.ErrBroken):
		a.failed(Broken, "")
	case errors.Is(err, errTooFar):
		a.failed(TooFar, "")
	default:
		reason, says := f.why(err)
		a.failed(reason, says)
	}
}

// far is what is at an address, of which parts are read.
type far struct {
	c       *Checker
	ctx     context.Context
	a       *answer
	address *url.URL
	body    io.Reader // of the first answer, read as far as len(have)
	have    []byte    // its beginning
	ended   bool      // nothing is behind it
	parts   bool      // the server gives parts
	other   []byte    // another part, which begins at otherAt
	otherAt int64
	total   int64
	ranges  int // how many other parts have been asked for
}

// errTooFar says that more would have to be read than is worth it.
var errTooFar = errors.New("it stands too far back")

// Far says that an error is not one of the picture.
type farError struct{ error }

func (farError) Far() bool       { return true }
func (e farError) Unwrap() error { return e.error }

func (f *far) ReadAt(b []byte, at int64) (int, error) {
	if at+int64(len(b)) > int64(len(f.have)) && !f.ended && (!f.parts || at < chunk) {
		if err := f.fill(at + int64(len(b))); err != nil {
			return 0, farError{err}
		}
	}
	if at < int64(len(f.have)) {
		if n := copy(b, f.have[at:]); n == len(b) || f.ended || at+int64(n) >= f.total && f.total >= 0 {
			return n, eof(n, b)
		}
	} else if f.ended {
		return 0, io.EOF
	}
	if at < f.otherAt || at+int64(len(b)) > f.otherAt+int64(len(f.other)) {
		if err := f.fetch(at); err != nil {
			return 0, farError{err}
		}
	}
	if at-f.otherAt > int64(len(f.other)) {
		return 0, io.EOF
	}
	n := copy(b, f.other[at-f.otherAt:])
	return n, eof(n, b)
}

func eof(n int, b []byte) error {
	if n < len(b) {
		return io.EOF
	}
	return nil
}

// fill reads on in the first answer, up to a number of bytes.
func (f *far) fill(upTo int64) error {
	most := int64(mostRead)
	if f.parts {
		most = chunk
	}
	if upTo > most {
		if !f.parts {
			return errTooFar
		}
		upTo = most
	}
	upTo = max(upTo, min(chunk, most))
	b := make([]byte, upTo-int64(len(f.have)))
	n, err := io.ReadFull(f.body, b)
	f.have = append(f.have, b[:n]...)
	switch {
	case err == nil:
		return nil
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF) && (f.parts || f.total < 0 || int64(len(f.have)) == f.total):
		f.ended = !f.parts || f.total < 0 || int64(len(f.have)) >= f.total
		if errors.Is(err, io.ErrUnexpectedEOF) && f.total < 0 && !f.parts {
			f.ended = true
		}
		return nil
	}
	return err
}

// fetch asks for another part.
func (f *far) fetch(at int64) error {
	if f.ranges == len(further) || !f.parts {
		return errTooFar
	}
	size := further[f.ranges]
	f.ranges++
	var a answer
	response, _ := f.c.get(f.ctx, &a, http.MethodGet, f.address, at, size)
	if response == nil {
		return fmt.Errorf("%s", a.Reason)
	}
	defer response.Body.Close()
	if response.StatusCode != http.StatusPartialContent {
		return errTooFar
	}
	b, err := io.ReadAll(io.LimitReader(response.Body, size))
	if err != nil && len(b) == 0 {
		return err
	}
	f.other, f.otherAt = b, at
	return nil
}

// why says why reading has failed.
func (f *far) why(err error) (Reason, string) {
	if errors.Is(err, gzip.ErrHeader) || errors.Is(err, gzip.ErrChecksum) {
		return Garbled, "it is packed, and cannot be unpacked"
	}
	if errors.Is(err, io.ErrUnexpectedEOF) {
		return NoAnswer, "it stops in between"
	}
	return why(f.ctx, err)
}

// whole reads a picture to its end.
func (c *Checker) whole(ctx context.Context, a *answer, f *far) {
	content, err := io.ReadAll(io.LimitReader(f.body, c.MostBytes+1))
	switch {
	case err != nil:
		reason, says := f.why(err)
		a.failed(reason, says)
		return
	case int64(len(content)) > c.MostBytes:
		a.failed(TooFar, fmt.Sprintf("it has more than %d MB", c.MostBytes>>20))
		content = content[:c.MostBytes]
	}
	a.Size, a.Whole = int64(len(content)), true
	f.have, f.ended, f.total = content, true, a.Size
	c.look(ctx, a, f, content[:min(len(content), chunk)])
	a.Sum = sum(content, a.Size)
	if a.State == Good && a.Reason == "" {
		a.OneHue = oneColour(content, a.Info)
		if c.Keep != nil {
			if err := c.Keep(&a.Result, content); err != nil {
				a.failed(NoAnswer, err.Error())
			}
		}
	}
}

// mostDecoded is how many pixels a picture has at most that is looked at whole.
const mostDecoded = 40 << 20

// oneColour reports whether a picture is the same colour all over.
func oneColour(content []byte, info picture.Info) bool {
	if info.Width*info.Height > mostDecoded {
		return false
	}
	img, _, err := image.Decode(bytes.NewReader(content))
	if err != nil {
		return false
	}
	b := img.Bounds()
	first := color.NRGBA64Model.Convert(img.At(b.Min.X, b.Min.Y)).(color.NRGBA64)
	near := func(a, b uint16) bool { return max(a, b)-min(a, b) <= 3<<8 } // what packing leaves of it
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			at := color.NRGBA64Model.Convert(img.At(x, y)).(color.NRGBA64)
			if at.A == 0 && first.A == 0 {
				continue
			}
			if !near(at.R, first.R) || !near(at.G, first.G) || !near(at.B, first.B) || !near(at.A, first.A) {
				return false
			}
		}
	}
	return true
}
