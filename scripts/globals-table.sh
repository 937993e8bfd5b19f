#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/globals.txt and members.txt anew: the globals that Chromium has on an
# empty page, before any script of the page; and the names that code in an attribute for an event finds on
# its element, on the form around it and on the document before it looks for a global. Needs chromium.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
# table FILE TITLE OBJECTS: the names that some objects and what they inherit from have.
table() {
  cat > "$work/page.html" <<HTML
<!doctype html><body><script>
const names = new Set();
for (const object of $3)
  for (let at = object; at; at = Object.getPrototypeOf(at)) Object.getOwnPropertyNames(at).forEach(name => names.add(name));
document.body.textContent = [...names].filter(name => /^[A-Za-z_\$][\w\$]*\$/.test(name) && name !== 'names').sort().join('\n');
</script>
HTML
  {
    echo "# $2; made by scripts/globals-table.sh."
    chromium --headless --no-sandbox --disable-gpu --user-data-dir="$work/profile" --dump-dom "file://$work/page.html" \
      2>/dev/null | sed 's/<[^>]*>//g' | grep -v '^$'
  } > "crates/deft-pin-core/data/$1"
  wc -l "crates/deft-pin-core/data/$1"
}
table globals.txt 'Globals of browsers' '[window]'
elements="a area audio body button canvas details dialog embed form iframe img input label link map meter object option output p script select slot style table td textarea tr video"
table members.txt 'Names that event handlers find before globals' \
  "[document, ...'$elements'.split(' ').map(tag => document.createElement(tag))]"
