"""Long work behind the window: every end there is, each delivered once or let go."""

from __future__ import annotations

import threading

import pytest

from waxtwin.core.errors import WaxTwinError
from waxtwin.ui.shell.jobs import Jobs


class Ends:
    """Where a job's end arrives."""

    def __init__(self) -> None:
        self.done, self.failed, self.dropped, self.crashed, self.over = [], [], [], [], 0

    def start(self, jobs, name, work):
        jobs.start(name, work, self.done.append, self.failed.append, undelivered=self.dropped.append, over=self._over)

    def _over(self):
        self.over += 1


@pytest.fixture
def ends():
    return Ends()


@pytest.fixture
def jobs(qtbot, ends):
    made = Jobs(None, ends.crashed.append)
    yield made
    made.close()


def gated(gate, result="late"):
    """Work that waits after its first step."""

    def work():
        yield 0.5
        gate.wait(5)
        return result

    return work


def test_a_result_is_delivered_once_with_its_progress(jobs, ends, qtbot):
    seen = []
    jobs.progressed.connect(lambda name, share: seen.append((name, share)))

    def work():
        yield 0.25
        yield 0.5
        return ["found"]

    ends.start(jobs, "look", work)
    qtbot.waitUntil(lambda: ends.over == 1)
    assert ends.done == [["found"]] and seen == [("look", 0.25), ("look", 0.5)]
    assert not (ends.failed or ends.dropped or ends.crashed) and not jobs.busy


@pytest.mark.parametrize(
    ("fault", "where"), [(WaxTwinError("a.csv: it is empty"), "failed"), (KeyError("x"), "crashed")]
)
@pytest.mark.parametrize("at_once", [True, False])
def test_a_fault_goes_where_it_belongs(jobs, ends, qtbot, fault, where, at_once):
    def begin():
        raise fault

    def later():
        yield 0.1
        raise fault

    ends.start(jobs, "bad", begin if at_once else later)
    qtbot.waitUntil(lambda: ends.over == 1)
    told = getattr(ends, where)
    assert len(told) == 1 and str(fault) in str(told[0]) and not ends.done and not jobs.busy


def test_a_cancelled_job_delivers_nothing_and_what_it_made_is_let_go(jobs, ends, qtbot):
    gate = threading.Event()
    ends.start(jobs, "slow", gated(gate))
    qtbot.wait(30)
    jobs.cancel("slow")
    assert ends.over == 1 and not jobs.busy
    gate.set()
    qtbot.waitUntil(lambda: ends.dropped == ["late"])
    assert ends.done == [] and ends.failed == [] and ends.over == 1


def test_a_newer_job_of_the_name_replaces_the_older(jobs, ends, qtbot):
    gate = threading.Event()
    ends.start(jobs, "figures", gated(gate, "old"))
    ends.start(jobs, "figures", gated(gate, "new"))
    gate.set()
    qtbot.waitUntil(lambda: ends.over == 2 and ends.done == ["new"])
    assert ends.done == ["new"] and "old" not in ends.done


def test_a_result_under_way_when_the_window_closes_is_let_go(qtbot, ends):
    gate = threading.Event()
    jobs = Jobs()
    ends.start(jobs, "open", gated(gate, "library"))
    qtbot.wait(30)
    threading.Timer(0.1, gate.set).start()
    jobs.close()
    assert ends.dropped == ["library"] and ends.done == []
    ends.start(jobs, "late", gated(gate, "preview"))  # by what had rested meanwhile
    assert not jobs.busy


def test_a_job_may_start_the_next_of_its_name(jobs, ends, qtbot):
    def once():
        yield 0.5
        return 1

    jobs.start("chain", once, lambda n: ends.start(jobs, "chain", once), ends.failed.append)
    qtbot.waitUntil(lambda: ends.over == 1)
    assert ends.done == [1] and not jobs.busy
