//go:build spoil

package cli

// buildTags are the tags with which the program is built that is tested: those of the tests.
const buildTags = "spoil"
