"""Stops that somebody vouches for or rejects, with their history; bands edited; measures explained."""

import json

import pytest
from PySide6.QtCore import Qt

from conftest import delivery_of, idle
from waxtwin.core.analysis import analyse
from waxtwin.core.contrast import DIRECTIONS
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.measures import MEASURES
from waxtwin.core.measures.registry import ANGLES, spelled_out
from waxtwin.core.stops import ACCEPTED, BY_HAND, DETECTED, StopsByHand
from waxtwin.library.bands import load_book, own_place
from waxtwin.library.throws import fetch, set_events, stop_history
from waxtwin.ui.model.display import VIEWS
from waxtwin.ui.shared.posed_figure import seen_from


# core and library ---------------------------------------------------------------------------------------------------
def test_an_accepted_stop_keeps_its_interval_and_a_moved_one_does_not():
    from dataclasses import replace

    delivery = delivery_of("wren", noise=0.003, seed=4)
    found = analyse(delivery).events["foot_contact"]
    kept = analyse(replace(delivery, by_hand=StopsByHand({"foot_contact": found.time}))).events["foot_contact"]
    assert (kept.source, kept.interval, kept.confidence) == (ACCEPTED, found.interval, 1.0)
    moved = analyse(replace(delivery, by_hand=StopsByHand({"foot_contact": found.time + 0.02}))).events["foot_contact"]
    assert moved.source == BY_HAND and moved.interval == pytest.approx(500 / 240, rel=1e-3)


def test_what_hangs_on_a_rejected_stop_is_not_available():
    from dataclasses import replace

    analysis = analyse(replace(delivery_of("wren"), by_hand=StopsByHand(rejected=frozenset({"hand_break"}))))
    assert "hand_break" not in analysis.events
    assert "not known" in analysis.measures["break_to_landing"].reason
    assert analysis.measures["stride_length"].available
    assert not any("could not be found" in words for words in analysis.warnings)


def test_the_history_of_a_stop_is_its_own(library):
    set_events(library, {1: StopsByHand({"release": 2.0})}, "Move “release”")
    set_events(library, {1: StopsByHand({"release": 2.0}).reject("hand_break")}, "Reject “hands part”")
    set_events(library, {2: StopsByHand({"release": 1.9})}, "Move “release” of another")
    assert [words for _, words, _ in stop_history(library, 1, "release")] == ["Move “release”"]
    assert [words for _, words, _ in stop_history(library, 1, "hand_break")] == ["Reject “hands part”"]
    assert fetch(library, 1).delivery.by_hand.rejected == {"hand_break"}
    library.undo()
    library.undo()
    assert fetch(library, 1).delivery.by_hand.rejected == frozenset()
    assert [undone for _, _, undone in stop_history(library, 1, "hand_break")] == [True]


# in the window ------------------------------------------------------------------------------------------------------
def test_a_stop_is_accepted_rejected_and_given_back_in_its_panel(qtbot, desk_window):
    app = desk_window()
    app.desk.clock.hold("foot_contact")
    app.pair.edits.show_panel()
    panel = app.pair.edits.panel

    def press(side, key, source):
        panel.buttons[side, key].click()

        def done():
            event = app.desk.pair.analysis(side).events.get(panel.stop)
            assert (event and event.source) == source and not app.jobs.busy

        qtbot.waitUntil(lambda: app.desk.pair.analysis(side) is not None, timeout=30000)
        qtbot.waitUntil(lambda: _quietly(done), timeout=30000)

    qtbot.keyClick(panel.picker, Qt.Key.Key_Return)  # choosing a stop accepts none
    assert "proposed by the program" in panel.facts["athlete"].text() and not app.jobs.busy
    press("athlete", "accept", ACCEPTED)
    assert "accepted" in panel.facts["athlete"].text() and "Accept" in panel.history["athlete"].text()
    assert panel.history["twin"].text() == "nothing yet"
    press("athlete", "reject", None)
    assert "as you said" in panel.facts["athlete"].text()
    assert app.desk.pair.contrast.row("stride_length").athlete is None
    press("athlete", "back", DETECTED)
    assert app.desk.pair.contrast.row("stride_length").athlete is not None
    app.actions["undo"].trigger()
    qtbot.waitUntil(lambda: "foot_contact" not in app.desk.pair.analysis("athlete").events, timeout=30000)


def _quietly(check):
    try:
        check()
    except (AssertionError, AttributeError):
        return False
    return True


def test_bands_are_edited_kept_and_shown(qtbot, desk_window):
    app = desk_window()
    app.context.references.edit_bands()
    dialog = app.context.references.dialog
    dialog.copy_as("Lanterns, under eighteen")
    dialog.add("release_height")
    low, high, held, source, _ = dialog._rows["release_height"]
    low.setValue(99.0)
    high.setValue(90.0)
    dialog.keep()
    assert dialog.isVisible() and "ends before it begins" in dialog.fault.text() and not own_place().exists()
    low.setValue(85.0)
    high.setValue(99.0)
    held.setCurrentIndex(held.findData("more"))
    source.setText("own throws, <b>autumn</b>; to verify")
    dialog.keep()
    qtbot.waitUntil(
        lambda: app.desk.pair.contrast is not None and app.desk.pair.contrast.row("release_height").band is not None
    )
    band = app.desk.pair.contrast.row("release_height").band
    assert (band.low, band.high, band.direction, band.population) == (85.0, 99.0, "more", "Lanterns, under eighteen")
    assert DIRECTIONS["more"] in band.told() and "<b>autumn</b>" in band.told()
    app.go_to("Contrast")
    assert "Lanterns, under eighteen (to verify)" in app.contrast._legend.text()
    assert set(load_book(own_place())) == {"adult", "own1"}
    idle(qtbot, app)


def test_a_damaged_bands_file_is_told_and_the_shipped_ones_serve(qtbot, desk_window):
    own_place().parent.mkdir(parents=True, exist_ok=True)
    own_place().write_text('{"populations": {"x": {"label": "", "source": "", "bands": {"no_such": {}}}}}')
    app = desk_window()
    assert "no measure named no_such" in app.notice.text and "shipped bands" in app.notice.text
    assert app.desk.pair.contrast.row("stride_length").band.low == 78


def test_bands_of_an_earlier_version_are_read_and_bad_ones_refused(tmp_path):
    path = tmp_path / "bands.json"
    entry = {"low": 1, "high": 2}
    path.write_text(json.dumps({"population": "old", "source": "s", "bands": {"stride_length": entry}}))
    assert load_book(path)["adult"].bands["stride_length"].population == "old"
    for wrong, words in (({**entry, "direction": "up"}, "direction"), ({"low": 2, "high": 1}, "ends before")):
        document = {"populations": {"a": {"label": "a", "source": "s", "bands": {"stride_length": wrong}}}}
        path.write_text(json.dumps(document))
        with pytest.raises(WaxTwinError, match=words):
            load_book(path)


def test_a_measure_is_explained_with_both_gauges_and_follows_the_choice(desk_window):
    app = desk_window()
    app.context.references.explain_measure()
    card = app.context.references.card
    assert "No measure is chosen" in card.name.text()
    pictures = set()
    for name in ("landing_trunk_tilt", "landing_separation", "hand_stall"):
        app.desk.view.select(name)
        assert card.name.text() == MEASURES[name].label and card.said["Worked out"].text()
        pictures.add(bytes(card.posed["athlete"].grab().toImage().constBits()))
    assert len(pictures) == 3
    assert "against" in card.stand.text() or "Not available" in card.stand.text()


@pytest.mark.parametrize("name", sorted(MEASURES))
def test_every_measure_says_how_it_is_worked_out(name):
    item = MEASURES[name]
    assert item.formula and item.text and item.sign
    assert len(spelled_out(item.formula)) >= len(item.formula)
    assert seen_from(item) in VIEWS
    if item.formula in ANGLES:
        assert "=" in spelled_out(item.formula)
