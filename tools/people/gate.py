"""Which measures an estimate in space may show: its whole error on filmed people, against what ignorance would give.

`python -m tools.people.gate CAST...` estimates every clip from the open side, as it is and with twelve clicks of a
centimetre's scatter, and writes the core's table: a measure that is not in it is not shown.
"""

from __future__ import annotations

import argparse
import json
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
from tools.people.marks import marks_in

from waxtwin.core.analysis import Analysis, Delivery, analyse
from waxtwin.core.camera import project
from waxtwin.core.depth.fit import OneCamera, estimate_steps
from waxtwin.core.depth.scene import Moments
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import Marks
from waxtwin.core.measures import MEASURES
from waxtwin.core.placing import UNSEEN, body_camera, place, sight_of
from waxtwin.core.steps import finish
from waxtwin.core.stops import StopsByHand
from waxtwin.core.track import Track
from waxtwin.formats.sidecar import View, read_sidecar
from waxtwin.formats.tracks import read_track
from waxtwin.library.in_space import CLICKED, MOMENTS

TABLE = Path(__file__).parents[2] / "src" / "waxtwin" / "core" / "estimate_gate_table.py"
_SCATTER = 0.010  # m, of a click
_OPEN = 0.5  # of what ignorance would give
_FEWEST = 5
Errors = dict[str, dict[str, tuple[float, float]]]  # bare or clicked: {measure: (error, truth)}


def main() -> None:
    parser = argparse.ArgumentParser(description="Judge the estimate in space on filmed casts.")
    parser.add_argument("casts", nargs="+", type=Path)
    args = parser.parse_args()
    people = [path for cast in args.casts for path in sorted(cast.glob("*.delivery.json"))]
    with ProcessPoolExecutor(2) as pool:
        found = [errors for errors in pool.map(errors_of, people) if errors]
    gathered: dict[str, dict[str, list[tuple[float, float]]]] = {
        "bare": defaultdict(list),
        "clicked": defaultdict(list),
    }
    for errors in found:
        for how, measures in errors.items():
            for name, pair in measures.items():
                gathered[how][name].append(pair)
    _write(gathered, len(found))


def errors_of(path: Path) -> Errors:
    """What the estimate of a person's side clip is off, per measure; nothing where there is no such clip."""
    sidecar = read_sidecar(path)
    view = next((one for one in sidecar.views if one.file.endswith("-side.mp4")), None)
    if view is None:
        return {}
    stem = path.name.removesuffix(".delivery.json")
    stops = json.loads((path.parent / f"{stem}.truth.json").read_text())["events"]
    who = sidecar.athlete
    assert who.height_m is not None
    true, _ = read_track(path.parent / f"{stem}.csv", who.throws, None)
    inside = {name: float(np.clip(time, true.times[0], true.times[-1])) for name, time in stops.items()}
    truth = analyse(Delivery(stem, true, who.throws, who.height_m, by_hand=StopsByHand(inside)))
    marks, size = marks_in(path.parent / view.file, who.throws)
    clicked = _with_clicks(marks, view, true, stops)
    return {
        how: _errors(each, view.camera, who.throws, who.height_m, size, truth)
        for how, each in (("bare", marks), ("clicked", clicked))
    }  # fmt: skip


def _with_clicks(marks: Marks, view: View, true: Track, stops: dict[str, float]) -> Marks:
    assert view.calibration is not None
    rng = np.random.default_rng(len(view.file))
    for share in MOMENTS:
        moment = stops["foot_contact"] + share * (stops["release"] - stops["foot_contact"])
        frame = int(np.argmin(np.abs(marks.times - moment)))
        at = np.stack([np.interp(marks.times[frame], true.times, true.points[:, j, axis])
                       for j in range(true.points.shape[1]) for axis in range(3)]).reshape(-1, 3)  # fmt: skip
        flat, _ = project(view.calibration.camera().matrix, at + rng.normal(0, _SCATTER, at.shape))
        for name in CLICKED:
            marks = marks.put(frame, INDEX[name], *flat[INDEX[name]])
    return marks


def _errors(
    marks: Marks, view: str, throws: str, height: float, size: tuple[int, int], truth: Analysis
) -> dict[str, tuple[float, float]]:  # fmt: skip
    camera = body_camera(marks, view, throws, height, size)
    delivery = Delivery("clip", place(marks, camera, view), throws, height, sight=sight_of(camera, view, marks, height))
    found = analyse(delivery)
    at = found.event_times
    if not {"peak_knee", "foot_contact", "release"} <= set(at):
        return {}
    moments = Moments(at["peak_knee"], at["foot_contact"], at["release"])
    fit = finish(estimate_steps(OneCamera(marks, camera, throws, UNSEEN[view], height, moments, found.motion.offsets)))
    shown = analyse(replace(delivery, in_space=replace(fit, gated=False)))
    out = {}
    for name, item in MEASURES.items():
        value, true = shown.measures[name], truth.measures[name].value
        if value.estimated and value.value is not None and true is not None:
            error = value.value - true
            out[name] = ((error + 180) % 360 - 180 if item.unit == "deg" else error, true)
    return out


def _write(gathered: dict[str, dict[str, list[tuple[float, float]]]], people: int) -> None:
    lines = [
        '"""What an estimate in space may show: made by `python -m tools.people.gate`, not by hand.', "",
        f"From {people} filmed people, from the open side. Per measure: what the estimate is off on average, which is",
        "taken out; the doubt that is left, each person judged by what the others were off, with half of what was",
        "taken out; the standard deviation over deliveries. A measure is there when what is left is below half of it.",
        '"""', "",
        "# fmt: off", "OPEN: dict[str, dict[str, tuple[float, float, float]]] = {",
    ]  # fmt: skip
    for how, measures in gathered.items():
        lines.append(f'    "{how}": {{')
        for name, pairs in sorted(measures.items()):
            errors, truths = np.array(pairs).T
            spread, off, count = float(np.std(truths)), float(errors.mean()), errors.size
            others = (errors.sum() - errors) / max(count - 1, 1)
            left = float(np.sqrt(np.mean((errors - others) ** 2)))
            if count >= _FEWEST and left < _OPEN * spread:
                figures = f"({off:.4g}, {float(np.hypot(left, off / 2)):.4g}, {spread:.4g})"
                lines.append(f'        "{name}": {figures},  # left {left:.3g}, {count} people')
            else:
                told = f"off {off:.3g} on average, left {left:.3g} against {spread:.3g}, {count} people"
                lines.append(f"        # shut: {name}, {told}")
        lines.append("    },")
    TABLE.write_text("\n".join([*lines, "}"]) + "\n")


if __name__ == "__main__":
    main()
