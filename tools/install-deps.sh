#!/usr/bin/env bash
# SPDX-License-Identifier: GPL-3.0-or-later
# Installs the Debian 12 packages that Stone Echo needs to build, run and be tested. This is the one list of them.
# Works as root and with sudo, and does nothing when everything is there.
set -euo pipefail

packages=(
  # building
  build-essential cmake ninja-build ccache pkg-config git ca-certificates clang-format clang-tidy
  # the window
  qt6-base-dev libqt6opengl6-dev libgl1-mesa-dev libgl1-mesa-dri libqcustomplot-dev libqcustomplot2.1-qt6 qt6-qpa-plugins
  # the core
  nlohmann-json3-dev libcli11-dev libglm-dev libtinygltf-dev libtinyobjloader-dev
  libsndfile1-dev libsamplerate0-dev libebur128-dev libxxhash-dev librtaudio-dev libpulse-dev libmysofa-dev libembree-dev
  libsqlite3-dev zlib1g-dev libpng-dev liblo-dev
  # type faces of the window
  fonts-lato fonts-dejavu-core
  # the demo's announcement is spoken when its sounds are made
  espeak-ng
  # tests, benches and pictures
  ffmpeg chromium fakeroot lintian desktop-file-utils appstream shared-mime-info man-db dpkg-dev
  libbenchmark-dev parallel python3 python3-jsonschema xvfb xauth x11-utils dbus pulseaudio pulseaudio-utils
)

missing=()
for package in "${packages[@]}"; do
  state=$(dpkg-query -W -f '${db:Status-Status}' "$package" 2>/dev/null || true)
  [ "$state" = installed ] || missing+=("$package")
done

if [ ${#missing[@]} -eq 0 ]; then
  exit 0
fi

as_root=()
if [ "$(id -u)" -ne 0 ]; then
  if ! command -v sudo >/dev/null; then
    echo "install-deps: these packages are missing and neither root nor sudo is at hand: ${missing[*]}" >&2
    exit 1
  fi
  as_root=(sudo)
fi

echo "install-deps: installing ${missing[*]}"
"${as_root[@]}" apt-get update -qq
"${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
