#!/usr/bin/env bash
# PostgreSQL for the tests of a team's library: the programs alone, no service of this machine's. Where it cannot be
# installed the tests that need it are left out with a sentence.
set -eu
compgen -G "/usr/lib/postgresql/*/bin/initdb" >/dev/null && exit 0
command -v apt-get >/dev/null 2>&1 || exit 0
as_root=()
if [ "$(id -u)" -ne 0 ]; then
  command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null || {
    echo "The tests of a team's library are left out. With them:  sudo apt-get install postgresql" >&2; exit 0; }
  as_root=(sudo)
fi
# Debian would make a cluster and start it at every boot
"${as_root[@]}" mkdir -p /etc/postgresql-common
[ -e /etc/postgresql-common/createcluster.conf ] ||
  echo "create_main_cluster = false" | "${as_root[@]}" tee /etc/postgresql-common/createcluster.conf >/dev/null
{ "${as_root[@]}" apt-get update -q >/dev/null &&
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends postgresql >/dev/null; } ||
  echo "PostgreSQL could not be installed; the tests of a team's library are left out." >&2
