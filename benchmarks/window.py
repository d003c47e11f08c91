"""The real window over a long day: `python -m benchmarks.window`.

A newcomer's way from two clips of a phone to a PDF, in gestures (budget under 25: a click, a text typed, a file chosen
in a dialog); and 200 pairs opened and closed, which may cost no more than 30 MB and leave no thread and no file open.
"""

from __future__ import annotations

import ctypes
import gc
import os
import shutil
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QWidget

from waxtwin.ui.model.settings import Settings
from waxtwin.ui.shared import file_dialogs
from waxtwin.ui.shared.application import application
from waxtwin.ui.shell.app import App
from waxtwin.ui.shell.start import open_app

DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
GESTURES, PAIRS, MEGABYTES = 25, 200, 30.0
_WARM = 20  # pairs after which everything that is kept on purpose is there


def wait(done: Callable[[], bool], seconds: float = 600.0) -> None:
    """Let the window work until something holds. Raises TimeoutError."""
    end = time.monotonic() + seconds
    while not done():
        if time.monotonic() > end:
            raise TimeoutError
        loop = QEventLoop()
        QTimer.singleShot(50, loop.quit)
        loop.exec()


class Newcomer:
    """Somebody with two clips who counts what their hands do."""

    def __init__(self, app: App, folder: Path) -> None:
        self.app, self.folder, self.gestures = app, folder, 0
        file_dialogs.choose = lambda *_: self._chosen()
        self._next: list[Path] = []

    def _chosen(self) -> list[Path]:
        self.gestures += 2  # a name, and the button
        return [self._next.pop()]

    def press(self, place: QWidget, words: str) -> None:
        """Press the button of these words in a place."""
        found = [one for one in place.findChildren(QAbstractButton)
                 if words in one.text() and one.isVisible() and one.isEnabled()]  # fmt: skip
        if not found:
            raise LookupError(words)
        QTest.mouseClick(found[0], Qt.MouseButton.LeftButton)
        self.gestures += 1
        self.settle()

    def go_to(self, step: str) -> None:
        """Click the knot of a step of preparing."""
        steps = self.app.prepare.steps
        QTest.mouseClick(steps, Qt.MouseButton.LeftButton, pos=steps.place_of(step).toPoint())
        self.gestures += 1
        self.settle()

    def settle(self) -> None:
        """Wait for what runs."""
        loop = QEventLoop()
        QTimer.singleShot(200, loop.quit)
        loop.exec()
        wait(lambda: not self.app.jobs.busy)

    def prepare(self, clip: Path, name: str, side: str) -> None:
        """From a clip to one of the pair."""
        app = self.app
        self._next = [clip]
        self.press(app.bench, "Import files")
        wait(lambda: app.prepare.state.times.size > 0)
        page = app.prepare.pages["clip"]
        QTest.mouseClick(page.name, Qt.MouseButton.LeftButton)
        QTest.keyClicks(page.name, name)
        QTest.keyClick(page.name, Qt.Key.Key_Return)
        self.gestures += 2
        self.settle()
        self.go_to("landmarks")
        self.press(app.prepare.pages["landmarks"], "Find landmarks")
        self.go_to("ready")
        self.press(app.prepare.pages["ready"], f"Take as {side}")

    def hand_over(self, out: Path) -> None:
        """The report as PDF."""
        self.press(self.app.window, "Report")
        wait(lambda: bool(self.app.report.sheets))
        self._next = [out]
        self.press(self.app.report, "Save as PDF")
        wait(out.exists)


def newcomer(folder: Path) -> int:
    """How many gestures it takes from two clips to a PDF."""
    app = open_app(Settings(toured=True))
    app.window.resize(1280, 800)
    app.window.show()
    someone = Newcomer(app, folder)
    for pitcher, side in (("wren-tollander", "athlete"), ("ines-corvane", "twin")):
        clip = folder / f"IMG-{pitcher}.mp4"
        shutil.copyfile(DEMO / f"{pitcher}-side.mp4", clip)
        someone.prepare(clip, pitcher, side)
        if side == "athlete":
            someone.press(app.window, "Bench")
    someone.hand_over(folder / "out.pdf")
    app.window.close()
    return someone.gestures


def _memory() -> float:
    """Megabytes in use, once what is free was given back: what the allocator keeps in hand differs from run to run."""
    gc.collect()
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1024**2


def _held() -> tuple[float, int, int]:
    """Megabytes, threads and open files."""
    return _memory(), threading.active_count(), len(list(Path("/proc/self/fd").iterdir()))


def pairs(count: int) -> tuple[float, int, int]:
    """What so many pairs cost, opened in turn and then put away: megabytes, threads, files more than after a few."""
    app = open_app(Settings(toured=True))
    app.window.resize(1280, 800)
    app.window.show()
    app.open_demo()
    wait(lambda: app.desk.pair.contrast is not None and not app.jobs.busy)
    keys = [entry.id for entry in app.library.entries]

    def put_away() -> tuple[float, int, int]:
        app.desk.pair.clear()
        wait(lambda: not app.jobs.busy)
        loop = QEventLoop()
        QTimer.singleShot(2000, loop.quit)  # clips are let go of by threads of their own
        loop.exec()
        return _held()

    before = (0.0, 0, 0)
    for n in range(count + _WARM):
        if n == _WARM:
            before = put_away()
        app.pairs.take_pair(keys[n % len(keys)], keys[(n + 1 + n // len(keys)) % len(keys)])
        wait(lambda: not app.jobs.busy and app.desk.pair.contrast is not None)
        if n >= _WARM and (n + 1) % 40 == 0:
            print(f"{n + 1 - _WARM} pairs: {_memory():.0f} MB with a pair open", flush=True)
    after = put_away()
    app.window.close()
    return after[0] - before[0], after[1] - before[1], after[2] - before[2]


def main() -> None:
    application()
    with tempfile.TemporaryDirectory() as folder:
        for place in ("CONFIG", "DATA", "CACHE", "STATE"):
            os.environ[f"XDG_{place}_HOME"] = f"{folder}/{place.lower()}"
        gestures = newcomer(Path(folder))
        print(f"two clips to a PDF: {gestures} gestures (budget under {GESTURES})", flush=True)
        megabytes, threads, files = pairs(PAIRS)
    cost = f"{megabytes:+.1f} MB (budget {MEGABYTES:.0f}), {threads:+d} threads, {files:+d} files"
    print(f"{PAIRS} pairs opened and closed: {cost}")
    sys.exit(gestures >= GESTURES or megabytes > MEGABYTES or threads > 0 or files > 0)


if __name__ == "__main__":
    main()
