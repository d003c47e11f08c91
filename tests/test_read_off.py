"""From the rubber: a point's distances, height and speed, with what the footage lets them be known to."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt

from conftest import clean, delivery_of, planar, track_of, truth
from waxtwin.core.analysis import analyse
from waxtwin.core.camera import Sight
from waxtwin.core.read_off import LINES, POINTS, margin, read_off
from waxtwin.core.stops import StopsByHand
from waxtwin.ui.shared.theme import font


def test_readings_are_those_of_the_measures_at_their_stops():
    found = clean("wren")
    landing = read_off(found, "lead_ankle", found.time("foot_contact"))
    assert landing["rubber"].value == pytest.approx(found.measures["stride_length"].value, abs=1e-6)
    height = found.motion.height
    assert landing["rubber"].metres == pytest.approx(landing["rubber"].value * height / 100)
    hand = read_off(found, "throwing_hand", found.time("release"))
    assert hand["peak"].metres == pytest.approx(found.measures["peak_speed_throwing_hand"].value, rel=1e-3)
    assert hand["speed"].value == pytest.approx(hand["peak"].value, rel=1e-3)
    after = found.measures["peak_time_throwing_hand"].value
    assert hand["peak_time"].value == pytest.approx(after, abs=1.0)
    # the back leg is read from the front foot, everything else from the back foot
    knee = read_off(found, "drive_knee", found.time("foot_contact"))
    assert knee["foot"].value < 0 < read_off(found, "lead_knee", found.time("foot_contact"))["foot"].value
    with pytest.raises(ValueError, match="tail"):
        read_off(found, "tail", 1.0)


def test_a_left_hander_reads_like_a_right_hander_and_noise_widens_the_margin():
    left = clean("pell")
    at = read_off(left, "lead_ankle", left.time("foot_contact"))
    assert at["rubber"].value == pytest.approx(left.measures["stride_length"].value, abs=1e-6)
    quiet, loud = (analyse(delivery_of("wren", noise=noise)) for noise in (0.001, 0.01))
    a, b = (read_off(one, "throwing_hand", 2.0) for one in (quiet, loud))
    for line in LINES:
        assert margin(b[line], b[line]) > margin(a[line], a[line]), line
    # repeated noise scatters by about what is stated
    seen = [read_off(analyse(delivery_of("wren", noise=0.01, seed=s)), "head", 1.8) for s in range(12)]
    for line in ("rubber", "height", "speed"):
        scatter = np.std([one[line].value for one in seen], ddof=1)
        assert scatter < 2.5 * np.mean([one[line].sd for one in seen]), line


def test_what_a_clip_cannot_show_has_its_reason():
    d = delivery_of("wren")
    by_hand = StopsByHand(truth("wren")[0])
    front = analyse(replace(d, track=planar(d.track, 0), by_hand=by_hand))
    found = read_off(front, "lead_knee", 2.0)
    assert found["rubber"].reason == found["foot"].reason == "needs a view from the side"
    assert found["height"].value is not None
    unscaled = analyse(replace(d, track=planar(d.track), by_hand=by_hand, sight=Sight(scaled=False, scale_sd=0.02)))
    found = read_off(unscaled, "lead_ankle", truth("wren")[0]["foot_contact"])
    assert found["rubber"].metres is None and found["rubber"].value > 60 and found["rubber"].sd > 1.2
    slow = analyse(replace(d, track=track_of("wren", 30.0)))
    assert "too quick" in read_off(slow, "throwing_hand", 2.0)["peak"].reason
    assert read_off(slow, "head", 2.0)["peak"].value is not None
    missing = track_of("wren")
    missing.points[:, 1] = np.nan
    assert read_off(analyse(replace(d, track=missing)), "nose", 2.0)["height"].value is None


def test_the_panel_follows_the_clock_and_the_point(desk_window, qtbot):
    app = desk_window()
    before = app.pair.stages["athlete"].grab().toImage()
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_R)
    panel = app.pair.rubber
    assert panel.isVisible() and app.pair.stages["athlete"].grab().toImage() != before
    app.desk.clock.hold("foot_contact")
    stride = app.desk.pair.contrast.row("stride_length")
    assert panel.cells["rubber", "athlete"].text().startswith(f"{stride.athlete:.1f} %")
    assert (
        panel.cells["rubber", "difference"].text().startswith("−") and panel.cells["rubber", "difference"].font().bold()
    )
    assert not font(-1.0).bold()  # the face that everything shares is left alone
    shown = panel.cells["speed", "athlete"].text()
    app.desk.clock.step(-8)
    assert panel.cells["speed", "athlete"].text() != shown
    panel.point.setCurrentIndex(list(POINTS).index("drive_knee"))
    panel.point.activated.emit(panel.point.currentIndex())
    assert panel._names["foot"].text() == "from the front ankle"
    app.do("units")
    assert " in" in panel.cells["height", "twin"].text() and "mph" in panel.cells["peak", "twin"].text()
    qtbot.keyClick(app.pair.seam, Qt.Key.Key_R)
    assert not panel.isVisible() and not app.desk.view.reading
