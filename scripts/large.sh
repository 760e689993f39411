#!/usr/bin/env bash
# Serves a simulated day at the size of a real one: about 400 clips over twelve hours, six devices, folders named as people
# name them. CLIPS=120 makes a smaller one.
set -euo pipefail
cd "$(dirname "$0")/.."
clips=${CLIPS:-400}
place=var/large-$clips-$(cat crates/metaxis-shoot/src/large.rs demo/speech/*.ogg | sha256sum | cut -c1-12)
if [ ! -e "$place/media/truth.json" ]; then
  echo "Making the media of $clips clips (once, two or three minutes) …"
  rm -rf "$place/making"
  mkdir -p "$place"
  SECONDS=0
  target/release/metaxis-shoot --large "$clips" --out "$place/making" 2>"$place/making.log"
  mv "$place/making" "$place/media"
  echo "Made in ${SECONDS} s: $(du -sh "$place/media" | cut -f1)"
fi
exec target/release/metaxis serve --data "$place/data" --root "$place/media" --take-in "$place/media" \
  --name "A large day" --day "Day 1 · Thu 14 May" "$@"
