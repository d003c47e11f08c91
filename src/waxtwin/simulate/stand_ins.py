"""Stand-ins for a radar gun, two force plates and a pair of cameras: made-up throws, told as real devices would.

The radar gun and the plates speak plain lines over local sockets (the radar gun over a pseudo-terminal on request);
clips land in a folder. Some readings fail on purpose, as they do on a real day.
"""

from __future__ import annotations

import asyncio
import json
import os
from collections.abc import Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from time import time

import numpy as np

from waxtwin.simulate.delivery import simulate
from waxtwin.simulate.params import DeliveryParams
from waxtwin.simulate.presets import PRESETS
from waxtwin.simulate.scatter import session_of
from waxtwin.simulate.truth import true_events, true_peaks

RATE = 1000.0
_CHUNK = 50  # samples in a line
_GRAVITY = 9.81
_NOISE = 6.0  # N
_SHOWN = 0.3  # s after release until the radar gun says something


@dataclass(frozen=True, slots=True)
class Routine:
    """How the stand-ins behave: whose throws, how many, how far apart (s), which fail. `misread` and `unplugged` are
    places of throws, from 1; `fps` 0 leaves the cameras out.
    """  # fmt: skip

    preset: str = "wren"
    throws: int = 5
    every: float = 30.0
    fps: float = 120.0
    seed: int = 0
    misread: tuple[int, ...] = (3,)
    unplugged: tuple[int, ...] = (4,)
    pty: bool = False


def forces(mass: float, events: Mapping[str, float], times: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Vertical force (N) of the drive and the lead foot at instants (s) of a throw with these stops, of somebody of so
    much mass (kg): standing, push, landing, finish.

    A made-up shape with the right instants: quiet standing on the drive leg, a push that peaks before landing, then the
    landing peak on the lead leg, which carries the whole body in the end.
    """
    weight = mass * _GRAVITY
    landing, release, start = events["foot_contact"], events["release"], events["drive_start"]
    push = _bump(times, start + 0.55 * (landing - start), 0.30 * (landing - start))
    leaves = 1.0 / (1.0 + np.exp((times - landing - 0.03) / 0.008))
    drive = weight * (1.0 + 0.45 * push) * leaves
    lands = 1.0 / (1.0 + np.exp(-(times - landing - 0.02) / 0.007))
    peak = _bump(times, landing + 0.45 * (release - landing), 0.4 * (release - landing))
    lead = weight * (0.95 + 1.15 * peak) * lands
    return drive, lead


def _bump(times: np.ndarray, middle: float, width: float) -> np.ndarray:
    return np.exp(-0.5 * ((times - middle) / width) ** 2)


class StandIns:
    """The devices of one made-up session; `run` until every throw is thrown and filmed."""

    def __init__(self, folder: Path, routine: Routine) -> None:
        self.folder, self.routine = folder, routine
        self._rng = np.random.default_rng(routine.seed)
        self._writers: dict[str, set[asyncio.StreamWriter]] = {"radar": set(), "plates": set()}
        self._terminal: int | None = None

    async def run(self) -> None:
        """Say on standard output where the devices are, as one line of JSON, then throw."""
        self.folder.mkdir(parents=True, exist_ok=True)
        servers = [await self._serve(name) for name in self._writers]
        where = {name: f"127.0.0.1:{server.sockets[0].getsockname()[1]}"
                 for name, server in zip(self._writers, servers, strict=True)}  # fmt: skip
        if self.routine.pty:
            self._terminal, other = os.openpty()
            where["radar"] = os.ttyname(other)
        preset = PRESETS[self.routine.preset]
        self._write_cameras(preset.params.throws)
        where |= {"folder": str(self.folder)} if self.routine.fps else {}
        print(json.dumps({**where, "throws": self.routine.throws}), flush=True)
        films: list[asyncio.Future[None]] = []
        with ProcessPoolExecutor(2) as pool:
            for n, params in enumerate(session_of(preset.params, self.routine.throws, self.routine.seed), start=1):
                films += await self._throw(n, params, pool)
            while not all(film.done() for film in films):
                await self._idle(1.0)
        for film in films:
            film.result()
        print(json.dumps({"done": self.routine.throws}), flush=True)
        while True:
            await self._idle(60.0)

    async def _serve(self, name: str) -> asyncio.Server:
        async def greet(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            self._writers[name].add(writer)
            with suppress(ConnectionError):
                await reader.read()  # nobody says anything to a device: this ends when the other side goes
            self._writers[name].discard(writer)

        return await asyncio.start_server(greet, "127.0.0.1", 0)

    def _write_cameras(self, throws: str) -> None:
        if not self.routine.fps:
            return
        from waxtwin.simulate.clips import SIZE, cameras

        size = {"width": SIZE[0], "height": SIZE[1]}
        known = {name: {"view": one.view, "calibration": {"projection": one.matrix.tolist(), **size}}
                 for name, one in cameras(throws).items() if name != "rear"}  # fmt: skip
        (self.folder / "cameras.json").write_text(json.dumps(known, indent=1), encoding="utf-8")

    async def _throw(self, n: int, params: DeliveryParams, pool: ProcessPoolExecutor) -> list[asyncio.Future[None]]:
        """One throw in real time: force all the while, the speed after release, the clips once they are filmed."""
        delivery = simulate(params)
        events, peaks = true_events(delivery), true_peaks(delivery)
        await self._idle(max(self.routine.every - float(delivery.times[-1]), 0.5))
        began = time()
        films = self._film(params, events["release"], began, pool)
        speed = peaks["throwing_hand"] * params.ball_hand_ratio
        said = False
        for start, stop in self._chunks(float(delivery.times[-1])):
            await asyncio.sleep(max(began + stop - time(), 0.0))
            instants = start + np.arange(_CHUNK) / RATE
            drive, lead = forces(params.mass, events, instants)
            self._say_force("drive", began + start, drive)
            if n in self.routine.unplugged:
                lead = np.zeros(_CHUNK)
            self._say_force("lead", began + start, lead, still=n in self.routine.unplugged)
            if not said and stop > events["release"] + _SHOWN:
                said = True
                self._say("radar", self._radar_line(n, began + events["release"], speed))
        if n in self.routine.unplugged:
            self._say("plates", f"fault lead {began + events['release']:.3f} no signal")
        return films

    def _radar_line(self, n: int, at: float, speed: float) -> str:
        shown = round(speed / 0.44704) * 0.44704  # it shows whole miles an hour
        return f"radar {at:.3f} misread" if n in self.routine.misread else f"radar {at:.3f} {shown:.2f}"

    async def _idle(self, seconds: float) -> None:
        """Nobody on the lead plate, somebody standing on the drive plate."""
        weight = PRESETS[self.routine.preset].params.mass * _GRAVITY
        began = time()
        for start, stop in self._chunks(seconds):
            await asyncio.sleep(max(began + stop - time(), 0.0))
            self._say_force("drive", began + start, np.full(_CHUNK, weight))
            self._say_force("lead", began + start, np.zeros(_CHUNK))

    def _chunks(self, seconds: float) -> Iterator[tuple[float, float]]:
        step = _CHUNK / RATE
        for k in range(int(seconds / step)):
            yield k * step, (k + 1) * step

    def _say_force(self, name: str, start: float, force: np.ndarray, *, still: bool = False) -> None:
        noisy = force if still else force + self._rng.normal(0.0, _NOISE, force.size)
        self._say("plates", f"force {name} {start:.3f} {RATE:.0f} " + " ".join(f"{one:.1f}" for one in noisy))

    def _say(self, name: str, line: str) -> None:
        data = (line + "\n").encode()
        if name == "radar" and self._terminal is not None:
            os.write(self._terminal, data)
            return
        for writer in list(self._writers[name]):
            if not writer.is_closing():
                writer.write(data)

    def _film(
        self, params: DeliveryParams, release: float, began: float, pool: ProcessPoolExecutor
    ) -> list[asyncio.Future[None]]:  # fmt: skip
        if not self.routine.fps:
            return []
        stamp = datetime.fromtimestamp(began, UTC).strftime("%Y%m%dT%H%M%S.%f")[:-3]
        loop = asyncio.get_running_loop()
        views = {view: self.folder / f"{stamp}-{view}.mp4" for view in ("side", "front")}
        return [loop.run_in_executor(pool, _film_one, params, view, path, self.routine.fps, release)
                for view, path in views.items()]  # fmt: skip


def _film_one(params: DeliveryParams, view: str, path: Path, fps: float, release: float) -> None:
    """Film in a process of its own; the clip appears under its name when it is whole."""
    from waxtwin.simulate.clips import cameras, film

    part = path.with_name(f".{path.name}")
    kit = next((one.kit for one in PRESETS.values() if one.params.throws == params.throws), "amber")
    film(simulate(params), cameras(params.throws)[view], part, fps=fps, release=release, kit=kit, preset="veryfast")
    part.replace(path)


def run(folder: Path, routine: Routine) -> None:
    """Run the stand-ins until they are stopped."""
    asyncio.run(StandIns(folder, routine).run())
