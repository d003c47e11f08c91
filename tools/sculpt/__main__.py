"""`python -m tools.sculpt FOLDER`: sculpt the figure, fine and light, and write both."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from tools.sculpt.parts import Part, parts
from tools.sculpt.surface import Scene, mesh, openness, thinness
from tools.sculpt.weights import bone_weights

from waxtwin.figure.sculpture import FINE, LIGHT, MATERIALS, write_sculpture

_KEPT = 4  # bones that move one point
# how much of a heavier body's girth a part shows; the rest of it stays as it is
_GROWS = {"shirt": 1.0, "trousers": 0.75, "belt": 1.0, "arm": 0.4, "sock": 0.4, "head": 0.25}


def _grows(part: Part, points: np.ndarray) -> np.ndarray:
    """Most at the belly, less toward the shoulders, hands and ankles."""
    whole = _GROWS.get(part.name, 0.0)
    if part.name == "shirt":
        return np.asarray(whole * (0.45 + 0.55 * np.exp(-(((points[:, 2] - 0.10) / 0.09) ** 2))))
    if part.name == "trousers":
        return np.asarray(whole * np.clip(1.0 + 1.1 * points[:, 2], 0.45, 1.0))
    if part.name == "arm":
        return np.asarray(whole * np.clip(1.0 - (np.abs(points[:, 0]) - 0.16) / 0.16, 0.0, 1.0))
    if part.name == "head":
        return np.asarray(whole * (points[:, 2] < 0.39))
    return np.full(len(points), whole)


def main(target: Path, share: float) -> None:
    """Mesh every part with a share of its triangles, bake its light, weigh its bones, and write it all."""
    all_ = parts(share)
    scene = Scene(all_)
    columns: dict[str, list[np.ndarray]] = {}
    count = 0
    for part in all_:
        points, faces, normals = mesh(part, scene)
        weights = bone_weights(points, part)
        leading = np.argsort(-weights, axis=1)[:, :_KEPT]
        led = np.take_along_axis(weights, leading, axis=1)
        for name, column in (
            ("points", points), ("normals", normals), ("faces", faces + count), ("bones", leading),
            ("weights", led / led.sum(axis=1, keepdims=True)), ("open", openness(scene, points, normals)),
            ("thin", thinness(scene, points, normals)), ("grows", _grows(part, points)),
            ("material", np.full(len(points), MATERIALS.index(part.material))),
        ):  # fmt: skip
            columns.setdefault(name, []).append(column)
        count += len(points)
        print(f"{part.name:9s} {part.side:9s} {len(faces):5d} triangles {len(points):5d} points")
    write_sculpture(target, {name: np.concatenate(column) for name, column in columns.items()})
    print(f"{sum(map(len, columns['faces']))} triangles, {count} points, {target.stat().st_size} bytes")


if __name__ == "__main__":
    for name, share in ((FINE, 1.0), (LIGHT, 0.44)):
        main(Path(sys.argv[1]) / name, share)
