"""Random sequences of corrections, undo and redo: one checker for what must always hold."""

import shutil

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import DEMO
from waxtwin.core.events import ORDER
from waxtwin.formats.sidecar import read_sidecar

edits = st.lists(
    st.one_of(
        st.tuples(st.just("move"), st.sampled_from(["athlete", "twin"]), st.sampled_from(ORDER), st.floats(0.3, 2.5)),
        st.tuples(st.just("undo")),
        st.tuples(st.just("redo")),
        st.tuples(st.just("hold"), st.sampled_from(ORDER)),
        st.tuples(st.just("back")),
    ),
    max_size=14,
)


@pytest.fixture
def library(tmp_path):
    for stem in ("wren-tollander", "ines-corvane"):
        for suffix in (".csv", ".delivery.json"):
            shutil.copy(DEMO / f"{stem}{suffix}", tmp_path)
    return tmp_path


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(edits)
def test_sidecar_and_desk_always_agree(library, desk_window, monkeypatch, edits):
    from waxtwin.library.delivery import load
    from waxtwin.ui.workshop import Workshop

    # the arithmetic has its own tests; here only what is kept where
    monkeypatch.setattr(Workshop, "_recompute", lambda self: None)
    window = desk_window(demo=False)
    original = {}
    for side, stem in (("athlete", "wren-tollander"), ("twin", "ines-corvane")):
        stored = load(library / f"{stem}.csv")
        window.desk.stored[side] = stored
        original[side] = dict(stored.delivery.events_by_hand)
    for edit in edits:
        match edit:
            case ("move", side, stop, time):
                window.correct(side, stop, time)
            case ("undo",):
                window.undo.undo()
            case ("redo",):
                window.undo.redo()
            case ("hold", stop):
                window.desk.stop = stop
            case ("back",):
                window.give_back()
        for stored in window.desk.stored.values():
            kept = read_sidecar(stored.path.with_name(stored.path.stem + ".delivery.json"))
            assert kept.events == stored.delivery.events_by_hand == stored.sidecar.events
            assert kept.athlete.name and kept.views
    while window.undo.canUndo():
        window.undo.undo()
    for side, stored in window.desk.stored.items():
        assert stored.delivery.events_by_hand == original[side]
