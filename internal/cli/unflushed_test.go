//go:build unflushed

package cli

func init() { buildTags = append(buildTags, "unflushed") }
