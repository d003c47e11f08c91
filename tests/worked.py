"""What tests work out over and over is worked out once in this process: the same input gives the same figures."""

from __future__ import annotations

import hashlib
import pickle
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace

import pytest

from waxtwin.core import analysis as core
from waxtwin.core import motion
from waxtwin.core.analysis import Analysis
from waxtwin.core.borrowed import Borrowed, borrow
from waxtwin.core.contrast import analyse_alike
from waxtwin.core.measures import MEASURES
from waxtwin.core.motion import Motion
from waxtwin.core.steps import finish
from waxtwin.report.pdf import pdf

FEW_COPIES = 12
_KEPT = 150  # of a kind: motions are large


def fingerprint(*parts: object) -> bytes:
    """What figures hang on, in short."""
    arrays: list[pickle.PickleBuffer] = []
    digest = hashlib.blake2b(pickle.dumps(parts, protocol=5, buffer_callback=arrays.append))
    for one in arrays:
        digest.update(one.raw())
    return digest.digest()


class Kept:
    """Results by what they hang on, of late."""

    def __init__(self) -> None:
        self._found: OrderedDict[bytes, object] = OrderedDict()

    def of(self, make: Callable[[], object], *parts: object):
        """What `make` gives, made once for the same parts."""
        key = fingerprint(*parts)
        if key not in self._found:
            self._found[key] = make()
            while len(self._found) > _KEPT:
                self._found.popitem(last=False)
        self._found.move_to_end(key)
        return self._found[key]


class Worked:
    """Stands for the functions of the same names; `anew` has them work again."""

    def __init__(self) -> None:
        self._prepared, self._analysed, self._resolved = Kept(), Kept(), Kept()
        self._alike, self._small, self._pages = Kept(), Kept(), Kept()
        self._borrowed: dict[object, Borrowed] = {}
        self._held: dict[int, Analysis] = {}  # so that no other takes its number
        self._motions: OrderedDict[int, tuple[Motion, bytes]] = OrderedDict()
        self._anew = False
        self._real = core.prepared, core.analyse_prepared, core.resolve_steps

    @contextmanager
    def anew(self) -> Iterator[None]:
        """Nothing is taken from what was worked out before."""
        self._anew = True
        yield
        self._anew = False

    # what every test may share -------------------------------------------------------------------------------------
    def prepared(self, delivery):
        """`prepared`, once for the same delivery; a motion keeps the noise that its copies are drawn from."""
        if self._anew:
            return self._real[0](delivery)
        moved, notes = self._prepared.of(lambda: self._real[0](delivery), delivery, motion._BANK)
        return moved, [*notes]

    def analyse_prepared(self, delivery, moved, notes, *, landing):
        """`analyse_prepared`, once for the same delivery, smoothing and measures."""
        if self._anew:
            return self._real[1](delivery, moved, notes, landing=landing)
        found = self._analysed.of(
            lambda: self._real[1](delivery, moved, notes, landing=landing),
            delivery, self._motion(moved), moved.noise, [*notes], landing,
            [*map(id, MEASURES.values())], motion._BANK,
        )  # fmt: skip
        return replace(found, delivery=delivery)

    def _motion(self, moved):
        """What a motion's figures hang on; it is never written into, so that once is enough."""
        if id(moved) not in self._motions:
            self._motions[id(moved)] = moved, fingerprint(moved.points, moved.raw, moved.cutoffs, moved.height)
            while len(self._motions) > _KEPT // 4:
                self._motions.popitem(last=False)
        return self._motions[id(moved)][1]

    def resolve_steps(self, analysis, count=core.COPIES, seed=0):
        """`resolve_steps`, once for the same analysis, copies and seed."""
        if self._anew:
            return (yield from self._real[2](analysis, count, seed))
        moved = analysis.motion
        found = self._resolved.of(
            lambda: finish(self._real[2](analysis, count, seed)),
            analysis.delivery, self._motion(moved), moved.noise, moved.sight, analysis.events,
            analysis.measures, analysis.landing, count, seed, motion._BANK,
        )  # fmt: skip
        yield 1.0
        return replace(analysis, measures=found.measures, copies=found.copies, resolved=True)

    @contextmanager
    def shared(self) -> Iterator[None]:
        """Stand in for the core's own functions."""
        with pytest.MonkeyPatch.context() as patch:
            for place in ("core.analysis", "core.contrast"):
                patch.setattr(f"waxtwin.{place}.prepared", self.prepared)
                patch.setattr(f"waxtwin.{place}.analyse_prepared", self.analyse_prepared)
            for place in ("core.analysis", "ui.model.computing"):
                patch.setattr(f"waxtwin.{place}.resolve_steps", self.resolve_steps)
            # figures over time are asked of every throw of an athlete
            patch.setattr("waxtwin.library.log.resolve", lambda analysis: finish(self.few(analysis)))
            yield

    # what windows may share ----------------------------------------------------------------------------------------
    def few(self, analysis, count=FEW_COPIES):
        """`resolve_steps` with few copies: how a window behaves does not hang on how many there are."""
        return self.resolve_steps(analysis, min(count, FEW_COPIES))

    def alike(self, deliveries, *, landing="touch"):
        """`analyse_alike`, once for the same deliveries."""
        return [
            *self._alike.of(lambda: analyse_alike(deliveries, landing=landing), [*deliveries], landing, [*MEASURES])
        ]

    def small(self, stored):
        """`small_picture`, once for the same throw with the same clips; handed out as a copy."""
        from waxtwin.ui.shared.small_picture import small_picture

        clips = [(clip.path.name, clip.path.stat().st_size) for clip in stored.clips]
        found = self._small.of(lambda: small_picture(stored), stored.delivery, clips)
        return found and found.copy()

    def pdf(self, page):
        """`pdf`, once for the same page."""
        return self._pages.of(lambda: pdf(page), page)

    def borrowed(self, athlete, twin):
        """`borrow`, once for the same throws."""
        yield 0.0
        key = (tuple(map(id, athlete)), tuple(map(id, twin)))
        if key not in self._borrowed:
            for one in (*athlete, *twin):
                self._held[id(one)] = one
            self._borrowed[key] = finish(borrow(athlete, twin))
        return self._borrowed[key]


WORKED = Worked()
