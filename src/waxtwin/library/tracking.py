"""From a clip file to a track file without a screen: people, landmarks, mending, camera, sidecar."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from waxtwin.core.camera import Camera
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.marks import Marks
from waxtwin.core.pace import likely_rate
from waxtwin.core.placing import (
    ARMS,
    VIEWS,
    ClipClock,
    body_camera,
    place,
    runs_forward,
    sight_of,
    suggest_view,
    throwing_arm,
)
from waxtwin.core.steps import Steps
from waxtwin.core.track import check_track
from waxtwin.formats.files import FormatError
from waxtwin.formats.place import sidecar_path
from waxtwin.formats.sidecar import Calibration, SeenBy, Sidecar, View, read_sidecar, write_sidecar
from waxtwin.formats.tracks import write_track

if TYPE_CHECKING:
    from waxtwin.capture.clip import ClipFacts


@dataclass(frozen=True)
class Wish:
    """What the user said about the clip; None is found out or taken from the sidecar."""

    view: str | None = None
    throws: str | None = None
    height: float | None = None
    size: str = "heavy"
    capture_fps: float | None = None


def track_clip(clip: Path, wish: Wish, target: Path, note: Callable[[str], object]) -> Steps[None]:
    """Write the track of a clip and its sidecar; `note` is told what is not known. Raises WaxTwinError."""
    from waxtwin.capture.clip import ClipReader
    from waxtwin.capture.pitcher import find_pitcher
    from waxtwin.capture.pose import SIZES

    _check(wish, SIZES)
    if not clip.is_file():
        raise FormatError(clip, "there is no such file")
    beside = sidecar_path(clip)
    sidecar = read_sidecar(beside) if beside.is_file() else Sidecar()
    known = next((v for v in sidecar.views if Path(v.file).name == clip.name), None)
    throws = wish.throws or sidecar.athlete.throws
    with ClipReader(clip) as reader:
        facts, times = reader.facts, reader.times
    captured = wish.capture_fps or sidecar.capture_fps or facts.captured
    clock = ClipClock(0.0, captured / facts.rate if captured else 1.0)
    said = wish.throws is not None or beside.is_file()
    marks = yield from find_pitcher(clip, times, facts.size, throws, clock, model=wish.size, said=said)
    likely = None if captured else likely_rate(marks, facts.rate)
    clock = ClipClock(0.0, likely / facts.rate) if likely else clock
    for odd in _oddities(marks, facts, clock, likely):
        note(odd)
    marks = marks.once()
    arm = throws if said else throwing_arm(marks, throws, clock.slow) or throws
    if arm != throws:
        note(f"It looks thrown with the {ARMS[arm]} arm; say --throws if that is wrong.")
        throws, marks = arm, marks.other_arm()
    view = wish.view or (known.camera if known is not None and known.camera != "other" else None)
    if view is None:
        view = suggest_view(marks, throws)
        if view is None:
            raise FormatError(clip, f"it does not show from where it was filmed; say --view ({', '.join(VIEWS[:-1])})")
        note(f"It looks filmed from the {view}; say --view if that is wrong.")
    height = wish.height or sidecar.athlete.height_m
    camera = known.calibration.camera() if known is not None and known.calibration is not None else None
    if camera is None:
        camera = body_camera(marks, view, throws, height, facts.size)
        note(_told(camera, view, height))
    track = place(marks, camera, view, clock)
    try:
        check_track(track)
    except WaxTwinError as fault:
        raise FormatError(clip, str(fault)) from None
    if view in ("open side", "closed side") and not runs_forward(track):
        note("The pitcher moves away from the plate: is it the other side, or the other arm?")
    write_track(track, target)
    seen = SeenBy.of(replace(sight_of(camera, view, marks, height), paced=likely is None))
    write_sidecar(_sidecar(sidecar, clip, view, camera, clock, throws, height, captured, seen), sidecar_path(target))


def _oddities(marks: Marks, facts: ClipFacts, clock: ClipClock, likely: float | None) -> Iterator[str]:
    """What is unusual about a clip's frames, and what follows from it."""
    if likely is not None:
        yield (
            f"It seems slowed about {clock.slow:.0f} times and counts as taken at {likely:.0f} frames a second; "
            "nothing timed is shown until --capture-fps says the true rate."
        )
    if told := marks.told_repeats(clock.slow):
        yield f"{told}."
    if facts.woven:
        yield "It is interlaced: each picture holds two instants. The Prepare room takes its fields apart."


def _told(camera: Camera, view: str, height: float | None) -> str:
    """What the figure alone says about its camera."""
    lengths = "lengths are shares of the standing height; say --height for metres" if height is None else "lengths too"
    turned = f", and the camera stands about {abs(camera.yaw):.0f}° off the {view}" if camera.yaw else ""
    return f"The scale is the body's own (± {100 * camera.scale_sd:.0f} %): {lengths}{turned}."


def _check(wish: Wish, sizes: tuple[str, ...]) -> None:
    for said, known, what in (
        (wish.view, VIEWS[:-1], "view"), (wish.throws, ("R", "L"), "arm"), (wish.size, sizes, "model"),
    ):  # fmt: skip
        if said is not None and said not in known:
            raise WaxTwinError(f"there is no {what} named {said}; there are {', '.join(known)}")


def _sidecar(  # noqa: PLR0913 - everything that became known of the clip
    sidecar: Sidecar, clip: Path, view: str, camera: Camera, clock: ClipClock, throws: str, height: float | None,
    captured: float | None, sight: SeenBy,
) -> Sidecar:  # fmt: skip
    """The sidecar of the new track: what was known, with this clip, its camera and how well it sees."""
    seen = View.model_validate({
        "file": clip.name, "camera": view, "calibration": Calibration.of(camera), "start_s": clock.start,
        "slow": clock.slow,
    })  # fmt: skip
    others = [v for v in sidecar.views if Path(v.file).name != clip.name]
    return sidecar.model_copy(
        update={
            "athlete": sidecar.athlete.model_copy(update={"throws": throws, "height_m": height}),
            "views": [seen, *others], "capture_fps": captured,
            "sight": sight,
        }
    )  # fmt: skip
