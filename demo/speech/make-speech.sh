#!/usr/bin/env bash
# Makes the spoken sound files of the demo with the general speech synthesiser espeak-ng and ffmpeg.
# The results are shipped; run this only to change what is said.
set -euo pipefail
cd "$(dirname "$0")"
say() { # NAME VOICE SPEED PITCH TEXT
  espeak-ng -v "$2" -s "$3" -p "$4" -w /dev/stdout "$5" |
    ffmpeg -hide_banner -loglevel error -y -i - -ac 1 -ar 24000 -c:a libopus -b:a 28k -bitexact "$1.ogg"
}
say slate-1 en-gb 165 60 "Scene two. Take one. Mark."
say slate-2 en-gb 172 60 "Scene two. Take two. Mark."
say slate-3 en-gb 160 60 "Scene two. Take three. End slate."
say founder-1 en-gb-x-rp 150 32 "My grandfather dug this pit with his own hands. You pour once, and you pour without stopping. If the stream breaks, the bell will tell everybody for three hundred years."
say founder-2 en-gb-x-rp 158 35 "My grandfather, he dug this pit himself. You pour one time only, and never stop. If the stream breaks, well, the bell tells everyone, for three hundred years."
say founder-3 en-gb-x-rp 145 30 "People ask what the secret is. There is no secret. Clay, horse hair, and patience. And you listen. The metal says when it is ready."
say call-1 en-us 170 45 "Stand clear of the ladle! Slowly now. Slowly. Keep it coming."
say call-2 en-us 180 50 "Skim the top. Good. A little more to the left."
say wild-1 en-gb 150 40 "Wild track. Room tone of the foundry, and the door of the furnace."
