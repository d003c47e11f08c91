"""From marks in a picture to a track in the field frame: the clip's clock, its camera, its plane of motion."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from waxtwin.core.camera import Camera, Sight, affine, onto_plane, yaw_of
from waxtwin.core.errors import TrackError
from waxtwin.core.landmarks import INDEX
from waxtwin.core.marks import MODEL, Marks
from waxtwin.core.repair import body_size, wrong_knee_up
from waxtwin.core.stature import stature
from waxtwin.core.track import PIVOT_AHEAD, Track

VIEWS = ("open side", "closed side", "front", "rear", "other")
UNSEEN: Mapping[str, int] = {"open side": 1, "closed side": 1, "front": 0, "rear": 0}
NOMINAL_HEIGHT = 1.80  # m, where it is not known: lengths are then right as shares of it
UNKNOWN_YAW = 8.0  # deg, standard deviation of how square a phone is held when nothing is known
_SEEN_YAW, _SAID_YAW = 10.0, 4.0  # the same where a model sees it, or somebody says it
_SQUARE = 6.0  # deg, standard deviation of clips that are meant to be square on
_MEANT_SQUARE, _SURE = 0.8, 0.75  # of clips, and how likely it must be of one to be believed
_STRIDE, _STRIDE_VARIES = 0.84, 0.09  # shares of standing height: ankle to ankle with both feet down
_UPRIGHT_SD = 1.5  # deg, how upright a picture is
# How far a landmark model turns the stride about the vertical, from the side and end-on (deg; docs/method.md).
_MODEL_TURNS = (5.5, 17.0)
_SIDE_TRAVEL = (0.2, 0.35)  # body sizes: the pelvis moves less end-on, more from the side; between, depth decides
_END_ON_FROM = 55.0  # deg between the plate and the picture plane from which a view is one from the front or rear
ARMS: Mapping[str, str] = {"R": "right", "L": "left"}
# How many times quicker (as a logarithm) a hand is that throws for sure, s that it is followed; body sizes that a hand
# moves in that time anyway; and how clearly knees (-1 to 1) and hands (likewise) must speak together.
_ARM_TELLS, _ARM_SPAN, _BARELY, _TELLS = 3.0, 0.05, 0.01, 0.3
_FEWEST = 12  # frames in which both ankles are seen
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


def body_camera(
    marks: Marks, view: str, throws: str, height: float | None, size: tuple[int, int], roll: float = 0.0,
    yaw: float | None = None,
) -> Camera:  # fmt: skip
    """A camera from the figure alone: the pivot foot's ankle as origin, the body's size for scale (`scale` "body").

    `height` in metres, None for a nominal one, so that lengths are shares of it; `roll` and `yaw` (deg) as `affine` has
    them; a yaw that is not said is taken from the model's own sense of depth. Raises TrackError when too little of the
    body is marked, or the back foot is never seen early on.
    """
    early = slice(0, max(marks.times.size // 3, 1))
    feet = marks.points[early][:, [INDEX["drive_heel"], INDEX["drive_toe"], INDEX["drive_ankle"]]]
    if np.isnan(feet).all():
        feet = marks.points[early][:, [INDEX["lead_heel"], INDEX["lead_toe"], INDEX["lead_ankle"]]]
    axis, right = check_view(view), rightward(view, throws)
    tall = stature(marks, view)
    if np.isnan(feet).all():
        raise TrackError("no foot is marked in the first third, so nothing tells where the rubber is")
    c, s = np.cos(np.radians(roll)), np.sin(np.radians(roll))
    down = np.array([-s, c])
    lowest = np.where(np.isnan(feet @ down), -np.inf, feet @ down).max(axis=1)
    floor = float(np.median(lowest[np.isfinite(lowest)]))
    scale = (height or NOMINAL_HEIGHT) / tall.pixels
    across = np.array([c, s])
    ankle = (
        float(np.nanmedian(feet[:, 2] @ across))
        if not np.isnan(feet[:, 2]).all()
        else float(np.nanmedian(feet @ across))
    )
    if axis == 1:
        ankle -= right * PIVOT_AHEAD / scale
    turned, turned_sd = (yaw, _SAID_YAW) if yaw is not None else _yaw_seen(marks, view, throws, tall.pixels)
    u, v = ankle * across + floor * down
    matrix = affine((u, v), scale, axis, right, roll, turned)
    return Camera(matrix, size, "body", scale_sd=tall.doubt, yaw=turned, yaw_sd=turned_sd)


def _yaw_seen(marks: Marks, view: str, throws: str, tall: float) -> tuple[float, float]:
    """How far the camera seems to be turned off a side view (deg), and how well that is known; `tall` is the standing
    height in pixels.

    Two witnesses: the direction in which a model sees the stride, and how short the stride is in the picture against
    what strides usually are. Most clips are taken square on, so that is believed first; end-on neither says much.
    """
    found = plate_direction(marks, throws)
    if found is None or UNSEEN[view] == 0:
        return 0.0, UNKNOWN_YAW
    yaws = np.arange(-60.0, 61.0)
    seen = float(np.degrees(np.arcsin(np.sin(np.radians(found)))))  # as `yaw_of` has it, whichever way the plate lies
    square = np.exp(-0.5 * (yaws / _SQUARE) ** 2) / _SQUARE
    likely = (_MEANT_SQUARE * square / np.sqrt(2 * np.pi) + (1 - _MEANT_SQUARE) / yaws.size) * np.exp(
        -0.5 * ((yaws - seen) / _SEEN_YAW) ** 2
    )
    stride = _stride_seen(marks) / tall
    if np.isfinite(stride):
        likely *= np.exp(-0.5 * ((stride - _STRIDE * np.cos(np.radians(yaws))) / _STRIDE_VARIES) ** 2)
    likely /= likely.sum()
    if likely[np.abs(yaws) <= 2 * _SQUARE].sum() > _SURE:
        return 0.0, UNKNOWN_YAW
    mean = float(np.sum(likely * yaws))
    return mean, float(np.hypot(np.sqrt(np.sum(likely * (yaws - mean) ** 2)), 3.0))


def _stride_seen(marks: Marks) -> float:
    """The longest way between the ankles in the picture, pixels; NaN where they are hardly seen together."""
    away = marks.points[:, INDEX["lead_ankle"]] - marks.points[:, INDEX["drive_ankle"]]
    far = np.abs(away[np.isfinite(away[:, 0]), 0])
    return float(np.percentile(far, 95)) if far.size >= _FEWEST else float("nan")


def plate_direction(marks: Marks, throws: str) -> float | None:
    """Where the plate lies as the camera sees it (deg): 0 to the right, 90 away from the camera, -90 toward it, 180 to
    the left; None where no model looked.

    From the model's belief in depth of the line between the ankles while both feet are down, less what it is off.
    """
    if marks.world is None:
        return None
    stride = marks.world[:, INDEX["lead_ankle"]] - marks.world[:, INDEX["drive_ankle"]]
    far = np.linalg.norm(stride[:, [0, 2]], axis=1)
    far[~marks.seen[:, [INDEX["lead_ankle"], INDEX["drive_ankle"]]].all(axis=1)] = np.nan
    if np.isfinite(far).sum() < _FEWEST:
        return None
    with np.errstate(invalid="ignore"):
        wide = far >= np.nanpercentile(far, 85)
    mirror = -1.0 if throws == "L" else 1.0
    x, z = mirror * np.median(stride[wide, 0]), np.median(stride[wide, 2])
    angle = float(np.degrees(np.arctan2(z, x)))
    angle -= _MODEL_TURNS[0] + (_MODEL_TURNS[1] - _MODEL_TURNS[0]) * abs(np.sin(np.radians(angle)))
    angle = angle if mirror > 0 else 180.0 - angle
    return float((angle + 180.0) % 360.0 - 180.0)


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


def sight_of(camera: Camera, view: str, marks: Marks | None = None, height: float | None = None) -> Sight:
    """How well a planar track of these marks is seen through a camera; standing `height` in metres where known."""
    by_model = marks is not None and found_by_model(marks)
    if camera.scale == "solved":
        yaw = yaw_of(camera.matrix, check_view(view))
        return Sight(True, yaw, _SOLVED_YAW, _SOLVED_SCALE, by_model, view=view)
    yaw_sd = UNKNOWN_YAW if camera.yaw_sd is None else camera.yaw_sd
    by_body = camera.scale == "body"
    scale_sd = {"planar": _PLANAR_SCALE, "body": camera.scale_sd}.get(camera.scale, 0.0)
    scaled = camera.scale == "planar" or (by_body and height is not None)
    return Sight(scaled, camera.yaw, yaw_sd, scale_sd, by_model, by_body, _UPRIGHT_SD, view)


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

    A pitcher seen from the side travels across the picture, toward the plate. One seen end-on does not: then the
    direction in which a model sees the stride tells front from rear; without one, it is the side on which the throwing
    shoulder shows when the shoulders are widest.
    """
    travel, plate = _travel(marks), plate_direction(marks, throws)
    if travel is None:
        return None
    across = abs(travel) > _SIDE_TRAVEL[1]
    if plate is not None and _SIDE_TRAVEL[0] < abs(travel) <= _SIDE_TRAVEL[1]:
        across = abs(np.sin(np.radians(plate))) < np.sin(np.radians(_END_ON_FROM))
    if across:
        return "open side" if (travel > 0) == (throws == "R") else "closed side"
    if plate is not None:
        return "front" if plate < 0 else "rear"
    shoulders = marks.points[:, INDEX["glove_shoulder"], 0] - marks.points[:, INDEX["throwing_shoulder"], 0]
    if np.isnan(shoulders).all():
        return None
    widest = float(shoulders[int(np.nanargmax(np.abs(shoulders)))])
    return "front" if (widest > 0) == (throws == "R") else "rear"


def throwing_arm(marks: Marks, throws: str, slow: float = 1.0) -> str | None:
    """With which arm ("R" or "L") a clip's pitcher seems to throw; its limbs are named for `throws`, not yet mended.

    The front leg is the one that is lifted, and the throwing hand by far the quicker while it is over the shoulder;
    None where neither tells.
    """
    size = body_size(marks)
    if not size > 0:
        return None
    lifted = wrong_knee_up(marks, size, marks.rate(slow))
    knees = -float(lifted.sum()) / max(float(np.abs(lifted).sum()), _FEWEST)
    quick = [max(_thrown(marks, side, slow) / size, _BARELY) for side in ("throwing", "glove")]
    told = knees + float(np.clip(np.log(quick[0] / quick[1]) / _ARM_TELLS, -1.0, 1.0))
    if not np.isfinite(told) or abs(told) < _TELLS:
        return None
    return throws if told > 0 else "L" if throws == "R" else "R"


def _thrown(marks: Marks, side: str, slow: float) -> float:
    """How far a wrist gets within a twentieth of a second while over its shoulder, in body sizes."""
    reach = max(round(_ARM_SPAN * marks.rate(slow)), 1)
    wrist, shoulder = marks.points[:, INDEX[f"{side}_wrist"]], marks.points[:, INDEX[f"{side}_shoulder"]]
    if marks.times.size <= reach:
        return float("nan")
    far = np.linalg.norm(wrist[reach:] - wrist[:-reach], axis=1)
    with np.errstate(invalid="ignore"):
        over = np.maximum(shoulder[reach:, 1] - wrist[reach:, 1], shoulder[:-reach, 1] - wrist[:-reach, 1]) > 0
    far = far[over & np.isfinite(far)]
    return float(np.percentile(far, 97)) if far.size >= _FEWEST // 2 else 0.0


def _travel(marks: Marks) -> float | None:
    """How far the pelvis moves to the right over the clip, in body sizes; None where that is not seen."""
    hips = marks.points[:, [INDEX["drive_hip"], INDEX["lead_hip"]], 0].mean(axis=1)
    hips = hips[~np.isnan(hips)]
    feet, head = marks.points[:, INDEX["drive_ankle"], 1], marks.points[:, INDEX["head"], 1]
    if hips.size < 8 or np.isnan(feet - head).all():
        return None
    part = max(hips.size // 8, 1)
    return float(np.median(hips[-part:]) - np.median(hips[:part])) / float(np.nanmax(feet - head))
