#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# tools/hours.sh [HOURS]: the demo in the real window for so many hours (8 when left out), walked round and round, as fast as the
# machine can. Says for each minute what is in memory and how long the sound took; fails when memory grows.
set -euo pipefail
cd "$(dirname "$0")/.."
./tools/build.sh release tst_hours
STONE_HOURS=${1:-8} QT_QPA_PLATFORM=offscreen QTEST_FUNCTION_TIMEOUT=100000000 build/release/bin/tst_hours -maxwarnings 0
