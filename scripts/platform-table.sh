#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/platform.txt anew: the interfaces of the web platform with their members, which of
# them are functions, and what they come to. The names are those that Chromium has; what they come to says the
# published WebIDL (`@webref/idl` on the npm registry, MIT); the names of events are those of `@webref/events`.
# Needs chromium, node and npm.
set -euo pipefail
cd "$(dirname "$0")/.."
data=$PWD/crates/deft-pin-core/data
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm install --silent --no-fund --no-audit @webref/idl @webref/events webidl2 > /dev/null
cat > ask.html <<'HTML'
<!doctype html><title>ask</title><pre id=out></pre><script>
const rows = [];
const skip = new Set(['constructor', 'length', 'name', 'prototype', 'caller', 'arguments']);
const kindOf = descriptor => descriptor.get || descriptor.set ? '.' + (descriptor.set ? '=' : '')
  : typeof descriptor.value === 'function' ? '()' : '.' + (descriptor.writable ? '=' : '');
const list = (mark, object) => {
  for (const [name, descriptor] of Object.entries(Object.getOwnPropertyDescriptors(object)))
    if (!skip.has(name) || (mark === '+' && name !== 'constructor')) rows.push([mark, name, kindOf(descriptor)].join(' '));
};
for (const name of Object.getOwnPropertyNames(window).sort()) {
  let value; try { value = window[name]; } catch { continue; }
  if (typeof value === 'function' && value.prototype && /^[A-Z]/.test(name)) {
    const above = Object.getPrototypeOf(value.prototype);
    const parent = above && above.constructor && above.constructor !== Object && above.constructor !== value ? above.constructor.name : '';
    rows.push(`# ${name} ${parent}`);
    list('+', value.prototype);
    // Some members cannot be forged, and are on each object itself.
    if (name === 'Location') list('+', location);
    if (name === 'Event') list('+', new Event('x'));
    list('!', value);
  } else if (value && typeof value === 'object' && /^[A-Z]/.test(name)) {
    rows.push(`# ${name} `);
    list('!', value);
  }
}
// What typed arrays have in common is no global.
const typed = Object.getPrototypeOf(Int8Array);
rows.push('# TypedArray ');
list('+', typed.prototype);
list('!', typed);
const tags = "a abbr address area article aside audio b base bdi bdo blockquote body br button canvas caption cite code col colgroup data datalist dd del details dfn dialog div dl dt em embed fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 head header hgroup hr html i iframe img input ins kbd label legend li link main map mark menu meta meter nav noscript object ol optgroup option output p picture pre progress q rp rt ruby s samp script search section select slot small source span strong style sub summary sup table tbody td template textarea tfoot th thead time title tr track u ul var video wbr font center marquee frame frameset".split(" ");
rows.push(`# tags ${tags.map(tag => `${tag}=${document.createElement(tag).constructor.name}`).join(",")}`);
rows.push('# console ');
list('!', console);
rows.push('# window-itself ');
list('+', window);
list('+', document);
document.getElementById('out').textContent = rows.join('\n');
</script>
HTML
chromium --headless --no-sandbox --disable-gpu --user-data-dir="$work/profile" --dump-dom "file://$work/ask.html" 2> /dev/null \
  | sed -n '/<pre id="out">/,/<\/pre>/p' | sed 's/.*<pre id="out">//; s/<\/pre>.*//' > chromium.txt
node - "$work" > platform.txt <<'JS'
const fs = require('fs'), path = process.argv[2];
const { parse } = require(`${path}/node_modules/webidl2`);
const folder = `${path}/node_modules/@webref/idl`;
const version = JSON.parse(fs.readFileSync(`${folder}/package.json`)).version;
const interfaces = {}, includes = [], aliases = {}, others = {};
for (const file of fs.readdirSync(folder).filter(name => name.endsWith('.idl'))) {
  for (const own of parse(fs.readFileSync(`${folder}/${file}`, 'utf8'))) {
    if (['interface', 'interface mixin', 'namespace'].includes(own.type)) {
      const known = interfaces[own.name] ??= { parent: null, members: [] };
      known.parent ??= own.inheritance ?? null;
      known.members.push(...own.members);
    } else if (own.type === 'includes') includes.push(own);
    else if (own.type === 'typedef') aliases[own.name] = own.idlType;
    else if (own.name) others[own.name] = own.type;
  }
}
for (const { target, includes: mixin } of includes)
  if (interfaces[target] && interfaces[mixin]) interfaces[target].members.push(...interfaces[mixin].members);
const numbers = /^(unsigned |unrestricted )?(byte|octet|short|long|long long|float|double)$/;
const type = (own, depth = 0) => {
  if (!own || depth > 8) return 'any';
  if (Array.isArray(own)) return own.length === 1 ? type(own[0], depth + 1) : 'any';
  const mark = own.nullable ? '?' : '';
  if (own.union) return 'any';
  if (own.generic === 'Promise') {
    const below = type(own.idlType, depth + 1);
    return /^(string|number|boolean|[A-Z]\w*)$/.test(below) ? `promise:${below}` : 'promise';
  }
  if (own.generic) return /^(sequence|FrozenArray|ObservableArray)$/.test(own.generic) ? 'array' + mark : 'object' + mark;
  const name = own.idlType;
  if (typeof name !== 'string') return type(name, depth + 1) + mark;
  if (/String$/.test(name)) return 'string' + mark;
  if (numbers.test(name) || name === 'DOMHighResTimeStamp') return 'number' + mark;
  if (name === 'boolean') return 'boolean' + mark;
  if (name === 'undefined') return 'undefined';
  if (aliases[name]) { const below = type(aliases[name], depth + 1); return below.endsWith('?') ? below : below + mark; }
  if (others[name] === 'enum') return 'string' + mark;
  if (/callback/.test(others[name] ?? '')) return 'function' + mark;
  if (others[name] === 'dictionary') return 'object' + mark;
  if (interfaces[name]) return name + mark;
  return 'any';
};
const typeOf = (name, member, isStatic) => {
  const own = interfaces[name]?.members.filter(one => one.name === member && ((one.special === 'static') === isStatic || !interfaces[name].parent));
  const found = own?.find(one => one.type === 'attribute' || one.type === 'operation' || one.type === 'const');
  if (!found) return null;
  const types = new Set(own.filter(one => one.type === found.type).map(one => one.type === 'const' ? 'number' : type(one.idlType)));
  return types.size === 1 ? [...types][0] : 'any';
};
const rows = [];
let name = null;
for (const line of fs.readFileSync(`${path}/chromium.txt`, 'utf8').split('\n').filter(Boolean)) {
  const [mark, first, second] = line.split(' ');
  if (mark === '#') {
    name = first;
    rows.push({ name, parent: second ?? '', members: [] });
    continue;
  }
  const where = name === 'window-itself' ? ['Window', 'Document'] : [name];
  let found = null;
  for (const one of where) found ??= typeOf(one, first, mark === '!');
  if (first.includes('Symbol(') || /^[^A-Za-z_$]/.test(first)) continue;
  // Who makes one of an interface has one of it.
  if (mark === '+' && name === 'window-itself' && /^[A-Z]/.test(first)) continue;
  const kind = second === '()' ? '()' : second === '.=' ? '=' : '-';
  rows.at(-1).members.push(`${mark === '!' ? '!' : ''}${first}${kind}${(found ?? 'any').replace(/^undefined$/, 'void')}`);
}
const events = new Set();
const listed = JSON.parse(fs.readFileSync(`${path}/node_modules/@webref/events/events.json`, 'utf8'));
for (const own of listed.events ?? listed) if (own.type) events.add(own.type);
for (const row of rows) for (const member of row.members) { const on = /^on([a-z]+)[=-]/.exec(member); if (on) events.add(on[1]); }
console.log(`# The platform's interfaces: a name, what it extends, and its members; \`()\` is a function, \`=\` can be set, \`!\` is of the`);
console.log(`# interface itself. Made by scripts/platform-table.sh from Chromium and @webref/idl ${version}.`);
for (const row of rows) console.log([`${row.name}:${row.parent}`, ...row.members].join(' '));
console.log(['events:', ...[...events].filter(name => /^[A-Za-z]+$/.test(name)).sort()].join(' '));
JS
mv platform.txt "$data/platform.txt"
