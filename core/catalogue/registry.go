package catalogue

import (
	"fmt"
	"slices"
	"strings"
)

// A Code names a kind of finding; its texts stand in the registry.
type Code uint16

// The kinds of finding.
const (
	NoFinding Code = iota
	BarcodeCheckDigit
	BarcodeLength
	BarcodeNotACode
	BarcodeSaysNone
	BarcodeRounded
	BarcodeOnlyOne
	BarcodeNone
	BarcodeFlattened
	BarcodeShared
	BarcodeZeroFilled
	BarcodeLeadingZero
	BarcodeNoCheckDigit
	BarcodeTwoCodes
	BarcodeTooLong
	BarcodeTail
	BarcodeOtherKind
	BarcodeReplaced
	BarcodeAmongWords
	BarcodePlaceholder
	BarcodeByChance
	BarcodeKind
	BarcodePrefix
	BarcodeUnassigned
	BarcodeVariant
	BarcodeIsSKU
	BarcodeEqualsSKU
	BarcodeIsPrice
	BarcodeDuplicate
	BarcodeMissing
	TrustDiffers
	TrustOutside
	TrustProposes
	TrustDamaged
	TrustKeyTwice
	TrustCodeTwice
	TrustDisagrees
	TrustSeveralRows
	TrustFits
	TrustMayFit
	TrustByTitle
	MemoryOpen
	MemoryTitle
	MemoryNear
	SKUDuplicate
	SKUMissing
	SlugDuplicate
	SKUScientific
	SKUReplaced
	SKUShort
	SKUIsTitle
	RowBlank
	RowHeading
	RowTotal
	RowNames
	RowUnits
	RowExample
	RowGuide
	RowNote
	RowHidden
	RowDuplicate
	RowSample
	RowNotWanted
	RowInShop
	RowNotInShop
	RowUnchanged
	RowNoPlace
	RowLeftOut
	RowTaken
	RowSkipped
	RowPassedOver
	RowPassedOverDiffers
	RowRepeated
	RowRefused
	RowShort
	RowSwallowed
	RowOfAnother
	RowLong
	RowOutside
	RowSplitNumber
	RowStrayQuote
	RowOpenQuote
	CellFormula
	CellDamaged
	CellNoValue
	CellError
	ColumnUnsuited
	ColumnParts
	ColumnNotInside
	ColumnNameless
	ColumnContents
	ColumnSwapped
	ColumnTwice
	ColumnNoHeading
	ProductNoLead
	ProductDiffers
	ProductKeysDiffer
	ProductNearKey
	ProductMisplaced
	ProductUnlike
	ProductScattered
	ProductTooLarge
	ProductNoParent
	ProductNoVariants
	ProductPerhapsNoVariants
	ProductLeftOut
	ProductCopied
	VariantNoPrice
	VariantSameSKU
	VariantCopied
	OptionNone
	OptionMissing
	OptionAlike
	OptionPerhapsMissing
	OptionPerhapsAlike
	OptionNames
	OptionNoName
	OptionPacked
	EachTwice
	EachBarcode
	EachSKU
	EachTogether
	EachNameless
	EachUnlike
	ReplaceUnsettled
	ValueMissing
	ValueTongue
	ValueTwice
	ValueLong
	ValueShort
	ValueUnlisted
	ValueNotWritten
	PriceNotReckoned
	PriceLeaps
	PriceMargin
	MeasurePair
	ValueSpelling
	ValueTie
	ValueMisspelt
	TagsUntidy
	TagsUnlisted
	TagsNone
	TagsInside
	TagsLong
	TagsLost
	BrandPlaceholder
	BrandInTitle
	BrandSeveral
	CategoryUntidy
	CategoryUnmapped
	PriceNotANumber
	PriceOpen
	PriceNegative
	PriceCurrency
	SaleZero
	SaleNotBelow
	SaleReversed
	DateImpossible
	DateOpen
	PriceIsBarcode
	PriceOdd
	PriceOrder
	PriceSwapped
	SaleAlone
	SaleHalfDated
	SaleOver
	SaleUndated
	SaleTrap
	MeasureOdd
	ColumnShifted
	PriceRatio
	ColumnMixed
	ValueMisplaced
	StockNegative
	StockNotANumber
	StockIsBarcode
	StockContradicts
	FlagPartly
	ImageNoLink
	ImageFileName
	ImageDisk
	ImageData
	ImageFormula
	ImagePasted
	ImageScheme
	ImageUnclear
	ImageLogin
	ImagePrivate
	ImagePage
	ImageViewer
	ImageExpires
	ImageUntidy
	ImageTwice
	ImageMark
	ImageStandIn
	ImageDetails
	ImageMissing
	ImageMany
	ImageFew
	ImageType
	ImageLoose
	ImageBroken
	ImageUnprepared
	ImageFalseType
	ImageColours
	ImageSmall
	ImageLarge
	ImageHeavy
	ImageDead
	ImageMoved
	ImageSilent
	TitleMarkup
	TitleOther
	TitleUnfit
	TitleMissing
	TitleShort
	TitleTwice
	TitleIsDescription
	TitleIsCode
	TitleDigits
	TitleStaff
	TitleClutter
	TitleShouts
	TitleMeasures
	DescriptionDeep
	DescriptionUnclear
	DescriptionUnsafe
	DescriptionBroken
	DescriptionCode
	DescriptionUntidy
	DescriptionMissing
	DescriptionEmpty
	DescriptionEmptyList
	DescriptionHeadings
	DescriptionTable
	DescriptionTwice
	DescriptionSwapped
	DescriptionSame
	DescriptionPlaceholder
	DescriptionMention
	DescriptionPhrase
	DescriptionAstray
	DescriptionLeaves
	DescriptionInsecure
	DescriptionFigure
	RowSwapped
	BuildMissing
	MintMissing
	MintTaken
	MintTwins
	MintCheck
	MintLost
	DeriveNone
	DeriveSeveral
	ExpandUnknown
	ShopSeveral
	ShopTaken
	ShopTwice
	ShopNoKey
	BorrowUnmatched
	BorrowAlike
	BorrowTwice
	BorrowUnsuited
	BorrowError
	TextMisread
	TextGarbled
	TextLost
	TextControl
	TextIllFormed
	TextUnreadable
	TextCut
	TextUndecided
	TextMixed
	TextCodeSpaces
	TextFormula
	TargetStandIn
	TargetLacks
	TargetRequired
	TargetUnlisted
	TargetUnfit
	TargetLeftEmpty
	TargetHalf
	TargetNoRoom
	TargetNowhere
	TargetSample
	TargetReference
	numCodes
)

// An Entry is what the registry says about one kind of finding.
type Entry struct {
	Name     string   // "barcode.check-digit"
	Severity Severity // what it means for the row
	Ways     Ways     // how its products go out although it is not settled
	Title    string   // a few words for tables
	Sentence string   // what is wrong; {names} stand for the facts of the case
	Do       string   // what to do next
	Ask      string   // the question for a whole column that a yes to settles, if what is likely can be taken
	Order    string   // the lines of a rulebook that do what is proposed; "" if nothing is
	Value    string   // what may be said in place of a yes or no, in words; "" if nothing
	Example  string   // a cell and what is said of it
}

// MostCodes is more than there are kinds of finding.
const MostCodes = int(numCodes)

// Entry returns what the registry says.
func (c Code) Entry() *Entry { return &findings[c] }

// String returns the name of the finding.
func (c Code) String() string { return findings[c].Name }

// OfCell reports whether a finding is about what stands in a cell of the file, whatever the rulebook
// says of it.
func (c Code) OfCell() bool {
	area, _, _ := strings.Cut(findings[c].Name, ".")
	return area == "barcode" || area == "trust" || area == "text" || area == "cell"
}

// ofColumns are the areas of findings about a column.
var ofColumns = []string{"value", "borrow", "target", "price", "stock", "image", "title", "description", "mint"}

// OfColumn reports whether a finding is about a column, by what stands in a cell or what the rulebook
// says of it, so that it is of no account where the column does not go out.
func (c Code) OfColumn() bool {
	area, _, _ := strings.Cut(findings[c].Name, ".")
	return c.OfCell() || slices.Contains(ofColumns, area)
}

// Lacks reports whether a finding of that severity says that something is open or missing in a cell
// which another sheet may have.
func (c Code) Lacks(severity Severity) bool {
	area, _, _ := strings.Cut(findings[c].Name, ".")
	return c == BarcodeMissing || severity == Error && (c == ValueMissing || area == "barcode" || area == "trust")
}

// Stretch reports whether the finding is one of a stretch of rows, which ends with the row in its facts.
func (c Code) Stretch() bool { return c == PriceSwapped || c == ColumnShifted || c == ColumnMixed }

// SetsAside reports whether the finding says that a row is no product for the
// importer.
func (c Code) SetsAside() bool {
	return c >= RowBlank && c <= RowPassedOverDiffers
}

// StillClaims reports whether a row that it sets aside keeps its codes, so that no other may have them: only the file is not for it.
func (c Code) StillClaims() bool { return c == RowInShop || c == RowNotInShop || c == RowUnchanged }

// MarshalText writes the name of the finding.
func (c Code) MarshalText() ([]byte, error) { return []byte(c.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (c *Code) UnmarshalText(text []byte) error {
	found, ok := FindCode(string(text))
	if !ok {
		return fmt.Errorf("there is no finding %q", text)
	}
	*c = found
	return nil
}

// Codes returns every kind of finding in its fixed order.
func Codes() []Code {
	codes := make([]Code, 0, numCodes-1)
	for c := NoFinding + 1; c < numCodes; c++ {
		codes = append(codes, c)
	}
	return codes
}

// FindCode returns the kind of finding of that name.
func FindCode(name string) (Code, bool) {
	for _, c := range Codes() {
		if strings.EqualFold(findings[c].Name, name) {
			return c, true
		}
	}
	return NoFinding, false
}

// A Rule names a kind of change; its texts stand in the registry.
type Rule uint8

// The rules that may write a cell.
const (
	NoRule Rule = iota
	RuleUndress
	RuleTail
	RuleGrouping
	RuleScientific
	RuleZeroFilled
	RuleLeadingZero
	RuleRepeated
	RuleAmongWords
	RuleOnlyOne
	RuleAddCheckDigit
	RuleTrusted
	RuleTrustedTitle
	RuleEarlier
	RuleRemembered
	RuleDecided
	RuleSecond
	RuleWriteAs
	RuleFill
	RuleBlanked
	RuleReturned
	RuleTrustedSKU
	RuleReplace
	RuleAround
	RuleClosing
	RuleClean
	RuleCase
	RuleMeasures
	RuleFit
	RuleTags
	RuleBrand
	RuleCategory
	RuleMarkup
	RuleAsText
	RuleBeginning
	RulePictures
	RuleBuild
	RuleMint
	RuleDerive
	RuleExpand
	RuleBorrow
	RuleListed
	RuleAmount
	RuleUnify
	RuleAdd
	RuleCopy
	RuleSplit
	RuleJoin
	RuleMerged
	RuleUnpack
	RulePack
	RuleImageFile
	RuleImageName
	RuleImageLink
	RuleImageTwice
	RuleImageKept
	RuleImageText
	RuleImageDead
	RuleImageMoved
	RuleImageRows
	RuleEach
	RuleForAll
	RuleImageCell
	RuleImageNumber
	RuleVariantImage
	RuleAsLead
	RuleMoved
	RuleLeadOnly
	RuleTitles
	RuleDecoded
	RuleMended
	RuleComposed
	RuleTextBacked
	RuleOneScript
	RulePlainWidth
	RulePlainQuotes
	RuleQuoteFormula
	RuleEntities
	RuleSpaces
	RuleInvisible
	RuleSplitNumber
	RuleStandIn
	RuleTemplate
	RuleShop
	RuleOrigin
	numRules
)

// A RuleClass says what happens when a rule meets its own result.
type RuleClass uint8

// The classes of rules.
const (
	Repair   RuleClass = iota // doing it twice is doing it once
	Settling                  // it recognises its own result
	OneWay                    // it would do it again
)

// A RuleEntry is what the registry says about one rule.
type RuleEntry struct {
	Name  string
	Class RuleClass
	Title string // a few words for tables: what was done
}

// Entry returns what the registry says.
func (r Rule) Entry() *RuleEntry { return &rules[r] }

// String returns the name of the rule.
func (r Rule) String() string { return rules[r].Name }

// MarshalText writes the name of the rule.
func (r Rule) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (r *Rule) UnmarshalText(text []byte) error {
	for _, rule := range Rules() {
		if rules[rule].Name == string(text) {
			*r = rule
			return nil
		}
	}
	return fmt.Errorf("there is no rule %q", text)
}

// Rules returns every rule in its fixed order.
func Rules() []Rule {
	list := make([]Rule, 0, numRules-1)
	for r := NoRule + 1; r < numRules; r++ {
		list = append(list, r)
	}
	return list
}

var rules = [numRules]RuleEntry{
	RuleUndress:       {"repair.undressed", Repair, "spaces, signs and labels around a barcode taken off"},
	RuleTail:          {"repair.tail", Repair, "a decimal tail of zeros taken off a barcode"},
	RuleGrouping:      {"repair.grouping", Repair, "thousands marks taken out of a barcode"},
	RuleScientific:    {"repair.scientific", Repair, "all digits were there behind the scientific notation"},
	RuleZeroFilled:    {"repair.last-zero", Repair, "the zero at the end that scientific notation drops put back"},
	RuleLeadingZero:   {"repair.leading-zero", Repair, "leading zeros put back"},
	RuleRepeated:      {"repair.repeated", Repair, "a barcode that stood twice in its cell written once"},
	RuleAmongWords:    {"repair.among-words", Repair, "words around a barcode taken off"},
	RuleOnlyOne:       {"repair.only-one", Repair, "the only code that fits put in"},
	RuleAddCheckDigit: {"repair.check-digit-added", Repair, "the check digit that was left off appended"},
	RuleTrusted:       {"repair.trusted", Repair, "taken from a trusted sheet by SKU"},
	RuleTrustedTitle:  {"repair.trusted-title", Repair, "taken from a trusted sheet by title and options"},
	RuleEarlier:       {"repair.earlier", Repair, "restored from our own earlier output by SKU"},
	RuleRemembered:    {"repair.remembered", Repair, "brought back from the register, which remembers it from an earlier file"},
	RuleDecided:       {"decided.value", Settling, "what a person has said that it is"},
	RuleSecond:        {"repair.second", Repair, "the second code of a cell moved to its own column"},
	RuleWriteAs:       {"order.write-as", Settling, "barcode written in the form that was ordered"},
	RuleBlanked:       {"decided.empty", Settling, "an open cell written empty, as was answered"},
	RuleReturned:      {"decided.mended", Settling, "a cell that somebody has mended"},
	RuleFill:          {"order.fill", Settling, "a column filled with the code of another"},
	RuleTrustedSKU:    {"repair.trusted-sku", Repair, "an SKU restored from a trusted sheet"},
	RuleReplace:       {"order.replace", Settling, "a text replaced by another"},
	RuleSplit:         {"order.split", Settling, "a cell taken apart into columns"},
	RuleJoin:          {"order.join", Settling, "cells joined in one column"},
	RuleMerged:        {"order.merged", Settling, "what a merged cell says filled into all of its rows"},
	RuleUnpack:        {"order.unpack", Settling, "options that were packed in one cell put into columns"},
	RulePack:          {"order.pack", Settling, "options packed in one cell"},
	RuleImageFile:     {"order.image-file", Settling, "files of a folder put where a product had no image"},
	RuleImageName:     {"order.image-name", Settling, "names of images made of other cells"},
	RuleImageLink:     {"order.image-link", Settling, "the link of an image written as it should be"},
	RuleImageTwice:    {"order.image-twice", Settling, "an image that a product had twice taken out"},
	RuleImageKept:     {"order.image-kept", Settling, "images that the shop has put before those of the file"},
	RuleImageDead:     {"order.image-dead", Settling, "a link that leads to no picture taken out"},
	RuleImageMoved:    {"order.image-moved", Settling, "the address of a picture put in place of a link that has moved"},
	RuleImageText:     {"order.image-text", Settling, "the text of an image made of other cells"},
	RuleImageRows:     {"order.image-rows", Settling, "images in one cell put into rows of their own"},
	RuleEach:          {"order.each", Settling, "one row made into one for each value of a list"},
	RuleForAll:        {"order.for-all", Settling, "rows of several values made into one with a list"},
	RuleImageCell:     {"order.image-cell", Settling, "images of several rows put into one cell"},
	RuleVariantImage:  {"order.variant-image", Settling, "an image for each variant: its own, or the first of the product"},
	RuleImageNumber:   {"order.image-number", Settling, "images of a product numbered from 1 on"},
	RuleAsLead:        {"order.as-lead", Settling, "what belongs to the whole product made the same as in its lead row"},
	RuleTitles:        {"order.titles", Settling, "one title made of several, and an option of what differed"},
	RuleLeadOnly:      {"order.lead-only", Settling, "what the lead row says of the product taken out of the other rows"},
	RuleMoved:         {"order.moved", Settling, "what belongs to the whole product moved to its lead row"},
	RuleAround:        {"order.around", Settling, "words put before or after a text"},
	RuleClosing:       {"order.closing", Settling, "a closing text put at the end"},
	RuleClean:         {"order.clean", Settling, "what does not belong there taken out of a title"},
	RuleCase:          {"order.case", Settling, "letters written in the style that was ordered"},
	RuleMeasures:      {"order.measures", Settling, "measures written with the symbol of their unit"},
	RuleFit:           {"order.fit", Settling, "a title made to fit"},
	RuleTags:          {"order.tags", Settling, "tags put in order"},
	RuleBrand:         {"order.brand", Settling, "a brand put in order"},
	RuleCategory:      {"order.category", Settling, "a category written as the shop has it"},
	RuleMarkup:        {"order.markup", Settling, "a description written as safe and tidy HTML"},
	RuleAsText:        {"order.as-text", Settling, "a description written as plain text"},
	RuleBeginning:     {"order.beginning", Settling, "an empty cell filled with the beginning of a longer text"},
	RulePictures:      {"order.pictures", Settling, "pictures of a description moved to the images of the product"},
	RuleBuild:         {"order.build", Settling, "a cell built from others"},
	RuleMint:          {"order.mint", Settling, "a code made that nobody has"},
	RuleDerive:        {"order.derive", Settling, "a value derived from words in a text"},
	RuleExpand:        {"order.expand", Settling, "a short code written out"},
	RuleBorrow:        {"order.borrow", Settling, "a value borrowed from another sheet"},
	RuleAmount:        {"order.amount", Settling, "reckoned, or written as the target wants it"},
	RuleListed:        {"order.listed", Settling, "a value written as its list has it"},
	RuleUnify:         {"order.unify", Settling, "spellings of one value brought to one"},
	RuleAdd:           {"order.add", Settling, "a column filled with a fixed value"},
	RuleCopy:          {"order.copy", Settling, "a column filled from another"},
	RuleEntities:      {"repair.entities", Repair, "characters that were written as HTML entities written as themselves"},
	RuleMended:        {"repair.mended", Repair, "a text that had been decoded wrongly mended"},
	RuleDecoded:       {"repair.decoded", Repair, "bytes of another encoding decoded"},
	RuleTextBacked:    {"repair.text-backed", Repair, "a text of which characters were lost taken from a trusted sheet by SKU"},
	RuleComposed:      {"repair.composed", Repair, "letters and the accents behind them made one character"},
	RuleOneScript:     {"repair.one-script", Repair, "letters of another script that look like those of the word replaced by these"},
	RulePlainWidth:    {"order.plain-width", Settling, "full-width letters, digits and signs made plain"},
	RuleQuoteFormula:  {"order.quote-formula", Settling, "an apostrophe put before what a spreadsheet program would run as a formula"},
	RulePlainQuotes:   {"order.plain-quotes", Settling, "curly quotation marks made plain"},
	RuleSpaces:        {"repair.spaces", Repair, "stray spaces taken out"},
	RuleInvisible:     {"repair.invisible", Repair, "invisible characters taken out"},
	RuleStandIn:       {"order.stand-in", Settling, "characters that the encoding of the target does not have replaced by what stands for them"},
	RuleTemplate:      {"order.template", Settling, "cells written as the template has them"},
	RuleShop:          {"order.shop", Settling, "the shop's own number, or what the importer is to do with the row"},
	RuleOrigin:        {"order.origin", Settling, "where a product came from"},
	RuleSplitNumber:   {"repair.split-number", Repair, "a number that its decimal comma had split joined again"},
}
