#!/bin/sh
# Run a step of setting up, and say how long it lasted: timed.sh NAME COMMAND...
name=$1
shift
begun=$(date +%s)
"$@"
code=$?
echo "$name: $(($(date +%s) - begun)) s" >&2
exit $code
