"""Clips of a simulated delivery, filmed by simulated cameras and encoded small."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from waxtwin.core.camera import look_at
from waxtwin.core.landmarks import INDEX
from waxtwin.simulate.delivery import SimulatedDelivery
from waxtwin.simulate.hall import backdrop
from waxtwin.simulate.render import KITS, draw

SIZE = (1280, 720)
_GRAVITY = 9.81


@dataclass(frozen=True)
class SimulatedCamera:
    """A camera's name as the sidecar has it and its projection."""

    view: str
    matrix: np.ndarray


def cameras(throws: str) -> dict[str, SimulatedCamera]:
    """The open-side, front and rear cameras for a right- or a left-hander."""
    side = -1.0 if throws == "R" else 1.0
    places = {
        "side": ("open side", (0.85, side * 8.0, 1.15), (0.85, 0.0, 0.86), 2050.0),
        "front": ("front", (17.2, 0.0, 1.55), (0.3, 0.0, 0.86), 4300.0),
        "rear": ("rear", (-7.5, -0.4 * side, 2.1), (1.2, 0.0, 0.75), 1900.0),
    }
    return {
        key: SimulatedCamera(view, look_at(np.array(position), np.array(target), focal, SIZE))
        for key, (view, position, target, focal) in places.items()
    }


def film(
    delivery: SimulatedDelivery,
    camera: SimulatedCamera,
    path: Path,
    *,
    fps: float = 240.0,
    release: float,
    kit: str = "amber",
    preset: str = "slow",
    progress: Callable[[float], None] = lambda _: None,
) -> None:
    """Film the delivery to an H.264 file of `fps` frames a second; frame k shows the instant k / fps.

    `preset` is the encoder's: slow makes small files.
    """
    times = np.arange(0.0, delivery.times[-1], 1.0 / fps)
    points = delivery.sample(times)
    balls = ball_path(delivery, times, points, release)
    hall, left = backdrop(camera.matrix, SIZE), delivery.params.throws == "L"
    with av.open(str(path), "w") as container:
        rate = Fraction(fps).limit_denominator(1001)
        stream = container.add_stream("libx264", rate=rate)
        stream.width, stream.height = SIZE
        stream.pix_fmt = "yuv420p"
        stream.options = {"crf": "27", "preset": preset, "g": "24", "bf": "0", "tune": "animation"}
        for i in range(times.size):
            ball = balls[i] if times[i] > release else None
            picture = draw(hall, camera.matrix, points[i], delivery.params.height, KITS[kit], ball, mirrored=left)
            for packet in stream.encode(av.VideoFrame.from_ndarray(picture, format="bgr24")):
                container.mux(packet)
            progress((i + 1) / times.size)
        for packet in stream.encode():
            container.mux(packet)


def ball_path(delivery: SimulatedDelivery, times: np.ndarray, points: np.ndarray, release: float) -> np.ndarray:
    """Ball centre `(frames, 3)`: in the fingers until release, then in free flight toward the plate."""
    wrist, hand = points[:, INDEX["throwing_wrist"]], points[:, INDEX["throwing_hand"]]
    held = hand + 0.55 * (hand - wrist)
    end, before = delivery.sample(np.array([release, release - 0.002]))[:, INDEX["throwing_hand"]]
    speed = float(np.linalg.norm(end - before)) / 0.002 * delivery.params.ball_hand_ratio
    start = held[np.searchsorted(times, release) - 1]
    aim = np.array([18.2, 0.0, 0.7]) - start
    velocity = speed * aim / np.linalg.norm(aim)
    after = np.maximum(times - release, 0.0)[:, None]
    flight = start + velocity * after - 0.5 * _GRAVITY * after**2 * np.array([0, 0, 1.0])
    return np.asarray(np.where(times[:, None] > release, flight, held))
