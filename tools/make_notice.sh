#!/bin/sh
# Speaks the harbour notice of the demo. Needs espeak-ng (Debian package of that name) and the project's .venv.
set -eu
here=$(dirname "$0")/..
work=$(mktemp -d)
espeak-ng -v en-gb+f3 -s 142 -p 42 -g 3 -w "$work/notice.wav" "Good evening, Lantern Quay.
This is the harbour office. The night ferry leaves at ten past nine, from the east pier.
Fog is expected after midnight. Small boats, please keep your lamps lit.
And to whoever left a paper lighthouse on the breakwater: it is still burning."
"$here/.venv/bin/python" -c "
import sys, av
with av.open(sys.argv[1]) as source, av.open(sys.argv[2], 'w') as target:
    stream = target.add_stream('libopus', rate=48000, layout='mono')
    stream.bit_rate = 40000
    resampler = av.AudioResampler(format='flt', layout='mono', rate=48000)
    for frame in source.decode(audio=0):
        for piece in resampler.resample(frame):
            target.mux(stream.encode(piece))
    for piece in resampler.resample(None):
        target.mux(stream.encode(piece))
    target.mux(stream.encode(None))
" "$work/notice.wav" "$here/velvetdrum/demo/harbour-notice.opus"
rm -r "$work"
