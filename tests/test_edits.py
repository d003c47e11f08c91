"""Random sequences of corrections, undo and redo: one checker for what must always hold."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from waxtwin.core.stops import ORDER

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
    from waxtwin.ui.model.pair_flow import PairFlow

    # the arithmetic has its own tests; here only what is kept where
    monkeypatch.setattr(PairFlow, "recompute", lambda flow: None)
    monkeypatch.setattr(PairFlow, "reread", reread)
    app = desk_window(demo=False)
    app.library.store = library
    monkeypatch.setattr(library, "close", lambda: None)  # the fixture's to close
    library.forget_changes()
    original = {}
    for side, key in (("athlete", 4), ("twin", 1)):
        app.desk.pair.lay({side: fetch(library, key)})
        original[side] = dict(app.desk.pair.stored[side].delivery.by_hand.times)
    for edit in edits:
        match edit:
            case ("move", side, stop, time):
                app.pair.edits.correct(side, stop, time)
            case ("undo",):
                app.library.undo()
            case ("redo",):
                app.library.redo()
            case ("hold", stop):
                app.desk.clock.stop = stop
            case ("back",):
                app.pair.edits.give_back()
        for stored in app.desk.pair.stored.values():
            kept = fetch(library, stored.key)
            assert kept.delivery.by_hand.times == stored.delivery.by_hand.times == stored.sidecar.events
            assert kept.title and kept.clips
    while app.library.undo_label():
        app.library.undo()
    for side, stored in app.desk.pair.stored.items():
        assert stored.delivery.by_hand.times == original[side]
        assert fetch(library, stored.key).delivery.by_hand.times == original[side]


def reread(flow, key):
    """What the reload job does, at once."""
    from waxtwin.library.throws import fetch

    pair, library = flow._desk.pair, flow._store()
    pair.renew({side: fetch(library, lying.key) for side, lying in pair.stored.items()})
