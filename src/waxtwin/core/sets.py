"""Several throws of one athlete: what they share, how they scatter, which one is typical and which the odd one out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures import MEASURES, Value

_ODD_SIZE = 2.0  # how far out, in the set's own units, and ...
_ODD_RATIO = 2.0  # ... against the usual throw of the set
_LEAST_FOR_ODD = 3  # of two throws, neither is the odd one


@dataclass(frozen=True, slots=True)
class Spread:
    """One measure over the throws of a set.

    `figures` per throw (None where not available), `mean`, `sd` the standard deviation between throws (None when
    fewer than two show it), `error` the standard deviation of the mean: throw-to-throw spread over the root of their
    number, widened by Student's factor for few throws, together with what one clip resolves (which more throws from
    the same camera do not take away). `error` is None until every throw is resolved.
    """

    figures: tuple[float | None, ...]
    mean: float
    sd: float | None
    error: float | None

    @property
    def seen(self) -> tuple[float, ...]:
        """The figures of the throws that show it."""
        return tuple(figure for figure in self.figures if figure is not None)

    @property
    def count(self) -> int:
        """How many throws show it."""
        return len(self.seen)


@dataclass(frozen=True)
class ThrowSet:
    """Throws of one athlete, analysed with one smoothing and one landing. At least one. Raises ValueError for none."""

    throws: tuple[Analysis, ...]

    def __post_init__(self) -> None:
        if not self.throws:
            raise ValueError("a set needs at least one throw")

    @property
    def resolved(self) -> bool:
        """Whether every throw's copies have been worked through."""
        return all(throw.resolved for throw in self.throws)

    @cached_property
    def spreads(self) -> Mapping[str, Spread]:
        """Every measure that at least one throw shows."""
        found = {}
        for name in MEASURES:
            values = [throw.measures[name] for throw in self.throws]
            if any(value.value is not None for value in values):
                found[name] = _spread(values)
        return found

    @property
    def typical(self) -> int:
        """Which throw is nearest to the middle of the set."""
        return int(np.argmin(self._distances))

    @property
    def odd(self) -> int | None:
        """Which throw stands apart from all others, if one does."""
        far = self._distances
        if far.size < _LEAST_FOR_ODD:
            return None
        i = int(np.argmax(far))
        return i if far[i] > _ODD_SIZE and far[i] > _ODD_RATIO * np.median(np.delete(far, i)) else None

    def odd_in(self, count: int = 3) -> tuple[str, ...]:
        """The measures in which the odd throw stands furthest from the others, the furthest first."""
        odd = self.odd
        if odd is None:
            return ()
        names, away = self._away
        return tuple(names[j] for j in np.argsort(-np.abs(away[odd]))[:count])

    @cached_property
    def _away(self) -> tuple[list[str], np.ndarray]:
        """Measures that all throws show, and how far each throw is from their median, `(throws, measures)`.

        In units of what the set can tell apart: the usual distance from the median (scaled to a standard deviation)
        together with what one clip resolves.
        """
        names = [name for name, spread in self.spreads.items() if spread.count == len(self.throws)]
        figures = np.array([[throw.measures[name].value for name in names] for throw in self.throws], float)
        noise = np.array([[throw.measures[name].sd or 0.0 for name in names] for throw in self.throws])
        away = figures - np.median(figures, axis=0)
        usual = 1.4826 * np.median(np.abs(away), axis=0)
        unit = np.maximum(np.hypot(usual, noise.mean(axis=0)), 1e-9)
        return names, np.where(np.abs(away) < 1e-9, 0.0, away / unit)

    @cached_property
    def _distances(self) -> np.ndarray:
        away = self._away[1]
        # one wild measure must not decide: each counts up to ten units
        return np.sqrt(np.mean(np.minimum(away**2, 100.0), axis=1)) if away.size else np.zeros(len(self.throws))

    def values(self) -> dict[str, Value]:
        """Every measure with the set's mean for its value and the mean's error for its standard deviation."""
        out = dict(self.throws[self.typical].measures)
        if len(self.throws) == 1:
            return out
        for name, spread in self.spreads.items():
            shown = next(throw.measures[name] for throw in self.throws if throw.measures[name].value is not None)
            out[name] = replace(shown, value=spread.mean, sd=spread.error, bias=None)
        return out


def _spread(values: Sequence[Value]) -> Spread:
    figures = tuple(value.value for value in values)
    seen = np.array([figure for figure in figures if figure is not None])
    noise = [value.sd for value in values if value.value is not None]
    sd = float(np.std(seen, ddof=1)) if seen.size > 1 else None
    return Spread(figures, float(np.mean(seen)), sd, error_of_mean(seen, noise))


def error_of_mean(figures: np.ndarray, noise: Sequence[float | None]) -> float | None:
    """Standard deviation of the mean of some throws' figures `(throws,)`, each with its clip's own doubt in `noise`.

    What a clip resolves is not averaged away, the scatter of throws is. None while a throw is not resolved.
    """
    known = [one for one in noise if one is not None]
    if len(known) < len(noise):
        return None
    of_throws = 0.0
    if figures.size > 1:
        of_throws = student(figures.size) * float(np.std(figures, ddof=1)) / np.sqrt(figures.size)
    return float(np.hypot(np.mean(known), of_throws))


def student(count: int) -> float:
    """How much wider a 95 % interval of a mean of few throws is than two standard errors (Student 1908)."""
    from scipy.special import stdtrit

    return float(stdtrit(count - 1, 0.975)) / 2.0
