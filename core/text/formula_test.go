package text

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestFormula(t *testing.T) {
	for _, yes := range []string{"=1+1", "=HYPERLINK(\"x\")", "+A1", "-A1+2", "@SUM(A1)", "\t=1", "- with lid", "+new",
		"-cmd|' /C calc'!A0", "=\"952\"", "--x"} {
		assert.True(t, Formula(yes), "%q", yes)
	}
	for _, no := range []string{"", "-5", "+49 (0)30 123-45", "-12.50", "-", "--", "+", "=", "@", "a=b", "5-6", "-1E+05", "-1.5e3", "- 5 %",
		"+5 €", "'=1", "\t", "\tx", " =1", "-5/+7"} {
		assert.False(t, Formula(no), "%q", no)
	}
}
