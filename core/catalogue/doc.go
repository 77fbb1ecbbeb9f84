// Package catalogue holds the nouns that every room shares: what a column
// means ([Field]), how a row and a product look while they are repaired
// ([Row], [Product]), what is noticed ([Finding]) and what is altered
// ([Change], with its [Ground]), and the registries that say in words what
// each finding and each rule is.
//
// The package computes nothing about products. A finding or a change is a
// handful of numbers and substrings until somebody prints it.
package catalogue
