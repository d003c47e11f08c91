"""Who is in a clip, and who of them is the pitcher."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waxtwin.capture.pose import Crop, Task, shared_out, stream
from waxtwin.core.steps import Steps, part

LOOKS = 12
_PEOPLE = 5
_WHOLE = 0.2  # of the work: the whole picture is one of five that a look takes
_PART = 0.4  # of the picture's longer side: how much of it each part shows
_LARGE = 0.7  # a person's share of the picture from which a crop gains nothing


@dataclass(frozen=True)
class Person:
    """Somebody seen in a clip: `frames` (looks,) and `boxes` (looks, 4) x0, y0, x1, y1 pixels; `activity` is how far
    the body's points move between looks, in body sizes.
    """  # fmt: skip

    frames: np.ndarray
    boxes: np.ndarray
    activity: float

    def box_at(self, frame: int) -> np.ndarray:
        """The box nearest in time to a frame."""
        return np.asarray(self.boxes[int(np.argmin(np.abs(self.frames - frame)))])

    def reach(self, size: tuple[int, int]) -> Crop | None:
        """The part of the picture that the person moves in, with room around; None for nearly all of it."""
        low, high = self.boxes[:, :2].min(axis=0), self.boxes[:, 2:].max(axis=0)
        room = 0.35 * (high - low).max()
        x0, y0 = np.maximum(low - room, 0).astype(int)
        x1, y1 = np.minimum(high + room, size).astype(int)
        if (x1 - x0) * (y1 - y0) > _LARGE * size[0] * size[1]:
            return None
        return int(x0), int(y0), int(x1), int(y1)


def find_people(
    clip: Path, frames: int, size: tuple[int, int], *, model: str = "lite", looks: int = LOOKS, thorough: bool = False
) -> Steps[list[Person]]:
    """Everybody in a few frames spread over the clip, the likeliest pitcher first. Raises ClipError.

    Small, distant people are missed in the whole picture: its overlapping parts are looked at as well when that finds
    nobody, or when it is to be `thorough`.
    """
    chosen = [int(i) for i in np.unique(np.linspace(0, frames - 1, looks).astype(int))]
    seen = yield from part(_seen(clip, chosen, model, (None,)), 0.0, _WHOLE)
    if thorough or not seen:
        w, h = size
        if w >= h:
            parts: list[Crop] = [(int(x), 0, int(x + w * _PART), h) for x in np.linspace(0, w * (1 - _PART), 4)]
        else:
            parts = [(0, int(y), w, int(y + h * _PART)) for y in np.linspace(0, h * (1 - _PART), 4)]
        seen += yield from part(_seen(clip, chosen, model, parts), _WHOLE, 1.0)
    return propose(_followed(_once(seen)))


def _seen(clip: Path, frames: list[int], model: str, crops: Sequence[Crop | None]) -> Steps[list[np.ndarray]]:
    """Sightings in these frames, in each of the crops."""
    found, looked_at = [], set()
    for record in stream([Task(str(clip), share, model, crops, _PEOPLE) for share in shared_out(frames)]):
        if record[0]["seen"]:
            found.append(record[0])
        looked_at.add(int(record[0]["frame"]))
        yield (len(looked_at) - 1) / len(frames)  # more of this frame may come
    return found


def _once(records: list[np.ndarray]) -> list[np.ndarray]:
    """Each person once per frame: of sightings that overlap, the one whose points are surest."""
    kept: list[np.ndarray] = []
    for record in sorted(records, key=lambda r: -float(r["points"][:, 2].mean())):
        same = [k for k in kept if k["frame"] == record["frame"]]
        if all(_overlap(_box(k), _box(record)) < 0.5 for k in same):
            kept.append(record)
    return kept


def propose(people: list[Person]) -> list[Person]:
    """The likeliest pitcher first: who moves most for being seen most, large before small."""

    def weight(person: Person) -> float:
        size = float(np.median(person.boxes[:, 3] - person.boxes[:, 1]))
        return person.activity * len(person.frames) * size

    return sorted(people, key=weight, reverse=True)


def _followed(records: list[np.ndarray]) -> list[Person]:
    """People put together over the looks: each sighting goes to whoever was last seen nearest."""
    chains: list[list[np.ndarray]] = []
    for record in sorted(records, key=lambda r: int(r["frame"])):
        box = _box(record)
        open_to = [c for c in chains if c[-1]["frame"] != record["frame"]]
        distances = [np.hypot(*(_middle(_box(c[-1])) - _middle(box))) / max(box[3] - box[1], 1.0) for c in open_to]
        if distances and min(distances) < 0.9:
            open_to[int(np.argmin(distances))].append(record)
        elif not any(c[-1]["frame"] == record["frame"] and _overlap(_box(c[-1]), box) > 0.5 for c in chains):
            chains.append([record])
    return [_person(chain) for chain in chains]


def _person(chain: list[np.ndarray]) -> Person:
    boxes = np.array([_box(record) for record in chain])
    points = np.array([record["points"][:, :2] for record in chain])
    height = max(float(np.median(boxes[:, 3] - boxes[:, 1])), 1.0)
    steps = np.linalg.norm(np.diff(points, axis=0), axis=-1).mean(axis=1) / height
    return Person(np.array([int(r["frame"]) for r in chain]), boxes, float(steps.sum() / len(chain)))


def _box(record: np.ndarray) -> np.ndarray:
    points = record["points"][:, :2]
    return np.array([*points.min(axis=0), *points.max(axis=0)], float)


def _middle(box: np.ndarray) -> np.ndarray:
    return np.asarray((box[:2] + box[2:]) / 2)


def _overlap(a: np.ndarray, b: np.ndarray) -> float:
    inner = np.minimum(a[2:], b[2:]) - np.maximum(a[:2], b[:2])
    shared = float(np.prod(np.maximum(inner, 0)))
    return shared / max(min(float(np.prod(a[2:] - a[:2])), float(np.prod(b[2:] - b[:2]))), 1.0)
