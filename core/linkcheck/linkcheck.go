// Package linkcheck opens the links of pictures, and says what came back: whether a picture is there, of what type and size it really is,
// and if none is, what is there instead.
//
//	c := linkcheck.New(linkcheck.Options{})
//	defer c.Close()
//	result := c.Check(ctx, "https://cdn.shop.example/chair.jpg")
//
// A picture is asked for by its first bytes, which is as far as its header goes nearly always; servers that do not give parts are left
// when enough has come. Nothing is opened within one's own network unless that is allowed, no server gets a cookie or a name, and what a
// server can do to keep a visitor waiting ends within its limit.
package linkcheck

import (
	"cmp"
	"context"
	"errors"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"zetanum/core/imagelink"
	"zetanum/core/network"
	"zetanum/core/picture"
)

// A State is what became of a link.
type State string

// The states.
const (
	Good   State = "good"   // it leads to a picture
	Dead   State = "dead"   // it leads to none, whoever asks
	Closed State = "closed" // somebody who is not logged in gets none
	Silent State = "silent" // nobody has answered in time; that may pass
)

// A Reason says why a link leads to no picture; "" if it does.
type Reason string

// The reasons, by the states that they mean.
const (
	NotFound  Reason = "not-found"       // dead: the server has nothing there
	Refused   Reason = "refused"         // closed: the server says that one may not
	Login     Reason = "login"           // closed: a page asks for a password
	Page      Reason = "page"            // dead: a page
	Other     Reason = "no-picture"      // dead: something else that is no picture
	Empty     Reason = "empty"           // dead: nothing
	Broken    Reason = "broken"          // dead: the beginning of a picture that cannot be read
	Failing   Reason = "server-error"    // silent: the server says that it is in trouble
	Busy      Reason = "too-many"        // silent: the server says that it is asked too often
	NoHost    Reason = "no-host"         // dead: nobody knows the name of the host
	NoAnswer  Reason = "no-answer"       // silent: the host does not answer, or stops in between
	Slow      Reason = "too-slow"        // silent: it takes too long
	Untrusted Reason = "certificate"     // dead: the certificate of the host is not good
	Circle    Reason = "redirects"       // dead: it leads on and on
	Local     Reason = "private"         // dead: it leads into one's own network
	NoAddress Reason = "no-address"      // dead: it is no address of the web
	TooFar    Reason = "late-header"     // good: a picture whose size stands too far back to be read
	Garbled   Reason = "broken-transfer" // silent: what came is not what HTTP allows
)

// stateOf are the states that reasons mean.
var stateOf = map[Reason]State{
	"": Good, TooFar: Good, Refused: Closed, Login: Closed, Failing: Silent, Busy: Silent, NoAnswer: Silent, Slow: Silent, Garbled: Silent,
}

// State returns what a reason means.
func (r Reason) State() State { return cmp.Or(stateOf[r], Dead) }

// A Result is what came back of one link. It is written as JSON.
type Result struct {
	Link   string    `json:"link"`
	State  State     `json:"state"`
	Reason Reason    `json:"reason,omitempty"`
	Says   string    `json:"says,omitempty"`   // what the server says of it, on one line
	Status int       `json:"status,omitempty"` // the number of the last answer, 0 if there was none
	Time   time.Time `json:"time"`             // when it was opened

	Redirects int    `json:"redirects,omitempty"` // how often it led on
	Final     string `json:"final,omitempty"`     // to where in the end, if it did
	Permanent bool   `json:"permanent,omitempty"` // each of them is for good, so that the last address may be written

	Served string       `json:"served,omitempty"` // the type of which the server says that it is
	Info   picture.Info `json:"picture,omitzero"`
	Size   int64        `json:"bytes,omitempty"` // of the file; 0 if the server does not say
	Sum    string       `json:"sum,omitempty"`   // of what was read, and the size: the same for the same picture
	OneHue bool         `json:"one_colour,omitempty"`
	Whole  bool         `json:"whole,omitempty"` // it was read to its end

	Instead string `json:"instead,omitempty"` // the address of the picture that the page names itself, if that is one
	Tries   int    `json:"tries,omitempty"`   // how often it was asked for, if more than once
}

// Answers reports whether a result says all that options ask for. One that may pass says nothing, and neither does one of a wall that
// is not there any more.
func (r *Result) Answers(o *Options) bool {
	switch {
	case r.State == Silent, r.Reason == Local && o.Local:
		return false
	case r.State != Good || r.Reason == TooFar || o.Quick:
		return true
	}
	return r.Info.Type != "" && (r.Whole || !o.Whole)
}

// Options say how links are opened. What is 0 is as usual.
type Options struct {
	Local     bool // also within one's own network
	Whole     bool // read pictures to their end
	Quick     bool // only ask whether something is there
	UserAgent string
	At        map[string]string // addresses, HOST:PORT, that are asked in place of hosts

	Connect, Headers, Total time.Duration // how long may pass until a host answers, until it has said what it has, and in all
	Tries                   int           // how often a link is asked for whose server is in trouble
	Pause                   time.Duration // before the second time; it doubles
	MostPause               time.Duration // that a server may ask for
	MostBytes               int64         // of a picture that is read whole

	Now  func() time.Time
	Keep func(result *Result, content []byte) error // takes what was read whole; may be nil
}

// The usual options.
const (
	usualConnect   = 10 * time.Second
	usualHeaders   = 20 * time.Second
	usualTotal     = 60 * time.Second
	usualTries     = 3
	usualPause     = time.Second
	usualMostPause = time.Minute
	usualMostBytes = 50 << 20
	mostRedirects  = 10
	mostHeaders    = 64 << 10
)

// Usual is as which the program shows itself to servers.
const Usual = "zetanum (checks the links of pictures in a product list)"

// A Checker opens links. It is used by several at once.
type Checker struct {
	Options
	transport *http.Transport
}

// New returns a checker.
func New(o Options) *Checker {
	o.UserAgent = cmp.Or(o.UserAgent, Usual)
	o.Connect, o.Headers, o.Total = cmp.Or(o.Connect, usualConnect), cmp.Or(o.Headers, usualHeaders), cmp.Or(o.Total, usualTotal)
	o.Tries, o.Pause, o.MostPause = cmp.Or(o.Tries, usualTries), cmp.Or(o.Pause, usualPause), cmp.Or(o.MostPause, usualMostPause)
	o.MostBytes = cmp.Or(o.MostBytes, usualMostBytes)
	if o.Now == nil {
		o.Now = time.Now
	}
	t := &http.Transport{
		Proxy: http.ProxyFromEnvironment, TLSHandshakeTimeout: o.Connect, ResponseHeaderTimeout: o.Headers, DisableCompression: true,
		MaxResponseHeaderBytes: mostHeaders, MaxIdleConnsPerHost: 64, IdleConnTimeout: 30 * time.Second, ForceAttemptHTTP2: true,
	}
	if dialer := (&net.Dialer{Timeout: o.Connect}); o.Local {
		t.DialContext = dialer.DialContext
	} else {
		network.Guard(t, dialer)
	}
	if len(o.At) > 0 {
		dial := t.DialContext
		t.DialContext = func(ctx context.Context, kind, address string) (net.Conn, error) {
			host, _, err := net.SplitHostPort(address)
			if to, is := o.At[strings.ToLower(host)]; is && err == nil {
				address = to
			}
			return dial(ctx, kind, address)
		}
	}
	return &Checker{Options: o, transport: t}
}

// Close lets connections go.
func (c *Checker) Close() { c.transport.CloseIdleConnections() }

// Wait is how long nothing may be asked of a host, because it has said so.
type Wait func(host string, pause time.Duration)

// Check opens a link, as often as it takes. wait is told when a host asks for a pause; it may be nil. The error is that of ctx.
func (c *Checker) Check(ctx context.Context, link string, wait Wait) (Result, error) {
	pause := c.Pause
	for try := 1; ; try++ {
		r := c.once(ctx, link)
		if err := ctx.Err(); err != nil {
			return r.Result, err
		}
		if r.Time = c.Now().UTC().Truncate(time.Second); try > 1 {
			r.Tries = try
		}
		if r.State != Silent || r.Reason == Slow || try == c.Tries {
			return r.Result, nil
		}
		for_ := pause
		if r.after > 0 {
			for_ = min(r.after, c.MostPause)
		}
		if wait != nil && r.Reason == Busy {
			wait(HostOf(link), for_)
		}
		select {
		case <-ctx.Done():
			return r.Result, ctx.Err()
		case <-time.After(for_):
		}
		pause *= 2
	}
}

// HostOf returns the host of a link, with its port.
func HostOf(link string) string {
	_, rest, _ := strings.Cut(link, "://")
	if i := strings.IndexAny(rest, "/?#"); i >= 0 {
		rest = rest[:i]
	}
	return strings.ToLower(rest)
}

// answer is a result in the making.
type answer struct {
	Result
	after time.Duration // that the server asks for
}

// failed says that a link leads to no picture, and why.
func (a *answer) failed(reason Reason, says string) {
	a.Reason, a.State = reason, reason.State()
	if says = oneLine(says); says != "" {
		a.Says = says
	}
}

// mostSaid is how many characters are kept of what a server says.
const mostSaid = 160

func oneLine(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ")
	if r := []rune(s); len(r) > mostSaid {
		s = string(r[:mostSaid-1]) + "…"
	}
	return s
}

// once opens a link once.
func (c *Checker) once(ctx context.Context, link string) (a answer) {
	a.Link, a.State = link, Good
	ctx, cancel := context.WithTimeoutCause(ctx, c.Total, errSlow)
	defer cancel()
	switch out, what := imagelink.Mend(link); {
	case !what.IsAddress() && what != imagelink.FileName, out != link && what == imagelink.Picture, !strings.Contains(link, "://"):
		a.failed(NoAddress, "")
		return a
	case what == imagelink.Private && !c.Local:
		a.failed(Local, "")
		return a
	}
	address, err := url.Parse(link)
	if err != nil || address.Host == "" {
		a.failed(NoAddress, "")
		return a
	}
	address.User = nil // no credentials
	if c.Quick {
		c.quick(ctx, &a, address)
		return a
	}
	c.open(ctx, &a, address)
	return a
}

// errSlow is why a context ends whose time is up.
var errSlow = errors.New("it takes too long")
