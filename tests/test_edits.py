"""Random sequences of corrections, undo and redo: one checker for what must always hold."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from waxtwin.core.events import ORDER

edits = st.lists(
    st.one_of(
        st.tuples(st.just("move"), st.sampled_from(["athlete", "twin"]), st.sampled_from(ORDER), st.floats(0.3, 2.5)),
        st.tuples(st.just("undo")),
        st.tuples(st.just("redo")),
        st.tuples(st.just("hold"), st.sampled_from(ORDER)),
        st.tuples(st.just("back")),
    ),
    max_size=8,
)


@settings(max_examples=4, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(edits)
def test_library_and_desk_always_agree(library, desk_window, monkeypatch, edits):
    from waxtwin.library.throws import fetch
    from waxtwin.ui.shell.app import App

    # the arithmetic has its own tests; here only what is kept where
    monkeypatch.setattr(App, "_recompute", lambda self: None)
    monkeypatch.setattr(App, "_reload", reread)
    window = desk_window(demo=False)
    window.librarian.library = library
    monkeypatch.setattr(library, "close", lambda: None)  # the fixture's to close
    library.forget_changes()
    original = {}
    for side, key in (("athlete", 4), ("twin", 1)):
        window.desk.stored[side] = fetch(library, key)
        original[side] = dict(window.desk.stored[side].delivery.events_by_hand)
    for edit in edits:
        match edit:
            case ("move", side, stop, time):
                window.corrector.correct(side, stop, time)
            case ("undo",):
                window.librarian.undo()
            case ("redo",):
                window.librarian.redo()
            case ("hold", stop):
                window.desk.stop = stop
            case ("back",):
                window.corrector.give_back()
        for stored in window.desk.stored.values():
            kept = fetch(library, stored.key)
            assert kept.delivery.events_by_hand == stored.delivery.events_by_hand == stored.sidecar.events
            assert kept.title and kept.clips
    while window.librarian.undo_label():
        window.librarian.undo()
    for side, stored in window.desk.stored.items():
        assert stored.delivery.events_by_hand == original[side]
        assert fetch(library, stored.key).delivery.events_by_hand == original[side]


def reread(window, key):
    """What the reload job does, at once."""
    from waxtwin.library.throws import fetch

    window.desk.stored.update({s: fetch(window.librarian.library, d.key) for s, d in window.desk.stored.items()})
