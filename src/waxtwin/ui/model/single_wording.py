"""A delivery on its own in the words of the screens: against the band, against its past, nothing about a twin."""

from __future__ import annotations

from waxtwin.core.single import Single
from waxtwin.core.single_words import against_band, last_time
from waxtwin.core.units import figure
from waxtwin.ui.model.wording import whose_bands

SINGLE_COLUMNS = ("Measure", "Figure", "Last time", "Known to ±", "Band", "Against the band")


def told_single(single: Single, imperial: bool) -> list[str]:
    """What can be said of a delivery on its own, paragraph by paragraph: nothing about a twin."""
    name = single.analysis.delivery.name
    if single.analysis.motion.is_bare:
        return [f"There are no landmarks of {name} yet: let them be found in the Prepare room."]
    if not single.analysis.resolved:
        return ["Working out what the figures are known to…"]
    banded = [row for row in single.rows if row.band is not None and row.athlete is not None]
    said = [
        f"{name} alone, against the band{whose_bands(single.rows)}: of {len(banded)} measures {len(single.outside)} "
        f"lie outside it, {len(single.inside)} inside; for the rest it cannot be told."
    ]
    for row in single.outside:
        unit = row.measure.unit
        value, doubt = (figure(number, unit, imperial) for number in (row.athlete, row.resolution))
        ends = [] if row.band is None else [figure(end, unit, imperial) for end in (row.band.low, row.band.high)]
        said.append(f"•  {row.measure.label}: {value} ± {doubt}, {against_band(row, imperial)} ({' to '.join(ends)})")
    moved = [f"{row.measure.label} {last_time(single, row, imperial).split('  ')[0]} → "
             f"{figure(row.athlete, row.measure.unit, imperial)}" for row in single.moved]  # fmt: skip
    if moved:
        said.append(f"Changed since the session before: {'; '.join(moved)}.")
    said.append("What lies outside a band is unusual there, not wrong: style and body may ask for it. Where bands come "
                "from stands under View, Bands and their sources.")  # fmt: skip
    return said
