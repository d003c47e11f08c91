#!/usr/bin/env bash
# The few system libraries that Qt, the landmark model and sound need on a bare Debian or Ubuntu. Installed when we may,
# otherwise the one line to run is printed and set-up stops.
set -eu
wanted=(libgl1 libegl1 libgles2 libxkbcommon0 libfontconfig1 libdbus-1-3 libglib2.0-0 python3-venv
  libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxkbcommon-x11-0 xvfb xauth
  libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 libportaudio2)
command -v dpkg-query >/dev/null 2>&1 || { echo "Not a Debian system: see to Qt 6's libraries yourself." >&2; exit 0; }
missing=()
for package in "${wanted[@]}"; do
  # a newer release names some of them with t64 at the end
  if ! dpkg-query -W -f '${Status}\n' "$package" "${package}t64" 2>/dev/null | grep -q '^install ok installed'; then
    missing+=("$package")
  fi
done
# a Python that can make virtual environments needs no package for it
if "${PYTHON:-python3}" -c 'import ensurepip, venv' 2>/dev/null; then
  kept=(); for package in "${missing[@]}"; do [ "$package" = python3-venv ] || kept+=("$package"); done
  missing=("${kept[@]}")
fi
[ "${#missing[@]}" -eq 0 ] && exit 0
install=(apt-get install -y -q --no-install-recommends "${missing[@]}")
if [ "$(id -u)" -eq 0 ]; then
  apt-get update -q >/dev/null && DEBIAN_FRONTEND=noninteractive "${install[@]}" >/dev/null
elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
  sudo apt-get update -q >/dev/null && sudo DEBIAN_FRONTEND=noninteractive "${install[@]}" >/dev/null
else
  echo "Some system libraries are missing. Please run:  sudo ${install[*]}" >&2
  exit 1
fi
