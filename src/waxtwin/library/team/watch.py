"""Hears of what others change, and whether the server answers: one connection of its own, in a thread of its own."""

from __future__ import annotations

import threading
from collections.abc import Callable
from time import monotonic

import psycopg

from waxtwin.library.team.address import Address
from waxtwin.library.team.database import CHANNEL

_LISTENS = 0.25  # s after which it is looked whether to stop
_ASKS = 2.0  # s of silence after which the server is asked whether it is there
_WAITS = 1.0  # s that somebody waits for it to stop
_AGAIN = 1.0  # s between tries to reach a server that is away


class Watch:
    """Calls `changed()` soon after another program's change, `away()` once the server does not answer and `back()`
    once it does again; all from its own thread, and none for what `client` did itself.
    """

    def __init__(
        self, address: Address, client: str, changed: Callable[[], None], away: Callable[[], None],
        back: Callable[[], None],
    ) -> None:  # fmt: skip
        self._address, self._client = address, client
        self._changed, self._away, self._back = changed, away, back
        self._stop, self._doubted = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._run, name="waxtwin team", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Stop listening; a try to reach a server that is away may still end by itself, and tells nobody."""
        self._stop.set()
        self._thread.join(_WAITS)

    def doubt(self) -> None:
        """Somebody else was not answered, whatever this connection says: connect anew, and tell that it is back."""
        self._doubted.set()

    def _run(self) -> None:
        lost = False
        while not self._stop.is_set():
            self._doubted.clear()
            try:
                with psycopg.connect(**self._address.parameters, autocommit=True) as connection:  # type: ignore[arg-type]
                    connection.execute(f"listen {CHANNEL}")
                    if lost and not self._stop.is_set():
                        lost = False
                        self._back()
                        self._changed()  # what was told meanwhile was not heard
                    self._listen(connection)
            except (psycopg.Error, OSError):
                if not lost and not self._stop.is_set():
                    self._away()
            lost = True
            self._stop.wait(_AGAIN)

    def _listen(self, connection: psycopg.Connection) -> None:
        asked = monotonic()
        while not self._stop.is_set() and not self._doubted.is_set():
            heard = [*connection.notifies(timeout=_LISTENS)]
            if any(one.payload != self._client for one in heard):
                self._changed()
            if monotonic() - asked > _ASKS:
                connection.execute("select 1")
                asked = monotonic()
