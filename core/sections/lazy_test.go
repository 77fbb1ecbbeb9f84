package sections

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/lazy"
)

// TestPatterns: all patterns of the rooms of which the line is made can be made.
func TestPatterns(t *testing.T) { assert.Greater(t, lazy.MakeAll(), 40) }
