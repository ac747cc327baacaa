#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Installs what is missing, builds and opens Stone Echo with Vellmoor Halt. Without a display it renders the demo's walk
# and a picture of the window instead.
set -euo pipefail
cd "$(dirname "$0")"

./tools/install-deps.sh
./tools/build.sh release stone-echo stone-echo-cli

project=demo/vellmoor-halt
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
  exec build/release/bin/stone-echo "$project"
fi

echo "There is no display here: rendering the demo's walk and a picture of the window instead."
mkdir -p out
build/release/bin/stone-echo-cli render "$project" --walk "Last train, all the way round" --out out/vellmoor-halt.wav
./tools/screenshots.sh out main-window
echo "The walk:    $PWD/out/vellmoor-halt.wav"
echo "The picture: $PWD/out/main-window.png"
