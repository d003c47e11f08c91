"""Directions and angles of a body, for a single pose or a whole motion: any shape `(..., landmarks, 3)`.

Angles are degrees, by the definitions of the measures page; joint conventions after Wu et al. 2005
(J Biomech 38). NaN in, NaN out: an axis that a camera cannot see makes every angle that needs it NaN.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from waxtwin.core.landmarks import INDEX


@dataclass(frozen=True)
class Body:
    """A body's landmarks `(..., landmarks, 3)` in metres, canonical (right-handed) side.

    `flat` is the axis no camera saw (0 or 1), or None for a 3D body.
    """

    points: np.ndarray
    flat: int | None = None

    def at(self, name: str) -> np.ndarray:
        """A landmark, or one of `pelvis`, `chest`, `navel`: `(..., 3)` metres."""
        if name == "pelvis":
            return np.asarray((self.at("drive_hip") + self.at("lead_hip")) / 2)
        if name == "chest":
            return np.asarray((self.at("throwing_shoulder") + self.at("glove_shoulder")) / 2)
        point = self.points[..., INDEX[name], :]
        if name == "navel":
            derived = self.at("pelvis") + 0.2 * (self.at("chest") - self.at("pelvis"))
            return np.where(np.isnan(point), derived, point)
        return point

    def seen(self, vector: np.ndarray) -> np.ndarray:
        """A vector as far as it is seen: the axis no camera saw counts as zero (picture-plane geometry)."""
        if self.flat is None:
            return vector
        out = vector.copy()
        out[..., self.flat] = 0.0
        return out

    @cached_property
    def trunk(self) -> np.ndarray:
        """u: pelvis centre to chest centre."""
        return np.asarray(self.at("chest") - self.at("pelvis"))

    @cached_property
    def trunk_axes(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(r, f, t): toward the throwing shoulder, forward, up; unit vectors square to each other."""
        r = unit(self.at("throwing_shoulder") - self.at("glove_shoulder"))
        f = unit(np.cross(self.trunk, r))
        return r, f, np.cross(r, f)

    @cached_property
    def upper_arm(self) -> np.ndarray:
        """a: unit vector from throwing shoulder to elbow."""
        return unit(self.at("throwing_elbow") - self.at("throwing_shoulder"))

    def pelvis_rotation(self) -> np.ndarray:
        """0 sideways, +90 facing the plate."""
        return _bearing(self.at("lead_hip") - self.at("drive_hip"))

    def trunk_rotation(self) -> np.ndarray:
        """0 sideways, +90 facing the plate."""
        return _bearing(self.at("glove_shoulder") - self.at("throwing_shoulder"))

    def trunk_tilt(self) -> np.ndarray:
        """+ forward to the plate, - back."""
        return degrees(self.trunk[..., 0], self.trunk[..., 2])

    def side_tilt(self) -> np.ndarray:
        """+ toward the glove side."""
        return degrees(self.trunk[..., 1], self.trunk[..., 2])

    def shoulder_tilt(self) -> np.ndarray:
        """+ glove shoulder higher."""
        s = self.seen(self.at("glove_shoulder") - self.at("throwing_shoulder"))
        return degrees(s[..., 2], np.hypot(s[..., 0], s[..., 1]))

    def knee_flexion(self, side: str) -> np.ndarray:
        """`drive` or `lead` knee; 0 straight. In the picture plane when only that is seen."""
        return self._flexion(f"{side}_hip", f"{side}_knee", f"{side}_ankle")

    def elbow_flexion(self) -> np.ndarray:
        """Throwing elbow; 0 straight."""
        return self._flexion("throwing_shoulder", "throwing_elbow", "throwing_wrist")

    def hip_flexion(self, side: str) -> np.ndarray:
        """Angle between thigh and the trunk continued downward."""
        thigh = self.seen(self.at(f"{side}_knee") - self.at(f"{side}_hip"))
        return angle_between(thigh, -self.seen(self.trunk))

    def hip_extension(self, side: str) -> np.ndarray:
        """Thigh in the pelvis' fore-aft plane; + behind the pelvis."""
        k = self.at(f"{side}_knee") - self.at(f"{side}_hip")
        h = self.at("lead_hip") - self.at("drive_hip")
        p = unit(np.stack([h[..., 1], -h[..., 0], np.zeros_like(h[..., 0])], axis=-1))
        return degrees(-dot(k, p), -dot(k, unit(self.trunk)))

    def leg_tilt(self, side: str) -> np.ndarray:
        """Ankle to hip against the vertical; + forward."""
        leg = self.at(f"{side}_hip") - self.at(f"{side}_ankle")
        return degrees(leg[..., 0], leg[..., 2])

    def foot_yaw(self, side: str) -> np.ndarray:
        """0 toe to the plate, + open, - closed."""
        return _bearing(self.at(f"{side}_toe") - self.at(f"{side}_heel"))

    def foot_pitch(self, side: str) -> np.ndarray:
        """0 level, + heel over toe, 90 toe straight down."""
        foot = self.seen(self.at(f"{side}_heel") - self.at(f"{side}_toe"))
        return degrees(foot[..., 2], np.hypot(foot[..., 0], foot[..., 1]))

    def foot_along(self, side: str) -> np.ndarray:
        """Horizontal direction from heel to toe, unit vectors."""
        return unit((self.at(f"{side}_toe") - self.at(f"{side}_heel")) * np.array([1.0, 1.0, 0.0]))

    def abduction(self) -> np.ndarray:
        """90 = elbow on the shoulder line."""
        return np.asarray(np.degrees(np.arccos(np.clip(-dot(self.upper_arm, self.trunk_axes[2]), -1, 1))))

    def horizontal_adduction(self) -> np.ndarray:
        """- elbow behind the shoulder line, + in front."""
        r, f, _ = self.trunk_axes
        return degrees(dot(self.upper_arm, f), dot(self.upper_arm, r))

    def external_rotation(self) -> np.ndarray:
        """Layback: 0 forearm forward, 90 up, 180 back; NaN where the upper arm or elbow make it singular."""
        _, f, _ = self.trunk_axes
        a = self.upper_arm
        front = unit(f - dot(f, a)[..., None] * a)
        over = np.cross(a, front)
        w = self.at("throwing_wrist") - self.at("throwing_elbow")
        angle = degrees(dot(w, over), dot(w, front))
        singular = (self.elbow_flexion() < 20.0) | (np.abs(dot(a, f)) > np.cos(np.radians(15.0)))
        return np.where(singular, np.nan, angle)

    def planar_layback(self) -> np.ndarray:
        """Side-view stand-in for layback: forearm against the trunk in the XZ plane."""
        w = self.at("throwing_wrist") - self.at("throwing_elbow")
        return np.asarray(90.0 + degrees(-w[..., 0], w[..., 2]) + self.trunk_tilt())

    def arm_line(self) -> np.ndarray:
        """Angle between the shoulder line and shoulder to hand; 0 = one straight line."""
        line = self.seen(self.at("throwing_shoulder") - self.at("glove_shoulder"))
        return angle_between(line, self.seen(self.at("throwing_hand") - self.at("throwing_shoulder")))

    @cached_property
    def _bends(self) -> dict[tuple[str, str, str], np.ndarray]:
        return {}

    def _flexion(self, a: str, b: str, c: str) -> np.ndarray:
        joints = a, b, c
        if joints not in self._bends:  # a dozen measures read the same few
            bend = 180.0 - angle_between(self.seen(self.at(a) - self.at(b)), self.seen(self.at(c) - self.at(b)))
            self._bends[joints] = np.asarray(bend)
            self._bends[joints].flags.writeable = False
        return self._bends[joints]


def dot(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Dot product over the last axis."""
    return np.asarray(np.einsum("...i,...i->...", a, b))


def unit(v: np.ndarray) -> np.ndarray:
    """Vectors at length one; a zero vector becomes NaN."""
    length = np.sqrt(dot(v, v))[..., None]
    return v / np.where(length > 1e-12, length, np.nan)


def degrees(y: np.ndarray, x: np.ndarray) -> np.ndarray:
    """atan2 in degrees."""
    return np.asarray(np.degrees(np.arctan2(y, x)))


def angle_between(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Angle in degrees, 0 to 180."""
    with np.errstate(invalid="ignore", divide="ignore"):
        cosine = dot(a, b) / np.sqrt(dot(a, a) * dot(b, b))
    return np.asarray(np.degrees(np.arccos(np.clip(cosine, -1, 1))))


def _bearing(v: np.ndarray) -> np.ndarray:
    return degrees(v[..., 1], v[..., 0])
