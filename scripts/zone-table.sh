#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/zones.txt anew: the names of time zones and their links (IANA Time Zone Database), from
# the text of the database that Debian's tzdata has.
set -euo pipefail
cd "$(dirname "$0")/.."
data=/usr/share/zoneinfo/tzdata.zi
{
  echo "# Time zones ($(head -1 "$data" | sed 's/^# *//')), by the names that have a part of the world in front; made by scripts/zone-table.sh."
  awk '$1 == "Z" { print $2 } $1 == "L" { print $3 }' "$data" | grep / | LC_ALL=C sort
} > crates/deft-pin-core/data/zones.txt
wc -l crates/deft-pin-core/data/zones.txt
