package charset_test

import (
	"fmt"

	"zetanum/core/charset"
)

// The encoding of a file is told from its bytes, and a text that was decoded wrongly is mended where
// that is certain.
func Example() {
	var sample charset.Sample
	raw := []byte("K\xfcchenb\xfcrste, gro\xdfe Gl\xe4ser f\xfcr Honig, 5 \x80")
	sample.Add(raw)
	sample.End()
	guess := sample.Guess()
	fmt.Println(guess.Charset, string(guess.Charset.Decode(raw)))

	mended, ok := charset.Mend("GlÃ¤ser fÃ¼r Honig")
	fmt.Println(mended.Text, mended.As, mended.Exact, ok)
	// Output:
	// Windows-1252 Küchenbürste, große Gläser für Honig, 5 €
	// Gläser für Honig Windows-1252 true true
}
