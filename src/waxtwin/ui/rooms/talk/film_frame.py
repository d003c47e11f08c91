"""One picture of a film: the pair with its seam, the words under it, cards, and the pointer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter

from waxtwin.core.stops import EVENTS
from waxtwin.formats.talk import SHOWN, TASK, Point, Scene, Talk
from waxtwin.talk.captions import captions_of
from waxtwin.talk.edits import names_shown
from waxtwin.talk.timeline import Placed, missing_stops, moment_at, pointer_at
from waxtwin.ui.rooms.pair.pointing import paint_light, spot
from waxtwin.ui.rooms.talk.film_stages import FilmStages
from waxtwin.ui.shared.gauge_paint import paint_tag
from waxtwin.ui.shared.sequence_strip import SEQUENCE, paint_sequence
from waxtwin.ui.shared.theme import font, side_colour

_GROUND, _INK, _SOFT = QColor("#15181B"), QColor("#F3EEE4"), QColor("#BDB6A8")
_SEAM = 158  # of a picture's own units
_RIM = 48
_SMALLEST = -1.0  # points beside the desktop's type


@dataclass(frozen=True)
class Shape:
    """A film's picture: `wide` by `tall` of its own units, each `fine` pixels; `words` is the height of the captions'
    strip, `line` how many characters go in a line of it, `above` whether stages stand one above the other.
    """

    label: str
    wide: int
    tall: int
    fine: float
    words: int
    line: int
    above: bool = False

    @property
    def pixels(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return round(self.wide * self.fine), round(self.tall * self.fine)


SHAPES = {
    "720": Shape("1280 × 720", 1280, 720, 1.0, 96, 72),
    "1080": Shape("1920 × 1080", 1280, 720, 1.5, 96, 72),
    "phone": Shape("1080 × 1920, for a phone", 720, 1280, 1.5, 150, 40, above=True),
}


class FilmFrames:
    """Paints the pictures of a talk in one shape; a picture like the one before is painted once."""

    def __init__(self, talk: Talk, stages: FilmStages, shape: Shape, *, burned: bool) -> None:
        self._talk, self._stages, self.shape = talk, stages, shape
        self._words = shape.words if burned else 0
        self._key: object = None
        self._still = QImage()

    def forget(self) -> None:
        """Paint the next picture anew, whatever it shows."""
        self._key = None

    def at(self, placed: Placed, time: float) -> QImage:
        """The picture of a scene at an instant, s of the film."""
        scene, at = placed.scene, time - placed.start
        caption = self._caption(placed, time)
        known = scene.kind != SHOWN or self._stages.show(moment_at(scene, at), at)
        clock = self._stages.desk.clock
        key = (scene, moment_at(scene, at) if scene.moments else None, clock.time, clock.apart, caption, known)
        if key != self._key:
            self._key, self._still = key, self._painted(scene, known, caption)
        pointer = pointer_at(scene, at)
        return self._still if pointer is None else self._pointed(pointer)

    def _caption(self, placed: Placed, time: float) -> str:
        if not self._words or placed.scene.kind != SHOWN:
            return ""
        shape = self.shape
        said = captions_of(placed, shape.line, 2 if not shape.above else 4)
        return next((one.text for one in said if one.start <= time < one.end), "")

    def _blank(self) -> QImage:
        image = QImage(*self.shape.pixels, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(self.shape.fine)
        image.fill(_GROUND)
        return image

    def _painted(self, scene: Scene, known: bool, caption: str) -> QImage:
        image = self._blank()
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if scene.kind != SHOWN:
            self._paint_card(painter, scene.title, scene.lines, scene)
        elif not known:
            pair = self._stages.desk.pair
            gone = missing_stops(scene, pair.event_times("athlete"), pair.event_times("twin"))
            words = " and ".join(f"“{EVENTS[stop].label}”" for stop in gone)
            self._paint_card(painter, scene.title, (f"{words} is not known in this pair any more.",), None)
        else:
            self._paint_pair(painter, caption)
        painter.end()
        return image

    # the pair ------------------------------------------------------------------------------------------------------
    def boxes(self) -> tuple[dict[str, QRect], QRect]:
        """Where each stage lies, and the seam."""
        shape, sides = self.shape, self._stages.shown
        seam = QRect(0, shape.tall - self._words - _SEAM, shape.wide, _SEAM)
        count = len(sides)
        rows = min(count, 2) if shape.above or count > 2 else 1
        across = -(-count // rows)
        wide, tall = shape.wide // across, seam.top() // rows
        return {
            side: QRect(n % across * wide, n // across * tall, wide - 2 * (n % across < across - 1), tall - 2)
            for n, side in enumerate(sides)
        }, seam

    def _paint_pair(self, painter: QPainter, caption: str) -> None:
        boxes, seam = self.boxes()
        self._stages.paint(painter, boxes, seam, self.shape.fine)
        for key, box in boxes.items():
            side, at = self._stages.stages[key].side, QPointF(box.left() + 14, box.top() + 54)
            paint_tag(painter, at, self.name_of(side), side_colour(side, soft=True), 2)
        strip = QRectF(_RIM, self.shape.tall - self._words, self.shape.wide - 2 * _RIM, self._words)
        _paint_words(painter, strip, caption, grow=5 if not self.shape.above else 6)

    def name_of(self, side: str) -> str:
        """What whoever is on a side is called."""
        return names_shown(self._talk, self._stages.pair.own_names).get(side, "")

    # cards ---------------------------------------------------------------------------------------------------------
    def _paint_card(self, painter: QPainter, title: str, lines: Sequence[str], task: Scene | None) -> None:
        shape = self.shape
        inner = QRectF(_RIM * 1.5, _RIM, shape.wide - 3 * _RIM, shape.tall - 2 * _RIM)
        head = QRectF(inner.left(), inner.top(), inner.width(), inner.height() * 0.2)
        _paint_words(painter, head, title, grow=18, bold=True)
        body = QRectF(inner.left(), head.bottom() + 12, inner.width(), inner.bottom() - head.bottom() - 12)
        if task is not None and task.kind == TASK and task.poses:
            body.setTop(self._paint_poses(painter, task.poses, body))
        words = [*([task.caption] if task is not None and task.caption else []), *lines]
        _paint_words(painter, body, "\n\n".join(one for one in words if one), grow=8, ink=_SOFT)

    def _paint_poses(self, painter: QPainter, poses: Sequence[str], box: QRectF) -> float:
        """The drawn sequence at the top of a box; where it ends."""
        wide, tall = SEQUENCE[0] * len(poses), SEQUENCE[1]
        scale = min(box.width() / wide, box.height() * 0.5 / tall)
        painter.save()
        painter.translate(box.left() + (box.width() - wide * scale) / 2, box.top())
        painter.scale(scale, scale)
        paint_sequence(painter, poses, _SOFT)
        painter.restore()
        return box.top() + tall * scale + 18

    # the pointer ---------------------------------------------------------------------------------------------------
    def _pointed(self, pointer: Point) -> QImage:
        """The picture with the pointer on it, a soft light."""
        image = self._still.copy()
        box = self.boxes()[0].get(pointer.side)
        if box is None:
            return image
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        at = spot(self._stages.stages[pointer.side], pointer) + QPointF(box.topLeft())
        paint_light(painter, at)
        painter.end()
        return image


def _paint_words(
    painter: QPainter, box: QRectF, text: str, *, grow: float, bold: bool = False, ink: QColor = _INK
) -> None:
    """Words in the middle of a box, smaller where they would not fit; each in the direction of its own script."""
    flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
    weight = QFont.Weight.Bold if bold else QFont.Weight.DemiBold
    while True:
        painter.setFont(font(grow, weight))
        needed = painter.boundingRect(box, int(flags), text)
        if grow <= _SMALLEST or (needed.height() <= box.height() and needed.width() <= box.width()):
            break
        grow -= 0.5
    painter.setPen(ink)
    painter.drawText(box, int(flags), text)
