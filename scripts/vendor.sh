#!/usr/bin/env bash
# Fetches what is vendored, in the versions named here, from npm. Run it by hand to move to a newer version; the result is committed.
set -euo pipefail
cd "$(dirname "$0")/.."
room=$(mktemp -d); trap 'rm -rf "$room"' EXIT
(cd "$room" && npm init -y >/dev/null && npm install --no-audit --no-fund \
  bootstrap@5.3.9 htmx.org@4.0.1 axe-core@4.14.1 @fontsource-variable/atkinson-hyperlegible-next@5.3.0 @fontsource-variable/atkinson-hyperlegible-mono@5.3.0 >/dev/null)
n="$room/node_modules" v=src/Sirena.Web/wwwroot/vendor
mkdir -p $v/bootstrap $v/htmx $v/fonts tests/Sirena.Web.Tests/vendor
sed '/sourceMappingURL/d' "$n/bootstrap/dist/css/bootstrap-reboot.min.css" >$v/bootstrap/bootstrap-reboot.min.css; cp "$n/bootstrap/LICENSE" $v/bootstrap/LICENSE
sed '/sourceMappingURL/d' "$n/htmx.org/dist/htmx.min.js" >$v/htmx/htmx.min.js; cp "$n/htmx.org/LICENSE" $v/htmx/LICENSE
for f in next-latin-wght-normal next-latin-wght-italic next-latin-ext-wght-normal; do cp "$n/@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-$f.woff2" "$v/fonts/$f.woff2"; done
cp "$n/@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2" $v/fonts/mono-latin-wght-normal.woff2
cp "$n/@fontsource-variable/atkinson-hyperlegible-next/LICENSE" $v/fonts/LICENSE
cp "$n/axe-core/axe.min.js" tests/Sirena.Web.Tests/vendor/axe.min.js
