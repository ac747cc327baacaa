#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/sanitize.sh: the tests under the sanitizers. Address and undefined behaviour: all of the core and two of the window's.
# Threads: what plays live, in a build of the core alone, without the window.
set -euo pipefail
cd "$(dirname "$0")/.."

# tst_rates renders for minutes what others render too, to compare figures: no memory is used there that is not used elsewhere.
./tools/build.sh asan core_tests chosen_tests fuzz_feeds
ctest --test-dir build/asan --output-on-failure --timeout 900 -j "$(nproc)" -L '^(core|chosen|fuzz)$' -E '^tst_rates$'

./tools/build.sh tsan live_tests
ctest --test-dir build/tsan --output-on-failure --timeout 900 -L '^live$'
