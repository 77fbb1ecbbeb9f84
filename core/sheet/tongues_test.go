package sheet

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestInOtherTongues: columns of a field in several languages of which one has the texts of
// another are named, and no others.
func TestInOtherTongues(t *testing.T) {
	en := []string{"Red cup made of clay", "Large blue plate", "Small jug with a handle", "Wooden spoon for honey", "Candle of pure beeswax",
		"Bowl for the garden", "Set of two glasses", "Teapot with a lid"}
	de := []string{"Rote Tasse aus Ton", "Großer blauer Teller", "Kleiner Krug mit Henkel", "Holzlöffel für Honig", "Kerze aus reinem Bienenwachs",
		"Schale für den Garten", "Zwei Gläser im Set", "Teekanne mit Deckel"}
	fr := []string{"Tasse rouge en terre", "Grande assiette bleue", "Petite cruche avec anse", "Cuillère en bois pour le miel",
		"Bougie en pure cire d'abeille", "Bol pour le jardin", "Lot de deux verres", "Théière avec couvercle"}
	brands := []string{"Nørrebi Alpha", "Wickby Duo", "Linden Row Mini", "Nørrebi Beta", "Wickby Maxi", "Saltmarsh Uno", "Nørrebi Gamma", "Wickby Trio"}
	for name, test := range map[string]struct {
		columns [3][]string
		want    string
	}{
		"right": {[3][]string{en, de, fr}, ""}, "names of goods": {[3][]string{brands, brands, brands}, ""}, "missing": {[3][]string{en, make([]string, 8), fr}, ""},
		"copied":  {[3][]string{en, en, fr}, "Name (DE): texts in English"},
		"swapped": {[3][]string{en, fr, de}, "Name (DE): texts in French; Name (FR): texts in German"},
	} {
		var text strings.Builder
		text.WriteString("SKU,Name (EN),Name (DE),Name (FR)\n")
		for i := range en {
			fmt.Fprintf(&text, "A%d,%s,%s,%s\n", i, test.columns[0][i], test.columns[1][i], test.columns[2][i])
		}
		table, err := Open(write(t, "list.csv", text.String()), Options{})
		require.NoError(t, err)
		var found []string
		for _, u := range table.Unlike {
			found = append(found, table.Columns.Headings[u.Col]+": "+u.Holds)
		}
		assert.Equal(t, test.want, strings.Join(found, "; "), name)
		require.NoError(t, table.Close())
	}
}
