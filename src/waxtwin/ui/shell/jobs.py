"""Long work off the interface thread: a generator whose steps are progress and places to stop.

What somebody waits for at once has threads of its own, so that it is not kept waiting by what takes minutes.

Inputs are gathered before, results applied after, both on the interface thread. A newer job of the same name
cancels the older one, whose result is then never delivered.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import Event
from time import monotonic
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QCoreApplication, QObject, Signal

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps
from waxtwin.ui.model.messages import Fault
from waxtwin.ui.model.work import drop, nothing

T = TypeVar("T")

LONG = frozenset({"landmarks", "landmarks beside", "people", "bursts", "steady", "follow", "space", "import", "export",
                  "live", "live clip", "profiles", "log", "due", "film", "take in", "small pictures",
                  "queued work"})  # fmt: skip


def _is_long(name: str) -> bool:
    return name in LONG or name.startswith("write ")


@dataclass(frozen=True)
class _Result(Generic[T]):
    value: T


class _Ticket(Generic[T]):
    """A job under way: where its end goes, whichever it is."""

    def __init__(
        self, done: Callable[[T], object], failed: Callable[[str], object], undelivered: Callable[[T], object],
        over: Callable[[], object],
    ) -> None:  # fmt: skip
        self.stop = Event()
        self.done, self.failed, self.undelivered, self.over = done, failed, undelivered, over
        self.first: tuple[float, float] | None = None
        self.share = 0.0

    def run(self, work: Callable[[], Steps[T]], tell: Callable[[float], object]) -> _Result[T] | Exception | None:
        """Work until the result, a fault, or until it is stopped (None)."""
        try:
            steps = work()
            while not self.stop.is_set():
                try:
                    share = next(steps)
                except StopIteration as end:
                    return _Result(end.value)
                tell(share)
            steps.close()
        except Exception as fault:  # noqa: BLE001 - handed on: expected ones are told, ours reach the user and the log
            return fault
        return None

    def settle(self, end: _Result[T] | Exception | None, crashed: Callable[[Exception], object]) -> None:
        """Hand over how it ended; of a job that was stopped, only what has to be let go."""
        if isinstance(end, _Result):
            (self.undelivered if self.stop.is_set() else self.done)(end.value)
        elif end is None or self.stop.is_set():
            return
        elif isinstance(end, WaxTwinError):
            self.failed(Fault(end))
        else:  # a fault of ours: it goes where every such fault goes, and the window lives on
            crashed(end)


class Jobs(QObject):
    """Runs named jobs; see `Runner`. `progressed(name, share)`, `ended(name)`."""

    progressed = Signal(str, float)
    ended = Signal(str)
    _stepped = Signal(str, object, float)
    _arrived = Signal(str, object, object)

    def __init__(self, parent: QObject | None = None, crashed: Callable[[Exception], object] | None = None) -> None:
        """`crashed` is handed every fault of the program's own; without it they go where uncaught ones do."""
        super().__init__(parent)
        self._crashed = crashed or (lambda fault: sys.excepthook(type(fault), fault, fault.__traceback__))
        self._pool = ThreadPoolExecutor(2, thread_name_prefix="waxtwin-job")
        self._long = ThreadPoolExecutor(2, thread_name_prefix="waxtwin-long")
        self._tickets: dict[str, _Ticket[Any]] = {}
        self._closed = False
        self._stepped.connect(self._show)
        self._arrived.connect(self._deliver)

    def start(
        self,
        name: str,
        work: Callable[[], Steps[T]],
        done: Callable[[T], object],
        failed: Callable[[str], object],
        *,
        undelivered: Callable[[T], object] = drop,
        over: Callable[[], object] = nothing,
    ) -> None:
        """Run `work()`: its one result goes to `done`, an expected fault's sentence to `failed`, a result that comes
        after the job was cancelled to `undelivered`. `over` is called once however it ends. Nothing is
        begun once this is closed.
        """
        if self._closed:  # by something that had rested when the window went
            return
        self.cancel(name)
        ticket = _Ticket(done, failed, undelivered, over)
        self._tickets[name] = ticket
        pool = self._long if _is_long(name) else self._pool
        pool.submit(self._run, name, work, ticket)

    def cancel(self, name: str) -> None:
        """Stop a job at its next step; nothing of it is delivered."""
        ticket = self._tickets.pop(name, None)
        if ticket is not None:
            ticket.stop.set()
            self.ended.emit(name)
            ticket.over()

    def cancel_all(self) -> None:
        """Stop every job."""
        for name in list(self._tickets):
            self.cancel(name)

    def remaining(self, name: str, share: float) -> float | None:
        """Seconds that a job will still take at its pace so far; None while that cannot be told."""
        ticket = self._tickets.get(name)
        if ticket is None or share <= 0:
            return None
        if ticket.first is None:
            ticket.first = (monotonic(), share)
        began, from_share = ticket.first
        spent, done = monotonic() - began, share - from_share
        return spent / done * (1 - share) if spent > 1.0 and done > 0 else None

    def under_way(self) -> list[tuple[str, float, float | None]]:
        """Long work by name, how far it is, and how many seconds it still takes."""
        return [
            (name, ticket.share, self.remaining(name, ticket.share))
            for name, ticket in self._tickets.items() if _is_long(name)
        ]  # fmt: skip

    @property
    def busy(self) -> bool:
        """Whether any job is under way."""
        return bool(self._tickets)

    def close(self) -> None:
        """Cancel everything, wait for the threads, and let go of results that still came."""
        self._closed = True
        self.cancel_all()
        for pool in (self._pool, self._long):
            pool.shutdown(wait=True, cancel_futures=True)
        QCoreApplication.sendPostedEvents(self)

    def _run(self, name: str, work: Callable[[], Steps[T]], ticket: _Ticket[T]) -> None:
        end = ticket.run(work, lambda share: self._stepped.emit(name, ticket, share))
        self._arrived.emit(name, ticket, end)

    def _show(self, name: str, ticket: object, share: float) -> None:
        if isinstance(ticket, _Ticket) and self._tickets.get(name) is ticket:
            ticket.share = share
            self.progressed.emit(name, share)

    def _deliver(self, name: str, ticket: _Ticket[T], end: _Result[T] | Exception | None) -> None:
        try:
            ticket.settle(end, self._crashed)
        finally:  # also where the slot that took the result failed
            if self._tickets.get(name) is ticket:
                del self._tickets[name]
                self.ended.emit(name)
                ticket.over()
