package products

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestShared(t *testing.T) {
	for titles, want := range map[string]string{
		"Round veil, S#Round veil, M#Round veil, XL":                "Round veil: S, M, XL",
		"Hive box (cedar)#Hive box (pine, oiled)":                   "Hive box: cedar, pine, oiled",
		"S round veil#M round veil":                                 "Round veil: S, M",
		"Beeswax candle 10 cm natural#beeswax candle 15 cm natural": "Beeswax candle natural: 10 cm, 15 cm",
		"Veil – black#Veil - white":                                 "Veil: black, white",
		"Wax 1 kg#Wax 500 g":                                        "Wax: 1 kg, 500 g",
		"Veil black S#Veil black M#Veil white S":                    "Veil: black S, black M, white S",
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

// TestSharedLosesNothing: each word of a title is in what is shared or in what is left of it.
func TestSharedLosesNothing(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	words := []string{"Round", "veil,", "S", "M", "black", "-", "20", "cm", "(white)", "round"}
	split := func(s string) (list []string) {
		for _, w := range strings.Fields(s) {
			if w = strings.ToLower(strings.Trim(w, separators)); w != "" {
				list = append(list, w)
			}
		}
		return list
	}
	shared := 0
	for range 5000 {
		var titles []string
		for range 2 + r.IntN(2) {
			var title []string
			for range 1 + r.IntN(4) {
				title = append(title, words[r.IntN(len(words))])
			}
			titles = append(titles, strings.Join(title, " "))
		}
		common, rest, ok := Shared(titles)
		if !ok {
			continue
		}
		shared++
		for i, title := range titles {
			require.NotEmpty(t, rest[i])
			require.ElementsMatch(t, split(title), append(split(common), split(rest[i])...), "%q: %q and %q", titles, common, rest[i])
		}
	}
	require.Greater(t, shared, 200)
}
