"""The figure's surface in a pose: every point moved along with the bones that hold it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from waxtwin.figure.pose import pose
from waxtwin.figure.sculpture import Sculpture, sculpture

_USUAL = 23.5  # kg/m²: the figure as sculpted
_GIRTH, _BUILDS = 0.0012, (-0.008, 0.022)  # of height

TURNED = np.array([1.0, -1.0, 1.0], np.float32)


@dataclass(frozen=True)
class Skin:
    """`points` (n, 3) in metres and unit `normals` (n, 3) in the field, NaN where nothing is known; `seen` (n,) from 1
    down to 0 where a limb was made up; `mirrored` where the field was turned over, so that faces run the other way.
    """

    body: Sculpture
    points: np.ndarray
    normals: np.ndarray
    seen: np.ndarray
    mirrored: bool

    @property
    def is_known(self) -> bool:
        """Whether there is a body at all: a pose is known whole or not."""
        return bool(np.isfinite(self.points[0]).all())

    @classmethod
    def posed(cls, bones: np.ndarray, *, mirrored: bool = False, fine: bool = True, heaviness: float = 0.0) -> Skin:
        """The surface whose bones lie so `(bones, 22)`, as `waxtwin.figure.pose` has it.

        `mirrored` to be turned over, for a left-hander as seen; `fine` for a large picture; `heaviness` as
        `Sculpture.built` has it.
        """
        body = sculpture(fine=fine)
        unknown = np.isnan(bones).any(axis=1)  # such a bone reaches only what it moves
        mixed = body.weights @ np.where(unknown[:, None], np.float32(0), bones)
        mixed[(body.weights[:, unknown] > 0).any(axis=1)] = np.nan
        points = np.einsum("nij,nj->ni", mixed[:, :12].reshape(-1, 3, 4), body.built(heaviness))
        normals = np.einsum("nij,nj->ni", mixed[:, 12:21].reshape(-1, 3, 3), body.normals)
        normals /= np.sqrt(np.vecdot(normals, normals))[:, None] + np.float32(1e-9)
        if mirrored:
            points, normals = points * TURNED, normals * TURNED
        return cls(body, points, normals, mixed[:, 21], mirrored)


def body_pose(landmarks: np.ndarray, height: float) -> np.ndarray:
    """The pose of one canonical body `(landmarks, 3)` in metres, of standing `height` in metres: `(bones, 22)`."""
    return pose(landmarks, height)


def heaviness(mass: float | None, height: float) -> float:
    """How much heavier than a usual athlete a body of `mass` kg and `height` m is, as `Sculpture.built` has it: a unit
    of body-mass index is worth 2 mm of a tall man's girth all round; 0 where the mass is not known.
    """
    return 0.0 if mass is None else min(max((mass / height**2 - _USUAL) * _GIRTH, _BUILDS[0]), _BUILDS[1])


def placed(bones: np.ndarray, scale: float, shift: np.ndarray) -> np.ndarray:
    """A pose made larger by a factor about the field's origin, then moved by `shift` (3,) in metres."""
    out = bones.copy()
    out[..., :12] *= np.float32(scale)
    out[..., [3, 7, 11]] += shift.astype(np.float32)
    return out
