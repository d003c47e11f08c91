"""A talk-through: what recording adds to a step, how long its film takes, how flat its memory is, how it keeps time.

`python -m benchmarks.talk [--long]` prints a table; above 1.00 a budget is missed. `--long` also makes a film of ten
minutes and looks where its sound is beside its pictures.
"""

from __future__ import annotations

import os
import resource
import statistics
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import av
import numpy as np
from PySide6.QtWidgets import QApplication

from benchmarks.beside import wait
from waxtwin.capture.voice import MADE_UP
from waxtwin.core.steps import finish
from waxtwin.formats.talk import CARD, SOUND_RATE, Instant, Moment, Scene, Spoken, Talk
from waxtwin.talk.sound import TakeWriter
from waxtwin.ui.model.settings import Settings
from waxtwin.ui.rooms.talk.film_making import FilmWish, make_film
from waxtwin.ui.shared.application import application
from waxtwin.ui.shell.app import App
from waxtwin.ui.shell.start import open_app

STEP, RENDER, MEMORY, APART = 0.002, 1.0, 60.0, 1 / 30  # s; s a second of film; MB from the middle on; s
_MINUTES, _CLICK = 10, 480


def step(app: App) -> float:
    """Seconds that a step takes with everything that follows it, median."""
    took = []
    for n in range(60):
        start = time.perf_counter()
        app.desk.clock.step(1 if n < 30 else -1)
        QApplication.processEvents()
        took.append(time.perf_counter() - start)
    return statistics.median(took)


def recording_adds(app: App) -> float:
    """Seconds that recording adds to a step; measured by turns, so that both have the same machine."""
    without, within = [], []
    for _ in range(3):
        without.append(step(app))
        app.recording.start(MADE_UP)
        within.append(step(app))
        app.recording.stop()
        wait(lambda: not app.jobs.busy)
    return max(min(within) - min(without), 0.0)


def film_of_90_s(app: App, folder: Path) -> tuple[float, float]:
    """Seconds a second of film, and MB that were taken from its middle to its end."""
    talk, pair = app.talks.talk, app.talk.flow.pair
    assert talk is not None and pair is not None
    steps = make_film(talk, pair, app.talks.voices, folder / "film.mp4", FilmWish())
    start, middle = time.perf_counter(), 0.0
    for share in steps:
        if share >= 0.5 and not middle:
            middle = _memory()
    took = time.perf_counter() - start
    return took / sum(scene.seconds for scene in talk.wanted), _memory() - middle


def _memory() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def apart_after_ten_minutes(app: App, folder: Path) -> float:
    """Seconds that a click is from the picture that changes with it, at worst."""
    pair = app.talk.flow.pair
    assert pair is not None
    voice = np.zeros(60 * SOUND_RATE, np.float32)
    voice[:_CLICK] = 0.5
    writer = TakeWriter(folder / "click.wav")
    writer.add(voice)
    writer.close()
    take = Spoken(file="click.wav", end=60.0)
    stops = ("foot_contact", "release")
    scenes = [
        Scene(id=f"s{n}", kind=CARD, title=f"{n}" * 40, takes=(take,), take=0) if n % 2
        else Scene(id=f"s{n}", moments=(Moment(here=Instant(stop=stops[n // 2 % 2])),), takes=(take,), take=0)
        for n in range(_MINUTES)
    ]  # fmt: skip
    path = folder / "long.mp4"
    finish(make_film(Talk(scenes=tuple(scenes)), pair, folder, path, FilmWish()))
    return _worst(path)


def _worst(path: Path) -> float:
    with av.open(str(path)) as film:
        heard = np.concatenate([frame.to_ndarray()[0] for frame in film.decode(audio=0)])
    loud = np.flatnonzero(np.abs(heard) > 0.05) / SOUND_RATE
    clicks = loud[np.concatenate(([True], np.diff(loud) > 1.0))]
    changes, before = [0.0], None
    with av.open(str(path)) as film:
        for frame in film.decode(video=0):
            small = frame.reformat(32, 18, "gray").to_ndarray().astype(float)
            if before is not None and np.abs(small - before).mean() > 5:
                changes.append(float(frame.time or 0.0))
            before = small
    return max(min(abs(click - at) for at in changes) for click in clicks) if len(clicks) == _MINUTES else np.inf


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as made:
        for part in ("CONFIG", "DATA", "CACHE", "STATE"):
            os.environ[f"XDG_{part}_HOME"] = str(Path(made) / part)
        application()
        app = open_app(Settings(finding=False))
        app.window.resize(1280, 800)
        app.window.show()
        app.open_demo()
        wait(lambda: app.desk.pair.contrast is not None and app.desk.pair.contrast.twin.resolved)
        wait(lambda: not app.jobs.busy)
        whole = app.talks.current
        assert whole is not None
        rows = [("recording adds to a step, ms", recording_adds(app) * 1e3, STEP * 1e3)]
        while app.talks.talk != whole.talk:  # without what was recorded meanwhile
            app.library.undo()
        render, taken = film_of_90_s(app, Path(made))
        rows += [("a film, s a second of it", render, RENDER), ("its second half takes, MB more", taken, MEMORY)]
        if "--long" in sys.argv:
            apart = apart_after_ten_minutes(app, Path(made))
            rows.append(("sound beside pictures over 10 min, ms apart", apart * 1e3, APART * 1e3))
        app.window.close()
    print(f"{'what':<46}{'measured':>10}{'budget':>10}{'ratio':>8}")
    for what, value, budget in rows:
        print(f"{what:<46}{value:>10.2f}{budget:>10.2f}{value / budget:>8.2f}")


if __name__ == "__main__":
    main()
