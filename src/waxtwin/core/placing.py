"""From marks in a picture to a track in the field frame: the clip's clock, its camera, its plane of motion."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.camera import Camera, Sight, affine, onto_plane, yaw_of
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import MODEL, Marks
from waxtwin.core.track import EAR_HEIGHT, PIVOT_AHEAD, Track

VIEWS = ("open side", "closed side", "front", "rear", "other")
UNSEEN: Mapping[str, int] = {"open side": 1, "closed side": 1, "front": 0, "rear": 0}
_NOMINAL_HEIGHT = 1.80
UNKNOWN_YAW = 8.0  # deg, standard deviation of how square a phone is held when nothing is known
_SOLVED_YAW = 0.5
# Standard deviation of the scale, as a share: a pixel's slip at either end of a known length and the throw a little
# before or behind its plane; the error of a solved camera at its clicked points.
_PLANAR_SCALE, _SOLVED_SCALE = 0.02, 0.005


@dataclass(frozen=True)
class ClipClock:
    """How a clip's time becomes the throw's: `start` (s of the clip) is the throw's time 0; `slow` is the true frame
    rate over the played one, so 8 for a 240 frames/s take that plays at 30.
    """  # fmt: skip

    start: float = 0.0
    slow: float = 1.0

    def to_throw(self, clip_time: np.ndarray | float) -> np.ndarray | float:
        """Seconds of the throw at seconds of the clip."""
        return (clip_time - self.start) / self.slow

    def to_clip(self, time: float) -> float:
        """Seconds of the clip at seconds of the throw."""
        return self.start + time * self.slow


def rightward(view: str, throws: str) -> float:
    """+1 when the seen horizontal field axis runs to the right in this view's picture, else -1."""
    if check_view(view) == 1:
        return 1.0 if (view == "open side") == (throws == "R") else -1.0
    return 1.0 if view == "front" else -1.0


def check_view(view: str) -> int:
    """The field axis that a view does not see. Raises TrackError for a view of which nothing is known."""
    if view not in UNSEEN:
        raise TrackError("one clip gives a track only from the open side, the closed side, the front or the rear")
    return UNSEEN[view]


def nominal_camera(
    marks: Marks, view: str, throws: str, height: float | None, size: tuple[int, int], roll: float = 0.0
) -> Camera:
    """A camera from the figure alone: the ankle of the pivot foot as origin, the body's height for scale.

    Its lengths are nominal (`scale` "none"). Raises TrackError when head or back foot is never seen early on.
    """
    early = slice(0, max(marks.times.size // 3, 1))
    head = marks.points[early, INDEX["head"]]
    feet = marks.points[early][:, [INDEX["drive_heel"], INDEX["drive_toe"], INDEX["drive_ankle"]]]
    if np.isnan(head).all() or np.isnan(feet).all():
        raise TrackError("head and back foot are not marked in the first third, so the figure gives no scale")
    c, s = np.cos(np.radians(roll)), np.sin(np.radians(roll))
    down = np.array([-s, c])
    lowest = np.where(np.isnan(feet @ down), -np.inf, feet @ down).max(axis=1)
    floor = float(np.median(lowest[np.isfinite(lowest)]))
    tall = floor - float(np.nanmin(head @ down))
    if tall < 8:
        raise TrackError("the figure is only a few pixels tall")
    scale = EAR_HEIGHT * (height or _NOMINAL_HEIGHT) / tall
    across = np.array([c, s])
    ankle = float(np.nanmedian(feet[:, 2] @ across))
    right = rightward(view, throws)
    if UNSEEN[view] == 1:
        ankle -= right * PIVOT_AHEAD / scale
    u, v = ankle * across + floor * down
    return Camera(affine((u, v), scale, UNSEEN[view], right, roll), size, "none")


def planar_camera(
    origin: tuple[float, float], ends: tuple[tuple[float, float], tuple[float, float]], metres: float,
    view: str, throws: str, size: tuple[int, int], roll: float = 0.0,
) -> Camera:  # fmt: skip
    """A camera from a known length in the plane of motion: two pixels `ends`, `metres` apart, and the origin's pixel.

    Raises TrackError when the length is no length.
    """
    pixels = float(np.hypot(ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]))
    if pixels < 4 or not 0.05 <= metres <= 60:
        raise TrackError("the known length must be clicked at two points apart and be between 5 cm and 60 m")
    matrix = affine(origin, metres / pixels, UNSEEN[view], rightward(view, throws), roll)
    return Camera(matrix, size, "planar")


def place(marks: Marks, camera: Camera, view: str, clock: ClipClock | None = None) -> Track:
    """The marks as a track of one camera: the axis it does not see is NaN. Raises TrackError for an unknown view."""
    axis = check_view(view)
    points = onto_plane(camera.matrix, camera.straightened(marks.points), axis)
    confidence = np.where(marks.seen, marks.confidence, 0.0)
    return Track(np.asarray((clock or ClipClock()).to_throw(marks.times)), points, confidence)


def sight_of(camera: Camera, view: str, marks: Marks | None = None) -> Sight:
    """How well a planar track of these marks is seen through a camera."""
    by_model = marks is not None and found_by_model(marks)
    if camera.scale == "solved":
        return Sight(True, yaw_of(camera.matrix, check_view(view)), _SOLVED_YAW, _SOLVED_SCALE, by_model)
    scale_sd = _PLANAR_SCALE if camera.scale == "planar" else 0.0
    return Sight(camera.scale == "planar", 0.0, UNKNOWN_YAW, scale_sd, by_model)


def found_by_model(marks: Marks) -> bool:
    """Whether most marks are a landmark model's, not a person's."""
    return bool((marks.source == MODEL).sum() > 0.5 * marks.seen.sum())


def runs_forward(track: Track) -> bool:
    """Whether the pelvis of a track from the side moves toward the plate, as it must."""
    x = track.points[:, [INDEX["drive_hip"], INDEX["lead_hip"]], 0].mean(axis=1)
    x = x[~np.isnan(x)]
    if not x.size:
        return True
    part = max(x.size // 8, 1)
    return bool(np.median(x[-part:]) >= np.median(x[:part]))


def triangulate(
    cameras: Sequence[Camera], pixels: Sequence[np.ndarray], weights: Sequence[np.ndarray]
) -> tuple[np.ndarray, np.ndarray]:
    """Field points `(..., 3)` from two or more solved cameras and their rms reprojection error `(...,)` in pixels.

    `pixels` per camera `(..., 2)`, `weights` per camera `(...,)`; NaN where fewer than two cameras see a point. Linear
    least squares on normalised rows (Hartley and Zisserman 2004, 12.2).
    """
    rows, seen = [], []
    for camera, flat, weight in zip(cameras, pixels, weights, strict=True):
        straight = camera.straightened(flat)
        known = ~np.isnan(straight[..., 0])
        straight = np.where(known[..., None], straight, 0.0)
        for k in (0, 1):
            row = straight[..., k, None] * camera.matrix[2] - camera.matrix[k]
            norm = np.linalg.norm(row[..., :3], axis=-1, keepdims=True)
            rows.append(row / norm * np.where(known, weight, 0.0)[..., None])
        seen.append(known)
    system = np.stack(rows, axis=-2)
    a, b = system[..., :3], -system[..., 3:]
    enough = np.sum(seen, axis=0) >= 2
    normal = np.swapaxes(a, -1, -2) @ a
    normal = np.where(enough[..., None, None], normal, np.eye(3))
    points = np.linalg.solve(normal, np.swapaxes(a, -1, -2) @ b)[..., 0]
    points = np.where(enough[..., None], points, np.nan)
    squares = np.zeros(enough.shape)
    for camera, flat in zip(cameras, pixels, strict=True):
        mapped = points @ camera.matrix[:, :3].T + camera.matrix[:, 3]
        off = mapped[..., :2] / mapped[..., 2:] - camera.straightened(flat)
        squares = squares + np.nan_to_num(np.sum(off**2, axis=-1)) / len(cameras)
    return points, np.where(enough, np.sqrt(squares), np.nan)


def suggest_view(marks: Marks, throws: str) -> str | None:
    """From where a clip seems to be filmed, or None when the figure does not tell.

    A pitcher seen from the side travels across the picture; from the front or rear it is the side on which the throwing
    shoulder shows when the shoulders are widest that tells.
    """
    hips = marks.points[:, [INDEX["drive_hip"], INDEX["lead_hip"]], 0].mean(axis=1)
    hips = hips[~np.isnan(hips)]
    shoulders = marks.points[:, INDEX["glove_shoulder"], 0] - marks.points[:, INDEX["throwing_shoulder"], 0]
    feet, head = marks.points[:, INDEX["drive_ankle"], 1], marks.points[:, INDEX["head"], 1]
    if hips.size < 8 or np.isnan(feet - head).all() or np.isnan(shoulders).all():
        return None
    tall = float(np.nanmax(feet - head))
    part = max(hips.size // 8, 1)
    travel = float(np.median(hips[-part:]) - np.median(hips[:part])) / tall
    if abs(travel) > 0.25:
        return "open side" if (travel > 0) == (throws == "R") else "closed side"
    widest = float(shoulders[int(np.nanargmax(np.abs(shoulders)))])
    return "front" if (widest > 0) == (throws == "R") else "rear"
