"""The desk's state without a window: clocks, stops, loops, wording."""

from dataclasses import replace

import pytest

from conftest import DEMO, clean
from waxtwin.core.contrast import contrast
from waxtwin.core.standing import verdict
from waxtwin.core.stops import ORDER, StopsByHand
from waxtwin.core.units import figure, height
from waxtwin.library.stored import load
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.topics import Topic
from waxtwin.ui.model.wording import key_of, rows_at


@pytest.fixture
def desk():
    desk = Desk()
    desk.pair.lay({"athlete": load(DEMO / "wren-tollander.csv"), "twin": load(DEMO / "ines-corvane.csv")})
    desk.pair.set_contrast(contrast(clean("wren"), clean("ines")))
    desk.clock.hold_landing()
    return desk


def times(side):
    return clean("wren" if side == "athlete" else "ines").event_times


def test_opens_held_at_landing_on_both_sides(desk):
    assert desk.clock.stop == "foot_contact"
    for side in ("athlete", "twin"):
        assert desk.clock.time_of(side) == pytest.approx(times(side)["foot_contact"])


@pytest.mark.parametrize("mode", ["one", "all", "clock"])
@pytest.mark.parametrize("stop", ORDER)
def test_holding_a_stop_is_exact_on_both_sides_in_every_mode(desk, mode, stop):
    desk.clock.pull(mode)
    desk.clock.hold(stop)
    for side in ("athlete", "twin"):
        assert desk.clock.time_of(side) == pytest.approx(times(side)[stop])


def test_stepping_leaves_the_held_stop_and_runs_in_real_time(desk):
    desk.clock.hold("release")
    before = desk.clock.time_of("twin")
    desk.clock.step(8)
    assert desk.clock.time - times("athlete")["release"] == pytest.approx(8 / 240, abs=0.5 / 240)
    assert desk.clock.time_of("twin") - before == pytest.approx(desk.clock.time - times("athlete")["release"])
    desk.clock.step(-8)
    desk.clock.step(-1)
    assert desk.clock.time < times("athlete")["release"]


def test_clock_never_leaves_the_footage(desk):
    low, high = desk.clock.span()
    desk.clock.go(-50)
    assert desk.clock.time == low
    desk.clock.go(50)
    assert desk.clock.time == high


def test_topics_are_told_only_on_real_change(desk):
    heard = []
    desk.listen(heard.append)
    desk.clock.go(desk.clock.time + 0.1)
    desk.clock.go(desk.clock.time)
    desk.view.select("stride_length")
    desk.view.select("stride_length")
    desk.view.show(gauges=desk.view.display.gauges)
    desk.view.set_imperial(False)
    assert heard == [Topic.TIME, Topic.SELECTION]


def test_loop_is_the_phase_of_the_clock(desk):
    desk.clock.hold("foot_contact")
    desk.clock.step(3)
    desk.clock.set_loop(True)
    low, high = desk.clock.loop_span()
    assert low == pytest.approx(times("athlete")["foot_contact"])
    assert high == pytest.approx(times("athlete")["foot_plant"])
    desk.clock.set_loop(False)
    assert desk.clock.loop_span() is None


def test_units_and_words():
    assert figure(33.23, "m/s", True) == "74.3 mph" and figure(33.23, "m/s", False) == "33.23 m/s"
    assert figure(-0.04, "m", False) == "−4.0 cm" and figure(0.0254, "m", True) == "1.0 in"
    assert figure(-0.2, "deg", False) == "0°" and figure(None, "deg", False) == "–"
    assert height(1.83, True) == "6 ft 0 in" and height(1.76, False) == "1.76 m"
    row = contrast(clean("wren"), clean("ines")).row("stride_length")
    assert verdict(row, False) == "…"
    assert verdict(replace(row, resolution=1.0, verdict="short"), False) == "less 8.0 %"
    assert [key_of(s) for s in ORDER] == list("1234567890")


def test_rows_at_a_stop_put_the_largest_difference_first(desk):
    rows = rows_at(desk.pair.contrast.rows, "foot_contact", "touch")
    assert "stride_length" in [r.measure.id for r in rows]
    assert rows_at(desk.pair.contrast.rows, "foot_contact", "plant") == []
    assert "stride_length" in [r.measure.id for r in rows_at(desk.pair.contrast.rows, "foot_plant", "plant")]


def test_what_is_said_about_stops():
    said = StopsByHand({"release": 1.0}).put("foot_contact", 0.8, estimated=True).reject("set")
    assert (said.times, said.estimated, said.rejected) == (
        {"release": 1.0, "foot_contact": 0.8},
        {"foot_contact"},
        {"set"},
    )
    again = said.put("foot_contact", 0.9).give_back("release").put("set", 0.1)
    assert again == StopsByHand({"foot_contact": 0.9, "set": 0.1})
