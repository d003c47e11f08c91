"""Shared deliveries, a private place for settings, and a guard against leftovers."""

from __future__ import annotations

import gc
import os
import shutil
import sys
import threading
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cache
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the program does: NumPy is loaded here before it

import numpy as np
import pytest
from benchmarks.team_server import MISSING, TeamServer, is_installed
from hypothesis import HealthCheck, settings

from waxtwin.capture.pose import use_processes
from waxtwin.core.analysis import Analysis, Delivery, analyse, resolve
from waxtwin.core.steps import finish
from waxtwin.core.track import Track
from waxtwin.library import schema
from waxtwin.library.simulated import Recording, record
from waxtwin.simulate.delivery import SimulatedDelivery, simulate
from waxtwin.simulate.presets import PRESETS
from waxtwin.simulate.truth import true_angles, true_events, true_peaks
from worked import FEW_COPIES, WORKED

gc.set_threshold(50_000, 20, 20)  # what hundreds of windows leave is looked through less often
gc.freeze()  # and what was imported not at all

settings.register_profile(
    "busy", deadline=None, suppress_health_check=[HealthCheck.too_slow]
)  # the other core works too
settings.load_profile("busy")
SINGLES = (
    "ines-corvane",
    "juno-wexcombe",
    "pell-ardmoor",
    "wren-tollander",
)  # further throws take time in every window
DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"


@cache
def simulated(name: str) -> SimulatedDelivery:
    """A preset's motion, built once."""
    return simulate(PRESETS[name].params)


@cache
def truth(name: str) -> tuple[dict, dict, dict]:
    """(events, angles at events, peaks) of a preset."""
    events = true_events(simulated(name))
    return events, true_angles(simulated(name), events), true_peaks(simulated(name))


def track_of(name: str, fps: float = 240.0, noise: float = 0.0, seed: int = 0, gaps: int = 0) -> Track:
    made = _recorded(name, Recording(fps, noise, gaps, seed))
    return Track(made.times.copy(), made.points.copy(), made.confidence.copy())


@cache
def _recorded(name: str, recording: Recording) -> Track:
    return record(simulated(name), recording)


def delivery_of(name: str, **recording: float) -> Delivery:
    """A preset as a delivery with its ball speed."""
    params = PRESETS[name].params
    speed = truth(name)[2]["throwing_hand"] * params.ball_hand_ratio
    track = track_of(name, **recording)  # type: ignore[arg-type]
    return Delivery(PRESETS[name].name, track, params.throws, params.height, PRESETS[name].span, speed)


@cache
def clean(name: str) -> Analysis:
    """A preset analysed from its noise-free 240 Hz track."""
    return analyse(delivery_of(name))


def planar(track: Track, axis: int = 1) -> Track:
    """The track as one camera sees it: an axis unknown."""
    points = track.points.copy()
    points[..., axis] = np.nan
    return Track(track.times, points, track.confidence)


SLOW = {
    "test_borrowed", "test_boundaries", "test_bundles", "test_cli", "test_clips", "test_exact_frames", "test_film",
    "test_findings", "test_formats", "test_fuzz", "test_honest", "test_hostile", "test_lab", "test_landmarks",
    "test_library", "test_live", "test_manners", "test_marks", "test_more_measures", "test_pair", "test_placing",
    "test_prepare_cli", "test_project", "test_quality", "test_read_off", "test_report", "test_safekeeping",
    "test_sets", "test_shown_on_purpose", "test_tables", "test_team", "test_team_work", "test_twins",
}  # fmt: skip


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Tests that open the window or take seconds are marked, so that a quick run can leave them out."""
    for item in items:
        if "desk_window" in getattr(item, "fixturenames", ()):
            item.add_marker("window")
        if item.path.stem in SLOW:
            item.add_marker("slow")


@pytest.fixture(autouse=True)
def private_settings(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test reads or writes the user's settings."""
    for place in ("CONFIG", "DATA", "CACHE", "STATE"):
        monkeypatch.setenv(f"XDG_{place}_HOME", str(tmp_path / f".{place.lower()}"))


@pytest.fixture(autouse=True, scope="session")
def made_once() -> Iterator[None]:
    """A database made anew goes through every migration once in this process, and is copied from then on."""
    real, made = schema._upgrade, []

    def upgrade(path: Path) -> None:
        if path.stat().st_size:  # an older one
            real(path)
        elif made:
            path.write_bytes(made[0])
        else:
            real(path)
            made.append(path.read_bytes())

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(schema, "_upgrade", upgrade)
        yield


@pytest.fixture(autouse=True, scope="session")
def worked_once() -> Iterator[None]:
    """The same throw is prepared, analysed and resolved once in this process."""
    use_processes(1)  # each would load the model, and the other core has tests of its own
    with WORKED.shared():
        yield


@pytest.fixture
def anew() -> Iterator[None]:
    """Everything is worked out, whatever was before."""
    with WORKED.anew():
        yield


@pytest.fixture(autouse=True)
def no_leftover_threads() -> Iterator[None]:
    """A test that leaves a thread running fails, and says which."""
    before = set(threading.enumerate())
    yield
    left = [t for t in threading.enumerate() if t not in before and ("waxtwin" in t.name or "frames of" in t.name)]
    assert not left, f"threads left running: {[t.name for t in left]}"


@pytest.fixture(scope="session")
def demo_library(tmp_path_factory) -> Path:
    """A library folder with one throw of each of the demo's pitchers in it, to be copied."""
    from waxtwin.library.importing import bring
    from waxtwin.library.store import Library
    from waxtwin.ui.shared.demo_talk import add_demo_talk

    folder = tmp_path_factory.mktemp("made") / "demo"
    library = Library(folder)
    for name in SINGLES:
        finish(bring(library, DEMO / f"{name}.csv"))
    add_demo_talk(library)
    library.forget_changes()
    library.close()
    return folder


@pytest.fixture(scope="session")
def team_server() -> Iterator[TeamServer]:
    """A PostgreSQL server of this process' own."""
    if not is_installed():
        pytest.skip(MISSING)
    server = TeamServer()
    yield server
    server.close()


@pytest.fixture(scope="session")
def team_demo(team_server, demo_library, tmp_path_factory) -> tuple[str, Path]:
    """(database, clips' folder) of a team's library that is as the demo library, to be copied."""
    from waxtwin.library.team.address import Address
    from waxtwin.library.team.copying import to_team
    from waxtwin.library.team.making import create

    team_server.sql("create role lanterns_owner login createrole")  # nobody in particular, as an academy's owner is
    made, share = team_server.database(owner="lanterns_owner"), tmp_path_factory.mktemp("share")
    address = Address.of(team_server.url(made, "lanterns_owner"))
    create(address, share)
    finish(to_team(demo_library, address))
    return made, share


@pytest.fixture
def team_address(team_server, team_demo, tmp_path) -> Iterator:
    """Where a team's library that is as the demo library lies, for this test alone; its clips are in `share`."""
    from waxtwin.library.team.address import Address

    made, share = team_demo
    database = team_server.database(made)
    shutil.copytree(share, tmp_path / "share")
    team_server.sql(f"update waxtwin.team set clips = '{tmp_path / 'share'}'", database)
    yield Address.of(team_server.url(database))
    team_server.sql(f"drop database {database} with (force)")


@pytest.fixture
def person(team_server, team_address):
    """Opens the library as somebody: an analyst unless said otherwise."""
    from waxtwin.library.store import Library
    from waxtwin.library.team.database import TeamDatabase

    opened = []

    def open_as(name, role="waxtwin_analyst"):
        team_server.sql(f"do $$ begin create role {name} login; exception when duplicate_object then null; end $$")
        team_server.sql(f"grant {role} to {name}")
        library = Library(TeamDatabase(replace(team_address, user=name)))
        library.catch_up()
        opened.append(library)
        return library

    yield open_as
    for library in opened:
        library.close()


BOTH = {"test_library", "test_bundles", "test_speeds", "test_due", "test_plan", "test_talk", "test_twins"}


def pytest_generate_tests(metafunc: pytest.Metafunc) -> None:
    """What is asked of a library is asked of a folder's and of a team's."""
    if "library" in metafunc.fixturenames and metafunc.module.__name__.rpartition(".")[2] in BOTH:
        alone = metafunc.definition.get_closest_marker("folder") is not None
        metafunc.parametrize("library", ["folder"] if alone else ["folder", "team"], indirect=True)


@pytest.fixture
def library(request, tmp_path) -> Iterator:
    """The demo library, open, for this test alone: in a folder, or a team's."""
    from waxtwin.library.store import Library
    from waxtwin.library.team.database import TeamDatabase

    if getattr(request, "param", "folder") == "team":
        opened = Library(TeamDatabase(request.getfixturevalue("team_address")))
    else:
        demo = request.getfixturevalue("demo_library")
        opened = Library(shutil.copytree(demo, tmp_path / "library"))
    yield opened
    opened.close()


def reopened(library):
    """The same library, closed and opened again."""
    from waxtwin.library.store import Library
    from waxtwin.library.team.database import TeamDatabase

    library.close()
    database = library.database
    return Library(TeamDatabase(database.address) if database.shared else library.folder)


def idle(qtbot, app) -> None:
    """Wait until nothing is under way."""
    qtbot.waitUntil(lambda: not app.jobs.busy, timeout=120000)


@pytest.fixture
def quick_work(monkeypatch) -> None:
    """Whatever a window works out that nothing in it hangs on is worked out once in this process, from a few copies."""
    monkeypatch.setattr("waxtwin.ui.model.computing.analyse_alike", WORKED.alike)
    monkeypatch.setattr("waxtwin.ui.model.computing.resolve_steps", WORKED.few)
    monkeypatch.setattr("waxtwin.core.explain.borrow", WORKED.borrowed)
    monkeypatch.setattr("waxtwin.core.borrowed.COPIES", 4)
    monkeypatch.setattr("waxtwin.core.motion._BANK", 2.0)  # enough to draw a few copies from
    monkeypatch.setattr("waxtwin.ui.rooms.bench.small_pictures.small_picture", WORKED.small)
    monkeypatch.setattr("waxtwin.report.pdf.pdf", lambda _: WORKED.pdf("<p>A page.</p>"))  # setting one takes seconds
    monkeypatch.setattr("waxtwin.ui.shared.wax_figure._KEPT", 400)  # another window shows the same bodies
    monkeypatch.setattr("waxtwin.capture.frames._AHEAD", 1)  # of two clips in every window that few look through


@pytest.fixture
def desk_window(qtbot, demo_library, quick_work, monkeypatch) -> Iterator[Callable]:
    """Opens a furnished window; closes it and its threads at the end. `explained` also works out the gap, `pages` also
    sets the report.
    """
    from PySide6.QtCore import Qt
    from PySide6.QtWidgets import QApplication

    from waxtwin.ui.model.settings import Settings
    from waxtwin.ui.shared.open_library import demo_folder
    from waxtwin.ui.shell.start import open_app

    opened = []
    # clips are no copies: what was found out of a file holds for it wherever it is called from
    shutil.copytree(demo_library, demo_folder(), copy_function=lambda one, other: (
        os.link if one.endswith(".mp4") else shutil.copy2)(one, other))  # fmt: skip

    QApplication.setEffectEnabled(Qt.UIEffect.UI_General, False)  # where things are is asked at once

    def make(demo: bool = True, wait: bool = True, explained: bool = False, pages: bool = False):
        if not explained:  # half a second in every window, and only the Gap room's tests ask for it
            monkeypatch.setattr("waxtwin.ui.model.pair_flow.PairFlow.explain", lambda flow: None)
        if pages:
            monkeypatch.setattr("waxtwin.report.pdf.pdf", WORKED.pdf)
        app = open_app(Settings(finding=False))
        qtbot.addWidget(app.window)
        opened.append(app)
        app.intake.into_demo = True  # what a test brings in goes where it is looked for
        app.window.resize(1280, 800)
        app.window.show()
        if demo:
            app.open_demo()
            if wait:
                qtbot.waitUntil(
                    lambda: app.desk.pair.contrast is not None and app.desk.pair.contrast.twin.resolved,
                    timeout=60000,
                )
                idle(qtbot, app)
        return app

    yield make
    for app in opened:
        app.window.close()


@pytest.fixture
def run(capsys, monkeypatch) -> Callable:
    """Runs the command line in this process: (exit code, standard output, standard error)."""
    from waxtwin.cli import main

    # what the command line prints does not hang on how many copies stand behind it
    monkeypatch.setattr("waxtwin.core.motion._BANK", 2.0)
    monkeypatch.setattr("waxtwin.core.analysis.resolve_all", lambda all_: [resolve(one, FEW_COPIES) for one in all_])

    def go(*words):
        monkeypatch.setattr(sys, "argv", ["waxtwin", *map(str, words)])
        try:
            main()
            code = 0
        except SystemExit as stop:
            code = stop.code or 0
        out = capsys.readouterr()
        return code, out.out, out.err

    return go
