#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# map_tiles_join.sh SOURCE CLI: a map in parts, made by tools/map-tiles.sh, is the map as a whole; what fails leaves nothing behind.
set -euo pipefail
source=$1
cli=$2
command -v parallel >/dev/null || {
  echo "GNU parallel is not installed: nothing to be tested"
  exit 0
}
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
mkdir "$folder/a yard"
cp -r "$source/examples/crowd/." "$folder/a yard"
"$cli" map "$folder/a yard" --cells 40 --only "Last bell" --csv "$folder/whole.csv"
STONE_CLI=$cli "$source/tools/map-tiles.sh" "$folder/a yard" "$folder/parts.csv" 7 --cells 40 --only "Last bell"
cmp "$folder/whole.csv" "$folder/parts.csv"
if STONE_CLI=$cli "$source/tools/map-tiles.sh" "$folder/nowhere" "$folder/none.csv" 3 2>/dev/null; then
  echo "a map of nothing was made"
  exit 1
fi
[ ! -e "$folder/none.csv" ]
