"""How well a clip alone does: the automatic path on simulated clips against the simulator's own truth.

`python -m benchmarks.footage [lite|full|heavy]` prints the table that docs/method.md carries. The truth shares no code
with the detectors or the landmark model. Planar angles are compared with those that the true landmarks give through
the same camera; angles in space with those of the true track.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from platformdirs import user_cache_path

from waxtwin.capture.clip import ClipReader
from waxtwin.capture.people import find_people
from waxtwin.capture.pose import find_landmarks
from waxtwin.core.analysis import Analysis, Delivery, analyse
from waxtwin.core.camera import Camera, Sight, project
from waxtwin.core.marks import Marks
from waxtwin.core.measures import MEASURES
from waxtwin.core.placing import ClipClock, place, sight_of
from waxtwin.core.repair import cleaned
from waxtwin.core.steps import finish
from waxtwin.core.stops import ORDER, StopsByHand
from waxtwin.core.sync import in_space, synchronise
from waxtwin.library.stored import Clip, StoredDelivery, load

DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
NAMES = ("wren-tollander", "ines-corvane", "pell-ardmoor", "juno-wexcombe")


@dataclass(frozen=True)
class Case:
    """One pitcher: the throw as stored, its truth, and the marks that the model found per view."""

    stored: StoredDelivery
    truth: dict
    marks: dict[str, Marks]

    def clip(self, view: str) -> Clip:
        return next(clip for clip in self.stored.clips if clip.view == view)

    def camera(self, view: str) -> Camera:
        camera = self.clip(view).camera
        assert camera is not None
        return camera


def main() -> None:
    size = sys.argv[1] if len(sys.argv) > 1 else "heavy"
    cases = [_case(name, size) for name in NAMES]
    autos = [_from_side(case) for case in cases]
    ideals = [_ideal_side(case) for case in cases]
    _print_events("from the side", cases, autos)
    _print_events("from the side, were every landmark right", cases, ideals)
    corrected = [_from_side(case, case.truth["events"]) for case in cases]
    references = [_ideal_side(case, case.truth["events"]) for case in cases]
    _print_angles("planar angles, automatic", autos, ideals)
    _print_angles("planar angles, stops by hand", corrected, references)
    _print_hand(autos, ideals)
    spatial = []
    for case in cases:
        delivery, offset, error = _in_space(case)
        print(f"{case.stored.title}: second clip {offset * 1000:+.1f} ms off its true clock, rays {error:.1f} px apart")
        spatial.append(delivery)
    trues = [case.stored.delivery for case in cases]
    found = [analyse(delivery) for delivery in spatial]
    _print_events("from two clips", cases, found)
    _print_angles("angles in space, two clips", found, [analyse(true) for true in trues])
    stops = [case.truth["events"] for case in cases]
    _print_angles(
        "angles in space, stops by hand",
        *(
            [analyse(replace(d, by_hand=StopsByHand(s))) for d, s in zip(side, stops, strict=True)]
            for side in (spatial, trues)
        ),
    )


def _case(name: str, size: str) -> Case:
    stored = load(DEMO / f"{name}.csv")
    truth = json.loads((DEMO / f"{name}.truth.json").read_text())
    found = {}
    for clip in stored.clips:
        with ClipReader(clip.path) as reader:
            times, shape = reader.times, reader.size
        people = find_people(clip.path, times.size, shape)
        crop = people[0].reach(shape)
        cache = user_cache_path("waxtwin") / "landmarks"
        marks = finish(find_landmarks(clip.path, times, stored.delivery.throws, size=size, crop=crop, cache=cache))
        assert isinstance(marks, Marks)
        found[clip.view] = marks
    return Case(stored, truth, found)


def _delivery(case: Case, marks: Marks, view: str, events: dict[str, float] | None) -> Delivery:
    camera = case.camera(view)
    track = place(marks, camera, view)
    return replace(
        case.stored.delivery,
        track=track,
        sight=sight_of(camera, view, marks),
        by_hand=StopsByHand(events or {}),
        notes=(),
    )


def _from_side(case: Case, events: dict[str, float] | None = None) -> Analysis:
    return analyse(_delivery(case, cleaned(case.marks["open side"]), "open side", events))


def _ideal_side(case: Case, events: dict[str, float] | None = None) -> Analysis:
    """What a perfect landmark model would give: the true landmarks seen by the same camera."""
    track = case.stored.delivery.track
    flat, _ = project(case.camera("open side").matrix, track.points)
    marks = replace(Marks.empty(track.times), points=flat, confidence=track.confidence)
    return analyse(_delivery(case, marks, "open side", events))


def _in_space(case: Case) -> tuple[Delivery, float, float]:
    """Both clips joined, the second one's clock set off by a known amount first; the offset that was missed."""
    shift = 0.3071
    two = case.marks["front"]
    marks = (case.marks["open side"], replace(two, times=two.times + shift))
    clocks = (ClipClock(), ClipClock())
    cameras = (case.camera("open side"), case.camera("front"))
    found = synchronise(*marks, clocks, cameras)
    track, error = in_space(cleaned(marks[0]), cleaned(marks[1]), clocks, cameras, found.offset)
    sight = Sight(by_model=True)
    return replace(case.stored.delivery, track=track, sight=sight, notes=()), found.offset + shift, error


def _print_events(title: str, cases: list[Case], autos: list[Analysis]) -> None:
    print(f"{title}: frames off (240/s), each pitcher, median of the sizes")
    for stop in ORDER:
        off = [
            (auto.events[stop].time - case.truth["events"][stop]) * 240 if stop in auto.events else np.nan
            for case, auto in zip(cases, autos, strict=True)
        ]
        each = "  ".join(f"{value:+6.1f}" for value in off)
        median = np.nan if np.isnan(off).all() else np.nanmedian(np.abs(off))
        print(f"{stop:14s}  {each}   {median:5.1f}")


def _print_angles(title: str, found: list[Analysis], true: list[Analysis]) -> None:
    per_measure: dict[str, list[float]] = {}
    for one, other in zip(found, true, strict=True):
        for item in MEASURES.values():
            a, b = one.measures[item.id].value, other.measures[item.id].value
            if item.unit == "deg" and a is not None and b is not None:
                per_measure.setdefault(item.id, []).append(abs(a - b))
    everything = [value for values in per_measure.values() for value in values]
    print(f"{title}: median {np.median(everything):.1f} deg over {len(everything)} values")
    for name, values in sorted(per_measure.items(), key=lambda item: np.median(item[1])):
        print(f"    {name:32s} {np.median(values):6.1f}   ({', '.join(f'{v:.1f}' for v in values)})")


def _print_hand(found: list[Analysis], true: list[Analysis]) -> None:
    name = "peak_speed_throwing_hand"
    off = [100 * (a.measures[name].value / b.measures[name].value - 1) for a, b in zip(found, true, strict=True)]
    print(f"peak hand speed, % off: {', '.join(f'{v:+.1f}' for v in off)}; median size {np.median(np.abs(off)):.1f}")


if __name__ == "__main__":
    main()
