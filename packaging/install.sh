#!/usr/bin/env bash
# Installs Wax Twin for the user who runs this, or takes it away again: a program folder of its own, a command, a menu
# entry, an icon and the file type of bundles. The user's libraries and settings are never touched.
#   install.sh install WHEEL LOCK [PREFIX]      install.sh remove [PREFIX]
set -eu
here="$(cd "$(dirname "$0")" && pwd)"
what="$1"; shift
if [ "$what" = install ]; then wheel="$1"; lock="$2"; shift 2; fi
prefix="${1:-$HOME/.local}"
share="$prefix/share"; program="$share/waxtwin-program"
places=("$prefix/bin/waxtwin" "$share/applications/waxtwin.desktop" "$share/mime/packages/waxtwin.xml"
  "$share/icons/hicolor/scalable/apps/waxtwin.svg")

refresh() { # the desktop's own caches, where their tools are there
  command -v update-desktop-database >/dev/null 2>&1 && update-desktop-database -q "$share/applications" || true
  command -v update-mime-database >/dev/null 2>&1 && update-mime-database "$share/mime" >/dev/null 2>&1 || true
}

case "$what" in
install)
  for place in "${places[@]}"; do mkdir -p "$(dirname "$place")"; done
  [ -x "$program/bin/python" ] || "${PYTHON:-python3}" -m venv "$program"
  "$program/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r "$lock"
  "$program/bin/python" -m pip install --quiet --disable-pip-version-check --no-deps --force-reinstall "$wheel"
  ln -sf "$program/bin/waxtwin" "${places[0]}"
  sed "s|^Exec=waxtwin|Exec=$program/bin/waxtwin|" "$here/waxtwin.desktop" > "${places[1]}"
  cp "$here/waxtwin.xml" "${places[2]}"
  cp "$here/../src/waxtwin/assets/icons/waxtwin.svg" "${places[3]}"
  refresh
  echo "Installed: ${places[0]}"
  case ":$PATH:" in *":$prefix/bin:"*) ;; *) echo "$prefix/bin is not on the PATH; add it to call waxtwin by its name." ;; esac ;;
remove)
  rm -rf "$program"
  rm -f "${places[@]}"
  refresh
  echo "Removed. Libraries and settings are where they were." ;;
*) echo "say install or remove" >&2; exit 2 ;;
esac
