package cli

import (
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"net"
	"net/http"
	"path/filepath"
	"strings"
	"time"

	"zetanum/demo"
	"zetanum/demo/host"
)

type demoCommand struct{ serve string }

func (o *demoCommand) flags(f *flag.FlagSet) {
	f.StringVar(&o.serve, "serve", "", "serve the demo's pictures, and every mistake that hosts of pictures make, at an `ADDRESS:PORT`, such as "+
		"127.0.0.1:8080, until it is stopped")
}

func (*demoCommand) about() about {
	return about{
		name: "demo", args: "[DIR]",
		short: "lay out a damaged catalogue and repair it step by step",
		long: "Writes the demo catalogue into the folder DIR (zetanum-demo if none is named): what a made-up shop for beekeepers was " +
			"sent by three suppliers, and its stock-take. " +
			"Then it runs the example on it, showing each command line before it runs. A folder that holds anything else is left alone. " +
			"With -serve 127.0.0.1:8080 it is a host of pictures instead, to try the command links on.",
		examples: []string{"zetanum demo", "zetanum demo somewhere"},
	}
}

// demoDir is where the demo catalogue is laid out.
const demoDir = "zetanum-demo"

// A demoStep is a command line of the example; {dir} stands for the folder, and {host} for that of the pictures.
type demoStep struct {
	say  string
	args string
}

var demoSteps = []demoStep{
	{"A supplier's export. Somebody opened and saved it in a spreadsheet program; look at its barcodes first.",
		"inspect {dir}/saltmarsh-export.csv"},
	{"Repair it. Codes that the cell or the column proves come back by themselves. For the others the shop's own stock-take, where the " +
		"codes were scanned, is named as a sheet to trust: it gives back those whose SKU it has and that fit what is left.",
		"repair {dir}/saltmarsh-export.csv -trust {dir}/stock-take.xlsx"},
	{"A price list with semicolons, decimal commas and umlauts in an old encoding, whose twelve-digit codes have lost their leading zeros.",
		"repair {dir}/hollowbrook-prices.csv"},
	{"A workbook with lines above its headings, a second sheet, a hidden column and formulas. It shows 9.52E+12, but stores the whole " +
		"number, so nearly nothing is lost.",
		"repair {dir}/wick-and-wax.xlsx -trust {dir}/stock-take.xlsx"},
	{"Odds and ends: each line shows something else that happens to codes and SKUs. Last year's list is trusted.",
		"repair {dir}/odds-and-ends.csv -trust {dir}/odds-last-year.csv"},
	{"A list whose texts were decoded wrongly on their way, some of them twice. They are mended where that is certain; what only " +
		"looks broken stays.",
		"repair {dir}/wick-garbled.csv"},
	{"A supplier's offers, made into what the shop wants: a rulebook drops and renames columns, borrows the texts from a workbook, " +
		"writes short codes out, finds the categories, and puts each brand in the shop's own spelling.",
		"repair {dir}/hollowbrook-autumn.csv -rules {dir}/hollowbrook-autumn.toml"},
	{"A supplier whose words need care: titles that shout, brands spelt three ways, tags with three separators, his own categories. The " +
		"rulebook puts them in order; what the shop has of tags is kept.",
		"repair {dir}/heathgate-catalogue.csv -rules {dir}/heathgate-catalogue.toml"},
	{"A supplier whose descriptions come from a word processor, from the pages of other shops and from text files. The rulebook writes them " +
		"as safe and tidy HTML, moves their pictures to the images, and takes short descriptions from them.",
		"repair {dir}/millbrook-texts.csv -rules {dir}/millbrook-texts.toml"},
	{"A supplier whose links to photos are mistyped, several in a cell, or on his own disk. The rulebook repairs what is certain, puts each photo in a " +
		"row of its own, and finds those of the variants.",
		"repair {dir}/brackenfield-links.csv -rules {dir}/brackenfield-links.toml"},
	{"All that is right in them says nothing of whether a photo is there. They are opened; a host on this machine stands in for the supplier's.",
		"links {dir}/brackenfield-links.repaired/ready.csv -allow-local -host img.brackenfield.example={host}"},
	{"Products whose photos lie beside the list. Each gets those that are called by its SKU; copies of them, upright and not too large, are made to be " +
		"put on the web.",
		"repair {dir}/brackenfield-photos.csv -rules {dir}/brackenfield-photos.toml"},
	{"A price list with what goes wrong with amounts: a comma that was lost, a sale at nothing, weights in two units, a stock that contradicts " +
		"itself. The rulebook reckons the lowest prices and writes all as the importer takes it; to-check.csv has every row to look at.",
		"repair {dir}/quarrymill-prices.csv -rules {dir}/quarrymill-prices.toml"},
	{"The forms of two market places in one archive, filled in: settings above the headings, their names, demands and an example under " +
		"them, a sum and a remark at the end. What belongs to the form goes back with the products, and a spreadsheet for the " +
		"office beside it.",
		"repair {dir}/market-listings.zip -member north/listing.txt -rules {dir}/market-listing.toml"},
	{"Products of several rows, for variants and for images, with their options packed in one cell. What belongs to the product is put " +
		"in its first row, two products become one, and a variant that the shop has and the list leaves out is named; what nobody can " +
		"decide is held with the whole product.",
		"repair {dir}/wick-variants.csv -rules {dir}/wick-variants.toml"},
	{"What the shop makes itself, without codes yet. SKUs, barcodes of its own prefix and link names are made that nobody has: those " +
		"in use go on, and the same product gets the same code whatever the order of the rows.",
		"repair {dir}/own-make.csv -rules {dir}/own-make.toml"},
	{"The same once more, from what came of it: nothing is left to be done.",
		"check {dir}/own-make.repaired/ready.csv -rules {dir}/own-make.toml"},
	{"The list a month later. A spreadsheet program has rounded its barcodes, but the register remembers them, so that they come back; " +
		"and what is new gets the next codes.",
		"repair {dir}/own-make-2.csv -rules {dir}/own-make.toml"},
	{"What can be said of a single code, by itself.",
		"barcode 9521357000174 9521357000714 9.521357000174E+12 9.52136E+12"},
}

func (o *demoCommand) run(s *session, args []string) (int, error) {
	dir := demoDir
	switch {
	case o.serve != "" && len(args) > 0:
		return exitUsage, usagef("-serve lays out no folder")
	case o.serve != "":
		return o.serves(s)
	case len(args) > 1:
		return exitUsage, usagef("demo takes one folder")
	case len(args) == 1:
		dir = args[0]
	}
	err := demo.Lay(dir)
	if errors.Is(err, demo.ErrOccupied) {
		return exitUsage, &usageError{err.Error(), "Name a new or empty folder: zetanum demo DIR"}
	}
	if err != nil {
		return exitFailed, err
	}
	at, stop, err := serveDemo("127.0.0.1:0")
	if err != nil {
		return exitFailed, err
	}
	defer stop()
	p := s.printer()
	p.Wrap("", "The demo catalogue of Linden Row Apiary Supply lies in "+p.Bold(dir)+".")
	for _, step := range demoSteps {
		p.Line()
		p.Line(p.Faint(strings.Repeat("─", 72)))
		p.Wrap("", step.say)
		p.Line()
		line := strings.ReplaceAll(strings.ReplaceAll(step.args, "{dir}", quoted(filepath.ToSlash(dir))), "{host}", at)
		p.Line(p.Bold("$ zetanum " + line))
		p.Line()
		words := strings.Fields(strings.ReplaceAll(step.args, "{host}", at))
		for i, word := range words {
			if strings.Contains(word, "{dir}") { // the name of a file in an archive is no path of the system
				words[i] = filepath.FromSlash(strings.ReplaceAll(word, "{dir}", dir))
			}
		}
		if status := s.run(words); status > exitHeld {
			return status, fmt.Errorf("the example stopped at: zetanum %s", line)
		}
	}
	p.Line()
	p.Line(p.Faint(strings.Repeat("─", 72)))
	p.Head("What to look at next")
	p.Linef("  %s  what is held, and why", filepath.Join(dir, "saltmarsh-export.repaired", "review.xlsx"))
	p.Linef("  %s  what the importer gets (in a text editor, not in a spreadsheet program)", filepath.Join(dir, "saltmarsh-export.repaired", "ready.csv"))
	p.Line("  zetanum finding barcode.rounded  what a finding means and what to do")
	p.Line("  zetanum FILE  look at a file of your own; nothing is changed")
	s.suggest("zetanum", quoted(filepath.Join(dir, "saltmarsh-export.csv")))
	return exitOK, nil
}

// serveDemo serves the demo's pictures at an address, and returns where.
func serveDemo(address string) (at string, stop func(), err error) {
	listener, err := net.Listen("tcp", address)
	if err != nil {
		return "", nil, err
	}
	server := &http.Server{Handler: new(host.Host), ReadHeaderTimeout: time.Minute, ErrorLog: log.New(io.Discard, "", 0)}
	go func() { _ = server.Serve(listener) }()
	return listener.Addr().String(), func() { _ = server.Close() }, nil
}

// serves is a host of pictures until it is stopped.
func (o *demoCommand) serves(s *session) (int, error) {
	at, stop, err := serveDemo(o.serve)
	if err != nil {
		return exitUsage, usagef("-serve %s: %v", o.serve, err)
	}
	defer stop()
	p := s.printer()
	p.Line("A host of pictures is at ", p.Bold("http://"+at+"/p/smoker.jpg"), ". To stop it, press Ctrl and C.")
	for _, paths := range host.Paths() {
		p.Line("  ", paths[0])
		p.WrapHanging("      ", "      ", p.Faint(paths[1]))
	}
	<-s.ctx.Done()
	return exitOK, nil
}
