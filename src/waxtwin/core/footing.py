"""How well a pair stands as a whole, and what limits it most, in plain words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from waxtwin.core.contrast import UNAVAILABLE, UNTOLD, Contrast
from waxtwin.core.measures.registry import hindered
from waxtwin.core.quality import MIDDLING, SLOW

_LITTLE, _MUCH = 0.65, 0.9  # shares of the measures


@dataclass(frozen=True)
class Footing:
    """How well a pair stands: `grade` "strong", "fair" or "weak", a sentence, and what limits it most (at most three).

    `differences` are the ways in which the two footages are not alike.
    """

    grade: str
    sentence: str
    limits: tuple[str, ...]
    differences: tuple[str, ...]


def footing(pair: Contrast) -> Footing:
    """The pair as a whole, in plain words."""
    known = [row for row in pair.rows if row.verdict != UNAVAILABLE]
    if pair.bare:
        sides = " and the ".join(pair.bare)
        words = f"No landmarks yet of the {sides}: only durations between stops set by hand are read."
        return Footing("weak", words, (), ())
    share = len(known) / len(pair.rows)
    planar = sum(row.planar for row in known)
    rate = min(pair.athlete.motion.rate, pair.twin.motion.rate)
    differences = tuple(_unlike(pair))
    troubled = len(pair.athlete.warnings) + len(pair.twin.warnings)
    if share >= _MUCH and rate >= MIDDLING and not differences and not planar and troubled <= 2:
        grade = "strong"
    elif share < _LITTLE or rate < SLOW or len(differences) > 1:
        grade = "weak"
    else:
        grade = "fair"
    both = pair.athlete.motion.flat is None and pair.twin.motion.flat is None
    seen = ", seen in space" if both else f", {planar} of them as seen in the picture only" if planar else ""
    sentence = (
        f"{grade.capitalize()} footing: {len(known)} of {len(pair.rows)} measures on both sides{seen}, "
        f"at {rate:.0f} frames a second."
    )
    vague = sum(row.verdict == UNTOLD for row in known)
    if vague and pair.athlete.resolved:
        sentence += f" For {vague} of them it cannot be told whether the two differ or are alike."
    by_body = [one.motion.sight for one in (pair.athlete, pair.twin) if one.motion.sight.by_body]
    if by_body:
        doubt = 100 * max(sight.scale_sd for sight in by_body)
        sentence += f" Lengths rest on the body's own size in the picture, ± {doubt:.0f} %."
    return Footing(grade, sentence, tuple(_limits(pair, rate, differences))[:3], differences)


def _unlike(pair: Contrast) -> Iterator[str]:
    """Ways in which the two footages differ, each with what it affects."""
    a, b = pair.athlete.motion, pair.twin.motion
    if a.flat != b.flat:
        views = [{None: "in space", 1: "from the side", 0: "from the front or rear"}[m.flat] for m in (a, b)]
        yield f"The athlete is seen {views[0]}, the twin {views[1]}: only what both show is contrasted."
    elif a.flat is not None and abs(a.sight.yaw - b.sight.yaw) > 10:
        yield (
            f"The two cameras stand {abs(a.sight.yaw - b.sight.yaw):.0f}° apart from each other: "
            "lengths and angles in the picture are not quite the same thing."
        )
    if max(a.rate, b.rate) > 1.9 * min(a.rate, b.rate):
        yield (
            f"One side was taken at {max(a.rate, b.rate):.0f}, the other at {min(a.rate, b.rate):.0f} frames a second: "
            "times and peak speeds are only as fine as the slower one."
        )
    if a.sight.by_model != b.sight.by_model:
        yield (
            "One side's landmarks come from a model, the other's do not: they see hips and shoulders at other places, "
            "so small differences of angles between them are not to be trusted."
        )


def _limits(pair: Contrast, rate: float, differences: tuple[str, ...]) -> list[str]:
    """What costs most measures, most first."""
    costs: dict[str, int] = {}
    for row in pair.rows:
        # what never happens in a throw is no fault of its footage
        if row.verdict == UNAVAILABLE and row.reason and hindered(row.reason):
            costs[row.reason] = costs.get(row.reason, 0) + 1
    found = [(count, f"Measures that are missing: {count}; {reason}.") for reason, count in costs.items()]
    if rate < MIDDLING:
        late = sum(row.measure.kind == "V" or row.measure.at in ("max_layback", "release") for row in pair.rows)
        found.append((late, f"{rate:.0f} frames a second: layback, release and arm speeds are coarse."))
    found += [(len(pair.rows) // 4, one) for one in differences]
    for side, analysis in (("Athlete", pair.athlete), ("Twin", pair.twin)):
        if analysis.warnings:
            found.append((len(pair.rows) // 8, f"{side}: {analysis.warnings[0]}"))
    return [words for _, words in sorted(found, key=lambda one: -one[0])]
