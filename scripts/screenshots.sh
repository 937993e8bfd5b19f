#!/usr/bin/env bash
# Draws the pictures of the README anew, into docs/screenshots/: terminals in an xterm under Xvfb, pages
# in Chromium. Needs xvfb, xterm, imagemagick, fonts-dejavu-core and chromium, all from Debian.
set -euo pipefail
cd "$(dirname "$0")/.."
cargo build --release --quiet
pictures=$PWD/docs/screenshots
mkdir -p "$pictures"
work=$(mktemp -d)
trap 'kill "${xvfb:-0}" 2>/dev/null || true; rm -rf "$work"' EXIT
export PATH=$PWD/target/release:$PATH DISPLAY=:97
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
xvfb=$!
sleep 1
cd "$work"

# terminal NAME COMMAND: what a terminal shows after a command, as one who has just typed it sees it.
terminal() {
  xterm -fa 'DejaVu Sans Mono' -fs 12 -geometry 126x41+0+0 -bg '#fbfaf7' -fg '#20292e' -b 12 +sb \
    -xrm 'XTerm*boldColors: false' -xrm 'XTerm*color1: #b3261e' -xrm 'XTerm*color2: #1f6f43' -xrm 'XTerm*color4: #1d5a96' -xrm 'XTerm*color5: #8a4a00' \
    -e bash -c "printf '\$ %s\n' '$2'; $2; printf '\$ '; touch done; sleep 60" &
  local terminal=$!
  for _ in $(seq 100); do [ -e done ] && break; sleep 0.1; done
  sleep 0.7
  import -window root "$pictures/$1.png"
  kill "$terminal" 2>/dev/null || true
  wait "$terminal" 2>/dev/null || true
  rm -f done
}

# page PATH FILE: the page in a browser half as wide as the picture.
page() {
  chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/profile" \
    --window-size=638,800 --screenshot="$2" "file://$work/$1" >/dev/null 2>&1
}

terminal demo 'deft-pin demo'
terminal check 'deft-pin check --board deft-pin-demo/faulty.toml --color always 2>&1 | head -n 39'
(cd deft-pin-demo && rm -rf out)
terminal build 'cd deft-pin-demo && deft-pin build --out out && ls out out/_pins && tail -n 2 out/piers/ellery/index.html'
terminal survey 'cd deft-pin-demo && deft-pin survey && echo && deft-pin survey /timetable/'
terminal locate 'cd deft-pin-demo && deft-pin locate "Sailing today" && deft-pin locate "main > section:nth-child(3) td" --page /timetable/ | head -n 22'
terminal reach 'cd deft-pin-demo && deft-pin reach | head -n 36'
terminal order 'cd deft-pin-demo && deft-pin order /piers/ellery/'
(cd deft-pin-demo && deft-pin order /piers/ellery/ --svg ../timeline.svg > /dev/null)
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/profile" \
  --window-size=1200,800 --screenshot="$pictures/timeline.png" "file://$work/timeline.svg" >/dev/null 2>&1
terminal why 'cd deft-pin-demo && deft-pin why / .button background && deft-pin lift / .button --as call'
page deft-pin-demo/site/index.html before.png
page deft-pin-demo/out/index.html after.png
convert before.png -size 4x800 xc:'#20292e' after.png +append "$pictures/pages.png"
page deft-pin-demo/site/piers/ellery/index.html before.png
page deft-pin-demo/out/piers/ellery/index.html after.png
convert before.png -size 4x800 xc:'#20292e' after.png +append "$pictures/pier.png"
# A page some seconds after it was opened.
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/profile" --virtual-time-budget=6000 \
  --window-size=1280,800 --screenshot="$pictures/starts.png" "file://$work/deft-pin-demo/out/index.html" >/dev/null 2>&1
# What somebody works from who pastes.
(cd deft-pin-demo && deft-pin paste --board boxes.toml --out paste-up > /dev/null 2>&1 && sed -i 's/#eef5f6/#e4f1f4/' pins/fares.css && deft-pin paste --board boxes.toml --out paste-up > /dev/null 2>&1)
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/profile" \
  --window-size=1280,800 --screenshot="$pictures/paste.png" "file://$work/deft-pin-demo/paste-up/paste.html" >/dev/null 2>&1
