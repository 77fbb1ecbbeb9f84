package rescue

import "zetanum/core/barcode"

// Keys gives the numbers ([barcode.Code.Key]) of all codes that some column may
// let the reading come out as; with likely also of those that are only likely.
func (r Reading) Keys(likely bool, add func(uint64)) {
	switch {
	case r.Form == Among && likely:
		add(r.N)
		return
	case r.Form == Empty || r.Form >= TwoCodes:
		return
	}
	if r.X {
		r.keysAs(barcode.ISBN10, add)
		r.keysAs(barcode.ISSN, add)
		return
	}
	if r.N%barcode.Pow10(flatAlone) != 0 && (r.Missing <= 1 || likely) {
		add(r.N)
	}
	if r.Missing > 0 {
		if likely {
			if v, _ := rounded(nil, r); v.Code.IsValid() {
				add(v.Code.Key())
			}
		}
		return
	}
	if !likely && r.Length >= 11 && r.Length < 18 {
		return // nearly all cells
	}
	switch r.Length {
	case 6:
		for check := range uint64(10) {
			if c, err := barcode.FromNumberUPCE(r.N*10 + check); likely && err == nil {
				add(c.Key())
			}
		}
	case 7, 8:
		if c, err := barcode.FromNumberUPCE(r.N); err == nil {
			add(c.Key())
		}
		r.keysAs(barcode.ISSN, add)
	case 9, 10:
		r.keysAs(barcode.ISBN10, add)
	case 18:
		r.keysAs(barcode.SSCC, add)
	}
	if !likely {
		return
	}
	if c, err := barcode.Complete(barcode.Pad(r.N, r.Length)); err == nil {
		add(c.Key())
	}
}

// keysAs adds the number of the reading as a code of one kind, if it is one.
func (r Reading) keysAs(kind barcode.Kind, add func(uint64)) {
	s := barcode.Pad(r.N, kind.Len())
	if r.X {
		s = barcode.Pad(r.N, kind.Len()-1) + "X"
	}
	if c, err := barcode.ParseAs(kind, s); err == nil {
		add(c.Key())
	}
}
