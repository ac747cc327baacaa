#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Lays out all C++ by .clang-format; --check only says what is not laid out so.
set -euo pipefail
cd "$(dirname "$0")/.."
mode=-i
[ "${1:-}" = --check ] && mode="--dry-run --Werror"
# shellcheck disable=SC2086
git ls-files '*.cpp' '*.h' | xargs clang-format $mode
