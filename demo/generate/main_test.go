package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/demo"
)

// TestReproduces: the files that the program carries are those of the
// generator, byte for byte.
func TestReproduces(t *testing.T) {
	files, err := Files()
	require.NoError(t, err)
	assert.Len(t, files, len(demo.Names()))
	for name, content := range files {
		there, err := demo.Read(name)
		require.NoError(t, err, name)
		assert.Equal(t, len(there), len(content), name)
		assert.True(t, string(there) == string(content), "%s differs: run “go run ./demo/generate”", name)
	}
}
