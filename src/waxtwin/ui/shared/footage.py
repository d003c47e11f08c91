"""The clips of a pair under its figures' gauges: which clip shows what, and its frame at an instant."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QImage, QPainter

from waxtwin.core.analysis import Analysis
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.library.stored import Clip, StoredDelivery
from waxtwin.ui.model.closeup import Closeup
from waxtwin.ui.model.display import VIEW_NAMES
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.chalk_place import StagePlace
from waxtwin.ui.shared.framing import Framing
from waxtwin.ui.shared.posed_figure import paint_lit, seen_from

if TYPE_CHECKING:
    from waxtwin.capture.clip import ClipReader

STAGE = 1.08  # how much higher than wide a stage of the Pair room usually is
_ALIKE = {"rear": "front"}  # what is seen from the one is seen from the other


def footage_of(
    shown: Mapping[str, Analysis], throws: Mapping[str, Sequence[StoredDelivery]]
) -> dict[str, tuple[Clip, ...]]:
    """{side: clips} of what is shown, which is one of a side's `throws`: a session's typical one need not be the one
    that somebody chose.
    """
    found = {}
    for side, one in shown.items():
        throw = next((each for each in throws.get(side, ()) if each.is_of(one.delivery)), None)
        found[side] = () if throw is None else throw.clips
    return found


def clip_for(clips: Sequence[Clip], measures: Sequence[str], *, bare: bool = False) -> Clip | None:
    """Of a throw's clips the one in which the first measure's gauge is seen; without measures the one from the side,
    or whichever there is. None where no such clip lies there with a known camera. A `bare` throw has no gauges and
    asks for no camera.
    """
    there = [clip for clip in clips if clip.path.is_file()]
    if bare:
        return there[0] if there else None
    good = [clip for clip in there if clip.camera is not None]
    wanted = seen_from(MEASURES[measures[0]]) if measures else "side"
    fits = [clip for clip in good if _seen_from(clip) == wanted]
    if not measures:
        fits = fits or good
    return fits[0] if fits else None


def clips_for(
    footage: Mapping[str, Sequence[Clip]], measures: Sequence[str], bare: Collection[str] = ()
) -> dict[str, Clip]:
    """The clips of both sides that show a measure's gauge; none where one side has none, but of `bare` sides, which
    have no figure.
    """
    each = {side: clip_for(clips, measures, bare=side in bare) for side, clips in footage.items()}
    found = {side: clip for side, clip in each.items() if clip is not None}
    return found if len(found) == len(SIDES) else {side: clip for side, clip in found.items() if side in bare}


def _seen_from(clip: Clip) -> str:
    view = VIEW_NAMES.get(clip.view, "")
    return _ALIKE.get(view, view)


@contextmanager
def opened(clip: Clip, closeup: Closeup) -> Iterator[Footage]:
    """A clip while it is looked into. Raises ClipError."""
    from waxtwin.capture.clip import ClipReader

    with ClipReader(clip.path) as reader:
        yield Footage(clip, reader, closeup)


@dataclass(frozen=True)
class Footage:
    """A side's open clip; `closeup` is how near it is looked at where there are no landmarks to frame it by."""

    clip: Clip
    reader: ClipReader
    closeup: Closeup

    def paint(
        self, painter: QPainter, box: tuple[float, float], analysis: Analysis, time: float, lit: Sequence[Measure], *,
        framed: bool = False,
    ) -> StagePlace:  # fmt: skip
        """The frame of an instant with gauges over it, `framed` for the body as it stands there, or else for the whole
        throw; a left-hander is turned over, as the figures are. Returns where it lies.
        """
        picture = self.reader.read(self.reader.nearest(self.clip.clock.to_clip(time)))
        h, w = picture.shape[:2]
        motion, flips = analysis.motion, analysis.delivery.throws == "L"
        if motion.is_bare:
            flips = flips != self.closeup.turned
            framing = self._as_near((w, h), box, flips)
        else:
            bodies = motion.body_at(time) if framed else motion.bodies.reshape(-1, 3)
            framing = Framing.fit((w, h), box, self.clip.camera, motion.height, flips=flips)
            framing = framing.around(bodies, box, motion.height)
        framing.draw(painter, QImage(picture.data, w, h, picture.strides[0], QImage.Format.Format_RGB32))
        matrix = framing.matrix()
        if matrix is not None:
            paint_lit(painter, matrix, motion, motion.body_at(time), time, lit)
        axis = 1 if _seen_from(self.clip) == "front" else 0
        return StagePlace(motion, time, matrix, np.ones(3), framing, self.clip, axis, flips)

    def _as_near(self, frame: tuple[int, int], box: tuple[float, float], flips: bool) -> Framing:
        """The whole frame, or what a stage shows of it that is looked at nearer, with what there is room for beside."""
        if self.closeup.zoom <= 1.0:
            return Framing.fit(frame, box, None, None, flips=flips, whole=True)
        width = min(box[0], box[1] / STAGE)
        stage = (width, width * STAGE)
        near = Framing.fit(frame, stage, None, None, flips=flips, whole=True).nearer(self.closeup.matrix(*stage))
        dx, dy = ((box[k] - stage[k]) / 2 for k in (0, 1))
        return replace(near, width=box[0], dx=near.dx + dx, dy=near.dy + dy)
