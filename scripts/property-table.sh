#!/usr/bin/env bash
# Writes the tables in crates/deft-pin-core/data/ anew, from the standards' published data (npm:
# @webref/css) and from Chromium, which tells what each shorthand sets and which names it knows besides.
# Needs npm, node, chromium and the network; the tool itself needs none of them.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
(cd "$work" && npm pack --silent @webref/css >/dev/null && tar xzf ./*.tgz)
{
  echo '<!doctype html><body><script>const published ='
  node -e 'console.log(JSON.stringify(require(process.argv[1]).properties.map(p => p.name)))' "$work/package/css.json"
  cat <<'HTML'
const names = new Set(published);
for (const name in document.body.style) {
  const dashed = name.replace(/[A-Z]/g, c => '-' + c.toLowerCase());
  names.add(dashed.startsWith('webkit-') ? '-' + dashed : dashed);
}
const element = document.createElement('p'), rows = [];
for (const name of [...names].sort()) {
  if (!CSS.supports(name, 'initial')) continue;
  element.style.cssText = `${name}: initial`;
  rows.push(name + ':' + [...element.style].join(' '));
}
document.body.textContent = rows.join(';');
</script>
HTML
} > "$work/names.html"
chromium --headless --no-sandbox --disable-gpu --user-data-dir="$work/profile" --dump-dom "file://$work/names.html" \
  2>/dev/null > "$work/dom.html"
node - "$work" crates/deft-pin-core/data <<'JS'
const fs = require('fs'), [work, data] = process.argv.slice(2);
const css = JSON.parse(fs.readFileSync(`${work}/package/css.json`));
const version = JSON.parse(fs.readFileSync(`${work}/package/package.json`)).version;
const made = `# Made by scripts/property-table.sh from @webref/css ${version} and Chromium.`;
const one = text => (text ?? '').replace(/\s+/g, ' ').trim() || '-';
const browser = new Map(fs.readFileSync(`${work}/dom.html`, 'utf8').match(/<body>([^<]*)/)[1].trim().split(';')
  .map(row => row.split(':')).map(([name, longhands]) => [name, longhands.split(' ')]));
const published = new Map(css.properties.map(p => [p.name, p]));
// What a shorthand sets, longhands of longhands included.
const flat = name => {
  const p = published.get(name), known = browser.get(name);
  if (known) return known;
  const inner = [...(p?.longhands ?? []), ...(p?.resetLonghands ?? [])];
  return inner.length ? inner.flatMap(flat) : [name];
};
const rows = [made, '# A property a line, its columns parted by tabs: name, whether it is inherited, its initial',
  '# value, the longhands that it sets where these are others (a `*` where Chromium does not know the name),',
  '# the grammar of its value. An at-rule and one of its descriptors are a name too.'];
const names = [...new Set([...published.keys(), ...browser.keys()])].filter(n => /^-?[a-z]/.test(n) && !n.startsWith('--')).sort();
for (const name of names) {
  const p = published.get(name), longhands = flat(name);
  const others = longhands.length === 1 && longhands[0] === name ? '-' : [...new Set(longhands)].join(' ');
  const inherited = p?.inherited?.startsWith('yes') ? 'inherited' : '-';
  rows.push([name, inherited, one(p?.initial), others + (browser.has(name) ? '' : ' *'), one(p?.syntax)].join('\t'));
}
for (const rule of css.atrules)
  for (const d of rule.descriptors ?? [])
    rows.push([`${rule.name} ${d.name}`, '-', one(d.initial), '-', one(d.syntax)].join('\t'));
fs.writeFileSync(`${data}/properties.txt`, rows.join('\n') + '\n');
const types = [made, '# A type or function of the value grammars a line: its name, a tab, its grammar.'];
const all = new Map();
for (const kind of [css.types, css.functions]) for (const t of kind) if (t.syntax && !all.has(t.name)) all.set(t.name, one(t.syntax));
for (const name of [...all.keys()].sort()) types.push(`${name}\t${all.get(name)}`);
fs.writeFileSync(`${data}/types.txt`, types.join('\n') + '\n');
JS
wc -l crates/deft-pin-core/data/*.txt
