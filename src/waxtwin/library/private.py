"""Files that only their owner, or a team, may read: people's likeness and health lie in a library, whatever the umask
says.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

_FOLDER, _FILE = 0o700, 0o600
_TEAM_FOLDER, _TEAM_FILE = 0o2770, 0o660  # what is made in such a folder belongs to its group, too


def make_folder(path: Path) -> None:
    """A folder for its owner alone. Raises OSError."""
    path.mkdir(mode=_FOLDER, parents=True, exist_ok=True)
    close(path)


def make_file(path: Path) -> None:
    """An empty file for its owner alone; what lies there is emptied. Raises OSError."""
    os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_CLOEXEC, _FILE))
    close(path)


def close(path: Path) -> None:
    """Take everybody else's rights away; a file system without rights is left as it is."""
    _give(path, _FOLDER if path.is_dir() else _FILE)


def share(path: Path) -> None:
    """Let the group of a team's folder in, and nobody else."""
    _give(path, _TEAM_FOLDER if path.is_dir() else _TEAM_FILE)


def _give(path: Path, wanted: int) -> None:
    with suppress(OSError):
        if path.stat().st_mode & 0o7777 != wanted:
            path.chmod(wanted)


def settle(path: Path) -> None:
    """Have a file's bytes, or a folder's names, on the disk before going on."""
    with suppress(OSError):
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def below(folder: Path) -> Iterator[Path]:
    """The plain files in a folder."""
    with suppress(OSError), os.scandir(folder) as found:
        yield from [Path(entry.path) for entry in found if entry.is_file(follow_symlinks=False)]
