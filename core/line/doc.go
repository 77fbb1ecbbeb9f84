// Package line is the machine that carries products past the steps that repair them. What a field
// means and how it is repaired is for the steps to know. Of findings it makes only those about rows and products
// as such: rows that are the same, products that are too large, rows that are passed over or left out of a sample.
//
// A source is read twice. The survey reads it part by part ([Survey]); several
// workers let every step that has something to learn look at the products of a
// part, and what they learn is merged in the order of the parts, so that it
// does not depend on who read what. The survey also cuts the parts and notes
// where they lie.
//
// The repair ([Run]) takes the same parts up again. What only a look at several repaired rows can
// tell (two products with one barcode, the same row twice) is judged first: the survey has gathered
// which rows may turn out to share what they claim, and only the parts in which these lie are
// repaired for it. Then a worker turns each part into the rows that go to each output, knowing the
// judgement, and the writer puts them out in order; each output is written once.
package line
