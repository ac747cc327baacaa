#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# library_is_a_library.sh LIBRARY HEADER: what games link shows its border alone, all of that, and needs neither a window, a sound
# card, a network nor anything whose licence a closed game could not live with.
set -euo pipefail
library=$1
header=$2

shown=$(nm -D --defined-only "$library" | awk '$2 != "A" {sub(/@.*/, "", $3); print $3}' | sort)
said=$(grep -o 'stone_[a-z_]*(' "$header" | tr -d '(' | sort -u)
if [ "$shown" != "$said" ]; then
  echo "what the library shows is not what its header says:"
  diff <(echo "$shown") <(echo "$said") || true
  exit 1
fi
needed=$(readelf -d "$library" | sed -n 's/.*NEEDED.*\[\(.*\)\]/\1/p')
if echo "$needed" | grep -E 'Qt|rtaudio|liblo|sqlite|fftw|X11|GL'; then
  echo "the library needs what a game has no use for"
  exit 1
fi
echo "the library shows $(echo "$shown" | wc -l) functions and needs: $(echo $needed)"
