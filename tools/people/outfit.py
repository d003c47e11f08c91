"""Clothes, hair, cap and glove over a body: shells of the skin, pushed out, smoothed and coloured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from scipy.sparse import coo_matrix, csr_matrix
from tools.people.body import SKIN_VERTICES, Body, normals, painted

Colour = Sequence[float]


@dataclass(frozen=True)
class Look:
    """Colours (red, green, blue, 0 to 1) and cut: `sleeve` in upper arms from the shoulder (over 1 covers the forearm),
    `loose` how wide the clothes hang, in metres; no `cap` shows the hair.
    """  # fmt: skip

    skin: Colour
    shirt: Colour
    trousers: Colour
    hair: Colour = (0.10, 0.08, 0.07)
    shoe: Colour = (0.12, 0.12, 0.13)
    belt: Colour = (0.10, 0.10, 0.12)
    glove: Colour = (0.42, 0.27, 0.14)
    cap: Colour | None = (0.10, 0.14, 0.30)
    sleeves: Colour | None = None
    sleeve: float = 0.8
    loose: float = 0.010


@dataclass(eq=False)
class Figure:
    """The dressed body at rest, ready to be posed: compact vertices, their bone weights, faces, colours."""

    points: np.ndarray = field(default_factory=lambda: np.zeros((0, 3)))
    weights: np.ndarray = field(default_factory=lambda: np.zeros((0, 0)))
    faces: np.ndarray = field(default_factory=lambda: np.zeros((0, 3), int))
    colours: np.ndarray = field(default_factory=lambda: np.zeros((0, 3)))

    def add(self, points: np.ndarray, weights: np.ndarray, faces: np.ndarray, colours: np.ndarray) -> None:
        used, compact = np.unique(faces, return_inverse=True)
        self.faces = np.concatenate([self.faces, compact.reshape(faces.shape) + len(self.points)])
        self.points = np.concatenate([self.points, points[used]])
        self.colours = np.concatenate([self.colours, np.clip(colours[used], 0, 1)])
        own = weights[used]
        self.weights = own if not self.weights.size else np.concatenate([self.weights, own])


def dress(body: Body, look: Look, glove_side: str) -> Figure:
    """The body in its clothes, a glove on its `glove_side` ("l" or "r") hand."""
    wardrobe = _Wardrobe(body, look)
    figure = Figure()
    figure.add(body.points, body.weights, wardrobe.bare_faces(), wardrobe.skin_colours())
    for part in (wardrobe.shirt(), wardrobe.trousers(), wardrobe.shoes(), wardrobe.hair()):
        points, faces, colours = part
        figure.add(points, body.weights, faces, colours)
    h = body.height
    if look.cap is not None:
        brim = np.array([0, wardrobe.eye[1] - 0.010 * h, wardrobe.eye[2] + 0.030 * h])
        axes = np.array([[0.045, 0, 0], [0, 0.050, 0.012], [0, 0, 0.004]]) * h
        _add_blob(figure, body, brim, axes, "head", look.cap)
    hand, knuckle = body.heads[f"hand_{glove_side}"], body.heads[f"middle_01_{glove_side}"]
    along = (knuckle - hand) / np.linalg.norm(knuckle - hand)
    out = np.array([1.0 if glove_side == "l" else -1.0, 0, 0])
    out = out - (out @ along) * along
    out /= np.linalg.norm(out)
    axes = np.array([along * 0.125, np.cross(along, out) * 0.105, out * 0.045]) * h / 1.8
    _add_blob(figure, body, knuckle + 0.02 * along - 0.01 * out, axes, f"hand_{glove_side}", look.glove)
    return figure


def _add_blob(figure: Figure, body: Body, middle: np.ndarray, axes: np.ndarray, bone: str, colour: Colour) -> None:
    """A rigid ellipsoid on a bone; `axes` (3, 3) are its half axes as rows."""
    rows, columns = 12, 20
    polar = np.linspace(0, np.pi, rows)[:, None]
    round_ = np.linspace(0, 2 * np.pi, columns, endpoint=False)[None]
    ball = np.stack(
        np.broadcast_arrays(np.sin(polar) * np.cos(round_), np.sin(polar) * np.sin(round_), np.cos(polar)), axis=-1
    ).reshape(-1, 3)
    i, j = (grid.ravel() for grid in np.meshgrid(np.arange(rows - 1), np.arange(columns), indexing="ij"))
    a, b = i * columns + j, i * columns + (j + 1) % columns
    faces = np.concatenate([np.stack([a, a + columns, b], -1), np.stack([b, a + columns, b + columns], -1)])
    weights = np.zeros((len(ball), len(body.bones)))
    weights[:, body.bones.index(bone)] = 1.0
    points = middle + ball @ axes
    figure.add(points, weights, faces, np.asarray(colour) * (1 + 0.08 * mottle(points, 60, 9)[:, None]))


def mottle(points: np.ndarray, scale: float, seed: int) -> np.ndarray:
    """Soft unevenness over points `(n, axes)`, about -1 to 1, `scale` waves a radian."""
    rng = np.random.default_rng(seed)
    out = np.zeros(len(points))
    for _ in range(24):
        out += np.sin(points @ rng.normal(0, scale, points.shape[1]) + rng.uniform(0, 2 * np.pi))
    return np.asarray(out / np.sqrt(12))


class _Wardrobe:
    """Which parts of the skin each piece covers, and the pieces."""

    def __init__(self, body: Body, look: Look) -> None:
        self.body, self.look = body, look
        self.z = body.points[:, 2]
        self.normals = normals(body.points, body.faces)
        self.eye = body.points[body.eyes].mean(axis=0)
        self.neighbours, self.degree = self._mesh_graph()
        heads, h = body.heads, body.height
        skin = np.zeros(len(body.points), bool)
        skin[:SKIN_VERTICES] = True
        self.belt, self.ankle = heads["thigh_l"][2] + 0.050 * h, heads["foot_l"][2]
        torso = body.weight("spine_01", "spine_02", "spine_03", "clavicle_l", "clavicle_r", "neck_01")
        self.along = {side: self._along_arm(side) for side in "lr"}
        sleeve = np.zeros(len(body.points), bool)
        for side, (upper, lower) in self.along.items():
            sleeve |= (body.weight(f"upperarm_{side}") > 0.3) & (upper < look.sleeve)
            if look.sleeve > 1:
                sleeve |= (body.weight(f"lowerarm_{side}") > 0.3) & (lower < look.sleeve - 1)
        under_neck = self.z < heads["neck_01"][2] + 0.012 * h
        hips = (body.weight("pelvis") > 0.3) & (self.z > self.belt - 0.06)
        covered = ((torso > 0.35) & under_neck & (self.z > self.belt - 0.07)) | sleeve | hips
        hands = body.weight("hand_l", "hand_r", "lowerarm_l", "lowerarm_r") > 0.3
        self.under_shirt = skin & covered & (body.weight("head") < 0.2) & ~(hands & ~sleeve)
        leg = body.weight("pelvis", "thigh_l", "thigh_r", "calf_l", "calf_r", "spine_01")
        length = (self.z < self.belt + 0.01) & (self.z > self.ankle + 0.012 * h)
        self.under_trousers = skin & (leg > 0.35) & length & ~sleeve & ~hands
        feet = body.weight("foot_l", "ball_l", "foot_r", "ball_r")
        self.under_shoes = skin & (feet > 0.3) & (self.z < self.ankle + 0.02 * h)
        self.under_hair = skin & self._scalp()

    def _along_arm(self, side: str) -> tuple[np.ndarray, np.ndarray]:
        """Where each vertex lies along upper arm and forearm, 0 to 1."""
        ends = [self.body.heads[f"{part}_{side}"] for part in ("upperarm", "lowerarm", "hand")]
        first, second = ((self.body.points - a) @ (b - a) / ((b - a) @ (b - a)) for a, b in pairwise(ends))
        return first, second

    def _scalp(self) -> np.ndarray:
        head, h = self.body.heads["head"], self.body.height
        y, top = self.body.points[:, 1], self.z[:SKIN_VERTICES].max() - head[2]
        line = self.eye[2] + (0.026 if self.look.cap is not None else 0.040) * h
        low = (self.z - head[2] > 0.22 * top) & (y > head[1] + 0.012 * h)
        face = (y < head[1] - 0.02 * h) & (self.z < line)
        return np.asarray((self.body.weight("head") > 0.5) & ((self.z > line) | low) & ~face)

    def _mesh_graph(self) -> tuple[csr_matrix, np.ndarray]:
        faces, count = self.body.faces, len(self.body.points)
        edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
        graph = coo_matrix((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), (count, count)).tocsr()
        graph = ((graph + graph.T) > 0).astype(float)
        return graph, np.asarray(graph.sum(axis=1)).ravel() + 1e-9

    def bare_faces(self) -> np.ndarray:
        """The skin that shows, and a ring of what lies just under the hems."""
        bare = ~(self.under_shirt | self.under_trousers | self.under_shoes)
        for _ in range(2):
            bare = bare | (np.asarray(self.neighbours @ bare.astype(float)).ravel() > 0)
        return self.body.faces[bare[self.body.faces].all(axis=1)]

    def skin_colours(self) -> np.ndarray:
        body, h = self.body, self.body.height
        tone = 1 + 0.025 * mottle(body.points, 12, 3) + 0.02 * mottle(body.points, 90, 4)
        skin = np.asarray(self.look.skin) * tone[:, None]
        for mask, less in (
            ("mpfb_lips.jpg", (0.12, 0.42, 0.38)), ("mpfb_eyelids.jpg", (0.22, 0.28, 0.28)),
            ("mpfb_ears.jpg", (0.02, 0.12, 0.12)),
        ):  # fmt: skip
            skin *= 1 - painted(body, mask)[:, None] * np.array(less)
        x, y = np.abs(body.points[:, 0]), body.points[:, 1]
        brow = (y < self.eye[1] + 0.002) & (np.abs(self.z - self.eye[2] - 0.0125 * h) < 0.0032 * h)
        skin[(body.weight("head") > 0.5) & brow & (x > 0.007 * h) & (x < 0.030 * h)] *= 0.4
        for side in (1, -1):
            own = body.eyes & (np.sign(body.points[:, 0]) == side)
            middle = body.points[own].mean(axis=0)
            skin[own] = (0.86, 0.85, 0.83)
            near = np.linalg.norm((body.points - middle)[:, [0, 2]], axis=1) < 0.0033 * h
            skin[own & near & (y < middle[1])] = (0.16, 0.10, 0.07)
        return skin

    def _shell(
        self, under: np.ndarray, off: np.ndarray | float, smooth: int, wrinkle: float = 0.0, seed: int = 1
    ) -> tuple[np.ndarray, np.ndarray]:
        points = self.body.points + self.normals * np.broadcast_to(off, self.z.shape)[:, None]
        for _ in range(smooth):
            mean = np.asarray(self.neighbours @ points) / self.degree[:, None]
            points[under] = 0.5 * points[under] + 0.5 * mean[under]
        out = 0.004 + wrinkle * mottle(self.body.points, 45, seed)
        return points + self.normals * out[:, None], self.body.faces[under[self.body.faces].all(axis=1)]

    def _cloth(self, colour: Colour, seed: int) -> np.ndarray:
        return np.asarray(colour) * (1 + 0.05 * mottle(self.body.points, 33, seed)[:, None])

    def shirt(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        colours = self._cloth(self.look.shirt, 8)
        placket = (np.abs(self.body.points[:, 0]) < 0.006 * self.body.height) & (self.normals[:, 1] < 0)
        colours[placket] *= 0.62
        if self.look.sleeves is not None:
            for side, (upper, _) in self.along.items():
                colours[(self.body.weight(f"upperarm_{side}", f"lowerarm_{side}") > 0.5) & (upper > 0.1)] = (
                    self.look.sleeves
                )
        tucked = np.clip((self.z - self.belt) / 0.05, 0, 1)
        folds = np.clip(mottle(self.body.points, 14, 2), -1, 1.5)
        off = 0.004 + tucked * self.look.loose * (0.8 + 0.8 * folds)
        return (*self._shell(self.under_shirt, off, 3, 0.0022, 5), colours)

    def trousers(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        colours = self._cloth(self.look.trousers, 18)
        colours[np.abs(self.z - self.belt) < 0.011 * self.body.height] = self.look.belt
        knee = self.body.heads["calf_l"][2]
        wider = np.clip((knee - self.z) / (knee - self.ankle), 0, 1)
        off = 0.003 + self.look.loose * (1.0 + wider)
        return (*self._shell(self.under_trousers, off, 3, 0.003, 6), colours)

    def shoes(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        colours = np.tile(np.asarray(self.look.shoe, float), (len(self.z), 1))
        colours[self.z < 0.010 * self.body.height] = (0.75, 0.75, 0.72)
        return (*self._shell(self.under_shoes, 0.006, 6), colours)

    def hair(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        colours = np.asarray(self.look.hair) * (1 + 0.15 * mottle(self.body.points, 150, 7)[:, None])
        if self.look.cap is not None:
            colours[self.z > self.eye[2] + 0.022 * self.body.height] = self.look.cap
        return (*self._shell(self.under_hair, 0.008 if self.look.cap is None else 0.011, 2), colours)
