"""The camera of a clip in preparation: clicks and facts that give it, and its movement taken out."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from waxtwin.core.camera import Camera
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.field import LEAST_POINTS, SIZES, field_points
from waxtwin.core.placing import planar_camera
from waxtwin.core.steps import Steps
from waxtwin.library.preparing import Preparation, ViewState, keep_camera, keep_steadying
from waxtwin.ui.model.messages import Success

if TYPE_CHECKING:
    from waxtwin.capture.steady import Steadying
    from waxtwin.ui.rooms.prepare.flow import PrepareFlow

_STILL_PX = 3.0  # movement that following corners makes up by itself


class CameraEdits:
    """Carries out what is done about the camera of the clip that is looked at."""

    def __init__(self, flow: PrepareFlow) -> None:
        self._flow, self.state = flow, flow.state

    def click(self, name: str, x: float, y: float) -> None:
        now = self._flow.now()
        if now is None:
            return
        view = now[1]
        if view.steadying is not None and self.state.frame < len(view.steadying):
            x, y = view.steadying[self.state.frame] @ [x, y, 1.0]  # where the first frame's camera would show it
        clicks = {**view.clicks, "points": {**view.clicks.get("points", {}), name: [round(x, 2), round(y, 2)]}}
        self._set(clicks, f"Click {name.replace('_', ' ')}")

    def set_fact(self, label: str, /, **facts: object) -> None:
        """Another fact for the camera: kind of scale, known length, roll, the field's size, other points."""
        now = self._flow.now()
        if now is not None:
            self._set({**now[1].clicks, **facts}, label)

    def _set(self, clicks: dict[str, Any], label: str) -> None:
        now = self._flow.now()
        if now is None:
            return
        work, view = now
        try:
            camera = self._camera_from(work, view, clicks)
            self.state.said["camera"] = ""
        except WaxTwinError as fault:
            camera = None
            self.state.said["camera"] = str(fault)
        self._flow.keep(lambda library: keep_camera(library, work, view, camera, clicks, label))

    def _camera_from(self, work: Preparation, view: ViewState, clicks: dict[str, Any]) -> Camera | None:
        """The camera that the clicks give; None where it is not asked for or not enough is clicked yet."""
        kind, points = clicks.get("scale", "body"), clicks.get("points", {})
        if kind == "planar":
            ends = [points.get("length_from"), points.get("length_to")]
            if None in ends or not clicks.get("metres"):
                return None
            origin = points.get("origin") or self._origin_of(work, view)
            throws, roll = work.athlete.throws, clicks.get("roll", 0.0)
            return planar_camera(origin, (ends[0], ends[1]), clicks["metres"], view.view, throws, view.size, roll)
        if kind == "solved":
            from waxtwin.capture.solve import solve_camera

            size = SIZES.get(clicks.get("field", "adult"), SIZES["adult"])
            places = {name: point.place for name, point in field_points(size).items()}
            places |= {name: tuple(place) for name, place in clicks.get("others", {}).items()}
            clicked = {name: tuple(points[name]) for name in places if name in points}
            return solve_camera(clicked, places, view.size) if len(clicked) >= LEAST_POINTS else None
        return None

    def _origin_of(self, work: Preparation, view: ViewState) -> tuple[float, float]:
        """Where the rubber's front edge seems to be, from the back foot."""
        marks = view.marked
        if marks is None:
            return view.size[0] / 2, view.size[1] * 0.8
        camera = view.guessed_camera(marks, work.athlete)
        return float(camera.matrix[0, 3]), float(camera.matrix[1, 3])

    def forget(self) -> None:
        """No camera and no clicks."""
        self._set({}, "Forget the camera")

    def steady(self) -> None:
        """Take out the movement of a panning or shaking camera; told when there is none, or where it fails."""
        now, marks = self._flow.now(), self.state.marks
        if now is None:
            return
        work, view = now
        boxes = None if marks is None else marks.boxes()

        def steps() -> Steps[Steadying]:
            from waxtwin.capture.steady import steady

            return (yield from steady(view.path, boxes))

        def done(found: Steadying) -> None:
            said = f"{view.name}: the camera moves by up to {found.travel:.0f} pixels"
            if found.travel < _STILL_PX:
                self._flow.told.emit(f"{said}; it stands still.")
                return
            self._flow.keep(lambda library: keep_steadying(library, work, view, found.motion))
            if found.lost > 0:
                said += f"; the background was lost in {found.lost:.0%} of the frames, so trust lengths less there"
            self._flow.told.emit(Success(f"{said}. Marks are steadied against the first frame."))

        self._flow.jobs.start("steady", steps, done, self._flow.told.emit)
