#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/screenshots.sh [FOLDER [NAME...]]: pictures of the main views at 1280x800, from the demo, through Xvfb. All of
# them into docs/screenshots when nothing is named.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=${1:-docs/screenshots}
[ $# -gt 0 ] && shift
mkdir -p "$folder"
./tools/build.sh release stone-echo-pictures >/dev/null
xvfb-run -a -s "-screen 0 1280x800x24" build/release/bin/stone-echo-pictures demo/vellmoor-halt "$folder" "$@" 2>/dev/null
