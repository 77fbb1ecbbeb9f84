#!/bin/sh
# Repairs all lists in a folder, several at a time. What has been done is not done again,
# so that it can be stopped and started at any time.
#
#   night.sh FOLDER           on one machine
#   night.sh FOLDER 2 3       the second of three machines takes its share
#
# In the environment:
#   ZETANUM   the program (zetanum)
#   RULES     a rulebook for all of them
#   REGISTER  a register for all of them: postgres://USER@HOST/DATABASE if there are several machines
#   JOBS      how many at a time (4)
#
# Each list has a line: its exit status and its name. 0 is all ready, 1 some rows held; more is
# no output, and the reason in the list's .log. The script's own status is then 1.
set -eu
folder=$1 part=${2:-1} of=${3:-1}
: "${ZETANUM:=zetanum}" "${RULES:=}" "${REGISTER:=}" "${JOBS:=4}"
: "${GOMAXPROCS:=1}" # of many lists each needs one processor; one large list takes them all
export ZETANUM RULES REGISTER GOMAXPROCS

# One list, if it is in the share of this machine and newer than its output.
one='
	part=$1 of=$2 list=$3
	out=${list%.*}.repaired
	share=$(printf %s "${list##*/}" | cksum | cut -d " " -f 1)
	[ $((share % of + 1)) -eq "$part" ] || exit 0
	[ "$out/run.json" -nt "$list" ] && exit 0
	set -- repair "$list"
	[ -z "$RULES" ] || set -- "$@" -rules "$RULES"
	[ -z "$REGISTER" ] || set -- "$@" -register "$REGISTER"
	status=0
	"$ZETANUM" "$@" > "${list%.*}.log" 2>&1 || status=$?
	echo "$status $list"
	[ "$status" -le 1 ]
'
find "$folder" -maxdepth 1 -type f \( -name '*.csv' -o -name '*.tsv' -o -name '*.xlsx' -o -name '*.xls' -o -name '*.ods' \) -print0 |
	xargs -0 -n 1 -P "$JOBS" sh -c "$one" night "$part" "$of" || exit 1
