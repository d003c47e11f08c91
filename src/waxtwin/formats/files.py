"""Files read and written whole: what cannot be is one plain sentence that names the file."""

from __future__ import annotations

import stat
from contextlib import suppress
from pathlib import Path

from waxtwin.core.errors import WaxTwinError, plain, shown_name

MAX_BYTES = 64 * 1024**2  # of text: a throw is a hundredth of it, and reading it takes a multiple in memory
MAX_JSON = 24 * 1024**2


class FormatError(WaxTwinError):
    """A file cannot be read or written; the sentence names the file and the fault."""

    def __init__(self, path: Path, fault: str) -> None:
        super().__init__(f"{shown_name(path)}: {fault}")
        self.path, self.fault = path, plain(fault)


def read_text(path: Path) -> str:
    """A file's text. Raises FormatError for a missing, unreadable, huge or wrongly encoded file."""
    most = MAX_JSON if path.suffix.lower() == ".json" else MAX_BYTES
    try:
        if path.is_dir():
            raise FormatError(path, "this is a folder, not a file")
        check_plain_file(path, most)
        data = path.read_bytes()
    except FileNotFoundError:
        raise FormatError(path, "there is no such file") from None
    except (OSError, ValueError) as fault:
        if isinstance(fault, FormatError):
            raise
        if not isinstance(fault, OSError):  # a name with a zero in it
            raise FormatError(path, "this is not the name of a file") from None
        raise FormatError(path, f"it cannot be read ({fault.strerror or 'input error'})") from None
    if not data.strip():
        raise FormatError(path, "the file is empty")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FormatError(path, "it is not plain UTF-8 text") from None


def check_plain_file(path: Path, most: int) -> None:
    """Raise FormatError for what is no plain file (a pipe would be waited for without end) or too large; OSError."""
    facts = path.stat()
    if not stat.S_ISREG(facts.st_mode):
        raise FormatError(path, "this is not a plain file")
    if facts.st_size > most:
        raise FormatError(path, "the file is too large to be one throw")


def write_text(path: Path, text: str) -> None:
    """Replace a file's contents in one step, so that a failure leaves the old file. Raises FormatError."""
    write_bytes(path, text.encode("utf-8", "replace"))


def write_bytes(path: Path, data: bytes) -> None:
    """The same for bytes. Raises FormatError."""
    part = path.with_name(f".{path.name[:200]}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(data)
        part.replace(path)
    except OSError as fault:
        with suppress(OSError):
            part.unlink(missing_ok=True)
        raise FormatError(path, f"it cannot be written ({fault.strerror or 'output error'})") from None
