"""Makes the sealed set: columns of codes damaged by a real office suite.

    python3 sealed.py sealed

Every list is written as a plain file, opened by the suite as people open such
files, formatted as people format them, and saved. What each cell held before is
in NAME.truth.csv, with what may be expected of it:

  back    the code can be known from the file (and the sheet named with trust)
  open    it cannot: it must be held
  intact  nothing happened to it
  wrong   the code was wrong before anything happened; it must not be passed off
"""
import csv, os, random, subprocess, sys, tempfile, time
import uno
from com.sun.star.beans import PropertyValue

OUT = sys.argv[1]
os.makedirs(OUT, exist_ok=True)
R = random.Random(952)
TEMP = tempfile.mkdtemp()

def check(data):
    s, w = 0, 3
    while data:
        s += w * (data % 10); data //= 10; w = 4 - w
    return (10 - s % 10) % 10

def gtin(data): return data * 10 + check(data)
def ean(i): return "%013d" % gtin(952140000000 + i)
def upc(i): return "%012d" % gtin(4012340000 + i)       # eleven digits without its zero
def valid(s): return s.isdigit() and len(s) in (8, 12, 13, 14) and gtin(int(s)//10) == int(s)

def isbn10(d):                                           # nine digits
    t = sum((10 - i) * int(c) for i, c in enumerate("%09d" % d))
    c = (11 - t % 11) % 11
    return "%09d%s" % (d, "X" if c == 10 else c)

def upce(six):
    d = "%06d" % six
    n = int(d[5])
    if n <= 2: m, i = d[0:2] + str(n) + "00", "00" + d[2:5]
    elif n == 3: m, i = d[0:3] + "00", "000" + d[3:5]
    elif n == 4: m, i = d[0:4] + "0", "0000" + d[4]
    else: m, i = d[0:5], "0000" + str(n)
    if n == 3 and d[2] in "012" or n == 4 and d[3] == "0" or n >= 5 and d[4] == "0": return None
    return "0" + d + str(check(int("0" + m + i)))

proc = subprocess.Popen(["soffice", "--headless", "--norestore", "--accept=socket,host=localhost,port=2402;urp;"],
                        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
ctx = uno.getComponentContext()
resolver = ctx.ServiceManager.createInstanceWithContext("com.sun.star.bridge.UnoUrlResolver", ctx)
for _ in range(60):
    try:
        remote = resolver.resolve("uno:socket,host=localhost,port=2402;urp;StarOffice.ComponentContext"); break
    except Exception: time.sleep(1)
desktop = remote.ServiceManager.createInstanceWithContext("com.sun.star.frame.Desktop", remote)

def prop(n, v):
    p = PropertyValue(); p.Name, p.Value = n, v; return p

def url(path): return uno.systemPathToFileUrl(os.path.abspath(path))

LOCALE = {"en": "1033", "de": "1031"}

def load(path, sep=",", lang="en", text=False):
    cols = "/".join("%d/%d" % (c, 2 if text else 1) for c in range(1, 5))
    opt = "%d,34,76,1,%s,%s,false,true" % (ord(sep), cols, LOCALE[lang])
    return desktop.loadComponentFromURL(url(path), "_blank", 0, (prop("Hidden", True), prop("FilterName", "Text - txt - csv (StarCalc)"), prop("FilterOptions", opt)))

def form(doc, col, code, first=1, last=None, lang="en"):
    """Gives a column a number format, as people do to get rid of E+12."""
    sheet = doc.Sheets.getByIndex(0)
    loc = uno.createUnoStruct("com.sun.star.lang.Locale"); loc.Language, loc.Country = ("de", "DE") if lang == "de" else ("en", "US")
    formats = doc.NumberFormats
    key = formats.queryKey(code, loc, False)
    if key == -1: key = formats.addNew(code, loc)
    last = 20000 if last is None else last
    sheet.getCellRangeByPosition(col, first, col, last).NumberFormat = key
    sheet.Columns.getByIndex(col).OptimalWidth = True

def save(doc, name, kinds, sep=","):
    for k in kinds:
        f = {"xlsx": "Calc MS Excel 2007 XML", "ods": "calc8", "xls": "MS Excel 97"}.get(k)
        path = os.path.join(OUT, name + "." + k)
        if k == "csv":
            doc.storeToURL(url(path), (prop("FilterName", "Text - txt - csv (StarCalc)"), prop("FilterOptions", "%d,34,76,1,,0,false,true,true,false" % ord(sep))))
        else:
            doc.storeToURL(url(path), (prop("FilterName", f),))

def typed(name, rows, sep=","):
    path = "%s/in-%s.csv" % (TEMP, name)
    with open(path, "w", newline="") as f:
        w = csv.writer(f, delimiter=sep, lineterminator="\n")
        w.writerow(["SKU", "EAN", "Title", "Qty"])
        for r in rows: w.writerow(r)
    return path

def truth(name, rows):
    with open(os.path.join(OUT, name + ".truth.csv"), "w", newline="") as f:
        w = csv.writer(f, lineterminator="\n")
        w.writerow(["title", "sku", "code", "class", "expect"])
        w.writerows(rows)

TOOLS = ["Hive tool", "Smoker", "Veil", "Bee brush", "Frame grip", "Feeder", "Queen cage", "Extractor", "Gloves", "Uncapping fork"]
def title(i): return "%s no. %d" % (TOOLS[i % 10], i)

def stock(codes): return [("LR%04d" % i, c, title(i), str(R.randrange(1, 90))) for i, c in enumerate(codes)]

def sample(n, base=0, span=60000): return [ean(base + i) for i in sorted(R.sample(range(span), n))]

def spoil(code):
    """A code that was mistyped long ago: its check digit does not fit."""
    while True:
        i = R.randrange(len(code)); c = code[:i] + str((int(code[i]) + R.randrange(1, 10)) % 10) + code[i+1:]
        if not valid(c) and c[0] != "0": return c

def zeros(code, digits):
    """How many digits a program that prints so many leaves out of a number."""
    m = ("%.*e" % (digits - 1, float(code))).split("e")[0].replace(".", "")
    return len(code) - len(m)

ALL = ("csv", "xlsx", "ods", "xls")

def write(name, rows, fmt, judge, kinds=("csv",), sep=",", lang="en", col=1, extra=None):
    """rows typed, opened, the column formatted, saved; judge(code) -> (class, expect)"""
    doc = load(typed(name, rows, sep), sep, lang)
    if fmt: form(doc, col, fmt, lang=lang)
    if extra: extra(doc)
    save(doc, name, kinds, sep)
    doc.close(True)
    truth(name, [(r[2], r[0]) + (r[1],) + judge(r[1]) for r in rows])

def known(cls): return lambda c: (cls, "back" if valid(c) else "wrong")

# 1. opened and saved, nothing else: the suite shows thirteen digits whole
for n in (1, 5, 50):
    write("plain-%d" % n, stock(sample(n)), None, lambda c: ("untouched", "intact"), ALL if n == 50 else ("csv",))
# 2. shown in scientific notation with two decimals; the text has lost the rest,
#    the workbook still stores it
for n in (1, 5, 50, 500):
    rows = stock(sample(n))
    write("scientific-2-%d" % n, rows, "0.00E+00", lambda c: ("sci-rounded", "open"))
rows = stock(sample(50)); write("stored-scientific", rows, "0.00E+00", lambda c: ("stored-whole", "intact"), ("xlsx", "ods", "xls"))
# 3. with eleven decimals (twelve digits), and with twelve (all)
for n in (1, 5, 50, 500):
    rows = stock(sample(n))
    write("scientific-11-%d" % n, rows, "0.00000000000E+00", lambda c: ("sci-12-digits", "open"))
    rows = stock(sample(n) + ([spoil(ean(70000 + i)) for i in range(n // 50)] if n > 5 else []))
    write("scientific-12-%d" % n, rows, "0.000000000000E+00", known("sci-whole"))
# 4. thousands, decimals, the German way
for n in (1, 5, 50):
    write("thousands-%d" % n, stock(sample(n)), "#,##0", known("grouped"))
    write("decimals-%d" % n, stock(sample(n)), "0.00", known("tail"))
    write("german-%d" % n, stock(sample(n)), "#.##0,00", known("grouped"), sep=";", lang="de")
    write("german-scientific-%d" % n, stock(sample(n)), "0,000000000000E+00", known("sci-whole"), sep=";", lang="de")
write("german-rounded-50", stock(sample(50)), "0,00E+00", lambda c: ("sci-rounded", "open"), sep=";", lang="de")
# 5. shortest: the hash form leaves zeros out, like programs that show up to
#    twelve decimals
for n in (5, 50, 500):
    codes = sample(n)
    write("shortest-%d" % n, stock(codes), "0.############E+00",
          lambda c: ("sci-shortest-whole", "back") if c[-1] != "0" else ("sci-shortest-k1", "back") if c[-2] != "0" else ("sci-shortest-k2", "open"))
# 6. rounded, sent as text, opened again, shown as a whole number and saved
for n in (1, 5, 50, 500):
    rows = stock(sample(n)); name = "flattened-%d" % n
    doc = load(typed(name, rows)); form(doc, 1, "0.00000E+00"); save(doc, name + "-step", ("csv",)); doc.close(True)
    doc = load(os.path.join(OUT, name + "-step.csv")); form(doc, 1, "0"); save(doc, name, ("csv", "xlsx") if n == 50 else ("csv",)); doc.close(True)
    os.remove(os.path.join(OUT, name + "-step.csv"))
    truth(name, [(r[2], r[0], r[1], "flattened", "open") for r in rows])
# 7. leading zeros of UPC-A, as numbers
for n in (1, 5, 50, 500):
    rows = stock([upc(i) for i in sorted(R.sample(range(50000), n))])
    write("zeros-%d" % n, rows, "0", lambda c: ("leading-zero", "back" if n >= 5 else "open"), ("csv", "xlsx") if n == 50 else ("csv",))
# a column of EANs with one stripped UPC in it
rows = stock(sample(49) + [upc(17)])
write("zeros-foreign", rows, "0", lambda c: ("untouched", "intact") if c[0] == "9" else ("leading-zero-alone", "open"))
# UPC-E, seven digits left
codes = [c for c in (upce(s) for s in R.sample(range(100000, 999999), 60)) if c][:40]
write("upc-e", stock(codes), "0", lambda c: ("upc-e-zero", "back"))
# ISBN-10: zeros lost, X kept; nothing may be written that is not asked for
codes = [isbn10(d) for d in R.sample(range(10000000, 99999999), 30)]
write("isbn-10", stock(codes), "0", lambda c: ("isbn-10", "open"))
# 8. check digits left off
rows = stock([c[:12] for c in sample(60)])
doc = load(typed("no-check-digit", rows)); form(doc, 1, "0"); save(doc, "no-check-digit", ("csv", "xlsx")); doc.close(True)
truth("no-check-digit", [(r[2], r[0], r[1] + str(check(int(r[1]))), "check-digit-off", "open") for r in rows])
# 9. SSCCs as numbers: what is behind the fifteenth digit is gone
rows = stock(["%d" % gtin(10614141234500000 + i) for i in R.sample(range(90000), 20)])
write("sscc", rows, "0", lambda c: ("sscc", "open"), ("csv", "xlsx"))
# 10. errors, yes and no, dates where codes were
rows = stock(["=NA()", "TRUE", "2-3", "=1/0", ean(5)]); rows = [(r[0], r[1], r[2], r[3]) for r in rows]
doc = load(typed("replaced", rows)); s = doc.Sheets.getByIndex(0)
s.getCellByPosition(1, 1).setFormula("=NA()"); s.getCellByPosition(1, 4).setFormula("=1/0"); save(doc, "replaced", ("csv", "xlsx")); doc.close(True)
truth("replaced", [(r[2], r[0], "", "replaced", "open") for r in rows[:4]] + [(rows[4][2], rows[4][0], rows[4][1], "untouched", "intact")])
# 11. mixed: some cells text, some numbers shown rounded, two in a hundred wrong
#     from the start, in all formats
for n in (50, 500):
    codes = sample(n); codes = [spoil(c) if R.random() < .02 else c for c in codes]
    rows = stock(codes); name = "mixed-%d" % n
    doc = load(typed(name, rows)); s = doc.Sheets.getByIndex(0); kind = []
    for i, r in enumerate(rows):
        cell = s.getCellByPosition(1, i + 1); x = R.random()
        if x < .4: cell.setString(r[1]); kind.append("untouched")
        elif x < .7: form(doc, 1, "0.00E+00", i + 1, i + 1); kind.append("sci-rounded")
        elif x < .85: form(doc, 1, "0.000000000000E+00", i + 1, i + 1); kind.append("sci-whole")
        else: form(doc, 1, "#,##0.0", i + 1, i + 1); kind.append("grouped")
    save(doc, name, ALL); doc.close(True)
    truth(name, [(r[2], r[0], r[1], k, "wrong" if not valid(r[1]) and k != "sci-rounded" else "open" if k == "sci-rounded" else "intact" if k == "untouched" else "back") for r, k in zip(rows, kind)])
# 12. one foreign rounded cell in a column printed in shortest form
codes = sample(50); rows = stock(codes)
doc = load(typed("foreign", rows)); form(doc, 1, "0.############E+00")
victim = next(i for i, c in enumerate(codes) if c[-1] != "0"); form(doc, 1, "0.0000000000E+00", victim + 1, victim + 1)
save(doc, "foreign", ("csv",)); doc.close(True)
truth("foreign", [(r[2], r[0], r[1]) + (("sci-rounded", "open") if i == victim else ("sci-shortest-whole", "back") if r[1][-1] != "0" else ("sci-shortest-k1", "back") if r[1][-2] != "0" else ("sci-shortest-k2", "open")) for i, r in enumerate(rows)])
# 13. with a stock-take: rounded codes, looked up; the stock-take has damaged
#     rows, an SKU twice, a code at two SKUs, a code scanned into the wrong row
codes = sample(200); rows = stock(codes); name = "stock-take"
taken, expect = [], []
for i, r in enumerate(rows):
    x = i % 10
    if x == 0: expect.append("open")                                        # not in it
    elif x == 1: taken.append((r[0], "%.5E" % float(r[1]), r[2])); expect.append("open")   # damaged there, too
    elif x == 2: taken += [(r[0], r[1], r[2]), (r[0], ean(80000 + i), r[2])]; expect.append("open")  # twice
    elif x == 3: taken += [(r[0], r[1], r[2]), ("ZZ%04d" % i, r[1], "Other " + r[2])]; expect.append("open")  # the code at two SKUs
    elif x == 4: taken.append((r[0], "%013d" % gtin(400638000000 + i), r[2])); expect.append("open")  # another company's code
    else: taken.append((r[0], r[1], r[2])); expect.append("back")
with open(os.path.join(OUT, name + ".trust.csv"), "w", newline="") as f:
    w = csv.writer(f, lineterminator="\n"); w.writerow(["SKU", "Barcode", "Title"]); w.writerows(taken)
doc = load(typed(name, rows)); form(doc, 1, "0.00E+00"); save(doc, name, ("csv",)); doc.close(True)
truth(name, [(r[2], r[0], r[1], "by-key", e) for r, e in zip(rows, expect)])
# by title, where the suite has eaten the SKUs
codes = sample(60); name = "by-title"
skus = ["MAR-%d" % (1 + i % 28) if i < 28 else "%05d" % i if i < 44 else "%dE%d" % (i, 4 + i % 3) for i in range(60)]
rows = [(skus[i], codes[i], title(1000 + i), "1") for i in range(60)]
with open(os.path.join(OUT, name + ".trust.csv"), "w", newline="") as f:
    w = csv.writer(f, lineterminator="\n"); w.writerow(["SKU", "Barcode", "Title"]); w.writerows([(r[0], r[1], r[2].upper()) for r in rows])
doc = load(typed(name, rows)); form(doc, 1, "0.00E+00"); save(doc, name, ("csv",)); doc.close(True)
truth(name, [(r[2], r[0], r[1], "by-title", "back") for r in rows])
proc.terminate()
