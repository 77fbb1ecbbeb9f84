package rulebook

import (
	"cmp"
	"fmt"
	"strings"
)

// A Key is one key of a rulebook, as its reference describes it.
type Key struct {
	Part    string // the table in which it stands: "barcode"
	Name    string
	Says    string
	Example string // TOML, without the line of its table
	Line    string // of its table, if it is not the usual one
}

// Keys returns every key in the order in which the reference lists them.
func Keys() []Key { return keys }

// partOf returns the part that a path of keys leads to; the name of a field is
// the user's own.
func partOf(path []string) string {
	if len(path) == 2 && path[0] == "field" {
		path = path[:1]
	}
	return strings.Join(path, ".")
}

func find(path []string) *Key {
	if len(path) < 2 {
		return nil
	}
	last := len(path) - 1
	part := partOf(path[:last])
	for i := range keys {
		if keys[i].Part == part && keys[i].Name == path[last] {
			return &keys[i]
		}
	}
	return nil
}

// parts are the tables of a rulebook, with what they are for.
var parts = []struct{ name, line, says string }{
	{"headings", "[headings]", "What headings mean that are not recognised by themselves: a heading, and the field that it is."},
	{"columns", "[columns]", "Which columns go out. Columns are named by heading or by field. What is filled is filled down to the last row, and only where it is empty."},
	{"columns.fill", "[[columns.fill]]", "A column filled where it is empty, like add and copy, but with a condition."},
	{"columns.split", "[[columns.split]]", "One column taken apart into several, where these are empty. A cell that has not as many parts is left and named."},
	{"columns.join", "[[columns.join]]", "Several columns put together in one, where that is empty. Empty parts vanish with their separator."},
	{"sheet", "[sheet]", "What becomes of the rows as a whole."},
	{"products", "[products]", "Which rows are one product, and what belongs to the whole product, to each variant and to each image. A product of several rows has a lead row, which carries what belongs to the whole product; each of its rows is a variant, which is sold, or only carries another image."},
	{"images", "[images]", "In which rows and cells the images of a product go out. Rows that are made or put into others are counted: written = ready + added − joined."},
	{"one_row_each", "[[one_row_each]]", "One row with a list of sizes or colours, made into a row for each. What belongs to the variant is copied, what belongs to the product and its images stays in the first row. A row that has a value already is left. A barcode can be that of one row only; such rows are held."},
	{"one_row_for_all", "[[one_row_for_all]]", "Variants that differ in one value, made into one row with a list of the values. A row in which something else differs stays, and is named; a value with what stands between values in it is a list already."},
	{"options", "[[options]]", "Options of variants that are packed in one cell, taken apart into columns of their own, where these are empty: Colour: honey; Size: L, or COLOUR=honey|SIZE=L, or honey / L. How they are written is seen from the column, and said. A cell that cannot be taken apart is held with its text; the others are done. With into they are packed the other way."},
	{"rows", "[[rows]]", "Which rows go out; there may be several. Whole products are kept or set aside: one row that fulfils the condition is enough. Rows set aside are in aside.csv, with the rule."},
	{"borrow", "[[borrow]]", "Values from another sheet, by a key that both have, into cells that are empty; -borrow does the same. Hidden columns count. A key that occurs twice there with different values gives none. Rows without a match are in not-in-NAME.csv, rows of the sheet that nobody asked for in only-in-NAME.csv. Barcodes that are taken by SKU are believed like those of a trusted sheet, so lost ones come back, too."},
	{"build", "[[build]]", "A field built from others, where it is empty. If a cell is empty that the pattern cannot do without, nothing is built, and the row is named."},
	{"derive", "[[derive]]", "A field filled from words that are found in texts, where it is empty. Rows in which no word is found, or words for several values, are named."},
	{"expand", "[[expand]]", "Short codes written out, from a sheet of two columns. Codes that it does not have are named. What is written out already is left."},
	{"replace", "[[replace]]", "Texts put in place of others, in the order of the file; there may be several. Whole words are found, whatever their case, unless the rule says otherwise; in HTML only the text between tags. What already stands with its replacement around it is left, and a cell that the rules would change each time anew is held."},
	{"around", "[[around]]", "Words put before or after a text, with exactly one space; there may be several, and they come after [[replace]]. Words that are there already, whatever their case, are not put there again."},
	{"closing", "[[closing]]", "A standard text at the end of others, once."},
	{"field", "[field.NAME]", "What the cells of a field must be; NAME is a field, or a new one of the shop's own. Rows that are not so are held."},
	{"text", "[text]", "What becomes of all texts: titles, brands, tags and the like, but neither codes nor HTML."},
	{"barcode", "[barcode]", "What the shop wants of its barcodes."},
	{"target", "[target]", "What the file for the importer has to be."},
}

var keys = []Key{
	{Part: "headings", Name: "*", Says: "Any heading of the file, in quotation marks if it has more than letters.", Example: "\"Art. no.\" = \"sku\""},

	{Part: "columns", Name: "drop", Says: "Columns that do not go out; two headings with .. between them are all from the one to the other.", Example: `drop = ["Int. memo", "Cost .. Shelf"]`},
	{Part: "columns", Name: "drop_nameless", Says: "Drops the columns without a heading. What stands in them is named.", Example: `drop_nameless = true`},
	{Part: "columns", Name: "keep", Says: "The only columns that go out.", Example: `keep = ["sku", "price"]`},
	{Part: "columns", Name: "drop_key", Says: "Says that the SKU may be left out, by which the shop matches products.", Example: `drop_key = true`},
	{Part: "columns", Name: "order", Says: "Columns that go out first, in this order.", Example: `order = ["sku", "title"]`},
	{Part: "columns", Name: "rename", Says: "Other headings for columns that go out.", Example: `rename = { "Art. no." = "SKU" }`},
	{Part: "columns", Name: "add", Says: "A fixed value for a column, which is added if it is not there.", Example: `add = { "Language" = "en" }`},
	{Part: "columns", Name: "copy", Says: "A column that is filled from another, and added if it is not there. Into one of barcodes only whole codes go.", Example: `copy = { "MPN" = "sku" }`},

	{Part: "columns", Name: "expect", Says: "The headings of the file that the rulebook was made for. If a file has others, all that differs is said before anything runs; a missing one stops it.", Example: `expect = ["SKU", "Title", "Price"]`},

	{Part: "columns.fill", Name: "into", Says: "The column to fill, which is added if it is not there.", Example: `into = "Region"
with = "UK"`},
	{Part: "columns.fill", Name: "with", Says: "The fixed value.", Example: `into = "Delivery"
with = "Parcel, 2-3 days"`},
	{Part: "columns.fill", Name: "from", Says: "The column to copy.", Example: `into = "MPN"
from = "sku"`},
	{Part: "columns.fill", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `into = "Region"
with = "UK"
where = { category = "Hives" }`},
	{Part: "columns.fill", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `into = "Region"
with = "UK"
count = 12`},
	{Part: "columns.fill", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `into = "Warehouse"
with = "B"
rows = "variants"`},

	{Part: "columns.split", Name: "from", Says: "The column to take apart.", Example: "from = \"Colour / size\"\nat   = \"/\"\ninto = [\"Colour\", \"Size\"]"},
	{Part: "columns.split", Name: "at", Says: "The text between the parts.", Example: "from = \"Dimensions\"\nat   = \"x\"\ninto = [\"Length\", \"Width\", \"Height\"]"},
	{Part: "columns.split", Name: "into", Says: "The columns of the parts, which are added if they are not there.", Example: "from = \"Name\"\nat   = \",\"\ninto = [\"Title\", \"Size\"]"},

	{Part: "columns.join", Name: "from", Says: "The columns to put together.", Example: "from = [\"brand\", \"title\"]\nwith = \" \"\ninto = \"Full title\""},
	{Part: "columns.join", Name: "with", Says: "What stands between the parts.", Example: "from = [\"category\", \"type\"]\nwith = \" > \"\ninto = \"Category path\""},
	{Part: "columns.join", Name: "into", Says: "The column for the whole, which is added if it is not there.", Example: "from = [\"colour\", \"size\"]\nwith = \", \"\ninto = \"Option\""},
	{Part: "columns.split", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `from = "Colour / size"
at   = "/"
into = ["Colour", "Size"]
where = { category = "Hives" }`},
	{Part: "columns.split", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `from = "Colour / size"
at   = "/"
into = ["Colour", "Size"]
count = 12`},
	{Part: "columns.split", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `from = "Colour / size"
at   = "/"
into = ["Colour", "Size"]
rows = "variants"`},
	{Part: "columns.join", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `from = ["brand", "title"]
with = " "
into = "Full title"
where = { category = "Hives" }`},
	{Part: "columns.join", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `from = ["brand", "title"]
with = " "
into = "Full title"
count = 12`},
	{Part: "columns.join", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `from = ["colour", "size"]
with = " / "
into = "Option"
rows = "variants"`},

	{Part: "sheet", Name: "repeats", Says: "What becomes of rows that are the same as another in every cell: set-aside, keep or hold.", Example: `repeats = "hold"`},
	{Part: "sheet", Name: "hidden_rows", Says: "What becomes of rows that a workbook does not show, because they are hidden or filtered out: keep, or set-aside. If nothing is said, they are kept, and counted in the summary.", Example: `hidden_rows = "set-aside"`},
	{Part: "sheet", Name: "hidden_columns", Says: "What becomes of columns that a workbook does not show: keep, or drop. The SKU is kept in any case.", Example: `hidden_columns = "drop"`},
	{Part: "sheet", Name: "fill_merged", Says: "Fills what a merged cell of a workbook says into all rows that it reaches over, where they are empty. Codes are not filled: no two products have the same.", Example: `fill_merged = true`},
	{Part: "sheet", Name: "row_numbers", Says: "A column that takes the number of the row in the source. With it in sort_by the order of the source can be had again.", Example: `row_numbers = "Source row"`},
	{Part: "sheet", Name: "sort_by", Says: "Sorts the products that go out, whole ones, by these fields or headings. Letters are sorted as in a dictionary, and 9 comes before 10.", Example: `sort_by = ["brand", "title"]`},

	{Part: "products", Name: "together_by", Says: "The field or heading by which rows belong together: neighbouring rows with the same in it are one product. If nothing is said, the slug; without one, the parent SKU; and rows with an empty title go with the row above.", Example: `together_by = "Group no."`},
	{Part: "products", Name: "together_from", Says: "A sheet of two columns, SKUs or slugs and what they have in common: products that have the same there are one, as if a column said so.", Example: "together_from = \"families.csv\"\nregroup       = true"},
	{Part: "products", Name: "together", Says: "Lists of SKUs or slugs: the products of each list are one.", Example: "together = [[\"LRA-0301\", \"LRA-0302\"], [\"LRA-0310\", \"LRA-0311\", \"LRA-0312\"]]\nregroup  = true"},
	{Part: "products", Name: "complete_as", Says: "A sheet of what the shop has: products of the file are to have all variants that they have there. Those that are left out are named, because importers may take them out of the shop.", Example: `complete_as = "shop-export.csv"`},
	{Part: "products", Name: "regroup", Says: "Brings rows of a product that stand apart to the first of them, the lead row before the others. If nothing is said, such products are held.", Example: `regroup = true`},
	{Part: "products", Name: "product_fields", Says: "Fields or headings that belong to the whole product and stand in its lead row, besides title, brand, category, type, tags, descriptions and supplier.", Example: `product_fields = ["Season"]`},
	{Part: "products", Name: "variant_fields", Says: "Fields or headings that belong to each variant, besides the SKU, codes, prices, stock, weight and measures, colour, size and material.", Example: `variant_fields = ["Flavour", "type"]`},
	{Part: "products", Name: "image_fields", Says: "Fields or headings that belong to each image, besides the image itself, its text and its order.", Example: `image_fields = ["Photographer"]`},

	{Part: "products", Name: "told_apart_by", Says: "Fields or headings of the options by which variants are told apart: no two variants of a product may have the same in all of them, and none may be empty. If nothing is said, pairs of columns such as Option 1 name and Option 1 value; without such, colour, size and material are looked at, which only warns.", Example: `told_apart_by = ["colour", "Flavour"]`},
	{Part: "products", Name: "differ", Says: "What becomes of rows that say something else of the whole product than its lead row: lead makes them say the same. If nothing is said, they are named.", Example: `differ = "lead"`},
	{Part: "products", Name: "differ_in", Says: "The same for single fields or headings: lead, longest for the longest of what the rows say, or all for lists in one cell, of which everything is kept once.", Example: `differ_in = { description = "longest", tags = "all" }`},
	{Part: "products", Name: "option_of_titles", Says: "The option that takes what differs in the titles of the rows, where separate products are made one; what they share becomes the title of the product: of Round veil, S and Round veil, M the title Round veil, and S and M. Titles that share nothing are held, unless differ says which of them counts.", Example: "together_by      = \"Family\"\nregroup          = true\noption_of_titles = \"Size\"\nsame_as_lead     = [\"slug\"]"},
	{Part: "products", Name: "same_as_lead", Says: "Fields or headings in which all rows of a product get what its lead row has: the key, where separate products are made one. What belongs to each variant, such as its SKU, is none.", Example: `same_as_lead = ["slug"]`},
	{Part: "products", Name: "lead_only", Says: "Fields or headings of the whole product that stand in its lead row only: other rows that say the same are emptied there. What says something else stays, and is named, unless differ settles it.", Example: `lead_only = ["tags", "description"]`},
	{Part: "products", Name: "parents", Says: "A condition: rows that fulfil it are parents, which are not sold themselves. They need no price and no barcode, and are held if they have no variants. If nothing is said, rows are parents that others name.", Example: `parents = { "Row kind" = "parent" }`},
	{Part: "products", Name: "misplaced", Says: "What becomes of what belongs to the whole product and stands in another row than the lead row, which has nothing there: move moves it up, if it is one thing. If nothing is said, it is named.", Example: `misplaced = "move"`},

	{Part: "images", Name: "as", Says: "rows gives each image behind the first of a row a row of its own, with the text that belongs to it; cell puts the images of image rows into the lead row, in their order; columns puts them there one into each of columns. An image row that says something else, too, stays.", Example: `as = "rows"`},
	{Part: "images", Name: "columns", Says: "Columns of further images, besides that of the first: those that columns fills, or from which rows and cell take them. Images for which there is no column stand with the last.", Example: "as      = \"columns\"\ncolumns = [\"Image 2\", \"Image 3\"]"},
	{Part: "images", Name: "at", Says: "What stands between the images in one cell; a comma if nothing is said.", Example: "as = \"cell\"\nat = \"|\""},
	{Part: "images", Name: "of_variants", Says: "A column in which each variant of a product with several gets an image, where it has none: its own, or the first of the product. If nothing is said, variants without an image stay without.", Example: `of_variants = "Variant image"`},
	{Part: "images", Name: "number", Says: "Numbers the images of each product from 1 on, in the column for their order, without gaps.", Example: "as     = \"rows\"\nnumber = true"},

	{Part: "one_row_each", Name: "from", Says: "The column with the lists.", Example: "from = \"Sizes\"\ninto = \"Size\"\nset  = { sku = \"{sku}-{Size}\" }"},
	{Part: "one_row_each", Name: "into", Says: "The column for the value of each row, which is added if it is not there.", Example: "from = \"Colours\"\ninto = \"colour\"\nset  = { sku = \"{sku}-{colour letters upper first 3}\" }"},
	{Part: "one_row_each", Name: "set", Says: "Patterns for what is different in each row, by field or heading: the SKU in any case.", Example: "from = \"Sizes\"\ninto = \"Size\"\nset  = { sku = \"{sku}-{Size}\", \"Label\" = \"{title}, {Size}\" }"},
	{Part: "one_row_each", Name: "where", Says: "A condition: only rows that fulfil it become several.", Example: "from  = \"Sizes\"\ninto  = \"Size\"\nset   = { sku = \"{sku}-{Size}\" }\nwhere = { category = \"Clothes\" }"},
	{Part: "one_row_for_all", Name: "from", Says: "The column with the values, in which the list stands then; rename under [columns] gives it another heading.", Example: "from   = \"Size\"\nunlike = [\"sku\"]"},
	{Part: "one_row_for_all", Name: "at", Says: "What stands between the values; a comma and a space if it is not said.", Example: "from = \"Size\"\nat   = \"|\""},
	{Part: "one_row_for_all", Name: "unlike", Says: "Fields or headings in which the rows may differ, too: the first row keeps what it has, and that of the others does not go out.", Example: "from   = \"Size\"\nunlike = [\"sku\", \"barcode\"]"},
	{Part: "one_row_for_all", Name: "where", Says: "A condition: only rows that fulfil it are put together.", Example: "from  = \"Size\"\nwhere = { category = \"Clothes\" }"},

	{Part: "options", Name: "from", Says: "The column with the options.", Example: `from = "Options"`},
	{Part: "options", Name: "names", Says: "The names of the options, which are those of the columns. They are needed where the cells have only values, in the order of the names; otherwise they are seen from the first rows.", Example: "from  = \"Options\"\nnames = [\"Colour\", \"Size\"]"},
	{Part: "options", Name: "names_from", Says: "The column that has the names of the options, written like their values.", Example: "from       = \"Option values\"\nnames_from = \"Option names\""},
	{Part: "options", Name: "in_pairs", Says: "Into how many pairs of columns the options go, one for the name and one for the value of each, in place of columns that are called like them: those of the sheet, and as many more as are needed. Each product has its options in its own order.", Example: "from     = \"Options\"\nin_pairs = 3"},
	{Part: "options", Name: "into", Says: "The column into which the options are packed that names names, where it is empty; it is added if it is not there.", Example: "into  = \"Options\"\nnames = [\"Colour\", \"Size\"]"},
	{Part: "options", Name: "between", Says: "What stands between the options that are packed; \"; \" if nothing is said.", Example: "into    = \"Options\"\nnames   = [\"Colour\", \"Size\"]\nbetween = \"|\""},
	{Part: "options", Name: "pair", Says: "What stands between the name and the value of an option that is packed; \": \" if nothing is said.", Example: "into  = \"Options\"\nnames = [\"Colour\", \"Size\"]\npair  = \"=\""},
	{Part: "options", Name: "no_names", Says: "Packs only the values.", Example: "into     = \"Options\"\nnames    = [\"Colour\", \"Size\"]\nbetween  = \" / \"\nno_names = true"},
	{Part: "options", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: "from  = \"Options\"\nwhere = { category = \"Clothes\" }"},
	{Part: "options", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: "from  = \"Options\"\ncount = 40"},

	{Part: "rows", Name: "keep", Says: "A condition: products of which no row fulfils it are set aside.", Example: `keep = { sku = { starts = "LRA-" } }`},
	{Part: "rows", Name: "aside", Says: "A condition: products of which a row fulfils it are set aside.", Example: `aside = { any = [ { price = { below = 1 } }, { title = { contains = "sample" } } ] }`},
	{Part: "rows", Name: "one_per", Says: "Of the rows that have the same in this field or heading, one is kept. The others are set aside, and what differs in them is named.", Example: `one_per = "sku"`},
	{Part: "rows", Name: "choose", Says: "Which one is kept: first, last, or fullest, the one with fewest empty cells.", Example: `one_per = "sku"
choose  = "fullest"`},
	{Part: "rows", Name: "count", Says: "How many rows must be kept, or set aside; with another number nothing is written.", Example: "keep = { brand = \"Hollowbrook Joinery\" }\ncount = 85"},

	{Part: "borrow", Name: "from", Says: "The file: anything that can be read here.", Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]`},
	{Part: "borrow", Name: "sheet", Says: "The sheet of a workbook; the first with known headings, if nothing is said.", Example: `from  = "supplier.xlsx"
sheet = "Weights"
by    = "sku"
take  = ["weight"]`},
	{Part: "borrow", Name: "headings", Says: "What headings of that sheet mean that are not recognised, or which of several columns is the right one.", Example: `from = "texts.csv"
by   = "sku"
take = ["description"]
headings = { "Artikel" = "sku", "Text (corrected)" = "description" }`},
	{Part: "borrow", Name: "by", Says: "The field or heading that both sheets have, or a list of several that are the key together.", Example: `from = "suppliers.csv"
by   = ["supplier", "mpn"]
take = ["cost"]`},
	{Part: "borrow", Name: "take", Says: "The fields or headings to take. Columns that are not there are added.", Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]`},
	{Part: "borrow", Name: "alike", Says: "What does not count when keys are compared: case, spaces, dashes, zeros (at the beginning). Each match that is not exact is noted.", Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]
alike = ["case", "dashes"]`},
	{Part: "borrow", Name: "over", Says: "Takes the value although the cell is not empty. Barcodes and SKUs are never overwritten.", Example: `from = "prices.csv"
by   = "sku"
take = ["price"]
over = true`},
	{Part: "borrow", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]
where = { category = "Hives" }`},
	{Part: "borrow", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]
count = 12`},
	{Part: "borrow", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["weight"]
rows = "variants"`},
	{Part: "build", Name: "into", Says: "The field or heading to build, where it is empty; it is added if it is not there.", Example: `into = "title"
from = "{brand} {type}[, {colour}][ ({size})]"`},
	{Part: "build", Name: "from", Says: "The pattern: a cell for each name in braces; what stands in square brackets vanishes if a cell in it is empty; {short_description|title} is the first that is not empty. Words behind a name change the text: upper, lower, letters, digits, words N, first N, last N.", Example: `into = "Label"
from = '{brand letters upper first 3}-{"Product group" first 1} {short_description|title}'`},
	{Part: "build", Name: "over", Says: "Builds the cell anew even if it is not empty.", Example: `into = "title"
from = "{brand} {type}[, {colour}][ ({size})]"
over = true`},
	{Part: "build", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `into = "title"
from = "{brand} {type}[, {colour}][ ({size})]"
where = { category = "Hives" }`},
	{Part: "build", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `into = "title"
from = "{brand} {type}[, {colour}][ ({size})]"
count = 12`},
	{Part: "build", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `into = "Image text"
from = "{title}"
rows = "images"`},
	{Part: "derive", Name: "into", Says: "The field or heading to fill, where it is empty; it is added if it is not there.", Example: `into = "category"
from = ["title"]
list = "categories.csv"`},
	{Part: "derive", Name: "from", Says: "The fields or headings in whose texts the words are looked for.", Example: `into = "category"
from = ["title", "tags"]
list = "categories.csv"`},
	{Part: "derive", Name: "list", Says: "A sheet with words in its first column and what they speak for in the second, below a heading. Whole words count, in any case; of two that overlap the longer one.", Example: `into = "category"
from = ["title"]
list = "categories.csv"`},
	{Part: "derive", Name: "sheet", Says: "The sheet of a workbook.", Example: `into  = "category"
from  = ["title"]
list  = "words.xlsx"
sheet = "Categories"`},
	{Part: "derive", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `into = "category"
from = ["title"]
list = "categories.csv"
where = { brand = "Nørrebi" }`},
	{Part: "derive", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `into = "category"
from = ["title"]
list = "categories.csv"
count = 12`},
	{Part: "derive", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `into = "category"
from = ["title"]
list = "categories.csv"
rows = "all"`},
	{Part: "expand", Name: "in", Says: "The fields or headings whose codes are written out.", Example: `in   = ["material"]
list = "materials.csv"`},
	{Part: "expand", Name: "list", Says: "A sheet with the codes in its first column and what they stand for in the second, below a heading. Case does not count.", Example: `in   = ["material"]
list = "materials.csv"`},
	{Part: "expand", Name: "sheet", Says: "The sheet of a workbook.", Example: `in    = ["category"]
list  = "lists.xlsx"
sheet = "Categories"`},
	{Part: "expand", Name: "at", Says: "The text between several codes in one cell.", Example: `in   = ["Features"]
list = "features.csv"
at   = "/"`},
	{Part: "expand", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `in   = ["material"]
list = "materials.csv"
where = { category = "Hives" }`},
	{Part: "expand", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `in   = ["material"]
list = "materials.csv"
count = 12`},
	{Part: "expand", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `in   = ["material"]
list = "materials.csv"
rows = "lead"`},

	{Part: "replace", Name: "in", Says: "The fields or headings in whose cells the text is replaced. Codes are left alone.", Example: "in   = [\"title\", \"description\"]\nfind = \"st. steel\"\nwith = \"stainless steel\""},
	{Part: "replace", Name: "find", Says: "The text to look for.", Example: "in   = [\"title\"]\nfind = \"ltd ed\"\nwith = \"limited edition\""},
	{Part: "replace", Name: "pattern", Says: "An RE2 pattern to look for instead of a text. Case counts in it.", Example: "in      = [\"title\"]\npattern = \"([0-9]+) ?mm\"\nwith    = \"$1 mm\""},
	{Part: "replace", Name: "with", Says: "What takes its place; nothing, if it is left out. Behind a pattern $1 is its first group.", Example: "in   = [\"title\"]\nfind = \"(new!)\""},
	{Part: "replace", Name: "inside_words", Says: "Finds the text inside longer words, too.", Example: "in   = [\"title\"]\nfind = \"bee-hive\"\nwith = \"beehive\"\ninside_words = true"},
	{Part: "replace", Name: "match_case", Says: "Finds the text only in the same case.", Example: "in   = [\"title\"]\nfind = \"US\"\nwith = \"United States\"\nmatch_case = true"},
	{Part: "replace", Name: "first_only", Says: "Replaces only the first one in a cell.", Example: "in   = [\"title\"]\nfind = \",\"\nwith = \" –\"\nfirst_only = true\nonce = true"},
	{Part: "replace", Name: "once", Says: "Says that the rule may change its own result again. It is applied, and refused on a file that is an output of ours.", Example: "in   = [\"title\"]\npattern = \"([0-9])0\"\nwith = \"$1 0\"\nonce = true"},
	{Part: "replace", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: "in   = [\"title\"]\nfind = \"large\"\nwith = \"L\"\nwhere = { category = \"Protection\" }"},
	{Part: "replace", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: "in   = [\"title\"]\nfind = \"large\"\nwith = \"L\"\ncount = 12"},
	{Part: "replace", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `in   = ["title"]
find = "fr."
with = "frames"
rows = "lead"`},

	{Part: "around", Name: "in", Says: "The fields or headings whose texts get the words. Codes and HTML are left alone.", Example: "in     = [\"title\"]\nbefore = \"Hollowbrook\""},
	{Part: "around", Name: "before", Says: "The words before.", Example: "in     = [\"title\"]\nbefore = \"Beech\""},
	{Part: "around", Name: "after", Says: "The words after.", Example: "in    = [\"title\"]\nafter = \"(pair)\""},
	{Part: "around", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: "in     = [\"title\"]\nbefore = \"Cedar\"\nwhere  = { category = \"Hives\" }"},
	{Part: "around", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: "in     = [\"title\"]\nbefore = \"Beech\"\ncount  = 7"},
	{Part: "around", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `in    = ["title"]
after = "(oak)"
rows  = "lead"`},
	{Part: "closing", Name: "in", Says: "The fields or headings whose texts get it. Empty cells stay empty.", Example: `in   = ["description"]
text = "All our wood is untreated."`},
	{Part: "closing", Name: "text", Says: "The text. In HTML it becomes a paragraph, unless it is HTML itself. A text that has these words already is left.", Example: `in   = ["description"]
text = "<p>All our wood is <em>untreated</em>.</p>"`},
	{Part: "closing", Name: "where", Says: "A condition: only rows that fulfil it are changed.", Example: `in   = ["description"]
text = "All our wood is untreated."
where = { category = "Hives" }`},
	{Part: "closing", Name: "count", Says: "How many rows must be changed; with another number nothing is written.", Example: `in   = ["description"]
text = "All our wood is untreated."
count = 12`},
	{Part: "closing", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, what is empty is filled where it belongs: a title in the lead row, a price in each variant.", Example: `in   = ["description"]
text = "All our wood is untreated."
rows = "lead"`},

	{Part: "field", Name: "type", Says: "The kind of a field of your own: text, code, number, yes/no, date, list, html or link. A heading of that name is recognised; others are named under [headings].", Example: `type = "text"
required = true`, Line: "[field.finish]"},
	{Part: "field", Name: "required", Says: "No product may be without it.", Example: `required = true`, Line: "[field.brand]"},
	{Part: "field", Name: "unique", Says: "No two products may have the same.", Example: `unique = true`, Line: "[field.slug]"},
	{Part: "field", Name: "longest", Says: "The most characters.", Example: `longest = 70`, Line: "[field.title]"},
	{Part: "field", Name: "shortest", Says: "The least characters.", Example: `shortest = 10`, Line: "[field.title]"},
	{Part: "field", Name: "one_of", Says: "The only values that it may have. One that differs only in case, spaces, accents or punctuation is written as the list has it; for a slip of the keyboard the right one is proposed.", Example: `one_of = ["Hollowbrook Joinery", "Nørrebi"]`, Line: "[field.brand]"},
	{Part: "field", Name: "one_of_from", Says: "A sheet that has the values, below a heading.", Example: `one_of_from = "brands.csv"`, Line: "[field.brand]"},
	{Part: "field", Name: "one_of_column", Says: "The field or heading of the column that has them; the first, if nothing is said.", Example: `one_of_from   = "shop-export.csv"
one_of_column = "brand"`, Line: "[field.brand]"},
	{Part: "field", Name: "one_of_sheet", Says: "The sheet of a workbook.", Example: `one_of_from  = "their-template.xlsx"
one_of_sheet = "Makers"`, Line: "[field.brand]"},
	{Part: "field", Name: "unify", Says: "Brings spellings that differ in case, spaces and punctuation to the one that most rows have.", Example: `unify = true`, Line: "[field.brand]"},
	{Part: "field", Name: "where", Says: "A condition: only rows that fulfil it are looked at.", Example: `required = true
where = { type = "honey" }`, Line: "[field.weight]"},
	{Part: "field", Name: "rows", Says: "Which rows of a product are meant: lead, variants, images or all. If nothing is said, a field is required where it belongs: a title in the lead row, a price in each variant.", Example: `required = true
rows     = "all"`, Line: "[field.language]"},

	{Part: "text", Name: "quotes", Says: "What becomes of curly quotation marks and apostrophes: keep, or plain ones. Guillemets stay.", Example: `quotes = "plain"`},
	{Part: "text", Name: "formulas", Says: "What becomes of texts that a spreadsheet program would run as a formula, because they begin with =, +, - or @: keep, or quote, with an apostrophe before them. They are named in any case; numbers and telephone numbers are none.", Example: `formulas = "quote"`},
	{Part: "text", Name: "full_width", Says: "What becomes of letters, digits and signs in full width, as East Asian keyboards write them, in texts that are not of East Asia: keep, or plain ones.", Example: `full_width = "plain"`},

	{Part: "barcode", Name: "accept", Says: "The kinds of code that the shop takes: ean-8, upc-e, upc-a, ean-13 (which includes isbn-13), isbn-13, gtin-14, isbn-10, issn, sscc-18. Without it, all that a till reads.", Example: `accept = ["ean-13", "upc-a"]`},
	{Part: "barcode", Name: "trusted", Says: "Sheets, or output folders of earlier runs, that have whole codes; like -trust.", Example: `trusted = ["stock-take.xlsx"]`},
	{Part: "barcode", Name: "write_as", Says: "The form in which codes are written: as-is, ean-13, gtin-14 or shortest.", Example: `write_as = "ean-13"`},
	{Part: "barcode", Name: "add_check_digit", Says: "Appends the check digit where a column has left it off.", Example: `add_check_digit = true`},
	{Part: "barcode", Name: "second", Says: "The heading of the column that takes the second of two codes in one cell.", Example: `second = "EAN 2"`},
	{Part: "barcode", Name: "fill", Says: "Columns that take the code of another barcode column, where they are empty, with the form: ean-13 or gtin-14.", Example: `fill = { "GTIN" = "gtin-14" }`},

	{Part: "target", Name: "encoding", Says: "The encoding of ready.csv; UTF-8, if nothing is said. Where it does not have a character, what stands for it is named in a finding: usually the letter without its accent, in HTML a reference. In codes and links nothing may; such rows are held.", Example: `encoding = "windows-1252"`},
	{Part: "target", Name: "bom", Says: "Whether ready.csv begins with a byte order mark. If nothing is said, it does in UTF-16, and in UTF-8 if the source does.", Example: `bom = true`},
	{Part: "target", Name: "separator", Says: "What separates the cells of ready.csv: comma, semicolon, tab, pipe or another character of ASCII; if nothing is said, what separates them in the source.", Example: `separator = "comma"`},
	{Part: "target", Name: "quote", Says: "What stands around cells in place of the quotation mark.", Example: "separator = \"^\"\nquote     = \"~\""},
	{Part: "target", Name: "quotes", Says: "Which cells have quotation marks around them: needed, those in which the separator, a quotation mark or a line break stands; or all. If nothing is said, those that need it and those that have them in the source.", Example: `quotes = "all"`},
	{Part: "target", Name: "line_ends", Says: "How its rows end: lf or crlf; if nothing is said, as in the source, but never with a carriage return alone, which hardly any importer takes.", Example: `line_ends = "crlf"`},
	{Part: "target", Name: "first_rows", Says: "What becomes of the rows above the headings, and of those right under them that are the headings in other words, units, demands or a guide: keep writes them back as they are, because some platforms know their own files by them; drop leaves them out, which is the usual. Examples are always left out.", Example: `first_rows = "keep"`},
	{Part: "target", Name: "as", Says: "Forms in which what is ready is written, besides ready.csv: tsv, xlsx and ods, with all cells as text, and jsonl, an object for each row. -as overrules it.", Example: `as = ["xlsx"]`},
	{Part: "target", Name: "instead", Says: "What stands for characters that the encoding does not have, where another text is wanted than the usual one.", Example: "encoding = \"windows-1252\"\ninstead  = { \"ł\" = \"w\", \"→\" = \"to\" }"},
}

// Reference writes the reference of the whole rulebook as Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("# The rulebook\n\nWritten by `zetanum help rulebook`; do not edit by hand.\n\n" +
		"A rulebook says how a shop wants its catalogue. It is a TOML file, `zetanum.toml` beside the file or in the working folder, or the one named with `-rules`. " +
		"It is strict: a key that is not known, or a value of the wrong kind, is an error that says where it stands. Names of files are relative to the rulebook. " +
		"Without a rulebook only what is proved is written.\n")
	for _, p := range parts {
		fmt.Fprintf(&b, "\n## `%s`\n\n%s\n", p.line, p.says)
		for _, k := range keys {
			if k.Part == p.name {
				name := k.Name
				if name == "*" {
					name = "a heading"
				} else {
					name = "`" + name + "`"
				}
				line := cmp.Or(k.Line, p.line)
				fmt.Fprintf(&b, "\n### %s\n\n%s\n\n```toml\n%s\n%s\n```\n", name, k.Says, line, k.Example)
			}
		}
	}
	b.WriteString("\n## Conditions\n\n" +
		"A condition is a table in words. The name before it is a field or a heading; several in one table must all be fulfilled. " +
		"Case and spaces at the ends do not count, unless `exact = true` stands with the test.\n\n" +
		"| test | fulfilled if the cell |\n|---|---|\n" +
		"| `sku = \"LRA-0007\"`, `is` | is that text |\n| `is_not` | is another |\n| `one_of = [\"A\", \"B\"]` | is one of these |\n| `contains`, `starts`, `ends` | has the text in it, at its beginning, at its end |\n" +
		"| `listed = \"codes.csv\"` | is in the list in that file: a sheet with one column, below a heading |\n| `matches = \"^LRA-[0-9]+$\"` | fits the pattern (RE2; case counts) |\n| `empty = true` | is empty, or with false is not |\n| `above = 10`, `below = 10` | is a number above, below |\n| `longer = 70` | has more characters |\n\n" +
		"`all = [ {…}, {…} ]`, `any = [ {…}, {…} ]` and `not = {…}` bring conditions together.\n")
	return b.String()
}
