"""A PostgreSQL server of one's own, in a folder that goes again: nothing of the system's is touched."""

from __future__ import annotations

import os
import pwd
import shutil
import socket
import subprocess
import sys
import tempfile
from pathlib import Path

import psycopg

_BIN = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]))
MISSING = "PostgreSQL is not installed (Debian's package “postgresql”): what needs a team's server is left out"


def is_installed() -> bool:
    return bool(_BIN)


class TeamServer:
    """Started when made; `stop` and `start` take it away and bring it back."""

    def __init__(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="waxtwin-server-"))
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        # a server does not run as root
        self._who = {"user": "postgres", "group": "postgres", "extra_groups": []} if os.geteuid() == 0 else {}
        self._owner = "postgres" if self._who else pwd.getpwuid(os.geteuid()).pw_name
        if self._who:
            shutil.chown(self.folder, "postgres", "postgres")
        self._run("initdb", "-D", "data", "-A", "trust", "-N", "-E", "UTF8", "--locale=C", "-U", "postgres")
        self.start()
        self._databases = 0

    def _run(self, tool: str, *arguments: str) -> None:
        log = (self.folder / "tools.log").open("ab")
        with log:
            subprocess.run(
                [str(_BIN[-1].with_name(tool)), *arguments], cwd=self.folder, check=True, stdout=log, stderr=log,
                **self._who,
            )  # fmt: skip

    def start(self) -> None:
        asked = f"-p {self.port} -k {self.folder} -c listen_addresses=127.0.0.1 -c fsync=off -c max_connections=60"
        self._run("pg_ctl", "-D", "data", "-o", asked, "-l", "server.log", "-w", "-s", "start")

    def stop(self) -> None:
        self._run("pg_ctl", "-D", "data", "-m", "immediate", "-w", "-s", "stop")

    def close(self) -> None:
        self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    def sql(self, statement: str, database: str = "postgres") -> None:
        with psycopg.connect(self.url(database), autocommit=True) as connection:
            connection.execute(statement)

    def url(self, database: str, user: str = "postgres") -> str:
        return f"postgresql://{user}@127.0.0.1:{self.port}/{database}"

    def database(self, template: str = "template1", owner: str = "postgres") -> str:
        """A new database; its name."""
        self._databases += 1
        name = f"d{self._databases}"
        self.sql(f"create database {name} template {template} owner {owner}")
        return name


_SLOW = """
import sys, time
from waxtwin.library.jobs.kinds import KINDS, Kind
from waxtwin.library.team.address import Address
from waxtwin.library.team.work import work
def slow(library, asked):
    for n in range(600):
        time.sleep(0.1)
        yield n / 600
    return []
for name in ("profile", "landmarks"):
    KINDS[name] = Kind(name, KINDS[name].title, slow)
work(Address.of(sys.argv[1]), None, sys.argv[2], patience=2.0)
"""


def slow_worker(address: object, name: str) -> subprocess.Popen[bytes]:
    """A worker in a process of its own whose every piece of work takes a minute, and whose death is noticed soon."""
    return subprocess.Popen([sys.executable, "-c", _SLOW, str(address), name])
