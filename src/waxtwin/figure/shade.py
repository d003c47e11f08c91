"""How wax looks: light that goes in deeper than skin, warmest where it comes out again, and a broad, quiet sheen."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial

import numpy as np

from waxtwin.figure.sculpture import MATERIALS, Sculpture
from waxtwin.figure.skeleton import BONES

# how light each part is, over the wax's own tone
_TONE = {"skin": 1.06, "hair": 0.56, "shirt": 0.98, "trousers": 1.10, "belt": 0.52, "sock": 0.76, "shoe": 0.50,
         "glove": 0.56, "cap": 0.62, "ball": 1.25}  # fmt: skip
_TONES = np.array([_TONE[name] for name in MATERIALS], np.float32)
_BALL = MATERIALS.index("ball")
_LEATHER = np.array([0.94, 0.90, 0.80], np.float32)
# from normals (n, 3) in the picture, the body and how much of the key light reaches each point (n,) to the points'
# colours (n, 3) as blue, green, red from 0 to 1
Shader = Callable[[np.ndarray, Sculpture, np.ndarray | float], np.ndarray]

_STEPS = 512
_BACK, _OUT = 0.62, 1.08  # how light parts are that step back, and that stand out
_TOP = 1.3  # the brightest intensity that has a tone of its own


def _unit(*v: float) -> np.ndarray:
    a = np.array(v, np.float32)
    return np.asarray(a / np.linalg.norm(a))


# directions in the picture: x right, y down, z away
KEY = _unit(-0.52, -0.64, -0.57)
_FILL, _RIM = _unit(0.80, 0.05, -0.60), _unit(0.60, -0.45, 0.66)
_HALF = _unit(*(KEY + np.array([0, 0, -1.0])))
_WRAP = 0.50  # how far round a body the key light reaches


_STOPS = ((0.0, 0.10), (0.20, 0.26), (0.45, 0.47), (0.70, 0.66), (0.92, 0.90), (1.2, 1.0))  # intensity, share of white


@cache
def _ramp(base: str) -> np.ndarray:
    """Tones of a wax #rrggbb from dark to light `(steps, 3)`: its own in the middle."""
    tone = _rgb(base)
    light = 1 - (1 - tone) * 0.42
    x = np.linspace(0, _TOP, _STEPS)
    places = [at for at, _ in _STOPS]
    tones = np.stack([
        2 * share * tone if share <= 0.5 else tone + (light - tone) * (2 * share - 1) for _, share in _STOPS
    ])  # fmt: skip
    return np.stack([np.interp(x, places, tones[:, i]) for i in range(3)], axis=1).astype(np.float32)


@cache
def _glow(base: str) -> np.ndarray:
    """The colour of light that came through the wax: its own, deeper."""
    deep = _rgb(base) ** 1.6
    return np.asarray(0.9 * deep / deep.max())


def wax(base: str, parts: tuple[str, ...] = ()) -> Shader:
    """The figure in a wax #rrggbb; where `parts` begin the names of some bones, these stand out from the rest."""
    return partial(_wax, base, parts)


@cache
def _emphasis(body: Sculpture, parts: tuple[str, ...]) -> np.ndarray | float:
    """How light each point is made `(n,)` so that some parts stand out."""
    chosen = [i for i, name in enumerate(BONES) if name.startswith(parts)]
    if not chosen:
        return 1.0
    share = body.weights[:, chosen].sum(axis=1)
    return np.asarray(_BACK + (_OUT - _BACK) * np.clip(1.5 * share, 0, 1), np.float32)


def _wax(base: str, parts: tuple[str, ...], n: np.ndarray, body: Sculpture, lit: np.ndarray | float) -> np.ndarray:
    open_, tone = body.open, _TONES[body.material]
    facing = n @ KEY
    key = np.clip((facing + _WRAP) / (1 + _WRAP), 0, 1)
    key *= (0.30 + 0.70 * key) * (0.50 + 0.50 * lit)
    edge = 1 - np.clip(-n[:, 2], 0, 1)
    edge2 = edge * edge
    above = 0.5 - 0.5 * n[:, 1]
    fill = np.clip((n @ _FILL + 0.3) / 1.3, 0, 1)
    rim = np.clip(n @ _RIM, 0, 1) * edge2
    level = (0.11 + 0.14 * above + 0.09 * fill) * open_ + 0.82 * key * (0.45 + 0.55 * open_)
    level = level * tone + 0.30 * rim * (0.3 + 0.7 * open_)
    if parts:
        level = level * _emphasis(body, parts)
    colour = _ramp(base)[np.clip(level * ((_STEPS - 1) / _TOP), 0, _STEPS - 1).astype(np.int32)]
    half = np.clip(n @ _HALF, 0, 1)
    h4 = half**4
    h16 = h4**4
    sheen = (0.050 * h4 * half + 0.085 * h16) * open_ * (0.5 + 0.5 * tone) * (0.35 + 0.65 * lit)
    turning = np.clip(1 - np.abs(facing + 0.05) / 0.55, 0, 1)  # where light comes out again: round the shadow's edge
    through = (0.16 * turning + (0.20 + 0.80 * body.thin) * 0.22 * edge2 + 0.10 * body.thin * key) * open_ * tone
    colour = colour + sheen[:, None] + through[:, None] * _glow(base)
    ball = body.material == _BALL
    colour[ball] = 0.4 * colour[ball] + 0.6 * _LEATHER * np.clip(level[ball], 0, 1)[:, None]
    return np.asarray(np.clip(colour[:, ::-1], 0, 1), np.float32)


def _rgb(tone: str) -> np.ndarray:
    return np.array([int(tone[i : i + 2], 16) for i in (1, 3, 5)], np.float32) / 255
