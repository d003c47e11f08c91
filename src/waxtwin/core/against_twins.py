"""Several twins at once: where the athlete stands against all of them, and how many of them bear a finding out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNTOLD, Contrast
from waxtwin.core.explain import Perspective, throws_of
from waxtwin.core.findings import judge
from waxtwin.core.ledger import ledger_of
from waxtwin.core.rules import Case

MOST_TWINS = 4  # beside one athlete: more are not looked at


@dataclass(frozen=True, slots=True)
class Among:
    """One measure among several twins: their `figures` (None where not available), lowest and highest, and against how
    many of them the athlete is short, beyond or level, or it cannot be told.
    """  # fmt: skip

    figures: tuple[float | None, ...]
    low: float
    high: float
    short: int
    beyond: int
    level: int
    untold: int = 0

    @property
    def of(self) -> int:
        """How many twins show it on both sides."""
        return self.short + self.beyond + self.level + self.untold

    @property
    def verdict(self) -> str:
        """SHORT or BEYOND when the athlete stands so against every twin; UNTOLD when most cannot be told, else LEVEL:
        within what they show.
        """
        if self.of and self.short == self.of:
            return SHORT
        if self.of and self.beyond == self.of:
            return BEYOND
        return UNTOLD if 2 * self.untold > self.of or not self.of else LEVEL


def among(pairs: Sequence[Contrast]) -> dict[str, Among]:
    """Every measure that at least one of the pairs shows, all with the same athlete."""
    found = {}
    for rows in zip(*(pair.rows for pair in pairs), strict=True):
        figures = tuple(row.twin if row.difference is not None else None for row in rows)
        seen = [figure for figure in figures if figure is not None]
        if seen:
            verdicts = [row.verdict for row in rows if row.difference is not None]
            counts = (verdicts.count(SHORT), verdicts.count(BEYOND), verdicts.count(LEVEL), verdicts.count(UNTOLD))
            found[rows[0].measure.id] = Among(figures, min(seen), max(seen), *counts)
    return found


def supported(pairs: Sequence[Contrast], view: Perspective) -> dict[str, int]:
    """How many of the twins bear each finding out, `{finding: twins}`."""
    counts: dict[str, int] = {}
    for pair in pairs:
        found = judge(Case(pair, ledger_of(*throws_of(pair))), view.playbook, view.school, (), capacity=view.capacity)
        for one in found.findings:
            counts[one.id] = counts.get(one.id, 0) + 1
    return counts
