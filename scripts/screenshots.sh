#!/usr/bin/env bash
# Draws the pictures of the README anew, into docs/screenshots/: terminals in an xterm under Xvfb, pages
# in Chromium. Needs xvfb, xterm, imagemagick, fonts-dejavu-core, curl, chromium and chromium-driver, all from Debian.
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
# The frame page, once it has all of its views; and the report of a comparison.
(cd deft-pin-demo && exec deft-pin preview /fares/ --port 4917 --quiet > /dev/null 2>&1) &
preview=$!
sleep 2
chromedriver --port=4918 > /dev/null 2>&1 &
driver=$!
sleep 1
session=$(curl -s http://127.0.0.1:4918/session -d '{"capabilities":{"alwaysMatch":{"goog:chromeOptions":{"args":["--headless","--no-sandbox","--disable-gpu","--hide-scrollbars","--window-size=1280,940"]}}}}' | grep -o '"sessionId":"[^"]*"' | cut -d'"' -f4)
ask() { curl -s "http://127.0.0.1:4918/session/$session/$1" ${2:+-d "$2"}; }
ask goog/cdp/execute '{"cmd":"Emulation.setDeviceMetricsOverride","params":{"width":1280,"height":800,"deviceScaleFactor":1,"mobile":false}}' > /dev/null
ask url '{"url":"http://127.0.0.1:4917/_pins/#/fares/"}' > /dev/null
sleep 2
ask execute/sync '{"script":"document.getElementById(\"outline\").click()","args":[]}' > /dev/null
sleep 2
ask screenshot | grep -o '"value":"[^"]*"' | cut -d'"' -f4 | base64 -d > "$pictures/preview.png"
curl -s -X DELETE "http://127.0.0.1:4918/session/$session" > /dev/null
kill "$preview" "$driver" 2>/dev/null || true
(cd deft-pin-demo && deft-pin compare / /fares/ /piers/ellery/ --out ../compared > /dev/null 2>&1)
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/profile" --virtual-time-budget=3000 \
  --window-size=1280,800 --screenshot="$pictures/compare.png" "file://$work/compared/compare.html" >/dev/null 2>&1
# A few releases, the last of them taken back.
(cd deft-pin-demo && sed -i 's/#eef5f6/#e4f1f4/' pins/fares.css && deft-pin publish --out ../live --note 'the winter timetable' > /dev/null 2>&1)
terminal history 'cd deft-pin-demo && sed -i s/#e4f1f4/#eef5f6/ pins/fares.css && deft-pin publish --out ../live --note paler && deft-pin undo --out ../live && deft-pin history && deft-pin history 1 | head -n 12'
# A live site: one page as an earlier release had it, one without a file, one with a sheet pasted twice.
(cd deft-pin-demo && rm -rf releases && deft-pin publish --out ../live > /dev/null 2>&1 && cp -r ../live ../served &&
  sed -i 's/#eef5f6/#e4f1f4/' pins/fares.css && deft-pin publish --out ../live > /dev/null 2>&1 &&
  rm ../served/_pins/waves.*.svg && sed -i 's#</body>#<style>\n'"$(tr -d '\n' < pins/gallery.css | sed 's/[#&]/\\&/g')"'</style></body>#' ../served/piers/marram/index.html &&
  sed -i 's/ id="pictures"//' ../served/piers/ellery/index.html && sed -i 's/<link[^>]*contact[^>]*>//' ../served/contact.html)
(cd deft-pin-demo && exec deft-pin preview --site ../served --plain --port 4919 --folder _x --quiet > /dev/null 2>&1) &
server=$!
sleep 2
terminal probe 'cd deft-pin-demo && deft-pin probe http://127.0.0.1:4919/ --pause 0'
kill "$server" 2>/dev/null || true
(cd deft-pin-demo && sed -i 's/#e4f1f4/#eef5f6/' pins/fares.css)
# What somebody works from who pastes.
(cd deft-pin-demo && deft-pin paste --board boxes.toml --out paste-up > /dev/null 2>&1 && sed -i 's/#eef5f6/#e4f1f4/' pins/fares.css && deft-pin paste --board boxes.toml --out paste-up > /dev/null 2>&1)
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/profile" \
  --window-size=1280,800 --screenshot="$pictures/paste.png" "file://$work/deft-pin-demo/paste-up/paste.html" >/dev/null 2>&1
