package folder

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestNames: names that some systems do not give to files are told, with the reason.
func TestNames(t *testing.T) {
	for path, want := range map[string]string{
		"list.csv": "", `C:\lists\Spring & Co\list.csv`: "", `..\list.repaired`: "", "D:list.csv": "", `\\server\lists\a.csv`: "", "Größe.csv": "",
		`\\?\C:\lists\a.csv`: "", "console.csv": "", "com10.csv": "", "nullable.csv": "", "./a/../b": "",
		"CON": "device", "nul.csv": "device", "lists/Aux.repaired": "device", `C:\COM1.csv\a`: "device", "lpt³": "device", "con .csv": "device",
		"list.csv:copy": "':'", "a?.csv": "'?'", `a"b`: `'"'`, "a\x01": `'\x01'`, "list.": "point or a space", "list /a": "point or a space",
	} {
		err := checkName(path)
		if want == "" {
			assert.NoError(t, err, path)
			continue
		}
		assert.ErrorIs(t, err, ErrName, path)
		assert.ErrorContains(t, err, want, path)
	}
}
