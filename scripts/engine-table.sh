#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/engines.txt anew: which of the current engines take the properties, words,
# functions, units, selectors, at-rules and media features that not all of them take, by the published
# compatibility data (`@mdn/browser-compat-data` on the npm registry, CC0). Needs node and npm.
set -euo pipefail
cd "$(dirname "$0")/.."
data=$PWD/crates/deft-pin-core/data
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
(cd "$work" && npm pack --silent @mdn/browser-compat-data > /dev/null && tar xzf ./*.tgz)
node - "$work/package/data.json" "$data" > "$work/engines.txt" <<'JS'
const fs = require('fs');
const all = JSON.parse(fs.readFileSync(process.argv[2])), data = process.argv[3];
const css = all.css, version = JSON.parse(fs.readFileSync(process.argv[2].replace('data.json', 'package.json'))).version;
const ENGINES = [['c', 'chrome'], ['f', 'firefox'], ['s', 'safari']];
const current = browser => Object.entries(all.browsers[browser].releases).find(([, release]) => release.status === 'current')[0];
const number = version => version.replace('≤', '').split('.').map(Number);
const isLater = (a, b) => { for (let i = 0; i < 3; i++) { const d = (a[i] || 0) - (b[i] || 0); if (d) return d > 0; } return false; };
// Whether the current release has what a statement says.
const holds = (statement, browser) => typeof statement.version_added === 'string' && statement.version_added !== 'preview'
  && !statement.version_removed && !statement.flags
  && !isLater(number(statement.version_added), number(current(browser)));
const statements = (compat, browser) => [compat.support[browser] ?? []].flat();
const takers = compat => ENGINES.filter(([, browser]) =>
  statements(compat, browser).some(one => holds(one, browser) && !one.prefix && !one.alternative_name)).map(([letter]) => letter).join('');
// The other names of a thing, with the engines that take each.
const others = (name, compat) => {
  const found = {};
  for (const [letter, browser] of ENGINES)
    for (const one of statements(compat, browser))
      if (holds(one, browser) && (one.prefix || one.alternative_name)) {
        const other = one.alternative_name ?? one.prefix + name;
        if (!(found[other] ?? '').includes(letter)) found[other] = (found[other] ?? '') + letter;
      }
  return found;
};
const rows = new Map();
const add = (kind, name, letters) => { if (letters !== 'cfs') rows.set(`${kind}\t${name}`, letters || '-'); };
const grammars = ['properties.txt', 'types.txt'].map(name => fs.readFileSync(`${data}/${name}`, 'utf8')).join('\n');
const functions = new Set([...grammars.matchAll(/([a-zA-Z][\w-]*)\(/g)].map(([, name]) => name.toLowerCase()));
for (const [name, feature] of Object.entries(css.properties)) {
  if (!feature.__compat || name === 'custom-property') continue;
  const own = takers(feature.__compat);
  add(name, '*', own);
  for (const [other, letters] of Object.entries(others(name, feature.__compat))) rows.set(`${other}\t*`, letters);
  for (const [key, value] of Object.entries(feature)) {
    if (!value.__compat) continue;
    const word = key.endsWith('_function') ? `${key.slice(0, -9)}()` : key;
    if (!/^-?[a-z][a-z0-9-]*(\(\))?$/.test(word)) continue;
    const letters = takers(value.__compat);
    if (letters !== own || letters !== 'cfs') add(name, word, letters);
    for (const [other, takes] of Object.entries(others(word, value.__compat))) rows.set(`${name}\t${other}`, takes);
  }
}
// Functions stand by themselves, or below the kind of value that they come to.
const kinds = ['color', 'gradient', 'image', 'filter-function', 'transform-function', 'basic-shape', 'easing-function'];
for (const node of [css.types, ...kinds.map(kind => css.types[kind])])
  for (const [key, value] of Object.entries(node)) {
    const name = key.replace(/_function$/, '');
    if (value.__compat && functions.has(name)) add('@function', name, takers(value.__compat));
  }
for (const [key, value] of Object.entries(css.types.length)) if (value.__compat && /^[a-z]+$/i.test(key)) add('@unit', key.toLowerCase(), takers(value.__compat));
for (const [key, value] of Object.entries(css.selectors)) {
  if (!value.__compat) continue;
  const url = decodeURIComponent(value.__compat.mdn_url ?? '');
  const mark = (value.__compat.description ?? '').match(/<code>(::?)/)?.[1] ?? url.match(/\/(::?)[^/]*$/)?.[1] ?? (value.__compat.spec_url ? [value.__compat.spec_url].flat().join().match(/selectordef-|pseudo-class/) ? ':' : '' : '');
  if (!mark || key.endsWith('function')) continue;
  add('@selector', mark + key, takers(value.__compat));
  for (const [other, letters] of Object.entries(others(key, value.__compat))) rows.set(`@selector\t${other.startsWith(':') ? other : mark + other}`, letters);
}
for (const [key, value] of Object.entries(css['at-rules'])) if (value.__compat) add('@rule', key, takers(value.__compat));
for (const [key, value] of Object.entries(css['at-rules'].media)) if (value.__compat && /^-?[a-z][a-z0-9-]*$/.test(key)) add('@media', key, takers(value.__compat));
console.log(`# Which engines take what not all of them take: c Chromium, f Firefox ${current('firefox')}, s Safari ${current('safari')}.`);
console.log(`# Made by scripts/engine-table.sh from @mdn/browser-compat-data ${version} (CC0).`);
for (const row of [...rows].filter(([, letters]) => letters !== 'cfs').map(([name, letters]) => `${name}\t${letters}`).sort()) console.log(row);
JS
mv "$work/engines.txt" "$data/engines.txt"
wc -l "$data/engines.txt"
