#!/usr/bin/env bash
# Holds what is said of libraries with what people begin with: builds of packages on the npm registry, each with the
# first lines that somebody writes with it (`crates/deft-pin/tests/browser/manuals.txt`), in the foot, in the head and on
# the site's own page, with slips in them, without a library, and two by two, against Chromium. They are unpacked outside
# of the repository, into ${1:-/tmp/deft-pin-manuals}. Needs npm, Chromium with its driver, and the network.
set -euo pipefail
cd "$(dirname "$0")/.."
manuals=${1:-/tmp/deft-pin-manuals}
mkdir -p "$manuals"
while read -r name package file; do
  if [ ! -f "$manuals/$name.js" ]; then
    work=$(mktemp -d)
    (cd "$work" && npm pack --silent "$package" > /dev/null && tar xzf ./*.tgz) || { echo "no $package"; continue; }
    cp "$work"/*/"$file" "$manuals/$name.js" || echo "no $file in $package"
    rm -r "$work"
  fi
done <<'LIST'
jquery jquery@3 dist/jquery.min.js
slick slick-carousel slick/slick.min.js
owl owl.carousel dist/owl.carousel.min.js
magnific magnific-popup dist/jquery.magnific-popup.min.js
jquery-ui jquery-ui@1.13 dist/jquery-ui.min.js
validate jquery-validation dist/jquery.validate.min.js
datatables datatables.net js/dataTables.min.js
fancybox @fancyapps/ui dist/fancybox/fancybox.umd.js
glightbox glightbox dist/js/glightbox.min.js
splide @splidejs/splide dist/js/splide.min.js
flickity flickity dist/flickity.pkgd.min.js
tiny-slider tiny-slider dist/min/tiny-slider.js
keen keen-slider keen-slider.js
embla embla-carousel embla-carousel.umd.js
swiper swiper swiper-bundle.min.js
alpine alpinejs dist/cdn.min.js
petite petite-vue dist/petite-vue.iife.js
vue3 vue@3 dist/vue.global.prod.js
vue2 vue@2 dist/vue.min.js
react react@17 umd/react.production.min.js
react-dom react-dom@17 umd/react-dom.production.min.js
angular angular angular.min.js
gsap gsap dist/gsap.min.js
scrolltrigger gsap dist/ScrollTrigger.min.js
anime animejs@3 lib/anime.min.js
leaflet leaflet dist/leaflet.js
ol ol dist/ol.js
chart chart.js dist/chart.umd.js
apex apexcharts dist/apexcharts.min.js
echarts echarts dist/echarts.min.js
d3 d3 dist/d3.min.js
choices choices.js public/assets/scripts/choices.min.js
tom-select tom-select dist/js/tom-select.complete.min.js
select2 select2 dist/js/select2.min.js
nouislider nouislider dist/nouislider.min.js
lightgallery lightgallery lightgallery.umd.js
sweetalert sweetalert2 dist/sweetalert2.all.min.js
toastify toastify-js src/toastify.js
notyf notyf notyf.min.js
micromodal micromodal dist/micromodal.min.js
a11y-dialog a11y-dialog dist/a11y-dialog.min.js
simplebar simplebar dist/simplebar.min.js
perfect perfect-scrollbar dist/perfect-scrollbar.js
headroom headroom.js dist/headroom.min.js
waypoints waypoints lib/noframework.waypoints.min.js
scrollmagic scrollmagic scrollmagic/minified/ScrollMagic.min.js
lenis lenis dist/lenis.min.js
tilt vanilla-tilt dist/vanilla-tilt.min.js
flatpickr flatpickr dist/flatpickr.min.js
pikaday pikaday pikaday.js
air air-datepicker air-datepicker.js
imask imask dist/imask.min.js
cleave cleave.js dist/cleave.min.js
autosize autosize dist/autosize.min.js
list list.js dist/list.min.js
lunr lunr lunr.js
mark mark.js dist/mark.min.js
bootstrap5 bootstrap@5 dist/js/bootstrap.bundle.min.js
bootstrap3 bootstrap@3 dist/js/bootstrap.min.js
uikit uikit dist/js/uikit.min.js
materialize materialize-css dist/js/materialize.min.js
foundation foundation-sites dist/js/foundation.min.js
htmx htmx.org dist/htmx.min.js
stimulus @hotwired/stimulus dist/stimulus.umd.js
tippy tippy.js dist/tippy-bundle.umd.min.js
popper @popperjs/core dist/umd/popper.min.js
driver driver.js dist/driver.js.iife.js
introjs intro.js minified/intro.min.js
lottie lottie-web build/player/lottie.min.js
particles particles.js particles.js
typed typed.js dist/typed.umd.js
countup countup.js dist/countUp.umd.js
scrollreveal scrollreveal dist/scrollreveal.min.js
aos aos dist/aos.js
lozad lozad dist/lozad.min.js
lazyload vanilla-lazyload dist/lazyload.min.js
masonry masonry-layout dist/masonry.pkgd.min.js
isotope isotope-layout dist/isotope.pkgd.min.js
imagesloaded imagesloaded imagesloaded.pkgd.min.js
sortable sortablejs Sortable.min.js
dayjs dayjs dayjs.min.js
moment moment min/moment.min.js
luxon luxon build/global/luxon.min.js
axios axios dist/axios.min.js
handlebars handlebars dist/handlebars.min.js
mustache mustache mustache.min.js
marked marked lib/marked.umd.js
dompurify dompurify dist/purify.min.js
clipboard clipboard dist/clipboard.min.js
fuse fuse.js@6 dist/fuse.min.js
howler howler dist/howler.min.js
videojs video.js dist/video.min.js
cookie js-cookie dist/js.cookie.min.js
underscore underscore underscore-umd-min.js
backbone backbone backbone-min.js
knockout knockout build/output/knockout-latest.js
mithril mithril mithril.min.js
rellax rellax rellax.min.js
hammer hammerjs hammer.min.js
highlight @highlightjs/cdn-assets highlight.min.js
prism prismjs prism.js
splitting splitting dist/splitting.min.js
smooth-scroll smooth-scroll dist/smooth-scroll.polyfills.min.js
dropzone dropzone dist/dropzone-min.js
three three@0.150 build/three.min.js
cash cash-dom dist/cash.min.js
zepto zepto dist/zepto.min.js
LIST

