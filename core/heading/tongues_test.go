package heading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// TestTongues: the language of a heading is known, and what it is of; words and codes that
// look like one are none.
func TestTongues(t *testing.T) {
	for h, want := range map[string]string{
		"Name (EN)": "en title", "Name (DE)": "de title", "title_fr": "fr title", "Product name NL": "nl title", "Title en-GB": "en title",
		"Description [it]": "it description", "de_description": "de description", "DE: Beschreibung": "de description", "German title": "de title",
		"Beschreibung deutsch": "de description", "Titre (français)": "fr title", "Tags-pl": "pl tags", "Colour ES": "es colour",
		"商品名称 (英文)": "en title", "Название (русский)": "ru title", "Short text / EN": "en short_description",
		"Article No": "", "Item no": "", "Description de": "", "Description de produit": "", "Size IT": "", "Price DE": "", "Brand (DE)": "", "EN": "",
		"Part NO": "", "Code (DE)": "", "Name": "", "English": "", "Nom de la marque": "",
	} {
		code, f := InTongue(h)
		assert.Equal(t, want, strings.TrimSpace(code+" "+f.String()), h)
	}
	headings := []string{"SKU", "Name (EN)", "Name (DE)", "Description EN", "Description DE", "Price"}
	assert.Equal(t, []catalogue.Field{catalogue.SKU, catalogue.Title, catalogue.Title, catalogue.Description, catalogue.Description, catalogue.Price},
		Fields(headings, nil))
	assert.Contains(t, Tongues(), "de")
}
