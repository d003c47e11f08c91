"""A live session: devices looked at, throws put together, clips taken in, the log kept. The window and the command line
both drive this.
"""  # fmt: skip

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from waxtwin.capture.devices import Hub, NewClip
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.readings import CAMERA, DEVICES, GRACE, MISREAD, RADAR, READ, LiveThrow, Reading, gather, settled
from waxtwin.core.steps import Steps, part
from waxtwin.core.trend import suspect_speeds
from waxtwin.library.live_throws import (
    begin_session,
    keep_log,
    now,
    prepare_throw,
    take_clip,
    tell_throw,
)
from waxtwin.library.session_log import throw_document
from waxtwin.library.store import Library

_OPEN = 60.0  # s after which a throw is put together for good
_TOGETHER = 1.5  # s: clips that begin so close to each other are views of one throw


class LiveSession:
    """An athlete's session of today. Look at it often; it never waits.

    `throws` in order; `keys` {instant of a throw: its key} for those with clips; `faults` sentences to be told once.
    """

    def __init__(
        self, library: Library, athlete: int, addresses: Mapping[str, str], folder: Path | None, pitch: str
    ) -> None:
        """Begin. Raises LibraryError when the athlete is gone."""
        self.library, self.athlete, self.pitch = library, athlete, pitch
        self.session = begin_session(library, athlete)
        self.hub = Hub(addresses, folder)
        self.began = now()
        self.readings: list[Reading] = []  # those that throws are still put together from
        self._past: tuple[LiveThrow, ...] = ()
        self._past_strays: tuple[Reading, ...] = ()
        self.throws: tuple[LiveThrow, ...] = ()
        self.strays: tuple[Reading, ...] = ()
        self.faults: list[str] = []
        self.pending: list[NewClip] = []
        self._clips: dict[float, int] = {}  # when a clip began: the key of its throw
        self._views: dict[int, int] = {}  # how many clips of a throw have landed
        self.ready: set[int] = set()
        self._ended: float | None = None

    def look(self) -> bool:
        """Take what has arrived; returns whether anything did. Clips wait in `pending` to be taken in."""
        readings, clips = self.hub.poll()
        self.pending += clips
        self.readings += readings
        before = self.throws
        devices = sorted(self.hub.devices)
        throws, strays = gather(self.readings, devices)
        recent = tuple(settled(throw, devices, now()) for throw in throws)
        self.throws = (*self._past, *recent)
        self.strays = (*self._past_strays, *strays)
        if self.throws != before:
            self._keep()
        self._let_go(recent, strays)
        return bool(readings or clips)

    def _let_go(self, recent: Sequence[LiveThrow], strays: Sequence[Reading]) -> None:
        """What nothing can be added to any more is put together once and for all: a look must not grow longer."""
        line = now() - _OPEN
        if not self.readings or min(one.at for one in self.readings) > line:
            return
        self._past = (*self._past, *(throw for throw in recent if throw.at <= line))
        kept = [one for throw in recent if throw.at > line for one in throw.readings.values()]
        self._past_strays = (*self._past_strays, *(one for one in strays if one.at <= line))
        self.readings = [*kept, *(one for one in strays if one.at > line)]

    def take(self, clip: NewClip) -> int:
        """Take a clip into the library; may be called from another thread. Returns its throw's key.

        Raises WaxTwinError.
        """
        cameras = self.hub.watched.cameras() if self.hub.watched is not None else {}
        return take_clip(self.library, self.athlete, clip, cameras, self._beside(clip))

    def taken(self, clip: NewClip, key: int) -> None:
        """A clip was taken in as a view of a throw."""
        if self._beside(clip) is None:
            self.readings.append(Reading(CAMERA, clip.at, READ, None, clip.path.name))
        else:
            self.ready.discard(key)
        self._clips.setdefault(clip.at, key)
        self._views[key] = self._views.get(key, 0) + 1

    def take_pending(self) -> None:
        """Take in every clip that waits, here and now; what cannot be taken is told in `faults`."""
        while self.pending:
            clip = self.pending.pop(0)
            try:
                self.taken(clip, self.take(clip))
            except WaxTwinError as fault:
                self.faults.append(str(fault))

    def _beside(self, clip: NewClip) -> int | None:
        """The throw that another camera saw at the same time."""
        return next((key for at, key in self._clips.items() if abs(at - clip.at) < _TOGETHER), None)

    def correct(self, place: int, speed: float | None) -> None:
        """Say what the ball speed of a throw was, or that it is not known."""
        throw = self.throws[place]
        if place < len(self._past):
            typed = Reading(RADAR, throw.at, READ if speed is not None else MISREAD, speed, "typed by hand")
            corrected = replace(throw, readings={**throw.readings, RADAR: typed})
            self._past = (*self._past[:place], corrected, *self._past[place + 1 :])
            self.hub.devices.add(RADAR)
            self.look()
            return
        at = throw.readings[RADAR].at if RADAR in throw.readings else throw.at
        others = [one for one in self.readings if not (one.device == RADAR and one.at == at)]
        typed = Reading(RADAR, at, READ if speed is not None else MISREAD, speed, "typed by hand")
        self.readings = [*others, typed]
        self.hub.devices.add(RADAR)
        self.look()

    @property
    def keys(self) -> dict[float, int]:
        """The throws that have clips, {instant: key}."""
        found = {}
        for throw in self.throws:
            camera = throw.readings.get(CAMERA)
            if camera is not None and camera.at in self._clips:
                found[throw.at] = self._clips[camera.at]
        return found

    def _keep(self) -> None:
        try:
            keep_log(self.library, self.session, self.throws, self.keys, self.began)
            for throw in self.throws:
                if throw.at in self.keys:
                    tell_throw(self.library, self.keys[throw.at], throw, self.pitch)
        except WaxTwinError as fault:
            self.faults.append(str(fault))

    def complete(self, throw: LiveThrow) -> bool:
        """Whether every device had its say about a throw, and its clips have landed where there are cameras."""
        if CAMERA in self.hub.devices and not self.has_landed(self.keys.get(throw.at, -1)):
            return False
        others = [device for device in self.hub.devices if device != CAMERA]
        return all(device in throw.readings for device in others) and now() - throw.at > GRACE

    @property
    def _cameras(self) -> int:
        """How many clips a throw has: as many as there are solved cameras, at least one."""
        return max(len(self.hub.watched.cameras()), 1) if self.hub.watched is not None else 0

    def has_landed(self, key: int) -> bool:
        """Whether every camera's clip of a throw is there, or none is waited for any more."""
        return self._views.get(key, 0) >= (1 if self._is_late else self._cameras)

    @property
    def has_ended(self) -> bool:
        """Whether its devices were let go of."""
        return self._ended is not None

    @property
    def _is_late(self) -> bool:
        return self._ended is not None and now() - self._ended > GRACE

    @property
    def is_finished(self) -> bool:
        """Whether it has ended and nothing is waited for: no clip, and no clip's landmarks."""
        return self._is_late and not self.pending and not self.waiting

    @property
    def suspects(self) -> tuple[int, ...]:
        """Places of throws whose speed stands so far from the others that it may be a misread."""
        return suspect_speeds([throw.speed for throw in self.throws])

    @property
    def waiting(self) -> list[int]:
        """Keys of throws whose landmarks are still to be found."""
        return [key for key in self.keys.values() if key not in self.ready]

    def prepare(self, model: str, note: Callable[[str], object]) -> Steps[None]:
        """Find the landmarks of every throw that waits for them; `note` is told what there is to say."""
        todo = self.waiting
        for n, key in enumerate(todo):
            try:
                work = prepare_throw(self.library, key, model)
                for words in (yield from part(work, n / len(todo), (n + 1) / len(todo))):
                    note(words)
                self.ready.add(key)
            except WaxTwinError as fault:
                note(str(fault))

    def close(self) -> None:
        """Let go of the devices; what was logged stays, and clips that land within GRACE seconds are seen by `look`."""
        self._ended = now()
        self.hub.close()

    def wait_no_more(self) -> None:
        """Leave to the next session what lands from now on."""
        if self.hub.watched is not None:
            self.hub.watched.no_more()

    def document(self) -> dict[str, Any]:
        """The session as JSON."""
        keys, suspects = self.keys, self.suspects
        return {
            "session": self.session, "devices": sorted(self.hub.devices), "ignored_lines": self.hub.ignored,
            "throws": [
                throw_document(throw, keys.get(throw.at)) | {"suspect_speed": n in suspects}
                for n, throw in enumerate(self.throws)
            ],
            "strays": len(self.strays), "faults": self.faults,
        }  # fmt: skip

    def lines(self) -> list[str]:
        """The session in lines."""
        out = []
        for n, throw in enumerate(self.throws):
            parts = [f"{device}: {_said(throw.readings[device])}" for device in DEVICES if device in throw.readings]
            odd = "  (far from the others: a misread?)" if n in self.suspects else ""
            out.append(f"{n + 1:3d}  " + "  ".join(parts) + odd)
        return [*out, *self.faults]


def _said(one: Reading) -> str:
    if one.state != READ:
        return f"{one.state} ({one.note})"
    if one.value is None:
        return one.note
    return f"{one.value:.2f} m/s" if one.device == RADAR else f"{one.value:.0f} N"
