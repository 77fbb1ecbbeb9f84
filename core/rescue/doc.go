// Package rescue decides what may be said about a barcode that a spreadsheet
// program, an export or a hand has damaged.
//
// What a cell says by itself is a [Reading]: which digits are left, how many there were,
// in which form they stand. It is small and quickly made ([Read]), and so made anew wherever a
// cell is looked at. All readings of a column are tallied in a [Model],
// because much that one cell cannot tell its column can: whether numbers were
// rounded, whether leading zeros were dropped. [Model.Weigh] draws the
// conclusions, and [Evidence.Decide] gives each reading its [Verdict], by the table
// of [Cases]. [Rules] are what a shop wants beyond that.
//
// Two principles stand behind every rule:
//
//   - A check digit is spent once. Where a number is complete it confirms it
//     and is worth a factor of ten; where a digit is missing and the check
//     digit fills it in, nothing is left to confirm it.
//   - Failing neighbours measure the lucky ones. A wrong number passes its
//     check digit one time in ten, so among cells treated alike there are
//     about as many lucky passes as a ninth of the fails.
//
// "Certain" means: not wrong unless the code was wrong before the damage, with
// at most one cell in a thousand that the rule writes. What is only likely is
// said, never written.
package rescue
