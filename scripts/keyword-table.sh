#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/keywords.txt anew: the words that Chromium takes alone as the value of
# each property that it knows, and the kinds of other single components, asked by `CSS.supports`. Asked are the words of all published grammars (run
# scripts/property-table.sh before), and those that browsers had before these, or beside them.
# Needs node and chromium; no network.
set -euo pipefail
cd "$(dirname "$0")/.."
data=crates/deft-pin-core/data
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
node - "$data" > "$work/ask.html" <<'JS'
const fs = require('fs'), data = process.argv[2];
const rows = name => fs.readFileSync(`${data}/${name}`, 'utf8').split('\n').filter(row => row && !row.startsWith('#'));
const properties = rows('properties.txt').map(row => row.split('\t')).filter(([name]) => !name.startsWith('@'));
const grammars = [...properties.map(row => row[4] ?? ''), ...rows('types.txt').map(row => row.split('\t').slice(1).join(' '))];
const words = new Set();
for (const grammar of grammars)
  for (const [word] of grammar.replace(/<[^>]*>/g, ' ').matchAll(/-?[a-zA-Z][\w-]*(?![\w(-])/g)) words.add(word.toLowerCase());
const old = `-webkit-box -webkit-inline-box -webkit-flex -webkit-inline-flex -webkit-grid -webkit-inline-grid -webkit-sticky -webkit-grab
  -webkit-grabbing -webkit-zoom-in -webkit-zoom-out -webkit-fill-available -webkit-min-content -webkit-max-content -webkit-fit-content
  -webkit-left -webkit-right -webkit-center -webkit-match-parent -webkit-auto -webkit-text -webkit-body -webkit-link -webkit-activelink
  -webkit-focus-ring-color -webkit-isolate -webkit-isolate-override -webkit-plaintext -webkit-optimize-contrast -webkit-baseline-middle
  -webkit-nowrap -webkit-pictograph -webkit-standard -webkit-xxx-large -webkit-control -webkit-mini-control -webkit-small-control
  -webkit-paged-x -webkit-paged-y -webkit-calc -webkit-bidi-override -webkit-middle -webkit-line-clamp -webkit-inline-ruby
  -moz-box -moz-inline-box -moz-inline-stack -moz-stack -moz-deck -moz-grid -moz-available -moz-fit-content -moz-min-content
  -moz-max-content -moz-left -moz-right -moz-center -moz-none -moz-all -moz-grab -moz-grabbing -moz-zoom-in -moz-zoom-out
  -moz-initial -moz-isolate -moz-plaintext -moz-crisp-edges -moz-pre-wrap -moz-scrollbars-none -moz-scrollbars-vertical
  -moz-scrollbars-horizontal -moz-hidden-unscrollable -moz-default-color -moz-hyperlinktext -moz-field -moz-dialog -moz-fixed
  -ms-flexbox -ms-inline-flexbox -ms-grid -ms-inline-grid -ms-autohiding-scrollbar -ms-device-fixed -o-flex -o-pre-wrap
  lr rl tb lr-tb rl-tb tb-rl lr-bt tb-lr bt-rl hand all-scroll overlay optimizespeed optimizequality optimizelegibility
  geometricprecision clear copy source-over source-in source-out source-atop destination-over destination-in destination-out
  destination-atop xor plus-darker plus-lighter content padding border text intrinsic min-intrinsic run-in compact marker
  slider-vertical slider-horizontal sliderthumb-horizontal sliderthumb-vertical square-button push-button button-bevel
  default-button inner-spin-button caret listitem media-slider media-sliderthumb media-volume-slider media-volume-sliderthumb
  media-play-button media-mute-button media-enter-fullscreen-button media-exit-fullscreen-button media-controls-background
  media-controls-fullscreen-background media-current-time-display media-time-remaining-display media-seek-back-button
  media-seek-forward-button media-overlay-play-button media-toggle-closed-captions-button media-controls-light-bar-background
  meter progress-bar progress-bar-value searchfield searchfield-cancel-button searchfield-results-button
  searchfield-decoration searchfield-results-decoration textarea textfield menulist menulist-button menulist-text
  menulist-textfield listbox checkbox radio continuous-capacity-level-indicator discrete-capacity-level-indicator
  rating-level-indicator relevancy-level-indicator capacity-level-indicator after-white-space ellipsis reset document
  read-only read-write read-write-plaintext-only ink blink visiblepainted visiblefill visiblestroke painted bounding-box
  ignore intersect exclude invert no-composite center middle centre hidden visible collapse none auto normal default
  inherit initial unset revert revert-layer revert-rule anchors-visible anchors-valid no-overflow anchored scroll-state
  always stretch contain cover fill-box stroke-box view-box no-clip both block inline flow flow-root ruby ruby-base math
  legacy snapshot sub-pixel subpixel antialiased subpixel-antialiased logical visual alternate discard separate
  sideways-right no-limit mixed after before no-repeat scroll local fixed x y touch no-drag drag element above below
  table-header-group table-footer-group list-container popup tooltip toolbar reading-order entry exit entry-crossing exit-crossing
  swap optional landscape portrait view inline-axis block-axis inline-layout flow-start flow-end steps zoom vertical-right rotate-left
  rotate-right fullscreen standalone browser paged coarse fine on-demand hover fill-reverse track-reverse interlace progressive
  before-edge after-edge text-before-edge text-after-edge use-script no-change reset-size dynamic first-baseline custom additive
  extends bullets numbers words spaces layer navigation inverted preview layered match-element enabled initial-only context-fill
  context-stroke once state distribute play pause play-once play-alternate play-forwards play-backwards play-pause replay push
  reversed anonymous annotation stylistic styleset ornaments swash contrast reduce active back-button continuous folded more less
  shrink-to-fit true false decimal polygon shape path media opacity`;
for (const word of old.split(/\s+/)) words.add(word);
const names = properties.filter(row => !/ ?\*$/.test(row[3] ?? '')).map(row => row[0]);
console.log(`<!doctype html><body><script>
const names = ${JSON.stringify(names)}, words = ${JSON.stringify([...words].sort())};
// Words of colours stand for each other; so do all words where any is taken.
const colors = ['rebeccapurple', 'red', 'canvastext', 'transparent', 'currentcolor', 'buttonface', 'lightgoldenrodyellow'];
const probe = document.createElement('p');
const isColor = word => CSS.supports('color', word) && !['inherit', 'initial', 'unset', 'revert', 'revert-layer', 'revert-rule'].includes(word);
// A kind of component is taken where one of these is.
const kinds = { zero: ['0'], number: ['7', '1', '-7', '.5', '100', '700'], length: ['7px', '-7px', '0px', '.5em'],
  percentage: ['7%', '-7%', '100%'], text: ['"s"', '"ab"', '"abcd"'], url: ['url(#s)', 'url(s.png)'], hash: ['#123'],
  angle: ['7deg', '-7deg', '90deg'], time: ['7s', '-7s'], flex: ['7fr'], resolution: ['7dpi'], frequency: ['7hz'] };
// What may stand beside another: where no pair is taken, one component is all that the property takes.
const functions = ['path("M0 0")', 'rect(0px, 1px, 2px, 3px)', 'circle(1px)', 'ray(1deg)', 'calc(1px)', 'linear-gradient(red, blue)',
  'counter(a)', 'translate(1px)', 'blur(1px)', 'cubic-bezier(0, 0, 1, 1)'];
const beside = (name, words) => {
  const own = new Set();
  const all = [['word', 'zz-sorrel'], ['word', '--zz'], ...words.slice(0, 12).map(word => ['', word]),
    ...Object.entries(kinds).flatMap(([kind, some]) => some.slice(0, 2).map(one => [kind, one])), ...functions.map(one => ['', one])];
  for (const [kind, one] of all) for (const [other, two] of all) for (const mark of [' ', ', ', ' / '])
    if (CSS.supports(name, one + mark + two)) for (const found of [kind, other, 'pair']) if (found) own.add(found);
  return [...own];
};
const out = [];
for (const name of names) {
  if (!CSS.supports(name, 'initial')) continue;
  const any = CSS.supports(name, 'zz-sorrel'), color = CSS.supports(name, 'rebeccapurple') && !any;
  const taken = words.filter(word => CSS.supports(name, word));
  const own = [...Object.entries(kinds).filter(([, some]) => some.some(one => CSS.supports(name, one))).map(([kind]) => '@' + kind),
    ...beside(name, taken).map(kind => '&' + kind)];
  if (any) out.push([name, '*', ...own, ...words.filter(word => !taken.includes(word)).map(word => '!' + word)].join(' '));
  else out.push([name, ...own, ...(color ? ['@color'] : []), ...taken.filter(word => !(color && isColor(word)))].join(' '));
}
document.body.textContent = ['@color ' + words.filter(isColor).join(' '), '@asked ' + words.join(' '), ...out].join('\\n');
</script>`);
JS
chromium --headless --no-sandbox --disable-gpu --user-data-dir="$work/profile" --virtual-time-budget=60000 \
  --dump-dom "file://$work/ask.html" 2>/dev/null > "$work/dom.html"
node - "$work/dom.html" "$(chromium --version 2>/dev/null | cut -d' ' -f1,2)" > "$data/keywords.txt" <<'JS'
const fs = require('fs'), [file, version] = process.argv.slice(2);
const wide = new Set(['inherit', 'initial', 'unset', 'revert', 'revert-layer', 'revert-rule']);
const rows = fs.readFileSync(file, 'utf8').match(/<body>([^<]*)/)[1].replaceAll('&amp;', '&').trim().split('\n').map(row => row.split(' '));
console.log(`# Made by scripts/keyword-table.sh from ${version}.
# A property a line, with the words that it takes alone as its value, but for those that every property
# takes; behind a \`*\` any word but those with a \`!\`; \`@color\` stands for the names of colours, \`@length\`
# and the like for components of a kind, \`&length\` for those that it takes beside another, \`&pair\` where there may be two. \`@asked\` are all words that it was asked about.`);
for (const [name, ...words] of rows)
  console.log(name + '\t' + words.filter(word => !wide.has(word)).join(' '));
JS
wc "$data/keywords.txt"
