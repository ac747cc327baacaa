#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# installs_like_any_program.sh BUILD SOURCE: makes the packages, looks at what is in them, installs them into a fresh root by the
# system's package manager, runs what is there as somebody would who never saw the source, builds a game against the library, and
# removes all of it again.
set -euo pipefail
build=$1
source=$2
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
fail() { echo "$*" >&2; exit 1; }

cpack --config "$build/CPackConfig.cmake" -B "$work/packages" >cpack.log 2>&1 || { tail -20 cpack.log; exit 1; }
packages=$(find packages -maxdepth 1 -name '*.deb' -printf '%f\n' | sed 's/_.*//' | sort | tr '\n' ' ')
[ "$packages" = "libstoneecho-dev libstoneecho0 stone-echo stone-echo-demo " ] || fail "the packages are: $packages"
if command -v lintian >/dev/null; then
  # The project has no address for mail.
  lintian --fail-on error --suppress-tags bogus-mail-host packages/*.deb >lintian.log 2>&1 || {
    grep '^E:' lintian.log; exit 1; }
fi

root=$work/root
mkdir -p "$root"/var/lib/dpkg/{info,updates,triggers}
touch "$root/var/lib/dpkg/status" "$root/var/lib/dpkg/available"
# What they depend on is in the system's own root.
manage=(dpkg --root="$root" --force-depends --force-not-root --force-script-chrootless)
if [ "$(id -u)" != 0 ]; then
  command -v fakeroot >/dev/null || { echo "only root installs packages, or fakeroot"; exit 77; }
  manage=(fakeroot "${manage[@]}")
fi
"${manage[@]}" --install packages/*.deb >install.log 2>&1 || { tail -20 install.log; fail "the packages cannot be installed"; }
[ "$("${manage[@]}" --list | grep -c '^ii ')" = 4 ] || fail "not all four packages are installed"
(cd "$root" && find . -type f -not -path './var/lib/dpkg/*' | sort) >there.txt
export LD_LIBRARY_PATH=$root/usr/lib/$(dpkg-architecture -qDEB_HOST_MULTIARCH 2>/dev/null || gcc -dumpmachine):$root/usr/lib
export HOME=$work/home XDG_DATA_DIRS=$root/usr/share:/usr/share QT_QPA_PLATFORM=offscreen
mkdir -p "$HOME"
bin=$root/usr/bin
share=$root/usr/share

# The demo, without a window.
"$bin/stone-echo-cli" render "$share/stone-echo/demo/vellmoor-halt" --walk "Tea room and back" --to 2 --out demo.wav >/dev/null
[ "$(stat -c %s demo.wav)" -gt 500000 ] || fail "the demo renders to nothing"
"$bin/stone-echo-cli" check "$share/stone-echo/demo/vellmoor-halt" >/dev/null || fail "the demo has findings"
for example in "$share"/stone-echo/examples/*/; do
  "$bin/stone-echo-cli" info "$example" >/dev/null || fail "$example cannot be read"
done

# What says what a project is, and with what it is opened.
if command -v update-mime-database >/dev/null; then
  update-mime-database "$share/mime" 2>/dev/null
  grep -q 'application/x-stone-echo:\*.stone-echo' "$share/mime/globs" || fail "no project is known by its ending"
fi
grep -q 'MimeType=application/x-stone-echo;' "$share/applications/stone-echo.desktop" || fail "nothing opens projects"
if command -v desktop-file-validate >/dev/null; then
  desktop-file-validate "$share/applications/stone-echo.desktop"
fi
if command -v appstreamcli >/dev/null; then
  appstreamcli validate --no-net "$share/metainfo/stone-echo.metainfo.xml" >appstream.log 2>&1 || { cat appstream.log; exit 1; }
fi
for page in stone-echo.1 stone-echo-cli.1 stone-echo-game.1 stone_echo.h.3; do
  [ -f "$share/man/man${page##*.}/$page.gz" ] || fail "no manual $page"
  [ -z "$(MANWIDTH=80 man --warnings -l "$share/man/man${page##*.}/$page.gz" 2>&1 >/dev/null)" ] || fail "the manual $page is wrong"
done
for command in $("$bin/stone-echo-cli" --help | sed -n '/^Subcommands:/,$ s/^  \([a-z-]*\) .*/\1/p'); do
  zcat "$share/man/man1/stone-echo-cli.1.gz" | grep -qw -- "$command" || fail "the manual does not know $command"
done
# Completion offers the commands.
words=$(PATH=$bin:$PATH bash -c '. "$1"; COMP_WORDS=(stone-echo-cli fol); COMP_CWORD=1; _stone_echo_cli; echo "${COMPREPLY[*]}"' - \
  "$share/bash-completion/completions/stone-echo-cli")
[ "$words" = follow ] || fail "completion offers: $words"

# The window opens a project by its ending, as a file manager would have it.
mkdir halt
cp -r "$share/stone-echo/demo/vellmoor-halt/." halt/
mv halt/project.json halt/halt.stone-echo
code=0
timeout 8 "$bin/stone-echo" halt/halt.stone-echo 2>window.log || code=$?
[ "$code" = 124 ] || fail "the window ended by itself ($code): $(cat window.log)"
if grep -v '^ALSA\|^QStandardPaths\|plugin' window.log | grep -q .; then
  cat window.log
  fail "the window complains"
fi
"$bin/stone-echo-cli" info halt | grep -q 'Vellmoor Halt' || fail "a folder with a .stone-echo is no project"

# A game is built against the library, as its maker would.
PKG_CONFIG_PATH=$(dirname "$(find "$root" -name stoneecho.pc)")
export PKG_CONFIG_PATH
cc -std=c99 -Wall -Werror "$share/doc/libstoneecho-dev/examples/host.c" $(pkg-config --cflags --libs stoneecho) -o game
./game "$share/stone-echo/demo/vellmoor-halt" "Tea room and back" stereo 48000 game.wav >/dev/null
[ "$(stat -c %s game.wav)" -gt 10000000 ] || fail "the game plays nothing"
mkdir cmake && cat >cmake/CMakeLists.txt <<'EOF'
cmake_minimum_required(VERSION 3.25)
project(game C)
find_package(StoneEcho REQUIRED)
add_executable(game ${HOST})
target_link_libraries(game StoneEcho::stoneecho)
EOF
cmake -S cmake -B cmake/build -DCMAKE_PREFIX_PATH="$root/usr" -DHOST="$share/doc/libstoneecho-dev/examples/host.c" >cmake.log 2>&1 &&
  cmake --build cmake/build >>cmake.log 2>&1 || { cat cmake.log; exit 1; }

# Away again: nothing was put where the packages did not say. (What update-mime-database has made is its own package's to remove.)
find "$share/mime" -type f -not -name stone-echo.xml -delete
"${manage[@]}" --purge libstoneecho-dev libstoneecho0 stone-echo stone-echo-demo >remove.log 2>&1 || { tail -20 remove.log; exit 1; }
left=$(cd "$root" && find . -type f -not -path './var/lib/dpkg/*' | sort)
[ -z "$left" ] || fail "left behind: $left"
echo "four packages, $(wc -l <there.txt) files: installed, run, and removed"
