"""What the commands share: the application, its faults, how files are read and answers printed."""

from __future__ import annotations

import atexit
import json
import shutil
import sys
import tempfile
from collections.abc import Callable
from enum import StrEnum
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from typer.exceptions import TyperException

from waxtwin.core.errors import WaxTwinError
from waxtwin.core.steps import Steps, T, finish

if TYPE_CHECKING:
    from waxtwin.core.contrast import Contrast
    from waxtwin.core.explain import Explanation

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None)

AsJson = Annotated[bool, typer.Option("--json", help="Print one JSON document.")]


class LandingChoice(StrEnum):
    """Which stop counts as landing."""

    touch = "touch"
    plant = "plant"


Twins = Annotated[list[Path], typer.Argument(help="One to four twins.")]
Landing = Annotated[LandingChoice, typer.Option(help="Which stop counts as landing.")]
SchoolLanding = Annotated[
    LandingChoice | None, typer.Option("--landing", help="Which stop counts as landing; the school's if not said.")
]
School = Annotated[str, typer.Option(help="common, drive, centre, coil, flow, or a house school.")]


def main() -> None:
    """Run the program; an expected fault is one sentence and exit code 2."""
    try:
        app(standalone_mode=False)
    except WaxTwinError as fault:
        fail(str(fault))
    except typer.Exit as done:
        sys.exit(done.exit_code)
    except typer.Abort:
        fail("stopped")
    except TyperException as fault:
        fail(f"{fault.format_message()} See “waxtwin --help”.")
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(0)


def fail(sentence: str) -> None:
    """Say one sentence and leave with 2."""
    print(" ".join(sentence.split()), file=sys.stderr)
    sys.exit(2)


def with_progress(what: str, steps: Steps[T]) -> T:
    """The result of long work; how far it is, is shown where somebody looks on."""
    found = finish(steps, partial(show_progress, what))
    show_progress(what, 1.0)
    return found


def show_progress(what: str, share: float) -> None:
    """How far something is, where somebody looks on."""
    if sys.stderr.isatty():
        print(f"\r{what} {share:4.0%}", end="" if share < 1 else "\n", file=sys.stderr, flush=True)


def load(*paths: Path) -> dict[Path, Any]:
    """The throws of each path, file or folder; a clip without a track is looked at first."""
    from waxtwin.library.folders import load_set
    from waxtwin.library.stored import is_untracked

    return {path: load_set(_looked_at(path) if is_untracked(path) else path) for path in paths}


def _looked_at(clip: Path) -> Path:
    """A track of a clip, in a folder that goes away with the program; what is not known is said."""
    from waxtwin.library.tracking import Wish, track_clip

    folder = Path(tempfile.mkdtemp(prefix="waxtwin-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    target = folder / f"{clip.stem}.csv"
    note = partial(print, f"{clip.name}:", file=sys.stderr)
    with_progress(clip.name, track_clip(clip, Wish(), target, note))
    return target


def analyses(sets: dict[Path, Any], landing: str) -> dict[Path, list[Any]]:
    """Per path its throws, all of them analysed with one smoothing."""
    from waxtwin.core.contrast import analyse_alike
    from waxtwin.core.errors import TrackError

    sides = {path: [stored.delivery for stored in throws] for path, throws in sets.items()}
    try:
        found = iter(analyse_alike([delivery for side in sides.values() for delivery in side], landing=landing))
    except TrackError as fault:
        raise WaxTwinError(f"{' or '.join(path.name for path in sets)}: {fault}") from None
    return {path: [next(found) for _ in side] for path, side in sides.items()}


def resolved_sets(sets: dict[Path, Any], landing: str) -> dict[Path, Any]:
    """Per path a set of resolved throws."""
    from waxtwin.core.analysis import resolve_all
    from waxtwin.core.sets import ThrowSet

    return {path: ThrowSet(tuple(resolve_all(side))) for path, side in analyses(sets, landing).items()}


def pairs_of(athlete: Path, twins: list[Path], sets: dict[Path, Any], landing: str) -> list[Any]:
    """The athlete against each twin, all with one smoothing."""
    from waxtwin.core.against_twins import MOST_TWINS
    from waxtwin.core.contrast import contrast_sets
    from waxtwin.library.bands import current_book, standards_of

    if len(twins) > MOST_TWINS:
        raise WaxTwinError(f"at most {MOST_TWINS} twins can be held beside one athlete")
    found, standards = resolved_sets(sets, landing), standards_of(current_book())
    return [contrast_sets(found[athlete], found[twin], standards) for twin in twins]


def answer(as_json: bool, document: Callable[[], dict[str, Any]], lines: Callable[[], list[str]]) -> None:
    """Print one JSON document, or lines."""
    if as_json:
        print(json.dumps(document(), ensure_ascii=False, allow_nan=False))
    else:
        print("\n".join(lines()))


def explained(
    athlete: Path, twins: list[Path], landing: str | None, school: str
) -> tuple[dict[Path, Any], list[Contrast], Explanation]:
    """The throws of each path, the athlete against each twin, and what the gap to the first one comes from."""
    from waxtwin.core.explain import explain
    from waxtwin.library.judging import perspective_of
    from waxtwin.library.playbook import load_schools

    schools, faults = load_schools()
    chosen = next((one for one in schools if one.id == school), None)
    if chosen is None:
        raise WaxTwinError(f"there is no school named {school}; there are {', '.join(one.id for one in schools)}")
    for fault in faults:
        print(fault, file=sys.stderr)
    sets = load(athlete, *twins)
    pairs = pairs_of(athlete, twins, sets, landing or chosen.landing)
    # the common ground is what all schools hold; the others are asked for their stance
    view = perspective_of(sets[athlete][0], chosen, schools[1:], twin=sets[twins[0]][0])
    return sets, pairs, explain(pairs[0], view)
