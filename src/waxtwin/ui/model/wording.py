"""Rows, sets and stops in the words of the screens."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from waxtwin.core.against_twins import Among
from waxtwin.core.analysis import SEQUENCE, Analysis
from waxtwin.core.before_after import CHANGED, change_of
from waxtwin.core.contrast import UNTOLD, Contrast, Row
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.sets import Spread
from waxtwin.core.standing import verdict
from waxtwin.core.stops import EVENTS, LANDING, ORDER
from waxtwin.core.units import converted, figure
from waxtwin.ui.model.pair_state import PairState

if TYPE_CHECKING:
    from waxtwin.library.stored import StoredDelivery


def told_spread(who: str, spread: Spread, unit: str, imperial: bool) -> str:
    """How a measure scatters from throw to throw: “Athlete: 5 throws, 77.4 % to 78.9 %”."""
    if spread.count == 1:
        return f"{who}: one throw."
    low, high = (figure(edge(spread.seen), unit, imperial) for edge in (min, max))
    return f"{who}: {spread.count} throws, {low} to {high}."


def told_sets(pair: Contrast, sessions: Mapping[str, Sequence[StoredDelivery]]) -> str:
    """What the figures of whole sessions are means of, and which throw stands apart."""
    if pair.sets is None:
        return ""
    counts = [len(one.throws) for one in pair.sets]
    parts = [f"Means of {counts[0]} {'throw' if counts[0] == 1 else 'throws'} and {counts[1]}."]
    for (side, throws), one in zip(sessions.items(), pair.sets, strict=True):
        if one.odd is not None:
            names = ", ".join(MEASURES[name].label.lower() for name in one.odd_in())
            parts.append(f"Throw {one.odd + 1} of the {side} ({throws[one.odd].origin}) is the odd one out: {names}.")
    return " ".join(parts)


SIDE_WORDS: Mapping[str, tuple[str, str]] = {
    "twin": ("Athlete", "Twin"), "past": ("Now", "Before"), "peers": ("First", "Second"),
}  # fmt: skip
_STANDS = {"twin": "Athlete stands", "past": "What changed", "peers": "First against second"}


def columns_for(kind: str) -> tuple[str, ...]:
    """The table's headings for a kind of pair."""
    one, two = SIDE_WORDS[kind]
    return ("Measure", one, two, "Margin ±", "Band", _STANDS[kind])


def whose_bands(rows: Iterable[Row]) -> str:
    """Whose bands rows are held against, and whether their sources were checked."""
    bands = [row.band for row in rows if row.band is not None]
    if not bands:
        return ""
    unchecked = "" if all(band.verified for band in bands) else " (to verify)"
    return f" of {bands[0].population}{unchecked}"


def stands(row: Row, kind: str, imperial: bool) -> str:
    """Where the athlete stands, or for one athlete before and now what changed: “more by 8°”, “unchanged”."""
    if kind != "past" or row.resolution is None:
        return verdict(row, imperial)
    state = change_of(row)
    if state is None:
        return "not available"
    if state != CHANGED or row.difference is None:
        return state
    size = figure(abs(row.difference), row.measure.unit, imperial)
    throws = f" · {row.throws.agree} of {row.throws.of}" if row.throws is not None and row.throws.of > 1 else ""
    return f"{'more' if row.difference > 0 else 'less'} by {size}{throws}"


def spread_of(twins: Among, unit: str, imperial: bool) -> str:
    """The range of several twins, without its unit: “84.0 to 88.1”."""
    low, high = (converted(edge, unit, imperial) for edge in (twins.low, twins.high))
    if f"{low[0]:.{low[2]}f}" == f"{high[0]:.{high[2]}f}":
        return figure(twins.low, unit, imperial)
    return f"{low[0]:.{low[2]}f} to {high[0]:.{high[2]}f}".replace("-", "−")


def stands_among(twins: Among) -> str:
    """Where the athlete stands among several twins: “less than all 3”, “within”, “more than 2 of 3”."""
    if not twins.of:
        return "not available"
    for count, word in ((twins.short, "less than"), (twins.beyond, "more than")):
        if count == twins.of:
            return f"{word} all {twins.of}"
        if count and count > max(twins.level, twins.short + twins.beyond - count):
            return f"{word} {count} of {twins.of}"
    return "cannot be told" if twins.verdict == UNTOLD else "within"


def rows_at(rows: tuple[Row, ...], stop: str | None, landing: str) -> list[Row]:
    """The rows read at a stop, those that differ most first, those not available last."""
    here = [row for row in rows if row.measure.kind != "V" and stop_of(row.measure, landing) == stop]
    return sorted(here, key=lambda row: -row.clearness)


_TURNS = {
    "peak_pelvis_turn": "hips",
    "peak_trunk_turn": "shoulders",
    "peak_elbow_extension": "elbow",
    "peak_internal_rotation": "forearm",
}


def turns_in_order(analysis: Analysis) -> bool:
    """Whether the order of the four fastest turns is seen."""
    return all(analysis.measures[name].order is not None for name in SEQUENCE)


def sequence(analysis: Analysis) -> str:
    """The four fastest turns in their order with the time between them: “hips, 20 ms, shoulders, …”."""
    order, lags = (analysis.measures[name].order for name in SEQUENCE)
    if order is None or lags is None:
        return analysis.measures[SEQUENCE[0]].reason or "not available"
    parts = [_TURNS[str(order[0])]]
    for turn, lag in zip(order[1:], lags, strict=True):
        parts += [f"{float(lag):.0f} ms", _TURNS[str(turn)]]
    return ", ".join(parts)


def stop_of(item: Measure, landing: str) -> str:
    """The stop at which a measure is read; `landing` is "touch" or "plant"."""
    return LANDING[landing] if item.at == "landing" else item.at


def waiting_words(pair: PairState, working: str, *, needs: str) -> str:
    """What a room says that has nothing to show yet: what is missing, or what is being worked out."""
    if not pair.stored:
        return "Choose a pair on the Bench first; the demo has one."
    if pair.is_one_throw:
        return f"Both sides are the same throw. {needs} needs two: choose another on the Bench."
    if pair.complete:
        return working
    other = "twin" if pair.lead_side == "athlete" else "athlete"
    return f"Only the {pair.lead_side} is on the desk. {needs} needs both: choose the {other} on the Bench."


def stop_words(analysis: Analysis, side: str, stop: str) -> str:
    """A stop that was found, as it is told on the seam: when, how sure, from where, and why it is not used."""
    event = analysis.proposal(stop)
    if event is None:
        return ""
    kind = EVENTS[stop]
    asked = f"\nNot used, since {analysis.withheld[stop].why}." if stop in analysis.withheld else ""
    return (
        f"{kind.label} ({kind.usual}), {side}: {event.time:.3f} s ± {event.interval:.0f} ms, {event.source}.{asked}\n"
        f"{kind.definition}\nDrag to correct."
    )


def key_of(stop: str) -> str:
    """The number key of a stop: 1 to 9, then 0."""
    return str((ORDER.index(stop) + 1) % 10)


_JOBS = {
    "landmarks": "Finding landmarks", "landmarks beside": "Finding landmarks meanwhile",
    "people": "Looking for people", "bursts": "Looking for throws",
    "steady": "Steadying the camera", "follow": "Following the landmark", "space": "Joining two clips",
    "figures": "Measuring", "margins": "Working out margins", "sessions": "Measuring every throw of the sessions",
    "others": "Measuring the further twins", "list": "Listing the throws", "change": "Changing the library",
    "import": "Bringing files in", "library": "Opening the library", "throws": "Looking for the sessions' throws",
    "explain": "Explaining the gap", "blend": "Blending throws", "stops": "Finding the stops", "export": "Writing",
    "due": "Looking who is due", "picture": "Reading the picture", "log": "Measuring every session",
    "preview": "Making the pages", "write pdf": "Writing the PDF",
    "write html": "Writing the page", "write clip": "Making the clip", "write data": "Writing data",
    "write bundle": "Packing the bundle", "live": "Finding landmarks", "live clip": "Taking the clip in",
    "profiles": "Getting to know the library's throws", "small pictures": "Making small pictures",
    "film": "Making the film", "take in": "Taking the sound in",
    "queued work": "Working off what waits", "team": "Reading what others changed", "team check": "Asking the server",
    "ask for work": "Asking for work", "work list": "Reading how the work stands",
    "cut talk": "Cutting the talk into scenes", "mix voices": "Evening the voices",
}  # fmt: skip


def progress_words(job: str, remaining: float | None) -> str:
    """What is being worked on, and how long it will still take where that can be told."""
    return _JOBS.get(job, "Reading") + left_words(remaining)


def left_words(remaining: float | None) -> str:
    """How many seconds it will still take, to be put behind what is done; nothing where that cannot be told."""
    if remaining is None or remaining < 1.5:
        return ""
    return f", {remaining:.0f} s left" if remaining < 90 else f", {remaining / 60:.0f} min left"
