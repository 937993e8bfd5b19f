#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/properties.txt anew: the names of all CSS properties and of the
# descriptors of each at-rule, from the standards' published data (npm: @webref/css), and those that
# Chromium takes besides. Needs npm, node, chromium and the network; the tool itself needs none of them.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
(cd "$work" && npm pack --silent @webref/css >/dev/null && tar xzf ./*.tgz)
cat > "$work/names.html" <<'HTML'
<!doctype html><body><script>
const names = new Set();
for (const name in document.body.style) {
  const dashed = name.replace(/[A-Z]/g, c => '-' + c.toLowerCase());
  if (!dashed.startsWith('-') && !dashed.startsWith('webkit') && CSS.supports(dashed, 'initial')) names.add(dashed);
}
document.body.textContent = [...names].sort().join(' ');
</script>
HTML
chromium --headless --no-sandbox --disable-gpu --user-data-dir="$work/profile" --dump-dom "file://$work/names.html" \
  2>/dev/null > "$work/dom.html"
node - "$work" <<'JS' > crates/deft-pin-core/data/properties.txt
const fs = require('fs'), work = process.argv[2];
const css = JSON.parse(fs.readFileSync(`${work}/package/css.json`));
const version = JSON.parse(fs.readFileSync(`${work}/package/package.json`)).version;
const inBrowser = fs.readFileSync(`${work}/dom.html`, 'utf8').match(/<body>([^<]*)/)[1].trim().split(' ');
const names = new Set([...css.properties.map(p => p.name), ...inBrowser]);
const plain = [...names].filter(n => /^[a-z]/.test(n)).sort();
console.log(`# Made by scripts/property-names.sh from @webref/css ${version} and Chromium. One a line:`);
console.log('# a property, or an at-rule and one of its descriptors. Names with a vendor\'s prefix are left out.');
for (const name of plain) console.log(name);
const rules = new Map();
for (const rule of css.atrules)
  for (const d of rule.descriptors ?? [])
    rules.set(`${rule.name} ${d.name}`, 1);
for (const row of [...rules.keys()].sort()) console.log(row);
JS
wc -l crates/deft-pin-core/data/properties.txt
