"""Whether time moves too quickly for shadows to be seen."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QElapsedTimer, QObject, QTimer

_QUICK_MS = 120  # two steps within it are quick: a key that is held, or playing


class Haste:
    """On while steps follow each other quickly; `rested()` is called once they have stopped."""

    def __init__(self, owner: QObject, rested: Callable[[], object]) -> None:
        self._rested = rested
        self._since = QElapsedTimer()
        self._rest = QTimer(owner)  # goes with whatever is to be painted
        self._rest.setSingleShot(True)
        self._rest.setInterval(_QUICK_MS)
        self._rest.timeout.connect(self._end)
        self.is_on = False
        self._before = self._now = 0.0

    def stride(self, time: float) -> float:
        """How far (s) the last step went, if it went to this instant."""
        return self._now - self._before if time == self._now else 0.0

    def step(self, time: float) -> None:
        """Time has moved to an instant (s)."""
        self._before, self._now = self._now, time
        self.is_on = self._since.isValid() and self._since.elapsed() < _QUICK_MS
        self._since.start()
        if self.is_on:
            self._rest.start()

    def _end(self) -> None:
        self.is_on = False
        self._rested()
