#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/map-tiles.sh PROJECT OUT.csv [TILES [OPTION...]]: a map of a storey in so many parts (16), as many at a time as there are
# cores, by GNU parallel. OUT.csv is the same to the byte as that of one `stone-echo-cli map`. OPTIONs are that command's:
# --cells, --storey, --only. STONE_CLI says where the program is.
set -euo pipefail
if [ $# -lt 2 ]; then
  sed -n '2,4s/^# //p' "$0" >&2
  exit 2
fi
project=$1
out=$2
tiles=${3:-16}
shift $(($# < 3 ? $# : 3))
cli=${STONE_CLI:-stone-echo-cli}
command -v parallel >/dev/null || {
  echo "map-tiles: GNU parallel is not installed (on Debian the package parallel)" >&2
  exit 1
}
parts=$(mktemp -d)
trap 'rm -rf "$parts"' EXIT
seq 1 "$tiles" | parallel -q --halt now,fail=1 "$cli" map "$project" --tile "{}/$tiles" --csv "$parts/{}.csv" "$@"
for part in $(seq 1 "$tiles"); do
  cat "$parts/$part.csv"
done >"$out.part"
mv "$out.part" "$out"
