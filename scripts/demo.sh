#!/usr/bin/env bash
# Serves the demo production; makes its media where they are not there yet.
set -euo pipefail
cd "$(dirname "$0")/.."
mark=$(cat demo/tarn-hollow.json demo/speech/*.ogg | sha256sum | cut -c1-12)
place=var/demo-$mark
if [ ! -e "$place/media/truth.json" ]; then
  echo "Making the demo media (once, about a minute) …"
  rm -rf "$place/making"
  mkdir -p "$place"
  target/release/metaxis-shoot demo/tarn-hollow.json --out "$place/making"
  mv "$place/making" "$place/media"
fi
exec target/release/metaxis serve --data "$place/data" --root "$place/media" --take-in "$place/media" \
  --name "The Tarn Hollow Tenor" --day "Day 1 · Thu 14 May" "$@"
