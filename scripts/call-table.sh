#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/calls.txt anew: what the functions of the web platform refuse, by the published
# WebIDL (`@webref/idl` on the npm registry, MIT): how many arguments they need, and of which types. Taken are the
# functions that `platform.txt` has (run scripts/platform-table.sh before). Needs node and npm.
set -euo pipefail
cd "$(dirname "$0")/.."
data=$PWD/crates/deft-pin-core/data
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm install --silent --no-fund --no-audit @webref/idl webidl2 > /dev/null
node - "$work" "$data/platform.txt" > calls.txt <<'JS'
const fs = require('fs'), [work, table] = process.argv.slice(2);
const { parse } = require(`${work}/node_modules/webidl2`);
const folder = `${work}/node_modules/@webref/idl`;
const version = JSON.parse(fs.readFileSync(`${folder}/package.json`)).version;
const interfaces = {}, includes = [], aliases = {}, enums = {}, dictionaries = {}, callbacks = {};
for (const file of fs.readdirSync(folder).filter(name => name.endsWith('.idl')))
  for (const own of parse(fs.readFileSync(`${folder}/${file}`, 'utf8'))) switch (own.type) {
    case 'interface': case 'interface mixin': case 'namespace': (interfaces[own.name] ??= []).push(...own.members); break;
    case 'includes': includes.push(own); break;
    case 'typedef': aliases[own.name] = own.idlType; break;
    case 'enum': enums[own.name] = own.values.map(value => value.value); break;
    case 'callback': callbacks[own.name] = 'function'; break;
    case 'callback interface': callbacks[own.name] = 'listener'; break;
    case 'dictionary': {
      const known = dictionaries[own.name] ??= { parent: null, members: [] };
      known.parent ??= own.inheritance ?? null;
      known.members.push(...own.members);
    }
  }
for (const { target, includes: mixin } of includes) if (interfaces[target] && interfaces[mixin]) interfaces[target].push(...interfaces[mixin]);
const usedEnums = new Set(), usedDictionaries = new Set();
const buffers = /^(ArrayBuffer|SharedArrayBuffer|DataView|(Big)?(Int|Uint|Float)\d+(Clamped)?Array)$/;
// `~` is a type of which nothing is refused; `@` before a dictionary is one beside other types.
const type = (own, depth = 0) => {
  if (!own || depth > 8) return '~';
  if (Array.isArray(own)) return own.length === 1 ? type(own[0], depth + 1) : '~';
  const mark = own.nullable ? '?' : '';
  if (own.union) {
    const all = own.idlType.map(one => type(one, depth + 1));
    const dictionary = all.find(one => /^@?[{]/.test(one));
    // A text is a word there, where nothing else takes one.
    const others = own.idlType.filter((_, at) => !all[at].startsWith('|'));
    if (others.length === all.length - 1 && others.every(one => /^(unrestricted )?(double|float)$|long$|short$|^boolean$/.test(one.idlType))) return all.find(one => one.startsWith('|'));
    // Where each is one of an interface, no text and no number is taken.
    if (all.every(one => /^(object|[A-Z]\w*)[?]?$/.test(one))) return 'object' + (mark || all.some(one => one.endsWith('?')) ? '?' : '');
    return dictionary ? '@' + dictionary.replace(/^@/, '').replace(/[?]$/, '') : '~';
  }
  if (own.generic === 'record') return 'object' + mark;
  if (own.generic) {
    if (!/^(sequence|FrozenArray|ObservableArray)$/.test(own.generic)) return '~';
    const item = type(own.idlType[0] ?? own.idlType, depth + 1);
    return (/^[A-Z]\w*$/.test(item) ? `[${item}` : 'list') + mark;
  }
  const name = own.idlType;
  if (typeof name !== 'string') return type(name, depth + 1) + mark;
  if (aliases[name]) { const below = type(aliases[name], depth + 1); return below.endsWith('?') ? below : below + mark; }
  if (name === 'object' || buffers.test(name)) return 'object' + mark;
  if (enums[name]) { usedEnums.add(name); return `|${name}${mark}`; }
  if (callbacks[name]) return callbacks[name] + mark;
  if (dictionaries[name]) { usedDictionaries.add(name); return `{${name}${mark}`; }
  if (interfaces[name]) return name + mark;
  return '~';
};
const aliased = name => aliases[name] && typeof aliases[name].idlType === 'string' ? aliased(aliases[name].idlType) : name;
const rows = [], known = new Map(), writable = new Map();
for (const line of fs.readFileSync(table, 'utf8').split('\n').filter(line => line && !line.startsWith('#'))) {
  const [head, ...members] = line.split(' ');
  writable.set(head.split(':')[0], new Set(members.filter(member => member.includes('=')).map(member => member.split('=')[0])));
  known.set(head.split(':')[0], members.filter(member => member.includes('()')).map(member => member.split('(')[0]));
}
const inWindow = known.get('window-itself') ?? [];
for (const [name, members] of [...known].sort()) {
  if (!interfaces[name]) continue;
  const wanted = new Set([...members, ...(name === 'Window' || name === 'Document' ? inWindow : [])]);
  const calls = new Map();
  for (const own of interfaces[name]) {
    const isNew = own.type === 'constructor';
    if (!isNew && (own.type !== 'operation' || !own.name)) continue;
    const key = isNew ? 'new' : own.special === 'static' ? `!${own.name}` : own.name;
    if (!isNew && !wanted.has(key)) continue;
    calls.set(key, [...(calls.get(key) ?? []), own.arguments]);
  }
  // What attributes refuse that can be set, and not by another attribute or by nothing.
  for (const own of interfaces[name]) {
    if (own.type !== 'attribute' || own.special || !writable.get(name).has(own.name)) continue;
    if (own.extAttrs.some(one => /^(PutForwards|Replaceable|LegacyLenientSetter)$/.test(one.name))) continue;
    const enumsSoFar = new Set(usedEnums), dictionariesSoFar = new Set(usedDictionaries);
    const found = typeof own.idlType.idlType === 'string' && /^(double|float)$/.test(aliased(own.idlType.idlType)) ? 'number' + (own.idlType.nullable ? '?' : '') : type(own.idlType);
    if (/^(object|list|number|\[|[A-Z])/.test(found)) rows.push(`${name}.${own.name}= 0 ${found}`);
    else {
      for (const one of usedEnums) if (!enumsSoFar.has(one)) usedEnums.delete(one);
      for (const one of usedDictionaries) if (!dictionariesSoFar.has(one)) usedDictionaries.delete(one);
    }
  }
  for (const [key, overloads] of calls) {
    const required = Math.min(...overloads.map(all => all.filter(one => !one.optional && !one.variadic).length));
    const longest = Math.max(...overloads.map(all => all.length));
    const types = [];
    for (let at = 0; at < longest; at++) {
      const all = overloads.map(own => own[at] ?? own.at(-1)).filter(Boolean);
      const found = [...new Set(overloads.filter(own => own[at]).map(own => own[at].variadic ? '~' : type(own[at].idlType)))];
      const isForAll = overloads.every(own => own[at]);
      if (found.length === 1 && (isForAll || overloads.length === 1)) types.push(found[0]);
      else { const dictionary = found.find(one => /^@?[{]/.test(one)); types.push(dictionary ? '@' + dictionary.replace(/^@/, '') : '~'); }
    }
    while (types.at(-1) === '~') types.pop();
    if (required || types.length) rows.push(`${name}.${key} ${required} ${types.join(',')}`.trim());
  }
}
// What dictionaries have of types that refuse something. Those in them are asked in turn.
const lines = [], asked = [...usedDictionaries];
for (const name of asked) {
  const members = [];
  for (let at = name; at && dictionaries[at]; at = dictionaries[at].parent)
    for (const own of dictionaries[at].members) {
      if (own.required) members.push(`!${own.name}`);
      const found = type(own.idlType);
      if (!/^(~|@|object)/.test(found)) members.push(`${own.name}:${found}`);
    }
  if (members.length) lines.push(`{${name} ${members.sort().join(' ')}`);
}
console.log(`# What functions of the platform need: how many arguments at least, and their types as far as one refuses something.
# \`|\` an enumeration, \`{\` a dictionary, \`@\` with other types beside it, \`?\` or null, \`~\` anything; \`new\` is a constructor.
# Before a member of a dictionary \`!\` says that it has to be there; \`[\` is a list of an interface, and behind \`=\` stands what
# an attribute takes.
# Made by scripts/call-table.sh from @webref/idl ${version}.`);
for (const name of [...usedEnums].sort()) console.log(`|${name} ${enums[name].map(value => value === '' ? '""' : value).join(' ')}`);
for (const line of lines.sort()) console.log(line);
for (const row of rows) console.log(row);
JS
mv calls.txt "$data/calls.txt"
