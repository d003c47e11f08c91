"""Devices that speak plain text over a local socket or a pseudo-terminal, and a folder in which clips land.

Lines, words parted by spaces, times in seconds of the clock (Unix time):

    radar TIME SPEED              m/s, or the word misread
    force NAME TIME RATE N N ...  vertical force in N from TIME on, RATE samples a second; NAME drive or lead
    fault NAME TIME WORDS         a plate (drive, lead) or the radar could not read

Nothing here waits: `poll` takes what has arrived.
"""

from __future__ import annotations

import json
import os
import re
import socket
import stat
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from time import monotonic, time
from typing import Any

import numpy as np

from waxtwin.core.errors import plain
from waxtwin.core.readings import CAMERA, FAILED, RADAR, ForceWatch, Reading, radar_reading
from waxtwin.formats.place import CLIPS
from waxtwin.formats.sidecar import Calibration

CAMERAS = "cameras.json"
_LONGEST = 65_536  # bytes of a line
_AGAIN = 2.0  # s between tries to reach a device
_BLOCK = 65_536
_MOST_LINES = 400  # of a device at a look: a plate sends twenty a second
_MOST_A_SECOND = 20  # readings of a device: nobody throws quicker than that
_WITHIN = 120.0  # s that a device's clock may be off
_STAMP = re.compile(r"^(\d{8}T\d{6}(?:\.\d{1,6})?)(?:-(.+))?$")
_NAMES = {"drive": "drive plate", "lead": "lead plate", RADAR: RADAR}


class LineSource:
    """Lines of a device at `address`: “host:port” or the path of a pseudo-terminal. Reached again when it was lost."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.state = "not reached yet"
        self._file: int | None = None
        self._socket: socket.socket | None = None
        self._rest = b""
        self._tried = -_AGAIN
        self.ignored = 0

    def poll(self) -> list[str]:
        """The whole lines that have arrived."""
        if self._socket is None and self._file is None:
            self._reach()
        data = self._read()
        *lines, self._rest = (self._rest + data).split(b"\n")
        if len(self._rest) > _LONGEST:
            self._rest, self.ignored = b"", self.ignored + 1
        good = [line for line in lines if line.strip() and len(line) <= _LONGEST]
        self.ignored += len(lines) - len(good)
        return [line.decode("utf-8", "replace").strip() for line in good]

    def close(self) -> None:
        """Let go of the device."""
        if self._socket is not None:
            self._socket.close()
        if self._file is not None:
            os.close(self._file)
        self._socket = self._file = None

    def _reach(self) -> None:
        if monotonic() - self._tried < _AGAIN:
            return
        self._tried = monotonic()
        try:
            if self.address.startswith("/"):
                self._file = os.open(self.address, os.O_RDONLY | os.O_NONBLOCK | os.O_NOCTTY)
                if not stat.S_ISCHR(os.fstat(self._file).st_mode):  # a plain file would be read over and over
                    self.close()
                    self.state = "not reached (this is no terminal)"
                    return
            else:
                host, _, port = self.address.rpartition(":")
                self._socket = socket.create_connection((host or "127.0.0.1", int(port)), timeout=0.3)
                self._socket.setblocking(False)
            self.state = "connected"
        except (OSError, ValueError, OverflowError) as fault:
            self.state = f"not reached ({getattr(fault, 'strerror', None) or 'its address is not understood'})"

    def _read(self) -> bytes:
        if self._socket is None and self._file is None:
            return b""
        try:
            data = self._socket.recv(_BLOCK) if self._socket else os.read(self._file, _BLOCK)  # type: ignore[arg-type]
        except BlockingIOError:
            return b""
        except OSError:
            data = b""
        if not data:
            self.close()
            self.state = "lost; it is tried again"
        return data


@dataclass(frozen=True)
class NewClip:
    """A clip that has landed: when the throw was filmed, and the camera of its name's ending, where that is known."""

    path: Path
    at: float
    camera: str


@dataclass
class WatchedFolder:
    """A folder in which clips land; one is taken once its length has stood still between two looks.

    A clip's time is in its name (20261126T101530.250-side.mp4, in UTC), else when the file was last changed.
    """

    folder: Path
    _known: set[str] = field(default_factory=set)
    _sizes: dict[str, int] = field(default_factory=dict)
    _last: set[str] | None = None
    _cameras: tuple[int, dict[str, dict[str, Any]]] = field(default_factory=lambda: (-1, {}))

    def __post_init__(self) -> None:
        self._known = {file.name for file in self._files()}  # what lies there already is not of this session

    def poll(self) -> list[NewClip]:
        """The clips that are complete since the last look."""
        found = []
        for file in self._files():
            if file.name in self._known or (self._last is not None and file.name not in self._last):
                continue
            with suppress(OSError):
                size = file.stat().st_size
                if size and self._sizes.get(file.name) == size:
                    self._known.add(file.name)
                    found.append(self._clip(file))
                self._sizes[file.name] = size
        return found

    def no_more(self) -> None:
        """See to the clips that lie there now, and to none that lands from now on."""
        self._last = {file.name for file in self._files()}

    def cameras(self) -> Mapping[str, dict[str, Any]]:
        """Solved cameras by name, from cameras.json {NAME: {"view": .., "calibration": ..}} in the folder."""
        file = self.folder / CAMERAS
        try:
            changed = file.stat().st_mtime_ns
            if self._cameras[0] != changed:  # asked for at every look
                self._cameras = (changed, self._checked(json.loads(file.read_text(encoding="utf-8"))))
        except (OSError, ValueError):
            return {}
        return self._cameras[1]

    @staticmethod
    def _checked(said: object) -> dict[str, dict[str, Any]]:
        good = {}
        for name, one in said.items() if isinstance(said, dict) else ():
            with suppress(ValueError, TypeError, AttributeError):
                Calibration.model_validate(one.get("calibration"))
                good[str(name)] = one
        return good

    def _files(self) -> Iterator[Path]:
        try:
            files = sorted(self.folder.iterdir())
        except OSError:
            return
        yield from (f for f in files if f.suffix.lower() in CLIPS and not f.name.startswith(".") and f.is_file())

    def _clip(self, file: Path) -> NewClip:
        stamped = _STAMP.match(file.stem)
        if stamped is None:
            return NewClip(file, file.stat().st_mtime, "")
        said, camera = stamped.groups()
        form = "%Y%m%dT%H%M%S.%f" if "." in said else "%Y%m%dT%H%M%S"
        try:
            at = datetime.strptime(said, form).replace(tzinfo=UTC).timestamp()
        except ValueError:
            at = file.stat().st_mtime
        return NewClip(file, at, camera or "")


class Hub:
    """All devices of a session. `poll` gives the readings and clips that arrived; every line that is not understood is
    left out and counted, and so is what comes quicker than anybody throws. A reading is told by the clock of this
    machine where its device's own is off.
    """  # fmt: skip

    def __init__(
        self, addresses: Mapping[str, str], folder: Path | None = None, clock: Callable[[], float] = time
    ) -> None:
        self.sources = {name: LineSource(address) for name, address in addresses.items() if address}
        self.watched = None if folder is None else WatchedFolder(folder)
        self.devices: set[str] = {CAMERA} if folder is not None else set()
        self._watches: dict[str, ForceWatch] = {}
        self._clock, self._began = clock, clock()
        self._seconds: dict[str, tuple[int, int]] = {}  # device: a second, and how many readings came in it
        self.off: dict[str, float] = {}  # s that a device's clock was off, the last time that it was
        self.flooded: set[str] = set()
        self.ignored = 0

    def poll(self) -> tuple[list[Reading], list[NewClip]]:
        """What has arrived since the last time."""
        readings: list[Reading] = []
        for source in self.sources.values():
            lines = source.poll()
            if len(lines) > _MOST_LINES:
                self.ignored += len(lines) - _MOST_LINES
            for line in lines[:_MOST_LINES]:
                try:
                    readings += [one for one in self._understood(line) if self._in_time(one)]
                except (ValueError, OverflowError):
                    self.ignored += 1
        clips = [self._in_session(clip) for clip in self.watched.poll()] if self.watched is not None else []
        return readings, clips

    def states(self) -> dict[str, str]:
        """How each source stands, in a few words; a plate that sends nothing sensible says so."""
        out = {name: source.state for name, source in self.sources.items()}
        for device, watch in self._watches.items():
            if watch.trouble:
                out[device] = watch.trouble
        for device, away in self.off.items():
            out[device] = f"its clock is off by {away:.0f} s; taken as they arrive"
        for device in self.flooded:
            out[device] = f"more than {_MOST_A_SECOND} readings a second; the rest are left out"
        return out

    def _in_session(self, clip: NewClip) -> NewClip:
        """A clip by the time in its name, unless that lies outside this session."""
        now = self._clock()
        if self._began - _WITHIN <= clip.at <= now + _WITHIN:
            return clip
        self.off[CAMERA] = clip.at - now
        return replace(clip, at=now)

    def _in_time(self, one: Reading) -> bool:
        """Whether a reading may count: no device reads that many throws in a second."""
        second = int(self._clock())
        at, count = self._seconds.get(one.device, (second, 0))
        count = count + 1 if at == second else 1
        self._seconds[one.device] = (second, count)
        if count > _MOST_A_SECOND:
            self.flooded.add(one.device)
            self.ignored += 1
            return False
        return True

    def _told_at(self, device: str, word: str) -> tuple[float, str]:
        """When a reading was, by this machine's clock where the device's own cannot be right, and what to note."""
        at, now = float(word), self._clock()
        if not 0 < at < 1e11:
            raise ValueError(word)
        if abs(at - now) > _WITHIN:
            self.off[device] = at - now
            return now, "the device's clock is off"
        return at, ""

    def close(self) -> None:
        """Let go of every device; what lands in the folder is still seen."""
        for source in self.sources.values():
            source.close()
        self.sources = {}

    def _understood(self, line: str) -> list[Reading]:
        kind, *words = line.split()
        if kind == "radar" and len(words) == 2:
            self.devices.add(RADAR)
            at, note = self._told_at(RADAR, words[0])
            found = radar_reading(at, None if words[1] == "misread" else float(words[1]))
            return [replace(found, note="; ".join(word for word in (found.note, note) if word))]
        if kind == "force" and len(words) > 3 and words[0] in _NAMES:
            device = _NAMES[words[0]]
            self.devices.add(device)
            watch = self._watches.setdefault(device, ForceWatch(device))
            rate = float(words[2])
            if not 10 <= rate <= 20_000:
                raise ValueError(words[2])
            samples = np.array(words[3:], float)
            at, _ = self._told_at(device, words[1])
            return watch.feed(at, rate, samples)
        if kind == "fault" and len(words) > 2 and words[0] in _NAMES:
            device = _NAMES[words[0]]
            self.devices.add(device)
            at, _ = self._told_at(device, words[1])
            return [Reading(device, at, FAILED, None, plain(" ".join(words[2:]))[:120])]
        raise ValueError(line)
