"""The sculpted figure as it ships: a light mesh, the bones that move it, and what its light hangs on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, cached_property
from pathlib import Path

import numpy as np

from waxtwin import ASSETS
from waxtwin.figure.skeleton import BONES

MATERIALS = ("skin", "hair", "shirt", "trousers", "belt", "sock", "shoe", "glove", "cap", "ball")
FINE, LIGHT = "wax.npz", "wax-light.npz"  # for large pictures, and for stages on which it moves
_LENGTH, _UNIT, _SHARE = 32767.0, 127.0, 255.0  # what 1 is written as: height, a direction, a share


@dataclass(frozen=True, eq=False)
class Sculpture:
    """A mesh of `n` points and `m` faces in units of standing height, in the pose of the skeleton.

    `points`, `normals` (n, 3); `faces` (m, 3), outward; `weights` (n, bones), each row adding up to one; `open`
    (n,) how much light reaches a point past its neighbours, `thin` (n,) how thin the wax behind it is, `grows` (n,) how
    much of a heavier body's girth it takes, all from 0 to 1; `material` (n,), an index of MATERIALS.
    """

    points: np.ndarray
    normals: np.ndarray
    faces: np.ndarray
    weights: np.ndarray
    open: np.ndarray
    thin: np.ndarray
    grows: np.ndarray
    material: np.ndarray

    @cached_property
    def face_material(self) -> np.ndarray:
        """The material of each face `(m,)`: no face joins two."""
        return np.asarray(self.material[self.faces[:, 0]])

    @cached_property
    def edges(self) -> tuple[np.ndarray, np.ndarray]:
        """Edges that two faces share `(e, 2)`, and those faces `(e, 2)`."""
        ends = np.concatenate([self.faces[:, [0, 1]], self.faces[:, [1, 2]], self.faces[:, [2, 0]]])
        owner = np.tile(np.arange(len(self.faces)), 3)
        ends.sort(axis=1)
        order = np.lexsort((ends[:, 1], ends[:, 0]))
        ends, owner = ends[order], owner[order]
        twice = np.flatnonzero((ends[1:] == ends[:-1]).all(axis=1))
        return ends[twice], np.stack([owner[twice], owner[twice + 1]], axis=1)

    def built(self, heaviness: float) -> np.ndarray:
        """The points of a slimmer (below 0) or heavier body `(n, 4)`, with a column of ones."""
        grown = self.points + self.normals * (self.grows * np.float32(heaviness))[:, None]
        return np.concatenate([grown, np.ones((len(grown), 1), np.float32)], axis=1)


@cache
def sculpture(*, fine: bool = True) -> Sculpture:
    """The shipped one, `fine` or light, read once."""
    with np.load(ASSETS / "figure" / (FINE if fine else LIGHT)) as kept:
        columns = {name: kept[name] for name in kept.files}
    count = len(columns["points"])
    normals = columns["normals"].astype(np.float32)
    shares = columns["weights"].astype(np.float32)
    shares /= shares.sum(axis=1, keepdims=True)
    weights = np.zeros((count, len(BONES)), np.float32)
    np.add.at(weights, (np.arange(count)[:, None], columns["bones"]), shares)

    def share(name: str) -> np.ndarray:
        return np.asarray(columns[name] / _SHARE, np.float32)

    return Sculpture(
        columns["points"].astype(np.float32) / np.float32(_LENGTH),
        normals / np.linalg.norm(normals, axis=1, keepdims=True),
        columns["faces"].astype(np.int32),
        weights,
        open=share("open"),
        thin=share("thin"),
        grows=share("grows"),
        material=columns["material"],
    )


def write_sculpture(path: Path, columns: Mapping[str, np.ndarray]) -> None:
    """Write what the sculpting tool made: the columns of `Sculpture`; `bones` and `weights` (n, 4) side by side."""

    def whole(name: str, one: float, kind: type) -> np.ndarray:
        return np.asarray(np.round(columns[name] * one).astype(kind))

    path.parent.mkdir(parents=True, exist_ok=True)
    np.savez_compressed(
        path, points=whole("points", _LENGTH, np.int16), normals=whole("normals", _UNIT, np.int8),
        faces=columns["faces"].astype(np.uint16), bones=columns["bones"].astype(np.uint8),
        material=columns["material"].astype(np.uint8), weights=whole("weights", _SHARE, np.uint8),
        open=whole("open", _SHARE, np.uint8), thin=whole("thin", _SHARE, np.uint8),
        grows=whole("grows", _SHARE, np.uint8),
    )  # fmt: skip
