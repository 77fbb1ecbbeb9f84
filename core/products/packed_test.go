package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestPacked: how options are written in a column is seen from its cells; what cannot be
// taken apart says why.
func TestPacked(t *testing.T) {
	for _, test := range []struct {
		name, cells, names, namesOf string
		want, called, first         string
	}{
		{"names and values", "Colour: honey; Size: L#Colour: ivory; Size: M#none#", "", "", "NAME:VALUE; NAME:VALUE", "Colour Size",
			"Colour=honey Size=L"},
		{"in capitals", "COLOUR=honey|SIZE=L#SIZE=M|COLOUR=ivory", "", "", "NAME=VALUE|NAME=VALUE", "COLOUR SIZE", "COLOUR=honey SIZE=L"},
		{"values only", "honey / L#ivory / M#ivory", "Colour Size", "", "VALUE / VALUE", "Colour Size", "Colour=honey Size=L"},
		{"a slash in a value", "honey / 1/2 l#ivory / 1 l", "Colour Size", "", "VALUE / VALUE", "Colour Size", "Colour=honey Size=1/2 l"},
		{"names in another cell", "honey; L#wide; M", "", "Colour; Size#Cut; Size", "VALUE; VALUE", "Colour Size Cut",
			"Colour=honey Size=L"},
		{"lines", "Colour: honey\nSize: L#Colour: ivory", "", "", "NAME:VALUE on lines", "Colour Size", "Colour=honey Size=L"},
		{"one option", "Size: L#Size: M", "", "", "NAME:VALUE; NAME:VALUE", "Size", "Size=L"},
		{"a comma in a value", "Colour: red, dark; Size: L#Colour: blue, light; Size: M", "", "", "NAME:VALUE; NAME:VALUE", "Colour Size",
			"Colour=red, dark Size=L"},
		{"nothing packed", "honey#ivory", "", "", "", "", ""},
		{"mostly something else", "Colour: honey#a#b#c#d", "", "", "NAME:VALUE; NAME:VALUE", "Colour", "Colour=honey"},
	} {
		cells := strings.Split(test.cells, "#")
		var namesOf []string
		if test.namesOf != "" {
			namesOf = strings.Split(test.namesOf, "#")
		}
		p, called, ok := FindPacking(cells, strings.Fields(test.names), namesOf)
		require.Equal(t, test.want != "", ok, test.name)
		if !ok {
			continue
		}
		assert.Equal(t, test.want, p.String(), test.name)
		assert.Equal(t, test.called, strings.Join(called, " "), test.name)
		own := strings.Fields(test.names)
		if namesOf != nil {
			own = p.Items(namesOf[0])
		}
		list, err := p.Decode(cells[0], own)
		require.NoError(t, err)
		var first []string
		for _, o := range list {
			first = append(first, o.Name+"="+o.Value)
		}
		assert.Equal(t, test.first, strings.Join(first, " "), test.name)
	}
	for cell, says := range map[string]string{"Colour": "no name with a value", "Colour:; Size: L": "no name with a value",
		"Size: L; size: M": "says size twice"} {
		_, err := Packing{";", ":"}.Decode(cell, nil)
		assert.ErrorIs(t, err, ErrPacked)
		assert.ErrorContains(t, err, says)
	}
	_, err := Packing{"/", ""}.Decode("a/b/c", []string{"x", "y"})
	assert.ErrorContains(t, err, "3 values, and there are 2 options")
}

// TestSlots: options take free pairs in the order in which they come, each once however it is written.
func TestSlots(t *testing.T) {
	slots := Slots{"", "Size", ""}
	slots = slots.With([]Pair{{"Colour", "red"}, {"SIZE", "S"}})
	assert.Equal(t, Slots{"Colour", "Size", ""}, slots)
	slots = slots.With([]Pair{{"colour", "blue"}, {"Lid", "gold"}, {"Pack", "6"}})
	assert.Equal(t, Slots{"Colour", "Size", "Lid", "Pack"}, slots, "there is no pair for the last")
	assert.Equal(t, 3, slots.Of("pack"))
	assert.Equal(t, -1, slots.Of("Height"))
}
