"""Marks: landmarks in the picture of one clip, in pixels, before any camera turns them into a track.

Every edit returns new marks; nothing automatic ever moves a mark that a person has set or accepted.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from waxtwin.core.landmarks import LANDMARKS
from waxtwin.core.smoothing import GAP_SECONDS, fill_gaps, runs

NONE, MODEL, FLOW, FILLED, ACCEPTED, HAND = range(6)
SOURCES = ("missing", "model", "optical flow", "filled", "accepted", "by hand")
_ARM, _LEG = ("shoulder", "elbow", "wrist", "hand"), ("hip", "knee", "ankle", "heel", "toe")
# Which landmarks change places when left and right are taken for each other.
PARTNERS: dict[str, tuple[tuple[str, str], ...]] = {
    "arms": tuple((f"throwing_{part}", f"glove_{part}") for part in _ARM),
    "legs": tuple((f"drive_{part}", f"lead_{part}") for part in _LEG),
}


@dataclass(frozen=True, eq=False)
class Marks:
    """`times` (frames,) seconds on the clip's clock; `points` (frames, landmarks, 2) pixels of the upright picture,
    x right, y down, NaN where missing; `confidence` (frames, landmarks) 0 to 1; `source` (frames, landmarks), an
    index into SOURCES. `world` (frames, landmarks, 3) is where the model believes the body's points to lie about the
    hips, metres along the camera's right, down and ahead; None where no model looked. `fresh` (frames,) is whether a
    frame shows an instant of its own; None where each does.
    """  # fmt: skip

    times: np.ndarray
    points: np.ndarray
    confidence: np.ndarray
    source: np.ndarray
    world: np.ndarray | None = None
    fresh: np.ndarray | None = None

    @classmethod
    def empty(cls, times: np.ndarray) -> Marks:
        """No mark yet on any frame."""
        shape = (times.size, len(LANDMARKS))
        return cls(times, np.full((*shape, 2), np.nan), np.zeros(shape), np.full(shape, NONE, np.uint8))

    @property
    def fixed(self) -> np.ndarray:
        """(frames, landmarks) of the marks that a person set or accepted."""
        return self.source >= ACCEPTED

    @property
    def seen(self) -> np.ndarray:
        """(frames, landmarks) of the marks that are there."""
        return np.asarray(~np.isnan(self.points[..., 0]))

    def put(self, frame: int, landmark: int, x: float, y: float) -> Marks:
        """A mark set by hand."""
        points, confidence, source = self.points.copy(), self.confidence.copy(), self.source.copy()
        points[frame, landmark] = (x, y)
        confidence[frame, landmark], source[frame, landmark] = 1.0, HAND
        return replace(self, points=points, confidence=confidence, source=source)

    def accept(self, frames: slice, landmark: int) -> Marks:
        """Lock what is there: later automatic steps leave it alone."""
        source = self.source.copy()
        part = source[frames, landmark]
        part[(part != NONE) & (part < ACCEPTED)] = ACCEPTED
        return replace(self, source=source)

    def drop(self, chosen: np.ndarray) -> Marks:
        """Without the marks where `chosen` (frames, landmarks) is true."""
        points, confidence, source = self.points.copy(), self.confidence.copy(), self.source.copy()
        points[chosen], confidence[chosen], source[chosen] = np.nan, 0.0, NONE
        return replace(self, points=points, confidence=confidence, source=source)

    def exchange(self, group: str, start: int, stop: int) -> Marks:
        """Left and right of a group changed over in frames [start, stop), where a model took them for each other: it
        has read the body mirrored in depth as well.
        """
        return self._renamed(group, slice(start, stop), -1.0)

    def other_arm(self) -> Marks:
        """The same marks of somebody who throws with the other arm: every limb's name changes sides, nothing else."""
        turned = self
        for group in PARTNERS:
            turned = turned._renamed(group, slice(None), 1.0)
        return turned

    def _renamed(self, group: str, frames: slice, depth: float) -> Marks:
        """Left and right of a group changed over, their depths times `depth`."""
        arrays = {"points": self.points, "confidence": self.confidence, "source": self.source}
        if self.world is not None:
            arrays["world"] = self.world * np.array([1.0, 1.0, depth])
        changed = {name: getattr(self, name).copy() for name in arrays}
        for a, b in PARTNERS[group]:
            i, j = LANDMARKS.index(a), LANDMARKS.index(b)
            for name, values in changed.items():
                values[frames, [i, j]] = arrays[name][frames, [j, i]]
        return replace(self, **changed)

    def merged(self, newer: Marks, source: int) -> Marks:
        """Marks of a newer automatic run wherever it saw something and no person has decided."""
        take = newer.seen & ~self.fixed
        return replace(
            self,
            points=np.where(take[..., None], newer.points, self.points),
            confidence=np.where(take, newer.confidence, self.confidence),
            source=np.where(take, np.uint8(source), self.source),
            world=self.world if newer.world is None else newer.world,
            fresh=self.fresh if newer.fresh is None else newer.fresh,
        )

    def rate(self, slow: float = 1.0) -> float:
        """True pictures per second of a clip that plays `slow` times too slowly, repeats not counted."""
        times = self.times if self.fresh is None else self.times[self.fresh]
        span = float(times[-1] - times[0]) if times.size > 1 else 0.0
        return slow * (times.size - 1) / span if span > 0 else 1.0

    def filled(self, longest: float = GAP_SECONDS, slow: float = 1.0) -> Marks:
        """Gaps of at most `longest` true seconds closed by a cubic through their neighbourhood."""
        rate = self.rate(slow)
        points = fill_gaps(self.points, rate, longest)
        new = ~np.isnan(points[..., 0]) & ~self.seen
        return replace(
            self, points=points, confidence=np.where(new, 0.5, self.confidence),
            source=np.where(new, np.uint8(FILLED), self.source),
        )  # fmt: skip

    def moved(self, motion: np.ndarray) -> Marks:
        """The marks as a camera that stands still would have seen them: `motion` (frames, 2, 3) per frame."""
        turned = np.einsum("fij,fmj->fmi", motion[:, :, :2], self.points) + motion[:, None, :, 2]
        return replace(self, points=turned)

    def boxes(self) -> np.ndarray:
        """Where the figure is on each frame: `(frames, 4)` x0 y0 x1 y1, NaN where nothing is marked."""
        low = np.fmin.reduce(self.points, axis=1)
        high = np.fmax.reduce(self.points, axis=1)
        return np.concatenate([low, high], axis=1)

    def window(self, start: float, stop: float) -> Marks:
        """The frames shown from `start` to `stop` seconds, without those that repeat the one before."""
        keep = (self.times >= start - 1e-9) & (self.times <= stop + 1e-9)
        if self.fresh is not None:
            keep &= self.fresh
        world = None if self.world is None else self.world[keep]
        return Marks(self.times[keep], self.points[keep], self.confidence[keep], self.source[keep], world)

    def once(self) -> Marks:
        """The frames that show an instant of their own."""
        return self if self.fresh is None else self.window(-np.inf, np.inf)

    def told_repeats(self, slow: float = 1.0) -> str:
        """That frames repeat, in plain words; nothing where none does."""
        if self.fresh is None:
            return ""
        played = slow * (self.times.size - 1) / float(self.times[-1] - self.times[0])
        return (
            f"{int((~self.fresh).sum())} of {self.fresh.size} frames only repeat the one before: it shows "
            f"{self.rate(slow):.0f} pictures a second, not {played:.0f}"
        )

    def repeating(self, fresh: np.ndarray, once: Marks) -> Marks:
        """These frames with the marks of `once`, which has only the `fresh` ones; each other repeats the one before."""
        shown = np.maximum(np.cumsum(fresh) - 1, 0)
        world = None if once.world is None else once.world[shown]
        return Marks(self.times, once.points[shown], once.confidence[shown], once.source[shown], world, fresh)

    def gaps(self, landmark: int) -> list[tuple[int, int]]:
        """[start, stop) of the stretches in which a landmark that is seen elsewhere is missing."""
        return list(runs(~self.seen[:, landmark])) if self.seen[:, landmark].any() else []
