"""The budgets of the program, measured in one run and printed as ratios to the budget or to a bare counterpart.

`python -m benchmarks.run` prints a table; above 1.00 a budget is missed. Nothing here is a test: machines differ.
Computations are the best of nine runs, steps on the seam medians and 95th percentiles of 120.
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
    rows = []
    for shown in ("figure", "clip", "both"):
        app.desk.view.show(shown=shown)
        app.desk.clock.hold("foot_contact")
        for _ in range(16):  # bring the frames to hand
            app.desk.clock.step(1)
            settle(app, quiet=0.05)
        spent = []
        for k in range(120):
            start = time.perf_counter()
            app.desk.clock.step(-1 if k // 15 % 2 == 0 else 1)
            QApplication.processEvents()
            spent.append(time.perf_counter() - start)
        spent.sort()
        median, late = (0.012, 0.024) if shown == "figure" else (0.016, 0.033)
        for name, value, budget in (("median", spent[60], median), ("95th percentile", spent[114], late)):
            rows.append((f"one step on the seam, {shown}, {name} ({budget * 1000:.0f} ms)", *_against(budget, value)))
    app.window.close()
    return rows


if __name__ == "__main__":
    main()
