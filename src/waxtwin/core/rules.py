"""Rules over a contrast, as they stand in the data files: one short line each, parsed once and asked many times.

A line is a subject and what is said of it: `landing_trunk_tilt beyond 6` (the athlete is beyond the twin by at least 6
of the measure's unit, and by clearly more than is resolved), `knee_bracing short 9`, `landing_elbow_height above 5` or
`below 0` (the athlete's own figure, beyond what is resolved), `max_layback_angle band-above` or `band-below`,
`landing_separation level`, `max_layback_angle not-short` or `not-beyond`, `link:elbow loses`, `factor:arm gains`. What
the footage is too coarse to say neither holds nor fails.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from waxtwin.core.borrowed import LABELS as FACTOR_LABELS
from waxtwin.core.borrowed import Borrowed
from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNTOLD, Contrast, Row
from waxtwin.core.ledger import LINKS, Ledger
from waxtwin.core.measures import MEASURES
from waxtwin.core.standing import resolution
from waxtwin.core.units import figure

_SIZED, _PLAIN = ("short", "beyond", "above", "below"), ("level", "not-short", "not-beyond", "band-above", "band-below")
# Of what is resolved, what a rule asks for where a model found the marks: some seventy are asked at once, and what
# stands by two standard deviations alone does so by chance in one of forty. On laboratory tracks sizes ask for more.
_FIRM = 1.6
_LEAST = 0.3  # m/s: a link or factor that loses less than this is not said to lose


class RuleError(ValueError):
    """A line that cannot be understood; the text says what is wrong in plain words."""


@dataclass(frozen=True)
class Case:
    """Everything that rules may ask about: a contrast, with ledger and borrowed motion where there are any."""

    contrast: Contrast
    ledger: Ledger | None = None
    borrowed: Borrowed | None = None

    def row(self, measure: str) -> Row:
        """The row of a measure."""
        return self._rows[measure]

    @property
    def firm(self) -> float:
        """How many times what is resolved a difference must be for a rule to hold."""
        sides = (self.contrast.athlete, self.contrast.twin)
        return _FIRM if any(side.motion.sight.by_model for side in sides) else 1.0

    @cached_property
    def _rows(self) -> dict[str, Row]:
        return {row.measure.id: row for row in self.contrast.rows}


@dataclass(frozen=True)
class Evidence:
    """What a line found: `holds` True, False or None (cannot be asked here), and how strongly it holds.

    `strength` is the size of the difference over what is asked for or resolved, whichever is more; `row` is there for
    a measure, `speed` (m/s lost) for a link or factor.
    """

    line: Line
    holds: bool | None
    strength: float = 0.0
    row: Row | None = None
    speed: float | None = None

    @property
    def short(self) -> str:
        """Both figures and no more: “Trunk lean: 8.2 against -2.2 deg”."""
        row = self.row
        if row is None or row.athlete is None or row.twin is None:
            return self.sentence
        unit = row.measure.unit
        return f"{row.measure.label}: {figure(row.athlete, unit)} against {figure(row.twin, unit)}"

    @property
    def sentence(self) -> str:
        """The figures in plain words, in metric units."""
        if self.row is None:
            return f"{self.line.label}: {self.speed or 0.0:+.2f} m/s" if self.speed is not None else self.line.label
        row = self.row
        if row.difference is None or row.athlete is None or row.twin is None:
            return f"{row.measure.label}: not available"
        unit = row.measure.unit
        resolved = "" if row.resolution is None else f", margin ± {resolution(row, False)}"
        throws = f", in {row.throws.agree} of {row.throws.of} throws" if row.throws and row.throws.of > 1 else ""
        return (
            f"{row.measure.label}: {figure(row.athlete, unit)} against {figure(row.twin, unit)}, "
            f"{figure(row.difference, unit, signed=True)}{resolved}{throws}"
        )


@dataclass(frozen=True, slots=True)
class Line:
    """One parsed line: `kind` "measure", "link" or "factor"; `word` what is said; `size` in the measure's unit."""

    kind: str
    subject: str
    word: str
    size: float

    @property
    def text(self) -> str:
        """The line as it stands in the file."""
        subject = self.subject if self.kind == "measure" else f"{self.kind}:{self.subject}"
        return f"{subject} {self.word}" + (f" {self.size:g}" if self.word in _SIZED else "")

    @property
    def label(self) -> str:
        """What it is about, in words."""
        if self.kind == "measure":
            return MEASURES[self.subject].label
        return (LINKS if self.kind == "link" else FACTOR_LABELS)[self.subject]

    def ask(self, case: Case) -> Evidence:
        """Whether it holds in a case."""
        if self.kind == "measure":
            return _ask_measure(self, case.row(self.subject), case.firm)
        speed = _speed_at(self, case)
        if speed is None:
            return Evidence(self, None)
        value, resolution = speed
        lost = value if self.word == "loses" else -value
        least = max(resolution, _LEAST)
        return Evidence(self, lost > least, abs(value) / least, speed=value)


def parse(text: str) -> Line:
    """A line of a rule. Raises RuleError."""
    words = text.split()
    if not words:
        raise RuleError("an empty line")
    kind, _, subject = words[0].rpartition(":")
    if kind in ("link", "factor"):
        known = LINKS if kind == "link" else FACTOR_LABELS
        if subject not in known:
            raise RuleError(f"there is no {kind} named {subject}")
        if len(words) != 2 or words[1] not in ("loses", "gains"):
            raise RuleError(f"“{text}”: a {kind} “loses” or “gains”")
        return Line(kind, subject, words[1], 0.0)
    if kind or subject not in MEASURES:
        raise RuleError(f"there is no measure named {words[0]}")
    if len(words) == 2 and words[1] in _PLAIN:
        return Line("measure", subject, words[1], 0.0)
    if len(words) == 3 and words[1] in _SIZED:
        try:
            return Line("measure", subject, words[1], float(words[2]))
        except ValueError:
            raise RuleError(f"“{text}”: {words[2]} is not a number") from None
    raise RuleError(f"“{text}”: say {', '.join(_SIZED)} with a number, or {', '.join(_PLAIN)}")


def _ask_measure(line: Line, row: Row, firm: float) -> Evidence:
    if row.difference is None or row.athlete is None:
        return Evidence(line, None, row=row)
    if row.verdict == UNTOLD and line.word not in ("above", "below", "band-above", "band-below"):
        return Evidence(line, None, row=row)
    if line.word in ("short", "beyond"):
        stands = row.verdict == (SHORT if line.word == "short" else BEYOND)
        least = max(line.size, firm * (row.resolution or 0.0), 1e-9)
        return Evidence(line, stands and abs(row.difference) >= least, abs(row.difference) / least, row)
    if line.word in ("above", "below"):
        beyond = row.athlete - line.size if line.word == "above" else line.size - row.athlete
        doubt = row.resolution or 0.0
        return Evidence(line, beyond > doubt, beyond / max(doubt, 1e-9), row)
    if line.word.startswith("band"):
        if row.band is None:
            return Evidence(line, None, row=row)
        beyond = row.athlete - row.band.high if line.word == "band-above" else row.band.low - row.athlete
        return Evidence(line, beyond > 0, 1.0, row)
    holds = {"level": row.verdict == LEVEL, "not-short": row.verdict != SHORT, "not-beyond": row.verdict != BEYOND}
    return Evidence(line, holds[line.word], 1.0, row)


def _speed_at(line: Line, case: Case) -> tuple[float, float] | None:
    """Speed lost at a link or factor and what is resolved of it, m/s; None where it is not known."""
    if line.kind == "link":
        links = case.ledger.links if case.ledger else ()
        found = next((link for link in links if link.id == line.subject), None)
        return None if found is None else (found.contribution, found.resolution or 0.0)
    factor = case.borrowed.singles.get(line.subject) if case.borrowed else None
    return None if factor is None else (factor.contribution, 2 * (factor.sd or 0.0))
