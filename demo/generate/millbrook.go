package main

import (
	"bytes"
	"encoding/csv"
	"fmt"

	"zetanum/core/barcode"
)

// millbrook is a supplier's catalogue whose descriptions come from everywhere: a word processor, the page of another shop, a text file.
var millbrook = []struct{ title, description, short, weight, image string }{
	{"Extractor for three frames", wordHTML("Extractor for three frames", "A hand-driven extractor of <b style='mso-bidi-font-weight:normal'>stainless steel</b> for the small apiary.",
		"·", "drum of 50 cm", "tap of 40 mm", "legs that come off"), "", "18.5 kg", "extractor.jpg"},
	{"Uncapping tank", wordHTML("Uncapping tank", "The sieve lies <i>above</i> the tap, so that wax stays behind.", "1.", "Hang the frame in.", "Open the cells.", "Let it drip over night."), "", "6.2 kg", "tank.jpg"},
	{"Settling tank 50 l", wordHTML("Settling tank 50 l", "Honey rests here until its foam has risen.", "·", "with lid", "with a tap that closes tightly"), "", "4.1 kg", ""},
	{"Bee smoker, small", `<div class="pdp"><center><font size="4" color="#993300">Bee smoker, small</font></center><P align=justify>Bellows of leather,&nbsp; a grate of steel.<BR><BR>Fits into any bag.<UL type=square><LI>Height: 22 cm<LI>Weight: 640 g</UL><script>track("millbrook")</script><img src="https://count.anderswo.example/pixel.gif" width=1 height=1></div>`,
		"", "610 g", "smoker-s.jpg"},
	{"Bee smoker, large", `<div class="pdp" onclick="open()"><h1>Bee smoker, large</h1><p><b>Bellows</b></p><p>of leather, sewn twice.</p><p><b>Grate</b></p><p>of steel that does not rust.</p><ul><li>Weight: 890 g</li><li></li></ul></div>`, "", "890 g", "smoker-l.jpg"},
	{"Honey sieve, double", "Two sieves that fit into one another.\n\n- coarse: 1.5 mm\n- fine: 0.5 mm\n- rim for buckets from 20 to 30 cm\n\nØ < 30 cm & easy to wash.", "Two sieves in one", "520 g", "sieve.jpg"},
	{"Wax melter", "FOR SUN AND STEAM\n\nMelts old combs without a flame.\n\nCapacity: 12 frames\nPower: 2000 W\nCable: 1.8 m", "", "9 kg", "melter.jpg"},
	{"Queen catcher", `<table border="0" width="100%"><tr><td><p>Catches the queen, and nobody else.</p><p>Of clear plastic.</p></td></tr></table>`, "", "20 g", "catcher.jpg"},
	{"Marking pen, white", `<p>Dries fast, harms nobody. See the <a href="https://www.linden-row.example/marking" target="_blank">guide</a>, or <a href="http://www.anderswo.example/pens">buy cheaper</a>.</p>`, "", "15 g", "pen-w.jpg"},
	{"Marking pen, yellow", "<p>Lorem ipsum dolor sit amet, consectetur.</p>", "", "15 g", "pen-y.jpg"},
	{"Hive tool, bent", "&lt;p&gt;Lifts frames and scrapes walls.&lt;/p&gt;", "", "230 g", "tool.jpg"},
	{"Veil, round", `<p><span style="font-family:Arial">Of black tulle, sewn round a hat of cotton.</span></p><p><img src="https://cdn.halvora.example/veil-detail.jpg" alt="The seam of the veil"></p>`, "", "180 g", "veil.jpg"},
	{"Gloves, size 9", "<p>Soft goat leather with a long cuff of cotton that closes above the elbow.</p>", "", "160 g", "gloves.jpg"},
	{"Gloves, size 10", "<p>Soft goat leather with a long cuff of cotton that closes above the elbow.</p>", "", "165 g", "gloves.jpg"},
	{"Frame wire, 500 g", `<table class="data"><tr><th>Gauge</th><th>Length</th></tr><tr><td>0.4 mm</td><td>500 m</td></tr><tr><td>0.5 mm</td><td>320 m</td></tr></table><p>On a spool of wood.`, "", "540 g", "wire.jpg"},
	{"Embedding tool", "<p>Presses the wire into the wax, with the current of a car battery.</p><h2>Care</h2><p>Keep it dry.</p><h4>Cable</h4><p>Do not bend it.</p>", "", "310 g", "embedder.jpg"},
	{"Pollen trap", "", "", "450 g", "trap.jpg"},
	{"Propolis net", "<p><img src=\"https://cdn.halvora.example/net.jpg\"></p>", "", "60 g", "net.jpg"},
}

// wordHTML is how a word processor saves a heading, a paragraph and a list.
func wordHTML(heading, text, mark string, items ...string) string {
	const style = ` style='font-size:10.5pt;font-family:"Body Sans",sans-serif;mso-fareast-language:EN-GB'`
	s := `<!--[if gte mso 9]><xml><o:OfficeDocumentSettings><o:AllowPNG/></o:OfficeDocumentSettings></xml><![endif]-->` +
		`<h2 style='margin-top:12.0pt'><span lang=EN-GB` + style + `>` + heading + `<o:p></o:p></span></h2>` +
		`<p class=MsoNormal style='margin-bottom:0cm'><span lang=EN-GB` + style + `>` + text + `<o:p></o:p></span></p>` +
		`<p class=MsoNormal><o:p>&nbsp;</o:p></p>`
	for _, item := range items {
		s += `<p class=MsoListParagraph style='text-indent:-18.0pt;mso-list:l0 level1 lfo1'><![if !supportLists]><span style='font-family:Symbol'>` +
			`<span style='mso-list:Ignore'>` + mark + `<span style='font:7.0pt "Body Serif"'>&nbsp;&nbsp;&nbsp; </span></span></span><![endif]><span` + style + `>` + item + `<o:p></o:p></span></p>`
	}
	return s
}

// millbrookRules is the rulebook for it.
const millbrookRules = `# Descriptions as Linden Row Apiary Supply has them.
#   zetanum repair millbrook-texts.csv -rules millbrook-texts.toml

[shop]
hosts = ["www.linden-row.example"]  # links to others leave the shop

[description]                       # of a word processor, of other shops, of a text file
clean         = true
links         = "same-shop"
images        = "to-images"         # behind the pictures of the product
headings_from = 3                   # the title of the page is above them
bold_headings = true
named_lines   = "table"             # Capacity: 12 frames
no_mention    = ["Anderswo"]

[short_description]                 # where there is none, the first sentences
from    = "description"
longest = 90
`

// millbrookFiles returns the catalogue, and its rulebook.
func millbrookFiles() (map[string][]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.Write([]string{"SKU", "Barcode", "Title", "Description", "Short description", "Weight", "Price", "Image"}); err != nil {
		return nil, err
	}
	for i, m := range millbrook {
		code, err := barcode.Complete(fmt.Sprintf("95213080%04d", 2100+i))
		if err != nil {
			return nil, err
		}
		image := ""
		if m.image != "" {
			image = "https://cdn.millbrook.example/" + m.image
		}
		if err := w.Write([]string{fmt.Sprintf("MB-%02d", i+1), code.String(), m.title, m.description, m.short, m.weight, fmt.Sprintf("%d.90", 9+7*i%60), image}); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return map[string][]byte{"millbrook-texts.csv": b.Bytes(), "millbrook-texts.toml": []byte(millbrookRules)}, w.Error()
}
