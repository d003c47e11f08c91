"""How well a clip alone does: the automatic path on filmed, made-up people against their own joints.

`python -m benchmarks.footage CAST [lite|full|heavy]` prints the tables that docs/corrector.md carries. CAST is a folder
of tools/people; the judging cast is never taught from. The truth shares no code with detectors or model. A figure of
the picture plane is compared with the one that the true joints give in that plane at the true stops.
"""

from __future__ import annotations

import json
import sys
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from platformdirs import user_cache_path

from waxtwin.capture.clip import ClipReader
from waxtwin.capture.pitcher import find_pitcher
from waxtwin.core.analysis import Analysis, Delivery, analyse, resolve
from waxtwin.core.contrast import BEYOND, LEVEL, SHORT, UNAVAILABLE, UNTOLD, analyse_alike, contrast
from waxtwin.core.explain import Perspective, explain
from waxtwin.core.marks import Marks
from waxtwin.core.measures import MEASURES
from waxtwin.core.placing import UNSEEN, ClipClock, body_camera, place, sight_of, suggest_view
from waxtwin.core.steps import finish
from waxtwin.core.stops import ORDER, StopsByHand
from waxtwin.core.track import Track
from waxtwin.library.playbook import load_playbook, load_schools
from waxtwin.library.stored import Clip, StoredDelivery, load

COPIES = 60


@dataclass(frozen=True)
class Filmed:
    """A clip of a person: the throw as stored, its true stops, what the model found, and how the clip is called."""

    stored: StoredDelivery
    stops: dict[str, float]
    clip: Clip
    marks: Marks
    size: tuple[int, int]
    shot: str

    def found(self, every: int = 1) -> Analysis:
        """What the automatic path makes of it with every so-manieth frame, by the typed height alone."""
        return resolve(analyse(self.delivery(every)), COPIES)

    def delivery(self, every: int = 1) -> Delivery:
        """The throw as the automatic path has it."""
        marks = self.marks if every == 1 else _thinned(self.marks, every)
        who = self.stored.delivery
        camera = body_camera(marks, self.clip.view, who.throws, who.height, self.size)
        sight = sight_of(camera, self.clip.view, marks, who.height)
        track = place(marks, camera, self.clip.view)
        return Delivery(who.name, track, who.throws, who.height, sight=sight)

    def truth(self) -> Analysis:
        """What the true joints give in the plane that the clip shows."""
        who, track = self.stored.delivery, self.stored.delivery.track
        points = track.points.copy()
        points[..., UNSEEN[self.clip.view]] = np.nan
        times = {name: float(np.clip(at, track.times[0], track.times[-1])) for name, at in self.stops.items()}
        flat = Track(track.times, points, track.confidence)
        return analyse(replace(who, track=flat, by_hand=StopsByHand(times), notes=()))


def main() -> None:
    cast, model = Path(sys.argv[1]), sys.argv[2] if len(sys.argv) > 2 else "heavy"
    by_shot: dict[str, list[Filmed]] = defaultdict(list)
    for one in _filmed(cast, model):
        by_shot[one.shot].append(one)
    for shot, those in sorted(by_shot.items()):
        for every in (1, 4, 8):
            _print_shot(shot, those, every)
    if by_shot["again"]:
        _print_twice(by_shot["side"], by_shot["again"])


def _filmed(cast: Path, model: str) -> Iterator[Filmed]:
    cache = user_cache_path("waxtwin")
    print(f"landmarks of {model}, kept in {cache.name}")
    for sidecar in sorted(cast.glob("*.delivery.json")):
        stem = sidecar.name.removesuffix(".delivery.json")
        stored = load(cast / f"{stem}.csv")
        stops = json.loads((cast / f"{stem}.truth.json").read_text())["events"]
        for clip in stored.clips:
            with ClipReader(clip.path) as reader:
                times, size = reader.times, reader.size
            throws = stored.delivery.throws
            marks = finish(find_pitcher(clip.path, times, size, throws, ClipClock(), model=model))
            yield Filmed(stored, stops, clip, marks, size, clip.path.stem.removeprefix(f"{stem}-"))


def _thinned(marks: Marks, every: int) -> Marks:
    world = None if marks.world is None else marks.world[::every]
    return Marks(marks.times[::every], marks.points[::every], marks.confidence[::every], marks.source[::every], world)


def _print_shot(shot: str, those: list[Filmed], every: int) -> None:
    found, true = [one.found(every) for one in those], [one.truth() for one in those]
    rate = found[0].motion.rate
    views = [suggest_view(one.marks, one.stored.delivery.throws) == one.clip.view for one in those]
    shown = [sum(one.measures[name].value is not None for name in MEASURES) for one in found]
    print(f"\n{shot}, {len(those)} people, {rate:.0f} frames a second: view right in {sum(views)}, measures shown "
          f"{np.median(shown):.0f} ({min(shown)} to {max(shown)})")  # fmt: skip
    for stop in ORDER:
        off = [
            (event.time - one.stops[stop], event.interval / 1000.0, stop in seen.withheld)
            for one, seen in zip(those, found, strict=True) if (event := seen.proposal(stop)) is not None
        ]  # fmt: skip
        if off:
            error, interval, kept_back = (np.array(column) for column in zip(*off, strict=True))
            print(f"  {stop:14s} {1000 * np.median(np.abs(error)):6.0f} ms median, interval holds in "
                  f"{np.mean(np.abs(error) <= interval):4.0%}, withheld {int(kept_back.sum())}")  # fmt: skip
    errors: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for one, other in zip(found, true, strict=True):
        for name in MEASURES:
            value, wanted = one.measures[name], other.measures[name].value
            if value.value is not None and wanted is not None:
                errors[name].append((value.value - wanted, value.sd or 0.0))
    held = [abs(error) <= 2 * sd for each in errors.values() for error, sd in each]
    angles = [abs(error) for name, each in errors.items() if MEASURES[name].unit == "deg" for error, _ in each]
    print(f"  2 sd hold in {np.mean(held):.0%}; planar angles {np.median(angles):.1f} deg median")
    if every == 1:
        for name, each in sorted(errors.items()):
            error, sd = np.array(each).T
            print(f"    {name:32s} bias {error.mean():8.2f}  median {np.median(np.abs(error)):8.2f}  sd "
                  f"{np.median(sd):8.2f}  holds {np.mean(np.abs(error) <= 2 * sd):4.0%}")  # fmt: skip


def _print_twice(side: list[Filmed], again: list[Filmed]) -> None:
    """One throw filmed by two cameras from one side: nothing may be found different."""
    schools, _ = load_schools()
    view = Perspective(load_playbook(), schools[0], tuple(schools[1:]))
    verdicts: Counter[str] = Counter()
    for one, other in zip(side, again, strict=True):
        for ours, theirs in ((one, other), (other, one)):
            alike = analyse_alike([ours.delivery(), theirs.delivery()])
            pair = contrast(*(resolve(each, COPIES) for each in alike))
            verdicts.update(row.verdict for row in pair.rows if row.verdict != UNAVAILABLE)
            wrong = [f"{row.measure.id} {row.difference:+.1f} of {row.resolution:.1f}" for row in pair.rows
                     if row.verdict in (SHORT, BEYOND)]  # fmt: skip
            found = [finding.id for finding in explain(pair, view).judgement.findings]
            name, apart = ours.stored.delivery.name, ", ".join(wrong) or "nothing"
            print(f"  {name}: findings {found or 'none'}; told apart: {apart}")
    alike_rows = verdicts[LEVEL] + verdicts[UNTOLD]
    print(f"one throw filmed twice: {alike_rows / verdicts.total():.1%} of {verdicts.total()} rows level or untold")


if __name__ == "__main__":
    main()
