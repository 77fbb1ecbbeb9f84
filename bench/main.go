// Command bench measures the program against a plain copy of the same file
// with the standard library's CSV reader and writer (REF), as ratios from
// interleaved rounds.
//
//	go run ./bench                       a million rows, three rounds
//	go run ./bench -rows 100000 -rounds 5 -only repair
//	go run ./bench -before OTHER         another build of the program, in the same rounds
//	go run ./bench -save                 what was measured becomes the table that is checked
//	go run ./bench -check                fails where a ratio is a fifth below that table
//	go run ./bench -plot                 draws that table
//	go run ./bench -profile FILE repair LIST.csv
//	go run ./bench -pgo                  renews what the compiler knows of where the time goes
//
// The catalogue is made once, from a seed, in a temporary folder.
package main

import (
	"bufio"
	"encoding/csv"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

func main() {
	rows := flag.Int("rows", 1_000_000, "rows of the catalogue")
	rounds := flag.Int("rounds", 3, "rounds")
	dir := flag.String("dir", filepath.Join(os.TempDir(), "zetanum-bench"), "folder for the catalogue and the outputs")
	only := flag.String("only", "", "measure only these `RUNS`, with commas between them, besides REF")
	before := flag.String("before", "", "another build of the program, `FILE`, that is measured in the same rounds")
	save := flag.Bool("save", false, "keep what was measured in "+tableFile)
	check := flag.Bool("check", false, "fail where a ratio is a fifth below "+tableFile)
	plot := flag.Bool("plot", false, "draw "+tableFile+" into "+chartFile)
	ref := flag.String("ref", "", "copy this file as REF does, and nothing else")
	pgo := flag.Bool("pgo", false, "renew "+profileFile)
	profile := flag.String("profile", "", "run the program with the arguments, and write into this file where its time went")
	flag.Parse()
	log.SetFlags(0)
	switch {
	case *profile != "":
		status, err := profiled(*profile, flag.Args())
		if err != nil {
			log.Fatal(err)
		}
		os.Exit(status)
	case *ref != "":
		if err := copyFile(*ref, *ref+".copy"); err != nil {
			log.Fatal(err)
		}
	case *pgo:
		if err := renewProfile(*rows, *dir); err != nil {
			log.Fatal(err)
		}
	case *plot:
		if err := draw(); err != nil {
			log.Fatal(err)
		}
	default:
		measured, err := run(*rows, *rounds, *dir, *before, strings.Split(*only, ","))
		if err == nil && *save {
			err = measured.save()
		}
		if err == nil && *check {
			err = measured.check()
		}
		if err != nil {
			log.Fatal(err)
		}
	}
}

// copyFile reads and writes a CSV file with the standard library, in one
// goroutine.
func copyFile(from, to string) (err error) {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.Create(to)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, out.Sync(), out.Close()) }()
	r := csv.NewReader(bufio.NewReaderSize(in, 1<<20))
	r.ReuseRecord = true
	buffered := bufio.NewWriterSize(out, 1<<20)
	w := csv.NewWriter(buffered)
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		if err := w.Write(record); err != nil {
			return err
		}
	}
	w.Flush()
	return errors.Join(w.Error(), buffered.Flush())
}

// A contestant is one of the commands measured.
type contestant struct {
	name    string
	args    []string
	outputs []string // removed before each round
	list    []string // each is a further argument, of one run after the other
	wall    []time.Duration
	cpu     []time.Duration
	peak    int64 // bytes
}

// prepare makes what is measured on in a folder: the runs of a program, whose names end in some way; and where the catalogue lies.
func prepare(rows int, dir string) (contestants func(program, of string) []*contestant, file string, err error) {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return nil, "", err
	}
	file = filepath.Join(dir, fmt.Sprintf("catalogue-%d.csv", rows))
	if _, err := os.Stat(file); err != nil {
		if err := writeCatalogue(file, rows); err != nil {
			return nil, "", err
		}
	}
	// What is borrowed from, and the many small lists, lie in folders of their own: what lies beside a list is looked at.
	rules, texts := filepath.Join(dir, "rules.toml"), filepath.Join(dir, "texts.toml")
	store := filepath.Join(dir, "store", fmt.Sprintf("store-%d.csv", rows))
	if err := errors.Join(os.WriteFile(rules, []byte(twentyRules), 0o666), os.WriteFile(texts, []byte(textRules), 0o666), os.MkdirAll(filepath.Dir(store), 0o777), writeStore(store, rows)); err != nil {
		return nil, "", err
	}
	lists, err := writeLists(filepath.Join(dir, "lists"), file)
	if err != nil {
		return nil, "", err
	}
	repaired := []string{strings.TrimSuffix(file, ".csv") + ".repaired"}
	outputs := make([]string, len(lists))
	for i, list := range lists {
		outputs[i] = strings.TrimSuffix(list, ".csv") + ".repaired"
	}
	return func(program, of string) []*contestant {
		return []*contestant{
			{name: "inspect" + of, args: []string{program, "inspect", file}},
			{name: "repair" + of, args: []string{program, "repair", file}, outputs: repaired},
			{name: "20 rules" + of, args: []string{program, "repair", file, "-rules", rules}, outputs: repaired},
			{name: "texts" + of, args: []string{program, "repair", file, "-rules", texts}, outputs: repaired},
			{name: "borrow" + of, args: []string{program, "repair", file, "-borrow", store, "-by", "sku", "-take", "weight,Shelf"}, outputs: repaired},
			{name: "100 lists" + of, args: append([]string{program, "repair"}, lists...), outputs: outputs},
			{name: "100 calls" + of, args: []string{program, "repair"}, list: lists, outputs: outputs},
		}
	}, file, nil
}

// run measures the program, and another build of it if one is named; only are the names of the runs that are wanted, or one that is empty.
func run(rows, rounds int, dir, before string, only []string) (*table, error) {
	runs, file, err := prepare(rows, dir)
	if err != nil {
		return nil, err
	}
	program := filepath.Join(dir, "zetanum")
	build := exec.Command("go", "build", "-trimpath", "-o", program, "./cmd/zetanum")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("building: %w\n%s", err, out)
	}
	info, err := os.Stat(file)
	if err != nil {
		return nil, err
	}
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	contestants := []*contestant{{name: refName, args: []string{self, "-ref", file}, outputs: []string{file + ".copy"}}}
	add := func(program, of string) {
		for _, c := range runs(program, of) {
			if only[0] == "" || slices.Contains(only, strings.TrimSuffix(c.name, of)) {
				contestants = append(contestants, c)
			}
		}
	}
	if before != "" {
		add(before, beforeMark)
	}
	add(program, "")
	fmt.Printf("%d rows, %.0f MB, %d rounds\n", rows, float64(info.Size())/1e6, rounds)
	for range rounds {
		for _, c := range contestants {
			if err := c.measure(); err != nil {
				return nil, fmt.Errorf("%s: %w", c.name, err)
			}
		}
	}
	t := newTable(rows, info.Size(), rounds, contestants)
	return t, t.print(os.Stdout)
}

// beforeMark stands behind the names of runs of the other build.
const beforeMark = ", before"

// writeLists writes a hundred lists of two hundred rows each, from the beginning of a catalogue.
func writeLists(dir, catalogue string) (paths []string, err error) {
	in, err := os.Open(catalogue)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(in)
	lines.Scan()
	head := lines.Text()
	for n := range 100 {
		var b strings.Builder
		b.WriteString(head + "\n")
		for i := 0; i < 200 && lines.Scan(); i++ {
			b.WriteString(lines.Text() + "\n")
		}
		paths = append(paths, filepath.Join(dir, fmt.Sprintf("list-%02d.csv", n)))
		if err := os.WriteFile(paths[n], []byte(b.String()), 0o666); err != nil {
			return nil, err
		}
	}
	return paths, lines.Err()
}

func (c *contestant) measure() error {
	for _, output := range c.outputs {
		if err := os.RemoveAll(output); err != nil {
			return err
		}
	}
	runs := [][]string{c.args}
	if c.list != nil {
		runs = nil
		for _, one := range c.list {
			runs = append(runs, append(slices.Clone(c.args), one))
		}
	}
	var wall, cpu time.Duration
	for _, args := range runs {
		cmd := exec.Command(args[0], args[1:]...)
		var stderr strings.Builder
		cmd.Stderr = &stderr
		start := time.Now()
		err := cmd.Run()
		wall += time.Since(start)
		var exit *exec.ExitError
		if errors.As(err, &exit) && exit.ExitCode() == 1 {
			err = nil // something is held
		}
		if err != nil {
			return fmt.Errorf("%w\n%s", err, stderr.String())
		}
		cpu += cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime()
		c.peak = max(c.peak, peakMemory(cmd.ProcessState))
	}
	c.wall, c.cpu = append(c.wall, wall), append(c.cpu, cpu)
	return nil
}

func median[T ~int64 | ~float64](list []T) T {
	sorted := slices.Clone(list)
	slices.Sort(sorted)
	return sorted[len(sorted)/2]
}
