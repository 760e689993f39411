#!/usr/bin/env bash
# Installs what is missing on a Debian machine with Rust and Node.js. `setup.sh run` for running,
# `setup.sh test` for the tests as well. Does nothing where everything is there.
set -euo pipefail
cd "$(dirname "$0")/.."
want=${1:-run}

packages=()
command -v ffmpeg >/dev/null && command -v ffprobe >/dev/null || packages+=(ffmpeg)
# metaxis-reader is built against the libraries of ffmpeg; its bindings are made with libclang.
command -v pkg-config >/dev/null || packages+=(pkg-config)
pkg-config --exists libavformat libavcodec libavutil 2>/dev/null || packages+=(libavformat-dev libavcodec-dev libavutil-dev)
compgen -G '/usr/lib/llvm-*/lib/libclang.so*' >/dev/null || packages+=(libclang-dev)
if [ "$want" = test ]; then
  command -v chromium >/dev/null || packages+=(chromium)
  command -v chromedriver >/dev/null || packages+=(chromium-driver)
  # Another reader of what is written.
  command -v mediainfo >/dev/null || packages+=(mediainfo)
  # Timecode of another maker, for the decoder's tests.
  [ -e /usr/include/ltc.h ] || packages+=(libltc-dev)
  command -v python3 >/dev/null && python3 -c 'import venv, ensurepip' 2>/dev/null || packages+=(python3-venv)
fi
command -v cc >/dev/null || packages+=(build-essential)
if [ ${#packages[@]} -gt 0 ]; then
  root=()
  if [ "$(id -u)" -ne 0 ]; then
    echo "These packages are missing and need root to install: ${packages[*]}"
    command -v sudo >/dev/null || { echo "Run as root: apt-get install ${packages[*]}"; exit 1; }
    root=(sudo)
  fi
  "${root[@]}" apt-get update -qq
  "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${packages[@]}"
fi
for tool in cargo npm; do
  command -v "$tool" >/dev/null || { echo "$tool is missing: install Rust (rustup) and Node.js 20 or newer first"; exit 1; }
done

# Page dependencies, as the lock file says.
if [ ! -e web/node_modules/.made ] || [ web/package-lock.json -nt web/node_modules/.made ]; then
  (cd web && npm ci --no-fund --no-audit --loglevel=error)
  touch web/node_modules/.made
fi
# Readers of other makers for the tests: of OpenTimelineIO documents, of a WAV's chunks, of PDF; and what
# writes AAF, with a reader for that.
if [ "$want" = test ] && [ ! -e .venv/.made-4 ]; then
  python3 -m venv .venv
  .venv/bin/pip install --quiet --disable-pip-version-check 'opentimelineio==0.18.*' 'otio-cmx3600-adapter==1.*' 'wavinfo==4.*' 'pypdf==6.*' \
    'pyaaf2==1.*' 'otio-aaf-adapter==2.*'
  touch .venv/.made-4
fi
