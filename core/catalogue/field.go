package catalogue

import (
	"maps"
	"slices"
)

// A Field is what a column means, whatever its heading says. The zero value
// is [Unknown]: a column whose meaning nobody has said.
type Field uint8

// The fields of a catalogue.
const (
	Unknown Field = iota
	SKU
	ParentSKU
	Barcode
	MPN
	Title
	Brand
	Category
	Type
	Tags
	Description
	ShortDescription
	Price
	SalePrice
	SaleFrom
	SaleTo
	Cost
	Stock
	Weight
	Length
	Width
	Height
	Images
	ImageAlt
	ImageOrder
	Slug
	Colour
	Size
	Material
	Published
	Supplier
	Language
	ListPrice
	WholesalePrice
	FloorPrice
	Currency
	InStock
	TrackStock
	Backorders
	LowStock
	numFields
)

// A Kind is the nature of a field's cells; it decides which rules may touch
// them at all. Its names in a rulebook are those of [KindNames].
type Kind uint8

// The kinds of field. A cell of an [Unknown] field is of kind [AnyKind].
const (
	AnyKind  Kind = iota // nothing is known: only what is harmless anywhere
	CodeKind             // every character counts: SKU, barcode, part number
	LineKind             // words on one line: a title, a brand
	HTMLKind             // markup: left to the rules for markup
	NumberKind
	DateKind
	ListKind // words with separators: tags
	LinkKind
	YesNoKind
	PriceKind   // an amount of money
	MeasureKind // a weight or a length, perhaps with its unit
)

var kindNames = map[string]Kind{
	"text": LineKind, "code": CodeKind, "html": HTMLKind, "number": NumberKind,
	"date": DateKind, "list": ListKind, "link": LinkKind, "yes/no": YesNoKind, "price": PriceKind, "measure": MeasureKind,
}

// ParseKind returns the kind of that name: "text", "yes/no"; ok is false if there
// is none.
func ParseKind(name string) (k Kind, ok bool) {
	k, ok = kindNames[name]
	return k, ok
}

// String returns the name of a kind in a rulebook, "" of [AnyKind].
func (k Kind) String() string {
	for name, kind := range kindNames {
		if kind == k {
			return name
		}
	}
	return ""
}

// Numeric reports whether the cells of a kind say how much of something there is.
func (k Kind) Numeric() bool { return k == NumberKind || k == PriceKind || k == MeasureKind }

// KindNames returns the names of all kinds.
func KindNames() []string { return slices.Sorted(maps.Keys(kindNames)) }

var fieldTable = [numFields]struct {
	name string
	kind Kind
}{
	Unknown:          {"", AnyKind},
	SKU:              {"sku", CodeKind},
	ParentSKU:        {"parent_sku", CodeKind},
	Barcode:          {"barcode", CodeKind},
	MPN:              {"mpn", CodeKind},
	Title:            {"title", LineKind},
	Brand:            {"brand", LineKind},
	Category:         {"category", LineKind},
	Type:             {"type", LineKind},
	Tags:             {"tags", ListKind},
	Description:      {"description", HTMLKind},
	ShortDescription: {"short_description", HTMLKind},
	Price:            {"price", PriceKind},
	SalePrice:        {"sale_price", PriceKind},
	SaleFrom:         {"sale_from", DateKind},
	SaleTo:           {"sale_to", DateKind},
	Cost:             {"cost", PriceKind},
	Stock:            {"stock", NumberKind},
	Weight:           {"weight", MeasureKind},
	Length:           {"length", MeasureKind},
	Width:            {"width", MeasureKind},
	Height:           {"height", MeasureKind},
	Images:           {"images", LinkKind},
	ImageAlt:         {"image_alt", LineKind},
	ImageOrder:       {"image_order", NumberKind},
	Slug:             {"slug", CodeKind},
	Colour:           {"colour", LineKind},
	Size:             {"size", LineKind},
	Material:         {"material", LineKind},
	Published:        {"published", AnyKind},
	Supplier:         {"supplier", LineKind},
	Language:         {"language", CodeKind},
	ListPrice:        {"list_price", PriceKind},
	WholesalePrice:   {"wholesale_price", PriceKind},
	FloorPrice:       {"floor_price", PriceKind},
	Currency:         {"currency", CodeKind},
	InStock:          {"in_stock", YesNoKind},
	TrackStock:       {"track_stock", YesNoKind},
	Backorders:       {"backorders", YesNoKind},
	LowStock:         {"low_stock", NumberKind},
}

// String returns the field's name as a rulebook or a flag spells it, or "" for
// [Unknown].
func (f Field) String() string { return fieldTable[f].name }

// Near returns the field in place of which one stands where that is missing, as a list price is the price of a sheet without another;
// [Unknown] for most.
func (f Field) Near() Field {
	switch f {
	case ListPrice:
		return Price
	case WholesalePrice:
		return Cost
	case InStock:
		return Stock
	}
	return Unknown
}

// Kind returns the nature of the field's cells.
func (f Field) Kind() Kind { return fieldTable[f].kind }

// ParseField returns the field of that name; ok is false if there is none.
func ParseField(name string) (f Field, ok bool) {
	for f := SKU; f < numFields; f++ {
		if fieldTable[f].name == name {
			return f, true
		}
	}
	return Unknown, false
}

// ParseFields returns the fields of headings whose names are those of fields.
func ParseFields(headings map[string]string) map[string]Field {
	fields := make(map[string]Field, len(headings))
	for h, name := range headings {
		if f, ok := ParseField(name); ok {
			fields[h] = f
		}
	}
	return fields
}

// FieldNames returns the names of all fields in their fixed order.
func FieldNames() []string {
	names := make([]string, 0, numFields-1)
	for f := SKU; f < numFields; f++ {
		names = append(names, fieldTable[f].name)
	}
	return names
}

// Fields is a set of fields.
type Fields uint64

// FieldsOf returns the set of the given fields.
func FieldsOf(fields ...Field) (set Fields) {
	for _, f := range fields {
		set |= 1 << f
	}
	return set
}

// Has reports whether f is in the set.
func (s Fields) Has(f Field) bool { return s&(1<<f) != 0 }

// Columns ties the columns of one sheet to their fields.
type Columns struct {
	Headings []string   // as they stand in the sheet
	Fields   []Field    // one for each heading
	Added    int        // how many of them, at the end, the sheet itself does not have
	Declared []Declared // one for each heading, or nil if there are none
}

// Declared is a field of the shop's own, which its rulebook declares; without a
// name, none.
type Declared struct {
	Name string
	Kind Kind
}

// Kind returns the nature of a column's cells.
func (c *Columns) Kind(col int) Kind {
	if name, kind := c.declared(col); name != "" {
		return kind
	}
	return c.Fields[col].Kind()
}

// Name returns the name of the field of a column, "" if it has none.
func (c *Columns) Name(col int) string {
	if name, _ := c.declared(col); name != "" {
		return name
	}
	return c.Fields[col].String()
}

func (c *Columns) declared(col int) (string, Kind) {
	if col >= len(c.Declared) {
		return "", AnyKind
	}
	return c.Declared[col].Name, c.Declared[col].Kind
}

// IsAttribute reports whether a column says a property of products by which buyers search: a field such as the colour, or one of the
// shop's own that is no code, link or text of several lines.
func (c *Columns) IsAttribute(col int) bool {
	if name, kind := c.declared(col); name != "" {
		return kind != CodeKind && kind != LinkKind && kind != HTMLKind
	}
	switch c.Fields[col] {
	case Brand, Type, Colour, Size, Material, Weight, Length, Width, Height:
		return true
	}
	return false
}

// Declare makes a column one of a field of the shop's own.
func (c *Columns) Declare(col int, d Declared) {
	for len(c.Declared) < len(c.Headings) {
		c.Declared = append(c.Declared, Declared{})
	}
	c.Declared[col], c.Fields[col] = d, Unknown
}

// Own returns how many columns the sheet itself has.
func (c *Columns) Own() int { return len(c.Headings) - c.Added }

// First returns the first column of a field, or -1.
func (c *Columns) First(f Field) int {
	for i, g := range c.Fields {
		if g == f {
			return i
		}
	}
	return -1
}

// All returns every column of a field, from left to right.
func (c *Columns) All(f Field) []int {
	var cols []int
	for i, g := range c.Fields {
		if g == f {
			cols = append(cols, i)
		}
	}
	return cols
}
