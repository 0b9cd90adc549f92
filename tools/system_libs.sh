#!/bin/sh
# Makes sure of what the system must provide: `drawing` needs the EGL and GL libraries, `browser` needs Chromium.
# Installs Debian packages where it may (root with apt-get); else says the one line to run.
set -eu
what=$1
python=$2

here() {
    case $what in
        drawing) "$python" -c 'import skia' 2>/dev/null ;;
        browser) command -v chromium >/dev/null || command -v chromium-browser >/dev/null ;;
    esac
}

case $what in
    drawing) packages="libegl1 libgl1 libfontconfig1" ;;
    browser) packages="chromium" ;;
    *) echo "usage: system_libs.sh drawing|browser PYTHON" >&2; exit 2 ;;
esac

here && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Installing $packages"
    apt-get update -qq >/dev/null
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages >/dev/null
    here && exit 0
fi
echo "Velvet Drum needs packages of the system. Run this once, then start again:" >&2
echo "  sudo apt-get install -y $packages" >&2
exit 1
