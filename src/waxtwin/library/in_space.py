"""A throw of one clip, estimated in space from a few clicks on hips and shoulders."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from waxtwin.core.analysis import Analysis
from waxtwin.core.depth.scene import Moments
from waxtwin.core.errors import TrackError
from waxtwin.core.estimated import InSpace
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import ACCEPTED, HAND, Marks
from waxtwin.core.placing import UNSEEN
from waxtwin.core.steps import Steps
from waxtwin.library.arrays import pack_in_space
from waxtwin.library.preparing import Preparation, ViewState
from waxtwin.library.store import Library
from waxtwin.library.throws import delivery_row

CLICKED = ("drive_hip", "lead_hip", "throwing_shoulder", "glove_shoulder")
# Where in the throw they are clicked: at the landing, a little before it and on the way to release, in shares of the
# way from landing to release; there hips and shoulders turn, and a centimetre says most.
MOMENTS = (-0.2, 0.0, 0.4)
_NEEDED = {"peak_knee": "the lift", "foot_contact": "the landing", "release": "the release"}


@dataclass(frozen=True)
class Click:
    """A joint to be clicked on a frame of the clip, and whether that is done."""

    frame: int
    landmark: str
    done: bool


def clicks_wanted(view: ViewState, stops: Mapping[str, float]) -> tuple[Click, ...]:
    """The twelve clicks, frame by frame; none while landing and release are not known. `stops` {id: s of the throw}."""
    marks = view.marks
    if marks is None or not {"foot_contact", "release"} <= set(stops):
        return ()
    landing, span = stops["foot_contact"], stops["release"] - stops["foot_contact"]
    wanted = []
    for share in MOMENTS:
        frame = int(np.argmin(np.abs(marks.times - view.clock.to_clip(landing + share * span))))
        wanted += [Click(frame, name, _clicked_near(marks, frame, name)) for name in CLICKED]
    return tuple(wanted)


def _clicked_near(marks: Marks, frame: int, landmark: str) -> bool:
    """Whether a joint was clicked or accepted within a frame of where it is wanted: stops move a little."""
    near = slice(max(frame - 1, 0), frame + 2)
    return bool((marks.source[near, INDEX[landmark]] >= ACCEPTED).any())


def estimated(work: Preparation, view: ViewState, found: Analysis) -> Steps[InSpace]:
    """The throw in space from one clip's marks. Raises TrackError, which names the clip and what is missing."""
    from waxtwin.core.depth.fit import OneCamera, estimate_steps

    times = found.event_times
    lost = [words for stop, words in _NEEDED.items() if stop not in times]
    marks = view.marked
    if marks is None or lost:
        raise TrackError(f"{view.name}: {' and '.join(lost) or 'landmarks'} must be known for an estimate in space")
    camera = view.camera or view.guessed_camera(marks, work.athlete)
    moments = Moments(times["peak_knee"], times["foot_contact"], times["release"])
    own = replace(marks, times=np.asarray(view.clock.to_throw(marks.times)))
    throws, hidden, height = work.athlete.throws, UNSEEN[view.view], found.motion.height
    footage = OneCamera(own, camera, throws, hidden, height, moments, found.motion.offsets)
    fit = yield from estimate_steps(footage)
    wanted = clicks_wanted(view, times)
    count = int((marks.source[:, [INDEX[name] for name in CLICKED]] >= HAND).sum())
    why = f"{count} clicks on hips and shoulders in {view.name}" if count else f"the landmarks of {view.name} alone"
    return replace(fit, why=why, clicked=all(click.done for click in wanted))


def keep_in_space_estimate(library: Library, work: Preparation, found: InSpace | None) -> None:
    """Keep an estimate beside the throw's track, or let it go."""
    with library.change("Estimate in space" if found is not None else "Drop the estimate in space") as session:
        row = delivery_row(session, work.key)
        row.in_space = None if found is None else library.put(session, pack_in_space(found))
