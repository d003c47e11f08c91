"""Pictures of a pair without a window: both figures at a stop, and the frames of a clip of both with their seam."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import AbstractContextManager, ExitStack, contextmanager, nullcontext
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPainterPath, QPen

from waxtwin.core.alignment import Alignment, align
from waxtwin.core.analysis import Analysis
from waxtwin.core.chalk import Chalk
from waxtwin.core.contrast import Contrast
from waxtwin.core.measures import MEASURES, Measure
from waxtwin.core.single import Single
from waxtwin.core.stops import EVENTS, ORDER
from waxtwin.core.units import figure
from waxtwin.library.stored import Clip
from waxtwin.ui.model.closeup import Closeup
from waxtwin.ui.model.pair_state import SIDES
from waxtwin.ui.shared.chalk_paint import paint_chalk
from waxtwin.ui.shared.chalk_place import StagePlace
from waxtwin.ui.shared.footage import STAGE, Footage, clip_for, clips_for, opened
from waxtwin.ui.shared.gauge_paint import paint_tag
from waxtwin.ui.shared.images import jpeg
from waxtwin.ui.shared.posed_figure import pose, seen_from
from waxtwin.ui.shared.theme import AMBER, LIGHT, TEAL, font

PICTURE = (800, 340)  # in points of the page
_HIGHEST = 460  # of a picture of clips that are shown whole
_FINE = 1.75  # pixels a point: pages are printed
FILM = (1280, 720)
FPS = 30
_SLOW = 8.0
_BEFORE, _AFTER = 0.25, 0.30  # s around landing and release that are shown slowly
_HOLD = 18  # pictures for which the clip stands still at landing and release
_STRIP = 96  # height of the seam below a clip's figures
_SEEN = ("peak_knee", "foot_contact", "release")
_INKS = {"athlete": LIGHT.athlete_soft, "twin": LIGHT.twin_soft}


@dataclass(frozen=True)
class PairImages:
    """A pair to be painted under the names that the reader sees; `footage` {side: clips} where it is wanted, which is
    all there is of a side without landmarks, looked at as near as its `closeups` {side: how near} say; `chalk` {side:
    marks} that somebody made.
    """

    pair: Contrast
    names: tuple[str, str]
    imperial: bool
    footage: Mapping[str, Sequence[Clip]] = field(default_factory=dict)
    chalk: Mapping[str, Sequence[Chalk]] = field(default_factory=dict)
    closeups: Mapping[str, Closeup] = field(default_factory=dict)

    def picture(self, stop: str, measures: Sequence[str]) -> bytes:
        """Both sides at a stop with the gauges of some measures, as a JPEG file: a side's clip where one shows them, or
        its figure. Raises ClipError.
        """
        lit, wide = [MEASURES[one] for one in measures], PICTURE[0] // 2
        with ExitStack() as open_:
            footage = {}
            for side in SIDES:
                clip = clip_for(self.footage.get(side, ()), measures, bare=side in self.pair.bare)
                footage[side] = open_.enter_context(_looked_into(clip, self._closeup(side)))
            tall = _height(wide, [footage[side] for side in self.pair.bare] if self.pair.bare == SIDES else [])
            image = _sheet((PICTURE[0], tall))
            with _painting(image, _FINE) as painter:
                for side, x in zip(SIDES, (0, wide), strict=True):
                    time, box = self._analysis(side).time(stop), QRectF(x, 0, wide, tall)
                    if time is not None:
                        self._paint_side(painter, box, side, time, lit, grow=4, framed=True, footage=footage[side])
                _divide(painter, (PICTURE[0], tall))
        return jpeg(image)

    def frames(self, measures: Sequence[str]) -> tuple[int, Iterator[np.ndarray]]:
        """How many pictures a clip has, and they: first at real time, then around landing and release slowly."""
        times = self._times()
        return len(times), self._filmed(times, measures)

    def _filmed(self, times: Sequence[tuple[float, bool]], measures: Sequence[str]) -> Iterator[np.ndarray]:
        lit = [MEASURES[one] for one in measures]
        with ExitStack() as open_:
            clips = clips_for(self.footage, measures, self.pair.bare)
            footage = {side: open_.enter_context(opened(clip, self._closeup(side))) for side, clip in clips.items()}
            for time, slow in times:
                yield self._frame(time, slow, lit, footage)

    def _times(self) -> list[tuple[float, bool]]:
        """The instants of a clip on the athlete's clock, and whether they pass slowly."""
        mine = self.pair.athlete
        first, last = (float(t) for t in mine.motion.times[[0, -1]])
        real = [(t, False) for t in np.arange(first, last, 1.0 / FPS)]
        landing, release = mine.time("landing"), mine.time("release")
        if landing is None or release is None:
            return real
        slow = []
        start, end = max(landing - _BEFORE, first), min(release + _AFTER, last)
        held = [landing, release]
        for t in np.arange(start, end, 1.0 / FPS / _SLOW):
            while held and t >= held[0]:
                slow += [(held.pop(0), True)] * _HOLD
            slow.append((float(t), True))
        return [*real, *slow]

    def _frame(self, time: float, slow: bool, lit: Sequence[Measure], footage: Mapping[str, Footage]) -> np.ndarray:
        image = _blank(FILM)
        alignment, height = self._alignment(), FILM[1] - _STRIP
        with _painting(image) as painter:
            for side, x in zip(SIDES, (0, FILM[0] // 2), strict=True):
                own = time if side == "athlete" else alignment.to_twin(time)
                times = self._analysis(side).motion.times
                own = float(np.clip(own, times[0], times[-1]))
                box = QRectF(x, 0, FILM[0] / 2, height)
                self._paint_side(painter, box, side, own, lit, grow=3, footage=footage.get(side))
            _divide(painter, (FILM[0], height))
            pace = "1/8 of real time" if slow else "real time"
            paint_tag(painter, QPointF(FILM[0] - 150, 22), pace, QColor(LIGHT.stage_ink))
            self._paint_seam(painter, QRectF(0, height, FILM[0], _STRIP), alignment, time)
        data = np.frombuffer(image.constBits(), np.uint8).reshape(FILM[1], FILM[0], 4)
        return data.copy()

    def _paint_side(
        self, painter: QPainter, box: QRectF, side: str, time: float, lit: Sequence[Measure], *,
        grow: float, footage: Footage | None = None, framed: bool = False,
    ) -> None:  # fmt: skip
        analysis = self._analysis(side)
        painter.save()
        painter.setClipRect(box)
        painter.translate(box.topLeft())
        size = box.width(), box.height()
        place = _shown(painter, size, analysis, time, lit, side, framed=framed, footage=footage)
        _mark(painter, place, analysis, self.chalk.get(side, ()), self.imperial)
        values = {item.id: self._value(side, item.id) for item in lit}
        _say(painter, size, side, self.names[SIDES.index(side)], values, self.imperial, grow)
        painter.restore()

    def _value(self, side: str, measure: str) -> float | None:
        row = self.pair.row(measure)
        return row.athlete if side == "athlete" else row.twin

    def _paint_seam(self, painter: QPainter, box: QRectF, alignment: Alignment, time: float) -> None:
        """Two rails with their stitches, and where the clip is."""
        painter.fillRect(box, QColor(LIGHT.paper))
        first, last = self._span()

        def x(t: float) -> float:
            return box.left() + 30 + (t - first) / (last - first) * (box.width() - 60)

        top, low = box.top() + 36, box.bottom() - 22
        for y, tint in ((top, AMBER), (low, TEAL)):
            wash = QColor(tint)
            wash.setAlpha(70)
            painter.fillRect(QRectF(box.left() + 30, y - 6, box.width() - 60, 12), wash)
        thread = QColor(LIGHT.thread)
        mine, theirs = self.pair.athlete.event_times, self.pair.twin.event_times
        for stop in (one for one in ORDER if one in mine and one in theirs):
            xa, xt = x(mine[stop]), x(alignment.to_athlete(theirs[stop]))
            path = QPainterPath(QPointF(xa, top))
            path.cubicTo(QPointF(xa, (top + low) / 2), QPointF(xt, (top + low) / 2), QPointF(xt, low))
            near = abs(mine[stop] - time) < 0.02
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(thread, 3.0 if near else 1.6))
            painter.drawPath(path)
            if stop in _SEEN:
                _centred(
                    painter, QPointF(xa, box.top() + 14), EVENTS[stop].short, thread if near else QColor(LIGHT.soft)
                )
        painter.setPen(QPen(QColor(LIGHT.ink), 2))
        at = min(max(x(time), box.left() + 30), box.right() - 30)
        painter.drawLine(QPointF(at, top - 12), QPointF(at, low + 12))

    def _span(self) -> tuple[float, float]:
        """What the rails show: from just before the lift to the finish, as far as it is known."""
        mine = self.pair.athlete
        times = mine.motion.times
        lift, end = mine.time("peak_knee"), mine.time("finish")
        first = float(times[0]) if lift is None else max(lift - 0.3, float(times[0]))
        last = float(times[-1]) if end is None else min(end + 0.1, float(times[-1]))
        return first, max(last, first + 0.1)

    def _alignment(self) -> Alignment:
        return align(self.pair.athlete.event_times, self.pair.twin.event_times, "all")

    def _analysis(self, side: str) -> Analysis:
        return self.pair.athlete if side == "athlete" else self.pair.twin

    def _closeup(self, side: str) -> Closeup:
        return self.closeups.get(side, Closeup())


@dataclass(frozen=True)
class SingleImages:
    """One delivery on its own, to be painted under the name that the reader sees, with the `chalk` marks on it;
    `footage` are its clips where they are wanted, `closeup` how near one is looked at where there are no landmarks.
    """

    single: Single
    name: str
    imperial: bool
    chalk: Sequence[Chalk] = ()
    footage: Sequence[Clip] = ()
    closeup: Closeup = field(default_factory=Closeup)

    def picture(self, stop: str, measures: Sequence[str]) -> bytes:
        """The delivery at a stop with the gauges of some measures, as a JPEG file: its clip where one shows them, or
        its figure. Raises ClipError.
        """
        lit, bare = [MEASURES[one] for one in measures], self.single.analysis.motion.is_bare
        analysis, side = self.single.analysis, self.single.side
        time, values = analysis.time(stop), {row.measure.id: row.athlete for row in self.single.rows}
        with _looked_into(clip_for(self.footage, measures, bare=bare), self.closeup) as footage:
            size = (PICTURE[0], _height(PICTURE[0], [footage] if bare else []))
            image = _sheet(size)
            if time is not None:
                with _painting(image, _FINE) as painter:
                    place = _shown(painter, size, analysis, time, lit, side, framed=True, footage=footage)
                    _mark(painter, place, analysis, self.chalk, self.imperial)
                    _say(painter, size, side, self.name, {one: values[one] for one in measures}, self.imperial, 4)
        return jpeg(image)


def _looked_into(clip: Clip | None, closeup: Closeup) -> AbstractContextManager[Footage | None]:
    """A clip, open, or None where there is none."""
    return nullcontext() if clip is None else opened(clip, closeup)


def _shown(
    painter: QPainter, size: tuple[float, float], analysis: Analysis, time: float, lit: Sequence[Measure], side: str, *,
    framed: bool, footage: Footage | None,
) -> StagePlace:  # fmt: skip
    """Paint a delivery at an instant with gauges, in its clip or as its figure. Returns where it lies."""
    if footage is not None:
        return footage.paint(painter, size, analysis, time, lit, framed=framed)
    if analysis.motion.is_bare:
        _centred(painter, QPointF(size[0] / 2, size[1] / 2), "its clip is not there", QColor(LIGHT.stage_ink))
        return StagePlace(analysis.motion, time, None, np.ones(3), None, None, 0, False)
    matrix = pose(painter, (int(size[0]), int(size[1])), analysis, time, lit, side, framed=framed)
    axis = 1 if lit and seen_from(lit[0]) == "front" else 0
    return StagePlace(analysis.motion, time, matrix, np.ones(3), None, None, axis, False)


def _mark(painter: QPainter, place: StagePlace, analysis: Analysis, chalk: Sequence[Chalk], imperial: bool) -> None:
    """The marks that somebody made and that are seen at this instant."""
    clip = "" if place.clip is None else place.clip.path.name
    for one in chalk:
        if one.seen_in(clip, place.time, analysis.event_times.get(one.stop), 1.0 / analysis.motion.rate):
            paint_chalk(painter, place, one, chosen=False, imperial=imperial)


def _say(
    painter: QPainter, size: tuple[float, float], side: str, name: str, values: Mapping[str, float | None],
    imperial: bool, grow: float,
) -> None:  # fmt: skip
    """Whose picture it is, and what its gauges say."""
    ink, width = QColor(_INKS[side]), size[0] - 28
    _name(painter, QPointF(12, 20), name, ink, width, grow)
    for n, (measure, value) in enumerate(values.items()):
        item = MEASURES[measure]
        words = f"{item.label} {figure(value, item.unit, imperial)}"
        _name(painter, QPointF(12, size[1] - 18 - 26 * n), words, ink, width, grow - 2)


def _height(wide: int, whole: Sequence[Footage | None]) -> int:
    """How high a picture is in which a side is `wide`: as the usual one is, or as clips shown whole or near ask for."""
    sizes = [(one.reader.size, one.closeup.zoom) for one in whole if one is not None]
    asked = [wide * (STAGE if zoom > 1.0 else size[1] / size[0]) for size, zoom in sizes]
    return round(min(max(asked), _HIGHEST)) if asked else PICTURE[1]


def _sheet(size: tuple[int, int]) -> QImage:
    """To be painted in points of the page."""
    return _blank((round(size[0] * _FINE), round(size[1] * _FINE)))


def _blank(size: tuple[int, int]) -> QImage:
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(QColor(LIGHT.stage))
    return image


@contextmanager
def _painting(image: QImage, fine: float = 1.0) -> Iterator[QPainter]:
    """Paint with `fine` pixels a point; the picture is let go of whatever happens."""
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(fine, fine)
    try:
        yield painter
    finally:
        painter.end()


def _divide(painter: QPainter, size: tuple[int, int]) -> None:
    painter.setPen(QPen(QColor(LIGHT.paper), 3))
    painter.drawLine(size[0] // 2, 0, size[0] // 2, size[1])


def _name(painter: QPainter, at: QPointF, text: str, ink: QColor, width: float, grow: float) -> None:
    """Words on a plate, cut to the width there is."""
    painter.setFont(font(grow, QFont.Weight.DemiBold))
    text = painter.fontMetrics().elidedText(" ".join(text.split()), Qt.TextElideMode.ElideRight, int(width) - 20)
    paint_tag(painter, at, text, ink, grow)


def _centred(painter: QPainter, at: QPointF, text: str, ink: QColor) -> None:
    painter.setFont(font(0))
    painter.setPen(ink)
    painter.drawText(QRectF(at.x() - 80, at.y() - 10, 160, 20), Qt.AlignmentFlag.AlignCenter, text)
