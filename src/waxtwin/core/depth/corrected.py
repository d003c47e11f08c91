"""A clip's marks without what their model is usually off in its view, before two clips are joined."""

from __future__ import annotations

from collections.abc import Mapping

from waxtwin.core.camera import Camera, yaw_of
from waxtwin.core.depth.scene import Moments, Sighting, put_right
from waxtwin.core.marks import Marks
from waxtwin.core.model_offsets import offsets_of
from waxtwin.core.placing import UNSEEN, found_by_model

_LIFT_TO_LANDING = 0.72  # s, usual, where the lift is not known


def corrected(marks: Marks, camera: Camera, view: str, throws: str, height: float, stops: Mapping[str, float]) -> Marks:
    """The marks put right; as they are where no model found them, or landing or release is not known.

    `stops` {id: seconds on the clock of `marks`}; `height` in metres.
    """
    hidden = UNSEEN[view]
    yaw = yaw_of(camera.matrix, hidden) if camera.scale == "solved" else camera.yaw
    offsets = offsets_of(view, yaw, hidden, stops)
    if offsets is None or not found_by_model(marks):
        return marks
    landing = stops["foot_contact"]
    moments = Moments(stops.get("peak_knee", landing - _LIFT_TO_LANDING), landing, stops["release"])
    return put_right(marks, offsets, Sighting.of(camera, throws), hidden, height, moments)
