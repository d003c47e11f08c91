"""From two throws to an explained pair, without a window: what is worked out, in which order, and what is let go."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import pytest

from conftest import DEMO
from waxtwin.core.analysis import resolve_steps
from waxtwin.core.contrast import Standards
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import finish, part
from waxtwin.core.track import Track
from waxtwin.library.bands import load_bands
from waxtwin.library.importing import bring
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.model.pair_flow import PairFlow
from waxtwin.ui.model.settings import Settings
from waxtwin.ui.model.topics import Hub, Topic
from waxtwin.ui.shared.school_choice import Schools

ATHLETE, TWIN = "Wren Tollander", "Ines Corvane"


class Queue:
    """Runs work when it is told to; each name once, a newer request replaces the one that waits."""

    def __init__(self) -> None:
        self.waiting = {}

    def start(self, name, work, done, failed, *, undelivered=lambda _: None, over=lambda: None):
        self.waiting.pop(name, None)
        self.waiting[name] = (work, done, failed)

    def cancel(self, name):
        self.waiting.pop(name, None)

    def run(self, *names):
        """Work off what waits, or only some of it."""
        while todo := [name for name in self.waiting if not names or name in names]:
            work, done, failed = self.waiting.pop(todo[0])
            try:
                found = finish(work())
            except WaxTwinError as fault:
                failed(str(fault))
            else:
                done(found)


@pytest.fixture
def flow(library, monkeypatch):
    """A flow on the demo library with its queue, what it told and what it said."""
    monkeypatch.setattr("waxtwin.ui.model.computing.resolve_steps", partial(resolve_steps, count=8))
    monkeypatch.setattr("waxtwin.ui.model.computing._SET_COPIES", 8)
    monkeypatch.setattr("waxtwin.core.borrowed.COPIES", 4)
    desk, queue, said, heard = Desk(), Queue(), [], []
    schools, standards = Schools(desk, Settings(), said.append), Standards(load_bands())
    made = PairFlow(
        desk, queue, lambda: library, standards=lambda: standards, perspective=schools.perspective,
        say=said.append,
    )  # fmt: skip
    made.desk, made.queue, made.said, made.heard, made.library = desk, queue, said, heard, library
    desk.listen(heard.append)
    return made


def key_of(library, name):
    from waxtwin.library.catalogue import entries

    with library.reading() as session:
        return next(entry.id for entry in entries(session) if entry.name == name)


def laid(flow):
    flow.take_pair(key_of(flow.library, ATHLETE), key_of(flow.library, TWIN))
    flow.queue.run()
    return flow.desk.pair


def test_the_clock_runs_over_the_track_that_a_delivery_alone_has_now(flow):
    desk = flow.desk
    flow.take("athlete", key_of(flow.library, ATHLETE))
    flow.queue.run()
    before, stored = desk.clock.span(), desk.pair.stored["athlete"]
    track, first = stored.delivery.track, 48  # frames cut off, as where the clip is cut anew
    cut = Track(track.times[first:], track.points[first:], track.confidence[first:])
    desk.pair.renew({"athlete": replace(stored, delivery=replace(stored.delivery, track=cut))})
    flow.recompute()
    flow.queue.run()
    assert desk.clock.span() == pytest.approx((track.times[first], before[1]), abs=0.01)


def test_figures_come_first_then_margins_then_the_explanation(flow):
    flow.take_pair(key_of(flow.library, ATHLETE), key_of(flow.library, TWIN))
    flow.queue.run("read pair", "figures")
    pair = flow.desk.pair
    assert pair.contrast is not None and not pair.contrast.athlete.resolved and pair.explanation is None
    assert flow.desk.clock.stop == "foot_contact"  # held at landing with the first figures
    flow.queue.run()
    assert pair.contrast.athlete.resolved and pair.contrast.twin.resolved
    assert pair.explanation is not None and pair.explanation.case.contrast is pair.contrast
    assert {side: len(throws) for side, throws in pair.sessions.items()} == {"athlete": 1, "twin": 1}
    order = list(dict.fromkeys(flow.heard))
    assert (
        order.index(Topic.PAIR) < order.index(Topic.FIGURES) < order.index(Topic.TIME) < order.index(Topic.EXPLANATION)
    )
    assert flow.queue.waiting == {}


def test_a_newer_pair_replaces_the_one_under_way(flow):
    first = key_of(flow.library, ATHLETE), key_of(flow.library, TWIN)
    flow.take_pair(*first)
    flow.queue.run("read pair", "figures")
    assert "margins" in flow.queue.waiting
    flow.take_pair(first[1], first[0])
    flow.queue.run("read pair")
    assert set(flow.queue.waiting) == {"figures"}  # nothing of the first goes on
    flow.queue.run()
    assert flow.desk.pair.contrast.athlete.delivery.name == TWIN


def test_what_counts_as_landing_is_worked_out_again_and_others_too(flow):
    pair = laid(flow)
    before, explained = pair.contrast, pair.explanation
    from waxtwin.library.throws import fetch

    pair.set_others({"twin2": fetch(flow.library, key_of(flow.library, "Juno Wexcombe"))}, {})
    flow.queue.run()
    assert pair.other_contrasts["twin2"].twin.delivery.name == "Juno Wexcombe"
    flow.contrast_others()
    assert "others" not in flow.queue.waiting  # known already
    pair.set_landing("plant")
    flow.queue.run()
    assert pair.contrast is not before and pair.contrast.athlete.landing == "plant"
    assert pair.other_contrasts["twin2"].athlete.landing == "plant" and pair.explanation is not explained


def test_several_throws_of_a_session_are_contrasted_together(flow):
    for n in (2, 3):
        finish(bring(flow.library, DEMO / f"wren-tollander-{n}.csv"))
    pair = laid(flow)
    assert len(pair.sessions["athlete"]) == 3 and pair.throws is not None
    assert pair.figures is pair.throws and pair.explanation.case.contrast is pair.throws
    pair.set_whole(False)
    flow.queue.run()
    assert pair.figures is pair.contrast and pair.explanation.case.contrast is pair.contrast


def test_a_fault_leaves_the_desk_and_a_throw_that_is_gone_comes_off_it(flow):
    from waxtwin.library.throws import remove

    pair = laid(flow)
    left = []
    flow.leaving.append(lambda: left.append(pair.kept))
    flow.take("athlete", 999)
    flow.queue.run()
    assert len(flow.said) == 1 and pair.contrast is not None and left == []
    remove(flow.library, [key_of(flow.library, TWIN)])
    flow.reread(-1)
    flow.queue.run()
    assert set(pair.stored) == {"athlete"} and pair.contrast is None and pair.explanation is None


def test_what_is_read_again_late_does_not_replace_another_pair(flow):
    pair = laid(flow)
    flow.reread(-1)
    waiting = flow.queue.waiting.pop("reload")
    flow.take_pair(key_of(flow.library, TWIN), key_of(flow.library, ATHLETE))
    flow.queue.run()
    flow.queue.waiting["reload"] = waiting
    flow.queue.run()
    assert [pair.stored[side].title for side in ("athlete", "twin")] == [TWIN, ATHLETE]


def test_judging_again_costs_no_arithmetic(flow):
    pair = laid(flow)
    case = pair.explanation.case
    flow.judge_again()
    assert pair.explanation.case is case and flow.queue.waiting == {}


def test_listeners_hear_once_after_the_outermost_change_and_can_stop():
    hub: Hub[Topic] = Hub()
    heard, only = [], []
    stop = hub.listen(heard.append)
    hub.listen(only.append, Topic.TIME)
    with hub.changing():
        hub.tell(Topic.PAIR)
        with hub.changing():
            hub.tell(Topic.TIME)
            hub.tell(Topic.TIME)
        assert heard == [] and only == []
    assert heard == [Topic.PAIR, Topic.TIME] and only == [Topic.TIME]
    stop()
    hub.tell(Topic.UNITS)
    assert heard == [Topic.PAIR, Topic.TIME]


def test_impossible_states_are_refused():
    desk = Desk()
    for wrong in (
        lambda: desk.clock.pull("sideways"), lambda: desk.clock.hang("one", "no stop"), lambda: desk.clock.set_rate(0),
        lambda: desk.pair.set_landing("air"), lambda: desk.pair.lay({"nobody": None}),
    ):  # fmt: skip
        with pytest.raises(ValueError, match=r"no such|cannot hang"):
            wrong()
    with pytest.raises(TypeError):
        desk.view.show(colour="red")


def test_parts_of_work_run_within_their_share():
    def work():
        yield 0.0
        yield 1.0
        return "done"

    assert list(part(work(), 0.25, 0.75)) == [0.25, 0.75] and finish(part(work(), 0, 1)) == "done"


def test_two_throws_changed_one_after_the_other_are_both_read_again(flow):
    from waxtwin.library.throws import set_fields

    pair = laid(flow)
    for name, pitch in ((ATHLETE, "slider"), (TWIN, "curve")):
        key = key_of(flow.library, name)
        set_fields(flow.library, key, "Pitch", pitch=pitch)
        flow.reread(key)  # the second request comes before the first was worked off
    flow.queue.run()
    assert [pair.stored[side].sidecar.pitch for side in ("athlete", "twin")] == ["slider", "curve"]
    flow.reread(999)
    assert "reload" not in flow.queue.waiting
