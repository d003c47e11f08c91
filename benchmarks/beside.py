"""Two ordinary clips beside each other: how soon they are seen, how smoothly they step and play, how many gestures to
measure by hand.

`python -m benchmarks.beside` prints a table; above 1.00 a budget is missed. A gesture is a click, a key, a drag.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from benchmarks.clips import full_hd
from waxtwin.core.steps import finish
from waxtwin.library.importing import add_view, bring
from waxtwin.ui.model.settings import Settings
from waxtwin.ui.shared.application import application
from waxtwin.ui.shell.app import App
from waxtwin.ui.shell.start import open_app

SECONDS, STEP, DROPPED, GESTURES = 3.0, 0.016, 0.02, 40
SIDES = ("athlete", "twin")
_STOPS = ("peak_knee", "hand_break", "foot_contact", "max_layback", "release")


def wait(done: Callable[[], bool], seconds: float = 60.0) -> None:
    """Until something is so. Raises TimeoutError."""
    end = time.perf_counter() + seconds
    while not done():
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)
        if time.perf_counter() > end:
            raise TimeoutError("it does not come")


def shown(app: App) -> bool:
    """Whether the frames that both sides stand at are on their stages."""
    return app.window.title == "Pair" and all(
        app.pair.stages[side].clip.image is not None and not app.pair.stages[side].clip.late for side in SIDES
    )


def opened(folder: Path) -> App:
    """A window on a library of its own."""
    app = open_app(Settings(finding=False))
    app.window.resize(1280, 800)
    app.window.show()
    app.library.open(folder)
    wait(lambda: app.library.store is not None and not app.jobs.busy)
    return app


def first_frames(app: App, clips: list[Path]) -> float:
    """Seconds from the drop to both first frames."""
    start = time.perf_counter()
    app.intake.receive(clips, 400.0)
    wait(lambda: shown(app))
    took = time.perf_counter() - start
    wait(lambda: not app.jobs.busy)
    return took


def steps(app: App) -> float:
    """Median seconds of a step of both sides with their frames at hand, painted."""
    found = []
    for _ in range(90):
        start = time.perf_counter()
        app.step(1)
        QApplication.processEvents()  # paints what changed, once
        found.append(time.perf_counter() - start)
        wait(lambda: shown(app))
        time.sleep(0.01)  # a hand is no faster
    return statistics.median(found)


def two_by_two(folder: Path) -> float:
    """The share of frames that are not there in time, of four 720p clips at 30 frames a second of the screen."""
    clips = [full_hd(folder / f"view{n}.mp4", (1280, 720), n) for n in range(4)]
    app = opened(folder / "four")
    store = app.library.store
    assert store is not None
    keys = [finish(bring(store, clip))[0].key for clip in clips[:2]]
    for key, clip in zip(keys, clips[2:], strict=True):
        assert key is not None
        add_view(store, key, clip)
    app.pairs.take_pair(*(key for key in keys if key is not None))
    app.go_to("Pair")
    app.desk.view.show(double=True)
    stages = [group[side] for group in (app.pair.grid.stages, app.pair.grid.seconds) for side in SIDES]
    wait(lambda: all(stage.clip.image is not None for stage in stages) and not app.jobs.busy)
    app.desk.clock.set_rate(1.0)
    app.desk.clock.go(0.0)
    wait(lambda: False not in {stage.clip.is_open for stage in stages})
    app.desk.clock.play(1)
    start, late, asked = time.perf_counter(), 0, 0
    for tick in range(1, 181):
        wait(lambda tick=tick: time.perf_counter() >= start + tick / 30)
        late += sum(stage.clip.late for stage in stages)
        asked += len(stages)
    app.desk.clock.play(0)
    app.window.close()
    return late / asked


class Hand:
    """Somebody who measures two unknown clips, and counts."""

    def __init__(self, app: App) -> None:
        self.app, self.gestures = app, 0

    def key(self, key: Qt.Key, *, control: bool = False) -> None:
        """Press a key."""
        held = Qt.KeyboardModifier.ControlModifier if control else Qt.KeyboardModifier.NoModifier
        QTest.keyClick(self.app.pair.seam, key, held)
        self.gestures += 1
        wait(lambda: not self.app.jobs.busy)

    def scrub(self, time_: float) -> None:
        """Drag on the seam to an instant of the side that was taken."""
        seam, clock = self.app.pair.seam, self.app.desk.clock
        at = time_ if clock.alone == "athlete" else clock.alignment.to_athlete(time_)
        middle = round((seam.rail_y("athlete") + seam.rail_y("twin")) / 2)
        QTest.mouseClick(seam, Qt.MouseButton.LeftButton, pos=QPoint(round(seam.x_of(at)), middle))
        self.gestures += 1

    def click(self, side: str, x: float, y: float) -> None:
        """Click on a stage, at shares of it."""
        stage = self.app.pair.stages[side]
        QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=QPointF(x * stage.width(), y * stage.height()).toPoint())
        self.gestures += 1

    def take(self, tool: str) -> None:
        """Press a tool's button."""
        QTest.mouseClick(self.app.pair.chalk_panel.tools[tool], Qt.MouseButton.LeftButton)
        self.gestures += 1


def by_hand(folder: Path, clips: list[Path]) -> int:
    """How many gestures it takes to hold two unknown clips at five stops with a tilt and a knee angle on both."""
    app = opened(folder / "hand")
    hand = Hand(app)
    app.intake.receive(clips, 400.0)
    hand.gestures += 1
    wait(lambda: shown(app) and not app.jobs.busy)
    keys = dict(zip(_STOPS, (Qt.Key.Key_3, Qt.Key.Key_4, Qt.Key.Key_6, Qt.Key.Key_8, Qt.Key.Key_9), strict=True))
    for side in SIDES:
        hand.key(Qt.Key.Key_A if side == "athlete" else Qt.Key.Key_W)
        for n, stop in enumerate(_STOPS):
            hand.scrub(1.0 + 0.8 * n + (0.3 if side == "twin" else 0.0))
            hand.key(keys[stop], control=True)
    hand.key(Qt.Key.Key_Escape)
    hand.key(keys["foot_contact"])
    hand.key(Qt.Key.Key_C)
    for tool, places in (("line", ((0.5, 0.4), (0.5, 0.6))), ("angle", ((0.5, 0.55), (0.55, 0.65), (0.52, 0.75)))):
        hand.take(tool)
        for x, y in places:
            hand.click("athlete", x, y)
        hand.key(Qt.Key.Key_X)
    board, pair = app.desk.chalk, app.desk.pair
    assert pair.stops() == list(_STOPS), pair.stops()
    for side in SIDES:
        place = app.pair.stages[side].place()
        assert place is not None and [place.number(one) is not None for one in board.of(side)] == [True, True]
    app.window.close()
    return hand.gestures


def main() -> None:
    application()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        clips = [full_hd(folder / f"{n}.mp4", shift=n) for n in range(2)]
        app = opened(folder / "library")
        soon = first_frames(app, clips)
        step = steps(app)
        app.window.close()
        late = two_by_two(folder)
        gestures = by_hand(folder, clips)
    rows = [
        ("two 1080p clips dropped to both first frames (3 s)", f"{soon:.2f} s", soon / SECONDS),
        ("a step of both sides with clips only (16 ms)", f"{step * 1000:.1f} ms", step / STEP),
        ("two by two 720p clips at 30 frames/s of screen, dropped (2 %)", f"{late:.1%}", late / DROPPED),
        ("two clips to five stops, a tilt and a knee angle on both (40)", f"{gestures} gestures", gestures / GESTURES),
    ]
    for name, measured, ratio in rows:
        print(f"{name:66s} {measured:>22s}   {ratio:5.2f} of budget")
    sys.exit(any(ratio > 1.0 for _, _, ratio in rows))


if __name__ == "__main__":
    main()
