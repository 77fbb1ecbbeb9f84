# Repairs all lists in a folder, those that have changed since the last time:
#
#   make -k -j 8 -f night.mk LISTS=lists RULES=lists/shop.toml
#
# LISTS is the folder, RULES a rulebook for all of them, and REGISTER a register for all of
# them, if they get codes. A list that fails leaves the reason in its .log, and with -k the
# others go on. The names of lists must have no spaces, which make cannot take.
ZETANUM ?= zetanum
LISTS ?= .
RULES ?=
REGISTER ?=

lists := $(foreach kind,csv tsv xlsx xls ods,$(wildcard $(LISTS)/*.$(kind)))
all: $(addsuffix .repaired/run.json,$(basename $(lists)))

# One processor for each list, because there are many of them; status 1 says that rows are held.
define repair
@GOMAXPROCS=1 $(ZETANUM) repair $< $(if $(RULES),-rules $(RULES)) $(if $(REGISTER),-register '$(REGISTER)') \
	> $(basename $<).log 2>&1; status=$$?; echo "$$status $<"; [ $$status -le 1 ]
endef

%.repaired/run.json: %.csv $(RULES)
	$(repair)
%.repaired/run.json: %.tsv $(RULES)
	$(repair)
%.repaired/run.json: %.xlsx $(RULES)
	$(repair)
%.repaired/run.json: %.xls $(RULES)
	$(repair)
%.repaired/run.json: %.ods $(RULES)
	$(repair)

.PHONY: all
.DELETE_ON_ERROR:
