"""Long work off the interface thread: a generator whose yields are progress and places to stop.

What somebody waits for at once has threads of its own, so that it is not kept waiting by what takes minutes.

Inputs are gathered before, results applied after, both on the interface thread. A newer job of the same name
cancels the older one, whose result is then never delivered.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import Event
from time import monotonic

from PySide6.QtCore import QObject, Signal

from waxtwin.core.errors import WaxTwinError
from waxtwin.ui.model.messages import Fault

Steps = Iterator[object]


LONG = frozenset({"landmarks", "people", "bursts", "steady", "follow", "space", "import", "export", "live", "live clip",
                  "profiles", "log"})  # fmt: skip


@dataclass(frozen=True)
class _Crash:
    fault: Exception


class _Ticket:
    def __init__(self, done: Callable[[object], None], failed: Callable[[str], None]) -> None:
        self.stop = Event()
        self.done, self.failed = done, failed
        self.first: tuple[float, float] | None = None


class Jobs(QObject):
    """Runs named jobs. A generator yields shares (float) and, when it has something to deliver, any other object."""

    progressed = Signal(str, float)
    ended = Signal(str)
    _arrived = Signal(str, object, object)

    def __init__(self, parent: QObject | None = None, crashed: Callable[[Exception], object] | None = None) -> None:
        """`crashed` is handed every fault of the program's own; without it they go where uncaught ones do."""
        super().__init__(parent)
        self._crashed = crashed or (lambda fault: sys.excepthook(type(fault), fault, fault.__traceback__))
        self._pool = ThreadPoolExecutor(2, thread_name_prefix="waxtwin-job")
        self._long = ThreadPoolExecutor(2, thread_name_prefix="waxtwin-long")
        self._tickets: dict[str, _Ticket] = {}
        self._arrived.connect(self._deliver)

    def start(
        self, name: str, work: Callable[[], Steps], done: Callable[[object], None], failed: Callable[[str], None]
    ) -> None:
        """Run `work()`; every delivered object goes to `done`, an expected fault's sentence to `failed`."""
        self.cancel(name)
        ticket = _Ticket(done, failed)
        self._tickets[name] = ticket
        (self._long if name in LONG or name.startswith("write ") else self._pool).submit(self._run, name, work, ticket)

    def cancel(self, name: str) -> None:
        """Stop a job at its next yield; nothing more of it is delivered."""
        ticket = self._tickets.pop(name, None)
        if ticket is not None:
            ticket.stop.set()
            self.ended.emit(name)

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

    @property
    def busy(self) -> bool:
        """Whether any job is under way."""
        return bool(self._tickets)

    def close(self) -> None:
        """Cancel everything and wait for the threads."""
        self.cancel_all()
        for pool in (self._pool, self._long):
            pool.shutdown(wait=True, cancel_futures=True)

    def _run(self, name: str, work: Callable[[], Steps], ticket: _Ticket) -> None:
        try:
            for step in work():
                if ticket.stop.is_set():
                    return
                self._arrived.emit(name, ticket, step)
        except WaxTwinError as fault:
            self._arrived.emit(name, ticket, fault)
        except Exception as fault:
            self._arrived.emit(name, ticket, _Crash(fault))
        finally:
            if not ticket.stop.is_set():
                self._arrived.emit(name, ticket, None)

    def _deliver(self, name: str, ticket: object, step: object) -> None:
        assert isinstance(ticket, _Ticket)
        if ticket.stop.is_set():
            return
        if step is None:
            self._tickets.pop(name, None)
            self.ended.emit(name)
        elif isinstance(step, WaxTwinError):
            ticket.failed(Fault(step))
        elif isinstance(step, _Crash):  # a fault of ours: it goes where every such fault goes, and the window lives on
            self._crashed(step.fault)
        elif isinstance(step, float):
            self.progressed.emit(name, step)
        else:
            ticket.done(step)
