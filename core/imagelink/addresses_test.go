package imagelink

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAddresses: addresses are read out of whatever a host lists them in, and found by the names of their files if only one has it.
func TestAddresses(t *testing.T) {
	list := `Your files
https://cdn.shop.example/1/HV-1.jpg?v=12, https://cdn.shop.example/1/HV%202.jpg
<img src="https://cdn.shop.example/1/caf%C3%A9.png"> [img]https://cdn.shop.example/a/same.jpg[/img]
name,"https://cdn.shop.example/b/same.jpg",12 kB
https://cdn.shop.example/1/x.jpg
https://cdn.shop.example/1/X.jpg
http://cdn.shop.example/1/HV-1.jpg?v=12
` + "\xFF\xFE broken \n"
	a, err := ReadAddresses(strings.NewReader(list))
	require.NoError(t, err)
	assert.Len(t, a.List, 7, "http and https are one address")
	const p = "https://cdn.shop.example/"
	for name, want := range map[string]string{"HV-1.jpg": p + "1/HV-1.jpg?v=12", "hv-1.JPG": p + "1/HV-1.jpg?v=12", "HV 2.jpg": p + "1/HV%202.jpg", "café.png": p + "1/caf%C3%A9.png",
		"same.jpg": "", "a/same.jpg": p + "a/same.jpg", `B\same.jpg`: p + "b/same.jpg", "x.jpg": p + "1/x.jpg", "X.jpg": p + "1/X.jpg", "x.JPG": "", "HV-1": "", "2/HV-1.jpg": ""} {
		found, ok := a.Find(name)
		assert.Equal(t, want, found, name)
		assert.Equal(t, want != "", ok, name)
	}
	assert.Equal(t, []string{"HV-1.jpg", "HV 2.jpg", "café.png", "x.jpg", "X.jpg"}, a.Names())

	a, err = ReadAddresses(strings.NewReader(list))
	require.NoError(t, err)
	a.Find("HV-1.jpg")
	a.Uses(p + "1/caf%c3%a9.png")
	left := map[string]bool{}
	a.Unused(func(address string, several bool) { left[address] = several })
	assert.Equal(t, map[string]bool{p + "1/HV%202.jpg": false, p + "a/same.jpg": true, p + "b/same.jpg": true, p + "1/x.jpg": true, p + "1/X.jpg": true}, left)

	_, err = ReadAddresses(strings.NewReader("HV-1.jpg\n"))
	assert.ErrorContains(t, err, "no address")
}
