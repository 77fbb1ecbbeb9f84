package text

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestIsErrorValue: error values are known in each language, and nothing else is one.
func TestIsErrorValue(t *testing.T) {
	for _, cell := range strings.Split("#N/A|#REF!|#VALUE!|#NAME?|#DIV/0!|#NUM!|#NULL!|#SPILL!|#NV|#BEZUG!|#WERT!|#VALEUR!|#N/D|#¡REF!|#RIF!|#VERW!|#ADR!|#SAKNAS!|#Н/Д|#ССЫЛКА!|#YOK|#ÉRTÉK!| #N/A |#n/a|Err:502", "|") {
		assert.True(t, IsErrorValue(cell), cell)
	}
	for _, cell := range strings.Split("|#|#1|#12|#NEW|#FFFFFF|#SALE!|Err|Err:|Err: none|#REF|N/A|n/a|#N/A cup|####|#hashtag|Error", "|") {
		assert.False(t, IsErrorValue(cell), cell)
	}
}
