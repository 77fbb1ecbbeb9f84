package repair_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"zetanum/core/repair"
)

// A file is repaired into a folder beside it; the file itself is never touched.
func ExampleRun() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "list.csv")
	os.WriteFile(path, []byte("SKU,EAN,Title\nA,9.521357000174E+12,Smoker\nB,9521357000563, Hive  tool\nC,9.52136E+12,Veil\n"), 0o666)
	result, err := repair.Run(context.Background(), repair.Options{Input: path, Target: repair.Target(path), Workers: 1, Temp: dir})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%+v\n", result.Counts())
	for _, name := range []string{"ready.csv", "held.csv"} {
		content, _ := os.ReadFile(filepath.Join(result.Folder, name))
		fmt.Printf("%s", content)
	}
	// Output:
	// {Read:3 Ready:2 Held:1 Aside:0 Added:0 Joined:0 Products:3 Repaired:2 Changed:2}
	// SKU,EAN,Title
	// A,9521357000174,Smoker
	// B,9521357000563,Hive tool
	// Row,Reason,SKU,EAN,Title
	// 4,"EAN: Only 6 of 13 digits are left in 9.52136E+12: the code lies between 9521355000000 and 9521365000000 and is one of 1,000,000 possible codes. A sheet with the code of SKU C would settle it.",C,9.52136E+12,Veil
}
