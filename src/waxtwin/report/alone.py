"""What a report says of one delivery on its own: against the band and its own past, and nothing about a twin."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from waxtwin.core.cautions import cautions_for
from waxtwin.core.contrast import UNAVAILABLE, Row
from waxtwin.core.eye import Looked
from waxtwin.core.measures.registry import KINDS
from waxtwin.core.progress import answers, day
from waxtwin.core.single import Single
from waxtwin.core.single_words import against_band, last_time
from waxtwin.core.standing import resolution
from waxtwin.core.stops import EVENTS, LANDING
from waxtwin.core.trend import Outcome
from waxtwin.core.units import figure
from waxtwin.report.by_eye import EYES, seen_of
from waxtwin.report.parts import Picture, Report, Section, Table, Wish, said_at

_LIT = 2  # gauges of a picture
TITLE = "Your delivery on its own"


def compose_alone(
    single: Single, wish: Wish, made: date, *, outcome: Outcome | None = None, born: str | None = None,
    looked: Looked | None = None,
) -> Report:  # fmt: skip
    """The report as wished for; parts that need a twin stay empty. `looked` is what was seen by eye."""
    wanted, name = wish.parts, wish.athlete or single.analysis.delivery.name
    return Report(
        title=wish.wording.get("title") or TITLE, athlete=name, twin="", made=day(made.isoformat(), year=True),
        opening=wish.wording.get("opening") or _opening(single), closing=wish.wording.get("closing", ""),
        things=(), good=(), open=(),
        answers=answers(outcome, wish.imperial) if "log" in wanted and outcome else (),
        pictures=tuple(_picture(single, stop, wish.imperial) for stop in wish.stops if stop in single.analysis.events)
        if "pictures" in wanted else (),
        account="", chain=(), shares=(),
        findings=tuple(_section(row, wish.imperial) for row in single.outside) if "findings" in wanted else (),
        tables=tuple(_tables(single, name, wish.imperial)) if "table" in wanted else (),
        method=tuple(_method(single)), cautions=tuple(cautions_for(single, born)), imperial=wish.imperial,
        seen=seen_of(looked, 1) if "eye" in wanted else (), measured=not single.analysis.motion.is_bare,
    )  # fmt: skip


def _opening(single: Single) -> str:
    if single.analysis.motion.is_bare:
        return "This is what one of your throws shows by itself, looked at by eye and not measured."
    banded = [row for row in single.rows if row.band is not None]
    vague = len(banded) - len(single.outside) - len(single.inside)
    return (
        f"This is what one of your throws shows by itself: of {len(banded)} measures that have a band "
        f"{len(single.outside)} lie outside it and {len(single.inside)} inside; of {vague} it cannot be told. What is "
        "unusual is not wrong for that."
    )


def _picture(single: Single, stop: str, imperial: bool) -> Picture:
    """The figure at a stop, with the gauges of what lies outside its band there."""
    here = [row for row in single.outside if _at(single, row) == stop and row.measure.gauge]
    lit: dict[str, Row] = {}
    for row in here:
        lit.setdefault(row.measure.gauge, row)
    shown = list(lit.values())[:_LIT]
    said = "; ".join(f"{row.measure.label.lower()} {against_band(row, imperial)}" for row in shown)
    return Picture(stop, tuple(row.measure.id for row in shown), EVENTS[stop].label + (f": {said}" if said else ""))


def _section(row: Row, imperial: bool) -> Section:
    unit = row.measure.unit
    value = f"{figure(row.athlete, unit, imperial)}, known to ± {resolution(row, imperial)}"
    band = "" if row.band is None else f"Band {row.band.told()}."
    return Section(
        row.measure.label, f"{row.measure.text} {against_band(row, imperial).capitalize()}.", (value, band), ()
    )


def _tables(single: Single, name: str, imperial: bool) -> list[Table]:
    found = []
    for kind, title in KINDS.items():
        rows = [row for row in single.rows if row.measure.kind == kind and row.verdict != UNAVAILABLE]
        cells = tuple(
            (said_at(row.measure, single.analysis.landing), figure(row.athlete, row.measure.unit, imperial),
             last_time(single, row, imperial), against_band(row, imperial), resolution(row, imperial))
            for row in rows
        )  # fmt: skip
        if cells:
            found.append(Table(title, ("Measure", name, "Last time", "Against the band", "Margin ±"), cells))
    return found


def _at(single: Single, row: Row) -> str:
    return LANDING[single.analysis.landing] if row.measure.at == "landing" else row.measure.at


def _method(single: Single) -> Sequence[str]:
    motion = single.analysis.motion
    if motion.is_bare:
        return [
            f"The stops were set by hand on a clip of {motion.rate:.0f} frames a second. There are no landmarks yet: "
            "only durations between stops are read.",
            EYES,
        ]
    seen = "in space" if motion.flat is None else "in the picture of one camera"
    landing = EVENTS[LANDING[single.analysis.landing]].label.lower()
    return [
        f"Figures are of one throw, seen {seen} at {motion.rate:.0f} frames a second; landing is taken as “{landing}”.",
        *single.analysis.warnings,
        "What a figure is known to is twice the standard deviation that this footage leaves it. It counts as outside a "
        "band only where it lies further beyond than that, and as inside only where it lies as far within. Lengths are "
        "in percent of standing height, and a left-hander is mirrored.",
        "“Last time” is the mean of the session before; a sign says that it is known to have changed since.",
    ]
