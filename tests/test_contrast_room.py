"""The Contrast room as a reader uses it: finding rows, copying them, plots and their files."""

import csv
import io
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton

from conftest import clean, delivery_of, planar, track_of
from waxtwin.core.analysis import analyse, resolve
from waxtwin.core.camera import Sight
from waxtwin.core.contrast import BEYOND, SHORT, Standards, analyse_alike, contrast
from waxtwin.core.curves import CURVES, curve_of
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import KINDS
from waxtwin.core.remedies import advice
from waxtwin.library.bands import load_bands, load_matters
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.wording import turns_in_order
from waxtwin.ui.rooms.contrast.rows import STANDINGS, Wish, arranged, as_csv, as_text
from waxtwin.ui.shared.gallery import Gallery
from waxtwin.ui.shared.plots import chain_speeds, turns_by_time


@pytest.fixture(scope="module")
def rows():
    return contrast(
        resolve(clean("wren"), 40), resolve(clean("ines"), 40), Standards(load_bands(), load_matters())
    ).rows


def names(found):
    return [row.measure.id for row in found if not isinstance(row, str)]


def test_every_row_is_there_once_under_its_kind(rows):
    found = arranged(rows, Wish(), "touch")
    assert sorted(names(found)) == sorted(MEASURES)
    assert [item for item in found if isinstance(item, str)] == ["Position", "Timing", "Separation", "Speed"]


def test_rows_are_found_by_words_stop_kind_and_standing(rows):
    assert set(names(arranged(rows, Wish(words="knee FRONT"), "touch"))) >= {"landing_knee_flexion", "knee_drift"}
    at_lift = names(arranged(rows, Wish(stop="peak_knee"), "touch"))
    assert "lift_height" in at_lift and all(MEASURES[name].at == "peak_knee" for name in at_lift)
    # measures at landing follow the stop that counts as landing
    assert "stride_length" in names(arranged(rows, Wish(stop="foot_plant"), "plant"))
    assert "stride_length" not in names(arranged(rows, Wish(stop="foot_plant"), "touch"))
    apart = arranged(rows, Wish(standing="apart", kind="T"), "touch")
    assert apart[0] == "Timing" and all(row.verdict in (SHORT, BEYOND) for row in apart[1:])
    assert arranged(rows, Wish(words="no such thing"), "touch") == []
    counted = {key: len(names(arranged(rows, Wish(standing=key), "touch"))) for key in STANDINGS}
    assert counted["short"] + counted["beyond"] == counted["apart"]
    assert counted["apart"] + counted["level"] + counted["untold"] == counted["known"]
    assert counted["known"] + counted["missing"] == counted["any"]


def test_only_what_a_school_acts_on(desk_window, qtbot):
    app = desk_window(explained=True)
    qtbot.waitUntil(lambda: app.desk.pair.explanation is not None, timeout=30000)
    room = app.contrast
    assert room.school.count() == 2 and "Common ground" in room.school.itemText(1)
    room.school.setCurrentIndex(1)
    room.school.activated.emit(1)
    shown = set(names(room.model.items))
    # the common ground leaves the load to the schools, and acts on the trunk at landing
    assert "landing_trunk_tilt" in shown and "load_knee_inset" in shown and "lift_height" not in shown
    app.gap.flow.choose_school("coil")
    assert "Coil school" in room.school.itemText(1) and set(names(room.model.items)) != shown


def test_largest_first_is_by_what_the_footage_resolves(rows):
    found = arranged(rows, Wish(by_size=True, standing="known"), "touch")
    sizes = [abs(row.difference) / row.resolution for row in found if row.resolution]
    assert sizes == sorted(sizes, reverse=True) and not any(isinstance(row, str) for row in found)


def test_rows_written_out_say_what_the_rows_say(rows):
    table = list(csv.DictReader(io.StringIO(as_csv(arranged(rows, Wish(), "touch")))))
    assert len(table) == len(rows)
    stride = next(row for row in rows if row.measure.id == "stride_length")
    line = next(line for line in table if line["measure"] == "stride_length")
    assert float(line["athlete"]) == pytest.approx(stride.athlete, rel=1e-5) and line["verdict"] == "short"
    assert line["band"] == "78 to 90"
    missing = next(line for line in table if line["verdict"] == "unavailable")
    assert missing["difference"] == ""
    text = as_text(arranged(rows, Wish(words="hand, peak"), "touch"), imperial=True)
    assert "mph" in text and "Throwing hand, peak speed\t" in text


@pytest.mark.parametrize("curve", CURVES.values(), ids=CURVES)
def test_every_curve_passes_through_its_measures(curve):
    a = clean("ines")
    values = curve.values(a)
    assert values.shape == a.motion.times.shape and np.isfinite(values).any()
    read_off = [item for item in MEASURES.values() if item.curve == curve.id]
    assert read_off
    for item in read_off:
        name = item.id
        assert curve_of(name) is curve
        if item.unit == curve.unit and item.at in ("landing", "release") and name.startswith(item.at):
            at = a.time(item.at)
            read = np.interp(at, a.motion.times, values)
            offset = 90.0 if name == "landing_abduction" else 0.0
            assert a.measures[name].value == pytest.approx(read + offset, abs=1.0), name


def test_plots_of_dots_take_what_is_known(rows):
    pair = contrast(resolve(clean("wren"), 20), clean("ines"))
    hips = turns_by_time(pair)[0]
    assert hips.values[0] == clean("wren").measures["peak_pelvis_turn_time"].value
    assert hips.sds[0] > 0 and hips.sds[1] is None
    assert [line.label for line in chain_speeds(pair)][::4] == ["Pelvis", "Hand"]
    flat = analyse_flat()
    assert turns_by_time(contrast(flat, flat))[0].values == (None, None)


def analyse_flat():
    from dataclasses import replace

    from conftest import delivery_of

    return analyse(replace(delivery_of("wren"), track=planar(track_of("wren"))))


def test_the_room_filters_sorts_copies_and_saves(desk_window, qtbot, tmp_path):
    app = desk_window()
    app.go_to("Contrast")
    room = app.contrast
    room.search.setText("separation")
    shown = [room.model.data(room.model.index(i, 0)) for i in range(room.model.rowCount())]
    assert "Separation at landing" in shown and "Stride length" not in shown
    copy = next(b for b in room.findChildren(QPushButton) if b.text() == "Copy CSV")
    qtbot.mouseClick(copy, Qt.MouseButton.LeftButton)
    assert QApplication.clipboard().text().startswith("measure,unit,athlete")
    assert "landing_separation,deg," in QApplication.clipboard().text()
    room.search.clear()
    room.by_size.setChecked(True)
    assert all(not isinstance(item, str) for item in room.model.items)
    room.table.selectRow(0)
    for choice in ("own", "dial", "order", "chain", "path", "speed"):
        room.gallery.choose(choice)
        qtbot.wait(20)
        for ending in ("svg", "png"):
            room.gallery.save(tmp_path / f"{choice}.{ending}")
            assert (tmp_path / f"{choice}.{ending}").stat().st_size > 1500, choice
    text = (tmp_path / "order.svg").read_text()
    assert text.startswith("<?xml") and "</svg>" in text
    room.gallery.save(tmp_path / "nowhere" / "x.svg")
    assert "x.svg" in app.notice.text


def test_real_time_and_common_time_differ(desk_window, qtbot):
    app = desk_window()
    app.go_to("Contrast")
    gallery = app.contrast.gallery

    def twin_times():
        return gallery.curves.plots.ci.getItem(0, 0).listDataItems()[1].getData()[0]

    common = twin_times()
    gallery.clock._buttons["real"].click()
    assert not np.allclose(common, twin_times())
    steps = np.diff(twin_times())
    assert np.allclose(steps, steps[0])  # real time is even
    app.desk.view.select("landing_knee_flexion")
    gallery.choose("own")
    gallery.beside.setCurrentIndex(gallery.beside.findData("speed_throwing_hand"))
    gallery.draw()
    assert [curve.id for curve in gallery.curves.shown] == ["lead_knee", "speed_throwing_hand"]


def test_of_one_clip_each_the_room_shows_what_there_is(qapp):
    sight = Sight(scaled=False, yaw_sd=8.0, scale_sd=0.02, by_model=True, by_body=True, view="open side")
    throws = [replace(delivery_of(name), track=planar(track_of(name)), sight=sight) for name in ("wren", "ines")]
    pair = contrast(*(resolve(one, 8) for one in analyse_alike(throws)))
    for kind in KINDS:
        told = [(row.told, row.difference is not None) for row in arranged(pair.rows, Wish(kind=kind), "touch")[1:]]
        assert told == sorted(told, reverse=True)
    assert not turns_in_order(pair.athlete)
    deep = [pair.row(name) for name in ("landing_separation", "landing_pelvis_rotation", "landing_trunk_rotation")]
    found = advice({"Apart?": deep[:1], "Hips?": deep[1:2], "Shoulders?": deep[2:]}, pair)
    assert [(one.remedy.words[:5], len(one.asks), one.side) for one in found] == [
        ("Click", 1, "athlete"), ("Add a", 2, "athlete")
    ]  # fmt: skip
    desk = Desk()
    desk.pair.set_contrast(pair)
    gallery = Gallery(desk)
    words = {gallery.picker.itemData(i): gallery.picker.itemText(i) for i in range(gallery.picker.count())}
    assert gallery.choice == "bend" and {curve.id for curve in gallery.curves.shown} >= {"trunk_tilt", "lead_knee"}
    assert "not seen" in words["turn"] and "not seen" in words["dial"] and "not seen" not in words["path"]
    assert "not seen" in words["speed"]  # no height, no metres
    gallery.choose("turn")
    assert not gallery.curves.shown and "does not show" in gallery._hint.text()
