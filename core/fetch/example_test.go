package fetch_test

import (
	"fmt"

	"zetanum/core/fetch"
)

// What is named is a file, or an address from which a file is fetched.
func Example() {
	for _, name := range []string{"list.csv", "https://feeds.hollowbrook.example/autumn.csv?day=3", "ftp://hollowbrook.example/a.csv"} {
		fmt.Println(name, fetch.IsAddress(name), fetch.NameOf(name))
	}
	// Output:
	// list.csv false list.csv
	// https://feeds.hollowbrook.example/autumn.csv?day=3 true autumn.csv
	// ftp://hollowbrook.example/a.csv false a.csv
}
