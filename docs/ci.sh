#!/bin/sh
# Checks a board and compares its pages, for continuous integration. See docs/ci.md.
# sh docs/ci.sh [BOARD] [FOLDER]
set -u
board=${1:-deft-pin.toml}
out=${2:-ci-out}
worst=0
mkdir -p "$out"

# The worst status counts: 2 could not run, 1 findings, 0 all is well.
note() { if [ "$1" -gt "$worst" ]; then worst=$1; fi; }

deft-pin check --board "$board" --format sarif > "$out/findings.sarif"
note $?
deft-pin check --board "$board" --color never > "$out/findings.txt" 2>&1
cat "$out/findings.txt"
deft-pin compare --board "$board" --out "$out/compared"
note $?
exit "$worst"
