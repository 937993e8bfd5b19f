#!/usr/bin/env bash
# Writes crates/deft-pin-core/data/globals.txt anew: the globals that Chromium has on an empty page,
# before any script of the page. Needs chromium.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cat > "$work/page.html" <<'HTML'
<!doctype html><body><script>
const names = new Set();
for (let at = window; at; at = Object.getPrototypeOf(at)) Object.getOwnPropertyNames(at).forEach(name => names.add(name));
document.body.textContent = [...names].filter(name => /^[A-Za-z_$][\w$]*$/.test(name) && name !== 'names').sort().join('\n');
</script>
HTML
{
  echo '# Globals of browsers; made by scripts/globals-table.sh.'
  chromium --headless --no-sandbox --disable-gpu --user-data-dir="$work/profile" --dump-dom "file://$work/page.html" \
    2>/dev/null | sed 's/<[^>]*>//g' | grep -v '^$'
} > crates/deft-pin-core/data/globals.txt
wc -l crates/deft-pin-core/data/globals.txt
