// Package lazy makes a pattern when it is first needed. A program that is called for each of a thousand lists begins a thousand times, and most of them
// need few of its patterns.
package lazy

import (
	"regexp"
	"sync"
)

// A Regexp is a [regexp.Regexp] that is made when it is first needed.
type Regexp struct {
	made func() *regexp.Regexp
}

// all are those of the program.
var all []*Regexp

// MakeAll makes all patterns of the program: it panics if one of them cannot be made.
func MakeAll() (made int) {
	for _, r := range all {
		r.made()
	}
	return len(all)
}

// New returns the pattern of an expression, whose faults are faults of the program. It is for variables of packages.
func New(expression string) *Regexp { return Of(func() string { return expression }) }

// Of is New of an expression that is put together when it is first needed, too.
func Of(expression func() string) *Regexp {
	r := &Regexp{sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(expression()) })}
	all = append(all, r)
	return r
}

// MatchString is [regexp.Regexp.MatchString].
func (r *Regexp) MatchString(s string) bool { return r.made().MatchString(s) }

// FindString is [regexp.Regexp.FindString].
func (r *Regexp) FindString(s string) string { return r.made().FindString(s) }

// FindStringSubmatch is [regexp.Regexp.FindStringSubmatch].
func (r *Regexp) FindStringSubmatch(s string) []string { return r.made().FindStringSubmatch(s) }

// FindAllString is [regexp.Regexp.FindAllString].
func (r *Regexp) FindAllString(s string, n int) []string { return r.made().FindAllString(s, n) }

// FindAllStringIndex is [regexp.Regexp.FindAllStringIndex].
func (r *Regexp) FindAllStringIndex(s string, n int) [][]int {
	return r.made().FindAllStringIndex(s, n)
}

// ReplaceAllString is [regexp.Regexp.ReplaceAllString].
func (r *Regexp) ReplaceAllString(s, by string) string { return r.made().ReplaceAllString(s, by) }

// ReplaceAllStringFunc is [regexp.Regexp.ReplaceAllStringFunc].
func (r *Regexp) ReplaceAllStringFunc(s string, by func(string) string) string {
	return r.made().ReplaceAllStringFunc(s, by)
}
