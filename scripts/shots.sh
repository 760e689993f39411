#!/usr/bin/env bash
# shots.sh [FOLDER] [film|dim]: serves the demo on a port of its own with a fresh production and takes the pictures.
set -euo pipefail
cd "$(dirname "$0")/.."
mark=$(cat demo/tarn-hollow.json demo/speech/*.ogg | sha256sum | cut -c1-12)
media=var/demo-$mark/media
[ -e "$media/truth.json" ] || target/release/metaxis-shoot demo/tarn-hollow.json --out "$media"
data=$(mktemp -d /tmp/tarn-hollow-XXX)
target/release/metaxis serve --address 127.0.0.1:4812 --data "$data" --root "$media" --take-in "$media" \
  --name "The Tarn Hollow Tenor" --day "Day 1 · Thu 14 May" >"$data/address" &
server=$!
trap 'kill "$server"; wait "$server" || true; rm -rf "$data"' EXIT
until [ -s "$data/address" ]; do sleep 0.1; done
target/release/metaxis-shots http://127.0.0.1:4812 "${1:-docs/screenshots}" "${2:-film}"
