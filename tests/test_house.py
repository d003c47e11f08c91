"""Measures of the house: kept from marks, measured like any other, and asked for on the command line."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog

from conftest import DEMO, delivery_of, idle, planar, truth
from waxtwin.core.analysis import analyse, resolve
from waxtwin.core.chalk import End
from waxtwin.core.contrast import contrast
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.house import HouseMeasure, register
from waxtwin.core.stops import StopsByHand
from waxtwin.formats.files import FormatError
from waxtwin.library.house import house_file, own_house, read_house, save_house

KNEE = HouseMeasure("house_knee", "Inner knee angle", "angle", ("lead_hip", "lead_knee", "lead_ankle"), "foot_contact")
LEAN = HouseMeasure("house_lean", "Lean", "line", ("chest", "pelvis"), "foot_contact")
SPAN = HouseMeasure("house_span", "Feet apart", "distance", ("drive_ankle", "lead_ankle"), "foot_contact")


@pytest.fixture(autouse=True)
def none_left():
    yield
    register([])


def test_they_are_the_shipped_ones_where_these_say_the_same_and_have_margins():
    register([KNEE, LEAN, SPAN])
    one, two = (resolve(analyse(delivery_of(name, noise=0.003)), 60) for name in ("wren", "pell"))
    for found in (one, two):
        kept = found.measures
        assert kept["house_knee"].value == pytest.approx(180 - kept["landing_knee_flexion"].value, abs=1e-6)
        assert kept["house_knee"].sd == pytest.approx(kept["landing_knee_flexion"].sd, rel=1e-6)
        assert kept["house_lean"].value == pytest.approx(kept["landing_trunk_tilt"].value, abs=1e-6)
        assert 40 < kept["house_span"].value < 100 and kept["house_span"].sd > 0
    rows = {row.measure.id: row for row in contrast(one, two).rows}
    assert rows["house_knee"].verdict == {"short": "beyond", "beyond": "short"}.get(
        rows["landing_knee_flexion"].verdict, rows["landing_knee_flexion"].verdict
    )
    assert rows["house_span"].measure.label == "Feet apart" and rows["house_lean"].measure.kind == "P"


def test_what_a_clip_cannot_show_has_its_reason():
    register([KNEE, LEAN, SPAN])
    d = delivery_of("wren")
    by_hand = StopsByHand(truth("wren")[0])
    side = analyse(replace(d, track=planar(d.track), by_hand=by_hand)).measures
    assert side["house_knee"].planar and 90 < side["house_knee"].value < 180
    front = analyse(replace(d, track=planar(d.track, 0), by_hand=by_hand)).measures
    assert front["house_lean"].reason == "needs a view from the side" and front["house_knee"].value is None
    gone = d.track.points.copy()
    gone[:, 13] = float("nan")
    missing = analyse(replace(d, track=replace(d.track, points=gone))).measures
    assert (
        missing["house_knee"].reason == "the landmark lead_knee is missing" and missing["house_lean"].value is not None
    )


@pytest.mark.parametrize(
    ("change", "said"),
    [({"id": "knee"}, "must begin with house_"), ({"label": " "}, "needs a name"), ({"label": "x" * 99}, "at most 60"),
     ({"kind": "circle"}, "it is no line"), ({"points": ["head"]}, "wrong number of points"),
     ({"points": ["head", "tail", "nose"]}, "no landmark named tail"), ({"points": ["head", "head", "nose"]}, "the same"),
     ({"at": "lunch"}, "no stop named lunch"), ({"plane": "below"}, "seen from side or front")],
)  # fmt: skip
def test_a_bad_file_is_one_sentence(tmp_path, change, said):
    entry = {"id": "house_a", "label": "A", "kind": "angle", "points": ["head", "nose", "ball"], "at": "set", **change}
    (tmp_path / "h.json").write_text(json.dumps({"measures": [entry]}))
    with pytest.raises(FormatError, match=said) as fault:
        read_house(tmp_path / "h.json")
    assert "h.json" in str(fault.value) and "\n" not in str(fault.value)


def test_files_round_trip_and_damage_leaves_them_out(tmp_path):
    save_house([KNEE, SPAN])
    assert own_house() == ([KNEE, SPAN], "")
    for text in ("{", "[]", '{"measures": 3}', '{"measures": [1]}'):
        house_file().write_text(text)
        kept, said = own_house()
        assert kept == [] and "house_measures.json" in said and "\n" not in said
    with pytest.raises(ValueError, match="share an id"):
        register([KNEE, KNEE])


def test_the_command_line_measures_a_file_of_them(run, tmp_path):
    (tmp_path / "h.json").write_text(json.dumps({"measures": [
        {"id": "house_span", "label": "Feet <b>apart</b>", "kind": "distance", "points": ["drive_ankle", "lead_ankle"], "at": "release"},
    ]}))  # fmt: skip
    code, out, _ = run("measure", DEMO / "wren-tollander.csv", "--house", tmp_path / "h.json", "--json")
    found = json.loads(out)["measures"]["house_span"]
    assert code == 0 and found["unit"] == "%" and found["at"] == "release" and found["sd"] > 0
    code, _, said = run("measure", DEMO / "wren-tollander.csv", "--house", tmp_path / "gone.json")
    assert code == 2 and "gone.json" in said
    code, out, _ = run("measure", DEMO / "wren-tollander.csv", "--json")
    assert "house_span" not in json.loads(out)["measures"]


def test_a_mark_becomes_a_measure_in_contrast_and_goes_again(desk_window, qtbot, monkeypatch):
    app = desk_window()
    app.desk.view.show(shown="figure")
    app.do("chalk")
    app.desk.clock.hold("foot_contact")
    panel, stage = app.pair.chalk_panel, app.pair.stages["athlete"]
    qtbot.mouseClick(panel.tools["angle"], Qt.MouseButton.LeftButton)
    for name in KNEE.points:
        spot = stage.place().spot(End(name))
        qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=QPoint(round(spot.x()), round(spot.y())))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Zwirn", True))
    panel.buttons["measure"].click()
    [kept] = app.context.house.all
    qtbot.waitUntil(
        lambda: (
            kept.id in {row.measure.id for row in app.desk.pair.contrast.rows} and app.desk.pair.contrast.twin.resolved
        ),
        timeout=60000,
    )
    idle(qtbot, app)
    row = app.desk.pair.contrast.row(kept.id)
    assert row.athlete == pytest.approx(180 - app.desk.pair.contrast.row("landing_knee_flexion").athlete, abs=1e-6)
    assert row.resolution is not None and read_house(house_file()) == [kept]
    app.go_to("Contrast")
    app.contrast.search.setText("zwirn")
    assert [item.measure.id for item in app.contrast.model.items if not isinstance(item, str)] == [kept.id]
    app.go_to("Pair")
    app.desk.view.show(gauges=True)
    plain = stage.grab().toImage()
    app.desk.view.select(kept.id)
    assert stage.grab().toImage() != plain  # its gauge is lit
    app.desk.view.select(None)
    app.do("house")
    app.guide.dialog.remove.click()
    qtbot.waitUntil(lambda: kept.id not in {row.measure.id for row in app.desk.pair.contrast.rows}, timeout=60000)
    idle(qtbot, app)
    assert kept.id not in MEASURES and app.guide.dialog.list.count() == 0
