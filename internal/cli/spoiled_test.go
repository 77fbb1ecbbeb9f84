//go:build spoil

package cli

func init() { buildTags = append(buildTags, "spoil") }
