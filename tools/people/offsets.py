"""Measures where the landmark model puts joints against where they are, on a filmed cast: writes the core's table.

`python -m tools.people.offsets CAST...` looks at every clip of the casts with the thorough model (what was found is
kept), places the marks as the program does, and compares with the rig's own joints at the true stops.
"""

from __future__ import annotations

import argparse
import json
import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from tools.people.marks import marks_in

from waxtwin.core.landmarks import INDEX, LANDMARKS, OPTIONAL
from waxtwin.core.marks import Marks
from waxtwin.core.model_offsets import MOMENTS, moments_of, table_of
from waxtwin.core.placing import UNSEEN, body_camera, place
from waxtwin.formats.sidecar import Sidecar, read_sidecar
from waxtwin.formats.tracks import read_track

TABLE = Path(__file__).parents[2] / "src" / "waxtwin" / "core" / "model_offsets_table.py"
_AROUND = 0.012  # s either side of a moment
_LEAST = 0.4  # % of height: less scatter than this is chance
_JOINTS = tuple(name for name in LANDMARKS if name == "nose" or name not in OPTIONAL)


def main() -> None:
    parser = argparse.ArgumentParser(description="Measure the landmark model on a filmed cast.")
    parser.add_argument("casts", nargs="+", type=Path)
    args = parser.parse_args()
    found: dict[str, list[np.ndarray]] = {}
    for cast in args.casts:
        for sidecar in sorted(cast.glob("teach-*.delivery.json")):
            for name, off in _of_person(sidecar):
                found.setdefault(name, []).append(off)
    _write({name: np.stack(those) for name, those in found.items() if len(those) >= 3})


def _of_person(path: Path) -> Iterator[tuple[str, np.ndarray]]:
    """(table, (moments, joints, 2) in % of height) of every clip of a person."""
    sidecar: Sidecar = read_sidecar(path)
    stem = path.name.removesuffix(".delivery.json")
    truth = json.loads((path.parent / f"{stem}.truth.json").read_text())["events"]
    who = sidecar.athlete
    assert who.height_m is not None
    true, _ = read_track(path.parent / f"{stem}.csv", who.throws, None)
    for view in sidecar.views:
        marks, size = marks_in(path.parent / view.file, who.throws)
        camera = body_camera(marks, view.camera, who.throws, who.height_m, size)
        track = place(marks, camera, view.camera).canonical(who.throws)
        there, hidden = true.canonical(who.throws), UNSEEN[view.camera]
        off = _off(marks, track.points, there.points, there.times, truth, hidden, who.height_m)
        yield table_of(view.camera, camera.yaw), off


def _off(
    marks: Marks, points: np.ndarray, true: np.ndarray, times: np.ndarray, stops: dict[str, float], hidden: int,
    height: float,
) -> np.ndarray:  # fmt: skip
    moments = moments_of(stops)
    assert moments is not None
    joints, seen = [INDEX[name] for name in _JOINTS], [1 - hidden, 2]
    out = np.full((len(MOMENTS), len(joints), 2), np.nan)
    for k, moment in enumerate(moments):
        near = np.abs(marks.times - moment) <= _AROUND
        if not near.any():
            continue
        there = np.stack([np.interp(marks.times[near], times, true[:, j, axis]) for j in joints for axis in seen], -1)
        away = points[near][:, joints][..., seen] - there.reshape(near.sum(), len(joints), 2)
        with np.errstate(all="ignore"):
            out[k] = 100 * np.nanmedian(away, axis=0) / height
    return out


def _write(found: dict[str, np.ndarray]) -> None:
    lines = [
        '"""What a landmark model is off: made by `python -m tools.people.offsets`, not by hand.',
        "",
        "Per view, landmark and moment: (along the axis that is seen, up), % of standing height; OFF the median over",
        "the people of the teaching cast, VARIES its standard deviation between them.",
        '"""', "", "# fmt: off",
    ]  # fmt: skip
    for title, value in (("OFF", _middle), ("VARIES", _spread)):
        lines.append(f"{title}: dict[str, dict[str, list[tuple[float, float]]]] = {{")
        for name, people in sorted(found.items()):
            lines.append(f'    "{name}": {{  # {len(people)} people')
            figures = value(people)
            for j, joint in enumerate(_JOINTS):
                row = ", ".join(f"({x:.1f}, {z:.1f})" for x, z in figures[:, j])
                lines.append(f'        "{joint}": [{row}],')
            lines.append("    },")
        lines.append("}")
    TABLE.write_text(re.sub(r"-0\.0\b", "0.0", "\n".join(lines)) + "\n")


def _middle(people: np.ndarray) -> np.ndarray:
    """The median, pulled to nothing where few people show it."""
    count = np.isfinite(people).sum(axis=0)
    with np.errstate(all="ignore"):
        return np.nan_to_num(np.nanmedian(people, axis=0)) * np.where(count >= 2, count / (count + 0.5), 0.0)


def _spread(people: np.ndarray) -> np.ndarray:
    """Between people, robustly; where few show it, as wide as what is off elsewhere."""
    count = np.isfinite(people).sum(axis=0)
    with np.errstate(all="ignore"):
        middle = np.nanmedian(people, axis=0)
        scatter = 1.4826 * np.nanmedian(np.abs(people - middle), axis=0)
        plain = np.nanstd(people, axis=0)
    scatter = np.maximum(np.nan_to_num(0.5 * (scatter + plain)), _LEAST) * np.sqrt(1 + 1 / np.maximum(count, 1))
    return np.where(count >= 3, scatter, np.maximum(scatter, 3.0))


if __name__ == "__main__":
    main()
