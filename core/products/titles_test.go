package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestShared(t *testing.T) {
	for titles, want := range map[string]string{
		"Round veil, S#Round veil, M#Round veil, XL":                "Round veil: S, M, XL",
		"Hive box (cedar)#Hive box (pine, oiled)":                   "Hive box: cedar, pine, oiled",
		"S round veil#M round veil":                                 "round veil: S, M",
		"Beeswax candle 10 cm natural#beeswax candle 15 cm natural": "Beeswax candle natural: 10 cm, 15 cm",
		"Veil – black#Veil - white":                                 "Veil: black, white",
		"Veil#Veil large":                                           "",
		"Veil#Veil":                                                 "",
		"Smoker#Hive tool":                                          "",
		"12 cm#15 cm":                                               "",
		"Veil":                                                      "",
	} {
		common, rest, ok := Shared(strings.Split(titles, "#"))
		got := ""
		if ok {
			got = common + ": " + strings.Join(rest, ", ")
		}
		assert.Equal(t, want, got, titles)
	}
}
