package markup

import "testing"

// Descriptions as they are, most of them, and as a word processor writes them.
const (
	tidyHTML   = `<p>Smoker with a leather bellows, made of steel that does not rust, for hives of any kind and size in the garden.</p><ul><li>Weight 850 g with the bellows</li><li>Number "12", made for “quiet” hives &amp; others</li></ul><p>Fill it with dry wood, and light it from below with a little paper.</p>`
	untidyHTML = `<p class="MsoNormal" style="margin-bottom:0cm"><b>Smoker</b> with a leather bellows,&nbsp; made of steel that does not rust.<br></p><p>&nbsp;</p><UL type=square>
<LI><span data-x="1">Weight 850 g with the bellows</span></LI>
<LI><span data-x="1">Number "12", made for quiet hives & others</span></LI>
</UL><div><font color="#333">Fill it with dry wood, and light it from below.</font></div>`
)

func BenchmarkLook(b *testing.B) {
	for name, in := range map[string]string{"tidy": tidyHTML, "untidy": untidyHTML} {
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(in)))
			b.ReportAllocs()
			var l Looker
			for b.Loop() {
				l.Look(in)
			}
		})
	}
}

func BenchmarkColumn(b *testing.B) {
	b.SetBytes(int64(len(tidyHTML)))
	var c Column
	for b.Loop() {
		c.Add(tidyHTML)
	}
}

func BenchmarkClean(b *testing.B) {
	for name, in := range map[string]string{"tidy": tidyHTML, "untidy": untidyHTML} {
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(in)))
			b.ReportAllocs()
			c := (&Rules{Clean: true}).NewCleaner(nil)
			for b.Loop() {
				if _, err := c.Clean(in, &Shown{HTML: true, Layout: OneLine}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
