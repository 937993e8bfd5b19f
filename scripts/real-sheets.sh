#!/usr/bin/env bash
# Fences real sheets, of general-purpose packages on the npm registry, to one of two equal sections, and
# holds what comes of it against Chromium: each rule's matched set, and that nothing outside changes.
# They are unpacked outside of the repository, into ${1:-/tmp/deft-pin-sheets}. Needs npm, Chromium
# with its driver, and the network.
set -euo pipefail
cd "$(dirname "$0")/.."
sheets=${1:-/tmp/deft-pin-sheets}
mkdir -p "$sheets"
while read -r package file; do
  name=${package//[@\/]/_}
  if [ ! -f "$sheets/$name.css" ]; then
    work=$(mktemp -d)
    (cd "$work" && npm pack --silent "$package" > /dev/null && tar xzf ./*.tgz)
    cp "$work/package/$file" "$sheets/$name.css"
    rm -r "$work"
  fi
done <<'LIST'
bootstrap dist/css/bootstrap.css
bulma css/bulma.css
purecss build/pure.css
foundation-sites dist/css/foundation.css
@picocss/pico css/pico.css
leaflet dist/leaflet.css
swiper swiper-bundle.css
tachyons css/tachyons.css
normalize.css normalize.css
open-props open-props.min.css
LIST
DEFT_PIN_SHEETS=$sheets cargo test --quiet -p deft-pin --test browser -- --ignored --nocapture real_sheets
