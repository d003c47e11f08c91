"""The pitcher's landmarks in a clip: who is meant, then the model's marks, mended."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from platformdirs import user_cache_path

from waxtwin.capture.clip import ClipError
from waxtwin.capture.frame_check import fresh_frames
from waxtwin.capture.people import Person, find_people
from waxtwin.capture.pose import find_landmarks
from waxtwin.core.errors import shown_name
from waxtwin.core.marks import Marks
from waxtwin.core.placing import ClipClock, throwing_arm
from waxtwin.core.repair import cleaned
from waxtwin.core.steps import Steps, part

SUREST = "heavy"  # by far, and a throw takes it half a minute
_LOOK = 0.05  # share of the work in which it is seen who is there
_CHECK = 0.1  # and by which it is known whether frames repeat


def find_pitcher(  # noqa: PLR0913 - what is known of a clip, and how it is to be looked at
    clip: Path, times: np.ndarray, size: tuple[int, int], throws: str, clock: ClipClock, *,
    name: str = "", model: str = SUREST, trim: tuple[float, float] | None = None, who: Person | None = None,
    gentle: bool = False, said: bool = True,
) -> Steps[Marks]:  # fmt: skip
    """Marks of the likeliest pitcher, or of `who`, in the frames at `times` (frames,) s within the `trim`; what was
    begun is gone on with. A `gentle` search leaves the machine to whoever works at it.

    The limbs are named for the arm in `throws`. Where nobody has `said` which arm it is, they are mended by the arm
    that seems to throw, so that another name later is only another name. Raises ClipError, which calls the clip by
    `name`, when nobody can be seen; or when the model stops.
    """
    yield 0.0
    name = name or shown_name(clip)
    pitcher = who
    if pitcher is None:
        found = yield from part(find_people(clip, times.size, size), 0.0, _LOOK)
        if not found:
            raise ClipError(f"{name}: nobody can be seen in this clip; click the landmarks by hand")
        pitcher = found[0]
    first, last = trim or (float(times[0]), float(times[-1]))
    inside = np.flatnonzero((times >= first - 1e-9) & (times <= last + 1e-9))
    if not inside.size:
        raise ClipError(f"{name}: the trim leaves no frame of this clip")
    fresh = yield from part(fresh_frames(clip), _LOOK, _CHECK)
    marks = yield from part(find_landmarks(
        clip, times, throws, size=model, frames=(int(inside[0]), int(inside[-1]) + 1), crop=pitcher.reach(size),
        cache=user_cache_path("waxtwin") / "landmarks", gentle=gentle,
    ), _CHECK, 1.0)  # fmt: skip
    if fresh.all():
        return _mended(marks, throws, clock, said)
    # a repeated picture is a stop and a leap that nobody made
    return marks.repeating(fresh, _mended(replace(marks, fresh=fresh).once(), throws, clock, said))


def _mended(marks: Marks, throws: str, clock: ClipClock, said: bool) -> Marks:
    if not said and throwing_arm(marks, throws, clock.slow) not in (None, throws):
        return cleaned(marks.other_arm(), clock.slow).other_arm()
    return cleaned(marks, clock.slow)
