#!/usr/bin/env bash
# Holds what is said of real scripts against Chromium: browser builds of packages on the npm registry,
# each loaded on an empty page; the globals that are there afterwards against those that are said to
# be defined. They are unpacked outside of the repository, into ${1:-/tmp/deft-pin-scripts}. Needs npm,
# Chromium with its driver, and the network.
set -euo pipefail
cd "$(dirname "$0")/.."
scripts=${1:-/tmp/deft-pin-scripts}
mkdir -p "$scripts"
while read -r package file; do
  name=${package//[@\/]/_}
  if [ ! -f "$scripts/$name.js" ]; then
    work=$(mktemp -d)
    (cd "$work" && npm pack --silent "$package" > /dev/null && tar xzf ./*.tgz) || { echo "no $package"; continue; }
    cp "$work"/*/"$file" "$scripts/$name.js" || echo "no $file in $package"
    rm -r "$work"
  fi
done <<'LIST'
jquery@3 dist/jquery.js
jquery@1 dist/jquery.min.js
lodash lodash.js
underscore underscore-umd.js
moment moment.js
dayjs dayjs.min.js
luxon build/global/luxon.js
d3 dist/d3.js
d3-array dist/d3-array.js
d3-scale dist/d3-scale.min.js
chart.js dist/chart.umd.js
leaflet dist/leaflet-src.js
swiper swiper-bundle.js
bootstrap dist/js/bootstrap.bundle.js
@popperjs/core dist/umd/popper.js
vue@2 dist/vue.js
vue@3 dist/vue.global.js
react@17 umd/react.development.js
react-dom@17 umd/react-dom.development.js
preact dist/preact.umd.js
axios dist/axios.js
three build/three.cjs
rellax rellax.js
animejs@3 lib/anime.js
hammerjs hammer.js
handlebars dist/handlebars.js
mustache mustache.js
marked lib/marked.umd.js
dompurify dist/purify.js
sortablejs Sortable.js
flatpickr dist/flatpickr.js
select2 dist/js/select2.js
masonry-layout dist/masonry.pkgd.js
isotope-layout dist/isotope.pkgd.js
imagesloaded imagesloaded.pkgd.js
photoswipe@4 dist/photoswipe.js
typed.js dist/typed.umd.js
countup.js dist/countUp.umd.js
scrollreveal dist/scrollreveal.js
aos dist/aos.js
lozad dist/lozad.js
vanilla-lazyload dist/lazyload.js
highlight.js@9 lib/highlight.js
prismjs prism.js
clipboard dist/clipboard.js
fuse.js dist/fuse.js
howler dist/howler.js
video.js dist/video.js
plyr dist/plyr.js
tippy.js dist/tippy-bundle.umd.js
backbone backbone.js
knockout build/output/knockout-latest.js
mithril mithril.js
localforage dist/localforage.js
js-cookie dist/js.cookie.js
velocity-animate velocity.js
LIST
DEFT_PIN_SCRIPTS=$scripts cargo test --quiet -p deft-pin --test browser -- --ignored --nocapture real_scripts
# What each of them needs of the others, by its text alone, and what it comes to in a pin.
DEFT_PIN_SCRIPTS=$scripts cargo test --quiet -p deft-pin --test browser -- --ignored --nocapture real_libraries
