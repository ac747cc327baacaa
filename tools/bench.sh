#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/bench.sh [--keep] [NAME...]: runs the benches (all of them when none is named: mixing, rooms, ...), and says what became
# slower or faster since the latest state in bench/history, machines of different speed evened out by the floors. --keep writes
# what was measured there, as bench/history/DATE-COMMIT.json. Ends with 1 where something became slower.
set -euo pipefail
cd "$(dirname "$0")/.."
keep=()
if [ "${1:-}" = --keep ]; then
  keep=(--keep)
  shift
fi
names=("$@")
if [ ${#names[@]} -eq 0 ]; then
  for file in bench/bench_*.cpp; do
    name=${file#bench/bench_}
    names+=("${name%.cpp}")
  done
fi
./tools/build.sh release "${names[@]/#/bench_}" >/dev/null

mkdir -p build/bench
rm -f build/bench/*.json
for name in "${names[@]}"; do
  echo "bench_$name"
  QT_QPA_PLATFORM=offscreen "build/release/bin/bench_$name" --benchmark_repetitions=3 --benchmark_out_format=json \
    --benchmark_out="build/bench/$name.json" >/dev/null 2>&1
done
python3 tools/bench_history.py build/bench bench/history "${keep[@]}"
