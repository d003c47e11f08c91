"""What the screens are told when something changed: typed topics, told once a change is done. Knows no Qt."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from enum import Enum, auto
from typing import Generic, TypeVar

T = TypeVar("T", bound=Enum)


class Topic(Enum):
    """What changed on the desk."""

    PAIR = auto()  # other deliveries
    FACTS = auto()  # what is known about the same deliveries
    FIGURES = auto()  # results worked out again
    THROWS = auto()  # results over whole sessions
    EXPLANATION = auto()  # where the gap comes from
    KEPT = auto()  # the kept pair, with its notes
    OTHERS = auto()  # further twins, or their results
    REPORT = auto()  # what the athlete is to see
    LANDING = auto()  # which stop counts as landing
    TIME = auto()
    ALIGNMENT = auto()
    PLAY = auto()
    ALONE = auto()  # which side moves by itself
    DISPLAY = auto()
    CLOSEUP = auto()  # how near the stages are looked at, how light their clips
    SELECTION = auto()
    CHALK = auto()  # marks that somebody made, and the tool in hand
    READ_OFF = auto()  # which point of the body is read off
    UNITS = auto()


class Hub(Generic[T]):
    """Listeners, told a topic after every real change; within `changing` once the outermost change is done."""

    def __init__(self) -> None:
        self._listeners: list[tuple[Callable[[T], object], frozenset[T]]] = []
        self._depth = 0
        self._waiting: dict[T, None] = {}

    def listen(self, listener: Callable[[T], object], *topics: T) -> Callable[[], None]:
        """Call `listener(topic)` after every change, or only after those of some topics; returns what stops it."""
        entry = (listener, frozenset(topics))
        self._listeners.append(entry)

        def stop() -> None:
            if entry in self._listeners:
                self._listeners.remove(entry)

        return stop

    def tell(self, topic: T) -> None:
        """Tell every listener, at once or when the change under way is done."""
        if self._depth:
            self._waiting[topic] = None
            return
        for entry in list(self._listeners):
            listener, topics = entry
            if (not topics or topic in topics) and entry in self._listeners:
                listener(topic)

    @contextmanager
    def changing(self) -> Iterator[None]:
        """Several changes that are told together, each topic once, in the order in which they came first."""
        self._depth += 1
        try:
            yield
        finally:
            self._depth -= 1
            while not self._depth and self._waiting:
                topic = next(iter(self._waiting))
                del self._waiting[topic]
                self.tell(topic)
