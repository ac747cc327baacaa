#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/fuzz.sh [SECONDS] [TARGET...]: searches for inputs that break what reads files, each target for so long (600 s when
# left out). What is found is put into build/fuzz/found/TARGET; a finding that is mended belongs into tests/fuzz/corpus/TARGET.
set -euo pipefail
cd "$(dirname "$0")/.."
seconds=${1:-600}
[ $# -gt 0 ] && shift
targets=("$@")
[ ${#targets[@]} -gt 0 ] || targets=(document gltf obj sofa sound command_line take osc csv gltf_emitters pack finds)

if ! command -v clang++ >/dev/null; then
  echo "tools/fuzz.sh: clang is missing; install clang and libclang-rt-14-dev" >&2
  exit 1
fi
./tools/build.sh fuzz "${targets[@]/#/search_}"

failed=0
for target in "${targets[@]}"; do
  found=build/fuzz/found/$target
  work=build/fuzz/corpus/$target
  mkdir -p "$found" "$work"
  echo "$target: $seconds s"
  export LSAN_OPTIONS="suppressions=$PWD/tests/fuzz/leaks.supp:print_suppressions=0"
  if ! "build/fuzz/bin/search_$target" -max_total_time="$seconds" -timeout=10 -rss_limit_mb=3000 -max_len=65536 \
    -print_final_stats=1 -artifact_prefix="$found/" "$work" "tests/fuzz/corpus/$target" >"build/fuzz/$target.log" 2>&1; then
    echo "$target: something was found, see build/fuzz/$target.log and $found" >&2
    failed=1
  fi
  grep -E "number_of_executed_units|new_units_added" "build/fuzz/$target.log" || true
done
exit $failed
