#!/usr/bin/env bash
# tools/tidy.sh [BASE]: clang-tidy, by .clang-tidy, over the C++ files that changed since BASE (ten commits ago when left out).
set -euo pipefail
cd "$(dirname "$0")/.."
base=${1:-HEAD~10}
git rev-parse --verify -q "$base" >/dev/null || base=$(git rev-list --max-parents=0 HEAD | tail -n 1)
mapfile -t files < <(git diff --name-only --diff-filter=d "$base" -- 'src/*.cpp')
[ ${#files[@]} -gt 0 ] || exit 0

# File by file, as a person compiles them: neither together nor with what was compiled before.
cmake --preset release -B build/tidy -DSTONE_UNITY=OFF -DCMAKE_DISABLE_PRECOMPILE_HEADERS=ON -DSTONE_BENCH=OFF >/dev/null
printf '%s\n' "${files[@]}" | xargs -P "$(nproc)" -n 2 clang-tidy -p build/tidy --quiet --warnings-as-errors='*' --extra-arg=-Wno-unknown-warning-option \
  --extra-arg=-Wno-shadow 2>/dev/null
