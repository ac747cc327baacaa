#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Installs what is missing, builds everything and runs all tests. test.sh [PRESET], release when left out; asan and tsan
# run the same tests under the sanitizers.
set -euo pipefail
cd "$(dirname "$0")"
preset=${1:-release}

./tools/install-deps.sh
start=$(date +%s)
./tools/build.sh "$preset"
built=$(date +%s)
ctest --test-dir "build/$preset" --output-on-failure --timeout 600 -j "$(nproc)"
tested=$(date +%s)
echo "built in $((built - start)) s, tested in $((tested - built)) s"
