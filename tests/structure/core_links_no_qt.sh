#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# The command line is the whole core and a thin skin: if Qt is not in it, Qt is not in the core.
set -euo pipefail
if readelf -d "$1" | grep -q 'libQt'; then
  echo "$1 links Qt:"
  readelf -d "$1" | grep libQt
  exit 1
fi
echo "no Qt in $1"
