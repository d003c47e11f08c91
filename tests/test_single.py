"""One delivery on its own: looked at, stepped, held and corrected, while what needs two says so."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import date

import pytest
from PySide6.QtCore import QPoint, Qt

from conftest import delivery_of
from waxtwin.core.analysis import analyse, resolve
from waxtwin.core.before_after import CHANGED
from waxtwin.core.contrast import Band, Standards
from waxtwin.core.single import against_bands
from waxtwin.core.trend import Figures
from waxtwin.report.alone import compose_alone
from waxtwin.report.parts import Wish


@pytest.fixture(params=["athlete", "twin"])
def app(desk_window, qtbot, request):
    app = desk_window(demo=False)
    from waxtwin.ui.shared.open_library import demo_folder

    app.library.open(demo_folder())
    qtbot.waitUntil(lambda: bool(app.library.entries) and not app.jobs.busy, timeout=60000)
    app.pairs.take(request.param, app.library.find("wren-tollander"))
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.analysis(request.param) is not None, timeout=60000)
    app.go_to("Pair")
    app.side = request.param
    return app


def test_one_delivery_alone_is_held_stepped_played_and_corrected(app, qtbot):
    pair, clock, seam, side = app.desk.pair, app.desk.clock, app.pair.seam, app.side
    analysis = pair.analysis(side)
    assert pair.contrast is None and clock.stop == "foot_contact"
    assert clock.time_of(side) == pytest.approx(analysis.time("foot_contact"))
    app.do("hold_release")
    assert clock.time_of(side) == pytest.approx(analysis.time("release"))
    app.do("back8")
    assert clock.time_of(side) == pytest.approx(analysis.time("release") - 8 / 240, abs=0.6 / 240)
    app.do("play")
    before = clock.time_of(side)
    qtbot.waitUntil(lambda: clock.time_of(side) > before + 0.01, timeout=5000)
    app.do("play")
    assert {name: stage.isVisible() for name, stage in app.pair.stages.items() if name in ("athlete", "twin")} == {
        name: name == side for name in ("athlete", "twin")
    }
    # a stop's end is dragged on the one rail
    at = QPoint(round(seam.event_x(side, "peak_knee")), round(seam.rail_y(side)))
    qtbot.mousePress(seam, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(seam, at - QPoint(9, 0))
    qtbot.mouseRelease(seam, Qt.MouseButton.LeftButton, pos=at - QPoint(9, 0))
    qtbot.waitUntil(lambda: not app.jobs.busy and pair.analysis(side) is not analysis, timeout=60000)
    assert pair.analysis(side).time("peak_knee") < analysis.time("peak_knee") - 0.005
    app.library.undo()
    qtbot.waitUntil(
        lambda: pair.analysis(side).time("peak_knee") == pytest.approx(analysis.time("peak_knee")), timeout=60000
    )


def test_what_needs_two_says_so_and_the_second_makes_a_pair(app, qtbot):
    side, other = app.side, "twin" if app.side == "athlete" else "athlete"
    assert f"Only the {side} is on the desk" in app.pair.panel._hint.text()
    for title, said in (("Contrast", app.contrast._count), ("Gap", app.gap._hint)):
        app.go_to(title)
        assert f"choose the {other} on the Bench" in said.text(), title
    app.pairs.take(other, app.library.find("ines-corvane"))
    qtbot.waitUntil(lambda: not app.jobs.busy and app.desk.pair.contrast is not None, timeout=60000)
    assert app.desk.pair.contrast.twin.resolved and "margin" in app.pair.panel._hint.text()


def test_contrast_and_gap_speak_of_bands_and_the_past_and_of_no_twin(app, qtbot):
    pair = app.desk.pair
    qtbot.waitUntil(
        lambda: pair.single is not None and pair.single.analysis.resolved and not app.jobs.busy, timeout=60000
    )
    app.go_to("Contrast")
    model = app.contrast.model
    rows = {row.measure.id: row for row in model.items if not isinstance(row, str)}
    at = {name: model.index(model.items.index(row), 0) for name, row in rows.items()}

    def cell(name, column):
        return model.data(at[name].siblingAtColumn(column))

    assert model.headerData(5, Qt.Orientation.Horizontal) == "Against the band"
    assert cell("landing_separation", 5).startswith("below by ") and cell("landing_trunk_tilt", 5) == "no band"
    assert cell("landing_separation", 1) == "29°" and cell("landing_separation", 2) == ""  # no earlier session here
    assert "alone, against the band of high-level adult pitchers" in app.contrast.footing.text()
    app.contrast.standing.activated.emit(1)
    assert {row.verdict for row in model.items if not isinstance(row, str)} <= {"short", "beyond"}
    app.go_to("Gap")
    said = app.gap._hint.text()
    assert "Separation at landing: 29° ± " in said and "below by " in said and "(35° to 60°)" in said
    assert "than the twin" not in said and "unusual there, not wrong" in said


def test_bands_and_earlier_sessions():
    standards = Standards({
        "stride_length": Band(80, 90, "some", "x"), "landing_knee_flexion": Band(30, 60, "some", "x"),
        "peak_speed_throwing_hand": Band(10, 20, "some", "x", direction="more"),
        "landing_trunk_tilt": Band(0, 8.0, "some", "x"),
    })  # fmt: skip
    found = resolve(analyse(delivery_of("wren", noise=0.002)), 40)
    kept = {name: value.value for name, value in found.measures.items()}
    sds = {name: value.sd for name, value in found.measures.items()}
    old = [
        Figures(1, "2026-01-05", None, {**kept, "stride_length": 70.0, "landing_trunk_tilt": None}, sds),
        Figures(2, "2026-02-09", None, {**kept, "stride_length": 73.0}, sds),
        Figures(3, "2026-02-09", None, {**kept, "stride_length": 74.0}, sds, planar=True),
    ]
    single = against_bands("athlete", found, standards, old, "2026-03-01")
    rows = {row.measure.id: row for row in single.rows}
    assert rows["stride_length"].verdict == "short" and rows["stride_length"].difference == pytest.approx(
        kept["stride_length"] - 80
    )
    assert rows["landing_knee_flexion"].verdict == "level" and rows["landing_knee_flexion"].difference == 0
    assert rows["peak_speed_throwing_hand"].verdict == "level"  # more is better, so it is never too much
    assert rows["landing_trunk_tilt"].verdict == "untold" and rows["landing_separation"].band is None
    assert rows["stride_length"].twin == pytest.approx(73.0) and single.shifts["stride_length"].state == CHANGED
    assert [row.measure.id for row in single.moved] == ["stride_length"] and single.outside == (rows["stride_length"],)
    first = against_bands("athlete", replace(found, resolved=False), standards)
    assert first.shifts == {} and all(row.twin is None for row in first.rows)


def test_one_throw_on_both_sides_shows_two_of_its_instants(app, qtbot):
    app.do("instants")
    pair, clock = app.desk.pair, app.desk.clock
    qtbot.waitUntil(lambda: pair.is_one_throw and pair.contrast is not None and not app.jobs.busy, timeout=60000)
    clock.hold("foot_contact")
    clock.take("twin")
    clock.hold("release")
    assert clock.here() == (pair.event_times("athlete")["foot_contact"], pair.event_times("twin")["release"])
    stage = app.pair.stages["athlete"]
    app.desk.view.show(shown="figure")
    plain = stage.grab().toImage()
    app.desk.view.show(ghost="rubber")
    assert stage.grab().toImage() != plain
    assert pair.figures is None and "same throw" in app.gap._hint.text() and "same throw" in app.report.hint.text()


def test_a_report_of_one_delivery_speaks_of_no_twin(app, qtbot, tmp_path):
    pair, room = app.desk.pair, app.report
    qtbot.waitUntil(
        lambda: pair.single is not None and pair.single.analysis.resolved and not app.jobs.busy, timeout=60000
    )
    app.go_to("Report")
    qtbot.waitUntil(lambda: bool(room.sheets) and not app.jobs.busy, timeout=60000)
    assert room.buttons["pdf"].isEnabled() and not room.buttons["clip"].isEnabled()
    assert not room.form.parts["account"].isEnabled() and room.form.parts["table"].isEnabled()
    room.flow.save("html", tmp_path / "alone.html")
    qtbot.waitUntil(lambda: (tmp_path / "alone.html").is_file() and not app.jobs.busy, timeout=60000)
    page = (tmp_path / "alone.html").read_text()
    assert "Your delivery on its own" in page and "Separation at landing" in page and "Below by" in page
    assert page.count("<figure>") == 3 and "twin" not in re.sub(
        r"<style>.*?</style>|data:[^\"]*", "", page, flags=re.S
    ).replace('class="twin"', "")
    wish = Wish(frozenset({"table"}), (), "Somebody", imperial=True)
    report = compose_alone(pair.single, wish, date(2026, 11, 29))
    assert (
        (report.athlete, report.pictures, report.findings) == ("Somebody", (), ()) and report.tables and report.cautions
    )
    app.pairs.take("twin" if app.side == "athlete" else "athlete", app.library.find("ines-corvane"))
    qtbot.waitUntil(lambda: not app.jobs.busy and pair.contrast is not None, timeout=60000)
