package text

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNearest(t *testing.T) {
	assert.Equal(t, "barcode", Nearest("Barcodes", []string{"brand", "barcode"}))
	assert.Empty(t, Nearest("weight", []string{"brand", "barcode"}))
}
