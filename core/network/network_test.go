package network

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestIsLocal(t *testing.T) {
	for at, want := range map[string]bool{"8.8.8.8": false, "2606:4700::1111": false, "64:ff9b::8.8.8.8": false, "100.64.0.1": true,
		"192.168.1.1": true, "172.31.0.1": true, "fd00::1": true, "64:ff9b::10.0.0.1": true, "2002:7f00:1::": true, "::ffff:10.0.0.1": true,
		"224.0.0.1": true, "255.255.255.255": true, "fe80::1%eth0": true, "::127.0.0.1": true, "172.32.0.1": false} {
		assert.Equal(t, want, IsLocal(netip.MustParseAddr(at)), at)
	}
	for name, want := range map[string]bool{"files.example": false, "FILES.EXAMPLE.": false, "2130706433": true, "0x7f.1": true, "nas": true,
		"a.localhost": true, "8.8.8.8": false, "10.0.0.1": true} {
		assert.Equal(t, want, IsLocalName(name), name)
	}
}
