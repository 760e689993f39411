#!/usr/bin/env bash
# Prints the figures: sync of the demo against its truth, its time against plain decoding, playback.
set -euo pipefail
cd "$(dirname "$0")/.."
mark=$(cat demo/tarn-hollow.json demo/speech/*.ogg | sha256sum | cut -c1-12)
media=var/demo-$mark/media
if [ ! -e "$media/truth.json" ]; then
  echo "demo media:"
  time target/release/metaxis-shoot demo/tarn-hollow.json --out "$media" 2>/dev/null
fi
target/release/metaxis-intake-figures target/release/metaxis "$media"
target/release/metaxis-trials --seed "${SEED:-9001}" --shoots "${SHOOTS:-4}"
target/release/metaxis-timecode
target/release/metaxis-figures target/release/metaxis "$media"
target/release/metaxis-growth target/release/metaxis
echo 'long clips:'
target/release/metaxis-growth target/release/metaxis --clips 4,12 --each 1 --scene-s 4500
echo 'a recorder of eight channels:'
target/release/metaxis-growth target/release/metaxis --clips 50 --channels 8
cargo bench --quiet -p metaxis-bench
echo 'sound written for pictures of an hour, against the true sound at the clock of the picture:'
target/release/metaxis-sound-figures target/release/metaxis
target/release/metaxis-playback "$media"
echo 'walls of nine and of sixteen angles:'
target/release/metaxis-playback --angles 9
target/release/metaxis-playback --angles 16
target/release/metaxis-line-figures
target/release/metaxis-film-figures
echo "the Day sheet and the Bench at the size of a real day:"
target/release/metaxis-check-figures --demo "$media"
