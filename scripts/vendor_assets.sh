#!/bin/sh
# Brings the static files that ship with the application out of npm packages, with their licences.
# Run by hand when a version below changes (needs npm); the result is committed, so that neither
# `make demo` nor `make test` needs npm. No build step: the files are copied as they are published.
set -eu
root=$(cd "$(dirname "$0")/.." && pwd)
out="$root/src/amber_gable/web/static/vendor"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm init -y >/dev/null
npm install --ignore-scripts --no-audit --no-fund --silent \
    bootstrap@5.3.8 htmx.org@2.0.8 bootstrap-icons@1.13.1 \
    js-sha256@0.11.1 \
    @fontsource/atkinson-hyperlegible-next@5.3.0 @fontsource/barlow-condensed@5.3.0
rm -rf "$out"
mkdir -p "$out/bootstrap" "$out/htmx" "$out/sha256" "$out/icons" "$out/fonts"
m=node_modules
cp $m/bootstrap/dist/css/bootstrap.min.css $m/bootstrap/LICENSE "$out/bootstrap/"
# Source maps are not shipped; the trailing comment would make browsers ask for them.
sed -i '/^\/\*# sourceMappingURL/d' "$out/bootstrap/bootstrap.min.css"
cp $m/htmx.org/dist/htmx.min.js $m/htmx.org/LICENSE "$out/htmx/"
cp $m/js-sha256/build/sha256.min.js $m/js-sha256/LICENSE.txt "$out/sha256/"
cp $m/bootstrap-icons/LICENSE "$out/icons/"
for name in rulers layers basket sun calendar3 journal-text house-check house wrench-adjustable \
    sunrise calculator plus-lg x-lg check-lg exclamation-triangle cloud-drizzle droplet wind \
    arrow-counterclockwise download brightness-high trash pencil camera slash-lg; do
    cp "$m/bootstrap-icons/icons/$name.svg" "$out/icons/"
done
a=$m/@fontsource/atkinson-hyperlegible-next
b=$m/@fontsource/barlow-condensed
cp $a/LICENSE "$out/fonts/LICENSE-atkinson-hyperlegible-next"
cp $b/LICENSE "$out/fonts/LICENSE-barlow-condensed"
for weight in 400 700; do
    cp $a/files/atkinson-hyperlegible-next-latin-$weight-normal.woff2 "$out/fonts/"
done
for weight in 500 600; do
    cp $b/files/barlow-condensed-latin-$weight-normal.woff2 "$out/fonts/"
done
ls -R "$out"
