"""The budgets of the program, measured in one run and printed as ratios to the budget or to a bare counterpart.

`python -m benchmarks.run` prints a table; above 1.00 a budget is missed. Nothing here is a test: machines differ.
Computations are the best of nine runs, steps on the seam medians and 95th percentiles of 120: as a held key makes them,
with time between two in which the next figures are painted, and one right after the other, which no hand does; both
beside a bare repaint of what a step repaints.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np

from waxtwin.core.analysis import Delivery, analyse, resolve_all
from waxtwin.core.borrowed import worth
from waxtwin.core.contrast import analyse_pair, contrast
from waxtwin.core.shapley import shapley
from waxtwin.core.track import Track
from waxtwin.core.whatif import WhatIf
from waxtwin.figure.moving import pose_at
from waxtwin.library.stored import load

DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
_HELD = 1 / 30  # s: how quickly a held key repeats
_BARE = """
import time; start = time.perf_counter()
from PySide6.QtWidgets import QApplication, QMainWindow, QLabel
class W(QMainWindow):
    def paintEvent(self, e):
        super().paintEvent(e); print(time.perf_counter() - start); QApplication.quit()
app = QApplication([]); w = W(); w.setCentralWidget(QLabel("x")); w.resize(1280, 800); w.show(); app.exec()
"""
_FULL = """
import time; start_ = time.perf_counter()
from waxtwin.ui.shared.application import application
from waxtwin.ui.shell.start import start
from waxtwin.ui.model.settings import Settings
app = application()
def then(workshop):
    workshop.open_demo(); frame.close(); app.quit()
frame = start(Settings(), then)
frame.painted.connect(lambda: print(time.perf_counter() - start_))
app.exec()
"""


def main() -> None:
    rows = [
        ("start to first painted window, against a bare window (budget 3x)", *_start()),
        ("events and measures, 500 frames (budget 60 ms)", *_against(0.060, _measures())),
        ("contrast of a pair without resolution, 500 frames (150 ms)", *_against(0.150, _contrast())),
        ("resolution, 200 copies, a pair of 500 frames (1.0 s)", *_against(1.0, _resolution())),
        ("borrowed motion, exact, 8 factors, 500 frames (400 ms)", *_against(0.400, _borrowed())),
        ("what-if, one slider: speed and figure (33 ms)", *_against(0.033, _what_if("trunk"))),
        ("every pose of a throw for its figure (60 ms)", *_against(0.060, _poses())),
        ("what-if, the tempo's slider (33 ms)", *_against(0.033, _what_if("tempo"))),
        *_seam(),
    ]
    for name, measured, ratio in rows:
        print(f"{name:72s} {measured:>12s}   {ratio:5.2f} of budget")


def _best(work: Callable[[], object], runs: int = 9) -> float:
    """The quickest of some runs: whatever else the machine does only ever adds."""
    work()
    spent = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        spent.append(time.perf_counter() - start)
    return min(spent)


def _against(budget: float, spent: float) -> tuple[str, float]:
    return f"{spent * 1000:.1f} ms", spent / budget


def _demo(name: str) -> Delivery:
    d = load(DEMO / f"{name}.csv").delivery
    t = d.track
    return replace(d, track=Track(t.times[-500:], t.points[-500:], t.confidence[-500:]))


def _start() -> tuple[str, float]:
    def once(code: str) -> float:
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        return float(done.stdout.split()[0])

    pairs = [(once(_BARE), once(_FULL)) for _ in range(5)]
    ratio = statistics.median(full / bare for bare, full in pairs)
    return f"{ratio:.2f} x bare", ratio / 3


def _measures() -> float:
    d = _demo("wren-tollander")
    return _best(lambda: analyse(d))


def _contrast() -> float:
    a, b = _demo("wren-tollander"), _demo("ines-corvane")
    return _best(lambda: contrast(*analyse_pair(a, b)))


def _resolution() -> float:
    pair = analyse_pair(_demo("wren-tollander"), _demo("ines-corvane"))
    return _best(lambda: resolve_all(pair))


def _borrowed() -> float:
    a, t = analyse_pair(_demo("wren-tollander"), _demo("ines-corvane"))
    return _best(lambda: shapley(worth(a, t, (33.2, 38.9)).values))


def _what_if(factor: str) -> float:
    """The speed without its spread, and the body to be painted, for shares that were not asked for before."""
    what = WhatIf(*analyse_pair(_demo("wren-tollander"), _demo("ines-corvane")))
    shares = iter(np.linspace(0.01, 1.2, 1000))

    def once() -> None:
        chosen = {factor: float(next(shares))}
        what.predict(chosen, spread=False)
        what.body(chosen, 0.6)

    return _best(once)


def _poses() -> float:
    """A throw's bone table, made anew."""
    motion = analyse(_demo("wren-tollander")).motion
    middle = float(motion.times.mean())

    def once() -> None:
        pose_at(replace(motion, _cache={}), middle)

    return _best(once)


def _seam() -> list[tuple[str, str, float]]:
    """One step on the seam, both stages painted, for figures and for clips at hand."""
    from PySide6.QtCore import QEventLoop, QTimer
    from PySide6.QtWidgets import QApplication

    from waxtwin.ui.model.settings import Settings
    from waxtwin.ui.shared.application import application
    from waxtwin.ui.shell.pictures import settle
    from waxtwin.ui.shell.start import open_app

    application()
    app = open_app(Settings())
    app.window.resize(1280, 800)
    app.window.show()
    app.open_demo()
    settle(app)
    clock, pair = app.desk.clock, app.pair

    def repaint(_: int) -> None:
        for one in (*pair.stages.values(), pair.seam):
            one.update()

    def timed(change: Callable[[int], object], pause: float) -> list[float]:
        spent = []
        for k in range(120):
            start = time.perf_counter()
            change(k)
            QApplication.processEvents()
            spent.append(time.perf_counter() - start)
            loop = QEventLoop()  # lets the painters work, as waiting for a key does
            QTimer.singleShot(max(round(1000 * (pause - spent[-1])), 0), loop.quit)
            loop.exec()
        return sorted(spent)

    rows = []
    for shown in ("figure", "clip", "both"):
        app.desk.view.show(shown=shown)
        clock.hold("foot_contact")
        for _ in range(16):  # bring the frames to hand
            clock.step(1)
            settle(app, quiet=0.05)
        bare = timed(repaint, 0.0)[60]
        budgets = (0.012, 0.024) if shown == "figure" else (0.016, 0.033)
        for pace, pause in (("key held", _HELD), ("at once", 0.0)):
            spent = timed(lambda k: clock.step(-1 if k // 15 % 2 == 0 else 1), pause)
            for name, value, budget in (("median", spent[60], budgets[0]), ("95th", spent[114], budgets[1])):
                took, share = _against(budget, value)
                words = f"step on the seam, {shown}, {pace}, {name} ({budget * 1000:.0f} ms; {value / bare:.1f} x bare)"
                rows.append((words, took, share))
    app.window.close()
    return rows


if __name__ == "__main__":
    main()
