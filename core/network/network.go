// Package network keeps programs that open addresses from somebody else's file away from this machine and its own network.
package network

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"syscall"
)

// ErrLocal says that an address is one within the network of whoever asks.
var ErrLocal = errors.New("this is an address within your own network")

// notOpen are the networks that the open web does not reach, besides those for which
// package netip has a name: the registries of special-purpose addresses of RFC 6890,
// kept by IANA, and the networks in which such an address can be wrapped.
var notOpen = prefixes("0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15",
	"198.51.100.0/24", "203.0.113.0/24", "240.0.0.0/4", "::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16",
	"3fff::/20", "5f00::/16", "fec0::/10")

// translated is the network in which an IPv4 address stands behind 96 bits (RFC 6052).
var translated = netip.MustParsePrefix("64:ff9b::/96")

func prefixes(texts ...string) []netip.Prefix {
	all := make([]netip.Prefix, len(texts))
	for i, text := range texts {
		all[i] = netip.MustParsePrefix(text)
	}
	return all
}

// IsLocal reports whether an address is one of this machine or of its own network, or
// none that the open web reaches.
func IsLocal(at netip.Addr) bool {
	at = at.WithZone("").Unmap()
	if translated.Contains(at) {
		bytes := at.As16()
		at = netip.AddrFrom4([4]byte(bytes[12:]))
	}
	if !at.IsGlobalUnicast() || at.IsPrivate() {
		return true
	}
	for _, network := range notOpen {
		if network.Contains(at) {
			return true
		}
	}
	return false
}

// IsLocalName reports whether a host is local by its name alone: an address that is, one
// that is written in another way than usual (its last part is a number: 127.1, 0x7f000001),
// this machine (RFC 6761), or a name without a dot.
func IsLocalName(host string) bool {
	if at, err := netip.ParseAddr(host); err == nil {
		return IsLocal(at)
	}
	host = strings.TrimSuffix(strings.ToLower(host), ".")
	last := host[strings.LastIndexByte(host, '.')+1:]
	_, err := strconv.ParseUint(last, 0, 64)
	return err == nil || last == host || last == "localhost"
}

// A LocalError says which host is at which local address. It wraps [ErrLocal].
type LocalError struct{ Host, At string }

func (e *LocalError) Error() string        { return fmt.Sprintf("%s is at %s: %v", e.Host, e.At, ErrLocal) }
func (e *LocalError) Is(target error) bool { return target == ErrLocal }

// Guard keeps a transport from addresses that are local. What a name stands for is
// looked at when the socket is about to connect, not before: a name server may say
// something else the second time. Where a proxy is set in the environment, it looks
// names up; then they are looked up here, too, and one that this machine does not know is left to the proxy, whose own address is
// exempt.
func Guard(transport *http.Transport, dialer *net.Dialer) {
	var proxies sync.Map
	proxyOf := transport.Proxy
	transport.Proxy = func(r *http.Request) (*url.URL, error) {
		proxy, err := proxyOf(r)
		if err != nil || proxy == nil {
			return proxy, err
		}
		if IsLocalName(r.URL.Hostname()) {
			return nil, &LocalError{r.URL.Hostname(), r.URL.Hostname()}
		}
		if known, err := net.DefaultResolver.LookupNetIP(r.Context(), "ip", r.URL.Hostname()); err == nil {
			for _, at := range known {
				if IsLocal(at) {
					return nil, &LocalError{r.URL.Hostname(), at.String()}
				}
			}
		}
		proxies.Store(proxy.Hostname(), true)
		return proxy, nil
	}
	transport.DialContext = func(ctx context.Context, network, address string) (net.Conn, error) {
		host, _, err := net.SplitHostPort(address)
		if err != nil {
			return nil, err
		}
		if _, ok := proxies.Load(host); ok {
			return dialer.DialContext(ctx, network, address)
		}
		checked := *dialer
		checked.Control = func(_, to string, _ syscall.RawConn) error {
			if at, err := netip.ParseAddrPort(to); err != nil || IsLocal(at.Addr()) {
				return &LocalError{host, to}
			}
			return nil
		}
		return checked.DialContext(ctx, network, address)
	}
}
