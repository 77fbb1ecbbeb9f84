// Package mint makes codes that nobody has: SKUs, links, barcodes of a company's own prefix.
//
// A [Rule] says of what codes are made, as a pattern. For each product without one the pattern is
// drafted; what is open in the draft, a counter or characters that look drawn, is settled by an
// [Issuer] when it is known which codes there are. It knows all that may not be issued again, and
// compares codes as people read them: without case, and without what looks alike ([Fold]).
//
// The drafts come in the order of what tells the products apart, not in that of the rows, so that
// the same product gets the same code whatever else is done to the sheet.
package mint
