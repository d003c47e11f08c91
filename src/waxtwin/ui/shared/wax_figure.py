"""The sculpted wax figure, painted into whatever a painter paints on."""

from __future__ import annotations

import math
from collections import OrderedDict
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from waxtwin.core.analysis import Analysis
from waxtwin.core.camera import look_at, project
from waxtwin.core.motion import Motion
from waxtwin.figure.ground import Ground, mound, shadow
from waxtwin.figure.moving import pose_at
from waxtwin.figure.raster import Bounds, Picture, View, paint
from waxtwin.figure.shade import wax
from waxtwin.figure.skeleton import BONES
from waxtwin.figure.skin import Skin, heaviness

_DISTANCE = 7.5  # m: how far the figures are looked at from
_FILLS = (0.74, 0.72)  # of a picture's width and height: one body in it
_LEAST = 0.9  # m that a picture shows at least: seen from above, a body that stands is small

# px: a figure up to so tall is painted twice as large and drawn together, for even edges: always, and while it is still
_SMALL, _STILL = 200.0, 640.0
_LARGE = 430.0  # px: a taller figure shows the light mesh's corners
Body = tuple[bytes, bool, float]
Wish = tuple[Body, bytes, str, Bounds, bool, bool, tuple[str, ...]]
_VIEWS = 32  # projections: of every stage, inset and close-up at once
_KEPT = 12  # figures and pictures: what a window shows at once, and the step before


@lru_cache(maxsize=_VIEWS)
def figure_matrix(size: tuple[int, int], height: float, azimuth: float, elevation: float) -> np.ndarray:
    """Projection `(3, 4)` of the field into `size` pixels that frames a throw of a body `height` metres tall.

    `azimuth` and `elevation` in radians; 0, 0 looks from the open side of a right-hander.
    """
    away = _away(azimuth, elevation)
    target = np.array([0.46 * height, 0.0, 0.46 * height])
    focal = _DISTANCE * min(size[0] / (1.42 * height), (size[1] - 56) / (1.22 * height))
    found = look_at(target + _DISTANCE * away, target, focal, (size[0], size[1] + 10))
    found.flags.writeable = False  # everybody gets the same one
    return found


@dataclass(frozen=True)
class Figure:
    """A body to be painted: its pose `bones` (bones, 22) as `waxtwin.figure` has it, its wax `base` as #rrggbb, whether
    it is `mirrored`, has the `ball` in the hand, whether its parts darken each other (`shaded`), and the bones, by how
    their names begin, that stand out (`lit`); `heaviness` as `waxtwin.figure` has it.
    """

    bones: np.ndarray
    base: str
    mirrored: bool = False
    ball: bool = False
    shaded: bool = True
    lit: tuple[str, ...] = ()
    heaviness: float = 0.0

    @classmethod
    def of(
        cls, analysis: Analysis, motion: Motion, time: float, base: str, *, mirrored: bool = False,
        shaded: bool = True, lit: tuple[str, ...] = (),
    ) -> Figure:  # fmt: skip
        """A throw's figure at an instant (s), moving as `motion` does."""
        build = heaviness(analysis.delivery.mass, motion.height)
        return cls(pose_at(motion, time), base, mirrored, analysis.holds_ball(time), shaded, lit, build)

    @property
    def body(self) -> Body:
        """What its surface hangs on."""
        return self.bones.tobytes(), self.mirrored, self.heaviness

    def wish(self, matrix: np.ndarray, fine: float, bounds: Bounds) -> tuple[Wish, float]:
        """Everything that its picture hangs on, through a projection (3, 4) to a painter's units of `fine` pixels, and
        how many pixels of that picture one of these units is.
        """
        if _tall(self.bones, _view(_finer(matrix, fine))) < (_STILL if self.shaded else _SMALL):
            left, top, right, bottom = bounds
            fine, bounds = 2 * fine, (2 * left, 2 * top, 2 * right, 2 * bottom)
        return (self.body, _finer(matrix, fine), self.base, bounds, self.ball, self.shaded, self.lit), fine


def body_matrix(size: tuple[int, int], points: np.ndarray, azimuth: float, elevation: float) -> np.ndarray:
    """Projection `(3, 4)` into `size` pixels that frames one body `(landmarks, 3)` in metres and the lines round it.

    `azimuth` and `elevation` in radians, as `figure_matrix` has them.
    """
    known = points[np.isfinite(points).all(axis=1)]
    if not len(known):
        return figure_matrix(size, 1.8, azimuth, elevation)
    away = _away(azimuth, elevation)
    target = (known.min(axis=0) + known.max(axis=0)) / 2
    flat, _ = project(look_at(target + _DISTANCE * away, target, 1.0, (0, 0)), known)
    low, high = flat.min(axis=0), flat.max(axis=0)
    reach = np.maximum(high - low, _LEAST / _DISTANCE)
    focal = float(np.min(_FILLS * np.array(size) / reach))
    centred = look_at(target + _DISTANCE * away, target, focal, size)
    shift = np.eye(3)
    shift[:2, 2] = -focal * (low + high) / 2
    return np.asarray(shift @ centred)


def _away(azimuth: float, elevation: float) -> np.ndarray:
    """The way from what is looked at to whoever looks `(3,)`."""
    return np.array(
        [math.sin(azimuth) * math.cos(elevation), -math.cos(azimuth) * math.cos(elevation), math.sin(elevation)]
    )


def paint_figure(painter: QPainter, matrix: np.ndarray, figure: Figure) -> None:
    """Paint one body; `matrix` (3, 4) maps field metres to the painter's own units."""
    wish, fine = figure.wish(matrix, *_pixels(painter))
    picture = _PICTURES.get(wish)
    if picture is not None:
        _lay(painter, picture, fine)


def begin_figure(widget: QWidget, matrix: np.ndarray, figure: Figure) -> None:
    """Begin to paint a body that the whole of a widget is going to show, beside whatever else is being painted."""
    fine = widget.devicePixelRatioF()
    bounds = (0, 0, round(widget.width() * fine), round(widget.height() * fine))
    _PICTURES.begin(figure.wish(matrix, fine, bounds)[0])


def paint_shadow(painter: QPainter, matrix: np.ndarray, figure: Figure, ground: Ground) -> None:
    """Paint the shadow of the same body on the ground that it stands on."""
    fine, bounds = _pixels(painter)
    found = _shadow(figure.body, _finer(matrix, fine), ground, bounds)
    if found is None:
        return
    dark, box = found
    rows, columns = dark.shape
    image = QImage(dark.data, columns, rows, columns, QImage.Format.Format_Alpha8)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(QRectF(*(edge / fine for edge in box)), image)
    painter.restore()


def paint_mound(painter: QPainter, matrix: np.ndarray, ground: Ground) -> None:
    """Paint what the figure stands on."""
    fine, bounds = _pixels(painter)
    picture = _mound(_finer(matrix, fine), ground, bounds)
    if picture is not None:
        _lay(painter, picture, fine)


def _pixels(painter: QPainter) -> tuple[float, Bounds]:
    """How many pixels one of the painter's units is, and the part of its plane that is painted on, in pixels."""
    device, transform = painter.device(), painter.deviceTransform()
    fine = math.hypot(transform.m11(), transform.m12())
    ratio = device.devicePixelRatioF() if isinstance(device, (QImage, QPixmap)) else 1.0
    whole = QRectF(0, 0, device.width() / ratio, device.height() / ratio)
    seen = painter.worldTransform().inverted()[0].mapRect(whole)
    if painter.hasClipping():
        seen = seen.intersected(painter.clipBoundingRect())
    left, top, right, bottom = (round(edge * fine) for edge in (seen.left(), seen.top(), seen.right(), seen.bottom()))
    return fine, (left, top, right, bottom)


def _lay(painter: QPainter, picture: Picture, fine: float) -> None:
    rows, columns = picture.pixels.shape[:2]
    image = QImage(picture.pixels.data, columns, rows, 4 * columns, QImage.Format.Format_ARGB32_Premultiplied)
    if fine == 1.0:
        painter.drawImage(picture.left, picture.top, image)
        return
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(QRectF(picture.left / fine, picture.top / fine, columns / fine, rows / fine), image)
    painter.restore()


@lru_cache(maxsize=_KEPT)
def _skin(body: Body, fine: bool) -> Skin:
    pose, mirrored, build = body
    return Skin.posed(_bones(pose), mirrored=mirrored, fine=fine, heaviness=build)


def _painted(wish: Wish) -> Picture | None:
    body, matrix, base, bounds, ball, shaded, lit = wish
    view = _view(matrix)
    skin = _skin(body, _tall(_bones(body[0]), view) > _LARGE)
    return paint(skin, view, wax(base, lit), bounds, ball=ball, shaded=shaded)


class _Pictures:
    """Pictures that were wished for lately: the same figure in the same place is painted once, however often what lies
    over it changes, and two stages' figures at the same time.
    """

    def __init__(self) -> None:
        self._begun: OrderedDict[Wish, Future[Picture | None]] = OrderedDict()
        self._pool = ThreadPoolExecutor(2, "wax figure")

    def begin(self, wish: Wish) -> None:
        if self._find(wish) is None:
            self._keep(wish, self._pool.submit(_painted, wish))

    def get(self, wish: Wish) -> Picture | None:
        found = self._find(wish)
        if found is None:
            found = Future()
            found.set_result(_painted(wish))
            self._keep(wish, found)
        return found.result()

    def _find(self, wish: Wish) -> Future[Picture | None] | None:
        found = self._begun.get(wish)
        if found is not None:
            with suppress(KeyError):  # another thread may let go of it meanwhile
                self._begun.move_to_end(wish)  # what is still wished for is not let go of first
        return found

    def _keep(self, wish: Wish, picture: Future[Picture | None]) -> None:
        self._begun[wish] = picture
        while len(self._begun) > _KEPT:
            with suppress(KeyError):
                self._begun.popitem(last=False)


_PICTURES = _Pictures()


@lru_cache(maxsize=_KEPT)
def _mound(matrix: bytes, ground: Ground, bounds: Bounds) -> Picture | None:
    return mound(_view(matrix), ground, bounds)


@lru_cache(maxsize=_KEPT)
def _shadow(body: Body, matrix: bytes, ground: Ground, bounds: Bounds) -> tuple[np.ndarray, Bounds] | None:
    return shadow(_skin(body, False), _view(matrix), ground.at, bounds)


def _bones(pose: bytes) -> np.ndarray:
    return np.frombuffer(pose, np.float32).reshape(len(BONES), -1)


def _tall(bones: np.ndarray, view: View) -> float:
    """About how many pixels a standing body would be tall where this one is."""
    affine = bones[0, :12].reshape(3, 4)
    depth = float(view.matrix[2, :3] @ affine[:, 3] + view.matrix[2, 3])
    return math.hypot(*view.matrix[0, :3].tolist()) * math.hypot(*affine[:, 2].tolist()) / max(depth, 1e-3)


def _finer(matrix: np.ndarray, fine: float) -> bytes:
    """A projection (3, 4) into units of so many pixels, into these pixels."""
    return bytes((matrix * np.array([[fine], [fine], [1.0]])).tobytes())


@lru_cache(maxsize=_VIEWS)
def _view(matrix: bytes) -> View:
    return View.of(np.frombuffer(matrix).reshape(3, 4))
