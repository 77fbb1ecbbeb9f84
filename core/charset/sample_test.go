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
			g := guessOf([]byte(raw))
			assert.Equal(t, texts[language], g.Charset.Read(raw), "%s in %s was taken for %v", language, e.charset, g)
			assert.GreaterOrEqual(t, g.Margin, float64(Thin), "%s in %s: %v", language, e.charset, g)
		}
	}
	g := guessOf([]byte("SKU,Title\nA,only ASCII\n"))
	assert.Equal(t, UTF8, g.Charset)
	g = guessOf([]byte("SKU,Title\nA,\xa4\n"))
	assert.Less(t, g.Margin, float64(Thin), "one byte says little: %s or %s", g.Charset, g.Second)
	text, open := g.Charset.Differs(g.Second, g.Charset.Read("\xa4"))
	assert.True(t, open && text == g.Second.Read("\xa4"))
}

// TestSpoilt: what has been read wrongly by somebody else, a byte that is broken, or the
// end of a file that is cut off says nothing of the encoding.
func TestSpoilt(t *testing.T) {
	german := "Küche und Bäder\nBürste, groß\nGläser für Honig\nPinsel, natürlich\n"
	latin, err := charmap.Windows1252.NewEncoder().String(german)
	require.NoError(t, err)
	spoilt := Misread("Rührlöffel, geölt\nHörnchen für Gäste\n")["Windows-1252"]
	inLatin, err := charmap.Windows1252.NewEncoder().String(spoilt)
	require.NoError(t, err)
	inMac, err := charmap.Macintosh.NewEncoder().String(texts["fr"] + "\n" + Misread("Modèle déposé, très léger\nPoignée vernie\n")["Windows-1252"])
	require.NoError(t, err)
	for _, raw := range []string{strings.Repeat(german, 3) + "Gl\xc4ser", strings.Repeat(german, 3) + "Band \xb99 mm"} {
		assert.Less(t, guessOf([]byte(raw)).Margin, float64(Thin), "a byte where a letter or a digit was")
	}
	for name, test := range map[string]struct {
		raw  string
		want Guess
		cut  int
		text string // how the last word that is not UTF-8 is read; "" to leave it out
	}{
		"half of it misread":        {latin + inLatin, Guess{Charset: Windows1252, Mixed: true}, 0, "natürlich"},
		"misread, and then the Mac": {inMac, Guess{Charset: MacRoman}, 0, ""},
		"UTF-8 but for some words":  {strings.Repeat(german, 3) + "K\xf6nigin, Caf\xe9 am Ufer, fr\xf6hlich", Guess{Charset: Windows1252, Mixed: true}, 0, "Café"},
		"a byte in the middle":      {strings.Repeat(german, 3) + "Gr\xc3\xb6\xff\xc3\x9fe", Guess{Lost: true}, 0, ""},
		"cut":                       {german + "Gläser f\xc3", Guess{Charset: UTF8}, 1, ""},
		"cut in a sign":             {german + "5 \xe2\x82", Guess{Charset: UTF8}, 2, ""},
		"no end that is cut, Latin": {latin + latin + "Glasb\xfcrste, gr\xfc", Guess{Charset: Windows1252}, 0, "grü"},
		"UTF-8 of another language": {latin + "Świeży miód, żółty\nłyżka\nświeca\n", Guess{Charset: Windows1252, Mixed: true}, 0, "natürlich"},
	} {
		var s Sample
		for i := 0; i < len(test.raw); i += 7 {
			s.Add([]byte(test.raw[i:min(len(test.raw), i+7)]))
		}
		s.End()
		g := s.Guess()
		assert.Equal(t, test.cut, s.Cut, name)
		assert.Equal(t, test.want.Lost, g.Lost, "%s: %v", name, g)
		if !g.Lost {
			assert.Equal(t, test.want, Guess{Charset: g.Charset, Mixed: g.Mixed}, "%s: %v", name, g)
			assert.GreaterOrEqual(t, g.Margin, float64(Thin), "%s: %v", name, g)
		}
		if test.text != "" {
			assert.Contains(t, g.Charset.DecodeRest(test.raw, false), test.text, name)
		}
	}
	assert.Equal(t, "Küche, Bürste, ž", Windows1250.DecodeRest("K\xc3\xbcche, B\xc3\xbcrste, \x9e", false))
	assert.Equal(t, "Gr\ufffdße \ufffd", UTF8.DecodeRest("Gr\xffße \xe2\x82", false))
	assert.Equal(t, "её всё, всё", KOI8R.DecodeRest("\xc5\xa3 \xd7\xd3\xa3, \xd7\xd3\xa3", false), "most of it is no UTF-8")
}

// TestSampleInPieces: however a file is handed over, the same is known of it.
func TestSampleInPieces(t *testing.T) {
	raw, err := charmap.Windows1250.NewEncoder().Bytes([]byte(strings.Repeat("plain\n"+texts["pl"]+"\n"+texts["cs"]+"\n", 20)))
	require.NoError(t, err)
	raw = append(raw, "Küche\xc3"...)
	var whole Sample
	whole.Add(raw)
	whole.End()
	r := rand.New(rand.NewPCG(1, 9))
	for range 10 {
		var pieces Sample
		for rest := raw; len(rest) > 0; {
			n := min(len(rest), 1+r.IntN(400))
			pieces.Add(rest[:n])
			rest = rest[n:]
		}
		pieces.End()
		assert.Equal(t, whole.lines, pieces.lines)
		assert.Equal(t, [3]int{whole.good, whole.bad, whole.Cut}, [3]int{pieces.good, pieces.bad, pieces.Cut})
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
		"\x83\x5c\x82", "0\xc3", "AВ"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		Detect(raw, true)
		Detect(raw, false)
		if c, _ := Detect(raw, false); c.Wide() {
			text, err := io.ReadAll(c.Reader(bytes.NewReader(raw)))
			assert.True(t, err == nil && utf8.Valid(text))
		}
		guess := guessOf(raw)
		whole := raw[:len(raw)-cutAt(raw)] // a letter that is cut off makes no other encoding of a text with letters
		assert.Equal(t, utf8.Valid(raw) || utf8.Valid(whole) && !isASCII(whole), guess.Charset == UTF8)
		for _, c := range []Charset{guess.Charset, guess.Second} {
			assert.True(t, utf8.ValidString(c.Read(string(raw))))
			if c.Wide() {
				text, err := io.ReadAll(c.ReaderOfLines(bytes.NewReader(raw)))
				assert.True(t, err == nil && utf8.Valid(text) && (!utf8.Valid(raw) || bytes.Equal(text, raw)))
			}
		}
		for c := UTF8; c < numCharsets; c++ {
			if singles()[c] == nil {
				continue
			}
			var single []byte
			for i := range raw {
				single = append(single, c.Decode(raw[i:i+1])...)
			}
			assert.Equal(t, string(single), string(c.Decode(raw)), c.String())
			rest := c.DecodeRest(string(raw), false)
			assert.True(t, utf8.ValidString(rest) && (!utf8.Valid(raw) || rest == string(raw) || odder(string(raw))))
		}
	})
}

func BenchmarkSample(b *testing.B) {
	raw, err := charmap.Windows1252.NewEncoder().Bytes([]byte(strings.Repeat(texts["de"]+
		"\nplain text without anything special in it, as most of a catalogue is\n", 500)))
	require.NoError(b, err)
	b.Run("add", func(b *testing.B) {
		b.SetBytes(int64(len(raw)))
		for b.Loop() {
			var s Sample
			s.Add(raw)
		}
	})
	b.Run("decode", func(b *testing.B) {
		b.SetBytes(int64(len(raw)))
		for b.Loop() {
			Windows1252.Decode(raw)
		}
	})
	b.Run("guess", func(b *testing.B) {
		for b.Loop() {
			guessOf(raw)
		}
	})
}
