package charset

import (
	"bytes"
	"io"
	"math/rand/v2"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
)

// texts are lines of a price list for beekeepers, written for these tests.
var texts = map[string]string{
	"de": "Räucherstoff für große Völker, natürlich gepreßt\nFlügelradschleuder, höhenverstellbar, für Rähmchen bis 30 cm\nBienenkönigin, geprüft, mit Käfig",
	"fr": "Enfumoir en acier galvanisé, modèle déposé\nCérificateur à vapeur, très robuste, livré avec grille\nBrosse à abeilles, poils naturels, poignée vernie",
	"es": "Ahumador pequeño de acero galvanizado\nColmena de diez cuadros, barniz ecológico, año de garantía\nGuantes de piel, talla pequeña, también en color crudo; cría y alimentación",
	"pt": "Fumigador de aço inoxidável, versão pequena\nColmeia com dez quadros, proteção contra humidade\nEscova macia, cerdas naturais, não irrita as abelhas; alimentação e criação",
	"sv": "Rökpust i rostfritt stål, lättanvänd\nBikupa för tio ramar, målad, går att höja\nSkyddsdräkt för vuxna, förstärkta knän, även för små",
	"da": "Røgpuster af stål, både til små og store bigårde\nBistade med ti rammer, også til høst, håndlavet træ\nHandsker af gedeskind, størrelse på æske",
	"fi": "Savutin ruostumattomasta teräksestä, käsin tehty\nMehiläispesä kymmenelle kehälle, säänkestävä\nPölyharja, pehmeät harjakset, pitkä käyttöikä",
	"pl": "Podkurzacz ze stali nierdzewnej, średni, z osłoną\nUl na dziesięć ramek, malowany, łatwy w myciu\nRękawice ze skóry koziej, różne długości, żółte; miód wielokwiatowy świeży",
	"cs": "Kuřák z nerezové oceli, střední, s držákem\nÚl na deset rámků, lakovaný, snadno čistitelný\nRukavice z kozí kůže, různé velikosti, žluté; včelí vosk a měď",
	"hu": "Füstölő rozsdamentes acélból, közepes méretű\nKaptár tíz kerettel, festett, könnyen tisztítható\nVédőkesztyű kecskebőrből, hosszú szárú, többféle színben",
	"ro": "Afumător din oţel inoxidabil, mărime medie, cu mâner\nStup cu zece rame, vopsit, uşor de curăţat\nMănuşi din piele de capră, diferite mărimi, şi galbene",
	"hr": "Dimilica od nehrđajućeg čelika, srednja, s drškom\nKošnica s deset okvira, obojena, lako se čisti\nRukavice od kozje kože, različite veličine, žute; šećer i češalj",
	"ru": "Дымарь из нержавеющей стали, средний\nУлей на десять рамок, окрашенный\nПерчатки из козьей кожи, разные размеры",
	"uk": "Димар із нержавіючої сталі, середній, з ручкою\nВулик на десять рамок, фарбований, її легко мити\nРукавиці зі шкіри, різні розміри, жовті",
	"el": "Καπνιστήρι από ανοξείδωτο χάλυβα, μεσαίο\nΚυψέλη με δέκα πλαίσια, βαμμένη\nΓάντια από δέρμα, διάφορα μεγέθη",
	"tr": "Paslanmaz çelikten körük, orta boy, ahşap saplı\nOn çerçeveli kovan, boyalı, kolay temizlenir\nKeçi derisinden eldiven, değişik boylar, sarı; ağır iş için",
	"lt": "Dūminė iš nerūdijančio plieno, vidutinė, su rankena\nAvilys su dešimt rėmų, dažytas, lengvai plaunamas\nPirštinės iš ožkos odos, įvairių dydžių, ąžuolo medus; šviežias žiedų ir ųgis",
	"he": "מעשנת מפלדה, גודל בינוני\nכוורת לעשר מסגרות, צבועה\nכפפות עור, גדלים שונים",
}

var encodings = []struct {
	languages string
	charset   Charset
	charmap   *charmap.Charmap
}{
	{"de fr es pt sv da fi", Windows1252, charmap.Windows1252}, {"de fr es pt sv da fi", ISO8859_15, charmap.ISO8859_15},
	{"de fr es pt sv da fi", MacRoman, charmap.Macintosh},
	{"de fr es pt sv da fi", CodePage850, charmap.CodePage850}, {"de fr es", CodePage437, charmap.CodePage437},
	{"pl cs hu ro hr", Windows1250, charmap.Windows1250}, {"pl cs hu ro hr", ISO8859_2, charmap.ISO8859_2},
	{"pl cs hu ro hr", CodePage852, charmap.CodePage852},
	{"ru uk", Windows1251, charmap.Windows1251}, {"ru", KOI8R, charmap.KOI8R}, {"uk", KOI8U, charmap.KOI8U},
	{"ru", CodePage866, charmap.CodePage866}, {"ru", ISO8859_5, charmap.ISO8859_5},
	{"el", Windows1253, charmap.Windows1253}, {"el", ISO8859_7, charmap.ISO8859_7}, {"tr", Windows1254, charmap.Windows1254},
	{"tr", ISO8859_9, charmap.ISO8859_9},
	{"lt", Windows1257, charmap.Windows1257}, {"he", Windows1255, charmap.Windows1255},
}

// TestGuess: a few lines are enough to read a file rightly, in every encoding that
// its language is written in.
func TestGuess(t *testing.T) {
	for _, e := range encodings {
		for _, language := range strings.Fields(e.languages) {
			raw, err := e.charmap.NewEncoder().String(texts[language])
			require.NoError(t, err, "%s in %s", language, e.charset)
			var table Table
			table.Add([]byte(raw))
			g := table.Guess()
			assert.Equal(t, texts[language], string(g.Charset.Decode([]byte(raw))), "%s in %s was taken for %s", language, e.charset,
				g.Charset)
		}
	}
	var table Table
	table.Add([]byte("SKU,Title\nA,only ASCII\n"))
	assert.Equal(t, Windows1252, table.Guess().Charset)
	table.Add([]byte("\xa9 Brand"))
	g := table.Guess()
	assert.Less(t, g.Margin, float64(Thin), "one byte says little: %s or %s", g.Charset, g.Second)
	assert.NotEqual(t, g.Charset.Decode([]byte("\xa9")), g.Second.Decode([]byte("\xa9")))
	table = Table{}
	table.Add([]byte(strings.Repeat("Küche und Bäder\n", 10) + "B\xfcrste"))
	assert.True(t, table.MostlyUTF8(), "UTF-8 with something pasted in")
	assert.Equal(t, "Küche, Bürste, ž", Windows1250.DecodeRest("K\xfcche, Bürste, \x9e"))
}

// TestTableMerge: a table of stretches is that of the whole but for the pairs at the
// borders.
func TestTableMerge(t *testing.T) {
	raw, err := charmap.Windows1250.NewEncoder().String(strings.Repeat(texts["pl"]+"\n"+texts["cs"]+"\n", 20))
	require.NoError(t, err)
	var whole Table
	whole.Add([]byte(raw))
	r := rand.New(rand.NewPCG(1, 9))
	for range 10 {
		var merged, chunked Table
		for rest := raw; rest != ""; {
			n := min(len(rest), 1+r.IntN(400))
			var part Table
			part.Add([]byte(rest[:n]))
			merged.Merge(&part)
			chunked.Add([]byte(rest[:n]))
			rest = rest[n:]
		}
		assert.Equal(t, whole.Bytes, merged.Bytes)
		assert.Equal(t, whole.Guess().Charset, merged.Guess().Charset)
		assert.Equal(t, whole, chunked, "read in pieces it is the same")
	}
}

func TestParse(t *testing.T) {
	for _, name := range Names() {
		c, ok := Parse(name)
		assert.True(t, ok && c.String() == name, name)
	}
	for name, want := range map[string]Charset{"utf8": UTF8, "UTF-8": UTF8, "cp1250": Windows1250, "CP 852": CodePage852,
		"latin1": Windows1252, "ISO-8859-2": ISO8859_2, "iso8859_15": ISO8859_15, "koi8-r": KOI8R, "macroman": MacRoman,
		"windows1251": Windows1251} {
		c, ok := Parse(name)
		assert.True(t, ok, name)
		assert.Equal(t, want, c, name)
	}
	for _, name := range []string{"", "utf", "cp", "latin99", "UTF-7"} {
		_, ok := Parse(name)
		assert.False(t, ok, name)
	}
}

// FuzzDecode: whatever bytes there are, something is made of them, and it is UTF-8; what
// one byte becomes does not depend on the others.
func FuzzDecode(f *testing.F) {
	for _, s := range []string{"", "K\xfcche", "\xff\xfe\x00", "\x81\x8d\x9d plain text of more than eight bytes \xe4", "Küche \xff",
		"\x83\x5c\x82"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		Detect(raw, true)
		Detect(raw, false)
		var table Table
		table.Add(raw)
		guess := table.Guess()
		assert.True(t, singles[guess.Charset] != nil && singles[guess.Second] != nil)
		var sample Sample
		sample.Add(raw)
		if wide, ok := sample.East(); ok {
			text, err := io.ReadAll(wide.Reader(bytes.NewReader(raw)))
			assert.True(t, err == nil && utf8.Valid(text))
		}
		for c := UTF8; c < numCharsets; c++ {
			if singles[c] == nil {
				continue
			}
			var single []byte
			for i := range raw {
				single = append(single, c.Decode(raw[i:i+1])...)
			}
			assert.Equal(t, string(single), string(c.Decode(raw)), c.String())
			rest := c.DecodeRest(string(raw))
			assert.True(t, utf8.ValidString(rest) && (!utf8.Valid(raw) || rest == string(raw)))
		}
	})
}

func BenchmarkTable(b *testing.B) {
	raw, err := charmap.Windows1252.NewEncoder().Bytes([]byte(strings.Repeat(texts["de"]+
		"\nplain text without anything special in it, as most of a catalogue is\n", 500)))
	require.NoError(b, err)
	b.Run("add", func(b *testing.B) {
		b.SetBytes(int64(len(raw)))
		var table Table
		for b.Loop() {
			table.Add(raw)
		}
	})
	b.Run("decode", func(b *testing.B) {
		b.SetBytes(int64(len(raw)))
		for b.Loop() {
			Windows1252.Decode(raw)
		}
	})
	b.Run("guess", func(b *testing.B) {
		var table Table
		table.Add(raw)
		for b.Loop() {
			table.Guess()
		}
	})
}
