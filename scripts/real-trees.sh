#!/usr/bin/env bash
# Checks and builds real trees of pages that nobody here wrote: documentation packages of Debian,
# made by different generators. They are downloaded and unpacked outside of the repository, into
# ${1:-/tmp/deft-pin-trees}. For each: no panic, every byte outside of the insertions identical,
# and each page's tree the one that html5ever alone builds. Needs apt-get, dpkg and the network.
set -euo pipefail
cd "$(dirname "$0")/.."
trees=${1:-/tmp/deft-pin-trees}
mkdir -p "$trees"
cargo build --release --quiet
cargo build --release --quiet -p deft-pin-core --example real_tree --example lasting
tool=$PWD/target/release/deft-pin
hold=$PWD/target/release/examples/real_tree
lasting=$PWD/target/release/examples/lasting
for package in postgresql-doc-15 python-django-doc qtbase5-doc-html libboost1.74-doc openjdk-17-doc; do
  folder=$trees/$package
  if [ ! -d "$folder/site" ]; then
    mkdir -p "$folder"
    (cd "$folder" && apt-get download -qq "$package" && dpkg -x ./*.deb site && rm ./*.deb)
  fi
  mkdir -p "$folder/pins"
  echo 'h1, h2 { color: teal } a:hover { color: red } table td { padding: 2px } code { font-size: 1em }' > "$folder/pins/all.css"
  echo 'p { margin: 1em 0 } ul > li:first-child { color: navy } .nothing-has-this { color: red }' > "$folder/pins/part.css"
  echo 'document.documentElement.dataset.seen = "yes";' > "$folder/pins/seen.js"
  cat > "$folder/deft-pin.toml" <<'BOARD'
[site]
root = "site"
[library.help]
script = "pins/seen.js"
[pin.all]
pages = ["*a*"]
style = "pins/all.css"
script = "pins/seen.js"
[pin.part]
pages = ["*e*"]
having = "p"
within = "div[id], div[class]"
style = "pins/part.css"
script = "pins/seen.js"
slot = "head-start"
needs = ["help"]
[pin.start]
pages = ["*i*"]
script = "pins/seen.js"
slot = "body-start"
BOARD
  echo "== $package"
  status=0
  "$tool" check --board "$folder/deft-pin.toml" --format json > "$folder/check.json" 2> "$folder/check.err" || status=$?
  [ "$status" -le 1 ]
  tail -n 1 "$folder/check.err"
  status=0
  "$tool" build --board "$folder/deft-pin.toml" --out "$folder/out" --anyway -q || status=$?
  [ "$status" -le 1 ]
  "$hold" "$folder/site" "$folder/out"
  # Selectors for 1,000 elements drawn at random: unique, and found again after changes; 200 of them in Chromium.
  "$lasting" "$folder/site" 1000 "$folder/sample.json"
  DEFT_PIN_SAMPLE=$folder/sample.json cargo test --quiet -p deft-pin --test browser -- --ignored --nocapture selectors_of_a_sample | grep unique
done
# What is said to fail on 40 pages of each, with a board that does next to nothing, against Chromium.
DEFT_PIN_TREES=$trees cargo test --quiet -p deft-pin --test browser -- --ignored --nocapture what_is_said_to_fail
# What `why` says of the elements of 100 pages drawn at random, against Chromium.
DEFT_PIN_TREES=$trees cargo test --quiet -p deft-pin --test browser -- --ignored --nocapture what_wins_on_real_pages
