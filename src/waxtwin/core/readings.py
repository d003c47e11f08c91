"""Throws as they happen: readings of several devices put together by time, and what a plate's force says.

A reading that failed is kept as a failure; nothing is filled in for it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

READ, MISREAD, FAILED = "read", "misread", "failed"
RADAR, CAMERA = "radar", "camera"
PLATES = ("drive plate", "lead plate")
DEVICES = (RADAR, *PLATES, CAMERA)
WINDOW = 5.0  # s: readings of one throw lie no further apart
GRACE = 8.0  # s after which a device that said nothing counts as having failed
_SPEEDS = (15.0, 60.0)  # m/s: what a radar gun says beyond these is something else that moved
_PEOPLE = (RADAR, CAMERA)  # plates feel every step: only these say that somebody threw


@dataclass(frozen=True, slots=True)
class Reading:
    """What a device said: `at` seconds of the clock (Unix time), `value` m/s or N, `note` a file or what went wrong."""

    device: str
    at: float
    state: str
    value: float | None = None
    note: str = ""


@dataclass(frozen=True)
class LiveThrow:
    """A throw and what every device said about it."""

    at: float
    readings: Mapping[str, Reading] = field(default_factory=dict)

    def value(self, device: str) -> float | None:
        """A device's figure, where it was read."""
        found = self.readings.get(device)
        return found.value if found is not None and found.state == READ else None

    @property
    def speed(self) -> float | None:
        """Ball speed in m/s, where it was read."""
        return self.value(RADAR)


def radar_reading(at: float, speed: float | None) -> Reading:
    """What a radar gun said; a speed that no pitch has is a misread."""
    if speed is None or not np.isfinite(speed):
        return Reading(RADAR, at, MISREAD, None, "no speed was read")
    if not _SPEEDS[0] <= speed <= _SPEEDS[1]:
        return Reading(RADAR, at, MISREAD, None, f"{speed:.1f} m/s is no pitch")
    return Reading(RADAR, at, READ, float(speed))


def gather(readings: Iterable[Reading], devices: Sequence[str]) -> tuple[tuple[LiveThrow, ...], tuple[Reading, ...]]:
    """Throws in order of time, and readings that belong to none.

    Readings within WINDOW of the first are one throw, one of each device. Where a radar gun or cameras are there, only
    they say that somebody threw; a plate that felt a step is left over.
    """
    groups: list[dict[str, Reading]] = []
    for one in sorted(readings, key=lambda reading: reading.at):
        latest = groups[-1] if groups else None
        first = min(r.at for r in latest.values()) if latest else 0.0
        if latest is None or one.at - first > WINDOW or (one.device in latest and not _better(one, latest[one.device])):
            groups.append({})
        groups[-1][one.device] = one
    plates_only = not any(device in devices for device in _PEOPLE)
    throws: list[LiveThrow] = []
    strays: list[Reading] = []
    for group in groups:
        if plates_only or _threw(group):
            throws.append(LiveThrow(min(r.at for r in group.values()), group))
        else:
            strays += group.values()
    return tuple(throws), tuple(strays)


def _threw(group: Mapping[str, Reading]) -> bool:
    """Whether readings say that somebody threw: a speed, a clip, or a misread while a plate felt something."""
    radar = group.get(RADAR)
    if CAMERA in group or (radar is not None and radar.state == READ):
        return True
    return radar is not None and any(one.state == READ for one in group.values())


def _better(one: Reading, other: Reading) -> bool:
    """Whether a later reading of the same device takes the place of one that failed, within the same throw."""
    return one.state == READ and other.state != READ and one.at - other.at <= WINDOW / 2


def settled(throw: LiveThrow, devices: Sequence[str], now: float) -> LiveThrow:
    """The throw once every device had its time: one that said nothing has failed, and that is kept."""
    late = now - throw.at > GRACE
    missing = [device for device in devices if device not in throw.readings and device != CAMERA] if late else []
    failed = {device: Reading(device, throw.at, FAILED, None, "nothing came from it") for device in missing}
    return replace(throw, readings={**throw.readings, **failed}) if failed else throw


_QUIET, _RISE, _FALL = 2.0, 220.0, 120.0  # s of quiet to compare with; N above it that begin and end a push
_PAST = 0.4  # s after which a peak that was not topped again is the push's peak
_STUCK = 0.5  # s without any change at all: no plate is as still as that
_MOST = 12_000.0  # N: beyond what the plate can carry, it says its limit


class ForceWatch:
    """Follows a plate's vertical force and says when somebody pushed into it: the peak above quiet standing."""

    def __init__(self, device: str) -> None:
        self.device = device
        self._kept = np.zeros((0, 2))  # (time, N) of the last seconds
        self._peak: tuple[float, float] | None = None
        self._told = False  # of this push; the next one begins once the plate is quiet again
        self.trouble = ""

    def feed(self, start: float, rate: float, samples: np.ndarray) -> list[Reading]:
        """Take samples (N) from an instant on; returns the peaks that are past."""
        times = start + np.arange(samples.size) / rate
        good = np.isfinite(samples) & (np.abs(samples) < _MOST)
        self.trouble = self._trouble(samples, good, rate)
        found = []
        quiet = float(np.median(self._kept[:, 1])) if self._kept.size else 0.0
        for time, force in zip(times[good], samples[good], strict=True):
            above = force - quiet
            if above > _RISE and (self._peak is None or (force > self._peak[1] and not self._told)):
                self._peak = (time, force)
            if self._peak is None:
                continue
            if not self._told and (above < _FALL or time - self._peak[0] > _PAST):
                found.append(Reading(self.device, float(self._peak[0]), READ, float(self._peak[1])))
                self._told = True
            if above < _FALL:
                self._peak, self._told = None, False
        fresh = np.column_stack([times[good], samples[good]])
        kept = np.concatenate([self._kept, fresh])
        self._kept = kept[kept[:, 0] > times[-1] - _QUIET] if times.size else kept
        return found

    def _trouble(self, samples: np.ndarray, good: np.ndarray, rate: float) -> str:
        if samples.size and not good.any():
            return "its samples are no forces"
        seen = self._kept[-int(_STUCK * rate) :, 1]
        if seen.size >= _STUCK * rate and good.any() and np.ptp(np.concatenate([seen, samples[good]])) == 0:
            return "its force does not change at all"
        return ""
