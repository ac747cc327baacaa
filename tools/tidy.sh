#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/tidy.sh [BASE]: clang-tidy, by .clang-tidy, over the C++ files that changed since BASE (twenty commits ago when left out).
# Files that are compiled together are looked at together: most of the time goes into the headers that they share.
set -euo pipefail
cd "$(dirname "$0")/.."
base=${1:-HEAD~20}
git rev-parse --verify -q "$base" >/dev/null || base=$(git rev-list --max-parents=0 HEAD | tail -n 1)
# Where nothing but the line about the licence has changed there is nothing to look at.
mapfile -t changed < <(git diff --numstat --no-renames --diff-filter=d -I 'SPDX-License-Identifier' "$base" -- 'src/*.cpp' | awk '$1 + $2 > 0 {print $3}')
[ ${#changed[@]} -gt 0 ] || exit 0

cmake --preset release -B build/tidy -DCMAKE_DISABLE_PRECOMPILE_HEADERS=ON -DSTONE_TESTS=OFF -DSTONE_BENCH=OFF >/dev/null
together=$(find build/tidy/src -path '*/Unity/*.cxx')
units=()
for file in "${changed[@]}"; do
  unit=$(grep -lF "/$file\"" $together | head -n 1 || true)
  units+=("${unit:-$file}")
done
printf '%s\n' "${units[@]}" | sort -u | xargs -P "$(nproc)" -n 1 clang-tidy -p build/tidy --quiet --warnings-as-errors='*' \
  --extra-arg=-Wno-unknown-warning-option --extra-arg=-Wno-shadow 2>/dev/null
