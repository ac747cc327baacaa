#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/build.sh PRESET [TARGET...]: configures once, then builds; everything when no target is named.
set -euo pipefail
cd "$(dirname "$0")/.."
preset=$1
shift
mkdir -p "build/$preset"
log=build/$preset/configure.log
if ! cmake --preset "$preset" >"$log" 2>&1; then
  cat "$log" >&2
  exit 1
fi
targets=()
[ $# -gt 0 ] && targets=(--target "$@")
cmake --build "build/$preset" "${targets[@]}"
