"""Figures of deliveries: stops, measures, contrast, explanation, twins."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from waxtwin.cli.base import (
    AsJson,
    Landing,
    LandingChoice,
    School,
    SchoolLanding,
    Twins,
    analyses,
    answer,
    app,
    explained,
    load,
    pairs_of,
    resolved_sets,
    with_progress,
)
from waxtwin.core.errors import WaxTwinError


@app.command()
def events(file: Path, as_json: AsJson = False) -> None:
    """Events of one delivery."""
    from waxtwin.core.stops import EVENTS
    from waxtwin.formats.answers import events_document

    if file.is_dir():
        raise WaxTwinError(f"{file.name}: this is a folder; the events of one throw are asked for")
    [analysis] = analyses(load(file), "touch")[file]
    answer(as_json, lambda: events_document(str(file), analysis), lambda: [
        *(f"{EVENTS[e.id].label:26s} {e.time:8.4f} s  ± {e.interval:4.1f} ms  {e.source}, {e.confidence:.2f}"
          for e in analysis.events.values()),
        *analysis.warnings,
    ])  # fmt: skip


@app.command()
def measure(
    file: Path, landing: Landing = LandingChoice.touch, as_json: AsJson = False,
    house: Annotated[Path | None, typer.Option(help="JSON file of measures of the house, to be read as well.")] = None,
) -> None:  # fmt: skip
    """Every measure of one delivery, or of a folder of throws of one athlete as a set."""
    from waxtwin.core.measures import MEASURES
    from waxtwin.core.measures.house import register
    from waxtwin.formats.answers import measure_document
    from waxtwin.library.house import read_house

    register([] if house is None else read_house(house))
    throws = resolved_sets(load(file), landing)[file]
    values, shown = throws.values(), throws.throws[throws.typical]

    def lines() -> list[str]:
        out = [_told_set(throws)] if len(throws.throws) > 1 else []
        for item in MEASURES.values():
            value = values[item.id]
            if value.value is None:
                out.append(f"{item.label:38s} not available: {value.reason}")
            else:
                spread = "" if value.sd is None else f"± {2 * value.sd:.1f}"
                out.append(f"{item.label:38s} {value.value:9.1f} {item.unit:6s} {spread}")
        order = shown.measures["sequence_order"].order
        return [*out, *([f"Order of the turns: {', '.join(map(str, order))}"] if order else []), *shown.warnings]

    answer(as_json, lambda: measure_document(str(file), throws), lines)


def _told_set(throws: Any) -> str:
    """A set of throws in one line."""
    odd = "" if throws.odd is None else f"; the odd one out is throw {throws.odd + 1}"
    return f"Means of {len(throws.throws)} throws; the typical one is throw {throws.typical + 1}{odd}."


@app.command()
def contrast(athlete: Path, twins: Twins, landing: Landing = LandingChoice.touch, as_json: AsJson = False) -> None:
    """Athlete against twin, or up to three: differences, resolution, verdicts. A folder is a set of one's throws."""
    from waxtwin.core.against_twins import among
    from waxtwin.core.footing import footing
    from waxtwin.formats.answers import contrast_document
    from waxtwin.formats.text_answers import contrast_line

    pairs = pairs_of(athlete, twins, load(athlete, *twins), landing)
    pair = pairs[0]
    several = among(pairs) if len(pairs) > 1 else {}

    def lines() -> list[str]:
        stands = footing(pair)
        told = [f"{who}: {_told_set(s)}" for who, s in zip(("Athlete", "Twin"), pair.sets or (), strict=False)]
        return [*told, *(contrast_line(row, several.get(row.measure.id)) for row in pair.rows), stands.sentence,
                *stands.limits]  # fmt: skip

    answer(as_json, lambda: contrast_document([str(athlete), *map(str, twins)], pairs), lines)


@app.command()
def explain(
    athlete: Path,
    twins: Twins,
    landing: SchoolLanding = None,
    school: School = "common",
    as_json: AsJson = False,
) -> None:  # fmt: skip
    """Where the gap in ball speed to the first twin comes from, and what to look at first."""
    from waxtwin.core.against_twins import supported
    from waxtwin.formats.answers import explain_document
    from waxtwin.formats.text_answers import explain_lines

    _, pairs, found = explained(athlete, twins, landing, school)
    support = supported(pairs, found.perspective) if len(pairs) > 1 else None
    answer(
        as_json, lambda: explain_document((str(athlete), str(twins[0])), found, support, len(pairs)),
        lambda: explain_lines(found, support, len(pairs)),
    )  # fmt: skip


@app.command()
def twins(
    athlete: Path,
    library: Annotated[Path, typer.Option(help="Library folder or folder of throws to choose from.")],
    bigger: Annotated[bool, typer.Option("--bigger", help="Only pitchers taller than the athlete.")] = False,
    same_build: Annotated[bool, typer.Option("--same-build", help="Only pitchers of the athlete's build.")] = False,
    weight: Annotated[list[str] | None, typer.Option(help="CRITERION=NUMBER, such as slot=3.")] = None,
    count: Annotated[int, typer.Option(min=1, max=200)] = 10,
    as_json: AsJson = False,
) -> None:
    """The best twins for an athlete's throw, with reasons."""
    from waxtwin.core.twins import CRITERIA, Wish, rank
    from waxtwin.formats.answers import twins_document
    from waxtwin.library.profiles import collected, profile_of_file

    wish = Wish(_weights(weight or []), bigger, same_build)
    mine = profile_of_file(athlete)
    found = rank(mine, with_progress(library.name, collected(library, mine)), wish, count)
    answer(as_json, lambda: twins_document(str(athlete), found), lambda: [
        line for one in found for line in (
            f"{one.score:5.0%}  {one.profile.name}{'  (own)' if one.own else ''}: {', '.join(one.reasons)}",
            "       " + ", ".join(f"{CRITERIA[name].lower()} {close:.0%}" for name, close in one.closeness.items()),
            *(f"       {words}" for words in one.warnings),
        )
    ])  # fmt: skip


def _weights(said: list[str]) -> dict[str, float]:
    """Weights by criterion, the usual ones where nothing is said."""
    from waxtwin.core.twins import CRITERIA, WEIGHTS

    weights = dict(WEIGHTS)
    for one in said:
        name, _, number = one.partition("=")
        if name not in CRITERIA:
            raise WaxTwinError(f"there is no criterion named {name}; there are {', '.join(CRITERIA)}")
        try:
            weights[name] = float(number)
        except ValueError:
            raise WaxTwinError(f"{one}: say CRITERION=NUMBER, such as slot=3") from None
    return weights
