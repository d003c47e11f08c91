"""A throw in one small picture: the pitcher at foot contact, filmed, or as the wax figure where there is no clip."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QColor, QImage, QPainter

from waxtwin.core.analysis import Analysis, analyse
from waxtwin.core.camera import project
from waxtwin.core.errors import WaxTwinError
from waxtwin.core.landmarks import INDEX
from waxtwin.library.stored import Clip, StoredDelivery
from waxtwin.ui.shared.framing import Framing
from waxtwin.ui.shared.posed_figure import pose
from waxtwin.ui.shared.theme import LIGHT

SMALL = (120, 76)  # px; shown at half of it where a screen is not finer
_STOP = "foot_contact"
_NOBODY = "twin4"  # in the tone of no side yet
_NEAR = 1.45  # how near a clip is looked at, where it is known where the body is
_HIPS = [INDEX["drive_hip"], INDEX["lead_hip"]]


def small_picture(stored: StoredDelivery) -> QImage | None:
    """The picture of a throw, or None where there is nothing to be seen. Raises WaxTwinError."""
    analysis = analyse(stored.delivery)
    times = analysis.motion.times
    event = analysis.proposal(_STOP)
    time = float(times[len(times) // 2]) if event is None else event.time
    image = QImage(*SMALL, QImage.Format.Format_RGB32)
    image.fill(QColor(LIGHT.stage))
    painter = QPainter(image)
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    try:
        for clip in stored.clips:
            if _paint_frame(painter, clip, analysis, time):
                return image
        if stored.delivery.track.is_bare:
            return None
        pose(painter, SMALL, analysis, time, (), _NOBODY, framed=True)
        return image
    finally:
        painter.end()


def _paint_frame(painter: QPainter, clip: Clip, analysis: Analysis, time: float) -> bool:
    """Paint the clip's frame of an instant; False where it cannot be read."""
    from waxtwin.capture.clip import ClipReader

    try:
        with ClipReader(clip.path) as reader:
            picture = reader.read(reader.nearest(clip.clock.to_clip(time)))
    except (WaxTwinError, OSError):
        return False
    tall, wide = picture.shape[:2]
    framing = Framing.fit((wide, tall), SMALL, clip.camera, analysis.motion.height, flips=False)
    body, matrix = analysis.motion.body_at(time), framing.matrix()
    if matrix is not None and np.isfinite(body[_HIPS]).all():
        x, y = project(matrix, body[_HIPS])[0].mean(axis=0)
        w, h = SMALL
        framing = framing.nearer(
            np.array([[_NEAR, 0, w / 2 - _NEAR * x], [0, _NEAR, 0.56 * h - _NEAR * y], [0, 0, 1.0]])
        )
    framing.draw(painter, QImage(picture.data, wide, tall, picture.strides[0], QImage.Format.Format_RGB32))
    return True
