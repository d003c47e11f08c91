"""The Session room's work: devices, the log, clips and their landmarks, and the set on the desk."""

from __future__ import annotations

import json
import shutil
import sys
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QProcess, QTimer
from PySide6.QtWidgets import QInputDialog

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.readings import CAMERA, DEVICES, FAILED, MISREAD, PLATES, RADAR, LiveThrow
from waxtwin.core.steps import Steps
from waxtwin.core.trend import SPEED, Figures, trend
from waxtwin.core.units import converted, figure
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.rooms.session.lines import Line
from waxtwin.ui.shared.context import Context
from waxtwin.ui.shared.open_library import data_folder

if TYPE_CHECKING:
    from waxtwin.library.live_session import LiveSession
    from waxtwin.ui.rooms.session.room import SessionRoom

NOTHING_YET = "No throw has been logged yet."
_LOOK_MS = 200
_MODEL = "lite"  # between throws there is no time for the surest model; Prepare can run it later
_STAND_INS = ("--throws", "5", "--every", "30")


class SessionFlow(QObject):
    """A session as it runs: what the devices say, clips taken in, landmarks found."""

    def __init__(self, context: Context, room: SessionRoom) -> None:
        super().__init__(room)
        self.context, self.desk, self.room, self.library = context, context.desk, room, context.library
        self._tell = context.say
        self.athlete: int | None = None
        self.live: LiveSession | None = None  # the one on show, also when it has ended
        self._open: list[LiveSession] = []  # the one that runs, and those whose last clips come or are worked at
        self.process: QProcess | None = None
        self._working: int | None = None
        self._taking = False
        self._clips: list[Path] = []  # where the stand-ins' clips land
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self.look)
        room.begun.connect(self.begin)
        room.ended.connect(self.end)
        room.stand_ins_wanted.connect(lambda: self.use_stand_ins())
        room.athlete_chosen.connect(self._choose)
        room.corrected.connect(self.ask_speed)
        room.contrast_wanted.connect(self.contrast)
        self.library.listed.connect(self._list)
        self.library.opened.connect(self._leave)
        self.desk.listen(lambda _: self._list(), Topic.PAIR)
        self.desk.listen(lambda _: self.show(), Topic.UNITS)
        self._list()

    @property
    def running(self) -> bool:
        """Whether a session runs."""
        return self.live is not None and not self.live.has_ended

    # who throws ----------------------------------------------------------------------------------------------------
    def _list(self) -> None:
        people, stored = self.library.people, self.desk.pair.stored.get("athlete")
        mine = None if stored is None else self.library.athlete_of(stored.key)
        if not self.running:
            self.athlete = mine or (self.athlete if self.athlete in people else next(iter(people), None))
        self.room.show_people(people, self.athlete)

    def _choose(self, athlete: int) -> None:
        self.athlete = athlete

    # running -------------------------------------------------------------------------------------------------------
    def begin(self) -> None:
        """Begin with the devices that are named."""
        from waxtwin.library.live_session import LiveSession

        library, folder = self.library.store, self.room.folder.text().strip()
        addresses = {"radar": self.room.radar.text().strip(), "plates": self.room.plates.text().strip()}
        if library is None or self.athlete is None:
            return
        if not any(addresses.values()) and not folder:
            self._tell("Name at least one device, or use the stand-ins.")
            return
        if folder and not Path(folder).is_dir():
            self._tell(f"{folder}: there is no such folder.")
            return
        try:
            self.live = LiveSession(
                library, self.athlete, addresses, Path(folder) if folder else None, self.room.pitch.currentText()
            )
        except WaxTwinError as fault:
            self._tell(Fault(fault))
            return
        for before in self._open:
            before.wait_no_more()
        self._open.append(self.live)
        self.room.show_running(True)
        self._timer.start()
        self.show()

    def end(self) -> None:
        """Let go of the devices. The log stays and can be gone on with; clips of the last throws are still taken in."""
        if self.live is None or self.live.has_ended:
            return
        self.live.look()
        self.live.close()
        self.stop_stand_ins()
        self.room.show_running(False)
        self.show()

    def close(self) -> None:
        """The window goes."""
        self._timer.stop()
        if self.live is not None:
            self.live.close()
        self.live, self._open = None, []
        self.stop_stand_ins()
        self._sweep()

    def _leave(self) -> None:
        """Another library is open: what was logged stays in the one before."""
        if self.live is not None:
            self.close()
            self.room.show_running(False)
            self.room.show_states({})
            self.room.show_throws((), NOTHING_YET, ready=False)

    def look(self) -> None:
        """Take what has arrived, and begin with the landmarks of a throw whose clips are all there."""
        for live in self._open:
            live.look()
            while live.faults:
                self._tell(Fault(live.faults.pop(0)))
            self._take_next(live)
            self._prepare_next(live)
        self._open = [live for live in self._open if self._taking or not live.is_finished]
        self.show()
        if not self._open:
            self._timer.stop()
            self._sweep()

    def _take_next(self, live: LiveSession) -> None:
        """Take the next clip that landed into the library, off this thread: a long one is copied for a while."""
        if self._taking or not live.pending:
            return
        clip = live.pending.pop(0)
        self._taking = True

        def work() -> Steps[int]:
            yield 0.1
            return live.take(clip)

        def done(found: int) -> None:
            live.taken(clip, found)
            self.library.refresh()

        def over() -> None:
            self._taking = False

        self.context.jobs.start("live clip", work, done, self._tell, over=over)

    def _prepare_next(self, live: LiveSession) -> None:
        if self._working is not None:
            return
        key = next((key for key in live.waiting if live.has_landed(key)), None)
        if key is None:
            return
        self._working = key
        library = live.library

        def work() -> Steps[list[str]]:
            from waxtwin.library.live_throws import prepare_throw

            return (yield from prepare_throw(library, key, _MODEL))

        def over() -> None:
            self._working = None
            live.ready.add(key)
            self.library.announce(key)

        def done(notes: list[str]) -> None:
            self.room.states.setToolTip("\n".join(notes))

        self.context.jobs.start("live", work, done, self._tell, over=over)

    # stand-ins -----------------------------------------------------------------------------------------------------
    def use_stand_ins(self, routine: Sequence[str] = _STAND_INS) -> None:
        """Start the made-up devices and a session with them; `routine` are the command's words."""
        from tempfile import mkdtemp

        entry = next((e for e in self.library.entries if e.athlete_id == self.athlete), None)
        if entry is None or self.process is not None:
            return
        place = data_folder() / "stand-ins"
        place.mkdir(parents=True, exist_ok=True)
        self._clips.append(Path(mkdtemp(prefix="clips-", dir=place)))
        process = QProcess(self)
        process.setProgram(sys.executable)
        preset = "wren" if entry.throws == "R" else "pell"
        asked = ("stand-ins", "--folder", str(self._clips[-1]), "--preset", preset)
        process.setArguments(["-m", "waxtwin", *asked, *routine])
        process.readyReadStandardOutput.connect(self._stand_ins_say)
        process.errorOccurred.connect(lambda _: self._stand_ins_failed())
        process.start()
        self.process = process
        self.room.show_states({"stand-ins": "starting"})

    def _stand_ins_say(self) -> None:
        if self.process is None:
            return
        for line in bytes(self.process.readAllStandardOutput().data()).decode().splitlines():
            try:
                said = json.loads(line)
            except ValueError:
                continue
            if "radar" in said and not self.running:
                self.room.radar.setText(said["radar"])
                self.room.plates.setText(said["plates"])
                self.room.folder.setText(said.get("folder", ""))
                self.begin()

    def _stand_ins_failed(self) -> None:
        self.process = None
        self._sweep()
        self._tell(Fault("The stand-ins could not be started."))

    def stop_stand_ins(self) -> None:
        """End the made-up devices, if they run."""
        process, self.process = self.process, None
        if process is not None:
            process.errorOccurred.disconnect()
            process.terminate()
            if not process.waitForFinished(3000):
                process.kill()
                process.waitForFinished(1000)
            process.deleteLater()
            for line in (self.room.radar, self.room.plates, self.room.folder):  # nobody answers there any more
                line.clear()

    def _sweep(self) -> None:
        """Drop the stand-ins' clips: the library has its own copies."""
        for folder in self._clips:
            shutil.rmtree(folder, ignore_errors=True)
        self._clips.clear()

    # showing -------------------------------------------------------------------------------------------------------
    def show(self) -> None:
        """Show the session as it stands."""
        live = self.live
        if live is None:
            return
        if self.running:
            self.room.show_states(live.hub.states() | ({"clips": "connected"} if live.hub.watched is not None else {}))
        else:
            self.room.show_ended(more=live in self._open and live.hub.watched is not None)
        lines = [self._line(n, throw) for n, throw in enumerate(live.throws)]
        done = [key for key in live.keys.values() if key in live.ready]
        self.room.show_throws(lines, self._summary(), ready=bool(done))

    def _line(self, n: int, throw: LiveThrow) -> Line:
        live = self.live
        assert live is not None
        cells = [str(n + 1), datetime.fromtimestamp(throw.at).strftime("%H:%M:%S")]
        troubled = set()
        for k, device in enumerate((RADAR, *PLATES), start=2):
            found = throw.readings.get(device)
            if found is None:
                cells.append("…" if device in live.hub.devices else "–")
            elif found.state in (FAILED, MISREAD):
                cells.append(f"{found.state}: {found.note}")
                troubled.add(k)
            else:
                cells.append(
                    figure(found.value, "m/s", self.desk.view.imperial) if device == RADAR else f"{found.value:.0f} N"
                )
        if n in live.suspects:
            cells[2] += ", far from the others"
            troubled.add(2)
        key = live.keys.get(throw.at)
        cells.append(self._clip_state(key))
        return Line(tuple(cells), frozenset(troubled), key)

    def _clip_state(self, key: int | None) -> str:
        live = self.live
        assert live is not None
        if CAMERA not in live.hub.devices:
            return "no cameras"
        if key is None:
            return "no clip came" if live.is_finished else "not here yet"
        if key in live.ready:
            return "measured"
        if key == self._working:
            return "finding landmarks"
        return "waiting" if live.has_landed(key) else "one clip here, more to come"

    def _summary(self) -> str:
        live = self.live
        assert live is not None
        count = len(live.throws)
        if not count:
            return "Waiting for the first throw." if self.running else NOTHING_YET
        parts = [f"{count} {'throw' if count == 1 else 'throws'}"]
        odd = live.suspects
        good = [t.speed for n, t in enumerate(live.throws) if t.speed is not None and n not in odd]
        if good:
            today = [Figures(0, "today", speed, {}, {}) for speed in good]
            point = trend(today, SPEED)[0]
            said = f"mean {figure(point.value, 'm/s', self.desk.view.imperial)}"
            if point.error is not None:
                factor, unit, digits = converted(1.0, "m/s", self.desk.view.imperial)
                said += f" ± {2 * point.error * factor:.{digits}f} {unit}"
            parts.append(said + f" of {len(good)}")
        failed = sum(r.state != "read" for t in live.throws for r in t.readings.values() if r.device in DEVICES)
        if failed:
            parts.append("1 reading failed" if failed == 1 else f"{failed} readings failed")
        return "  ·  ".join(parts)

    # doing ---------------------------------------------------------------------------------------------------------
    def ask_speed(self, row: int) -> None:
        """Type what the radar gun should have said; 0 leaves it empty."""
        live = self.live
        if live is None or row >= len(live.throws):
            return
        factor, unit, digits = converted(1.0, "m/s", self.desk.view.imperial)
        now = (live.throws[row].speed or 0.0) * factor
        words = f"Ball speed of throw {row + 1}, {unit} (0: not known):"
        value, good = QInputDialog.getDouble(self.room, "Ball speed", words, now, 0.0, 60.0 * factor, digits)
        if good:
            live.correct(row, value / factor if value > 0 else None)
            self.show()

    def contrast(self) -> None:
        """Lay the latest measured throw on the desk as the athlete's; its session comes along as a set."""
        live = self.live
        done = [key for key in live.keys.values() if key in live.ready] if live is not None else []
        if done:
            self.context.pairs.take("athlete", done[-1])
            self.context.go_to("Contrast" if "twin" in self.desk.pair.stored else "Bench")
